"""What the Trace screen shows, put together from the job's sheet and standing readings."""

from __future__ import annotations

import sqlite3
from dataclasses import dataclass, replace

from flask import abort

from ..core.circuit.layout import Path
from ..core.circuit.sheet import Sheet
from ..core.errors import PondrelError
from ..core.isolate.advise import Advice, Expectation, expectations
from ..core.isolate.evidence import KINDS, Finding, Item, item_of, outcomes_of, subjects_of
from ..core.isolate.explain import Matrix, matrix, plain_severity
from ..core.isolate.line import parse_line, starts_a_line
from ..core.isolate.offer import Check
from ..core.isolate.orders import led_by
from ..core.isolate.report import Isolation, Suspect
from ..core.isolate.responses import Workup
from ..core.quantity import parse_reading
from ..store.conclusions import Conclusion, conclusions_of
from ..store.jobs import Job, get_job
from ..store.readings import StoredReading, readings_of
from ..store.sheets import StoredSheet, get_sheet
from ..store.vehicles import Vehicle, get_vehicle
from .figures import DescentFigure, Diagram, descent_figure, diagram
from .words import meter_sigmas, reading_text
from .workups import Plan, workups

__all__ = ["Docket", "Drawn", "Entry", "LogLine", "Trace", "checked_item", "docket_of", "last_state", "replay", "trace_of"]

SHOWN_SUSPECTS, MATRIX_COLUMNS, PLAIN_SEVERITIES = 8, 4, 3
VIEWS = ("descent", "why", "plan")
_WEIGHED = 12  # suspects whose outcomes are told


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
    items: tuple[Item, ...]
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
    """What the evidence form holds: filled from the proposed test, kept as typed after an error. ``value`` is a number or a whole line."""

    state: str
    instrument: str
    red: str
    black: str
    value: str = ""
    note: str = ""
    error: str = ""


@dataclass(frozen=True, slots=True)
class Accused:
    """A part as a suspect: probability over all its modes, the leading mode, its severity in plain words, every mode worth showing; and
    what it was at the moment that is compared with, None where none is."""

    name: str | None
    title: str
    probability: float
    lead: Suspect
    severity: str
    modes: tuple[Suspect, ...]
    before: float | None


@dataclass(frozen=True, slots=True)
class Drawn:
    """What a person chose: the state and the path to draw, the number of items to compare with, what to see below the test (``descent``,
    ``why``, ``plan``), which of the proposed tests to take, and the order of attack."""

    state: str = ""
    load: str = ""
    since: str = ""
    view: str = ""
    take: str = ""
    order: str = "best"


@dataclass(frozen=True)
class Trace:
    """Everything on the Trace screen."""

    docket: Docket
    isolation: Isolation
    entry: Entry
    proposed: Advice | None
    order: str
    proposals: tuple[Advice, ...]
    taken: int
    outcome_words: tuple[str, ...]
    view: str
    state: str
    load: str
    since: int | None
    paths: tuple[Path, ...]
    diagram: Diagram
    descent: DescentFigure
    descent_suspect: str | None
    accused: tuple[Accused, ...]
    beyond: tuple[Suspect, ...]
    why: Matrix | None
    plan: Plan | None
    separators: tuple[str, ...]
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
    items = workups().items(stored, log)
    return Docket(job, vehicle, stored, workup, log, items, tuple(conclusions_of(conn, job_id)))


def trace_of(docket: Docket, drawn: Drawn | None = None, entry: Entry | None = None) -> Trace:
    """The Trace screen's contents; what is drawn is chosen for the person who chooses nothing."""
    with workups().alone(docket.stored_sheet):
        return _trace_of(docket, drawn or Drawn(), entry)


