"""Beyond one lasting fault of the circuit as it is drawn: faults that come and go, two at once, a diagram that is wrong here, and what none
of these explains.

These are looked into when the evidence asks for it: when a reading fits no single fault, when something changed as it was moved, when the
complaint is there only sometimes, or when somebody asks. Each is weighed by the same likelihood as the single faults, so that all of them
stand in one ranking.
"""

from __future__ import annotations

import dataclasses
import math
from collections.abc import Iterator, Sequence
from dataclasses import dataclass
from functools import cached_property
from itertools import combinations

import numpy as np
from numpy.typing import NDArray
from scipy.special import logsumexp

from ...base.arrays import Floats
from ...base.judgement import judged
from ...base.patience import breathe
from ...base.quantity import show
from ...circuit.fault import Fault, apply_faults, mode_of
from ...circuit.network import Cases, Network
from ...circuit.operate import dead_points, operating_points
from ...circuit.part import SUPPLY, Effect, Element, Law, Span
from ...circuit.sensitivity import Tolerances
from ...circuit.sheet import Part, Sheet
from ...circuit.unplug import taken_off
from ...circuit.wear import in_use
from ...evidence.asked import Measurement, Setup
from ...evidence.items import observations
from ...evidence.registry import hints, word_sort
from ..predict.chances import log_factor
from ..predict.responses import BRIDGED_SHARE
from ..predict.scale import scale_uncertainty
from ..predict.table import Curves, Table
from ..predict.workup import Workup
from .belief import Belief
from .fit import Spot, blunder_chance
from .likelihood import BLUNDER, Precision, log_likelihood

__all__ = ["Beyond", "beyond", "undrawn", "undrawn_loads", "wanted"]

UNDRAWN = judged("UNDRAWN", 0.006, "share", "jobs whose fault is nowhere on the sheet")
TWO_FAULTS = judged("TWO_FAULTS", 0.03, "share", "jobs with two faults at once")
WRONG_DIAGRAM = judged("WRONG_DIAGRAM", 0.01, "share", "jobs whose vehicle is built in another way than it is drawn")
UNDRAWN_LOADS = judged(
    "UNDRAWN_LOADS", 0.5, "times", "how often something that nobody drew takes a load's current, for each time that a short takes as much"
)
INTERMITTENT = judged("INTERMITTENT", 0.1, "share", "faults of joints and contacts that come and go")
PRESENT = judged("PRESENT", 0.5, "share", "readings at which a fault is there that comes and goes")
STIRRED_NATS = judged("STIRRED_NATS", 0.5, "nat", "what a change at a part adds to the evidence of a fault there that comes and goes")
_FINER = 6  # looks between two grid severities for a fault that comes and goes
_FIRST, _REFINED = 4, 20  # faults tried as the first of two; pairs looked at more closely
_EXTRA_OHMS = np.geomspace(0.5, 1000.0, 13)  # of a load that is not drawn: from a blower to a lamp that tells something
_FINER_LOADS, _LOOKS_CLOSER = 17, 2  # ohms looked at between two of those, and between two of these again
_STRAIN = 0.6
_MOST_LOADS, _BESIDE_A_LOAD = 2, 8  # loads beside which faults are looked for, and faults of either order
_LOAD_KNOWN = 0.03  # share by which a load's ohms are known
_SUSPECTED = 0.05  # least probability from which on a load is looked for at every place
_LOOKED_AT, _LOAD_AMPS = 0.005, 10.0  # least probability of a short that a load is thought of beside; the most that a load draws
_SMALL_LOAD_AMPS = judged("SMALL_LOAD_AMPS", 3.0, "A", "what takes less than this is the likelier a load the less it takes")
_LEAST_LOAD_AMPS = judged("LEAST_LOAD_AMPS", 0.03, "A", "the same, but what takes less than this is no likelier for that")
_NO_MATTER, _SLACK = 8.0, 6.0  # nats behind the best from which on an explanation is left out; what a rough bound may be off by
_FAR = 5.0  # standard deviations from which on a reading does not fit a diagram
_BETWEEN_COARSE = 0.6  # a coarse look forgives more than its steps, since numbers bend between them
_GENEROUS = 0.15  # share of blunders allowed when looking for what explains most of the readings


@dataclass(frozen=True, slots=True)
class Beyond:
    """An explanation beyond one lasting fault: its ``kind`` (``two``, ``sometimes``, ``loaded``, ``diagram``, ``undrawn``), the parts at
    fault, the words for it, and its log evidence with prior, on the scale of `Belief.log_evidence`."""

    kind: str
    parts: tuple[str, ...]
    words: str
    log_joint: float


