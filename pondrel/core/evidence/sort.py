"""What a sort of evidence gives: its fields and how they are read, its words, and what it says about the faults of a circuit.

A sort is one module in `sorts` with a tuple ``SORTS`` of instances. `NumberSort` and `WordSort` hold what most have in common; a new sort
overrides what differs. Nothing outside of its module names it.
"""

from __future__ import annotations

from abc import ABC, abstractmethod
from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass
from typing import Protocol

import numpy as np

from ..base.arrays import Floats
from ..base.brief import either, near, quoted
from ..base.errors import ReadingError
from ..base.judgement import judged
from ..circuit.operate import Points
from ..circuit.safety import Caution
from ..circuit.sheet import Sheet
from .asked import Measurement, Question
from .items import Item, Observation
from .told import Told

__all__ = ["CHANGED", "Field", "Hint", "NumberSort", "Sort", "WordSort", "World", "head_of", "parts_at", "within_reach"]


LOOK_MINUTES = judged("LOOK_MINUTES", 0.2, "min", "to look or listen")


class Cause(Protocol):
    """What may be wrong: a part's mode of failing, both None for nothing."""

    @property
    def part(self) -> str | None: ...

    @property
    def mode(self) -> str | None: ...


class World(Protocol):
    """The circuit under every fault, as an observation's likelihood asks for it: rows (M,) are faults at their severities, the first one is
    the sound circuit."""

    @property
    def sheet(self) -> Sheet: ...

    @property
    def causes(self) -> Sequence[Cause]:
        """The faults (H), nothing first."""
        ...

    def points(self, state: str) -> Points:
        """The live circuit in a state, a point per row."""
        ...

    def by_cause(self, numbers: Floats) -> Floats:
        """(M, …) rows from numbers by fault (H, …)."""
        ...


@dataclass(frozen=True, slots=True)
class Field:
    """A field of a sort as the record keeps it: its ``name``, and what a message calls it."""

    name: str
    words: str


@dataclass(frozen=True, slots=True)
class Hint:
    """What an observation says beyond one lasting fault: how much likelier ``two`` faults and one that comes and goes (``sometimes``)
    become, and the parts whose fault it has ``stirred``."""

    two: float = 1.0
    sometimes: float = 1.0
    stirred: tuple[str, ...] = ()

    @property
    def asks(self) -> bool:
        """Whether more than one lasting fault should be weighed because of it."""
        return self.two > 1.0 or self.sometimes > 1.0 or bool(self.stirred)


class Sort(ABC):
    """A sort of evidence."""

    name: str  # its kind in the record
    title: str  # as a heading or button says it
    words: str  # what it is
    looks = False  # whether it is had by looking, listening or asking, before the meter comes out
    lasts = False  # whether it holds though something was done to the circuit since
    verbs: tuple[str, ...] = ()  # the words that begin its line; the first is the one that is written
    also: Mapping[str, str] = {}  # other words for its verbs
    acts: tuple[str, ...] = ()  # what it does to the parts that it touches, as `circuit.safety` forbids it
    fields: tuple[Field, ...] = ()

    @abstractmethod
    def read(self, sheet: Sheet, given: Mapping[str, str]) -> Item:
        """An item from its fields as typed, checked against the sheet. Raises ReadingError with one sentence."""

    @abstractmethod
    def content(self, item: Item, typed: str) -> dict[str, str]:
        """An item's fields as the record keeps them, with its number or outcome as it was typed: `read` in reverse."""

    @abstractmethod
    def parse(self, sheet: Sheet, verb: str, rest: str, state: str, named: bool) -> tuple[Item, str]:
        """An item from what follows its verb in a line, and its number or outcome as it was typed. ``state`` is where the vehicle stands,
        ``named`` whether the line says so. Raises ReadingError with one sentence."""

    @abstractmethod
    def expected(self, sheet: Sheet, rest: str) -> Sequence[str]:
        """The words that may come next in a line after its verb and ``rest``."""

    def is_live(self, content: Mapping[str, object]) -> bool:
        """Whether an entry of this sort, by its content, shows that the battery was on."""
        return False

    @abstractmethod
    def columns(self, item: Item) -> tuple[str, str, str, str]:
        """State, verb, subject or red, black of an item, as a line and a table file hold them."""

    @abstractmethod
    def test(self, sheet: Sheet, verb: str, red: str, black: str, state: str, off: str = "") -> Measurement | Question:
        """What is measured (``off`` names what is unplugged for it) or asked, without an outcome. Raises ReadingError in one sentence."""

    def minutes(self, sheet: Sheet, test: Measurement | Question, leads: frozenset[str]) -> float:
        """Minutes for it where access and state are as they should be; ``leads`` are where probes stand already."""
        return LOOK_MINUTES

    def behind(self, sheet: Sheet, test: Measurement | Question) -> tuple[str, ...]:
        """What must be opened for it, empty names for what lies open."""
        return ()

    def cautions(self, sheet: Sheet, test: Measurement | Question) -> tuple[Caution, ...]:
        """What to mind besides what the sheet and its states say."""
        return ()

    def touches(self, sheet: Sheet, test: Measurement | Question) -> tuple[str, ...]:
        """The parts that it lays hands on."""
        return ()

    def asks(self, sheet: Sheet, test: Measurement | Question) -> str:
        """What is to be done or looked at, as a step; empty where the leads say it."""
        return ""


