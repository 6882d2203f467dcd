"""Evidence: readings with their instrument, places and state; findings without a number; and the CSV in which both travel.

A *finding* is what was seen, done or known: a lamp that is dim, a code that is set, a plug that was wiggled, a relay that was swapped, a
part that is new. Every finding has a kind, a subject (a part, a place, a plug, an observation, code or table of the sheet) and an
outcome, one of a few words.
"""

from __future__ import annotations

import csv
import io
from collections.abc import Mapping
from dataclasses import dataclass

from ..base.brief import near, quoted
from ..base.errors import ReadingError
from ..base.quantity import Measured, parse_reading
from ..circuit.sheet import Sheet
from ..circuit.sights import SEEN, sight_of
from ..meter.instrument import INSTRUMENTS, Instrument, instrument, standard_uncertainty
from .test import Check, Test

__all__ = [
    "ACTIONS",
    "COLUMNS",
    "KINDS",
    "Finding",
    "Item",
    "Kind",
    "Reading",
    "columns_of",
    "finding_of",
    "item_of",
    "measurement_of",
    "not_about",
    "outcomes_of",
    "parts_at",
    "read_csv",
    "reading_of",
    "subjects_of",
    "test_of",
]

COLUMNS = ("state", "instrument", "red", "black", "value")
MOST_ROWS = 1000  # of one file


@dataclass(frozen=True, slots=True)
class Kind:
    """A kind of finding: its ``outcomes`` with the other words for each (empty where the subject decides), what it is, and what is said
    of a subject that it cannot be about."""

    name: str
    outcomes: Mapping[str, tuple[str, ...]]
    words: str
    refusal: str = "is not on this sheet"


_CHANGED = {
    "changed": ("change", "dropped", "drops", "gone", "back", "came back", "appears", "worse", "better", "flickers", "yes"),
    "no change": ("nothing", "same", "none", "no", "unchanged", "steady"),
}
ACTIONS = ("wiggle", "heat", "cool", "knock")
KINDS = {
    kind.name: kind
    for kind in (
        Kind("see", {}, "what a lamp, motor, relay, gauge or module shows", "is nothing that can be seen or heard on this sheet"),
        Kind(
            "code", {"set": ("stored", "yes", "there"), "clear": ("not set", "no", "none", "absent")}, "a code of the sheet",
            "is no code of this sheet",
        ),
        Kind("wiggle", _CHANGED, "wiggled or flexed while watching", "is nothing on this sheet that can be wiggled"),
        Kind("heat", _CHANGED, "heated while watching", "is nothing on this sheet that can be heated"),
        Kind("cool", _CHANGED, "cooled while watching", "is nothing on this sheet that can be cooled"),
        Kind("knock", _CHANGED, "knocked while watching", "is nothing on this sheet that can be knocked on"),
        Kind(
            "swap", {"gone": ("cured", "fixed", "works"), "no change": _CHANGED["no change"]}, "replaced by a known-good one, or bridged",
            "is no part of this sheet",
        ),
        Kind(
            "look",
            {
                "fine": ("clean", "good", "dry", "nothing"),
                "corroded": ("green", "rust", "rusty", "white"),
                "wet": ("water", "damp"),
                "loose": ("backed out", "pulled out"),
                "chafed": ("pinched", "bare", "rubbed"),
                "burnt": ("melted", "hot", "brown", "smells"),
                "broken": ("cracked", "cut", "torn"),
            },
            "what the eye finds",
        ),
        Kind(
            "history",
            {"replaced": ("new", "renewed"), "repaired": ("worked on", "spliced", "someone else"), "water": ("flooded", "wet"),
             "collision": ("crash", "accident", "hit")},
            "what is known to have happened",
        ),
        Kind("test", {}, "a test of the sheet's outcome tables", "is no test of this sheet"),
        Kind("when", {"sometimes": ("intermittent", "now and then"), "always": ("permanent", "steady")}, "when the complaint is there"),
        Kind("suspect", {"two": ("both", "more"), "one": ("single",)}, "how many faults are looked for"),
        Kind("skip", {"not here": ("no", "cannot", "")}, "a place, instrument, state or part that cannot be got at here",
             "is no place, instrument, state or part of this sheet"),
    )
}  # fmt: skip


@dataclass(frozen=True, slots=True)
class Finding:
    """Evidence without a number: ``kind`` (of KINDS), the ``subject`` and its ``outcome``; ``state`` where it matters, else empty."""

    kind: str
    subject: str
    outcome: str
    state: str = ""
    note: str = ""

    @property
    def test(self) -> Check:
        """What was looked for, without its outcome."""
        return Check(self.kind, self.subject, self.state)