def wanted(belief: Belief, strain: float, undrawn: float) -> bool:
    """Whether the evidence asks for more than single faults. ``strain`` is how many readings the leading suspects take for blunders,
    ``undrawn`` the share of what is not drawn."""
    asked = any(hint.asks for hint in hints(belief.workup.sheet, observations(belief.items)))
    return asked or (len(belief.items) >= 2 and (strain > _STRAIN or undrawn > 0.02))


def undrawn(belief: Belief) -> Beyond:
    """What is nowhere on the sheet: every reading may be anything."""
    log = math.log(UNDRAWN) - float(np.log(belief.evidence.scale).sum())
    for item in observations(belief.items):
        if word_sort(item).from_circuit:
            log -= math.log(4.0)
    return Beyond("undrawn", (), "nothing that is drawn explains this: a part or wire that is not on the sheet, or wrong readings", log)


def undrawn_loads(belief: Belief) -> list[Beyond]:
    """Something that is not drawn and draws current, where nothing asks for more than one lasting fault. Where a wire may be fed from plus,
    or a winding seems to have lost turns, it may be anywhere: an ohmmeter finds the same path through either."""
    found, anywhere = _loads_beside_shorts(belief)
    if anywhere and belief.readings:
        loads = [variant for variant in _Variant.all_of(belief.workup) if variant.load is not None]
        found += _other_diagrams(belief, loads, belief.log_evidence - _NO_MATTER)
    return sorted(found, key=lambda b: -b.log_joint)


def _loads_beside_shorts(belief: Belief) -> tuple[list[Beyond], bool]:
    """A load beside every short to ground that takes no more than a load might: the two are one to every meter, and only taking it off
    tells them apart. And whether anything else is suspected that takes as much."""
    workup, found, anywhere = belief.workup, [], False
    for h in np.flatnonzero(belief.probability > _LOOKED_AT).tolist():
        cause, severity = workup.hypotheses.items[h], belief.severity[h]
        if cause.part is None or cause.mode is None or severity is None:
            continue
        takes = _takes_as_a_load(workup, cause.part, cause.mode, severity[0])
        if takes is Span.SHUNT and not _comes_from_plus(workup.sheet, cause.part, cause.mode):
            words, times = _a_load_beside(workup, cause.part, severity[0])
            found.append(Beyond("diagram", (), words, belief.log_evidence + math.log(float(belief.probability[h]) * times)))
        elif takes is not None:
            anywhere = anywhere or belief.probability[h] > _SUSPECTED
    return found, anywhere


def _takes_as_a_load(workup: Workup, part: str, mode: str, ohms: float) -> Span | None:
    """Whether a fault is a short, or turns lost, of so many ohms that it takes no more than a load might: which of the two, None if not."""
    severity = mode_of(workup.sheet, part, mode).severity
    if severity is None or severity.span is Span.SERIES or workup.sheet.supply_volts / ohms > _LOAD_AMPS:
        return None
    return None if severity.span is Span.SHUNT and _inside(workup.sheet, part, mode) else severity.span


def _a_load_beside(workup: Workup, part: str, ohms: float) -> tuple[str, float]:
    """The words for a load that is not drawn where a part has a short of so many ohms, and how many times likelier it is. The less is drawn
    the likelier it is a load: a wire chafes through to ohms, not to hundreds of them."""
    words = f"something not drawn draws current beside {part} (about {show(ohms, 'Ω')}): take it off and see whether the current goes"
    return words, UNDRAWN_LOADS * _likelier_small(workup, _nodes(workup, part), workup.sheet.supply_volts / ohms)


def _likelier_small(workup: Workup, nodes: list[int], amps: float) -> float:
    """How many times likelier a load of so many amperes is there than a large one: small ones are what is fitted, but nobody splices one
    into a line that carries no supply."""
    fed = any(
        float(workup.points(state).volts[0, n]) > 0.5 * workup.sheet.supply_volts for state in workup.sheet.states for n in nodes if n >= 0
    )
    return max(1.0, _SMALL_LOAD_AMPS / max(amps, _LEAST_LOAD_AMPS)) if fed else 1.0


def _inside(sheet: Sheet, part: str, mode: str) -> bool:
    """Whether a mode is a short between points of which one lies inside its part, where nobody splices anything in."""
    touched = {name for name, effect in mode_of(sheet, part, mode).effects if effect is Effect.VALUE}
    return any(pin.startswith("*") for e in sheet.parts[part].elements() if e.name in touched for pin in (e.a, e.b))


