"""Starting and charging in a job's record: each answer of a guided way is an entry, and what is known of the vehicle for it is one too."""

from __future__ import annotations

from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass, field

from ..base.brief import quoted
from ..base.conditions import split_conditions
from ..base.errors import CaptureError, ReadingError
from ..base.quantity import parse_reading, show
from ..base.written import Content, EntryError, EntryField, EntryKind, Value
from ..bench.house import with_house
from ..check import Verdict
from ..circuit.sheet import Sheet
from ..evidence.items import Item
from ..evidence.registry import item_of
from ..power.guide import WAYS, Answer, Position, position_of, way_called
from ..power.guide.model import Deed, Step, Way
from ..power.guide.sequence import Done
from ..power.guide.words import shared_settings, shown_unit, unit_of
from ..power.phased import Laid, laid_from
from ..power.registry import JUDGES
from .entry import Entry, standing

__all__ = [
    "AT_HAND",
    "CAPTURED",
    "REACHES",
    "STEP",
    "KeptCapture",
    "WHAT_IS_KNOWN",
    "Setup",
    "answers_of",
    "capture_of",
    "captured_answer",
    "found_on",
    "items_of",
    "place_of",
    "setup_of",
    "settings_of",
    "step_on",
    "ways_walked",
]

# What may be at hand besides a meter and ears, and how long it takes to get at what is hidden (minutes).
AT_HAND = ("helper", "clamp", "tester", "load tester", "boost", "scope")
REACHES: Mapping[str, float] = {"in the open": 1.0, "underneath": 15.0, "under covers": 30.0, "under the manifold": 95.0}
_USUAL_REACH = "underneath"
HEAVY_SYSTEM = 24.0  # volts
_HAND, _REACH = "at hand", "reach"


def _words(content: Content) -> str:
    way = WAYS.get(str(content.get("way")))
    step = (way.step(str(content.get("step"))) or way.deed(str(content.get("step")))) if way else None
    title = step.title if step else str(content.get("step"))
    value = str(content.get("value") or "")
    unit = f" {shown_unit(step)}".rstrip() if isinstance(step, Step) and value[-1:].isdigit() and "@" not in value else ""
    return f"{title}: {_skipped(step) if content.get('skipped') else value + unit}"


def _skipped(step: object) -> str:
    return step.absent if isinstance(step, Step) and step.absent else "cannot be done here"


def _checked(content: dict[str, Value]) -> dict[str, Value]:
    way = WAYS.get(str(content["way"]))
    if way is None or (way.step(str(content["step"])) is None and way.deed(str(content["step"])) is None):
        raise EntryError(f"{quoted(content['step'])} is no step of a guided way.")
    return content


STEP = EntryKind(
    "power",
    "Start & charge",
    (
        EntryField("way", "The guided way", longest=40),
        EntryField("step", "The step", longest=40),
        EntryField("value", "What was read or seen", False, longest=200),
        EntryField("skipped", "Whether it cannot be done here", False, type=bool),
    ),
    _words,
    _checked,
)
AGAIN = EntryKind(
    "power_again", "Start & charge, read again", STEP.fields[:3], lambda content: f"{_words(content)}, after the repair", _checked,
)  # fmt: skip
WHAT_IS_KNOWN = EntryKind(
    "power_known", "Known for start & charge", (EntryField("name", "What", longest=40), EntryField("value", "Which", False, longest=200)),
    lambda content: f"{content.get('name')}: {content.get('value') or 'not said'}",
)  # fmt: skip


def _checked_capture(content: dict[str, Value]) -> dict[str, Value]:
    laid_from(str(content["laid"]))
    return content


CAPTURED = EntryKind(
    "power_capture",
    "Capture of a start",
    (
        EntryField("name", "The file's name", longest=120),
        EntryField("says", "What it shows"),
        EntryField("laid", "The capture", longest=20_000),
    ),
    lambda content: f"{content.get('name')}: {content.get('says')}",
    _checked_capture,
)


@dataclass(frozen=True, slots=True)
class KeptCapture:
    """A capture that is kept in a job's record: the id of its entry, its name, what it shows in words, and itself."""

    key: int
    name: str
    says: str
    laid: Laid


