"""A bench for the adviser: hidden faults behind a simulated meter, and what comes of the advice.

The vehicle under test differs from its sheet as vehicles do: every part somewhere within its tolerance, a battery that drifts from reading
to reading, a meter that stands somewhere within its accuracy, stray volts on floating points, and now and then a blunder. The true fault is
solved anew for every reading by the same instruments that `measure` gives; nothing is looked up in the tables that the adviser uses.
"""

from __future__ import annotations

import dataclasses
import math
import random
from collections.abc import Iterable, Mapping
from dataclasses import dataclass

import numpy as np

from ..core.base.errors import PondrelError
from ..core.base.quantity import show
from ..core.circuit.fault import Fault
from ..core.circuit.measure import measure
from ..core.circuit.part import Build, Element, Law
from ..core.circuit.sheet import Part, Sheet
from ..core.evidence.asked import Measurement, Question
from ..core.evidence.items import Item, Observation
from ..core.evidence.registry import item_of, outcomes_of
from ..core.isolate import Workup, isolate
from ..core.isolate.advise.effort import Situation, minutes_for
from ..core.isolate.advise.orders import next_by_order
from ..core.meter.instrument import instrument

__all__ = ["BLUNDERS", "Case", "Outcome", "Vehicle", "hidden_cases", "run", "typed"]

BLUNDERS = 0.02  # share of readings that are misread, mistyped or taken at the wrong place
DRIFT_SHARE = 0.004  # standard deviation of the supply from reading to reading
SEVERITIES = 3  # of each hidden fault, one anywhere in each third of its span of ln ohms
STRAY_SHARE = 0.25
MOST_TESTS = 40
PATIENCE = 6  # tests that a person goes on with after a part is as good as named, without finding its proof


@dataclass(frozen=True, slots=True)
class Case:
    """A hidden fault: ``faults`` in the vehicle (none for a sound one), the ``part`` to be found, and a ``row`` of the workup near it."""

    part: str | None
    mode: str | None
    faults: tuple[Fault, ...]
    row: int


@dataclass(frozen=True, slots=True)
class Outcome:
    """What came of a case: the ``target`` that was named, its stated ``probability``, the minutes after which that was first certain
    enough (``named_after``, the rest is proof), whether it was ``proved`` and ``right``; ``tests``
    and ``minutes`` used, ``blunders`` among them; ``stated`` are the (probability, was it that) pairs of every part after every reading."""

    case: Case
    target: tuple[str, ...]
    probability: float
    named_after: float
    proved: bool
    right: bool
    tests: int
    minutes: float
    blunders: int
    stated: tuple[tuple[float, bool], ...]
    items: tuple[Item, ...]

    @property
    def wrong_condemned(self) -> bool:
        """Whether a sound part was condemned with proof."""
        return self.proved and not self.right and bool(self.target)

    @property
    def overlooked(self) -> bool:
        """Whether a vehicle with a fault was sent away as sound."""
        return self.proved and not self.right and not self.target


def hidden_cases(workup: Workup, seed: int = 0) -> tuple[Case, ...]:
    """A sound circuit, and every fault of a sheet at a few severities, of those that any test on offer can show; the seed says where in its
    third of the span each severity lies."""
    curves, hypotheses = workup.curves, workup.hypotheses
    cases = [Case(None, None, (), 0)]
    for h in range(1, len(hypotheses.items)):
        item, grid = hypotheses.items[h], hypotheses.severities[h]
        curve = int(np.flatnonzero(curves.hypothesis == h)[0])
        rng = random.Random(f"{seed} {item.part} {item.mode}")
        for share in [(k + rng.random()) / SEVERITIES for k in range(SEVERITIES)] if item.swept else [0.0]:
            at = share * (len(grid) - 1)
            row = int(curves.start[curve]) + round(at)
            if not workup.visible[row]:
                continue
            log_ohms = float(np.interp(at, np.arange(len(grid)), grid))
            cases.append(Case(item.part, item.mode, hypotheses.fault(h, log_ohms), row))
    return tuple(cases)