def _comes_from_plus(sheet: Sheet, part: str, mode: str) -> bool:
    touched = {name for name, _ in mode_of(sheet, part, mode).effects}
    return any(element.name in touched and SUPPLY in (element.a, element.b) for element in sheet.parts[part].elements())


def _nodes(workup: Workup, part: str) -> list[int]:
    numbers = [workup.network.node(node) for node in workup.sheet.parts[part].pins.values()]
    return [number for number in numbers if number >= 0]


def beyond(belief: Belief) -> tuple[Beyond, ...]:
    """All explanations beyond one lasting fault that come near the best, the likeliest first."""
    said = hints(belief.workup.sheet, observations(belief.items))
    two = max((hint.two for hint in said), default=1.0)
    # What speaks for a fault that comes and goes goes before what speaks against it.
    some = max((hint.sometimes for hint in said if hint.sometimes > 1.0), default=min((hint.sometimes for hint in said), default=1.0))
    _, _, density = _densities(belief)
    others = [undrawn(belief), *_loads_beside_shorts(belief)[0], *_sometimes(belief, some)]

    def floor() -> float:
        return float(logsumexp([belief.log_evidence, *(b.log_joint for b in others)])) - _NO_MATTER

    if belief.readings:
        others += _two(belief, density, two, floor())
        others += _other_diagrams(belief, _Variant.all_of(belief.workup), floor())
        others += _beside_loads(belief, density, floor())
    return tuple(sorted(others, key=lambda b: -b.log_joint))


def _densities(belief: Belief, parts: int = 1) -> tuple[Spot, Floats, Floats]:
    """Spots (S,), every row and ``parts`` − 1 between it and the next of its curve, the readings (S, R) expected there, and the log density
    (S, R) of each by itself, blunders included. A spot stands for its stretch of severity."""
    workup, evidence, curves = belief.workup, belief.evidence, belief.workup.curves
    every = np.arange(curves.rows)
    step = np.repeat(workup.hypotheses.spacing[curves.hypothesis], curves.length)
    last = np.zeros(curves.rows, dtype=bool)
    last[curves.start + curves.length - 1] = True
    count = np.where(last, 1, parts)
    row = np.repeat(every, count)
    spot = Spot(row, (np.arange(len(row)) - np.repeat(np.cumsum(count) - count, count)) / parts)
    value = evidence.expected(spot, np.where(last, 0.0, step)[row])
    spread, near = evidence.spread(every), spot.near
    vague = evidence.uncertainty(every, 0, spread) ** 2 + evidence.prediction.edge**2 + (spread**2).sum(axis=2)
    variance = vague[near] + (evidence.prediction.slope[near] * step[near, None] / (2.0 * parts)) ** 2
    gaussian = -0.5 * ((evidence.value - value) ** 2 / variance + np.log(2.0 * math.pi * variance))
    blunder = np.log(evidence.blunder(every)) - np.log(evidence.scale)
    return spot, value, np.logaddexp(gaussian + math.log1p(-BLUNDER), blunder[near])


def _sometimes(belief: Belief, more: float) -> list[Beyond]:
    """Faults of joints and contacts that are there at some readings and not at others; when it is there, its severity is the same."""
    workup, curves = belief.workup, belief.workup.curves
    spot, value, density = _densities(belief, _FINER)
    prior = min(INTERMITTENT * more, 0.6)
    mixed = np.logaddexp(density + math.log(PRESENT), density[:1] + math.log(1.0 - PRESENT)).sum(axis=1)
    evidence = belief.evidence

    def together(best: int) -> float:
        """What it adds that readings share their tolerances, which looking at each by itself leaves out: each taken as with the fault there
        or not, whichever is likelier."""
        there = density[best] > density[0]
        expected = np.where(there, value[best], value[0])
        alone = float(np.maximum(density[best], density[0]).sum())
        return float(evidence.missed_by((evidence.value - expected)[None], spot.near[[best]])[0]) - alone

    seen = observations(belief.items)
    stirring = [hint.stirred for hint in hints(workup.sheet, seen)]
    factor = np.zeros(curves.rows)
    for item in seen:
        own = log_factor(workup, item)
        if word_sort(item).from_circuit:
            own = np.logaddexp(own + math.log(PRESENT), own[0] + math.log(1.0 - PRESENT))
        factor += own
    found = []
    for c, h in enumerate(curves.hypothesis.tolist()):
        cause = workup.hypotheses.items[h]
        if cause.part is None or cause.mode is None or not comes_and_goes(workup.sheet, cause.part, cause.mode):
            continue
        first, end = np.searchsorted(spot.row, [curves.start[c], curves.start[c] + curves.length[c]])
        own = mixed[first:end] + factor[spot.near[first:end]]
        best = first + int(own.argmax())
        log = float(logsumexp(own)) - math.log(end - first) + together(best)
        stirred = sum(STIRRED_NATS for parts in stirring if cause.part in parts)
        weight = workup.hypotheses.prior[h] * curves.share[c] * prior
        log += stirred + math.log(max(weight, 1e-300))
        found.append(Beyond("sometimes", (cause.part,), f"{cause.words}, but not always", log))
        ohms = math.exp(_log_ohms(curves, c, spot, best)) if cause.swept else 0.0
        plus = _comes_from_plus(workup.sheet, cause.part, cause.mode)
        takes = _takes_as_a_load(workup, cause.part, cause.mode, ohms) if ohms and not plus else None
        if takes is Span.SHUNT:  # switched by something of its own
            words, times = _a_load_beside(workup, cause.part, ohms)
            found.append(Beyond("diagram", (), words.replace("draws current", "draws current now and then"), log + math.log(times)))
    return found


