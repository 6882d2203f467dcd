"""The judge's decision rules against what the standards say of them."""

from __future__ import annotations

import pytest

from pondrel.core.base.conditions import Conditions, parse_conditions
from pondrel.core.check import Limit, Verdict, around, judge
from pondrel.core.check.laws import copper

# Two-sided tolerance interval of a voltage, and the standard uncertainty of the meter that reads it.
LIMIT, U = Limit("V", 11.5, 14.7, "test", "maker"), 0.05


@pytest.mark.parametrize(("r", "risk"), [(0.0, 0.50), (1.0, 0.0495), (2.0 / 1.65, 0.0228)])
def test_a_guard_band_of_r_times_u_leaves_the_risk_that_jcgm_106_gives(r, risk):
    """JCGM 106:2012, 8.3.2 (from memory): accepting at the limit itself leaves up to 50 % risk that the value lies outside; a guard band of
    1.65u, the default of ISO 14253-1:2017, at most 5 %; one of U = 2u at most 2.3 %."""
    at_the_edge = LIMIT.most - r * 1.65 * U
    assert 1.0 - judge(LIMIT, at_the_edge, U).within_chance == pytest.approx(risk, abs=0.001)


@pytest.mark.parametrize(
    ("value", "verdict"),
    [
        (14.61, Verdict.WITHIN),  # conformity is proved: further inside than 1.65 u = 0.0825 V
        (14.62, Verdict.TOO_CLOSE),  # neither is proved
        (14.78, Verdict.TOO_CLOSE),
        (14.79, Verdict.OUTSIDE),  # non-conformity is proved: further outside than 1.65 u
        (11.41, Verdict.OUTSIDE),
        (11.42, Verdict.TOO_CLOSE),
        (11.59, Verdict.WITHIN),
    ],
)
def test_conformity_and_non_conformity_are_proved_beyond_the_guard_band(value, verdict):
    """ISO 14253-1:2017 (from memory): what lies in the uncertainty range on either side of a limit is neither accepted nor rejected."""
    assert judge(LIMIT, value, U).verdict is verdict


@pytest.mark.parametrize(("cold", "warm"), [(20.0, 80.0), (20.0, -20.0), (25.0, 105.0)])
def test_ohms_of_copper_are_brought_to_another_temperature_as_the_handbooks_do(cold, warm):
    """R2/R1 = (234.5 + T2)/(234.5 + T1), the handbooks' form of the copper rule (from memory), within 0.2 % of IEC 60028's."""
    ohms = 14.0 * (234.5 + warm) / (234.5 + cold)
    found = judge(Limit("Ω", 13.0, 15.0, conditions=Conditions(celsius=cold)), ohms, 0.0, Conditions(celsius=warm, lead_ohms=0.0), copper)
    assert found.brought == pytest.approx(14.0, rel=2e-3)


def test_units_are_those_of_nist_special_publication_811():
    """NIST SP 811, appendix B.8: 1 inHg = 3.386 389 kPa, 1 bar = 100 kPa, 1 psi = 6.894 757 kPa, 1 inch = 25.4 mm; °C = (°F − 32)/1.8."""
    noted = parse_conditions("@212F @29.92inHg @0.015in")
    assert (noted.celsius, noted.kilopascals, noted.millimetres) == pytest.approx((100.0, 101.32, 0.381), rel=1e-4)
    assert parse_conditions("@14.5psi").kilopascals == pytest.approx(99.974, rel=1e-5) and parse_conditions("@1bar").kilopascals == 100.0


def test_a_clutch_coil_a_little_over_its_limit_is_told_from_one_that_is_warm():
    """Limit 3.15 to 3.45 Ω at 20 °C (common practice, no source): 3.7 Ω read at 21 °C is out, 3.7 Ω at 50 °C is not."""
    limit = Limit("Ω", 3.15, 3.45, "maker", "maker", Conditions(celsius=20.0))
    zeroed = {celsius: Conditions(celsius=celsius, lead_ohms=0.0) for celsius in (21.0, 50.0)}
    assert judge(limit, 3.70, 0.02, zeroed[21.0], copper).verdict is Verdict.OUTSIDE
    assert judge(limit, 3.70, 0.02, zeroed[50.0], copper).verdict is Verdict.WITHIN


def test_a_percentage_about_a_nominal_value_is_the_interval_that_it_spans():
    """5.0 V ± 2 % is 4.9 to 5.1 V: the reference supply's common practice, no source."""
    assert (around(5.0, 2.0, "V").least, around(5.0, 2.0, "V").most) == pytest.approx((4.9, 5.1))
