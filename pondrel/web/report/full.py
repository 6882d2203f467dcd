"""The record for the next workshop: every line, struck ones too, the captures, the circuits as they stand, and the meters."""

from __future__ import annotations

from dataclasses import dataclass
from xml.etree.ElementTree import ParseError

from ...core.job.changes import cuts
from ...core.job.entry import Entry
from ...core.job.kinds import ended_of, is_evidence, title_of, words_of
from ...store.corrections import corrections_on
from ...store.meters import own_meters
from ..jobs.docket import Docket, Record, docket_in
from ..shell.attempt import attempt
from ..shell.database import get_db
from ..shell.titles import line_title, told
from ..shell.workups import workups
from .captures import CaptureDrawn, captures_drawn
from .drawing import drawn_circuit
from .head import Head, Sealed, head_of

__all__ = ["Full", "full_of"]


@dataclass(frozen=True, slots=True)
class RecordLine:
    """A line of the full record."""

    number: int
    at: str
    kind: str
    words: str
    answer: str
    note: str
    person: str
    struck: str
    cuts: bool


@dataclass(frozen=True, slots=True)
class Circuit:
    """A circuit as it stands: its title, what was corrected on it, its drawing in strips (SVG), and its text."""

    title: str
    corrected: tuple[str, ...]
    strips: tuple[str, ...]
    text: str


@dataclass(frozen=True, slots=True)
class Full(Sealed):
    """The record for the next workshop: all lines, the captures, the circuits as they stand with what was corrected, and the meters."""

    head: Head
    title: str
    stages: tuple[tuple[str, str], ...]
    lines: tuple[RecordLine, ...]
    captures: tuple[CaptureDrawn, ...]
    circuits: tuple[Circuit, ...]
    meters: tuple[str, ...]


def full_of(record: Record) -> Full:
    """The whole record."""
    stages = tuple(
        (stage.name, "; ".join(filter(None, (stage.there, f"lacks {stage.lacks}" if stage.lacks else "")))) for stage in record.state.stages
    )
    circuits, corrections, titles = [], corrections_on(get_db(), record.vehicle.id), dict[int, str]()
    for trace in record.traces:
        docket = docket_in(get_db(), record, trace)
        corrected = tuple(f"{c.part}: {c.says}" for c in corrections if c.sheet_id in (trace.sheet_id, trace.begun_id))
        titles |= _titles(docket)
        circuits.append(Circuit(trace.title, corrected, _strips(docket), docket.stored_sheet.text))
    meters = tuple(f"{own.meter.name}: {own.meter.words}" if own.meter.words else own.meter.name for own in own_meters(get_db()))
    return Full(
        head_of(record),
        record.job.complaint,
        stages,
        tuple(_line(n, e, titles.get(e.id, "")) for n, e in enumerate(record.entries, 1)),
        captures_drawn(get_db(), record.job.id),
        tuple(circuits),
        meters,
    )


def _strips(docket: Docket) -> tuple[str, ...]:
    """Its drawing; none where the sheet cannot be read."""
    try:
        found, _ = attempt(lambda: drawn_circuit(docket.sheet, docket.drawn_otherwise))
    except ParseError:  # a name that no XML can hold: the text beside it has it
        return ()
    return found or ()


def _titles(docket: Docket) -> dict[int, str]:
    """The lines of a circuit's evidence in the words of the trade, by entry; what cannot be read any more keeps its own."""
    found = {}
    for entry in docket.record.entries:
        if entry.trace_id == docket.trace.id and is_evidence(entry.kind):
            items, _ = attempt(lambda entry=entry: workups().items(docket.stored_sheet, [entry]))  # type: ignore[misc]
            found[entry.id] = line_title(docket.sheet, items[0]) if items else ""
    return found


def _line(number: int, entry: Entry, title: str) -> RecordLine:
    struck = ""
    if entry.struck:
        struck = f"{ended_of(entry.kind)} {entry.struck.at[:16].replace('T', ' ')}" + (
            f" by {entry.struck.person}" if entry.struck.person else ""
        )
        struck += f": {entry.struck.reason}"
    at = entry.made_at[:16].replace("T", " ")
    return RecordLine(
        number, at, title_of(entry.kind), title or words_of(entry), told(entry), entry.text("note"), entry.person, struck, cuts(entry)
    )
