"""A vehicle that is built in another way than it is drawn: two pins the other way round, something more that draws current, a load of
another rating; or one in which two wires touch that should not."""

from __future__ import annotations

import dataclasses
import math
from collections.abc import Iterator, Sequence
from dataclasses import dataclass
from itertools import combinations

import numpy as np

from ...base.arrays import Floats
from ...base.judgement import judged
from ...base.patience import breathe
from ...base.quantity import show
from ...base.special import logsumexp
from ...circuit.fault import Fault, changes
from ...circuit.network import Cases, Network
from ...circuit.part import Element, Law
from ...circuit.sheet import Part, Sheet
from ...circuit.wear import in_use
from ...evidence.asked import Measurement, Setup
from ..predict.prediction import Spot
from ..predict.workup import Workup
from .belief import Belief
from .likelihood import BLUNDER, log_likelihood
from .ratings import TIMES, rated_loads, with_rating
from .supposed import SHOWN_NATS, Beyond, Trial, seen_where, shown_by
from .touching import joins_runs, wires_that_may_touch

__all__ = ["BETWEEN_COARSE", "WRONG_DIAGRAM", "Variant", "likelier_small", "loaded", "of_its_ohms", "other_diagrams", "touching_wires"]

WRONG_DIAGRAM = judged("WRONG_DIAGRAM", 0.01, "share", "jobs whose vehicle is built in another way than it is drawn")
OTHER_RATING = judged("OTHER_RATING", 0.01, "share", "jobs in which a load of another rating is fitted")
WIRES_TOUCH = judged("WIRES_TOUCH", 0.004, "share", "jobs in which two wires have chafed through to each other")
_TOUCH_OHMS = np.geomspace(0.02, 30.0, 9)
_EXTRA_OHMS = np.geomspace(0.5, 1000.0, 13)  # of a load that is not drawn: from a blower to a lamp that tells something
_FINER_LOADS, _LOOKS_CLOSER = 17, 2  # ohms looked at between two of those, and between two of these again
_SMALL_LOAD_AMPS = judged("SMALL_LOAD_AMPS", 3.0, "A", "what takes less than this is the likelier a load the less it takes")
_LEAST_LOAD_AMPS = judged("LEAST_LOAD_AMPS", 0.03, "A", "the same, but what takes less than this is no likelier for that")
_SUSPECTED = 0.02  # least probability of a fault beside which touching wires are thought of
_NO_MATTER = 8.0  # nats behind the best from which on they are left out
BETWEEN_COARSE = 0.6  # a coarse look forgives more than its steps, since numbers bend between them


@dataclass(frozen=True, eq=False)
class Variant:
    """Another way in which a vehicle may be built, or two of its wires touching: the ``parts`` it concerns, its ``share`` of all jobs, its
    network and the ``cases`` that may be, the ``words`` for it; ``ohms`` are those of each case where something joins two points that is
    not drawn, or where a load is of another rating, how many ``times`` its current it takes in each, which is a network of its own then;
    ``numbers`` keeps what tests show there, (cases,) values and strays."""

    kind: str
    words: str
    parts: tuple[str, ...]
    share: float
    network: Network
    cases: Cases
    ohms: Floats | None
    numbers: dict[Measurement, tuple[Floats, Floats]]
    times: tuple[tuple[float, Network], ...] = ()

    @property
    def is_load(self) -> bool:
        """Whether it is something that draws current and is not drawn."""
        return self.ohms is not None and self.kind == "diagram"

    @classmethod
    def all_of(cls, workup: Workup) -> tuple[Variant, ...]:
        """Every variant of a sheet, made once."""
        return workup.memo.once("diagrams", lambda: tuple(cls._made(in_use(workup.sheet))))

    @classmethod
    def _made(cls, sheet: Sheet) -> Iterator[Variant]:
        swapped = _swapped(sheet)
        for words, parts, other in swapped:
            try:
                network = Network.of(other)
            except ValueError:
                continue
            yield cls("diagram", words, parts, WRONG_DIAGRAM / 2.0 / len(swapped), network, Cases.healthy(), None, {})
        places = [place for place in sheet.places if place not in (sheet.plus, sheet.minus)]
        for place in places:
            network = Network.of(sheet, None, Element("undrawn", place, sheet.minus, 1.0))
            words = f"something that is not drawn draws current at {place}"
            share = WRONG_DIAGRAM / 2.0 / len(places)
            yield cls("diagram", words, (), share, network, loaded(network, _EXTRA_OHMS), _EXTRA_OHMS, {})
        rated = tuple(rated_loads(sheet))
        for part in rated:
            times = tuple((k, Network.of(with_rating(sheet, part, k))) for k in TIMES.tolist())
            words = f"{part.name} is of another rating here"
            network = times[0][1]
            yield cls("diagram", words, (part.name,), OTHER_RATING / len(rated), network, Cases.healthy(), None, {}, times)
        touching = wires_that_may_touch(sheet)
        for touch in touching:
            network = Network.of(sheet, None, Element("touch", *touch.nodes, 1.0))
            cases = loaded(network, _TOUCH_OHMS)
            yield cls("touching", touch.words, touch.wires, WIRES_TOUCH / len(touching), network, cases, _TOUCH_OHMS, {})

    def likelier(self, workup: Workup, ohms: float) -> float:
        """How many times likelier it is with so many ohms than otherwise: a load that is not large."""
        if not self.is_load:
            return 1.0
        return likelier_small(workup, [int(self.network.a[-1])], workup.sheet.supply_volts / ohms)

    def log_likelier(self, workup: Workup) -> Floats:
        """(cases,) the logarithm of that for each case."""
        if self.ohms is None:
            return np.zeros(max(len(self.times), 1))
        return np.log([self.likelier(workup, ohms) for ohms in self.ohms.tolist()])

    def shown(self, workup: Workup, setup: Setup, tests: tuple[Measurement, ...]) -> tuple[Floats, Floats]:
        """(cases, T) numbers and strays of tests of one set-up; solved once for all that are on offer in it."""
        if any(test not in self.numbers for test in tests):
            every = tuple(dict.fromkeys([*tests, *(t for t in workup.on_offer if t.setup == setup)]))
            networks = [(network, Cases.healthy()) for _, network in self.times] or [(self.network, self.cases)]
            shown = [shown_by(network, cases, setup, every) for network, cases in networks]
            value, stray = (np.concatenate([of[k] for of in shown]) for k in (0, 1))
            self.numbers.update((test, (value[:, i], stray[:, i])) for i, test in enumerate(every))
        value, stray = (np.stack([self.numbers[test][k] for test in tests], axis=1) for k in (0, 1))
        return value, stray


