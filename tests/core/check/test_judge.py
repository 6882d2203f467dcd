"""One judge for every number: four words, conditions, leads, several findings at once."""

from __future__ import annotations

import math

import pytest

from pondrel.core.base.conditions import Conditions, parse_conditions
from pondrel.core.check import KINDS, Limit, Verdict, judge, overall, spelled
from pondrel.core.check.laws import copper, copper_by, fixed, proportional
from pondrel.core.check.limit import kind_of_source

AT_20 = Limit("Ω", 13.0, 15.0, "data sheet", "maker", Conditions(celsius=20.0))
ZEROED = "@0ohm"


def verdict(limit: Limit, value: float, noted: str = "", law=fixed, u: float = 0.01) -> Verdict:
    return judge(limit, value, u, parse_conditions(noted), law).verdict


@pytest.mark.parametrize(
    ("value", "noted", "law", "expected"),
    [
        (14.0, "@20C", copper, Verdict.WITHIN),
        (16.4, "@70C", copper, Verdict.WITHIN),  # 13.7 at 20
        (16.4, "@20C", copper, Verdict.OUTSIDE),
        (14.0, "", copper, Verdict.NOT_COMPARABLE),
        (3.5, "", copper, Verdict.OUTSIDE),  # shorted at any temperature that a part may have
        (60.0, "", copper, Verdict.OUTSIDE),
        (14.0, "@70C", fixed, Verdict.NOT_COMPARABLE),  # no law brings a sensor's ohms there
        (14.0, "@22C", fixed, Verdict.WITHIN),
        (math.inf, "", copper, Verdict.OUTSIDE),
    ],
)
def test_a_number_is_compared_at_the_limit_s_temperature_or_not_at_all(value, noted, law, expected):
    assert verdict(AT_20, value, f"{noted} {ZEROED}", law) is expected


def test_the_number_at_the_limit_s_conditions_is_told():
    found = judge(AT_20, 16.4, 0.01, parse_conditions("@70C @0ohm"), copper)
    assert found.brought == pytest.approx(16.4 / (1 + 0.00393 * 50), rel=1e-3) and "13.7 Ω @20°C" in found.says


def test_a_noted_temperature_is_not_taken_for_exact():
    """Two degrees are 0.8 % of a winding's ohms: more than this meter's own doubt."""
    noted = parse_conditions("@70C @0ohm")
    assert judge(AT_20, 16.4, 0.01, noted, copper).guard > 0.12 > 1.65 * 0.01
    # Without that doubt the meter's own is left, brought to 20 °C with the number.
    assert judge(AT_20, 16.4, 0.01, noted, copper_by(0.0)).guard == pytest.approx(1.65 * 0.01 / (1 + 0.00393 * 50))
    assert judge(AT_20, 16.4, 0.01, noted, copper_by(10.0)).verdict is Verdict.TOO_CLOSE  # 13.7 Ω, give or take half an ohm


def test_a_half_remembered_number_is_marked_and_stands_behind_every_other():
    assert KINDS[-1] == "half remembered" and kind_of_source("half remembered: a colleague") == KINDS[-1]
    assert KINDS[0] == "maker" and KINDS.index("given") < KINDS.index("known-good twin") < KINDS.index("common practice")


@pytest.mark.parametrize(
    ("wanted", "noted", "expected"),
    [
        ("@idle", "@idle", Verdict.WITHIN),
        ("@idle", "@800rpm", Verdict.WITHIN),
        ("@idle", "@2000rpm", Verdict.NOT_COMPARABLE),
        ("@idle", "", Verdict.NOT_COMPARABLE),
        ("@2000rpm", "@1950rpm", Verdict.WITHIN),
        ("@2000rpm", "@idle", Verdict.NOT_COMPARABLE),
        ("@13.5V", "@13.6V", Verdict.WITHIN),
        ("@13.5V", "@12.1V", Verdict.NOT_COMPARABLE),
        ("@100kPa", "@1bar", Verdict.WITHIN),
        ("@0.4mm", "@0.6mm", Verdict.NOT_COMPARABLE),
    ],
)
def test_other_conditions_must_be_the_same(wanted, noted, expected):
    limit = Limit("V", 13.5, 14.7, "x", "maker", parse_conditions(wanted))
    assert verdict(limit, 14.1, noted) is expected
    missing = judge(limit, 14.1, 0.01, parse_conditions(noted)).next
    assert (wanted in missing) == (expected is Verdict.NOT_COMPARABLE)


