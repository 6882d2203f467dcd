"""The descent: voltage from battery plus to battery minus along one path of current, as it should be and as a suspect would have it.

The expected band moves with the supply: readings at the battery posts narrow what the battery gives before the band is drawn, since
a battery at 12.1 V lowers every point of a sound circuit.
"""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from ...circuit.layout import Path
from ..believe.belief import Belief
from ..believe.fit import Spot
from ..conclude.suspects import Target

__all__ = ["Descent", "Stop", "descent", "expected_volts"]

BAND_SIGMAS = 2.0
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


@dataclass(frozen=True)
class Descent:
    """Stops from plus to minus along a load's path in a state; ``suspect`` names the suspect whose line is drawn. ``sound`` are the volts
    of every node of the circuit if nothing is wrong."""

    path: Path
    state: str
    sound: dict[str, float]
    stops: tuple[Stop, ...]
    suspect: str | None


def tolerances(belief: Belief, hypothesis: int, pick: list[int]) -> tuple[NDArray[np.float64], NDArray[np.float64]]:
    """Where tolerances lie (K,) and their covariance (K, K), if the hypothesis holds and the picked readings are believed."""
    atom = belief.best[hypothesis]
    spot = Spot(belief.atoms.spot.row[[atom]], belief.atoms.spot.part[[atom]])
    evidence = belief.evidence
    every = evidence.spread(spot.near)
    spread = every[0, pick]  # (R, K)
    count = spread.shape[1]
    residual = evidence.value[pick] - evidence.expected(spot, belief.step(np.array([hypothesis])))[0, pick]
    gain = spread.T @ np.linalg.inv(spread @ spread.T + np.diag(evidence.uncertainty(spot.near, 0, every)[0, pick] ** 2))
    return gain @ residual, np.eye(count) - gain @ spread


def expected_volts(belief: Belief, state: str, hypothesis: int = 0, pick: list[int] | None = None) -> dict[str, tuple[float, float]]:
    """Volts and their standard deviation at every node in a state under a hypothesis (0: nothing wrong), given some readings."""
    workup = belief.workup
    if pick is None:
        sheet = workup.sheet
        pick = [i for i, r in enumerate(belief.readings) if r.instrument == "volts" and {r.red, r.black} == {sheet.plus, sheet.minus}]
    atom = belief.best[hypothesis]
    fault = workup.hypotheses.fault(hypothesis, float(belief.atoms.log_ohms[atom]))
    profile = workup.profile(state, int(belief.atoms.spot.near[atom]), fault)
    volts, spread = profile.volts, profile.spread
    if pick:
        shift, covariance = tolerances(belief, hypothesis, pick)
        volts, variance = volts + spread @ shift, ((spread @ covariance) * spread).sum(axis=1)
    else:
        variance = (spread**2).sum(axis=1)
    sigma = np.sqrt(np.maximum(variance, 0.0))
    return dict(zip(profile.nodes, zip(volts.tolist(), sigma.tolist(), strict=True), strict=True))


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
            if r.state == state and r.instrument == "volts" and {r.red, r.black} == {node, sheet.minus} and not r.elsewhere
        )
        reach = BAND_SIGMAS * sigma
        stops.append(Stop(node, node in sheet.places, volts, volts - reach, volts + reach, theirs[node][0] if theirs else None, taken))
    return Descent(path, state, {node: volts for node, (volts, _) in sound.items()}, tuple(stops), items[lead].part if shown else None)