def loaded(network: Network, ohms: Floats, faults: tuple[Fault, ...] = ()) -> Cases:
    """Cases of a network whose last element is a load that is not drawn, of ``ohms`` (M,), with something else wrong or not."""
    every = np.arange(len(ohms))
    return Cases.of(len(ohms), [*changes(network, every, faults), (every, len(network.elements) - 1, ohms, 0)])


def of_its_ohms(trial: Trial, variant: Variant, value: Floats, stray: Floats, faults: tuple[Fault, ...] = ()) -> tuple[float, float]:
    """Log evidence of what joins two points and is not drawn, beside some faults, and its likeliest ohms; ``value`` and ``stray`` are
    (cases, R). Looked at ever closer around the best, since ohms that are read tell a load's to a percent."""
    assert variant.ohms is not None
    logs = np.log(variant.ohms)
    least, most, between = float(logs[0]), float(logs[-1]), BETWEEN_COARSE
    for _ in range(_LOOKS_CLOSER):
        step = float(logs[1] - logs[0])
        coarse = trial.log_likelihood(value, stray, np.asarray(np.gradient(value, axis=0))[:, :, None] * between)
        best = float(logs[int(coarse.argmax())])
        logs, between = np.linspace(max(best - step, least), min(best + step, most), _FINER_LOADS), 1.0 / math.sqrt(12.0)
        value, stray = trial.predicted(variant.network, loaded(variant.network, np.exp(logs), faults))
    step, middle = float(logs[1] - logs[0]), loaded(variant.network, np.exp(logs[[_FINER_LOADS // 2]]), faults)
    stretch = np.asarray(np.gradient(value, axis=0))[:, :, None] * between
    weighed = trial.with_spread(value, stray, stretch, trial.spread_in(variant.network, middle)[0])
    return float(logsumexp(weighed)) + math.log(step / (most - least)), math.exp(float(logs[int(weighed.argmax())]))


def other_diagrams(belief: Belief, variants: Sequence[Variant], floor: float) -> list[Beyond]:
    """The vehicle built in another way than it is drawn, and nothing wrong with it, where that may reach ``floor``."""
    trial, evidence = Trial(belief), belief.evidence
    sound = np.zeros(1, dtype=np.intp)
    precision = evidence.precision(sound)
    perfect = float(log_likelihood(np.zeros((1, len(trial.tests))), precision, trial.scale, evidence.blunder(sound))[0])
    as_sound = float(evidence.log_likelihood(Spot(sound, np.zeros(1)), np.zeros(1))[0])
    diagonal = precision.diagonal[0]
    # What each reading costs at least that a variant does not explain: it must be a blunder then.
    cost = np.log(BLUNDER) - np.log(trial.scale) + 0.5 * np.log(2.0 * math.pi / diagonal)
    found = []
    for variant in variants:
        breathe()
        prior = math.log(variant.share)
        left = perfect + prior + variant.log_likelier(belief.workup)
        value, stray = np.tile(trial.sound, (len(left), 1)), np.zeros((len(left), len(trial.tests)))
        for setup, numbers in trial.by_setup.items():
            value[:, numbers], stray[:, numbers] = variant.shown(belief.workup, setup, tuple(trial.tests[i] for i in numbers))
            own = value[:, numbers]
            reach = np.abs(np.gradient(own, axis=0)) if len(own) > 1 else 0.0
            missed = np.abs(own - trial.value[numbers]) > trial.far[numbers] + np.abs(own) * stray[:, numbers] + reach
            left += np.minimum(missed * cost[numbers], 0.0).sum(axis=1)
            if left.max() < floor:
                break
        else:
            if len(left) == 1 and np.abs(value[0] - trial.sound).max(initial=0.0) < 0.05:
                continue  # the readings do not tell the two apart
            log, likelier, words = _weighed(trial, variant, value, stray)
            silent = variant.kind == "diagram" and log <= as_sound + SHOWN_NATS
            found.append(Beyond(variant.kind, variant.parts, words, log + likelier + prior, silent))
    return found


def touching_wires(belief: Belief) -> list[Beyond]:
    """Wires that touch, where a fault is suspected that joins two runs of wire: to a meter it may be either."""
    items, sheet = belief.workup.hypotheses.items, belief.workup.sheet
    suspected = (items[h] for h in np.flatnonzero(belief.probability > _SUSPECTED).tolist())
    if not belief.readings or not any(item.part and item.mode and joins_runs(sheet, item.part, item.mode) for item in suspected):
        return []
    touching = [variant for variant in Variant.all_of(belief.workup) if variant.kind == "touching"]
    return other_diagrams(belief, touching, belief.log_evidence - _NO_MATTER)


def _weighed(trial: Trial, variant: Variant, value: Floats, stray: Floats) -> tuple[float, float, str]:
    """Of a variant whose cases show ``value`` and ``stray`` (cases, R): its log evidence, the logarithm of how much likelier it is with
    what it then draws, and the words for it."""
    belief = trial.belief
    if variant.ohms is not None:
        log, ohms = of_its_ohms(trial, variant, value, stray)
        likelier = math.log(variant.likelier(belief.workup, ohms))
        # What a load draws is not seen on anything that is drawn.
        case = loaded(variant.network, np.array([ohms]))
        seen = float(belief.evidence.factor[0]) if variant.is_load else seen_where(belief, variant.network, case)
        return log + seen, likelier, f"{variant.words} (about {show(ohms, 'Ω')})"
    if not variant.times:
        log = float(trial.with_spread(value, stray, None, trial.spread_in(variant.network, variant.cases)[0])[0])
        return log + seen_where(belief, variant.network, variant.cases), 0.0, variant.words
    stretch = np.asarray(np.gradient(value, axis=0))[:, :, None] / math.sqrt(12.0)
    times, network = variant.times[int(trial.log_likelihood(value, stray, stretch).argmax())]
    each = trial.with_spread(value, stray, stretch, trial.spread_in(network, Cases.healthy())[0])
    log = float(logsumexp(each)) - math.log(len(each))
    return log + seen_where(belief, network, Cases.healthy()), 0.0, f"{variant.words} (takes about {times:.2g} times its current)"


def likelier_small(workup: Workup, nodes: list[int], amps: float) -> float:
    """How many times likelier a load of so many amperes is there than a large one: small ones are what is fitted, but nobody splices one
    into a line that carries no supply."""
    fed = any(
        (workup.sound_volts(state)[[n for n in nodes if n >= 0]] > 0.5 * workup.sheet.supply_volts).any() for state in workup.sheet.states
    )
    return max(1.0, _SMALL_LOAD_AMPS / max(amps, _LEAST_LOAD_AMPS)) if fed else 1.0


def _either_way_round(part: Part) -> bool:
    """Whether it is the same whichever way round it is put in."""
    return len(part.pins) == 2 and all(e.law in (Law.OHMIC, Law.FILAMENT, Law.MOTOR) for e in part.elements())


def _swapped(sheet: Sheet) -> list[tuple[str, tuple[str, ...], Sheet]]:
    """The sheet with two pins of a part, or of a plug, the other way round."""
    variants: list[tuple[str, tuple[str, ...], Sheet]] = []
    for part in sheet.parts.values():
        pins = [] if part.kind.posts or _either_way_round(part) else list(part.pins)
        for one, other in combinations(pins, 2):
            if part.pins[one] == part.pins[other] or part.kind.joint:
                continue
            pins_of = {**part.pins, one: part.pins[other], other: part.pins[one]}
            parts = {**sheet.parts, part.name: dataclasses.replace(part, pins=pins_of)}
            words = f"pins {one} and {other} of {part.name} are the other way round here"
            variants.append((words, (part.name,), dataclasses.replace(sheet, parts=parts)))
    plugs = [part for part in sheet.parts.values() if "." in part.name and set(part.pins) == {"a", "b"}]
    for left, right in combinations(plugs, 2):
        if left.name.rpartition(".")[0] == right.name.rpartition(".")[0]:
            crossed = {
                left.name: dataclasses.replace(left, pins={**left.pins, "b": right.pins["b"]}),
                right.name: dataclasses.replace(right, pins={**right.pins, "b": left.pins["b"]}),
            }
            words = f"{left.name} and {right.name} are crossed in their plug here"
            variants.append((words, (left.name, right.name), dataclasses.replace(sheet, parts={**sheet.parts, **crossed})))
    return variants
