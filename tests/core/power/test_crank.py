"""Cranking: drops with and without current, what a low battery alone does not say, and the cause that follows."""

from __future__ import annotations

import pytest

from ..bench.cases import judged, verdicts

GOOD = ("battery=10.40", "supply_drop=0.27", "ground_drop=0.15")


def cause(*reads, **kwargs):
    return judged("crank", *reads, **kwargs).service.figures["cause"]


def test_a_good_start_is_within_limits_as_a_whole():
    found = judged("crank", *GOOD)
    assert str(found.verdict) == "within limits" and found.untested == ()
    assert found.service.figures["cause"] is None
    assert found.service.figures["at_starter_v"] == pytest.approx(9.98)


def test_what_is_lost_on_a_side_is_that_side_s_and_a_piece_of_it_is_more_telling():
    reads = ("battery=10.40", "supply_drop=0.27", "ground_drop=1.22")
    assert cause(*reads) == "ground_drop"
    assert cause(*reads, "strap=1.05") == "strap"
    assert cause("battery=10.40", "supply_drop=1.30", "ground_drop=0.1", "contacts=1.1") == "contacts"


def test_leads_the_wrong_way_round_read_the_same_drop():
    assert cause("battery=10.40", "supply_drop=0.27", "ground_drop=-1.22") == "ground_drop"


def test_drops_without_a_starter_s_current_prove_nothing():
    for still in (("battery=12.50", "rest=12.60"), ("battery=12.40",), ("battery=12.30", "heard=one click"), ("battery=10.4", "amps=12")):
        found = verdicts(judged("crank", *still, "supply_drop=0.02", "ground_drop=0.01"))
        assert found["supply_drop"] == found["ground_drop"] == "not comparable", still
    open_joint = judged("crank", "battery=12.40", "supply_drop=0.02", "ground_drop=11.90", "heard=nothing")
    assert verdicts(open_joint)["ground_drop"] == "outside limits"  # an open joint has it all


def test_a_low_battery_alone_names_nothing_and_its_current_does():
    low = ("battery=8.90", "supply_drop=0.30", "ground_drop=0.15")
    assert cause(*low) is None
    assert cause(*low, "amps=140") == "battery"
    assert cause(*low, "amps=420") is None
    assert cause(*low, "amps=420", "engine=yes") == "starter"
    assert cause(*low, "amps=420", "engine=no") == "engine"
    assert "alone does not name" in judged("crank", *low).findings[0].because


def test_what_starters_take_hangs_on_the_fuel_the_system_and_what_is_known():
    def amps(**settings):
        return verdicts(judged("crank", *GOOD, "amps=320", **settings))["amps"]

    assert amps() == "outside limits" and amps(fuel="diesel") == "within limits"
    assert amps(fuel="diesel", system="24") == "outside limits" and amps(usual_amps="300") == "within limits"


@pytest.mark.parametrize(
    ("reads", "named"),
    [
        (("lamp=flashes",), "immobiliser"), (("engine=no",), "engine"), (("heard=spins without the engine",), "drive"),
        (("heard=nothing", "control=2.1"), "control"), ((*GOOD, "tap=then it turned"), "starter"),
        ((*GOOD, "boost=no change", "engine=yes"), "starter"), ((*GOOD, "boost=no change"), None),
    ],
)  # fmt: skip
def test_the_cause_follows_from_ears_and_hands_too(reads, named):
    assert cause(*reads) == named


def test_the_starter_s_own_volts_are_held_against_the_battery_s():
    assert verdicts(judged("crank", *GOOD, "at_starter=9.90"))["at_starter"] == "within limits"
    assert verdicts(judged("crank", *GOOD, "at_starter=8.20"))["at_starter"] == "outside limits"


def test_resistances_follow_from_the_current():
    figures = judged("crank", *GOOD, "amps=180", "rest=12.60").service.figures
    assert figures["inner_ohms"] == pytest.approx(2.2 / 180) and figures["plus_ohms"] == pytest.approx(0.0015)


def test_24_v_is_cranked_with_twice_the_volts():
    found = judged("crank", "battery=20.50", "supply_drop=0.70", "ground_drop=0.40", "amps=150", system="24")
    assert str(found.verdict) == "within limits"
