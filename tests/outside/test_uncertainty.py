"""Uncertainty after the GUM (ISO/IEC Guide 98-3:2008), and mutual information against brute force (Cover & Thomas, Elements of
Information Theory, 2006, section 2.3)."""

from __future__ import annotations

import math

import numpy as np
import pytest

from pondrel.core.isolate.advise import _information
from pondrel.core.isolate.likelihood import Precision
from pondrel.core.meter import INSTRUMENTS, uncertainty_at


def test_a_rectangular_half_width_is_divided_by_root_three():
    """GUM 4.3.7: u² = a²/3. With contact and rounding left out the meter's ±(0.5 % + 2 digits) is all there is."""
    meter = INSTRUMENTS["volts"]
    u = float(uncertainty_at(meter, np.array(30.0), 0.0))
    assert math.sqrt(u**2 - meter.floor**2) == pytest.approx((0.005 * 30 + 0.02) / math.sqrt(3))


def test_rounding_to_a_digit_is_rectangular_too():
    """GUM F.2.2.1: a resolution of δ contributes δ²/12."""
    meter = INSTRUMENTS["volts"]
    with_, without = (float(uncertainty_at(meter, np.array(5.0), d)) for d in (0.1, 0.0))
    assert with_**2 - without**2 == pytest.approx(0.1**2 / 12)


def test_fully_correlated_inputs_add_linearly():
    """GUM 5.2.2, note 1: with correlation +1, u(sum) is the sum of the u."""
    precision = Precision.of(np.array([[0.3], [0.4]]), np.array([1e-6, 1e-6]))
    covariance = np.linalg.inv(precision.matrix)
    assert math.sqrt(covariance.sum()) == pytest.approx(0.7, rel=1e-4)


def brute_force_bits(mean, sigma, target, steps=40001):
    """Mutual information by fine quadrature of the densities."""
    x = np.linspace((mean - 8 * sigma).min(), (mean + 8 * sigma).max(), steps)
    density = np.exp(-0.5 * ((x - mean[:, None]) / sigma[:, None]) ** 2) / sigma[:, None] / math.sqrt(2 * math.pi)
    joint = target.T @ density  # (G, x)
    outcome, each = joint.sum(axis=0), target.sum(axis=0)
    with np.errstate(divide="ignore", invalid="ignore"):
        inside = np.where(joint > 0, joint * np.log2(joint / outcome / each[:, None]), 0.0)
    return float(np.trapezoid(inside.sum(axis=0), x))


@pytest.mark.parametrize("seed", range(8))
def test_binned_information_keeps_nine_tenths_of_the_true_one_and_flatters_none(seed):
    rng = np.random.default_rng(seed)
    atoms, groups = 30, 5
    mean, sigma = rng.uniform(0, 12, atoms), rng.uniform(0.03, 0.6, atoms)
    target = np.zeros((atoms, groups))
    target[np.arange(atoms), rng.integers(0, groups, atoms)] = rng.dirichlet(np.ones(atoms))
    exact = brute_force_bits(mean, sigma, target)
    binned = _information(mean[None], sigma[None], target)[0]
    assert binned <= exact + 1e-3  # bins can only lose
    assert binned >= 0.9 * exact


def test_a_number_that_separates_two_equal_cases_is_worth_one_bit():
    bits = _information(np.array([[0.0, 12.0]]), np.array([[0.05, 0.05]]), np.diag([0.5, 0.5]))
    assert bits[0] == pytest.approx(1.0, abs=1e-6)


def test_a_number_that_is_the_same_for_all_is_worth_nothing():
    bits = _information(np.array([[12.0, 12.0]]), np.array([[0.05, 0.05]]), np.diag([0.3, 0.7]))
    assert bits[0] == pytest.approx(0.0, abs=1e-9)
