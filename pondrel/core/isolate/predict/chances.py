"""What observations say of every row of a workup."""

from __future__ import annotations

import numpy as np

from ...base.arrays import Floats
from ...evidence.items import Observation
from ...evidence.registry import outcomes_of
from .workup import Workup

__all__ = ["log_factor"]


def log_factor(workup: Workup, item: Observation) -> Floats:
    """(M,) what an observation adds to each row's log likelihood."""
    column = list(outcomes_of(workup.sheet, item)).index(item.outcome)
    return np.log(workup.chances(item.test)[:, column])
