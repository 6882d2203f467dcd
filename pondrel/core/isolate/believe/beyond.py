"""Beyond one lasting fault of the circuit as it is drawn: faults that come and go, two at once, a diagram that is wrong here, and what none
of these explains.

These are looked into when the evidence asks for it: when a reading fits no single fault, when something changed as it was moved, when the
complaint is there only sometimes, or when somebody asks. Each is weighed by the same likelihood as the single faults, so that all of them
stand in one ranking.
"""

from __future__ import annotations

import math
from collections.abc import Iterator

import numpy as np
from numpy.typing import NDArray

from ...base.arrays import Floats
from ...base.judgement import judged
from ...base.special import logsumexp
from ...circuit.fault import changes, mode_of
from ...circuit.network import Cases, Change
from ...circuit.part import Effect, Span
from ...evidence.items import observations
from ...evidence.registry import hints, word_sort
from ..predict.chances import log_factor
from ..predict.curves import Curves
from ..predict.hypotheses import GRID
from ..predict.prediction import Spot
from ..predict.responses import BRIDGED_SHARE
from ..predict.workup import Workup
from .belief import Belief
from .likelihood import BLUNDER
from .loads import GENEROUS, a_load_beside, beside_loads, comes_from_plus, loads_beside_shorts, takes_as_a_load
from .other_diagrams import BETWEEN_COARSE, Variant, other_diagrams
from .supposed import SHOWN_NATS, Beyond, Trial, size_of

__all__ = ["beyond", "undrawn", "wanted"]

UNDRAWN = judged("UNDRAWN", 0.006, "share", "jobs whose fault is nowhere on the sheet")
TWO_FAULTS = judged("TWO_FAULTS", 0.03, "share", "jobs with two faults at once")
INTERMITTENT = judged("INTERMITTENT", 0.1, "share", "faults of joints and contacts that come and go")
PRESENT = judged("PRESENT", 0.5, "share", "readings at which a fault is there that comes and goes")
STIRRED_NATS = judged("STIRRED_NATS", 0.5, "nat", "what a change at a part adds to the evidence of a fault there that comes and goes")
_SPOTS_AT_ONCE = 1_000_000  # numbers that readings would be
_FINER = 6  # looks between two grid severities for a fault that comes and goes
_FIRST, _MOST_PAIRS, _REFINED = 4, 120, 20  # faults tried as the first of two; pairs looked at, and those looked at more closely
_FEWEST_PAIRS, _MOST_OF_PAIRS = 12, 800_000  # pairs at the least; numbers that readings would be, over all pairs and places
_STRAIN = 0.6
_NO_MATTER, _SLACK = 8.0, 6.0  # nats behind the best from which on an explanation is left out; what a rough bound may be off by


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


def beyond(belief: Belief) -> tuple[Beyond, ...]:
    """All explanations beyond one lasting fault that come near the best, the likeliest first."""
    said = hints(belief.workup.sheet, observations(belief.items))
    two = max((hint.two for hint in said), default=1.0)
    # What speaks for a fault that comes and goes goes before what speaks against it.
    some = max((hint.sometimes for hint in said if hint.sometimes > 1.0), default=min((hint.sometimes for hint in said), default=1.0))
    _, _, density = _densities(belief, np.arange(belief.workup.curves.rows))
    others = [undrawn(belief), *loads_beside_shorts(belief)[0], *_sometimes(belief, some)]

    def floor() -> float:
        return float(logsumexp([belief.log_evidence, *(b.log_joint for b in others)])) - _NO_MATTER

    if belief.readings:
        others += _two(belief, density, two, floor())
        others += other_diagrams(belief, Variant.all_of(belief.workup), floor())
        others += beside_loads(belief, density, floor())
    return tuple(sorted(others, key=lambda b: -b.log_joint))


def _densities(belief: Belief, rows: NDArray[np.intp], parts: int = 1) -> tuple[Spot, Floats, Floats]:
    """Spots (S,), every one of some rows and ``parts`` − 1 between it and the next of its curve; the readings (S, R) expected there; and
    the log density (S, R) of each by itself, blunders included. A spot stands for its stretch of severity."""
    workup, evidence, curves = belief.workup, belief.evidence, belief.workup.curves
    curve = curves.of_row[rows]
    last = rows == (curves.start + curves.length - 1)[curve]
    step = workup.hypotheses.spacing[curves.hypothesis[curve]]
    count = np.where(last, 1, parts)
    which = np.repeat(np.arange(len(rows)), count)
    spot = Spot(rows[which], (np.arange(len(which)) - np.repeat(np.cumsum(count) - count, count)) / parts)
    value = evidence.expected(spot, np.where(last, 0.0, step)[which])
    vague, near = evidence.edge(rows) ** 2 + evidence.scatter(rows), np.searchsorted(rows, spot.near)
    variance = vague[near] + (evidence.prediction.slope[spot.near] * step[near, None] / (2.0 * parts)) ** 2
    gaussian = -0.5 * ((evidence.value - value) ** 2 / variance + np.log(2.0 * math.pi * variance))
    blunder = np.log(evidence.blunder(rows)) - np.log(evidence.scale)
    return spot, value, np.logaddexp(gaussian + math.log1p(-BLUNDER), blunder[near])


