"""Evidence with a few outcomes, as plain tables: Bayes' rule, and what an outcome is expected to tell.

A table (H, O) holds the probability of each outcome under each hypothesis. Whatever has words for outcomes goes through here: what is
seen, codes, tests that no circuit law predicts.
"""

from __future__ import annotations

import math

from ...base.arrays import Floats
from ...base.special import xlogy

__all__ = ["information", "posterior"]


def posterior(prior: Floats, table: Floats, outcome: int) -> Floats:
    """(H,) probabilities after an outcome; ``prior`` (H,) sums to 1."""
    joint = prior * table[:, outcome]
    posterior: Floats = joint / joint.sum()
    return posterior


def information(joint_target: Floats, table: Floats) -> float:
    """Bits that an outcome is expected to tell about a target; ``joint_target`` (H, G) joint masses of hypotheses and targets."""
    joint = table.T @ joint_target  # (O, G)
    each, outcome, total = joint.sum(axis=0), joint.sum(axis=1), float(joint.sum())
    nats = float(xlogy(joint, joint).sum() - xlogy(each, each).sum() - xlogy(outcome, outcome).sum() + xlogy(total, total))
    return max(nats / total / math.log(2.0), 0.0) if total > 0.0 else 0.0
