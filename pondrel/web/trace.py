"""What the Trace screen shows, put together from the job's sheet and standing readings."""

from __future__ import annotations

import sqlite3
from dataclasses import dataclass

from flask import abort

from ..core.circuit.layout import Path
from ..core.circuit.sheet import Sheet
from ..core.circuit.solve import solve
from ..core.errors import PondrelError
from ..core.isolate.advise import Advice, Expectation, expectations
from ..core.isolate.descent import descent, expected_volts
from ..core.isolate.evidence import Reading, reading_of
from ..core.isolate.report import Isolation, Suspect
from ..core.isolate.responses import Workup
from ..store.conclusions import Conclusion, conclusions_of
from ..store.jobs import Job, get_job
from ..store.readings import StoredReading, readings_of
from ..store.sheets import StoredSheet, get_sheet
from ..store.vehicles import Vehicle, get_vehicle
from .figures import DescentFigure, Diagram, descent_figure, diagram
from .words import meter_sigma, reading_text
from .workups import workups

__all__ = ["Docket", "Entry", "LogLine", "Trace", "checked_reading", "docket_of", "replay", "trace_of"]


SHOWN_SUSPECTS = 8


@dataclass(frozen=True)
class LogLine:
    """A reading in the log: ``number`` counts the standing ones, None when struck out."""

    stored: StoredReading
    number: int | None
    misfit: str
    basis: bool


@dataclass(frozen=True)
class Docket:
    """A job with all that belongs to it."""

    job: Job
    vehicle: Vehicle
    stored_sheet: StoredSheet
    workup: Workup
    log: tuple[StoredReading, ...]
    readings: tuple[Reading, ...]
    conclusions: tuple[Conclusion, ...]

    @property
    def sheet(self) -> Sheet:
        """The circuit."""
        return self.workup.sheet

    @property
    def concluded(self) -> Conclusion | None:
        """The conclusion that stands."""
        return next((c for c in reversed(self.conclusions) if c.reopened is None), None)

    @property
    def standing_ids(self) -> tuple[int, ...]:
        """Ids of the readings that are not struck out, in order: reading n has the id at n − 1."""
        return tuple(r.id for r in self.log if r.struck is None)


@dataclass(frozen=True, slots=True)
class Entry:
    """What the reading form holds: filled from the proposed test, kept as typed after an error."""

    state: str
    instrument: str
    red: str
    black: str
    value: str = ""
    note: str = ""
    error: str = ""


@dataclass(frozen=True, slots=True)
class Accused:
    """A part as a suspect: probability over all its modes, the leading mode, and every mode worth showing."""

    name: str | None
    title: str
    probability: float
    lead: Suspect
    modes: tuple[Suspect, ...]


@dataclass(frozen=True)
class Trace:
    """Everything on the Trace screen."""

    docket: Docket
    isolation: Isolation
    entry: Entry
    state: str
    load: str
    paths: tuple[Path, ...]
    diagram: Diagram
    descent: DescentFigure
    descent_suspect: str | None
    accused: tuple[Accused, ...]
    log: tuple[LogLine, ...]
    outcomes: tuple[tuple[str, tuple[str, ...], float], ...]


def docket_of(conn: sqlite3.Connection, job_id: int) -> Docket:
    """A job by id; 404 when there is none."""
    job = get_job(conn, job_id)
    if job is None:
        abort(404)
    vehicle, stored = get_vehicle(conn, job.vehicle_id), get_sheet(conn, job.sheet_id)
    assert vehicle is not None and stored is not None  # foreign keys hold this
    workup = workups().workup(stored)
    log = tuple(readings_of(conn, job_id))
    readings = tuple(reading_of(workup.sheet, r.state, r.instrument, r.red, r.black, r.typed, r.note) for r in log if r.struck is None)
    return Docket(job, vehicle, stored, workup, log, readings, tuple(conclusions_of(conn, job_id)))


def trace_of(docket: Docket, state: str = "", load: str = "", entry: Entry | None = None) -> Trace:
    """The Trace screen's contents; ``state`` and ``load`` choose what is drawn, the proposed test's state where they are empty."""
    sheet = docket.sheet
    isolation = workups().isolation(docket.stored_sheet, docket.readings)
    proposed = isolation.next[0] if isolation.next else None
    entry = entry or _entry(docket, proposed)
    shown = next(s for s in (state, entry.state, *sheet.states) if s in sheet.states)
    paths = docket.workup.paths
    path = next((p for p in paths if p.load == load), None) or _path_for(paths, isolation, entry)
    belief = isolation.belief
    volts = {node: v for node, (v, _) in expected_volts(belief, shown).items()}
    found = descent(belief, path, shown)
    parts = belief.parts()
    return Trace(
        docket=docket,
        isolation=isolation,
        entry=entry,
        state=shown,
        load=path.load,
        paths=paths,
        diagram=diagram(sheet, solve(sheet, shown), volts, parts),
        descent=descent_figure(found),
        descent_suspect=found.suspect,
        accused=_accused(sheet, isolation, parts),
        log=_log(docket, isolation),
        outcomes=_outcomes(isolation, proposed),
    )


