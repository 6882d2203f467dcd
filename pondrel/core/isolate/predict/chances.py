"""What observations say: for every row of a workup, how likely each outcome of something seen, done or known is.

What that is, the sort of the observation knows; here it is asked once for each question and kept, since the same questions are weighed
after every reading.
"""

from __future__ import annotations

import numpy as np

from ...base.arrays import Floats
from ...evidence.asked import Question
from ...evidence.items import Observation
from ...evidence.registry import outcomes_of, word_sort
from .workup import Workup

__all__ = ["chances", "log_factor"]


def chances(workup: Workup, question: Question) -> Floats:
    """(M, outcomes) how likely each outcome is, in the order of `outcomes_of`; for what is seen of a part or known of its past, not chances
    but how much likelier it is."""
    if question not in workup.memo.chances:
        workup.memo.chances[question] = word_sort(question).chances(workup, question)
    return workup.memo.chances[question]


def log_factor(workup: Workup, item: Observation) -> Floats:
    """(M,) what an observation adds to each row's log likelihood."""
    column = list(outcomes_of(workup.sheet, item)).index(item.outcome)
    return np.log(chances(workup, item.test)[:, column])
