"""The tests on offer: which measurements a sheet's places allow, and how the circuit stands for each."""

from __future__ import annotations

from dataclasses import dataclass
from itertools import combinations

from ..circuit.layout import Tree
from ..circuit.sheet import Sheet
from ..circuit.sights import sight_of
from ..meter.instrument import instrument

__all__ = ["Check", "Setup", "Test", "available_checks", "available_tests"]


@dataclass(frozen=True, slots=True)
class Setup:
    """How the circuit stands while it is measured: the state; live (``volts``) or with the battery off (``ohms``); or with what draws
    current or stands in line (``amps``, ``lamp``, ``load``) between two nodes."""

    state: str
    instrument: str
    between: tuple[str, str] | None = None


@dataclass(frozen=True, slots=True, order=True)
class Test:
    """A measurement: a state, an instrument, and the nodes under red and black."""

    state: str
    instrument: str
    red: str
    black: str

    @property
    def setup(self) -> Setup:
        """How the circuit stands for it."""
        tool = instrument(self.instrument)
        if tool.in_circuit:
            return Setup(self.state, tool.name, (self.red, self.black))
        return Setup(self.state, "ohms" if tool.dead else "volts")


@dataclass(frozen=True, slots=True, order=True)
class Check:
    """What can be found out without a number: a kind of finding, its subject, and the state where it matters."""

    kind: str
    subject: str
    state: str = ""

    @property
    def instrument(self) -> str:
        """Stands where a test's instrument does."""
        return self.kind

    @property
    def red(self) -> str:
        """Stands where a test's first place does."""
        return self.subject

    @property
    def black(self) -> str:
        """There is no second place."""
        return ""


def _neighbours(sheet: Sheet) -> frozenset[frozenset[str]]:
    """Pairs of places with no other place on the way between them, battery posts aside."""
    posts = {sheet.plus, sheet.minus}
    beside: dict[str, set[str]] = {}
    for segment in Tree(sheet).segments:
        beside.setdefault(segment.top, set()).add(segment.bottom)
        beside.setdefault(segment.bottom, set()).add(segment.top)
    found = set()
    for place in sheet.places:
        seen, todo = {place}, [place]
        while todo:
            for node in beside.get(todo.pop(), set()) - seen:
                seen.add(node)
                if node in sheet.places:
                    found.add(frozenset((place, node)))
                elif node not in posts:
                    todo.append(node)
    return frozenset(found)


def available_tests(sheet: Sheet) -> tuple[Test, ...]:
    """The tests worth weighing: every place against either battery post, neighbouring places against each other (volts in every
    state, ohms with the battery off in those that differ then), and amps across each fuse holder within reach.

    Lead order follows the sheet: battery minus takes black, battery plus or the place named first takes red.
    """
    neighbours = _neighbours(sheet)
    pairs = []
    for first, second in combinations(sheet.places, 2):
        red, black = (second, first) if first == sheet.minus or second == sheet.plus else (first, second)
        if sheet.minus == black or sheet.plus == red or frozenset((red, black)) in neighbours:
            pairs.append((red, black))
    holders = [
        (part.pins["a"], part.pins["b"])
        for part in sheet.parts.values()
        if part.kind.holder and {part.pins["a"], part.pins["b"]} <= set(sheet.places)
    ]
    made = []
    for state in sheet.states:
        made += [Test(state, "volts", *pair) for pair in pairs]
        if sheet.resting[state] == state:  # with the battery off many states are one and the same
            made += [Test(state, "ohms", *pair) for pair in pairs if pair[0] != sheet.plus or frozenset(pair) in neighbours]
        made += [Test(state, "amps", *pair) for pair in holders]
    return tuple(made)


def available_checks(sheet: Sheet) -> tuple[Check, ...]:
    """What the sheet says can be seen, in every state; its codes; its outcome tables."""
    seen = [Check("see", name, state) for name in sheet.observe if sight_of(sheet, name) for state in sheet.states]
    codes = [Check("code", name, code.state) for name, code in sheet.codes.items()]
    return (*seen, *codes, *(Check("test", name, table.state) for name, table in sheet.tables.items()))
