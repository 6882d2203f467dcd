"""Draw at rest, belt, and the two-minute check."""

from __future__ import annotations

import pytest

from pondrel.core.base.errors import ReadingError
from pondrel.core.base.fuse_ohms import cold_ohms, fuse_called
from pondrel.core.bench import case_from
from pondrel.core.bench.written import pair_of
from pondrel.core.power import power_family
from pondrel.core.power.families.draw import night
from pondrel.core.power.families.health import coldest

from ..bench.cases import judged, verdicts


@pytest.mark.parametrize(
    ("reading", "verdict"),
    [
        ("amps=0.350", "not comparable"), ("amps=0.350@20min", "not comparable"), ("amps=0.350@60min", "outside limits"),
        ("amps=0.030@5min", "within limits"), ("amps=0.030", "not comparable"),
    ],
)  # fmt: skip
def test_a_draw_is_judged_by_how_long_the_vehicle_was_locked(reading, verdict):
    assert str(judged("draw", reading).verdict) == verdict


def test_millivolts_across_a_fuse_are_amperes_by_its_type_within_a_fifth():
    found = judged("draw", "mv=2.2", "minutes=70", fuse="mini:10").findings[0]
    assert found.value == pytest.approx(0.0022 / cold_ohms("mini", 10.0)) and str(found.verdict) == "outside limits"
    assert found.uncertainty == pytest.approx(0.2 * found.value / 3**0.5, rel=0.2)
    assert verdicts(judged("draw", "mv=0.37", "minutes=70", fuse="mini:10"))["mv"] == "too close to call"
    assert verdicts(judged("draw", "mv=0.20", "minutes=70", fuse="mini:10"))["mv"] == "within limits"


@pytest.mark.parametrize(
    ("text", "says"),
    [
        ("mini", "as in mini:10"),
        ("10", "as in mini:10"),
        ("mini:x", "as in mini:10"),
        ("glass:5", "no type of fuse"),
        ("mini:80", "2 to 30 A"),
        ("mini:-5", "no type of fuse"),
        ("mini:10:3", "no type of fuse"),
    ],
)
def test_a_fuse_that_is_none_gets_one_sentence(text, says):
    with pytest.raises(ReadingError, match=says):
        fuse_called(text)
    with pytest.raises(ReadingError, match=says):
        judged("draw", "mv=2.2", "minutes=70", fuse=text)


@pytest.mark.parametrize("text", ["mini:7.5", "mini 7.5", " Mini: 7,5 A", "7.5A mini", "7.5 a mini", "mini7.5"])
def test_a_fuse_is_understood_as_it_is_said(text):
    assert fuse_called(text) == ("mini", 7.5)


def test_ohms_between_two_ratings_lie_between_theirs():
    assert cold_ohms("blade", 7.5) > cold_ohms("blade", 8.5) > cold_ohms("blade", 10.0)


def test_circuits_add_up_and_the_rest_is_unaccounted_for():
    points = "circuit,fuse,mv\nradio,mini:15,1.50\nlamps,blade:10,0.10"
    found = judged("draw", "amps=0.900@90min", points=points)
    assert found.service.figures["largest_circuit"] == "radio"
    assert verdicts(found)["unaccounted"] == "outside limits" and verdicts(found)["circuit lamps"] == "within limits"
    assert verdicts(judged("draw", "amps=0.340@90min", points=points))["unaccounted"] == "too close to call"  # ± 20 % of 0.34 A


def test_days_to_no_start_follow_from_capacity_and_charge():
    figures = judged("draw", "amps=0.500@60min", capacity="60", charge="90").service.figures
    assert figures["days_to_no_start"] == pytest.approx(60 * 0.4 / 0.5 / 24)


