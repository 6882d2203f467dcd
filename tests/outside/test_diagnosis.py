"""Model-based diagnosis with probabilities, against the classic published example.

Source: J. de Kleer and B. C. Williams, "Diagnosing multiple faults", Artificial Intelligence 32 (1987) 97–130: three multipliers and two
adders, X = A·C, Y = B·D, Z = C·E, F = X + Y, G = Y + Z, with A = 3, B = 2, C = 2, D = 3, E = 3; F is found to be 10, G 12. The minimal
candidates [A1], [M1], [A2, M2], [M2, M3] and the best next place to measure, X, are the paper's (from memory); the numbers are worked out
here by enumeration, as the paper defines them, and compared with the tables' code.
"""

from __future__ import annotations

import math
from itertools import combinations

import numpy as np
import pytest

from pondrel.core.isolate.believe.discrete import information, posterior

PARTS = ("M1", "M2", "M3", "A1", "A2")
FAILS = 0.01
VALUES = (4, 6, 8, 10, 12, 14)  # what may be measured; an output that nothing predicts is any of them alike


def predicted(broken: frozenset[str]) -> dict[str, int | None]:
    """Outputs forwards; None behind a broken part."""
    x, y, z = (None if part in broken else 6 for part in ("M1", "M2", "M3"))
    f = None if "A1" in broken or x is None or y is None else x + y
    g = None if "A2" in broken or y is None or z is None else y + z
    return {"X": x, "Y": y, "Z": z, "F": f, "G": g}


def inferred(broken: frozenset[str], known: dict[str, int]) -> dict[str, int | None] | None:
    """Outputs with what is known carried backwards through sound adders too; None where the candidate contradicts it."""
    out = predicted(broken)
    for name, value in known.items():
        if out[name] is not None and out[name] != value:
            return None
        out[name] = value
    for _ in range(3):
        for adder, one, other, total in (("A1", "X", "Y", "F"), ("A2", "Y", "Z", "G")):
            if adder in broken:
                continue
            a, b, s = out[one], out[other], out[total]
            if a is not None and b is not None and s is not None and a + b != s:
                return None
            if s is not None and a is not None and b is None:
                out[other] = s - a
            if s is not None and b is not None and a is None:
                out[one] = s - b
            if a is not None and b is not None and s is None:
                out[total] = a + b
    for multiplier, place in (("M1", "X"), ("M2", "Y"), ("M3", "Z")):
        if multiplier not in broken and out[place] not in (None, 6):
            return None
    return out


CANDIDATES = [frozenset(c) for size in range(6) for c in combinations(PARTS, size)]
PRIOR = np.array([FAILS ** len(c) * (1 - FAILS) ** (5 - len(c)) for c in CANDIDATES])


def table(place: str, known: dict[str, int]) -> np.ndarray:
    """(candidates, values): 1 for the predicted value, evenly spread where nothing is predicted."""
    made = np.zeros((len(CANDIDATES), len(VALUES)))
    for i, candidate in enumerate(CANDIDATES):
        out = inferred(candidate, known)
        value = None if out is None else out[place]
        made[i] = 1.0 / len(VALUES) if value is None else [v == value for v in VALUES]
    return made


def after_both() -> np.ndarray:
    """P(candidate | F = 10, G = 12) by the tables' code."""
    first = posterior(PRIOR, table("F", {}), VALUES.index(10))
    return posterior(first, table("G", {"F": 10}), VALUES.index(12))


def test_the_minimal_candidates_are_the_papers():
    belief = after_both()
    possible = [c for c, p in zip(CANDIDATES, belief, strict=True) if p > 0]
    minimal = {c for c in possible if not any(other < c for other in possible)}
    assert minimal == {frozenset({"A1"}), frozenset({"M1"}), frozenset({"A2", "M2"}), frozenset({"M2", "M3"})}


def test_the_two_single_faults_share_nearly_all_of_it():
    belief = dict(zip(CANDIDATES, after_both(), strict=True))
    assert belief[frozenset({"A1"})] == pytest.approx(belief[frozenset({"M1"})])
    assert belief[frozenset({"A1"})] + belief[frozenset({"M1"})] > 0.9
    assert belief[frozenset({"A2", "M2"})] < 0.02


def test_x_is_the_best_place_to_measure_next():
    belief, known = after_both(), {"F": 10, "G": 12}
    each = np.diag(belief)  # every candidate is a target of its own, as in the paper
    bits = {place: information(each, table(place, known)) for place in "XYZ"}
    assert max(bits, key=lambda place: bits[place]) == "X"
    assert bits["X"] > 0.9  # it parts [A1] from [M1], which are about equal
    assert bits["Y"] < 0.3 and bits["Z"] < 0.3


@pytest.mark.parametrize("place", ["X", "Y", "Z"])
def test_expected_information_is_the_drop_of_entropy_spelled_out(place):
    belief, likely = after_both(), table(place, {"F": 10, "G": 12})

    def entropy(p: np.ndarray) -> float:
        return -sum(float(q) * math.log2(q) for q in p if q > 0)

    expected = entropy(belief)
    for k in range(len(VALUES)):
        share = float(belief @ likely[:, k])
        if share > 0:
            expected -= share * entropy(belief * likely[:, k] / share)
    assert information(np.diag(belief), likely) == pytest.approx(expected, abs=1e-9)
