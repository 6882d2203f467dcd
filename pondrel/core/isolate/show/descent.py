"""The descent: voltage from battery plus to battery minus along one path of current, as it should be and as a suspect would have it.

The expected band moves with the supply: readings at the battery posts narrow what the battery gives before the band is drawn, since
a battery at 12.1 V lowers every point of a sound circuit.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from itertools import pairwise

import numpy as np

from ...base.arrays import Floats
from ...circuit.paths import Path
from ..believe.belief import Belief
from ..conclude.suspects import Target
from ..predict.prediction import Spot

__all__ = ["Descent", "Loss", "Stop", "descent", "expected_volts"]

BAND_SIGMAS = 2.0
LEAST_LOSS = 0.03  # volts: two readings of a hand-held meter differ by as much by themselves
WORTH_A_LINE = 0.1  # chance from which on a suspect's own descent is drawn


@dataclass(frozen=True, slots=True)
class Stop:
    """A node on the path: ``expected`` volts with ``low`` … ``high``, ``suspect`` volts or None, and readings as (number, volts)."""

    node: str
    probed: bool
    expected: float
    low: float
    high: float
    suspect: float | None
    readings: tuple[tuple[int, float], ...]


@dataclass(frozen=True, slots=True)
class Loss:
    """Volts lost between the readings at the stops ``first`` and ``last`` (indices), what ``should`` be lost there, and whether the two go
    together."""

    first: int
    last: int
    volts: float
    should: float
    fits: bool


@dataclass(frozen=True)
class Descent:
    """Stops from plus to minus along a load's path in a state, and what is lost between readings that follow each other; ``suspect`` names
    the suspect whose line is drawn. ``sound`` are the volts of every node of the circuit if nothing is wrong."""

    path: Path
    state: str
    sound: dict[str, float]
    stops: tuple[Stop, ...]
    suspect: str | None
    losses: tuple[Loss, ...] = ()


def tolerances(belief: Belief, hypothesis: int, pick: list[int]) -> tuple[Floats, Floats]:
    """Where tolerances lie (K,) and their covariance (K, K), if the hypothesis holds and the picked readings are believed."""
    atom = belief.best[hypothesis]
    spot = Spot(belief.atoms.spot.row[[atom]], belief.atoms.spot.part[[atom]])
    evidence = belief.evidence
    every = evidence.spread(spot.near)
    spread = every[0, pick]  # (R, K)
    count = spread.shape[1]
    residual = evidence.value[pick] - evidence.expected(spot, belief.step(np.array([hypothesis])))[0, pick]
    gain = spread.T @ np.linalg.inv(spread @ spread.T + np.diag(evidence.uncertainty(spot.near, None, every)[0, pick] ** 2))
    return gain @ residual, np.eye(count) - gain @ spread


@dataclass(frozen=True, eq=False)
class _Expected:
    """Volts (N,) of the nodes in a state under a hypothesis, and how unknown tolerances, each of variance 1, move them (N, K)."""

    index: dict[str, int]
    volts: Floats
    moves: Floats

    @classmethod
    def of(cls, belief: Belief, state: str, hypothesis: int = 0, pick: list[int] | None = None) -> _Expected:
        """Given the picked readings; without a pick those at the battery, which say what it gives."""
        workup = belief.workup
        if pick is None:
            sheet = workup.sheet
            pick = [i for i, r in enumerate(belief.readings) if r.instrument == "volts" and {r.red, r.black} == {sheet.plus, sheet.minus}]
        atom = belief.best[hypothesis]
        fault = workup.hypotheses.fault(hypothesis, float(belief.atoms.log_ohms[atom]))
        profile = workup.profile(state, int(belief.atoms.spot.near[atom]), fault)
        volts: Floats = profile.volts
        moves: Floats = profile.spread
        if pick:
            shift, covariance = tolerances(belief, hypothesis, pick)
            values, vectors = np.linalg.eigh(covariance)
            volts, moves = volts + moves @ shift, moves @ (vectors * np.sqrt(np.maximum(values, 0.0)))
        return cls({node: i for i, node in enumerate(profile.nodes)}, volts, moves)

    def drop(self, one: str, other: str) -> tuple[float, float]:
        """Volts from one node to another and their standard deviation: what moves both alike moves the drop not at all."""
        i, j = self.index[one], self.index[other]
        return float(self.volts[i] - self.volts[j]), float(np.linalg.norm(self.moves[i] - self.moves[j]))


def expected_volts(belief: Belief, state: str, hypothesis: int = 0, pick: list[int] | None = None) -> dict[str, tuple[float, float]]:
    """Volts and their standard deviation at every node in a state under a hypothesis (0: nothing wrong), given some readings."""
    found = _Expected.of(belief, state, hypothesis, pick)
    sigma = np.sqrt((found.moves**2).sum(axis=1))
    return dict(zip(found.index, zip(found.volts.tolist(), sigma.tolist(), strict=True), strict=True))


def _losses(belief: Belief, state: str, stops: Sequence[Stop]) -> tuple[Loss, ...]:
    """What is lost between readings that follow each other along the stops."""
    read = [(i, stop) for i, stop in enumerate(stops) if stop.readings]
    if len(read) < 2:
        return ()
    expected = _Expected.of(belief, state)
    losses = []
    for (first, one), (last, other) in pairwise(read):
        should, sigma = expected.drop(one.node, other.node)
        (upper, volts), (lower, less) = one.readings[-1], other.readings[-1]
        rounded = (belief.readings[upper].measured.resolution + belief.readings[lower].measured.resolution) / 2.0
        lost = volts - less
        losses.append(Loss(first, last, lost, should, abs(lost - should) <= BAND_SIGMAS * sigma + LEAST_LOSS + rounded))
    return tuple(losses)


def descent(belief: Belief, path: Path, state: str, first: Target | None = None) -> Descent:
    """The descent along ``path`` in ``state``, with the leading suspect's line once there are readings: that of the ``first`` target where
    it is worth a line, whatever else may be likelier by lasting faults alone."""
    sheet = belief.workup.sheet
    sound = expected_volts(belief, state)
    items = belief.workup.hypotheses.items
    accused = first.members if first and first.probability > WORTH_A_LINE else ()
    among = [item.part in accused if accused else item.part is not None for item in items]
    lead = int(np.argmax(np.where(among, belief.probability, -1.0)))
    shown = bool(belief.readings) and (bool(accused) or belief.probability[lead] > WORTH_A_LINE)
    theirs = expected_volts(belief, state, lead, list(range(len(belief.readings)))) if shown else None
    stops = []
    for node in path.nodes:
        volts, sigma = sound[node]
        taken = tuple(
            (i, r.measured.value if r.red == node else -r.measured.value)
            for i, r in enumerate(belief.readings)
            if r.state == state and r.meter.is_voltmeter and {r.red, r.black} == {node, sheet.minus} and not r.elsewhere
        )
        reach = BAND_SIGMAS * sigma
        stops.append(Stop(node, node in sheet.places, volts, volts - reach, volts + reach, theirs[node][0] if theirs else None, taken))
    losses = _losses(belief, state, stops)
    return Descent(
        path, state, {node: volts for node, (volts, _) in sound.items()}, tuple(stops), items[lead].part if shown else None, losses
    )