def test_a_current_follows_the_supply_where_the_circuit_s_ohms_are_fixed():
    limit = Limit("A", 0.9, 1.1, "x", "maker", parse_conditions("@12V"))
    found = judge(limit, 1.2, 0.001, parse_conditions("@14.4V"), proportional)
    assert found.verdict is Verdict.WITHIN and found.brought == pytest.approx(1.0)


def test_leads_are_in_a_reading_of_ohms_until_somebody_says_what_they_have():
    limit = Limit("Ω", -math.inf, 0.5)
    assert verdict(limit, 0.6) is Verdict.TOO_CLOSE and verdict(limit, 0.6, ZEROED) is Verdict.OUTSIDE
    assert verdict(limit, 0.9) is Verdict.OUTSIDE  # leads do not have that much
    least = Limit("Ω", 0.5)
    assert verdict(least, 0.6) is Verdict.TOO_CLOSE and verdict(least, 0.6, ZEROED) is Verdict.WITHIN


@pytest.mark.parametrize(("value", "side"), [(2.0, "Too few ohms"), (40.0, "Too many ohms")])
def test_a_number_outside_says_by_how_much_what_it_means_and_what_to_do(value, side):
    found = judge(AT_20, value, 0.01, parse_conditions("@20C @0ohm"), copper)
    assert found.says.startswith("outside limits by") and "data sheet" in found.says and found.means.startswith(side) and found.next


def test_a_number_within_says_by_how_much_to_its_nearer_edge():
    assert judge(Limit("V", 11.5, 14.7), 12.0, 0.01).says.startswith("within limits by 500 mV: 11.50 V to 14.70 V")
    assert judge(Limit("V", 11.5, 14.7), 14.5, 0.01).says.startswith("within limits by 200 mV")
    assert judge(Limit("Ω", 1000.0), math.inf, 0.0).says.startswith("within limits: at least")


def test_nought_is_a_condition_like_any_other():
    assert parse_conditions("@0C") and parse_conditions("@0ohm") and not Conditions()
    assert verdict(Limit("Ω", 13.0, 15.0, conditions=Conditions(celsius=0.0)), 14.0, f"@0C {ZEROED}", copper) is Verdict.WITHIN


def test_of_several_findings_the_worst_is_what_they_come_to():
    outside, within = judge(AT_20, 40.0, 0.01), judge(Limit("V", 1.0), 2.0, 0.01)
    close, unknown = judge(Limit("V", 1.0), 1.001, 0.01), judge(AT_20, 14.0, 0.01)
    assert [str(f.verdict) for f in (within, close, unknown)] == ["within limits", "too close to call", "not comparable"]
    assert overall([within, close]).verdict is Verdict.TOO_CLOSE
    assert overall([within, close, unknown]).verdict is Verdict.NOT_COMPARABLE
    outside = judge(AT_20, 400.0, 0.01, parse_conditions("@20C"), copper)
    told = overall([within, unknown, outside, close], ["holds vacuum"])
    assert told.verdict is Verdict.OUTSIDE and told.findings[0] is outside and told.untested == ("holds vacuum",)
    assert overall([within], ["holds vacuum"]).verdict is Verdict.NOT_COMPARABLE
    assert overall([]).verdict is Verdict.NOT_COMPARABLE


@pytest.mark.parametrize(
    ("source", "kind"),
    [
        ("common practice: one connection", "common practice"),
        ("ISO 11898-2, from memory", "standard"),
        ("known-good twin, bus 3", "known-good twin"),
        ("valve data sheet", "maker"),
    ],
)
def test_whose_word_a_limit_is_shows_in_how_its_source_is_written(source, kind):
    assert kind_of_source(source) == kind


def test_a_limit_is_spelled_with_its_conditions_and_source():
    assert spelled(Limit("V", most=0.1, source="common practice: one connection")) == "at most 100 mV (common practice: one connection)"
    assert spelled(AT_20) == "13.0 Ω to 15.0 Ω @20°C (data sheet)"