def test_a_night_is_told_asleep_since_when_and_what_wakes_it():
    asleep = [(0, 6.0), (4, 2.0), (12, 0.03), (30, 0.03), (60, 0.03), (90, 0.03)]
    own = night(asleep)
    assert own.asleep == pytest.approx(0.03) and own.since == 12.0 and own.wakes == 0
    woken = [(minute, 3.0 if minute in (40, 60, 80) else 0.03) for minute in range(0, 100, 2)]
    assert (night(woken).wakes, night(woken).every) == (3, 20.0)
    awake = judged("draw", points="minutes,amps\n0,6\n30,5.8\n61,5.9\n90,5.9")
    assert str(awake.verdict) == "outside limits" and awake.findings[0].value == "awake"
    assert str(judged("draw", points="minutes,amps\n0,6\n10,5.8\n20,5.9").verdict) == "not comparable"


def test_belt_deflection_slip_and_overrun_pulley():
    assert verdicts(judged("belt", "deflection=9"))["deflection"] == "within limits"
    assert verdicts(judged("belt", "deflection=18"))["deflection"] == "outside limits"
    pulleys = {"crank_mm": "150", "pulley_mm": "55"}
    assert verdicts(judged("belt", "engine_rpm=800", "ripple_hz=1300", **pulleys))["slip"] == "within limits"
    assert verdicts(judged("belt", "engine_rpm=800", "alternator_rpm=1900", **pulleys))["slip"] == "outside limits"
    assert judged("belt", "ripple_hz=1300").service.figures["alternator_rpm"] == pytest.approx(1300 * 60 / 36)
    assert verdicts(judged("belt", "deflection=9", "pulley=free both ways"))["pulley"] == "outside limits"


def test_the_coldest_start_falls_with_a_stronger_battery_and_ends_at_the_scale():
    weak, strong = coldest(12.5, 9.7, 20.0), coldest(12.7, 11.2, 20.0)
    assert weak.celsius > -12.0 > -25.0 > strong.celsius
    assert weak.low <= weak.celsius <= weak.high
    assert coldest(12.6, 12.6, 20.0) is None


def test_the_two_minute_check_names_what_is_near_its_end_and_wants_its_temperature():
    found = judged("health", "rest=12.60@10C", "crank=9.80@10C", "charge=14.20", "ripple=0.10")
    assert str(found.verdict) == "within limits" and found.service.figures["near_its_end"] == "battery or starter"
    assert found.service.figures["coldest_c"] < 10.0
    assert judged("health", "rest=12.60", "crank=10.6", "charge=14.2").service.figures["coldest_c"] is None
    assert judged("health", "rest=12.60").untested == ("crank", "charge")


def test_an_earlier_visit_of_the_vehicle_is_set_beside_this_one():
    then = "rest=12.61 @8C", "crank=10.12 @8C", "charge=14.18", "ripple=0.09"
    now = "rest=12.52 @0C", "crank=9.74 @0C", "charge=14.18", "ripple=0.09"
    family = power_family("health")
    case, before = (case_from(family, (), [pair_of(text, "") for text in reads]) for reads in (now, then))
    says = family.since(case, before)
    assert any("380 mV less than then, at 0 °C and not 8 °C" in text for text in says) and not any("raised" in text for text in says)
    assert family.since(before, before) == ["As it was then."]


def test_the_fuse_box_shows_every_fuse_in_its_order_and_what_goes_past_them():
    points = "circuit,fuse,mv\nlamps,blade:10,0.10\nradio,mini:15,1.50"
    box = judged("draw", "amps=-0.900@90min", points=points).fuse_box
    assert [(fuse.circuit, fuse.kind, fuse.rating, str(fuse.verdict)) for fuse in box.fuses] == [
        ("lamps", "blade", 10.0, "within limits"), ("radio", "mini", 15.0, "outside limits"),
    ]  # fmt: skip
    assert box.clamp == 0.9 and str(box.rest) == "outside limits" and box.total == pytest.approx(0.0001 / 0.0077 + 0.0015 / 0.0046)
    without = judged("draw", points=points).fuse_box
    assert without.clamp is without.rest is None
    assert judged("draw", "amps=0.900@90min").fuse_box is None


def test_once_the_fuses_are_read_nobody_is_told_to_read_them():
    advice = "Read the millivolts across each fuse"
    assert any(advice in text for text in judged("draw", "amps=0.900@90min").next)
    assert not any(advice in text for text in judged("draw", "amps=0.900@90min", points="fuse,mv\nmini:15,1.50").next)
