"""Charging: the lamp, levels by school, the trend after a flat battery, amperes, sense wire, and the cause that follows."""

from __future__ import annotations

import pytest

from pondrel.core.check import Limit, Verdict
from pondrel.core.power.trend import trend_of

from ..bench.cases import judged, verdicts

BAND = Limit("V", 13.5, 14.7)


def cause(*reads, **kwargs):
    return judged("charge", *reads, **kwargs).service.figures["cause"]


def test_the_two_trends_of_the_trade():
    rising = judged("charge", points="minutes,volts\n0,12.2\n10,14.1")
    falling = judged("charge", points="minutes,volts\n0,12.5\n10,11.9")
    assert str(rising.verdict) == "within limits" and str(falling.verdict) == "outside limits"
    assert "emptied" in falling.findings[0].because and rising.untested == falling.untested == ()


def test_a_trend_that_still_rises_says_how_long_to_go_on_and_what_to_expect():
    found = judged("charge", points="minutes,volts\n0,12.20\n5,12.90")
    assert str(found.verdict) == "not comparable"
    assert found.service.figures["more_minutes"] == 5.0 and found.service.figures["expects_v"] == pytest.approx(13.6)
    assert found.next[0] == "Go on for 5 min: about 13.60 V should stand there then."


@pytest.mark.parametrize(
    ("points", "verdict"),
    [
        ([(0, 12.30), (1, 12.30)], Verdict.NOT_COMPARABLE),  # too short
        ([(0, 12.30), (10, 12.32)], Verdict.OUTSIDE),  # does not rise
        ([(0, 12.30), (20, 12.45)], Verdict.OUTSIDE),  # two hours to go
        ([(0, 13.00), (5, 15.20)], Verdict.OUTSIDE),  # runs up
        ([(0, 14.40), (10, 14.10)], Verdict.WITHIN),  # falls within its limits, as it warms
        ([(0, 12.80), (5, 13.48)], Verdict.TOO_CLOSE),
        ([(0, 11.80), (1, 12.20), (2, 12.60), (8, 12.62), (12, 12.60)], Verdict.OUTSIDE),  # came up, then stood
    ],
)
def test_trends(points, verdict):
    assert trend_of(points, 0.03, BAND).verdict is verdict


def test_a_change_smaller_than_the_meter_s_doubt_is_none():
    assert trend_of([(0.0, 12.50), (10.0, 12.46)], 0.05, BAND).goes == "stays"
    assert trend_of([(0.0, 12.50), (10.0, 12.46)], 0.01, BAND).goes == "falls"
    assert trend_of([(5.0, 12.5), (5.0, 12.6)], 0.05, BAND) is None


def test_readings_with_their_minutes_are_a_trend_and_no_levels():
    found = judged("charge", "idle=12.2@0min", "idle=14.1@10min")
    assert [one.check for one in found.findings] == ["trend"] and str(found.verdict) == "within limits"


@pytest.mark.parametrize(
    ("read", "setting", "verdict"),
    [
        ("raised=15.10@-10C", {}, "within limits"),
        ("raised=15.10", {}, "outside limits"),
        ("raised=15.10@20C", {}, "outside limits"),
        ("raised=15.10@40C", {}, "outside limits"),  # heat opens nothing above
        ("raised=13.25@60C", {}, "within limits"),
        ("raised=13.25@0C", {}, "outside limits"),  # nor cold below
        ("raised=13.05@90C", {}, "within limits"),
        ("raised=12.70@110C", {}, "outside limits"),  # nothing more is said of it beyond 80 °C
        ("raised=30.20@-10C", {"system": "24"}, "within limits"),
        ("raised=15.30@-10C", {"school": "managed"}, "outside limits"),
    ],
)
def test_the_cold_opens_the_band_above_and_the_heat_below(read, setting, verdict):
    assert str(judged("charge", read, **setting).verdict) == verdict


def test_one_low_number_on_a_flat_battery_is_no_verdict():
    assert verdicts(judged("charge", "raised=12.90", "rest=11.80"))["raised"] == "not comparable"
    assert verdicts(judged("charge", "raised=12.90", "rest=12.60"))["raised"] == "outside limits"
    assert verdicts(judged("charge", "raised=11.85", "rest=11.80"))["raised"] == "outside limits"  # nothing is charged at all


def test_the_school_decides_and_the_others_are_told():
    found = judged("charge", "raised=13.25")
    assert str(found.verdict) == "outside limits"
    assert found.differ.startswith("The school of 13.0 to 14.5 V and that of managed alternators would have passed it")
    assert str(judged("charge", "raised=13.25", school="13.0-14.5").verdict) == "within limits"
    assert str(judged("charge", "raised=12.80", school="managed").verdict) == "within limits"
    assert str(judged("charge", "raised=12.80", limits=["raised 12.4..15.2 (maker: sheet 7)"]).verdict) == "within limits"


@pytest.mark.parametrize(
    ("reads", "named"),
    [
        (("raised=12.10", "rest=12.40", "lamp_key=off"), "excitation"),
        (("raised=12.10", "rest=12.40", "lamp_key=on", "belt=slips"), "belt"),
        (("raised=12.10", "rest=12.40", "lamp_key=on", "belt=sound", "cable_drop=1.90"), "cable"),
        (("raised=12.10", "rest=12.40", "lamp_key=on", "belt=sound", "cable_drop=0.02"), "alternator"),
        (("raised=12.10", "rest=12.40"), None),  # nothing else was looked at: the alternator is not named
        (("raised=15.60",), "regulator"), (("raised=15.60", "sense=14.10"), "sense"),
        (("raised=14.20", "ripple=0.90"), "diode"), (("raised=14.20", "lamp_running=dim"), "diode"),
        (("loaded=12.90", "rest=12.60", "amps=88", "lamp_key=on", "belt=sound", "cable_drop=0.1"), "load"),
        (("raised=14.20",), None),
    ],
)  # fmt: skip
def test_the_cause_follows(reads, named):
    assert cause(*reads, rated="90") == named


def test_amperes_are_judged_only_where_the_volts_give_way():
    assert verdicts(judged("charge", "loaded=14.10", "amps=12", rated="90"))["amps"] == "within limits"
    assert verdicts(judged("charge", "loaded=12.60", "amps=12", rated="90"))["amps"] == "outside limits"


def test_a_lamp_that_never_came_on_proves_nothing_by_going_out():
    found = verdicts(judged("charge", "raised=14.20", "lamp_key=off", "lamp_running=off"))
    assert found["lamp_running"] == "not comparable" and found["lamp_key"] == "outside limits"


def test_volts_running_or_a_trend_are_wanted():
    assert judged("charge", "lamp_key=on").untested == ("raised",)
    assert judged("charge", "idle=14.2").untested == ()


def test_24_v_charges_with_twice_the_volts():
    assert str(judged("charge", "raised=28.40", system="24").verdict) == "within limits"
    assert str(judged("charge", "raised=14.20", system="24").verdict) == "outside limits"