def _sometimes(belief: Belief, more: float) -> list[Beyond]:
    """Faults of joints and contacts that are there at some readings and not at others; when it is there, its severity is the same."""
    workup, curves, evidence = belief.workup, belief.workup.curves, belief.evidence
    seen = observations(belief.items)
    stirring = [hint.stirred for hint in hints(workup.sheet, seen)]
    factor = np.zeros(curves.rows)
    for item in seen:
        own = log_factor(workup, item)
        if word_sort(item).from_circuit:
            own = np.logaddexp(own + math.log(PRESENT), own[0] + math.log(1.0 - PRESENT))
        factor += own
    prior = min(INTERMITTENT * more, 0.6)
    sound, zero = evidence.prediction.value[0], np.zeros(1, dtype=np.intp)
    if_sound = float(evidence.missed_by((evidence.value - sound)[None], zero)[0] + factor[0])
    numbers = [c for c, h in enumerate(curves.hypothesis.tolist()) if _may_come_and_go(workup, h)]
    found = []
    for c, log, place in _now_and_then(belief, np.array(numbers, dtype=np.intp), factor):
        h = int(curves.hypothesis[c])
        cause = workup.hypotheses.items[h]
        part, mode = str(cause.part), str(cause.mode)
        stirred = sum(STIRRED_NATS for parts in stirring if part in parts)
        silent = more <= 1.0 and not stirred and log <= if_sound + SHOWN_NATS
        weight = workup.hypotheses.prior[h] * curves.share[c] * prior
        log += stirred + math.log(max(weight, 1e-300))
        found.append(Beyond("sometimes", (part,), f"{cause.words}, now and then", log, silent))
        ohms = math.exp(np.interp(place, np.arange(len(curves.grid[c])), curves.grid[c])) if cause.swept else 0.0
        plus = comes_from_plus(workup.sheet, part, mode)
        takes = takes_as_a_load(workup, part, mode, ohms) if ohms and not plus else None
        if takes is Span.SHUNT:  # switched by something of its own
            words, times = a_load_beside(workup, part, mode, ohms)
            words = words.replace("draws current", "draws current now and then")
            found.append(Beyond("diagram", (), words, log + math.log(times), silent))
    return found


