"""Something that nobody drew draws current: beside a short that takes as much, anywhere on the circuit, and beside a fault that it must not
hide."""

from __future__ import annotations

import math

import numpy as np

from ...base.arrays import Floats
from ...base.judgement import judged
from ...base.patience import breathe
from ...base.quantity import show
from ...base.special import logsumexp
from ...circuit.fault import changes, mode_of
from ...circuit.network import Cases, Change
from ...circuit.part import SUPPLY, Effect, Span
from ...circuit.sheet import Sheet
from ...circuit.unplug import measured_alone
from ..predict.responses import BRIDGED_SHARE
from ..predict.workup import Workup
from .belief import Belief
from .other_diagrams import BETWEEN_COARSE, Variant, likelier_small, loaded, of_its_ohms, other_diagrams
from .supposed import Beyond, Trial, size_of

__all__ = ["GENEROUS", "a_load_beside", "beside_loads", "comes_from_plus", "loads_beside_shorts", "takes_as_a_load", "undrawn_loads"]

UNDRAWN_LOADS = judged(
    "UNDRAWN_LOADS", 0.5, "times", "how often something that nobody drew takes a load's current, for each time that a short takes as much"
)
LOADS_AT_WINDINGS = judged(
    "LOADS_AT_WINDINGS", 0.15, "times", "the same for each time that a winding has lost as many turns as would take that current"
)
_MOST_LOADS, _BESIDE_A_LOAD = 2, 8  # loads beside which faults are looked for, and faults of either order
_LOAD_KNOWN = 0.03  # share by which a load's ohms are known
_SUSPECTED = 0.05  # least probability from which on a load is looked for at every place
_LOOKED_AT, _LOAD_AMPS = 0.005, 10.0  # least probability of a short that a load is thought of beside; the most that a load draws
GENEROUS = 0.15  # share of blunders allowed when looking for what explains most of the readings
_NO_MATTER = 8.0  # nats behind the best from which on a load is left out


def undrawn_loads(belief: Belief) -> list[Beyond]:
    """Something that is not drawn and draws current, where nothing asks for more than one lasting fault. Where a wire may be fed from plus,
    or a winding seems to have lost turns, it may be anywhere: an ohmmeter finds the same path through either."""
    found, anywhere = loads_beside_shorts(belief)
    if anywhere and belief.readings:
        loads = [variant for variant in Variant.all_of(belief.workup) if variant.is_load]
        found += other_diagrams(belief, loads, belief.log_evidence - _NO_MATTER)
    return sorted(found, key=lambda b: -b.log_joint)


def loads_beside_shorts(belief: Belief) -> tuple[list[Beyond], bool]:
    """A load beside every short to ground, and every winding short of turns, that takes no more than a load might: the two are one to every
    meter, and only taking it off, or measuring the part by itself, tells them apart. And whether a load may be anywhere else."""
    workup, found, anywhere = belief.workup, [], False
    by_themselves = {measured_alone(reading.without) for reading in belief.readings}
    for h in np.flatnonzero(belief.probability > _LOOKED_AT).tolist():
        cause, severity = workup.hypotheses.items[h], belief.severity[h]
        if cause.part is None or cause.mode is None or severity is None:
            continue
        takes = takes_as_a_load(workup, cause.part, cause.mode, severity[0])
        if takes is None:
            continue
        if takes is Span.TURNS or comes_from_plus(workup.sheet, cause.part, cause.mode):
            anywhere = anywhere or belief.probability[h] > _SUSPECTED
        if not comes_from_plus(workup.sheet, cause.part, cause.mode) and cause.part not in by_themselves:
            words, times = a_load_beside(workup, cause.part, cause.mode, severity[0])
            log = belief.log_evidence + math.log(float(belief.probability[h]) * times)
            found.append(Beyond("diagram", (), words, log, beside=cause.part))
    return found, anywhere


def takes_as_a_load(workup: Workup, part: str, mode: str, ohms: float) -> Span | None:
    """Whether a fault is a short, or turns lost, of so many ohms that it takes no more than a load might: which of the two, None if not."""
    severity = mode_of(workup.sheet, part, mode).severity
    if severity is None or severity.span is Span.SERIES or workup.sheet.supply_volts / ohms > _LOAD_AMPS:
        return None
    return None if severity.span is Span.SHUNT and _inside(workup.sheet, part, mode) else severity.span


def a_load_beside(workup: Workup, part: str, mode: str, ohms: float) -> tuple[str, float]:
    """The words for a load that is not drawn where a part seems to have a short of so many ohms, or a winding of no more than so many, and
    how many times likelier it is. The less is drawn the likelier it is a load: a wire chafes through to ohms, not to hundreds of them."""
    winding = _winding(workup, part, mode)
    often, takes = UNDRAWN_LOADS, ohms
    if winding:
        often, takes = LOADS_AT_WINDINGS, 1.0 / max(1.0 / ohms - 1.0 / winding, 1e-6)
    rating = f", or {part} is of another rating" if workup.sheet.parts[part].kind.load is not None else ""
    beside = f"something not drawn draws current beside {part} (about {show(takes, 'Ω')}){rating}"
    words = f"{beside}: take it off and see whether the current goes"
    return words, often * likelier_small(workup, _nodes(workup, part), workup.sheet.supply_volts / takes)