def _log_ohms(curves: Curves, curve: int, spot: Spot, at: int) -> float:
    """Logarithm of the ohms at one of the spots of a curve."""
    grid = curves.grid[curve]
    return float(np.interp(spot.row[at] - curves.start[curve] + spot.part[at], np.arange(len(grid)), grid))


def comes_and_goes(sheet: Sheet, part: str, mode: str) -> bool:
    """Whether a mode is one that may come and go: a break, a bad joint, a chafed wire."""
    entry = next(m for m in sheet.parts[part].modes if m.name == mode)
    return entry.effects[0][1] is Effect.OPEN or (entry.severity is not None and entry.severity.span in (Span.SERIES, Span.SHUNT))


class _Trial:
    """Readings predicted for circuits that are no rows of the workup, weighed with the sound circuit's tolerances."""

    def __init__(self, belief: Belief):
        evidence = belief.evidence
        self.belief, self.workup = belief, belief.workup
        self.tests = tuple(r.test for r in belief.readings)
        self.elsewhere = np.array([r.elsewhere for r in belief.readings], dtype=bool)
        sound = np.zeros(1, dtype=np.intp)
        self.spread = evidence.spread(sound)[0]
        self.value, self.scale = evidence.value, evidence.scale
        self.sound = evidence.prediction.value[0]
        self.own = evidence.uncertainty(sound)[0]
        self.far = _FAR * np.sqrt(self.own**2 + (self.spread**2).sum(axis=1))

    @cached_property
    def by_setup(self) -> dict[Setup, list[int]]:
        """The readings by set-up, those that need the meter in the circuit left out: they are taken as in a sound one."""
        columns: dict[Setup, list[int]] = {}
        for i, test in enumerate(self.tests):
            if not self.elsewhere[i] and test.setup.between is None:
                columns.setdefault(test.setup, []).append(i)
        return columns

    def predicted(self, network: Network, cases: Cases) -> tuple[Floats, Floats]:
        """(M, R) numbers and strays of cases of a network (of any state: it is set to each reading's)."""
        count = len(cases.ohms)
        value, stray = np.tile(self.sound, (count, 1)), np.zeros((count, len(self.tests)))
        for setup, numbers in self.by_setup.items():
            breathe()
            value[:, numbers], stray[:, numbers] = shown_by(network, cases, setup, tuple(self.tests[i] for i in numbers))
        return value, stray

    def log_likelihood(self, value: Floats, stray: Floats, stretch: Floats | None = None) -> Floats:
        """(M,) of all readings; ``stretch`` (M, R, n) is what the severities that each case stands for do to the numbers."""
        meter = np.hypot(scale_uncertainty(value, self.tests), np.abs(value) * stray)
        # The sound circuit's tolerances, brought to as few columns as there are readings.
        shared = np.linalg.cholesky(self.spread @ self.spread.T + 1e-12 * np.eye(len(self.tests)))
        spread = np.broadcast_to(shared, (len(value), *shared.shape))
        if stretch is not None:
            spread = np.concatenate([spread, stretch], axis=2)
        precision = Precision.of(spread, np.hypot(self.own, meter))
        return log_likelihood(self.value - value, precision, self.scale, blunder_chance(stray, self.scale))


