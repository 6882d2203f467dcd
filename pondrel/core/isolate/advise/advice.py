"""The next test: the one that tells most, per minute, about what to repair.

For every test that the sheet's places allow, the predictive distribution of its number is a mixture over the posterior's atoms, each
a Gaussian of the meter and of the tolerances as the readings so far have narrowed them. The gain is the mutual information between
that number and the repair target (the part, or nothing), in bits, by sorting the number into bins: bins can only lose information,
so a stated gain is never flattered.
"""

from __future__ import annotations

import math
from collections import Counter
from collections.abc import Collection, Sequence
from dataclasses import dataclass, replace
from functools import cached_property

import numpy as np
from numpy.typing import NDArray

from ...base.arrays import Floats
from ...base.judgement import OWN_RULE, judged
from ...base.patience import breathe
from ...base.special import ndtr_nearly, xlogy
from ...base.ties import in_order, ranks
from ...circuit.sheet import Sheet
from ...evidence.asked import Measurement, Question, Setup
from ...evidence.contradictions import answered
from ...evidence.items import observations
from ...evidence.registry import left_out, outcomes_of, sort_of, word_sort
from ...evidence.safety import cautions_for
from ..believe.belief import Belief
from ..believe.discrete import information
from ..believe.fit import DRIFT, STRAY, insulation_sigma
from ..believe.likelihood import BLUNDER
from ..predict.prediction import Prediction, interpolate, touched
from ..predict.scale import off_scale, scale_uncertainty
from ..predict.workup import Workup
from .effort import Situation, behind, minutes_for

__all__ = [
    "CAREFUL",
    "Advice",
    "Expectation",
    "Outlook",
    "Weighed",
    "advise",
    "describe",
    "described",
    "described_with",
    "expectations",
    "expectations_of",
    "gains",
    "repeats",
    "skipped",
    "together",
    "worth_offering",
]

CAREFUL = judged("CAREFUL", 0.85, "times", "what a test that could hurt someone counts for: a safe one goes first", OWN_RULE)
LEAST_GAIN_BITS = judged("LEAST_GAIN_BITS", 0.01, "bit", "the least that a proposed test tells", OWN_RULE)
FUSES_WEIGHED = 2
METER_AMPS = judged("METER_AMPS", 10.0, "A", "what the ammeter input of a hand-held meter carries")
TOLERATED_RISK = judged("TOLERATED_RISK", 0.005, "share", "the chance taken that a suspect would send more through it")
_MUCH = 0.5  # share of that
SHOWN_EXPECTATIONS = 5
_WITH = "What tells is how far this lies from the same in state {}"
_BINS, _COARSE_BINS, _BLOCK = 48, 14, 64
OFTEN_ENOUGH = 3  # times that a reading is taken: after that it was no slip
_LOOKED_AT_AGAIN, _LOOKED_FURTHER, _MOST_ATOMS = 16, 24, 100
_KEPT_MASS = 0.998
_LIKELY, _LIKELY_OTHER = 0.002, 1e-5  # of one atom; of one hypothesis


@dataclass(frozen=True, slots=True)
class Expectation:
    """What a suspect would make the meter show (SI; infinite for OL), or a person see (``word``). ``part`` None: nothing wrong."""

    part: str | None
    mode: str | None
    value: float
    word: str = ""


@dataclass(frozen=True, slots=True)
class Advice:
    """A proposed test: ``minutes`` it takes here and now, ``gain_bits`` about the repair, what it would show, and what to mind.

    ``proves`` is set when its reading could by itself prove the leading suspect; ``stands`` says how the vehicle stands in its state, which
    ``steps`` say as well.
    """

    test: Measurement | Question
    minutes: float
    gain_bits: float
    expect: tuple[Expectation, ...]
    cautions: tuple[str, ...] = ()
    steps: tuple[str, ...] = ()
    proves: bool = False
    stands: str = ""

    @property
    def other_steps(self) -> tuple[str, ...]:
        """The steps besides bringing the vehicle into the state."""
        return tuple(step for step in self.steps if step != _state_step(self.test, self.stands))