def _trace_of(docket: Docket, drawn: Drawn, entry: Entry | None) -> Trace:
    sheet = docket.sheet
    isolation = workups().isolation(docket.stored_sheet, docket.items)
    proposals = led_by(isolation.belief, drawn.order, isolation.next, isolation.standing.named)
    taken = int(drawn.take) - 1 if drawn.take.isdecimal() and 0 < int(drawn.take) <= len(proposals) else 0
    proposed = proposals[taken] if proposals else None
    entry = entry or _entry(docket, proposed)
    shown = next(s for s in (drawn.state, entry.state, *sheet.states) if s in sheet.states)
    paths = docket.workup.paths
    path = next((p for p in paths if p.load == drawn.load), None) or _path_for(paths, isolation, entry)
    found = workups().descent(docket.stored_sheet, docket.items, path, shown)
    since = int(drawn.since) if drawn.since.isdecimal() and int(drawn.since) < len(docket.items) else None
    accused = _accused(docket, isolation, since)
    leads = tuple(a.lead for a in accused[:MATRIX_COLUMNS])
    return Trace(
        docket=docket,
        isolation=isolation,
        entry=entry,
        proposed=proposed,
        order=drawn.order,
        proposals=proposals,
        taken=taken,
        outcome_words=_outcome_words(sheet, proposed, entry),
        view=drawn.view if drawn.view in VIEWS else VIEWS[0],
        state=shown,
        load=path.load,
        since=since,
        paths=paths,
        diagram=diagram(
            sheet, workups().frame(docket.stored_sheet), workups().sound(docket.stored_sheet, shown), found.sound, isolation.parts
        ),
        descent=descent_figure(found),
        descent_suspect=found.suspect,
        accused=accused,
        beyond=tuple(s for s in isolation.suspects if s.kind != "single" and s.probability >= 0.005)[:4],
        why=matrix(isolation, leads) if docket.items and drawn.view == "why" else None,
        plan=workups().plan(docket.stored_sheet, docket.items) if drawn.view == "plan" and not docket.concluded else None,
        separators=_separators(sheet, isolation.standing.target),
        log=_log(docket, isolation),
        outcomes=_outcomes(isolation, proposed),
    )


def _outcome_words(sheet: Sheet, proposed: Advice | None, entry: Entry) -> tuple[str, ...]:
    """The words that answer the proposed check with one touch; none for a number."""
    test = proposed.test if proposed else None
    if not isinstance(test, Check) or (entry.instrument, entry.red) != (test.kind, test.subject):
        return ()
    return tuple(outcomes_of(sheet, test.kind, test.subject))


def _separators(sheet: Sheet, group: tuple[str, ...]) -> tuple[str, ...]:
    """What would tell the parts of a group apart: unplugging, swapping, opening a place between them."""
    if len(group) < 2:
        return ()
    made: list[str] = []
    plugged = [name for name in group if sheet.parts[name].kind.load is not None or sheet.parts[name].kind.holder]
    if plugged:
        made.append(f"Unplug or swap {plugged[0]} and say what happened: swap {plugged[0]} gone, or swap {plugged[0]} no change.")
    nodes = [set(sheet.parts[name].pins.values()) for name in group]
    between = sorted({n for i, one in enumerate(nodes) for other in nodes[i + 1 :] for n in one & other} - set(sheet.places))
    if between:
        made.append(f"Open a place at {between[0]}: it lies between them.")
    joints = [name for name in group if sheet.parts[name].kind.joint]
    if joints:
        made.append(f"Wiggle {joints[0]} while the circuit works and watch: wiggle {joints[0]} changed, or no change.")
    return tuple(made) or ("Open a place between them.",)


def _entry(docket: Docket, proposed: Advice | None) -> Entry:
    sheet = docket.sheet
    if proposed:
        test = proposed.test
        return Entry(test.state or last_state(docket), test.instrument, test.red, test.black)
    return Entry(last_state(docket), "volts", sheet.plus, sheet.minus)


def last_state(docket: Docket) -> str:
    """The state in which the vehicle was left."""
    return next((item.state for item in reversed(docket.items) if item.state), next(iter(docket.sheet.states)))


def _path_for(paths: tuple[Path, ...], isolation: Isolation, entry: Entry) -> Path:
    """The path worth looking at: the leading suspect's once it stands out, else the one that the proposed test probes."""
    lead = next(s for s in isolation.suspects if s.part)
    stands_out = lead.probability > 0.3
    return max(paths, key=lambda p: (stands_out and lead.part in p.parts, entry.red in p.nodes, -paths.index(p)))