@dataclass(frozen=True, slots=True)
class Reading:
    """One number from one instrument: red and black lead on two nodes, the sheet in a state.

    ``ohms`` readings are taken with the battery disconnected; ``amps`` with the meter in line between red and black, in place of
    whatever joins those two directly (the fuse pulled, the plug parted). ``good`` readings come from the same point of the good side or
    of a known-good vehicle on the same supply: nothing is wrong there.
    """

    state: str
    instrument: str
    red: str
    black: str
    measured: Measured
    note: str = ""
    good: bool = False

    @property
    def test(self) -> Test:
        """The measurement without its outcome."""
        return Test(self.state, self.instrument, self.red, self.black)

    @property
    def meter(self) -> Instrument:
        """The instrument's data."""
        return instrument(self.instrument)

    @property
    def uncertainty(self) -> float:
        """Standard uncertainty of the number, in its SI unit."""
        return standard_uncertainty(self.meter, self.measured)


Item = Reading | Finding


def reading_of(sheet: Sheet, state: str, meter: str, red: str, black: str, value: str, note: str = "", good: bool = False) -> Reading:
    """A reading from text, checked against the sheet. Raises ReadingError with one sentence."""
    test = measurement_of(sheet, state, meter, red, black)
    return Reading(test.state, test.instrument, test.red, test.black, parse_reading(value, instrument(meter).unit), note, good)


def measurement_of(sheet: Sheet, state: str, meter: str, red: str, black: str) -> Test:
    """A measurement that can be made on the sheet; an empty place is battery minus. Raises ReadingError with one sentence."""
    sheet.state(state)
    instrument(meter)
    red_node, black_node = sheet.probe(red), sheet.probe(black)
    if red_node == black_node:
        raise ReadingError(f"Red and black are both on {red_node}: put them on two different places.")
    if meter in ("amps", "clamp") and not _joined(sheet, red_node, black_node):
        verb = "takes the place of" if meter == "amps" else "goes around"
        raise ReadingError(f"Nothing joins {red_node} and {black_node} directly: this instrument {verb} one conductor.")
    return Test(state, meter, red_node, black_node)


def test_of(sheet: Sheet, state: str, instrument_or_kind: str, red: str, black: str) -> Test | Check:
    """What is to be measured or looked for, without an outcome. Raises ReadingError with one sentence."""
    word = instrument_or_kind.removeprefix("good ").strip()
    if word not in KINDS:
        return measurement_of(sheet, state, word, red, black)
    known = subjects_of(sheet, word)
    if known is not None and red not in known:
        raise not_about(sheet, word, red)
    if word == "code":
        return Check(word, red, sheet.codes[red].state)
    if word == "test":
        return Check(word, red, sheet.tables[red].state)
    return Check(word, red, state if word == "see" else "")


def _joined(sheet: Sheet, red: str, black: str) -> bool:
    return any({red, black} <= set(part.pins.values()) for part in sheet.parts.values())


def finding_of(sheet: Sheet, kind: str, subject: str, outcome: str, state: str = "", note: str = "") -> Finding:
    """A finding from text, checked against the sheet. Raises ReadingError with one sentence."""
    if kind not in KINDS:
        raise ReadingError(f"{quoted(kind)} is no kind of finding: {', '.join(KINDS)} are.")
    if state:
        sheet.state(state)
    known = subjects_of(sheet, kind)
    if known is not None and subject not in known:
        raise not_about(sheet, kind, subject)
    words = outcomes_of(sheet, kind, subject)
    said = outcome.strip().lower()
    plain = next((name for name, others in words.items() if said in (name, *others)), None)
    if plain is None:
        of = f"{kind} {subject}".strip()
        raise ReadingError(f"{quoted(outcome)} is no answer to '{of}': say {' or '.join(words)}.")
    if kind in ("see", "code") and not state:
        raise ReadingError(f"A state is missing: say in which of {', '.join(sheet.states)} {subject} was {plain}.")
    return Finding(kind, subject, plain, state, note)


def not_about(sheet: Sheet, kind: str, subject: str) -> ReadingError:
    """The error of a finding about something that its kind cannot be about; names near ones."""
    known = subjects_of(sheet, kind) or ()
    if not known:
        return ReadingError(f"There is nothing on this sheet for '{kind}'.")
    if not subject:
        return ReadingError(f"Say what '{kind}' is about, such as '{kind} {known[0]}'.")
    return ReadingError(f"{quoted(subject)} {KINDS[kind].refusal}{near(subject, known)}.")


def outcomes_of(sheet: Sheet, kind: str, subject: str) -> Mapping[str, tuple[str, ...]]:
    """The outcomes that a finding of a kind may have on a subject, with other words for each; none where it cannot be about that."""
    if kind == "test":
        return dict.fromkeys(sheet.tables[subject].outcomes, ()) if subject in sheet.tables else {}
    if kind == "see":
        found = sight_of(sheet, subject)
        return SEEN[found[2]] if found else {}
    return KINDS[kind].outcomes


