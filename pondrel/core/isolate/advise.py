"""The next test: the one that tells most, per minute, about what to repair.

For every test that the sheet's places allow, the predictive distribution of its number is a mixture over the posterior's atoms, each
a Gaussian of the meter and of the tolerances as the readings so far have narrowed them. The gain is the mutual information between
that number and the repair target (the part, or nothing), in bits, by sorting the number into bins: bins can only lose information,
so a stated gain is never flattered.
"""

from __future__ import annotations

import math
from dataclasses import dataclass

import numpy as np
from scipy.special import ndtr, xlogy

from ..arrays import Floats
from ..circuit.sheet import Sheet
from .belief import STRAY, Belief, Spot, insulation_sigma, interpolate
from .evidence import Reading
from .offer import Test
from .scale import off_scale, scale_uncertainty

__all__ = ["Advice", "Expectation", "advise", "describe", "gains", "minutes_for", "worth_offering"]

# Handling besides probing, in minutes. Common practice, no source.
CHANGE_STATE, BATTERY_OFF, METER_IN_LINE = 0.2, 2.0, 1.0
LEAST_GAIN_BITS = 0.01
FUSES_WEIGHED = 2
# What the ammeter input of a hand-held meter carries, and the chance taken that a suspect would send more. Common practice, no source.
METER_AMPS, TOLERATED_RISK = 10.0, 0.005
SHOWN_EXPECTATIONS = 5
_BINS, _BLOCK = 48, 64
_KEPT_MASS = 0.998
_LIKELY = 0.002  # of one atom


@dataclass(frozen=True, slots=True)
class Expectation:
    """What a suspect would make the meter show (SI; infinite for OL). ``part`` None: nothing wrong."""

    part: str | None
    mode: str | None
    value: float


@dataclass(frozen=True, slots=True)
class Advice:
    """A proposed test: ``minutes`` it takes here and now, ``gain_bits`` about the repair, what it would show, and what to mind.

    ``proves`` is set when its reading could by itself prove the leading suspect.
    """

    test: Test
    minutes: float
    gain_bits: float
    expect: tuple[Expectation, ...]
    cautions: tuple[str, ...] = ()
    steps: tuple[str, ...] = ()
    proves: bool = False


def minutes_for(sheet: Sheet, test: Test, readings: tuple[Reading, ...]) -> float:
    """Minutes for a test now: both places, access not yet gained, handling. A clip stays on battery minus."""
    gained = {sheet.places[p].behind for r in readings for p in (r.red, r.black) if p in sheet.places}
    minutes = 0.0
    for name in {test.red, test.black} - {sheet.minus}:
        place = sheet.places[name]
        minutes += place.minutes
        if place.behind and place.behind not in gained:
            minutes += sheet.access[place.behind].minutes
            gained.add(place.behind)
    last = readings[-1] if readings else None
    if last is None or last.state != test.state:
        minutes += CHANGE_STATE
    if test.instrument == "ohms" and (last is None or last.instrument != "ohms"):
        minutes += BATTERY_OFF
    if test.instrument == "amps":
        minutes += METER_IN_LINE
    return minutes


class _Outlook:
    """The posterior's atoms that matter, with tolerances as the readings have narrowed them."""

    def __init__(self, belief: Belief):
        atoms, evidence = belief.atoms, belief.evidence
        order = np.argsort(-atoms.mass, kind="stable")
        count = int(np.searchsorted(np.cumsum(atoms.mass[order]), _KEPT_MASS)) + 1
        chosen = np.sort(order[:count])
        self.belief = belief
        self.chosen = chosen
        self.mass = atoms.mass[chosen] / atoms.mass[chosen].sum()
        self.near = atoms.spot.near[chosen]
        spread = evidence.spread[self.near]  # (A, R, K)
        precision = evidence.precision.matrix[self.near]
        residual = (evidence.value - evidence.expected(atoms.spot, belief.step(atoms.hypothesis)))[chosen]
        gain = np.swapaxes(spread, 1, 2) @ precision  # (A, K, R)
        self.shift = (gain @ residual[..., None])[..., 0]  # (A, K) where the tolerances probably lie
        self.left_over = np.eye(spread.shape[2]) - gain @ spread  # (A, K, K) what remains of their spread
        items = belief.workup.hypotheses.items
        names = list(dict.fromkeys(item.part for item in items))
        self.target = np.zeros((len(chosen), len(names)))
        self.target[np.arange(len(chosen)), [names.index(items[h].part) for h in atoms.hypothesis[chosen]]] = self.mass

    def forecast(self, tests: tuple[Test, ...], values: Floats, stray: Floats) -> tuple[Floats, Floats]:
        """Mean and standard deviation (T, A) of the tests' numbers; ``values`` (all atoms, T) on their scales, ``stray`` (A, T)."""
        atoms = self.belief.atoms
        # Atoms stand for stretches of severity: their gaps are part of what is not known.
        gap = (values[atoms.right] - values[atoms.left])[self.chosen] / 4.0
        spread = self.belief.workup.spread(tests, self.near)  # (A, T, K)
        mean = values[self.chosen] + (spread @ self.shift[..., None])[..., 0]
        variance = np.maximum(((spread @ self.left_over) * spread).sum(axis=2), 0.0)
        own = values[self.chosen]
        variance += gap**2 + scale_uncertainty(own, tests) ** 2 + insulation_sigma(own, stray) ** 2
        return mean.T, np.sqrt(variance).T


