"""What a line of LIN looks like where something is wrong with it: its levels and how fast it rises (ISO 17987-4).

At rest the master's 1 kΩ holds it near the battery, each slave's 30 kΩ helps; a sender draws it near its own ground. Without the master's
resistor it rises slowly; over a poor ground it does not come down.
"""

from __future__ import annotations

import math
from collections.abc import Sequence

import numpy as np

from ...base.judgement import OWN_RULE, judged
from ..edges import crossing_times, edges_of
from ..levels import quick_scan
from .frame import LineError, Suspect
from .line import Line

__all__ = ["lin_suspects"]

REST, REST_U = 12.5, 1.5
DOMINANT, DOMINANT_U = 0.9, 0.4
RISE, SLOW_RISE, RISE_TIMES = 0.12, 0.9, 1.5  # of a bit; times for one standard deviation
LOADED = 0.65  # of the battery's volts at which a line that something draws down rests
POOR_GROUND = judged("LIN_POOR_GROUND", 2.5, "V", "at which a LIN line stands dominant where its sender's ground is poor", OWN_RULE)
POOR_GROUND_U = 0.8
PRIORS = {"sound": 0.75, "ground": 0.06, "pull-up": 0.05, "loaded": 0.04, "disturbed": 0.1}
SAYS = {
    "sound": "The line is as it should be.",
    "ground": "It does not come down far enough: the ground of who sends is poor.",
    "pull-up": "It rises slowly: the master's resistor is missing, or too much hangs on the line.",
    "loaded": "It does not rise far enough: something draws it down.",
    "disturbed": "Something disturbs the line now and then: a chafed wire, a loose plug, or noise.",
}
ERRORS_SOUND = 0.03


def lin_suspects(line: Line, bit: float, errors: Sequence[LineError]) -> tuple[Suspect, ...]:
    """What may be the matter with a line of LIN, the likeliest first; ``bit`` in seconds."""
    rest, dominant = line.levels.top, line.levels.base
    rises = crossing_times(line.seen, line.levels, edges_of(line.seen, line.levels, quick_scan(line.seen)), rising=True)
    rise = float(np.median(rises)) * line.capture.step / bit if len(rises) else None
    lost = any(error.kind != "no response" for error in errors)
    logs = {}
    for name, prior in PRIORS.items():
        log = math.log(prior)
        if line.seen.scaled:
            log += _near(rest, LOADED * REST if name == "loaded" else REST, REST_U)
            log += _near(dominant, POOR_GROUND, POOR_GROUND_U) if name == "ground" else _near(dominant, DOMINANT, DOMINANT_U)
        if rise is not None:
            log += _near(math.log(max(rise, 0.02)), math.log(SLOW_RISE if name == "pull-up" else RISE), math.log(RISE_TIMES))
        if lost and name == "sound":
            log += math.log(ERRORS_SOUND)
        if not lost and name == "disturbed":
            log += math.log(ERRORS_SOUND)
        logs[name] = log
    top = max(logs.values())
    weights = {name: math.exp(log - top) for name, log in logs.items()}
    total = sum(weights.values())
    order = sorted(weights, key=lambda name: -weights[name])
    return tuple(Suspect(SAYS[name], weights[name] / total) for name in order if weights[name] / total > 0.002)


def _near(value: float, expected: float, u: float) -> float:
    return -2.5 * math.log1p(((value - expected) / u) ** 2 / 4.0)
