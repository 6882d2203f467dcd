"""Wire resistance against published tables and standards."""

from __future__ import annotations

import math
from itertools import pairwise

import pytest

from pondrel.core.base.conductor import (
    awg_diameter_mm,
    awg_ohms_per_metre,
    copper_ohms_at,
    fuse_cold_ohms,
    metric_ohms_per_metre,
)
from pondrel.core.circuit.kinds.conductors import wire_ohms

# ISO 6722-1 / ISO 19642, vehicle cables of copper: maximum resistance at 20 °C in mΩ/m, from memory of the published table. Another table
# than the code's (IEC 60228, building cables), whose maxima lie some 5 % higher for the same section.
ISO_6722 = {
    0.5: 37.1, 0.75: 24.7, 1: 18.5, 1.5: 12.7, 2.5: 7.60, 4: 4.71, 6: 3.14, 10: 1.82, 16: 1.16, 25: 0.743, 35: 0.527, 50: 0.368, 70: 0.259,
}  # fmt: skip

# ASTM B258 nominal diameters in mm, from memory of the published table.
ASTM_B258_MM = {
    "4/0": 11.684,
    "1/0": 8.251,
    "4": 5.189,
    "10": 2.588,
    "12": 2.053,
    "14": 1.628,
    "16": 1.291,
    "18": 1.024,
    "20": 0.812,
    "22": 0.644,
    "30": 0.255,
}

# Handbook resistance of solid annealed copper at 20 °C, Ω per 1000 ft (NBS Handbook 100 values, from memory).
NBS_OHMS_PER_1000_FT = {"4/0": 0.04901, "10": 0.9989, "12": 1.588, "14": 2.525, "16": 4.016, "18": 6.385, "20": 10.15, "22": 16.14}


@pytest.mark.parametrize(("csa_mm2", "milliohms"), ISO_6722.items())
def test_metric_sections_lie_a_little_above_the_vehicle_cables_of_another_standard(csa_mm2, milliohms):
    assert 1.03 < metric_ohms_per_metre(csa_mm2) * 1000 / milliohms < 1.07


@pytest.mark.parametrize("size", ["20", "18", "16", "14", "12", "10", "6", "4"])
def test_metric_sections_and_awg_agree_by_their_areas(size):
    """The same area of copper, once as a solid AWG wire (ASTM B258), once as a stranded section: strands take 2 to 16 % more."""
    area = math.pi / 4.0 * awg_diameter_mm(size) ** 2
    assert 1.02 < metric_ohms_per_metre(area) / awg_ohms_per_metre(size) < 1.16


def test_sections_between_the_table_s_lie_between_their_neighbours():
    for low, high in pairwise(sorted(ISO_6722)):
        middle = metric_ohms_per_metre((low + high) / 2)
        assert metric_ohms_per_metre(high) < middle < metric_ohms_per_metre(low)


def test_no_conductor_is_better_than_solid_copper():
    """IEC 60028: 1/58 Ω·mm²/m at 20 °C."""
    for csa in (0.22, 0.35, 0.5, 0.6, 3.0, 20.0, 95.0):
        assert metric_ohms_per_metre(csa) > 1 / 58 / csa


@pytest.mark.parametrize(("size", "millimetres"), ASTM_B258_MM.items())
def test_awg_diameters(size, millimetres):
    assert awg_diameter_mm(size) == pytest.approx(millimetres, abs=0.0006)  # the table's last digit


@pytest.mark.parametrize(("size", "ohms_per_1000_ft"), NBS_OHMS_PER_1000_FT.items())
def test_awg_resistance(size, ohms_per_1000_ft):
    assert awg_ohms_per_metre(size) * 304.8 == pytest.approx(ohms_per_1000_ft, rel=2e-3)


@pytest.mark.parametrize(("start", "end"), [(20, 80), (20, -30), (0, 100), (25, 60)])
def test_copper_s_temperature_agrees_with_the_other_handbook_form(start, end):
    """R2/R1 = (234.5 + T2)/(234.5 + T1), IEC 60034-1, from memory; 0.00393 at 20 °C is the same line to a part in a thousand."""
    ratio = copper_ohms_at(1.0, end) / copper_ohms_at(1.0, start)
    assert ratio == pytest.approx((234.5 + end) / (234.5 + start), rel=1.5e-3)


def test_a_wire_takes_length_section_and_temperature():
    cold = wire_ohms({"length_m": 4.5, "csa_mm2": 0.75})
    assert cold == pytest.approx(4.5 * 0.026)
    assert wire_ohms({"length_m": 4.5, "csa_mm2": 0.75, "temperature": 70.0}) == pytest.approx(cold * (1 + 0.00393 * 50))
    assert wire_ohms({"length_m": 4.5, "csa_mm2": 0.75, "ohms": 0.5}) == 0.5
    assert wire_ohms({"length_m": 2.0, "awg": "18"}) == pytest.approx(2 * awg_ohms_per_metre("18"))


def test_a_fuse_s_cold_resistance_is_of_the_right_size():
    """10 A blade fuses are listed at 6 to 9 mΩ cold. Common practice, no source."""
    assert 0.006 < fuse_cold_ohms(10) < 0.009
    assert math.isclose(fuse_cold_ohms(20), fuse_cold_ohms(10) / 2)
