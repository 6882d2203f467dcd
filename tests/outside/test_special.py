"""Our few special functions against a reference program: scipy.special (Boost, Cephes, TOMS 917), at the same points."""

from __future__ import annotations

import numpy as np
import pytest
import scipy.special

from pondrel.core.base.special import logsumexp, ndtr, ndtr_nearly, wrightomega, xlogy

EVERYWHERE = np.concatenate([np.linspace(-36.0, 9.0, 40_001), [-0.663, -0.6629, 0.0, 0.6629, 0.663, 5.6568, 5.6569, 40.0]])


def test_the_normal_distribution_far_into_its_tails():
    theirs = scipy.special.ndtr(EVERYWHERE)
    assert np.abs(ndtr(EVERYWHERE) / theirs - 1.0).max() < 1e-12
    assert ndtr(-1e3) == 0.0 and ndtr(1e3) == 1.0
    assert np.abs(ndtr_nearly(EVERYWHERE) - theirs).max() < 1e-7


def test_wright_omega_from_exponential_to_linear():
    z = np.concatenate([np.linspace(-680.0, 60.0, 40_001), np.geomspace(60.0, 1e12, 2_000), [-2.0, 1.0]])
    assert np.abs(wrightomega(z) / scipy.special.wrightomega(z) - 1.0).max() < 1e-12
    assert wrightomega(np.array([-1e4]))[0] == 0.0


@pytest.mark.parametrize("axis", [None, 0, 1])
def test_sums_of_exponentials_of_very_large_and_small_logarithms(axis):
    logs = np.random.default_rng(3).normal(size=(7, 5)) * 400.0
    logs[2] = -np.inf
    assert logsumexp(logs, axis=axis) == pytest.approx(scipy.special.logsumexp(logs, axis=axis), rel=1e-14)


def test_nothing_times_the_logarithm_of_nothing_is_nothing():
    x = np.array([0.0, 0.5, 2.0])
    assert xlogy(x, x) == pytest.approx(scipy.special.xlogy(x, x), rel=1e-15)
