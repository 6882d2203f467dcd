"""The plan of a visit: the steps in the order in which they are likely to be done, and how long it takes until the fault is found.

The small world of `plan` is followed from where one stands to where one target is certain enough, always by the test that tells most per
minute; every way there has its share and its minutes. Their distribution gives the range of the total, and the chance that the minutes that
the customer has authorised are enough.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

from ...base.judgement import OWN_RULE, judged
from ...circuit.sheet import Sheet
from ...evidence.asked import Measurement, Question
from ...evidence.items import Item
from .effort import Situation, behind, minutes_for
from .plan import Moment, World

__all__ = ["Ending", "Visit", "VisitStep", "accesses_gained", "minutes_spent", "visit_from"]

DEEPEST = 12  # steps that are followed
LEAST_WAY = judged("LEAST_WAY", 0.002, "share", "ways to the fault that are rarer are not followed to their end", OWN_RULE)
LOW, HIGH = 0.1, 0.9  # of the ways: the range of the total lies between them


@dataclass(frozen=True, slots=True)
class VisitStep:
    """A step on the likeliest way: its ``test``, the ``minutes`` it takes there, the accesses that it ``opens`` for the first time, and how
    likely it is that one gets to it."""

    test: Measurement | Question
    minutes: float
    opens: tuple[str, ...]
    share: float


@dataclass(frozen=True, slots=True)
class Ending:
    """A way to its end: its share of all, and its minutes. Where the small world's tests were at an end before something was certain,
    those for what is not known are ``reckoned`` roughly."""

    share: float
    minutes: float
    reckoned: bool = False


@dataclass(frozen=True, slots=True)
class Visit:
    """The plan: the likeliest ``steps``, and every way to its end."""

    steps: tuple[VisitStep, ...]
    endings: tuple[Ending, ...]

    @property
    def expected(self) -> float:
        """Minutes to the end on the average."""
        return sum(e.share * e.minutes for e in self.endings)

    def quantile(self, share: float) -> float:
        """Minutes that are enough in so many of the ways."""
        reached = 0.0
        for ending in sorted(self.endings, key=lambda e: e.minutes):
            reached += ending.share
            if reached >= share - 1e-9:
                return ending.minutes
        return max((e.minutes for e in self.endings), default=0.0)

    @property
    def low(self) -> float:
        """Minutes that only one way in ten stays under."""
        return self.quantile(LOW)

    @property
    def high(self) -> float:
        """Minutes that one way in ten goes beyond."""
        return self.quantile(HIGH)

    def chance_within(self, minutes: float) -> float:
        """The chance that the fault is found within so many minutes from here."""
        return sum(e.share for e in self.endings if e.minutes <= minutes + 1e-9)


def visit_from(world: World) -> Visit:
    """The plan from where one stands."""
    total = float(world.start.mass.sum())
    endings: list[Ending] = []
    places: list[tuple[Moment, float]] = [(world.start, 0.0)]
    for depth in range(DEEPEST, -1, -1):
        going: list[tuple[Moment, float]] = []
        for place, minutes in places:
            share = float(place.mass.sum()) / total
            if world.settled(place):
                endings.append(Ending(share, minutes))
            elif depth == 0 or share < LEAST_WAY:
                endings.append(Ending(share, minutes + world.left(place), True))
            else:
                going.append((place, minutes))
        if not going:
            break
        places = []
        for (place, minutes), i in zip(going, world.best([place for place, _ in going]), strict=True):
            if i is None:
                endings.append(Ending(float(place.mass.sum()) / total, minutes + world.left(place), True))
                continue
            took = minutes + float(world.minutes(place)[i])
            places += [(world.after(place, i, k), took) for k in range(world.outcomes[i].shape[1])]
    return Visit(_likeliest(world, total), tuple(endings))


def _likeliest(world: World, total: float) -> tuple[VisitStep, ...]:
    """The steps along the outcomes that are likeliest each."""
    steps: list[VisitStep] = []
    place = world.start
    while len(steps) < DEEPEST and not world.settled(place):
        i = world.best([place])[0]
        if i is None:
            break
        test = world.tests[i]
        opens = tuple(name for name in behind(world.sheet, test) if name and name not in place.at.gained)
        steps.append(VisitStep(test, float(world.minutes(place)[i]), opens, float(place.mass.sum()) / total))
        place = max((world.after(place, i, k) for k in range(world.outcomes[i].shape[1])), key=lambda then: float(then.mass.sum()))
    return tuple(steps)


def accesses_gained(sheet: Sheet, items: Sequence[Item]) -> frozenset[str]:
    """The accesses that lie open after some evidence."""
    return Situation.of(sheet, items).gained


def minutes_spent(sheet: Sheet, items: Sequence[Item]) -> float:
    """Minutes that the tests so far are reckoned to have taken, in their order, access opened once."""
    spent, at = 0.0, Situation()
    for item in items:
        spent += minutes_for(sheet, item.test, at)
        at = at.after(sheet, item.test)
    return spent