def _now_and_then(belief: Belief, chosen: NDArray[np.intp], factor: Floats) -> Iterator[tuple[int, float, float]]:
    """Some curves whose faults come and go: the log evidence of each, ``factor`` (M,) of what was seen included, and the likeliest place on
    its grid. Each reading is taken by itself first, as with the fault there or not; then, at that place, all of them together."""
    evidence, curves = belief.evidence, belief.workup.curves
    (at_sound,), (sound,) = _densities(belief, np.zeros(1, dtype=np.intp))[1:]
    most = max(1, _SPOTS_AT_ONCE // max(1, GRID * _FINER * len(evidence.readings)))
    for start in range(0, len(chosen), most):
        block = chosen[start : start + most]
        spot, value, density = _densities(belief, curves.of(block), _FINER)
        mixed = np.logaddexp(density + math.log(PRESENT), sound + math.log(1.0 - PRESENT)).sum(axis=1) + factor[spot.near]
        ends = np.searchsorted(curves.of_row[spot.row], block, side="right")
        each = [slice(first, end) for first, end in zip([0, *ends.tolist()], ends.tolist(), strict=False)]
        best = np.array([own.start + int(mixed[own].argmax()) for own in each])
        # What it adds that readings share their tolerances: each is taken as with the fault there or not, whichever is likelier.
        expected = np.where(density[best] > sound, value[best], at_sound)
        alone = np.maximum(density[best], sound).sum(axis=1)
        more = evidence.missed_by(evidence.value - expected, spot.near[best]) - alone
        places = spot.row[best] - curves.start[block] + spot.part[best]
        for c, own, adds, place in zip(block.tolist(), each, more.tolist(), places.tolist(), strict=True):
            yield c, float(logsumexp(mixed[own])) - math.log(own.stop - own.start) + adds, place


def _may_come_and_go(workup: Workup, hypothesis: int) -> bool:
    """Whether a fault is one that may come and go: a break, a bad joint, a chafed wire."""
    cause = workup.hypotheses.items[hypothesis]
    if cause.part is None or cause.mode is None:
        return False
    entry = mode_of(workup.sheet, cause.part, cause.mode)
    return entry.effects[0][1] is Effect.OPEN or (entry.severity is not None and entry.severity.span in (Span.SERIES, Span.SHUNT))


def _two(belief: Belief, density: Floats, more: float, floor: float) -> list[Beyond]:
    """Pairs of faults in two parts whose log evidence may reach ``floor``. The first is one that explains most of the readings, the second
    any other that explains what it does not: each reading is at best what one of the two makes of it at some severity."""
    workup, curves, hypotheses = belief.workup, belief.workup.curves, belief.workup.hypotheses
    at_best = np.maximum.reduceat(density, curves.start, axis=0)  # (C, R)
    total = float(sum(hypotheses.prior[1:]))
    prior_of = np.log(hypotheses.prior[curves.hypothesis] / total * curves.share)
    generous = np.maximum(density, math.log(GENEROUS) - np.log(belief.evidence.scale)).sum(axis=1)
    best_row = np.array(
        [curves.start[c] + int(generous[curves.start[c] : curves.start[c] + n].argmax()) for c, n in enumerate(curves.length)]
    )
    first: list[int] = []
    # What explains most of the readings, and what is most suspected as it is.
    for order in (np.argsort(-generous[best_row], kind="stable"), np.argsort(-belief.curve_log, kind="stable")):
        fresh = [c for c in order.tolist() if curves.hypothesis[c] != 0 and curves.share[c] > BRIDGED_SHARE and c not in first]
        first += fresh[:_FIRST]
    trial, second = Trial(belief), _explains_the_odd(belief, density)
    # Readings share their tolerances, so that densities of each by itself say little of all together; what one explains better than the
    # leading suspect does is told by them well enough.
    lead = int(np.argmax(np.where(curves.hypothesis > 0, belief.curve_log, -np.inf)))
    own_prior = math.log(max(float(hypotheses.prior[curves.hypothesis[lead]] * curves.share[lead]), 1e-300))
    row = _best_row(curves, density, lead)
    yardstick = max(float(belief.curve_log[lead]) - own_prior - float(density[row].sum()) - float(belief.evidence.factor[row]), 0.0)
    seen = np.maximum.reduceat(belief.evidence.factor, curves.start)
    promising: list[tuple[float, _Pair]] = []
    for c in first:
        span = np.arange(curves.length[c], dtype=float)
        middle = float(best_row[c] - curves.start[c])
        near = span[(np.abs(span - middle) <= 4.0) & ((span - middle) % 2.0 == 0.0)]
        for other in np.flatnonzero((curves.share > BRIDGED_SHARE) & second).tolist():
            one, two = (hypotheses.items[curves.hypothesis[i]] for i in (c, other))
            if two.part is None or two.part == one.part or (other in first and first.index(other) < first.index(c)):
                continue
            prior = math.log(TWO_FAULTS * more) + prior_of[c] + prior_of[other]
            promises = yardstick + float(np.maximum(at_best[c], at_best[other]).sum()) + max(seen[c], seen[other]) + prior
            if promises > floor - _SLACK:
                promising.append((promises, (c, other, near, np.arange(0.0, float(curves.length[other]), 2.0))))
    pairs = _as_many_as_may_be([pair for _, pair in sorted(promising, key=lambda each: -each[0])[:_MOST_PAIRS]], len(belief.readings))
    looked = _weighed(trial, pairs, BETWEEN_COARSE)
    finer = []
    worth = [found for found in looked if found[0] + math.log(TWO_FAULTS * more) + prior_of[found[1]] + prior_of[found[2]] > floor]
    for _, c, other, place, place_of_other in sorted(worth, key=lambda found: -found[0])[:_REFINED]:
        ways = []
        for curve, middle in ((c, place), (other, place_of_other)):
            last = float(curves.length[curve] - 1)
            ways.append(np.arange(max(middle - 2.0, 0.0), min(middle + 2.0, last) + 0.01, 0.25) if last else np.zeros(1))
        finer.append((c, other, ways[0], ways[1]))
    weighed = []
    for log, c, other, place, place_of_other in _weighed(trial, finer, exactly=True):
        prior = math.log(TWO_FAULTS * more) + float(prior_of[c] + prior_of[other])
        one, two = (hypotheses.items[curves.hypothesis[i]] for i in (c, other))
        sizes = [size_of(workup, curve, at) for curve, at in ((c, place), (other, place_of_other))]
        words = f"{one.part} {one.words}{sizes[0]}, and {two.part} {two.words}{sizes[1]}"
        weighed.append(Beyond("two", (str(one.part), str(two.part)), words, log + prior))
    return weighed


def _as_many_as_may_be(pairs: list[_Pair], readings: int) -> list[_Pair]:
    """The first of the pairs: the more readings there are, the fewer can be looked at."""
    numbers = np.cumsum([len(place) * len(other) * readings for _, _, place, other in pairs])
    return pairs[: max(_FEWEST_PAIRS, int(np.searchsorted(numbers, _MOST_OF_PAIRS, side="right")))]


def _best_row(curves: Curves, density: Floats, curve: int) -> int:
    """The row of a curve that explains the readings best, each by itself."""
    start = int(curves.start[curve])
    return start + int(density[start : start + int(curves.length[curve])].sum(axis=1).argmax())


def _explains_the_odd(belief: Belief, density: Floats) -> NDArray[np.bool_]:
    """(C,) curves that explain, at some severity, a reading that the leading suspect takes for a blunder; all where there is none."""
    curves = belief.workup.curves
    odd = np.flatnonzero(belief.explain(np.array([int(belief.probability.argmax())]))[2][0] > 0.5)
    if not odd.size:
        return np.ones(len(curves.hypothesis), dtype=bool)
    better = density[:, odd] > np.log(BLUNDER) - np.log(belief.evidence.scale[odd]) + 1.0
    return np.logical_or.reduceat(better.any(axis=1), curves.start)


_Pair = tuple[int, int, Floats, Floats]  # two curves, and places on the grid of each


def _weighed(
    trial: Trial, pairs: list[_Pair], between: float = 1.0 / math.sqrt(12.0), exactly: bool = False
) -> list[tuple[float, int, int, float, float]]:
    """Of each pair of curves: log evidence over the places looked at, and the likeliest place on each. A place stands for all severities as
    near to it as to its neighbours: ``between`` is the standard deviation of that, in steps."""
    workup, curves, network = trial.workup, trial.workup.curves, trial.workup.network
    if not pairs:
        return []
    sizes = [len(a) * len(b) for _, _, a, b in pairs]
    starts = np.concatenate([[0], np.cumsum(sizes)])
    changed: list[Change] = []
    at = np.zeros((2, int(starts[-1])))
    for (c, other, a, b), start, end in zip(pairs, starts, starts[1:], strict=False):
        at[0, start:end], at[1, start:end] = np.repeat(a, len(b)), np.tile(b, len(a))
        for side, curve in enumerate((c, other)):
            grid = curves.grid[curve]
            logs = np.interp(at[side, start:end], np.arange(len(grid)), grid)
            faults = workup.hypotheses.fault(int(curves.hypothesis[curve]), float(logs[0]))
            changed += changes(network, np.arange(start, end), faults, np.exp(logs) if len(grid) > 1 else None)
    owner = np.repeat(np.arange(len(pairs)), sizes)
    rows = [curves.start[np.array([pair[side] for pair in pairs])][owner] + np.round(at[side]).astype(int) for side in (0, 1)]
    cases = Cases.of(int(starts[-1]), changed).also(curves.blown.at(rows[0])).also(curves.blown.at(rows[1]))
    value, stray = trial.predicted(network, cases)
    stretch = np.zeros((*value.shape, 2))
    for (_, _, a, b), start, end in zip(pairs, starts, starts[1:], strict=False):
        grid_of = value[start:end].reshape(len(a), len(b), -1)
        for side, places in enumerate((a, b)):
            if len(places) > 1:
                slopes = np.asarray(np.gradient(grid_of, axis=side))
                stretch[start:end, :, side] = slopes.reshape(end - start, -1) * between
    if exactly:
        spread = trial.spread_in(network, cases.at((starts[:-1] + starts[1:]) // 2))
        log = np.concatenate(
            [
                trial.with_spread(value[start:end], stray[start:end], stretch[start:end], own)
                for start, end, own in zip(starts, starts[1:], spread, strict=False)
            ]
        )
    else:
        log = trial.of_two(value, stray, stretch, np.array(rows))
    log += _seen(trial, rows[0], rows[1])
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


def _seen(trial: Trial, one: NDArray[np.intp], other: NDArray[np.intp]) -> Floats:
    """(n,) what observations say of two faults, by the rows of either: as much as they say of the one that they speak for."""
    seen = np.zeros(len(one))
    for item in observations(trial.belief.items):
        factor = log_factor(trial.workup, item)
        seen += np.maximum(factor[one], factor[other])
    return seen