def shown_by(network: Network, cases: Cases, setup: Setup, tests: tuple[Measurement, ...]) -> tuple[Floats, Floats]:
    """(M, T) numbers and strays of tests of one set-up in cases of a network."""
    at = network.at(setup.state)
    cases = cases.forcing(taken_off(at, setup.without), -1) if setup.without else cases
    dead = setup.instrument == "ohms"
    points = dead_points(at, cases, setup.state) if dead else operating_points(at, cases, at.positions(setup.state))
    nothing = np.full(len(cases.ohms), -1)
    table = Table(setup, points, Tolerances.of(at), nothing, np.zeros(len(nothing), dtype=np.intp), lambda: None)
    value, _, stray = table.numbers(tests)
    return value, stray


def _two(belief: Belief, density: Floats, more: float, floor: float) -> list[Beyond]:
    """Pairs of faults in two parts whose log evidence may reach ``floor``. The first is one that explains most of the readings, the second
    any other that explains what it does not: each reading is at best what one of the two makes of it at some severity."""
    workup, curves, hypotheses = belief.workup, belief.workup.curves, belief.workup.hypotheses
    at_best = np.maximum.reduceat(density, curves.start, axis=0)  # (C, R)
    total = float(sum(hypotheses.prior[1:]))
    prior_of = np.log(hypotheses.prior[curves.hypothesis] / total * curves.share)
    generous = np.maximum(density, math.log(_GENEROUS) - np.log(belief.evidence.scale)).sum(axis=1)
    best_row = np.array(
        [curves.start[c] + int(generous[curves.start[c] : curves.start[c] + n].argmax()) for c, n in enumerate(curves.length)]
    )
    first: list[int] = []
    # What explains most of the readings, and what is most suspected as it is.
    for order in (np.argsort(-generous[best_row], kind="stable"), np.argsort(-belief.curve_log, kind="stable")):
        fresh = [c for c in order.tolist() if curves.hypothesis[c] != 0 and curves.share[c] > BRIDGED_SHARE and c not in first]
        first += fresh[:_FIRST]
    trial, pairs = _Trial(belief), []
    second = _explains_the_odd(belief, density)
    for c in first:
        span = np.arange(curves.length[c], dtype=float)
        middle = float(best_row[c] - curves.start[c])
        near = span[(np.abs(span - middle) <= 4.0) & ((span - middle) % 2.0 == 0.0)]
        for other in np.flatnonzero((curves.share > BRIDGED_SHARE) & second).tolist():
            one, two = (hypotheses.items[curves.hypothesis[i]] for i in (c, other))
            if two.part is None or two.part == one.part or (other in first and first.index(other) < first.index(c)):
                continue
            prior = math.log(TWO_FAULTS * more) + prior_of[c] + prior_of[other]
            if float(np.maximum(at_best[c], at_best[other]).sum()) + prior < floor - _SLACK:
                continue
            pairs.append((c, other, near, np.arange(0.0, float(curves.length[other]), 2.0)))
    looked = _weighed(trial, pairs, _BETWEEN_COARSE)
    finer = []
    worth = [found for found in looked if found[0] + math.log(TWO_FAULTS * more) + prior_of[found[1]] + prior_of[found[2]] > floor]
    for _, c, other, place, place_of_other in sorted(worth, key=lambda found: -found[0])[:_REFINED]:
        ways = []
        for curve, middle in ((c, place), (other, place_of_other)):
            last = float(curves.length[curve] - 1)
            ways.append(np.arange(max(middle - 2.0, 0.0), min(middle + 2.0, last) + 0.01, 0.25) if last else np.zeros(1))
        finer.append((c, other, ways[0], ways[1]))
    again = {found[1:3]: found for found in _weighed(trial, finer)}
    weighed = []
    for found in worth:
        log, c, other, place, place_of_other = max(found, again.get(found[1:3], found))
        prior = math.log(TWO_FAULTS * more) + float(prior_of[c] + prior_of[other])
        one, two = (hypotheses.items[curves.hypothesis[i]] for i in (c, other))
        sizes = [_size(workup, curve, at) for curve, at in ((c, place), (other, place_of_other))]
        words = f"{one.part} {one.words}{sizes[0]}, and {two.part} {two.words}{sizes[1]}"
        weighed.append(Beyond("two", (str(one.part), str(two.part)), words, log + prior))
    return weighed


def _explains_the_odd(belief: Belief, density: Floats) -> NDArray[np.bool_]:
    """(C,) curves that explain, at some severity, a reading that the leading suspect takes for a blunder; all where there is none."""
    curves = belief.workup.curves
    odd = np.flatnonzero(belief.explain(np.array([int(belief.probability.argmax())]))[2][0] > 0.5)
    if not odd.size:
        return np.ones(len(curves.hypothesis), dtype=bool)
    better = density[:, odd] > np.log(BLUNDER) - np.log(belief.evidence.scale[odd]) + 1.0
    return np.logical_or.reduceat(better.any(axis=1), curves.start)


