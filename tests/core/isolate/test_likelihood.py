"""The likelihood against writing every case out."""

from __future__ import annotations

import math
from itertools import combinations

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from scipy.stats import multivariate_normal

from pondrel.core.isolate.believe.likelihood import (
    BLUNDER,
    Precision,
    blunder_probability,
    log_likelihood,
    standard_scores,
)


def spelled_out(residual, covariance, scale, blunder):
    """Sum over every set of at most two blunders, each with its own Gaussian of the rest."""
    count = len(residual)
    total = 0.0
    for size in range(min(count, 2) + 1):
        for out in combinations(range(count), size):
            kept = [i for i in range(count) if i not in out]
            density = multivariate_normal(np.zeros(len(kept)), covariance[np.ix_(kept, kept)]).pdf(residual[kept]) if kept else 1.0
            odds = math.prod(blunder[i] / (1 - blunder[i]) / scale[i] for i in out)
            total += (1 - BLUNDER) ** count * odds * density
    return math.log(total)


@settings(max_examples=40, deadline=None)
@given(st.integers(1, 5), st.integers(0, 2**31))
def test_sets_of_blunders_are_summed_exactly(count, seed):
    rng = np.random.default_rng(seed)
    spread = rng.normal(size=(count, 3)) * 0.3
    uncertainty = rng.uniform(0.02, 0.2, count)
    residual = rng.normal(size=count)
    scale = np.full(count, 30.0)
    blunder = rng.uniform(BLUNDER, 0.3, count)
    mine = log_likelihood(residual, Precision.of(spread, uncertainty), scale, blunder)
    assert mine == pytest.approx(spelled_out(residual, spread @ spread.T + np.diag(uncertainty**2), scale, blunder), rel=1e-9, abs=1e-9)


def test_readings_that_outnumber_tolerances_are_weighed_as_few_are():
    """In the space of the tolerances and written out: the same likelihood, columns and blunders."""
    rng = np.random.default_rng(4)
    spread, uncertainty = rng.normal(size=(3, 40, 5)) * 0.3, rng.uniform(0.02, 0.2, (3, 40))
    precision = Precision.of(spread, uncertainty)
    covariance = spread @ np.swapaxes(spread, 1, 2) + uncertainty[:, :, None] ** 2 * np.eye(40)
    spelled = Precision(np.linalg.slogdet(covariance)[1], np.linalg.inv(covariance))
    assert precision.whole is None and spelled.whole is not None
    assert precision.log_det == pytest.approx(spelled.log_det, rel=1e-12)
    assert precision.matrix == pytest.approx(spelled.matrix, rel=1e-9, abs=1e-9)
    assert precision.diagonal == pytest.approx(spelled.diagonal, rel=1e-9)
    reading = np.array([0, 7, 39])
    assert precision.column(reading) == pytest.approx(spelled.column(reading), rel=1e-9, abs=1e-9)
    residual = rng.normal(size=(3, 40)) * 0.3
    residual[:, 5] = 8.0
    weighed = [log_likelihood(residual, each, np.full(40, 30.0), np.full(40, BLUNDER)) for each in (precision, spelled)]
    assert weighed[0] == pytest.approx(weighed[1], rel=1e-9)
    odd = [blunder_probability(residual, each, np.full(40, 30.0), np.full(40, BLUNDER)) for each in (precision, spelled)]
    assert odd[0] == pytest.approx(odd[1], abs=1e-9) and odd[0][:, 5].min() > 0.99


def test_a_common_shift_is_forgiven_where_independent_errors_are_not():
    """All readings half a volt low is one event if they hang on one supply, and four if each has its own tolerance."""
    residual, u, scale, blunder = np.full(4, -0.5), np.full(4, 0.03), np.full(4, 30.0), np.full(4, BLUNDER)
    together = log_likelihood(residual, Precision.of(np.full((4, 1), 0.7), u), scale, blunder)
    apart = log_likelihood(residual, Precision.of(0.7 * np.eye(4), u), scale, blunder)
    assert together > apart + 3


def test_one_wild_reading_costs_a_bounded_amount():
    u, scale, blunder = np.full(3, 0.05), np.full(3, 30.0), np.full(3, BLUNDER)
    precision = Precision.of(np.zeros((3, 1)), u)
    near = log_likelihood(np.array([0.0, 0.0, 1.0]), precision, scale, blunder)
    far = log_likelihood(np.array([0.0, 0.0, 100.0]), precision, scale, blunder)
    assert far == pytest.approx(near, abs=1e-6)


def test_scores_say_how_far_each_reading_lies_from_what_the_others_make_of_it():
    covariance = 100.0 + 0.01 * np.eye(3)
    scores = standard_scores(np.array([2.0, 2.0, 3.0]), np.linalg.inv(covariance), np.zeros(3, dtype=bool))
    # the two equal ones pin the shift to 2 ± 0.07, so the third is 1 V off at 0.122 V
    assert scores[2] == pytest.approx(1.0 / math.sqrt(0.1**2 + 0.1**2 / 2), rel=1e-3)


def test_a_doubtful_reading_does_not_make_the_others_look_odd():
    covariance = 0.49 + 0.01 * np.eye(4)
    residual = np.array([0.0, 0.1, -11.0, 0.0])
    odd = blunder_probability(
        residual, Precision(np.linalg.slogdet(covariance)[1], np.linalg.inv(covariance)), np.full(4, 30.0), np.full(4, BLUNDER)
    )
    assert (odd > 0.5).tolist() == [False, False, True, False]
    assert np.abs(standard_scores(residual, np.linalg.inv(covariance), odd > 0.5)[[0, 1, 3]]).max() < 1.5
    assert abs(standard_scores(residual, np.linalg.inv(covariance), odd > 0.5)[2]) > 50