def _entry(docket: Docket, proposed: Advice | None) -> Entry:
    sheet = docket.sheet
    if proposed:
        return Entry(proposed.test.state, proposed.test.instrument, proposed.test.red, proposed.test.black)
    state = docket.readings[-1].state if docket.readings else next(iter(sheet.states))
    return Entry(state, "volts", sheet.plus, sheet.minus)


def _path_for(paths: tuple[Path, ...], isolation: Isolation, entry: Entry) -> Path:
    """The path worth looking at: the leading suspect's once it stands out, else the one that the proposed test probes."""
    lead = next(s for s in isolation.suspects if s.part)
    stands_out = lead.probability > 0.3
    return max(paths, key=lambda p: (stands_out and lead.part in p.parts, entry.red in p.nodes, -paths.index(p)))


def _accused(sheet: Sheet, isolation: Isolation, parts: dict[str | None, float]) -> tuple[Accused, ...]:
    made = []
    for name, p in parts.items():
        modes = tuple(s for s in isolation.suspects if s.part == name)
        title = "Nothing on this sheet" if name is None else name
        made.append(Accused(name, title, p, modes[0], tuple(s for s in modes if s.probability > 0.01 * p)))
    return tuple(a for i, a in enumerate(made) if i < SHOWN_SUSPECTS or a.name is None)


def _log(docket: Docket, isolation: Isolation) -> tuple[LogLine, ...]:
    misfits = {m.reading: m.says for m in isolation.misfits}
    lines, number = [], 0
    for stored in docket.log:
        if stored.struck is not None:
            lines.append(LogLine(stored, None, "", False))
            continue
        lines.append(LogLine(stored, number + 1, misfits.get(number, ""), number in isolation.standing.proof))
        number += 1
    return tuple(reversed(lines))


def _outcomes(isolation: Isolation, proposed: Advice | None) -> tuple[tuple[str, tuple[str, ...], float], ...]:
    """What the proposed test's number would speak for: shown value or range, suspects, their probability together; likeliest first.

    Values that the meter would hardly tell apart stand together.
    """
    if proposed is None:
        return ()
    meter = proposed.test.instrument
    weight = {(s.part, s.mode): s.probability for s in isolation.suspects}
    clusters: list[list[Expectation]] = []
    for e in sorted(expectations(isolation.belief, proposed.test, 12), key=lambda e: e.value):
        near = clusters and (
            e.value == clusters[-1][-1].value or e.value - clusters[-1][-1].value < 2 * meter_sigma(meter, clusters[-1][-1].value)
        )
        if near:
            clusters[-1].append(e)
        else:
            clusters.append([e])
    made = []
    for cluster in clusters:
        low, high = (reading_text(e.value, meter) for e in (cluster[0], cluster[-1]))
        number, _, unit = low.partition(" ")
        span = low if low == high else f"{number if high.endswith(unit) else low} – {high}"
        names = dict.fromkeys(e.part or "nothing wrong" for e in sorted(cluster, key=lambda e: -weight[(e.part, e.mode)]))
        made.append((span, tuple(names), sum(weight[(e.part, e.mode)] for e in cluster)))
    return tuple(sorted(made, key=lambda o: -o[2])[:6])


@dataclass(frozen=True, slots=True)
class Step:
    """A reading in the replay: what led after it."""

    number: int
    stored: StoredReading
    lead: str
    probability: float


def replay(docket: Docket) -> tuple[Step, ...]:
    """The job again from its first reading: after each, the part that led. Struck readings are left out."""
    steps = []
    standing = [r for r in docket.log if r.struck is None]
    for n, stored in enumerate(standing, 1):
        parts = workups().belief(docket.stored_sheet, docket.readings[:n]).parts()
        name, p = next(iter(parts.items()))
        steps.append(Step(n, stored, name or "nothing on this sheet", p))
    return tuple(steps)


def checked_reading(docket: Docket, entry: Entry) -> Reading:
    """The entry as a reading; raises PondrelError with one sentence."""
    if docket.concluded:
        raise PondrelError("This job is concluded: reopen it with a reason before you add readings.")
    return reading_of(docket.sheet, entry.state, entry.instrument, entry.red, entry.black, entry.value, entry.note)