def _size(workup: Workup, curve: int, place: float) -> str:
    grid = workup.curves.grid[curve]
    return f" ({show(math.exp(float(np.interp(place, np.arange(len(grid)), grid))), 'Ω')})" if len(grid) > 1 else ""


_Pair = tuple[int, int, Floats, Floats]  # two curves, and places on the grid of each


def _weighed(trial: _Trial, pairs: list[_Pair], between: float = 1.0 / math.sqrt(12.0)) -> list[tuple[float, int, int, float, float]]:
    """Of each pair of curves: log evidence over the places looked at, and the likeliest place on each. A place stands for all severities as
    near to it as to its neighbours: ``between`` is the standard deviation of that, in steps."""
    workup, curves, network = trial.workup, trial.workup.curves, trial.workup.network
    if not pairs:
        return []
    sizes = [len(a) * len(b) for _, _, a, b in pairs]
    starts = np.concatenate([[0], np.cumsum(sizes)])
    cases = Cases.healthy(network, int(starts[-1]))
    at = np.zeros((2, int(starts[-1])))
    for (c, other, a, b), start, end in zip(pairs, starts, starts[1:], strict=False):
        at[0, start:end], at[1, start:end] = np.repeat(a, len(b)), np.tile(b, len(a))
        for side, curve in enumerate((c, other)):
            grid = curves.grid[curve]
            logs = np.interp(at[side, start:end], np.arange(len(grid)), grid)
            faults = workup.hypotheses.fault(int(curves.hypothesis[curve]), float(logs[0]))
            apply_faults(network, cases, slice(start, end), faults, np.exp(logs) if len(grid) > 1 else None)
    owner = np.repeat(np.arange(len(pairs)), sizes)
    rows = [curves.start[np.array([pair[side] for pair in pairs])][owner] + np.round(at[side]).astype(int) for side in (0, 1)]
    cases = cases.forcing(curves.blown[rows[0]] | curves.blown[rows[1]], -1)
    value, stray = trial.predicted(network, cases)
    stretch = np.zeros((*value.shape, 2))
    for (_, _, a, b), start, end in zip(pairs, starts, starts[1:], strict=False):
        grid_of = value[start:end].reshape(len(a), len(b), -1)
        for side, places in enumerate((a, b)):
            if len(places) > 1:
                slopes = np.asarray(np.gradient(grid_of, axis=side))
                stretch[start:end, :, side] = slopes.reshape(end - start, -1) * between
    log = trial.log_likelihood(value, stray, stretch) + _seen(trial, rows[0], rows[1])
    weighed = []
    for (c, other, a, b), start, end in zip(pairs, starts, starts[1:], strict=False):
        own = log[start:end]
        top = start + int(own.argmax())
        cell = 0.0  # log of the share of each curve's grid that one place stands for
        for curve, places in ((c, a), (other, b)):
            count = len(curves.grid[curve])
            if count > 1:
                cell += math.log((places[1] - places[0] if len(places) > 1 else 1.0) / count)
        weighed.append((float(logsumexp(own)) + cell, c, other, float(at[0, top]), float(at[1, top])))
    return weighed


def _seen(trial: _Trial, one: NDArray[np.intp], other: NDArray[np.intp]) -> Floats:
    """(n,) what observations say of two faults, by the rows of either: as much as they say of the one that they speak for."""
    seen = np.zeros(len(one))
    for item in observations(trial.belief.items):
        factor = log_factor(trial.workup, item)
        seen += np.maximum(factor[one], factor[other])
    return seen