class Outlook:
    """The posterior's atoms that matter, and what tests would show under each, with tolerances as the readings have narrowed them."""

    def __init__(self, belief: Belief):
        atoms, evidence = belief.atoms, belief.evidence
        order = np.argsort(ranks(atoms.mass), kind="stable")
        count = min(int(np.searchsorted(np.cumsum(atoms.mass[order]), _KEPT_MASS)) + 1, _MOST_ATOMS)
        items = belief.workup.hypotheses.items
        names = list(dict.fromkeys(item.part for item in items))
        number = {name: i for i, name in enumerate(names)}
        owner = np.array([number[item.part] for item in items])[atoms.hypothesis]
        chosen = order[:count]
        chosen = chosen[np.lexsort((chosen, owner[chosen]))]  # those of one target stand together
        self.belief = belief
        self.chosen = chosen
        self.hypothesis = atoms.hypothesis[chosen]
        self.mass = atoms.mass[chosen] / atoms.mass[chosen].sum()
        self.near = atoms.spot.near[chosen]
        self.rows, self.which = np.unique(self.near, return_inverse=True)
        self.spread, self.precision = evidence.spread(self.rows), evidence.precision(self.rows)  # (U, R, K), (U)
        spot = atoms.spot.at(chosen)
        residual = evidence.value - evidence.expected(spot, belief.step(self.hypothesis))  # (A, R)
        self.pull = self.precision.at(self.which).times(residual[:, :, None])[:, :, 0]
        self.starts = np.flatnonzero(np.r_[True, np.diff(owner[chosen]) > 0])
        self._told: dict[Measurement, tuple[Floats, Floats, float]] = {}
        self._on_offer: Prediction | None = None

    @cached_property
    def target(self) -> Floats:
        """(A, G) joint masses of the atoms and the repair targets that any of them stands for."""
        target = np.zeros((len(self.mass), len(self.starts)))
        own = np.searchsorted(self.starts, np.arange(len(self.mass)), side="right") - 1
        target[np.arange(len(self.mass)), own] = self.mass
        return target

    @cached_property
    def _points(self) -> tuple[NDArray[np.intp], NDArray[np.intp]]:
        """The atoms that are looked at with their neighbours, each once, and where among them each one, its left and its right are."""
        atoms = self.belief.atoms
        return np.unique(np.concatenate([self.chosen, atoms.left[self.chosen], atoms.right[self.chosen]]), return_inverse=True)

    @cached_property
    def touched(self) -> NDArray[np.intp]:
        """The rows between which those lie, ascending."""
        atoms, points = self.belief.atoms, self._points[0]
        return np.union1d(touched(atoms.spot.at(points), self.belief.step(atoms.hypothesis[points])), self.rows)

    def predict_on_offer(self, columns: NDArray[np.intp]) -> Prediction:
        """What some of the tests on offer would show under the atoms. All of them are worked out, for `predict` to find."""
        if self._on_offer is None:
            self._on_offer = self.belief.workup.predict(self.belief.workup.on_offer, self.touched)
        return self._on_offer.take(columns)

    def predict(self, tests: tuple[Measurement, ...]) -> Prediction:
        """What tests would show under the atoms."""
        on_offer = self.belief.workup.column_on_offer
        if self._on_offer is not None and all(test in on_offer for test in tests):
            return self._on_offer.take([on_offer[test] for test in tests])
        return self.belief.workup.predict(tests, self.touched)

    def told(self, tests: tuple[Measurement, ...]) -> tuple[Floats, Floats, Floats]:
        """Mean and standard deviation (T, A) of tests' numbers as `forecast` gives them, and the share (T,) of what they tell that stray
        volts leave; each test is worked out once."""
        missing = tuple(test for test in dict.fromkeys(tests) if test not in self._told)
        on_offer = self.belief.workup.column_on_offer
        for some in (tuple(t for t in missing if t in on_offer), tuple(t for t in missing if t not in on_offer)):
            for start in range(0, len(some), _BLOCK):
                breathe()
                block = some[start : start + _BLOCK]
                prediction = self.predict(block)
                mean, sigma = self.forecast(block, prediction, self.belief.workup.spread(block, self.rows))
                self._told.update(zip(block, zip(mean, sigma, _kept_by_stray(self, prediction), strict=True), strict=True))
        count = len(self.mass)
        mean, sigma = (np.array([self._told[t][k] for t in tests]).reshape(len(tests), count) for k in (0, 1))
        return mean, sigma, np.array([self._told[t][2] for t in tests])

    def values(self, prediction: Prediction) -> tuple[Floats, Floats]:
        """Numbers (A, T) on their scales, and half the gap (A, T) to the neighbouring atoms: an atom stands for a stretch of severity."""
        (points, which), atoms = self._points, self.belief.atoms
        found = interpolate(prediction, atoms.spot.at(points), self.belief.step(atoms.hypothesis[points]))
        own, left, right = np.split(found[which], 3)
        return own, (right - left) / 4.0

    def forecast(
        self, tests: tuple[Measurement, ...], prediction: Prediction, spread: Floats, roughly: bool = False
    ) -> tuple[Floats, Floats]:
        """Mean and standard deviation (T, A) of the tests' numbers; ``spread`` (U, T, K) is what tolerances do to them at the outlook's
        rows, or ``roughly`` (1, T, K) that of a sound circuit."""
        own, gap = self.values(prediction)
        theirs, precision, which = self.spread, self.precision, self.which
        if roughly:
            sound = np.zeros(1, dtype=np.intp)
            evidence = self.belief.evidence
            theirs, precision, which = evidence.spread(sound), evidence.precision(sound), np.zeros_like(which)
        shared = theirs @ np.swapaxes(spread, 1, 2)  # (U, R, T)
        known = (precision.times(shared) * shared).sum(axis=1)
        tolerance = np.maximum((spread**2).sum(axis=2) - known, 0.0)
        drift = np.abs(spread[:, :, self.belief.workup.supplies]).sum(axis=2) * DRIFT
        common = (tolerance + drift**2)[which]
        if roughly:  # one row: no need to spell it out for every atom
            mean = own + self.pull @ shared[0]
        else:
            mean = own + (self.pull[:, None, :] @ shared[which])[:, 0]
        stray = insulation_sigma(own, prediction.stray[prediction.place(self.near)])
        variance = common + gap**2 + scale_uncertainty(own, tests) ** 2 + stray**2
        return mean.T, np.sqrt(variance).T

    def difference(self, first: Measurement, second: Measurement) -> tuple[Floats, Floats]:
        """Mean and standard deviation (A,) of how far two tests' numbers lie apart: what both share, as a battery's own volts, goes out."""
        workup, both = self.belief.workup, (first, second)
        prediction = self.predict(both)
        own, gap = self.values(prediction)
        each = workup.spread(both, self.rows)  # (U, 2, K)
        spread = each[:, 0] - each[:, 1]
        shared = np.einsum("urk,uk->ur", self.spread, spread)
        known = (shared * self.precision.times(shared[:, :, None])[:, :, 0]).sum(axis=1)
        drift = np.abs(each[:, :, workup.supplies]).sum(axis=2) * DRIFT
        common = np.maximum((spread**2).sum(axis=1) - known, 0.0) + (drift**2).sum(axis=1)
        alone = scale_uncertainty(own, both) ** 2 + insulation_sigma(own, prediction.stray[prediction.place(self.near)]) ** 2
        mean = own[:, 0] - own[:, 1] + (shared[self.which] * self.pull).sum(axis=1)
        return mean, np.sqrt(common[self.which] + (gap[:, 0] - gap[:, 1]) ** 2 + alone.sum(axis=1))