def _winding(workup: Workup, part: str, mode: str) -> float | None:
    """Sound ohms of the winding in which a mode leaves fewer turns, None of any other mode."""
    failing, network = mode_of(workup.sheet, part, mode), workup.network
    if failing.severity is None or failing.severity.span is not Span.TURNS:
        return None
    return next(float(network.ohms[network.keys.index((part, name))]) for name, effect in failing.effects if effect is Effect.VALUE)


def _inside(sheet: Sheet, part: str, mode: str) -> bool:
    """Whether a mode is a short between points of which one lies inside its part, where nobody splices anything in."""
    touched = {name for name, effect in mode_of(sheet, part, mode).effects if effect is Effect.VALUE}
    return any(pin.startswith("*") for e in sheet.parts[part].elements() if e.name in touched for pin in (e.a, e.b))


def comes_from_plus(sheet: Sheet, part: str, mode: str) -> bool:
    touched = {name for name, _ in mode_of(sheet, part, mode).effects}
    return any(element.name in touched and SUPPLY in (element.a, element.b) for element in sheet.parts[part].elements())


def _nodes(workup: Workup, part: str) -> list[int]:
    numbers = [workup.network.node(node) for node in workup.sheet.parts[part].pins.values()]
    return [number for number in numbers if number >= 0]


def beside_loads(belief: Belief, density: Floats, floor: float) -> list[Beyond]:
    """Single faults of a vehicle in which something draws current besides that is not drawn. What that shows tells nothing about the fault,
    and must not hide it. The loads are those that go best with the fault that explains most of the readings; the faults are such as explain
    most, and those that are most suspected as they are."""
    workup, curves, hypotheses = belief.workup, belief.workup.curves, belief.workup.hypotheses
    generous = np.maximum(density, math.log(GENEROUS) - np.log(belief.evidence.scale)).sum(axis=1) + belief.evidence.factor
    prior_of = np.log(np.maximum(hypotheses.prior[curves.hypothesis] * curves.share, 1e-300))
    best = np.maximum.reduceat(generous, curves.start) + prior_of
    chosen: list[int] = []
    for order in (np.argsort(-best, kind="stable"), np.argsort(-belief.curve_log, kind="stable")):
        fresh = [c for c in order.tolist() if curves.hypothesis[c] != 0 and curves.share[c] > BRIDGED_SHARE and c not in chosen]
        chosen += fresh[:_BESIDE_A_LOAD]
    first = chosen[0]
    row = curves.start[first] + int(generous[curves.of(np.array([first]))].argmax())
    faults = hypotheses.fault(int(curves.hypothesis[first]), float(curves.grid[first][row - curves.start[first]]))
    trial, looked = Trial(belief), []
    for variant in Variant.all_of(workup):
        breathe()
        if variant.is_load and variant.ohms is not None:
            shown = trial.predicted(variant.network, loaded(variant.network, variant.ohms, faults))
            coarse = trial.log_likelihood(*shown, np.asarray(np.gradient(shown[0], axis=0))[:, :, None] * BETWEEN_COARSE)
            looked.append((float(coarse.max()), variant, shown))
    found = []
    for _, variant, shown in sorted(looked, key=lambda each: -each[0])[:_MOST_LOADS]:
        ohms = of_its_ohms(trial, variant, *shown, faults)[1]
        prior = math.log(variant.share * variant.likelier(workup, ohms))
        for c, log, place in _faults_beside(trial, variant, ohms, chosen):
            item, joint = hypotheses.items[curves.hypothesis[c]], log + prior + float(prior_of[c])
            if joint > floor and item.part is not None:
                words = f"{item.part} {item.words}{size_of(workup, c, place)}, and {variant.words} (about {show(ohms, 'Ω')})"
                found.append(Beyond("loaded", (item.part,), words, joint))
    return found


def _faults_beside(trial: Trial, variant: Variant, ohms: float, chosen: list[int]) -> list[tuple[int, float, float]]:
    """Of some curves beside a load that is not drawn: the curve, its log evidence, and the likeliest place on its grid."""
    evidence, workup, curves, network = trial.belief.evidence, trial.workup, trial.workup.curves, variant.network
    rows, owner = curves.of(np.array(chosen)), np.repeat(np.arange(len(chosen)), curves.length[chosen])
    every, last = np.arange(len(rows)), len(network.elements) - 1
    changed: list[Change] = [(every, last, ohms, 0)]
    for number, c in enumerate(chosen):
        grid = curves.grid[c]
        faults = workup.hypotheses.fault(int(curves.hypothesis[c]), float(grid[0]))
        changed += changes(network, every[owner == number], faults, np.exp(grid) if len(grid) > 1 else None)
    cases = Cases.of(len(rows), changed).also(curves.blown.at(rows))
    value, stray = trial.predicted(network, cases)
    other = cases.with_ohms(last, ohms * (1.0 + _LOAD_KNOWN))
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