def subjects_of(sheet: Sheet, kind: str) -> tuple[str, ...] | None:
    """What a finding of a kind may be about; None where nothing needs to be named."""
    if kind == "see":
        own = [name for name in sheet.parts if sight_of(sheet, name)]
        return tuple(dict.fromkeys([*(name for name in sheet.observe if sight_of(sheet, name)), *own]))
    if kind == "code":
        return tuple(sheet.codes)
    if kind == "test":
        return tuple(sheet.tables)
    if kind in ("when", "suspect"):
        return None
    plugs = [name for name in dict.fromkeys(part.partition(".")[0] for part in sheet.parts) if name not in sheet.parts]
    if kind == "skip":
        return tuple(dict.fromkeys([*sheet.places, *INSTRUMENTS, *sheet.states, *sheet.access, *sheet.parts]))
    if kind == "swap":
        return tuple(sheet.parts)
    places = [place for place in sheet.places if place not in (sheet.plus, sheet.minus)]
    return tuple(dict.fromkeys([*sheet.parts, *plugs, *places, *sheet.access]))


def parts_at(sheet: Sheet, subject: str) -> tuple[str, ...]:
    """The parts that a subject means: a part itself, all pins of a plug, all that meet at a place, all behind an access."""
    if subject in sheet.parts:
        return (subject,)
    whole = tuple(name for name in sheet.parts if name.partition(".")[0] == subject)
    if whole:
        return whole
    nodes = {subject} if subject in sheet.places else {name for name, place in sheet.places.items() if place.behind == subject}
    return tuple(name for name, part in sheet.parts.items() if nodes & set(part.pins.values()) and not part.kind.posts)


def item_of(sheet: Sheet, state: str, instrument_or_kind: str, red: str, black: str, value: str, note: str = "") -> Item:
    """A reading or finding from its five columns; ``good volts`` as the instrument is a reading of the good side. Raises ReadingError."""
    good, word = instrument_or_kind.startswith("good "), instrument_or_kind.removeprefix("good ").strip()
    if word in KINDS and not good:
        return finding_of(sheet, word, red, value, state, note)
    if word not in INSTRUMENTS:
        others = f"what is seen, done or known begins with {', '.join(KINDS)}"
        raise ReadingError(f"{quoted(word)} is no instrument: {', '.join(INSTRUMENTS)} are; {others}.")
    return reading_of(sheet, state, word, red, black, value, note, good)


def columns_of(item: Item) -> tuple[str, str, str, str]:
    """State, instrument or kind, red or subject, black of an item: `item_of` in reverse, but for its value."""
    if isinstance(item, Finding):
        return item.state, item.kind, item.subject, ""
    return item.state, f"good {item.instrument}" if item.good else item.instrument, item.red, item.black


def read_csv(sheet: Sheet, text: str) -> tuple[Item, ...]:
    """Readings and findings from CSV with the columns of COLUMNS and an optional ``note``. Raises ReadingError naming the line."""
    # Any of the three ways to end a line is taken, also one by itself in the middle of a file.
    rows = csv.DictReader(io.StringIO(text.lstrip("\ufeff"), newline=None), skipinitialspace=True)
    try:
        return _items(sheet, rows)
    except csv.Error:
        longest = f"a field that is longer than {csv.field_size_limit():,} characters or a quote that never ends"
        raise ReadingError(f"Line {rows.line_num + 1}: this is no CSV; look for {longest}.") from None


def _items(sheet: Sheet, rows: csv.DictReader[str]) -> tuple[Item, ...]:
    header = [name.strip() for name in rows.fieldnames or []]
    missing = [name for name in COLUMNS if name not in header]
    if missing:
        raise ReadingError(f"The first line must name the columns {','.join(COLUMNS)}[,note]; missing: {', '.join(missing)}.")
    rows.fieldnames = header
    made: list[Item] = []
    for row in rows:
        if None in row:
            raise ReadingError(f'Line {rows.line_num}: more fields than columns; put a decimal comma in quotes, as "12,4".')
        field = {name: (row.get(name) or "").strip() for name in (*COLUMNS, "note")}
        if not any(field.values()):
            continue
        if len(made) == MOST_ROWS:
            raise ReadingError(f"Line {rows.line_num}: a file holds at most {MOST_ROWS:,} readings; split it by job.")
        try:
            made.append(item_of(sheet, *(field[name] for name in (*COLUMNS, "note"))))
        except ReadingError as error:
            raise ReadingError(f"Line {rows.line_num}: {error}") from None
    return tuple(made)