def _information(mean: Floats, sigma: Floats, mass: Floats, starts: NDArray[np.intp], bins: int = _BINS) -> Floats:
    """Bits (T,) between the binned number and the repair target; ``mean`` and ``sigma`` (T, A), ``mass`` (A,), and where the atoms of each
    target start (G,)."""
    marks = np.concatenate([mean - 1.5 * sigma, mean, mean + 1.5 * sigma], axis=1)
    edges = np.quantile(marks, np.linspace(0.0, 1.0, bins), axis=1).T  # (T, B)
    below = ndtr_nearly((edges[:, :, None] - mean[:, None, :]) / sigma[:, None, :])  # (T, B, A)
    each = np.add.reduceat(mass, starts)
    top = np.broadcast_to(each, (len(mean), 1, len(each)))
    reached = np.add.reduceat(below * mass, starts, axis=2)  # (T, B, G)
    joint = np.maximum(np.diff(reached, axis=1, prepend=0.0, append=top), 0.0)  # (T, B + 1, G)
    outcome = joint.sum(axis=2)
    nats = xlogy(joint, joint).sum(axis=(1, 2)) - xlogy(outcome, outcome).sum(axis=1) - xlogy(each, each).sum()
    bits: Floats = np.maximum(nats / math.log(2.0), 0.0)
    return bits