class NumberSort(Sort):
    """A sort whose items are numbers that an instrument shows; its tests are measurements on the circuit or on a good one."""


class WordSort(Sort):
    """A sort whose items are one of a few words about a subject."""

    refusal = "is not on this sheet"  # said of a subject that it cannot be about
    answers: Mapping[str, tuple[str, ...]] = {}  # its outcomes with other words for each
    wants_subject = True
    wants_state = False  # whether it says nothing without a state
    from_circuit = False  # whether the circuit decides its outcome: then it can be proposed, and tells what is drawn from what is not
    numbers = ""  # an example of a number that may stand for a word, empty where none does
    shows_more = False  # whether it shows faults that no meter does
    weighs = True  # whether it says anything about faults
    stirs_under: tuple[str, ...] = ()  # circumstances of a complaint that it imitates on purpose, by their names in `told`
    stirs_joints = False  # whether that is done to joints rather than to what has something inside
    how = ""  # how it is done, in a few words
    is_slow = False  # whether it says that an access takes longer here
    from_ledger: Mapping[str, str] = {}  # by whether a part renewed for the complaint helped: the outcome that this is
    answers_for = ""  # the sort whose questions it answers as well, by somebody else's mouth
    fields = (
        Field("state", "The state"), Field("subject", "What it is about"), Field("outcome", "The answer"), Field("note", "The note"),
    )  # fmt: skip

    def subjects(self, sheet: Sheet) -> tuple[str, ...]:
        """What it may be about."""
        return within_reach(sheet)

    def outcomes(self, sheet: Sheet, subject: str) -> Mapping[str, tuple[str, ...]]:
        """The outcomes on a subject, with other words for each; none where it cannot be about that."""
        return self.answers

    def on_offer(self, sheet: Sheet) -> tuple[Question, ...]:
        """The questions that may be proposed."""
        return ()

    def chances(self, world: World, question: Question) -> Floats:
        """(M, outcomes) how likely each outcome is in every row, or how much likelier than without a fault there."""
        return np.ones((len(world.by_cause(np.zeros(len(world.causes)))), len(self.outcomes(world.sheet, question.subject))))

    def hint(self, sheet: Sheet, item: Observation) -> Hint:
        """What it says beyond one lasting fault."""
        return Hint()

    def from_complaint(self, told: Told) -> tuple[str, ...]:
        """The outcomes that what the customer told amounts to, where it is about no subject."""
        return ()

    def leaves_out(self, item: Observation) -> frozenset[str]:
        """Places, instruments, states, parts and accesses that cannot be got at because of it."""
        return frozenset()

    def slows(self, item: Observation) -> float:
        """Minutes that the access it is about takes more because of it."""
        return 0.0

    def asks(self, sheet: Sheet, test: Measurement | Question) -> str:
        """To look, and what for."""
        return f"Look and listen: {either(self.outcomes(sheet, test.red))}?"

    def told_by_module(self, sheet: Sheet, question: Question) -> bool:
        """Whether a module tells it."""
        return False

    def seen_at_work(self, sheet: Sheet) -> tuple[str, ...]:
        """Subjects that can be seen to work or not; those that the sheet wants looked at are in `watched`."""
        return ()

    def implied(self, sheet: Sheet) -> tuple[str, ...]:
        """Subjects that begin a line without a verb."""
        return ()

    def state_for(self, sheet: Sheet, subject: str, state: str, named: bool) -> str:
        """The state that belongs to an item, empty where none does."""
        return state if named else ""

    def check_subject(self, sheet: Sheet, subject: str) -> None:
        """Raises ReadingError naming near ones where it cannot be about the subject."""
        if self.wants_subject and subject not in self.subjects(sheet):
            raise self.not_about(sheet, subject)

    def not_about(self, sheet: Sheet, subject: str) -> ReadingError:
        """The error of an item about something that this sort cannot be about."""
        known = self.subjects(sheet)
        if not known:
            return ReadingError(f"There is nothing on this sheet for '{self.name}'.")
        if not subject:
            return ReadingError(f"Say what '{self.name}' is about, such as '{self.name} {known[0]}'.")
        return ReadingError(f"{quoted(subject)} {self.refusal}{near(subject, known)}.")

    def observe(self, sheet: Sheet, subject: str, outcome: str, state: str = "", note: str = "") -> Observation:
        """An item from its parts as typed. Raises ReadingError with one sentence."""
        if state:
            sheet.state(state)
        self.check_subject(sheet, subject)
        words = self.outcomes(sheet, subject)
        said = outcome.strip().lower()
        plain = next((name for name, others in words.items() if said in (name, *others)), None)
        if plain is None:
            of = f"{self.name} {subject}".strip()
            raise ReadingError(f"{quoted(outcome)} is no answer to '{of}': say {' or '.join(words)}.")
        if self.wants_state and not state:
            raise ReadingError(f"A state is missing: say in which of {', '.join(sheet.states)} {subject} was {plain}.")
        return Observation(self.name, subject, plain, state, note)

    def read(self, sheet: Sheet, given: Mapping[str, str]) -> Observation:
        """As `Sort.read`."""
        return self.observe(sheet, *(given.get(name, "") for name in ("subject", "outcome", "state", "note")))

    def content(self, item: Item, typed: str) -> dict[str, str]:
        """As `Sort.content`."""
        assert isinstance(item, Observation)
        return {"state": item.state, "subject": item.subject, "outcome": item.outcome, "note": item.note}

    def columns(self, item: Item) -> tuple[str, str, str, str]:
        """As `Sort.columns`."""
        assert isinstance(item, Observation)
        return item.state, self.name, item.subject, ""

    def parse(self, sheet: Sheet, verb: str, rest: str, state: str, named: bool) -> tuple[Item, str]:
        """As `Sort.parse`."""
        if not self.wants_subject:
            return self.observe(sheet, "", rest), rest
        subject, outcome = head_of(rest, self.subjects(sheet))
        if subject is None:
            raise self.not_about(sheet, outcome.split(" ")[0])
        return self.observe(sheet, subject, outcome, self.state_for(sheet, subject, state, named)), outcome

    def expected(self, sheet: Sheet, rest: str) -> Sequence[str]:
        """As `Sort.expected`."""
        if not self.wants_subject:
            return () if rest else tuple(self.answers)
        subject, left = head_of(rest, self.subjects(sheet))
        if subject is None:
            return () if rest else self.subjects(sheet)
        return () if left else tuple(self.outcomes(sheet, subject))

    def test(self, sheet: Sheet, verb: str, red: str, black: str, state: str, off: str = "") -> Question:
        """As `Sort.test`."""
        self.check_subject(sheet, red)
        return Question(self.name, red, self.state_for(sheet, red, state, self.wants_state) if self.from_circuit else "")


CHANGED: Mapping[str, tuple[str, ...]] = {
    "changed": ("change", "dropped", "drops", "gone", "back", "came back", "appears", "worse", "better", "flickers", "yes"),
    "no change": ("nothing", "same", "none", "no", "unchanged", "steady"),
}


def head_of(text: str, names: Iterable[str]) -> tuple[str | None, str]:
    """The longest of ``names`` that the text starts with as whole words, whatever their case, and the rest.

    >>> head_of("c2.1 dropped", ["C2", "C2.1"])
    ('C2.1', 'dropped')
    """
    lower = text.lower()
    for name in sorted(names, key=len, reverse=True):
        own = name.lower()
        if lower == own or lower.startswith(own + " "):
            return name, text[len(name) :].lstrip()
    return None, text


def within_reach(sheet: Sheet) -> tuple[str, ...]:
    """Parts, whole plugs, places and accesses: what hands and eyes can be at."""
    plugs = [name for name in dict.fromkeys(part.partition(".")[0] for part in sheet.parts) if name not in sheet.parts]
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