@dataclass(frozen=True, eq=False)
class _Variant:
    """Another way in which a vehicle may be built: the ``parts`` it concerns, its ``share`` of wrong diagrams, its network and the
    ``cases`` that may be, the ``words`` for it; ``load`` are the ohms of each case where something draws current that is not drawn;
    ``numbers`` keeps what tests show there, (cases,) values and strays."""

    words: str
    parts: tuple[str, ...]
    share: float
    network: Network
    cases: Cases
    load: Floats | None
    numbers: dict[Measurement, tuple[Floats, Floats]]

    @classmethod
    def all_of(cls, workup: Workup) -> tuple[_Variant, ...]:
        """Every variant of a sheet, made once."""
        return workup.memo.once("diagrams", lambda: tuple(cls._made(in_use(workup.sheet))))

    @classmethod
    def _made(cls, sheet: Sheet) -> Iterator[_Variant]:
        swapped = _swapped(sheet)
        for words, parts, other in swapped:
            try:
                network = Network.of(other)
            except ValueError:
                continue
            yield cls(words, parts, 1.0 / len(swapped), network, Cases.healthy(network), None, {})
        places = [place for place in sheet.places if place not in (sheet.plus, sheet.minus)]
        for place in places:
            network = Network.of(sheet, None, Element("undrawn", place, sheet.minus, 1.0))
            words = f"something that is not drawn draws current at {place}"
            yield cls(words, (), 1.0 / len(places), network, _loaded(network, _EXTRA_OHMS), _EXTRA_OHMS, {})

    def likelier(self, workup: Workup, ohms: float) -> float:
        """How many times likelier a load of so many ohms is than a large one."""
        return _likelier_small(workup, [int(self.network.a[-1])], workup.sheet.supply_volts / ohms)

    def log_likelier(self, workup: Workup) -> Floats:
        """(cases,) the logarithm of that for each case; nothing of what is no load."""
        if self.load is None:
            return np.zeros(len(self.cases.ohms))
        return np.log([self.likelier(workup, ohms) for ohms in self.load.tolist()])

    def shown(self, workup: Workup, setup: Setup, tests: tuple[Measurement, ...]) -> tuple[Floats, Floats]:
        """(cases, T) numbers and strays of tests of one set-up; solved once for all that are on offer in it."""
        if any(test not in self.numbers for test in tests):
            every = tuple(dict.fromkeys([*tests, *(t for t in workup.on_offer[0] if t.setup == setup)]))
            value, stray = shown_by(self.network, self.cases, setup, every)
            self.numbers.update((test, (value[:, i], stray[:, i])) for i, test in enumerate(every))
        value, stray = (np.stack([self.numbers[test][k] for test in tests], axis=1) for k in (0, 1))
        return value, stray


def _loaded(network: Network, ohms: Floats, faults: tuple[Fault, ...] = ()) -> Cases:
    """Cases of a network whose last element is a load that is not drawn, of ``ohms`` (M,), with something else wrong or not."""
    cases = Cases.healthy(network, len(ohms))
    apply_faults(network, cases, slice(0, len(ohms)), faults)
    cases.ohms[:, -1] = ohms
    return cases


def _of_a_load(trial: _Trial, variant: _Variant, value: Floats, stray: Floats, faults: tuple[Fault, ...] = ()) -> tuple[float, float]:
    """Log evidence of a load that is not drawn beside some faults, and its likeliest ohms; ``value`` and ``stray`` are (cases, R).
    Looked at ever closer around the best, since ohms that are read tell a load's to a percent."""
    assert variant.load is not None
    logs, between = np.log(variant.load), _BETWEEN_COARSE
    span = float(logs[-1] - logs[0])
    for look in range(_LOOKS_CLOSER + 1):
        step = float(logs[1] - logs[0])
        stretch = np.asarray(np.gradient(value, axis=0))[:, :, None] * between
        weighed = trial.log_likelihood(value, stray, stretch)
        best = float(logs[int(weighed.argmax())])
        if look < _LOOKS_CLOSER:
            logs, between = np.linspace(best - step, best + step, _FINER_LOADS), 1.0 / math.sqrt(12.0)
            value, stray = trial.predicted(variant.network, _loaded(variant.network, np.exp(logs), faults))
    return float(logsumexp(weighed)) + math.log(step / span), math.exp(best)


def _other_diagrams(belief: Belief, variants: Sequence[_Variant], floor: float) -> list[Beyond]:
    """The vehicle built in another way than it is drawn, and nothing wrong with it, where that may reach ``floor``."""
    trial, evidence = _Trial(belief), belief.evidence
    sound = np.zeros(1, dtype=np.intp)
    precision = evidence.precision(sound)
    perfect = float(log_likelihood(np.zeros((1, len(trial.tests))), precision, trial.scale, evidence.blunder(sound))[0])
    diagonal = np.diagonal(precision.matrix[0])
    # What each reading costs at least that a variant does not explain: it must be a blunder then.
    cost = np.log(BLUNDER) - np.log(trial.scale) + 0.5 * np.log(2.0 * math.pi / diagonal)
    found = []
    for variant in variants:
        breathe()
        prior = math.log(WRONG_DIAGRAM / 2.0 * variant.share)
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
            if variant.load is None:
                log, words = float(trial.log_likelihood(value, stray)[0]), variant.words
            else:
                log, ohms = _of_a_load(trial, variant, value, stray)
                # What it draws is not seen on anything that is drawn.
                log += math.log(variant.likelier(belief.workup, ohms)) + float(evidence.factor[0])
                words = f"{variant.words} (about {show(ohms, 'Ω')})"
            found.append(Beyond("diagram", variant.parts, words, log + prior))
    return found