class Vehicle:
    """A vehicle with a case's fault, and a person with a meter at it."""

    def __init__(self, workup: Workup, case: Case, seed: int, blunders: float = BLUNDERS):
        self.workup, self.case, self.rng, self.share = workup, case, random.Random(f"{seed} {case.faults}"), blunders
        self.sheet = _varied(workup.sheet, self.rng)
        self.deviation = self.rng.uniform(-0.7, 0.7)
        self.row = case.row
        self.faults = case.faults + self._melted()
        self.blunders = 0
        self.stray: dict[tuple[str, str], float] = {}

    def _melted(self) -> tuple[Fault, ...]:
        """Fuses that the fault has blown; now and then somebody has bridged them."""
        blown = self.workup.curves.blown.at(np.array([self.row])).element.tolist()
        if not blown or self.rng.random() < 0.1:
            return ()
        keys = self.workup.network.keys
        return tuple(Fault(keys[i][0], "open") for i in blown if keys[i][0] != self.case.part)

    def answer(self, test: Measurement | Question) -> Item:
        """The reading or finding that the person comes back with."""
        if isinstance(test, Question):
            row = self.workup.chances_at(test, np.array([self.row]))[0]
            words = list(outcomes_of(self.workup.sheet, test))
            return Observation(test.kind, test.subject, self.rng.choices(words, row.tolist())[0], test.state)
        text = self._shown(test)
        if text == "OL" and not instrument(test.instrument).dead:  # more than the meter bears: nobody tries that again
            return Observation("skip", test.instrument, "not here", "")
        if self.rng.random() < self.share:
            self.blunders += 1
            text = self._blunder(test, text)
        return item_of(self.workup.sheet, test.state, test.instrument, test.red, test.black, text, off=", ".join(test.without))

    def _shown(self, test: Measurement) -> str:
        drift = self.rng.gauss(0.0, DRIFT_SHARE)
        shown = measure(
            _drifted(self.sheet, 1.0 + drift),
            test.state,
            test.instrument,
            test.red,
            test.black,
            self.faults,
            deviation=self.deviation,
            without=test.without,
        )
        value = shown.measured.value
        if math.isnan(value):
            raise PondrelError(f"The meter refuses {test}: {shown.notes}")  # an ohmmeter on a live circuit; not offered
        tool = instrument(test.instrument)
        if not math.isfinite(value):
            return "OL"
        value += self._stray(test)
        value += self.rng.gauss(0.0, tool.floor)
        if tool.dead:
            value = max(value, 0.0)
        return typed(value, tool.unit)

    def _stray(self, test: Measurement) -> float:
        """A floating point picks up a few volts, the same each time."""
        if test.instrument != "volts" or self.workup.predict((test,), np.array([self.row])).stray[0, 0] < 0.5:
            return 0.0
        if (test.red, test.black) not in self.stray:
            self.stray[test.red, test.black] = self.rng.uniform(0.1, 5.0) if self.rng.random() < STRAY_SHARE else 0.0
        return self.stray[test.red, test.black]

    def _blunder(self, test: Measurement, text: str) -> str:
        kind = self.rng.choice(["decimal", "digit", "place", "state"])
        if kind in ("place", "state") or text == "OL":
            others = [t for t in self.workup.offered if t.instrument == test.instrument and t.instrument != "amps" and t != test]
            near = [t for t in others if (t.state == test.state) == (kind == "place") and {t.red, t.black} & {test.red, test.black}]
            if near:
                return self._shown(self.rng.choice(near))
        if text == "OL":
            return "0.3"
        if kind == "decimal":
            return typed(_value(text) * self.rng.choice([0.1, 10.0]), "")
        digits = [i for i, c in enumerate(text) if c.isdigit()]
        at = self.rng.choice(digits[:2])
        return text[:at] + str((int(text[at]) + self.rng.randint(1, 9)) % 10) + text[at + 1 :]


def typed(value: float, unit: str) -> str:
    """A number as a person writes it down."""
    return show(value, unit).replace(" ", "") if unit else f"{value:.4g}"


def _value(text: str) -> float:
    from ..core.base.quantity import parse_reading

    return parse_reading(text, text[-1] if text[-1] in "VΩA" else "V").value


def _varied(sheet: Sheet, rng: random.Random) -> Sheet:
    """The sheet with every element somewhere within its tolerance."""
    parts = {name: _with_elements(part, {}, rng) for name, part in sheet.parts.items()}
    return dataclasses.replace(sheet, parts=parts)