def _accused(docket: Docket, isolation: Isolation, since: int | None) -> tuple[Accused, ...]:
    before = workups().isolation(docket.stored_sheet, docket.items[:since]).parts if since is not None else None
    by_part: dict[str | None, list[Suspect]] = {name: [] for name in isolation.parts}
    for suspect in isolation.suspects:
        if suspect.kind == "single":
            by_part[suspect.part].append(suspect)
    made: list[Accused] = []
    for name, p in isolation.parts.items():
        if name is not None and len(made) >= SHOWN_SUSPECTS:
            continue
        modes = tuple(by_part[name])
        title = "Nothing on this sheet" if name is None else name
        shown = tuple(s for s in modes if s.probability > 0.01 * p)
        severity = plain_severity(isolation.belief, modes[0]) if docket.items and len(made) < PLAIN_SEVERITIES and p > 0.01 else ""
        made.append(Accused(name, title, p, modes[0], severity, shown, before[name] if before else None))
    return tuple(made)


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
    if isinstance(proposed.test, Check):
        return _word_outcomes(isolation, proposed)
    meter = proposed.test.instrument
    weight = {(s.part, s.mode): s.probability for s in isolation.suspects if s.kind == "single"}
    clusters: list[list[Expectation]] = []
    told = sorted(expectations(isolation.belief, proposed.test, _WEIGHED), key=lambda e: e.value)
    reach = [0.0, *(2.0 * meter_sigmas(meter, [e.value for e in told]))]  # of the one before
    for e, far in zip(told, reach, strict=False):
        if clusters and (e.value == clusters[-1][-1].value or e.value - clusters[-1][-1].value < far):
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


def _word_outcomes(isolation: Isolation, proposed: Advice) -> tuple[tuple[str, tuple[str, ...], float], ...]:
    weight = {(s.part, s.mode): s.probability for s in isolation.suspects if s.kind == "single"}
    made: dict[str, list[Expectation]] = {}
    for e in expectations(isolation.belief, proposed.test, _WEIGHED):
        made.setdefault(e.word, []).append(e)
    rows = [
        (word, tuple(dict.fromkeys(e.part or "nothing wrong" for e in found)), sum(weight[e.part, e.mode] for e in found))
        for word, found in made.items()
    ]
    return tuple(sorted(rows, key=lambda row: -row[2]))


@dataclass(frozen=True, slots=True)
class Step:
    """A reading in the replay: what led after it."""

    number: int
    stored: StoredReading
    lead: str
    probability: float


def replay(docket: Docket) -> tuple[Step, ...]:
    """The job again from its first item: after each, the part that led. Struck items are left out."""
    steps = []
    standing = [r for r in docket.log if r.struck is None]
    for n, stored in enumerate(standing, 1):
        parts = workups().belief(docket.stored_sheet, docket.items[:n]).parts()
        name, p = next(iter(parts.items()))
        steps.append(Step(n, stored, name or "nothing on this sheet", p))
    return tuple(steps)


def checked_item(docket: Docket, entry: Entry) -> tuple[Item, str]:
    """The entry as a reading or finding, and what is written down as its value. A number, or an outcome's word, goes to the test that is
    chosen; anything else is a line of its own.

    Raises PondrelError with one sentence.
    """
    if docket.concluded:
        raise PondrelError("This job is concluded: reopen it with a reason before you add readings.")
    sheet, text = docket.sheet, " ".join(entry.value.split())
    state = entry.state or last_state(docket)
    if entry.instrument in KINDS and text.lower() in _words(sheet, entry):
        item = item_of(sheet, entry.state, entry.instrument, entry.red, "", text, entry.note)
        return item, item.outcome if isinstance(item, Finding) else text
    if entry.instrument in KINDS and text[:1].isdigit():
        parse_reading(text, next((unit for unit in "ΩA" if text.endswith(unit)), "V"))  # what is no number says so first
        asked = " or ".join(outcomes_of(sheet, entry.instrument, entry.red))
        line = f"volts {next(p for p in sheet.places if p != sheet.minus)} {text}"
        raise PondrelError(f"{text} is a number, but asked is {entry.red}: {asked}. A number names its instrument and place: {line}.")
    if entry.instrument in KINDS or starts_a_line(sheet, text):
        item, typed = parse_line(sheet, text, state)
        item = replace(item, note=entry.note)
        return item, item.outcome if isinstance(item, Finding) else typed
    return item_of(sheet, entry.state, entry.instrument, entry.red, entry.black, entry.value, entry.note), entry.value


def _words(sheet: Sheet, entry: Entry) -> set[str]:
    subjects = subjects_of(sheet, entry.instrument)
    if subjects is not None and entry.red not in subjects:
        return set()
    return {word for name, others in outcomes_of(sheet, entry.instrument, entry.red).items() for word in (name, *others)}