def gains(belief: Belief, tests: tuple[Measurement, ...], outlook: Outlook | None = None) -> Floats:
    """Bits (T,) that each test is expected to tell about the repair target."""
    outlook = outlook or Outlook(belief)
    mean, sigma, kept = outlook.told(tests)
    bits = np.zeros(len(tests))
    for start in range(0, len(tests), _BLOCK):
        breathe()
        own = slice(start, start + _BLOCK)
        bits[own] = _information(mean[own], sigma[own], outlook.mass, outlook.starts) * kept[own]
    return bits


def _kept_by_stray(outlook: Outlook, prediction: Prediction) -> Floats:
    """(T,) where a likely suspect leaves a probe floating, stray volts may spoil the test as often as they spoil a reading."""
    likely = prediction.place(outlook.near[outlook.mass > _LIKELY])
    kept: Floats = 1.0 - STRAY * np.minimum(prediction.stray[likely].max(axis=0, initial=0.0), 1.0)
    return kept


def screened(belief: Belief, outlook: Outlook, columns: NDArray[np.intp]) -> Floats:
    """Bits (len(columns),) of tests on offer, told more coarsely than `gains` does: tolerances are those of a sound circuit."""
    workup = belief.workup
    tests = tuple(workup.on_offer[i] for i in columns)
    screened_bits = np.zeros(len(columns))
    # What hardly differs between the suspects needs no closer look.
    everything = outlook.predict_on_offer(columns)
    value = everything.value[everything.place(outlook.rows)]
    least = scale_uncertainty(value[:1], tests)[0]
    differs = np.flatnonzero(np.ptp(value, axis=0) > least)
    if not differs.size:
        return screened_bits
    columns, told = columns[differs], everything.take(differs)
    mean, sigma = outlook.forecast(tuple(tests[i] for i in differs), told, workup.sound_spread[None, columns], roughly=True)
    apart = np.ptp(mean, axis=1) > sigma.min(axis=1)
    bits = np.zeros(len(columns))
    for start in range(0, int(apart.sum()), _BLOCK):
        breathe()
        own = np.flatnonzero(apart)[start : start + _BLOCK]
        bits[own] = _information(mean[own], sigma[own], outlook.mass, outlook.starts, _COARSE_BINS)
    screened_bits[differs] = bits * _kept_by_stray(outlook, told)
    return screened_bits


def together(outlook: Outlook, first: Measurement, second: Measurement) -> float:
    """Bits that two readings tell by how far they lie apart."""
    mean, sigma = outlook.difference(first, second)
    return float(_information(mean[None], sigma[None], outlook.mass, outlook.starts)[0])


def worth_offering(belief: Belief) -> tuple[Measurement, ...]:
    """The tests on offer that are not taken yet and can be done here. Ammeter tests only at the fuses that feed what is most suspected, and
    none that could blow the meter: a short would go through it."""
    sheet = belief.workup.sheet
    taken, missing = {as_offered(sheet, r.test) for r in belief.readings}, skipped(belief)
    offered = tuple(t for t in belief.workup.offered if t not in taken and not _needs(belief, t, missing))
    amps = _suspected_fuses(belief, tuple(t for t in offered if t.instrument == "amps"))
    harmless = frozenset(_harmless(belief, amps))
    return tuple(t for t in offered if t.instrument != "amps" or t in harmless)


