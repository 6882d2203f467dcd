"""The battery: charge, load test, ratings and their standards, what a tester said, internal resistance, two in a row."""

from __future__ import annotations

import pytest

from pondrel.core.base.lead_acid import charge_of, cold_factor, load_least, sae_amps

from ..bench.cases import judged, verdicts


def one(check, *reads, **kwargs):
    return next(found for found in judged("battery", *reads, **kwargs).findings if found.check == check)


def test_charge_follows_from_rested_volts_and_the_sort_of_battery_decides_how_surely():
    assert charge_of(12.45) == (75.0, 75.0)
    assert charge_of(12.345) == pytest.approx((62.5, 62.5))
    low, high = charge_of(12.65, kind="glass-mat")
    assert low < 75.0 and 75.0 < high < 90.0
    low, high = charge_of(12.45, kind="")
    assert low < 45.0 and high == 75.0


def test_rested_volts_are_brought_to_25_degrees():
    assert charge_of(12.40, 0.0)[0] > charge_of(12.40, 25.0)[0] > charge_of(12.40, 40.0)[0]


def test_a_rested_battery_at_its_limit_is_within_below_it_outside_and_a_surface_charge_is_no_verdict():
    assert str(one("rest", "rest=12.60@25C").verdict) == "within limits"
    assert str(one("rest", "rest=12.10@25C").verdict) == "outside limits"
    high = one("rest", "rest=13.45@25C")
    assert str(high.verdict) == "not comparable" and "surface charge" in high.then
    assert str(one("rest", "rest=12.60@25C", rested="10").verdict) == "not comparable"
    assert str(one("rest", "rest=12.10@25C", rested="10").verdict) == "outside limits"  # resting makes it no fuller


@pytest.mark.parametrize(
    ("reading", "verdict"),
    [("9.75@21C", "within"), ("9.40@21C", "outside"), ("9.40@-1C", "within"), ("8.60@-18C", "within"), ("8.40@-18C", "outside")],
)
def test_the_load_test_asks_for_less_in_the_cold(reading, verdict):
    assert str(one("load", "rest=12.62@25C", f"load={reading}").verdict) == f"{verdict} limits"


def test_a_load_test_without_its_temperature_passes_only_what_passes_everywhere():
    assert str(one("load", "rest=12.62", "load=9.80").verdict) == "within limits"
    assert str(one("load", "rest=12.62", "load=9.20").verdict) == "not comparable"
    assert str(one("load", "rest=12.62", "load=8.10").verdict) == "outside limits"
    assert "table ends" in one("load", "rest=12.62", "load=8.10@-30C").because


def test_a_flat_battery_s_failed_load_test_says_nothing_and_a_passed_one_does():
    flat = judged("battery", "rest=12.00@25C", "load=9.00@21C", type="flooded")
    assert verdicts(flat)["load"] == "not comparable" and verdicts(flat)["rest"] == "outside limits"
    assert verdicts(judged("battery", "rest=12.00@25C", "load=9.90@21C"))["load"] == "within limits"
    assert str(one("load", "load=9.00@21C").verdict) == "not comparable"  # nobody knows whether it was charged


def test_the_load_must_be_half_the_sae_figure_whatever_standard_stands_on_the_label():
    assert sae_amps(300.0, "din") == 500.0 and sae_amps(475.0, "en") == 500.0
    easy = one("load", "rest=12.62@25C", "load=9.90@21C", "load_amps=120", cca="500")
    assert str(easy.verdict) == "not comparable" and "250 A" in easy.then
    assert str(one("load", "rest=12.62@25C", "load=9.90@21C", "load_amps=250", cca="300", standard="din").verdict) == "within limits"
    hard = one("load", "rest=12.62@25C", "load=9.20@21C", "load_amps=400", cca="500")
    assert str(hard.verdict) == "not comparable"
    assert str(one("load", "rest=12.62@25C", "load=9.20@21C", "load_amps=120", cca="500").verdict) == "outside limits"


@pytest.mark.parametrize(
    ("word", "posts", "verdict"),
    [
        ("good", "as found", "within limits"), ("good, recharge", "as found", "within limits"),
        ("check connection", "cleaned", "not comparable"),
        ("replace", "as found", "not comparable"), ("replace", "cleaned", "outside limits"), ("bad cell", "cleaned", "outside limits"),
        ("charge and retest", "cleaned", "not comparable"),
    ],
)  # fmt: skip
def test_what_a_tester_said_is_worth_what_its_posts_allow(word, posts, verdict):
    assert str(one("tester", "rest=12.60@25C", f"tester={word}", posts=posts).verdict) == verdict


def test_a_flat_battery_is_not_renewed_on_a_tester_s_word():
    assert str(one("tester", "rest=11.90@25C", "tester=replace", posts="cleaned", type="flooded").verdict) == "not comparable"


def test_both_schools_are_told_where_they_differ():
    found = judged("battery", "rest=12.60@25C", "load=9.90@21C", "tester=replace", posts="cleaned")
    assert found.differ == "Load test would have passed it, tester would not."


def test_a_tester_s_amperes_are_held_against_the_rating_in_its_own_standard():
    assert str(one("tester_cca", "tester_cca=300", cca="600", posts="cleaned").verdict) == "outside limits"
    assert str(one("tester_cca", "tester_cca=300", cca="600").verdict) == "not comparable"
    assert str(one("tester_cca", "tester_cca=520", cca="600").verdict) == "within limits"


def test_internal_resistance_is_the_slope_through_two_loads():
    found = one("inner", points="amps,volts\n10,12.550\n210,11.550", cca="500")
    assert found.value == pytest.approx(0.005) and str(found.verdict) == "within limits"
    assert str(one("inner", points="amps,volts\n10,12.550\n210,9.550", cca="500").verdict) == "outside limits"
    assert [each.check for each in judged("battery", points="amps,volts\n10,12.5\n10,12.4").findings] == []


def test_a_24_v_system_has_everything_doubled_and_its_two_batteries_compared():
    found = judged("battery", "rest=25.20@25C", "load=19.60@21C", "half=12.61", system="24")
    assert {str(each.verdict) for each in found.findings} == {"within limits"}
    assert str(one("halves", "rest=25.20", "half=12.30", system="24").verdict) == "outside limits"


def test_the_table_of_the_load_test_rises_and_ends():
    assert [load_least(celsius) for celsius in (-18.0, 21.0, 40.0, -18.1)] == [8.5, 9.6, 9.6, None]
    assert load_least(0.0) == pytest.approx(9.14)
    assert cold_factor(-18.0) == pytest.approx(2.0) and cold_factor(35.0) == 1.0


def test_rest_and_load_are_wanted_for_a_whole_verdict():
    assert judged("battery", "rest=12.60@25C").untested == ("load",)
    assert str(judged("battery", "rest=12.60@25C").verdict) == "not comparable"


def test_where_load_test_and_tester_contradict_the_house_s_school_decides_and_the_other_is_told():
    reads = ("rest=12.60@25C", "load=9.90@21C", "tester=replace")
    by_load, by_tester = (judged("battery", *reads, posts="cleaned", judge=word) for word in ("load test", "tester"))
    assert str(by_load.verdict) == "within limits" and str(by_tester.verdict) == "outside limits"
    assert by_load.differ and by_tester.differ
    assert (
        str(judged("battery", "rest=12.60@25C", "load=9.20@21C", "tester=good", posts="cleaned", judge="tester").verdict) == "within limits"
    )