def _information(mean: Floats, sigma: Floats, target: Floats) -> Floats:
    """Bits (T,) between the binned number and the target; ``mean`` and ``sigma`` (T, A), ``target`` (A, G) joint masses."""
    marks = np.concatenate([mean - 1.5 * sigma, mean, mean + 1.5 * sigma], axis=1)
    edges = np.quantile(marks, np.linspace(0.0, 1.0, _BINS), axis=1).T  # (T, B)
    below = ndtr((edges[:, :, None] - mean[:, None, :]) / sigma[:, None, :])  # (T, B, A)
    each = target.sum(axis=0)
    top = np.broadcast_to(each, (len(mean), 1, len(each)))
    joint = np.maximum(np.diff(below @ target, axis=1, prepend=0.0, append=top), 0.0)  # (T, B + 1, G)
    outcome = joint.sum(axis=2)
    nats = xlogy(joint, joint).sum(axis=(1, 2)) - xlogy(outcome, outcome).sum(axis=1) - xlogy(each, each).sum()
    return np.maximum(nats / math.log(2.0), 0.0)


def gains(belief: Belief, tests: tuple[Test, ...]) -> Floats:
    """Bits (T,) that each test is expected to tell about the repair target."""
    outlook = _Outlook(belief)
    prediction = belief.workup.predict(tests)
    values = interpolate(prediction, belief.atoms.spot, belief.step(belief.atoms.hypothesis))  # (all atoms, T)
    made = np.zeros(len(tests))
    for start in range(0, len(tests), _BLOCK):
        block = slice(start, min(start + _BLOCK, len(tests)))
        mean, sigma = outlook.forecast(tests[block], values[:, block], prediction.stray[outlook.near][:, block])
        made[block] = _information(mean, sigma, outlook.target)
    # Where a likely suspect leaves a probe floating, stray volts may spoil the test as often as they spoil a reading.
    likely = outlook.near[outlook.mass > _LIKELY]
    return made * (1.0 - STRAY * prediction.stray[likely].max(axis=0, initial=0.0))


def worth_offering(belief: Belief) -> tuple[Test, ...]:
    """The tests on offer that are not taken yet. Ammeter tests only at the fuses that feed what is most suspected, and none that could
    blow the meter: a short would go through it."""
    taken = {r.test for r in belief.readings}
    offered = tuple(t for t in belief.workup.offered if t not in taken)
    amps = _suspected_fuses(belief, tuple(t for t in offered if t.instrument == "amps"))
    if amps:
        values = interpolate(belief.workup.predict(amps), belief.atoms.spot, belief.step(belief.atoms.hypothesis))
        risk = belief.atoms.mass @ (np.abs(values) > METER_AMPS)
        amps = tuple(t for t, r in zip(amps, risk, strict=True) if r <= TOLERATED_RISK)
    return tuple(t for t in offered if t.instrument != "amps" or t in amps)