def _harmless(belief: Belief, tests: tuple[Measurement, ...]) -> tuple[Measurement, ...]:
    """The ammeter tests through which hardly any suspect would send more than the meter carries, each taken at the severity of the grid
    that is nearest."""
    workup, atoms = belief.workup, belief.atoms
    rows, which = np.unique(atoms.spot.near, return_inverse=True)
    mass = np.bincount(which, weights=atoms.mass)
    found = []
    for test in tests:
        some = np.flatnonzero(_may_be_much(workup, test, rows))
        if not some.size or mass[some] @ (np.abs(workup.values((test,), rows[some])[:, 0]) > METER_AMPS) <= TOLERATED_RISK:
            found.append(test)
    return tuple(found)


def _may_be_much(workup: Workup, test: Measurement, rows: NDArray[np.intp]) -> NDArray[np.bool_]:
    """(m,) rows in which an ammeter might carry too much. In the place of a fuse it carries about what that does, unless the fuse has
    melted or is what is wrong, or a contact stands otherwise than in a sound circuit: what cuts off at a limit may not do so with the
    meter in."""
    table, network = workup.table(Setup(test.state, "volts")), workup.network
    points, sound = table.points_at(rows), table.points_at(np.zeros(1, dtype=np.intp))
    joins = np.flatnonzero(network.between(test.red, test.black))
    parts = {network.keys[element][0] for element in joins}
    own = np.array([item.part in parts for item in workup.hypotheses.items])[workup.curves.hypothesis[workup.curves.of_row[rows]]]
    amps = np.abs(points.amps_through(joins)).sum(axis=1)
    otherwise = points.chatter | (points.pulled != sound.pulled).any(axis=1)
    may_be: NDArray[np.bool_] = own | otherwise | (workup.curves.fuses[rows] > 0) | (amps > _MUCH * METER_AMPS)
    return may_be


def as_offered(sheet: Sheet, test: Measurement) -> Measurement:
    """A test under the state in which it is offered: with the battery off several states are one."""
    return replace(test, state=sheet.resting[test.state]) if test.dead else test


def skipped(belief: Belief) -> frozenset[str]:
    """What the user says cannot be done here: places, instruments, states, parts, accesses."""
    return left_out(observations(belief.items))


def _needs(belief: Belief, test: Measurement | Question, missing: frozenset[str]) -> bool:
    """Whether a test needs what is left out."""
    if not missing:
        return False
    places = belief.workup.sheet.places
    behind = {places[p].behind for p in (test.red, test.black) if p in places}
    return bool({test.instrument, test.red, test.black, test.state, *behind} & missing)


def _suspected_fuses(belief: Belief, tests: tuple[Measurement, ...]) -> tuple[Measurement, ...]:
    """The ammeter tests at the few fuses on whose paths most of the suspicion lies."""
    parts = belief.parts()
    suspicion = dict.fromkeys(((t.red, t.black) for t in tests), 0.0)
    for red, black in suspicion:
        fed = {part for path in belief.workup.paths if {red, black} <= set(path.nodes) for part in path.parts}
        suspicion[red, black] = sum(parts[part] for part in fed)
    kept = list(in_order(suspicion))[:FUSES_WEIGHED]
    return tuple(t for t in tests if (t.red, t.black) in kept)


def advise(belief: Belief, tests: tuple[Measurement | Question, ...] | None = None, most: int = 5) -> tuple[Advice, ...]:
    """The best next tests, best first: greatest gain per minute, ties by fewer minutes and then by the sheet's order.

    ``tests`` restricts the choice; tests that tell less than a hundredth of a bit are left out.
    """
    return ranked(belief, Weighed.of(belief, tests), most)


def ranked(belief: Belief, weighed: Weighed, most: int = 5) -> tuple[Advice, ...]:
    """Weighed tests as advice, in their order."""
    chosen: dict[tuple[str, str, str], int] = {}  # the same leads in another state are no other proposal
    for i in weighed.order:
        test = weighed.tests[i]
        if weighed.bits[i] >= LEAST_GAIN_BITS:
            chosen.setdefault((test.instrument, test.red, test.black), i)
    best = list(chosen.values())[:most]
    expected = expectations_of(belief, tuple(weighed.tests[i] for i in best))
    return tuple(
        describe(belief, weighed.tests[i], float(weighed.bits[i]), then=weighed.then.get(i), expect=expect)
        for i, expect in zip(best, expected, strict=True)
    )