def _with_elements(part: Part, factors: dict[str, tuple[float, float]], rng: random.Random) -> Part:
    build = part.kind.build

    def varied(params: Mapping[str, object], pins: tuple[str, ...]) -> tuple[Element, ...]:
        return tuple(_vary(e, factors.setdefault(e.name, (rng.gauss(0.0, 1.0), rng.gauss(0.0, 1.0)))) for e in build(params, pins))

    return dataclasses.replace(part, kind=dataclasses.replace(part.kind, build=varied))


def _vary(e: Element, sigmas: tuple[float, float]) -> Element:
    first, second = (max(-2.5, min(2.5, s)) for s in sigmas)
    own, ohms = max(1.0 + e.tolerance * first, 0.05), max(1.0 + e.ohms_tolerance * second, 0.05)
    if e.law is Law.OHMIC:
        return dataclasses.replace(e, ohms=e.ohms * own)
    if e.law in (Law.EMF, Law.LIMITED):
        return dataclasses.replace(e, volts=e.volts * own, ohms=e.ohms * ohms)
    if e.law is Law.JUNCTION:
        return dataclasses.replace(e, amps=e.amps * math.exp(-0.7 * (own - 1.0) / e.shape))  # moves the forward voltage
    return dataclasses.replace(e, amps=e.amps * own)


def _drifted(sheet: Sheet, factor: float) -> Sheet:
    """The sheet with its sources' volts moved."""
    parts = dict(sheet.parts)
    for name, part in parts.items():
        if part.kind.posts:
            build = part.kind.build

            def moved(params: Mapping[str, object], pins: tuple[str, ...], build: Build = build) -> tuple[Element, ...]:
                return tuple(dataclasses.replace(e, volts=e.volts * factor) for e in build(params, pins))

            parts[name] = dataclasses.replace(part, kind=dataclasses.replace(part.kind, build=moved))
    return dataclasses.replace(sheet, parts=parts)


def run(workup: Workup, case: Case, seed: int, order: str = "best", blunders: float = BLUNDERS, vehicle: Vehicle | None = None) -> Outcome:
    """Let an order of attack run at a case until the stop rule holds or nothing tells anything more; ``vehicle`` is one of the case's own
    sheet where none is given."""
    vehicle, rng = vehicle or Vehicle(workup, case, seed, blunders), random.Random(seed)
    items: tuple[Item, ...] = ()
    minutes, named_after, unproved, tests = 0.0, math.inf, 0, 0
    stated: list[tuple[float, bool]] = []
    repeated: set[Measurement | Question] = set()
    while True:
        found = isolate(workup, items)
        stated += _stated(found.belief.parts().items(), case.part)
        certain = found.standing.named
        named_after = min(named_after, minutes) if certain else math.inf
        unproved = unproved + 1 if certain else 0
        if found.standing.ready or tests == MOST_TESTS or unproved > PATIENCE:
            break
        odd = next((m.reading for m in found.misfits if m.alone and items[m.reading].test not in repeated), None)
        if odd is not None:  # a reading that fits nobody is repeated, as the adviser asks, and the first one struck out
            again = items[odd].test
            repeated.add(again)
            minutes += minutes_for(workup.sheet, again, Situation.of(workup.sheet, items))
            items, tests = (*items[:odd], *items[odd + 1 :], vehicle.answer(again)), tests + 1
            continue
        # Once a part is as good as named, every order goes for its proof.
        test = found.next[0].test if found.next and certain else next_by_order(found.belief, order, found.next, rng)
        if test is None:
            break
        minutes += minutes_for(workup.sheet, test, Situation.of(workup.sheet, items))
        items, tests = (*items, vehicle.answer(test)), tests + 1
    standing = found.standing
    right = case.part in standing.target if case.part else not standing.target
    return Outcome(
        case, standing.target, standing.probability, min(named_after, minutes), standing.ready, right, tests, minutes,
        vehicle.blunders, tuple(stated), items,
    )  # fmt: skip


def _stated(parts: Iterable[tuple[str | None, float]], true: str | None) -> list[tuple[float, bool]]:
    return [(p, name == true) for name, p in parts if p > 1e-4]