def _suspected_fuses(belief: Belief, tests: tuple[Test, ...]) -> tuple[Test, ...]:
    """The ammeter tests at the few fuses on whose paths most of the suspicion lies."""
    parts = belief.parts()
    suspicion = dict.fromkeys(((t.red, t.black) for t in tests), 0.0)
    for red, black in suspicion:
        fed = {part for path in belief.workup.paths if {red, black} <= set(path.nodes) for part in path.parts}
        suspicion[red, black] = sum(parts[part] for part in fed)
    kept = sorted(suspicion, key=lambda holder: -suspicion[holder])[:FUSES_WEIGHED]
    return tuple(t for t in tests if (t.red, t.black) in kept)


def advise(belief: Belief, tests: tuple[Test, ...] | None = None, most: int = 5) -> tuple[Advice, ...]:
    """The best next tests, best first: greatest gain per minute, ties by fewer minutes and then by the sheet's order.

    ``tests`` restricts the choice; tests that tell less than a hundredth of a bit are left out.
    """
    sheet = belief.workup.sheet
    offered = worth_offering(belief) if tests is None else tests
    bits = gains(belief, offered)
    cost = np.array([minutes_for(sheet, test, belief.readings) for test in offered])
    worth = np.round(bits / np.maximum(cost, 0.1), 9)
    order = sorted(range(len(offered)), key=lambda i: (-worth[i], cost[i], i))
    chosen: dict[tuple[str, str, str], int] = {}  # the same leads in another state are no other proposal
    for i in order:
        if bits[i] >= LEAST_GAIN_BITS:
            chosen.setdefault((offered[i].instrument, offered[i].red, offered[i].black), i)
    return tuple(describe(belief, offered[i], float(bits[i])) for i in list(chosen.values())[:most])


def describe(belief: Belief, test: Test, gain_bits: float, proves: bool = False) -> Advice:
    """A test with its minutes, expectations under the leading suspects, cautions and steps."""
    sheet = belief.workup.sheet
    return Advice(
        test, minutes_for(sheet, test, belief.readings), gain_bits, expectations(belief, test), _cautions(sheet, test),
        _steps(sheet, test, belief.readings), proves,
    )  # fmt: skip


def expectations(belief: Belief, test: Test, most: int = SHOWN_EXPECTATIONS) -> tuple[Expectation, ...]:
    """What the leading suspects, one mode each part, and a sound circuit would make the meter show."""
    items, atoms = belief.workup.hypotheses.items, belief.atoms
    best = belief.best
    spot = Spot(atoms.spot.row[best], atoms.spot.part[best])
    values = interpolate(belief.workup.predict((test,)), spot, belief.step(atoms.hypothesis[best]))[:, 0]
    order = np.argsort(-belief.probability, kind="stable")
    leading = [int(h) for h in order if h != 0][: most - 1]
    chosen = sorted([0, *leading], key=lambda h: (-belief.probability[h], h))
    return tuple(Expectation(items[h].part, items[h].mode, off_scale(float(values[h]), test.instrument)) for h in chosen)


def _cautions(sheet: Sheet, test: Test) -> tuple[str, ...]:
    # With the battery off nothing starts to move when a switch is closed.
    found = [sheet.caution, "" if test.instrument == "ohms" else sheet.states[test.state].caution]
    for name in (test.red, test.black):
        place = sheet.places[name]
        found.append(place.caution)
        if place.behind:
            found.append(sheet.access[place.behind].caution)
    return tuple(dict.fromkeys(text for text in found if text))


def _steps(sheet: Sheet, test: Test, readings: tuple[Reading, ...]) -> tuple[str, ...]:
    """What to do before the leads go on, in order."""
    gained = {sheet.places[p].behind for r in readings for p in (r.red, r.black) if p in sheet.places}
    steps = []
    for behind in dict.fromkeys(sheet.places[n].behind for n in (test.red, test.black)):
        if behind and behind not in gained:
            entry = sheet.access[behind]
            steps.append(f"Open the way: {entry.note or entry.name} ({entry.minutes:g} min)")
    if test.instrument == "ohms":
        on_cables = {sheet.plus, sheet.minus} & {test.red, test.black}
        where = "; leads on the cable clamps, never on the posts" if on_cables else ""
        steps.append(f"Disconnect the battery: an ohmmeter wants a dead circuit{where}")
    if test.instrument == "amps":
        steps.append("Pull the fuse and put the ammeter in its place, on its highest range first")
    positions = sheet.states[test.state].positions
    words = ", ".join(f"{sheet.parts[p].title} {position}" for p, position in positions.items())
    steps.append(f"State {test.state}" + (f": {words}" if words else ""))
    return tuple(steps)