@dataclass(frozen=True)
class Weighed:
    """Tests with what they tell (bits), by which ``outlook``, and their ``order`` of worth per minute, best first, without those that
    tell nothing. Where a test tells more together with another one after it, ``then`` names that one; what both tell is shared out between
    them by their minutes."""

    outlook: Outlook
    tests: tuple[Measurement | Question, ...]
    bits: Floats
    order: tuple[int, ...]
    then: dict[int, Measurement]

    @classmethod
    def of(cls, belief: Belief, tests: tuple[Measurement | Question, ...] | None = None) -> Weighed:
        """Weigh what is on offer, or only ``tests``: all of it coarsely, the best once more with finer bins."""
        sheet, outlook = belief.workup.sheet, Outlook(belief)
        missing = skipped(belief)
        if tests is None:
            numbers = worth_offering(belief)
            questions = tuple(q for q in worth_looking(belief) if not _needs(belief, q, missing))
        else:
            numbers = tuple(t for t in tests if isinstance(t, Measurement))
            questions = tuple(t for t in tests if isinstance(t, Question))
        on_offer = belief.workup.column_on_offer
        known = [i for i, test in enumerate(numbers) if test in on_offer]
        bits = np.zeros(len(numbers) + len(questions))
        if known:
            bits[known] = screened(belief, outlook, np.array([on_offer[numbers[i]] for i in known]))
        for i, question in enumerate(questions, len(numbers)):
            bits[i] = question_gain(belief.workup, outlook, question)
        every: tuple[Measurement | Question, ...] = (*numbers, *questions)
        here = Situation.of(sheet, belief.items)
        others = [i for i in range(len(numbers)) if numbers[i] not in on_offer]
        # How full the battery is is known from what was read of it, which a coarse look at a sound one's tolerances leaves out.
        battery = [i for i in _of_the_battery(sheet, numbers) if numbers[i] in on_offer]
        telling = list(dict.fromkeys([*np.flatnonzero(bits > 0.0).tolist(), *battery, *others]))
        minutes = {i: minutes_for(sheet, every[i], here) for i in telling}
        rate = {i: (CAREFUL if is_hazardous(sheet, every[i]) else 1.0) / minutes[i] for i in telling}
        coarse = [i for i in telling if i < len(numbers) and numbers[i] in on_offer]
        roughly = dict(zip(coarse, ranks([float(rate[i] * bits[i]) for i in coarse]).tolist(), strict=True))
        best = sorted(coarse, key=lambda i: (roughly[i], i))
        again = list(dict.fromkeys([*others, *battery, *best[:_LOOKED_AT_AGAIN]]))
        outlook.told(tuple(numbers[i] for i in dict.fromkeys([*again, *best[:_LOOKED_FURTHER]])))  # those of the look ahead with them
        if again:
            bits[again] = gains(belief, tuple(numbers[i] for i in again), outlook)
        then: dict[int, Measurement] = {}
        for i, j, told in _at_the_battery(sheet, outlook, numbers):
            for first, second in ((i, j), (j, i)):
                minutes[first] = minutes_for(sheet, every[first], here)
                rate[first] = (CAREFUL if is_hazardous(sheet, every[first]) else 1.0) / minutes[first]
                share = told * minutes[first] / (minutes[first] + minutes_for(sheet, every[second], here.after(sheet, every[first])))
                if share > bits[first]:
                    bits[first], then[first] = share, numbers[second]
        telling = list(dict.fromkeys([*telling, *then]))
        worth = dict(zip(telling, ranks([float(rate[i] * bits[i]) for i in telling]).tolist(), strict=True))
        order = sorted(telling, key=lambda i: (worth[i], minutes[i], i))
        return cls(outlook, every, bits, tuple(order), then)