def _beside_loads(belief: Belief, density: Floats, floor: float) -> list[Beyond]:
    """Single faults of a vehicle in which something draws current besides that is not drawn. What that shows tells nothing about the fault,
    and must not hide it. The loads are those that go best with the fault that explains most of the readings; the faults are such as explain
    most, and those that are most suspected as they are."""
    workup, curves, hypotheses = belief.workup, belief.workup.curves, belief.workup.hypotheses
    generous = np.maximum(density, math.log(_GENEROUS) - np.log(belief.evidence.scale)).sum(axis=1) + belief.evidence.factor
    prior_of = np.log(np.maximum(hypotheses.prior[curves.hypothesis] * curves.share, 1e-300))
    best = np.maximum.reduceat(generous, curves.start) + prior_of
    chosen: list[int] = []
    for order in (np.argsort(-best, kind="stable"), np.argsort(-belief.curve_log, kind="stable")):
        fresh = [c for c in order.tolist() if curves.hypothesis[c] != 0 and curves.share[c] > BRIDGED_SHARE and c not in chosen]
        chosen += fresh[:_BESIDE_A_LOAD]
    first = chosen[0]
    row = curves.start[first] + int(generous[curves.of(np.array([first]))].argmax())
    faults = hypotheses.fault(int(curves.hypothesis[first]), float(curves.grid[first][row - curves.start[first]]))
    trial, looked = _Trial(belief), []
    for variant in _Variant.all_of(workup):
        breathe()
        if variant.load is not None:
            shown = trial.predicted(variant.network, _loaded(variant.network, variant.load, faults))
            coarse = trial.log_likelihood(*shown, np.asarray(np.gradient(shown[0], axis=0))[:, :, None] * _BETWEEN_COARSE)
            looked.append((float(coarse.max()), variant, shown))
    found = []
    for _, variant, shown in sorted(looked, key=lambda each: -each[0])[:_MOST_LOADS]:
        ohms = _of_a_load(trial, variant, *shown, faults)[1]
        prior = math.log(WRONG_DIAGRAM / 2.0 * variant.share * variant.likelier(workup, ohms))
        for c, log, place in _faults_beside(trial, variant, ohms, chosen):
            item, joint = hypotheses.items[curves.hypothesis[c]], log + prior + float(prior_of[c])
            if joint > floor and item.part is not None:
                words = f"{item.part} {item.words}{_size(workup, c, place)}, and {variant.words} (about {show(ohms, 'Ω')})"
                found.append(Beyond("loaded", (item.part,), words, joint))
    return found


def _faults_beside(trial: _Trial, variant: _Variant, ohms: float, chosen: list[int]) -> list[tuple[int, float, float]]:
    """Of some curves beside a load that is not drawn: the curve, its log evidence, and the likeliest place on its grid."""
    evidence, workup, curves, network = trial.belief.evidence, trial.workup, trial.workup.curves, variant.network
    rows, owner = curves.of(np.array(chosen)), np.repeat(np.arange(len(chosen)), curves.length[chosen])
    cases = _loaded(network, np.full(len(rows), ohms))
    for number, c in enumerate(chosen):
        grid, (start, *_, end) = curves.grid[c], (*np.flatnonzero(owner == number).tolist(), int((owner <= number).sum()))
        faults = workup.hypotheses.fault(int(curves.hypothesis[c]), float(grid[0]))
        apply_faults(network, cases, slice(start, end), faults, np.exp(grid) if len(grid) > 1 else None)
    cases = cases.forcing(np.pad(curves.blown[rows], ((0, 0), (0, 1))), -1)
    value, stray = trial.predicted(network, cases)
    other = Cases(cases.ohms.copy(), cases.forced)
    other.ohms[:, -1] *= 1.0 + _LOAD_KNOWN
    stretch = np.zeros((*value.shape, 2))
    stretch[:, :, 0] = trial.predicted(network, other)[0] - value
    for number, c in enumerate(chosen):
        if curves.length[c] > 1:
            own = np.flatnonzero(owner == number)
            stretch[own, :, 1] = np.gradient(value[own], axis=0) / math.sqrt(12.0)
    log = trial.log_likelihood(value, stray, stretch) + evidence.factor[rows]
    weighed = []
    for number, c in enumerate(chosen):
        own = log[owner == number]
        weighed.append((c, float(logsumexp(own)) - math.log(len(own)), float(own.argmax())))
    return weighed


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
