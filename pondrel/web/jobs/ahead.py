"""From what a bus or a module told to a circuit: what to measure next once it is evidence there, and the way into the job."""

from __future__ import annotations

import sqlite3
from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field, replace

from ...core.circuit.sheet import Sheet
from ...core.evidence.asked import Measurement
from ...core.evidence.items import Item
from ...core.evidence.line import parse_line
from ...core.evidence.registry import content_of, sort_of
from ...core.isolate import ladder, likely_outcomes, path_worth_drawing
from ...store.bay import refresh_job
from ...store.carry import carry
from ...store.entries import add_entry
from ...store.own_drawings import own_drawing_of
from ...store.sheets import StoredSheet, get_sheet
from ...store.traces import add_trace
from ..shell.attempt import attempt
from ..shell.database import get_db
from ..shell.ladder import LadderFigure, ladder_figure
from ..shell.titles import measured, part_or_place
from ..shell.who import me
from ..shell.words import reading_text
from ..shell.workups import workups
from .docket import Record, docket_in, record_of

__all__ = ["Ahead", "items_of_lines", "look_ahead", "said_of", "take_up"]

_NAMED = 1
_ALIKE = 0.05  # V that make no difference where it is said what to expect


@dataclass(frozen=True, slots=True)
class Ahead:
    """The next test on a circuit in words with its ``place`` and minutes, what its outcomes would mean, the sheet's caution, how the
    suspicion is shared, by part, and why nothing can be said; the ``ladder`` of its branch in the ``state`` of that test."""

    test: str = ""
    place: str = ""
    minutes: float = 0.0
    outcomes: Sequence[tuple[str, str]] = ()
    caution: str = ""
    error: str = ""
    shares: Mapping[str, float] = field(default_factory=dict)
    ladder: LadderFigure | None = None
    state: str = ""


def items_of_lines(sheet: Sheet, lines: str) -> list[tuple[Item, str]]:
    """The evidence of lines. Raises ReadingError for one that the sheet does not know."""
    return [parse_line(sheet, line, next(iter(sheet.states))) for line in lines.splitlines() if line.strip()]


def look_ahead(stored: StoredSheet, lines: str, record: Record | None) -> Ahead:
    """What to measure next on a circuit where ``lines`` are evidence beside what a job knows of it already."""

    def look() -> Ahead:
        sheet = workups().sheet(stored)
        known = _known_items(record, stored.id) or ()
        items = (*known, *(item for item, _ in items_of_lines(sheet, lines) if not any(_alike(item, own) for own in known)))
        isolation = workups().isolation(stored, items)
        advice = isolation.next[0] if isolation.next else None
        shares: dict[str, float] = {}
        for one in isolation.suspects:
            if one.part is not None:
                shares[one.part] = shares.get(one.part, 0.0) + one.probability
        found = Ahead(caution=sheet.caution if isinstance(sheet.caution, str) else "", shares=shares)
        if advice is None:
            return found
        test = advice.test
        place = part_or_place(sheet, test.red)
        rows: list[tuple[str, str]] = []
        for outcome in likely_outcomes(isolation, test):
            if not outcome.parts or len(rows) == 2:
                continue
            text = outcome.word or _span(outcome.low, outcome.high, test.instrument)
            named = [sheet.parts[part].called if part else "nothing wrong" for part in outcome.parts]
            others = len(named) - _NAMED
            more = f" or {others} other{'s' if others > 1 else ''}" if others > 0 else ""
            rows.append((text, ", ".join(named[:_NAMED]) + more))
        other = isinstance(test, Measurement) and test.black not in ("", sheet.minus)
        where = f"{measured(test.instrument)} at {place}" + (f", against {part_or_place(sheet, test.black)}" if other else "")
        path = path_worth_drawing(workups().workup(stored).paths, isolation, test.red)
        rungs = ladder(sheet, isolation, workups().descent(stored, items, path, test.state))
        leads = (test.red, test.black) if isinstance(test, Measurement) else ("", "")
        figure = ladder_figure(sheet, rungs, workups().sound(stored, test.state), *leads)
        return replace(
            found,
            test=measured(test.instrument),
            place=where,
            minutes=advice.minutes,
            outcomes=tuple(rows),
            ladder=figure,
            state=test.state,
        )

    found, wrong = attempt(look)
    return found if found is not None else Ahead(error=str(wrong))


def _alike(item: Item, other: Item) -> bool:
    """Whether two items say the same, whatever is noted beside them."""
    return sort_of(item) is sort_of(other) and said_of(item) == said_of(other)


def said_of(item: Item) -> dict[str, object]:
    """What an item says, without what is noted beside it."""
    return {name: text for name, text in content_of(item, "").items() if name != "note"}


def _known_items(record: Record | None, sheet_id: int) -> tuple[Item, ...] | None:
    """What a job knows of a circuit already; None where it does not trace it."""
    trace = next((own for own in record.traces if own.sheet_id == sheet_id), None) if record is not None else None
    return docket_in(get_db(), record, trace).items if record is not None and trace is not None else None


def _span(low: float, high: float, meter: str) -> str:
    if meter == "volts" and high - low < _ALIKE:
        low = high = round((low + high) / 2.0, 1)
    first, last = reading_text(low, meter), reading_text(high, meter)
    return first if first == last else f"{first} to {last}"


def take_up(conn: sqlite3.Connection, job_id: int, stored: StoredSheet, lines: str, note: str) -> int:
    """Take a circuit up in a job with ``lines`` as evidence, each once; the number of its trace. To be called within a transaction."""
    record = record_of(conn, job_id)
    own = own_drawing_of(conn, record.vehicle.id, stored.id) or stored.id
    trace = next((one for one in record.traces if one.sheet_id == own), None)
    if trace is None:
        trace_id, number = add_trace(conn, job_id, own, me()), len(record.traces) + 1
    else:
        trace_id, number = trace.id, trace.number
    known = _known_items(record, own) or ()
    for item, value in items_of_lines(workups().sheet(get_sheet(conn, own) or stored), lines):
        if not any(_alike(item, one) for one in known):
            content = {**content_of(item, value), "note": note[:400]}
            add_entry(conn, job_id, sort_of(item).name, content, trace_id=trace_id, person=me())
    carry(conn, job_id, me())
    refresh_job(conn, job_id)
    return number