def _of_the_battery(sheet: Sheet, tests: tuple[Measurement, ...]) -> list[int]:
    """Numbers of the tests that read the battery's volts, in whatever state."""
    return [i for i, t in enumerate(tests) if (t.instrument, t.red, t.black) == ("volts", sheet.plus, sheet.minus)]


def _at_the_battery(sheet: Sheet, outlook: Outlook, tests: tuple[Measurement, ...]) -> list[tuple[int, int, float]]:
    """Pairs of ``tests`` of the battery's volts in two states, with the bits that they tell together: since nobody knows how full it is,
    one alone says little of how it holds up."""
    own = _of_the_battery(sheet, tests)
    return [(i, j, together(outlook, tests[i], tests[j])) for n, i in enumerate(own) for j in own[n + 1 :]]


def worth_looking(belief: Belief) -> tuple[Question, ...]:
    """What can be seen or read out and has not been yet, nor been told."""
    done = {item.test for item in observations(belief.items)} | answered(belief.items)
    return tuple(question for question in belief.workup.questions if question not in done)


def question_gain(workup: Workup, outlook: Outlook, question: Question) -> float:
    """Bits that an answer is expected to tell about the repair target."""
    return information(outlook.target, workup.chances_at(question, outlook.near))


def repeats(belief: Belief, target: tuple[str, ...], readings: tuple[int, ...], why: str) -> tuple[tuple[float, Advice], ...]:
    """Some readings taken once more, each with the bits a minute that this tells: whether one was a slip, which is what speaks for any
    other suspect than the target. Best first; ``why`` is said of each."""
    items, sheet = belief.workup.hypotheses.items, belief.workup.sheet
    own = target or (None,)
    others = np.array([h for h, item in enumerate(items) if item.part not in own and belief.probability[h] > _LIKELY_OTHER])
    if not others.size:
        return ()
    odd = belief.explain(others)[2]  # (n, R)
    mass = belief.probability[others]
    here = Situation.of(sheet, belief.items)
    missing, weighed = skipped(belief), []
    taken = Counter(reading.test for reading in belief.readings)
    for k in readings:
        if (
            belief.readings[k].elsewhere
            or _needs(belief, belief.readings[k].test, missing)
            or taken[belief.readings[k].test] >= OFTEN_ENOUGH
        ):
            continue
        slip = float(mass @ odd[:, k])
        joint = np.array([[1.0 - mass.sum(), 0.0], [0.0, slip], [0.0, float(mass.sum()) - slip]])
        again, differs = [1.0 - BLUNDER, BLUNDER], [BLUNDER, 1.0 - BLUNDER]
        bits = information(joint, np.array([again, differs, again]))
        test = belief.readings[k].test
        told = describe(belief, test, bits)
        rate = bits / minutes_for(sheet, test, here)
        weighed.append((rate, replace(told, steps=(f"Once more: reading {belief.numbers[k] + 1} {why}", *told.steps))))
    place = ranks([rate for rate, _ in weighed])
    return tuple(weighed[i] for i in np.argsort(place, kind="stable"))


def describe(
    belief: Belief, test: Measurement | Question, gain_bits: float, proves: bool = False, then: Measurement | None = None,
    expect: tuple[Expectation, ...] | None = None,
) -> Advice:  # fmt: skip
    """A test with its minutes, expectations under the leading suspects, cautions and steps; ``then`` is the one to be taken after it,
    ``expect`` what is expected where that is at hand."""
    sheet = belief.workup.sheet
    here = Situation.of(sheet, belief.items)
    minded = tuple(caution.text for caution in cautions_for(sheet, test))
    after = [_WITH.format(then.state)] if then else []
    return Advice(
        test,
        minutes_for(sheet, test, here),
        gain_bits,
        expectations(belief, test) if expect is None else expect,
        minded,
        (*_steps(sheet, test, here.gained), *after),
        proves,
        _stands(sheet, test),
    )


def described_with(belief: Belief, tests: tuple[Measurement, ...], bits: Floats) -> tuple[Advice, ...]:
    """Measurements with the bits that each tells."""
    expected = expectations_of(belief, tests)
    return tuple(describe(belief, test, float(told), expect=own) for test, told, own in zip(tests, bits, expected, strict=True))