def capture_of(entries: Iterable[Entry]) -> KeptCapture | None:
    """The latest capture that stands; None where there is none that can be read."""
    for entry in reversed(standing(entries, CAPTURED.name)):
        try:
            return KeptCapture(entry.id, entry.text("name"), entry.text("says"), laid_from(entry.text("laid")))
        except CaptureError:  # from elsewhere: the record still says what it showed
            continue
    return None


# What a capture answers, by the step that would read the same with a meter.
_FROM_CAPTURE = {"rest": "rest", "battery": "crank", "ripple": "ripple"}


def captured_answer(position: Position, kept: KeptCapture) -> str:
    """What a capture has for the next step, as it would be typed; empty where it has nothing, or where the vehicle was changed since."""
    changed = any(isinstance(done.step, Deed) and done.answer.key > kept.key for done in position.done)
    value = kept.laid.figures.get(_FROM_CAPTURE.get(position.next.step.name, "")) if position.next and not changed else None
    return "" if value is None else f"{value:.2f}"


@dataclass(frozen=True, slots=True)
class Setup:
    """What is known for the guided ways of a job: settings by name, what is ``at_hand``, the way in words by which hidden things are
    reached, and what the ``house`` has settled, by rule."""

    settings: Mapping[str, str] = field(default_factory=dict)
    at_hand: tuple[str, ...] = ("helper",)
    reach: str = _USUAL_REACH
    house: Mapping[str, str] = field(default_factory=dict)

    def minutes_to(self, way: Way) -> dict[str, float]:
        """Minutes to get at what is hidden."""
        return dict.fromkeys(way.hidden, REACHES.get(self.reach, REACHES[_USUAL_REACH]))


def setup_of(entries: Iterable[Entry], volts: float | None = None, house: Mapping[str, str] | None = None) -> Setup:
    """What a job's entries say is known; ``volts`` is the vehicle's system where that is written down, ``house`` what the workshop has
    settled, by rule."""
    said = {entry.text("name"): entry.text("value") for entry in standing(entries, WHAT_IS_KNOWN.name)}
    hand = said.pop(_HAND, None)
    reach = said.pop(_REACH, _USUAL_REACH)
    if volts == HEAVY_SYSTEM:
        said.setdefault("system", "24")
    at_hand = Setup().at_hand if hand is None else tuple(word for word in AT_HAND if word in hand.split(", "))
    own = [(name, value) for name, value in said.items() if value]
    families = dict.fromkeys(name for way in WAYS.values() for name in way.families)
    shared = shared_settings(families)
    every = [setting for name in families for setting in JUDGES[name].settings if setting.name not in shared]
    return Setup(dict(with_house(every, own, house or {})), at_hand, reach, house or {})


def settings_of(way: Way) -> dict[str, tuple[str, tuple[str, ...], str]]:
    """The settings that a way's families have: by name what each is, its words to choose from, and its unit. Where two of them ask
    different things under one name, the house's rules decide."""
    found, shared = {}, shared_settings(way.families)
    for name in way.families:
        for setting in JUDGES[name].settings:
            if setting.name not in ("posts", "rested", "fuse", "charge", "capacity") and setting.name not in shared:
                found[setting.name] = (setting.says, setting.words, setting.unit)
    return found


def answers_of(entries: Iterable[Entry], way: str) -> tuple[Answer, ...]:
    """The answers of a way that stand, in the order in which they were given; each has its entry's id as its key."""
    return tuple(
        Answer(entry.text("step"), entry.text("value"), bool(entry.content.get("skipped")), entry.id)
        for entry in standing(entries, STEP.name) if entry.text("way") == way
    )  # fmt: skip


def ways_walked(entries: Iterable[Entry]) -> tuple[str, ...]:
    """The ways on which a job has answers, the latest last."""
    named = [entry.text("way") for entry in standing(entries, STEP.name)]
    return tuple(sorted(set(named), key=lambda name: max(place for place, own in enumerate(named) if own == name)))


def place_of(entries: Sequence[Entry], way: str, more: Sequence[Answer] = (), setup: Setup | None = None) -> Position:
    """Where a way stands by a job's entries and some ``more`` answers. Raises ReadingError with one sentence."""
    own, known = way_called(way), setup or setup_of(entries)
    answers = (*answers_of(entries, way), *more)
    return position_of(own, answers, list(known.settings.items()), known.at_hand, known.minutes_to(own), house=known.house)


