"""Uncertainty after the GUM (ISO/IEC Guide 98-3:2008), and mutual information against brute force (Cover & Thomas, Elements of
Information Theory, 2006, section 2.3)."""

from __future__ import annotations

import math

import numpy as np
import pytest

from pondrel.core.isolate.advise.advice import _information
from pondrel.core.isolate.believe.likelihood import Precision
from pondrel.core.meter.instrument import INSTRUMENTS, uncertainty_at


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
    owner, mass = np.sort(np.r_[np.arange(groups), rng.integers(0, groups, atoms - groups)]), rng.dirichlet(np.ones(atoms))
    exact = brute_force_bits(mean, sigma, mass[:, None] * np.eye(groups)[owner])
    binned = _information(mean[None], sigma[None], mass, np.searchsorted(owner, np.arange(groups)))[0]
    assert binned <= exact + 1e-3  # bins can only lose
    assert binned >= 0.9 * exact


def test_a_number_that_separates_two_equal_cases_is_worth_one_bit():
    bits = _information(np.array([[0.0, 12.0]]), np.array([[0.05, 0.05]]), np.array([0.5, 0.5]), np.arange(2))
    assert bits[0] == pytest.approx(1.0, abs=1e-6)


def test_a_number_that_is_the_same_for_all_is_worth_nothing():
    bits = _information(np.array([[12.0, 12.0]]), np.array([[0.05, 0.05]]), np.array([0.3, 0.7]), np.arange(2))
    assert bits[0] == pytest.approx(0.0, abs=1e-9)


def test_resistance_and_reactance_measured_together_have_the_guides_uncertainties():
    """GUM H.2 (values from memory): R, X, Z from V, I, φ with correlated means; u(R) = 0.071 Ω, u(X) = 0.295 Ω, u(Z) = 0.236 Ω and
    r(R, X) = −0.588, r(R, Z) = −0.485, r(X, Z) = 0.993. The spreads are S·L with S the sensitivities and L·Lᵀ the inputs' covariance."""
    volts, amps, phase = 4.9990, 19.661e-3, 1.04446
    u = np.array([0.0032, 0.0095e-3, 0.00075])
    r = np.array([[1.0, -0.355, 0.858], [-0.355, 1.0, -0.645], [0.858, -0.645, 1.0]])
    z = volts / amps
    cos, sin = math.cos(phase), math.sin(phase)
    sensitivity = np.array([[cos / amps, -z * cos / amps, -z * sin], [sin / amps, -z * sin / amps, z * cos], [1 / amps, -z / amps, 0.0]])
    spread = sensitivity @ np.linalg.cholesky(r * np.outer(u, u))
    covariance = np.linalg.inv(Precision.of(spread, np.full(3, 1e-3)).matrix)
    found = np.sqrt(np.diag(covariance))
    assert found == pytest.approx([0.071, 0.295, 0.236], abs=0.001)
    correlation = covariance / np.outer(found, found)
    assert (correlation[0, 1], correlation[0, 2], correlation[1, 2]) == pytest.approx((-0.588, -0.485, 0.993), abs=0.005)


def test_a_gauge_block_s_standard_uncertainty_is_the_guides():
    """GUM H.1 (values from memory): components of 25, 9.7, 2.9 and 16.6 nm make 32 nm."""
    components = np.array([[25.0, 9.7, 2.9, 16.6]])  # of one length, four unknowns
    variance = np.linalg.inv(Precision.of(components, np.array([1e-3])).matrix)
    assert math.sqrt(float(variance[0, 0])) == pytest.approx(32.0, abs=0.5)
