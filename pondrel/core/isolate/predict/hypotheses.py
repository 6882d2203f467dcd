"""What may be wrong: nothing, or one part in one mode, with its severity on a grid.

Prior: each mode's weight from the registry. "Nothing on this sheet is wrong" never starts out less likely than the likeliest single
fault: no part is accused on its prior alone, a reading has to speak against it.
"""

from __future__ import annotations

import math
from dataclasses import dataclass, replace
from functools import cached_property
from typing import Any

import numpy as np
from numpy.typing import NDArray

from ...base.judgement import OWN_RULE, judged
from ...circuit.fault import Fault, loop_ohms, severity_range
from ...circuit.network import Network
from ...circuit.part import Mode
from ...circuit.sheet import Sheet
from ...learn import Weights

__all__ = ["GRID", "Hypothesis", "Hypotheses", "enumerate_hypotheses", "weighed"]

GRID = 25  # severities per curve; between them cubic Hermite interpolation errs by less than a millivolt
NOTHING_LEAST = judged("NOTHING_LEAST", 0.15, "share", "jobs whose fault is not on the sheet chosen")
NOTHING_OVER_LARGEST = judged(
    "NOTHING_OVER_LARGEST", 1.2, "times", "how much likelier than the likeliest fault nothing is at first", OWN_RULE
)


@dataclass(frozen=True, slots=True)
class Hypothesis:
    """A fault mode of a part, ``part`` None for "nothing on this sheet is wrong". ``words`` says it in the trade's language."""

    part: str | None
    mode: str | None
    words: str
    swept: bool


@dataclass(frozen=True, eq=False)
class Hypotheses:
    """All hypotheses of a sheet with prior (H,), and per hypothesis the natural log of its severities in ohms ((1,) or (GRID,))."""

    items: tuple[Hypothesis, ...]
    prior: NDArray[np.float64]
    severities: tuple[NDArray[np.float64], ...]

    @cached_property
    def spacing(self) -> NDArray[np.float64]:
        """(H,) spacing of the severities in ln ohms, 0 where there is but one."""
        return np.array([grid[1] - grid[0] if len(grid) > 1 else 0.0 for grid in self.severities])

    def fault(self, index: int, log_ohms: float) -> tuple[Fault, ...]:
        """The faults of a hypothesis at a severity: none or one."""
        item = self.items[index]
        if item.part is None or item.mode is None:
            return ()
        return (Fault(item.part, item.mode, math.exp(log_ohms) if item.swept else None),)


def enumerate_hypotheses(sheet: Sheet, network: Network) -> Hypotheses:
    """Every hypothesis of a sheet, "nothing" first, then parts in the sheet's order and modes in the registry's."""
    loops = loop_ohms(network)
    items = [Hypothesis(None, None, "nothing on this sheet is wrong", False)]
    weights: list[float] = []
    severities: list[NDArray[np.float64]] = [np.zeros(1)]
    for part in sheet.parts.values():
        for mode in part.modes:
            items.append(Hypothesis(part.name, mode.name, mode.words or mode.name, mode.severity is not None))
            weights.append(mode.weight)
            severities.append(_grid(network, loops, part.name, mode))
    return Hypotheses(tuple(items), _prior(np.array(weights)), tuple(severities))


def _prior(weights: NDArray[np.float64]) -> NDArray[np.float64]:
    """(H,) the prior of all hypotheses, "nothing" first, from the weights (H − 1,) of the faults."""
    total, largest = float(weights.sum()), float(weights.max())
    nothing = max(NOTHING_LEAST / (1 - NOTHING_LEAST) * total, NOTHING_OVER_LARGEST * largest)
    return np.array([nothing, *weights]) / (nothing + total)


def weighed(hypotheses: Hypotheses, weights: Weights) -> Hypotheses:
    """The same with the weights of some parts' faults multiplied; how likely nothing is follows by the same rule."""
    parts, modes = dict(weights.parts), {(part, mode): factor for part, mode, factor in weights.modes}
    times = np.array(
        [parts.get(item.part or "", 1.0) * modes.get((item.part or "", item.mode or ""), 1.0) for item in hypotheses.items[1:]]
    )
    return replace(hypotheses, prior=_prior(hypotheses.prior[1:] * times))


def _grid(network: Network, loops: NDArray[Any], part: str, mode: Mode) -> NDArray[np.float64]:
    if mode.severity is None:
        return np.zeros(1)
    least, most = severity_range(network, loops, part, mode)
    return np.linspace(math.log(least), math.log(most), GRID)