def described(belief: Belief, test: Measurement | Question) -> Advice:
    """Any test, proposed or not, with what it would tell here and now."""
    if isinstance(test, Question):
        told = question_gain(belief.workup, Outlook(belief), test) if word_sort(test).from_circuit else 0.0
    else:
        told = float(gains(belief, (test,))[0])
    return describe(belief, test, told)


def expectations(
    belief: Belief, test: Measurement | Question, most: int = SHOWN_EXPECTATIONS, also: Collection[str] = ()
) -> tuple[Expectation, ...]:
    """What the leading suspects, a sound circuit, and the likeliest fault of some parts ``also`` would make the meter show, or a person
    see."""
    return expectations_of(belief, (test,), most, also)[0]


def expectations_of(
    belief: Belief, tests: Sequence[Measurement | Question], most: int = SHOWN_EXPECTATIONS, also: Collection[str] = ()
) -> list[tuple[Expectation, ...]]:
    """The same of several tests."""
    items, atoms, workup = belief.workup.hypotheses.items, belief.atoms, belief.workup
    order = np.argsort(ranks(belief.probability), kind="stable")
    leading = [int(h) for h in order if h != 0][: most - 1]
    first = {items[h].part: int(h) for h in order[::-1]}  # the likeliest of each part
    leading += [first[part] for part in also if first[part] not in leading]
    place = ranks(belief.probability)
    chosen = sorted([0, *leading], key=lambda h: (place[h], h))
    spot = atoms.spot.at(belief.best[chosen])
    numbers = tuple(test for test in tests if isinstance(test, Measurement))
    columns = iter(workup.at_spots(numbers, spot, belief.step(np.array(chosen)))[0].T)
    found = []
    for test in tests:
        if isinstance(test, Question):
            words = tuple(outcomes_of(workup.sheet, test))
            told = [(float(k), words[k]) for k in workup.chances_at(test, spot.near).argmax(axis=1)]
        else:
            told = [(off_scale(float(value), test.instrument), "") for value in next(columns)]
        found.append(tuple(Expectation(items[h].part, items[h].mode, *each) for h, each in zip(chosen, told, strict=True)))
    return found


def is_hazardous(sheet: Sheet, test: Measurement | Question) -> bool:
    """Whether a test carries a caution of its own, besides those of the whole sheet."""
    return any(caution.text != sheet.caution for caution in cautions_for(sheet, test))


def _steps(sheet: Sheet, test: Measurement | Question, gained: frozenset[str]) -> tuple[str, ...]:
    """What to do before the leads go on, in order."""
    steps = []
    for name in dict.fromkeys(behind(sheet, test)):
        if name and name not in gained:
            entry = sheet.access[name]
            steps.append(f"Open the way: {entry.note or entry.name} ({entry.minutes:g} min)")
    if test.dead:
        on_cables = {sheet.plus, sheet.minus} & {test.red, test.black}
        where = "; leads on the cable clamps, never on the posts" if on_cables else ""
        steps.append(f"Disconnect the battery: an ohmmeter wants a dead circuit{where}")
    if test.instrument == "amps":
        steps.append("Pull the fuse and put the ammeter in its place, on its highest range first")
    stands = _stands(sheet, test)
    if test.state and (stands or not test.dead):
        steps.append(_state_step(test, stands))
    asked = sort_of(test).asks(sheet, test)
    return (*steps, asked) if asked else tuple(steps)


def _stands(sheet: Sheet, test: Measurement | Question) -> str:
    """How the vehicle stands in a test's state: ``key on, door switch closed``."""
    if not test.state:
        return ""
    # With the battery off nobody can switch what needs power, and nothing comes of it.
    positions = [(sheet.parts[p], position) for p, position in sheet.states[test.state].positions.items()]
    worked = [f"{part.called} {position}" for part, position in positions if not (test.dead and part.rests_unpowered)]
    return ", ".join(filter(None, (sheet.states[test.state].stands if not test.dead else "", *worked)))


def _state_step(test: Measurement | Question, stands: str) -> str:
    return f"State {test.state}" + (f": {stands}" if stands else "")