def found_on(entries: Sequence[Entry], setup: Setup) -> str:
    """What the way walked last has found, in one sentence; nothing where none has."""
    for way in reversed(ways_walked(entries)):
        try:
            found = place_of(entries, way, setup=setup).found
        except ReadingError:  # a step of another version: the way's own page says so
            continue
        if found:
            return found.says
    return ""


def step_on(way: str, name: str) -> Step:
    """The step of a way. Raises ReadingError."""
    step = way_called(way).step(name)
    if step is None:
        raise ReadingError(f"{quoted(name)} is no step of this way.")
    return step


# By the unit on the range switch: the instrument of the core.
_FUNCTIONS = {"V": "volts", "V~": "ac", "Ω": "ohms"}
# What is heard of a starter as it is said of one on a circuit.
_HEARD = {"nothing": "stopped", "one click": "stopped", "clicks fast": "stopped", "turns slowly": "slow", "turns normally": "normal"}


def items_of(position: Position, sheet: Sheet) -> tuple[tuple[Item, str, str], ...]:
    """What was read on a way, as evidence on its typical circuit: the item, its value as it was typed, and a note. What is history, was not
    read with a meter, or lies on no place of the sheet is left out."""
    found = []
    for name, done in position.standing().items():
        step = done.step
        assert isinstance(step, Step)
        note = f"from start & charge: {step.title.lower()}"
        if step.probe and step.probe[2] in sheet.states and {*step.probe[:2]} <= set(sheet.places):
            red, black, state, off = step.probe
            value = done.answer.text.lstrip("-−").strip()
            found.append((item_of(sheet, state, _FUNCTIONS[shown_unit(step)], red, black, value, note, off), value, note))
        elif name == "heard" and done.outcome in _HEARD:
            starter = next((part for part, own in sheet.parts.items() if own.kind.name == "starter"), "")
            if starter and "start" in sheet.states:
                word = _HEARD[done.outcome]
                found.append((item_of(sheet, "start", "see", starter, "", word, note), word, note))
    return tuple(found)


@dataclass(frozen=True, slots=True)
class Pair:
    """One point read before and after a repair: the step, what stood there before and afterwards (None where it was not read again), the
    difference in words, and which conditions differ between the two."""

    step: Step
    before: Done
    after: Done | None
    change: str
    differs: str


def pairs_of(entries: Sequence[Entry], way: str, setup: Setup | None = None) -> tuple[Pair, ...]:
    """What was read with a meter on a way, beside the same points read again. Raises ReadingError."""
    own, setup = way_called(way), setup or setup_of(entries)
    before = place_of(entries, way, setup=setup).standing()
    again = [
        Answer(entry.text("step"), entry.text("value"), False, entry.id)
        for entry in standing(entries, AGAIN.name)
        if entry.text("way") == way
    ]
    after = position_of(own, again, list(setup.settings.items()), AT_HAND, setup.minutes_to(own), house=setup.house).standing()
    found = []
    for name, done in before.items():
        step = own.step(name)
        if step is not None and unit_of(step):
            found.append(_pair(step, unit_of(step), done, after.get(name)))
    return tuple(found)


def _pair(step: Step, unit: str, before: Done, after: Done | None) -> Pair:
    if after is None:
        return Pair(step, before, None, "", "")
    (was, noted), (now, noted_now) = (split_conditions(done.answer.text) for done in (before, after))
    change = parse_reading(now, unit).value - parse_reading(was, unit).value
    differs = ""
    if noted.shown() != noted_now.shown() and not step.repeated:
        differs = f"{noted.shown() or 'nothing noted'} before, {noted_now.shown() or 'nothing noted'} now"
    return Pair(step, before, after, f"{'+' if change > 0 else '−' if change < 0 else ''}{show(abs(change), unit)}", differs)


def proof_of(pairs: Sequence[Pair]) -> str:
    """The proof in one sentence; empty while something that was outside its limits was not read again, or is still outside."""
    told = []
    for pair in pairs:
        was_bad = pair.before.finding is not None and pair.before.finding.verdict is Verdict.OUTSIDE
        good = pair.after is not None and pair.after.finding is not None and pair.after.finding.verdict is Verdict.WITHIN
        if was_bad and not good:
            return ""
        if good and was_bad and pair.after is not None:
            unit = pair.before.finding.unit if pair.before.finding else ""
            told.append(f"{pair.step.title} {pair.before.answer.text} {unit} before, {pair.after.answer.text} {unit} now")
    return "; ".join(told)
