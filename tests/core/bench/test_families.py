"""Every family on numbers worked by hand: what it says of good, bad and unclear parts, and the figures behind it."""

from __future__ import annotations

import math

import pytest

from pondrel.core.base.errors import ReadingError
from pondrel.core.bench import FAMILIES

from .cases import judged, verdicts

WITHIN, OUTSIDE, CLOSE, UNKNOWN = "within limits", "outside limits", "too close to call", "not comparable"
STATOR_OPEN = ("a_ground=OL", "b_ground=OL", "c_ground=OL")

# family, readings, settings, limits, points, whole verdict, some of the findings
CASES = [
    ("coil", ["ohms=3.3 @20C"], {}, ["ohms 3.15..3.45 @20C"], "", CLOSE, {}),  # 2 digits of 0.1 are more than half the width
    ("coil", ["ohms=3.30 @20C"], {}, ["ohms 3.15..3.45 @20C"], "", WITHIN, {}),
    ("coil", ["ohms=4.08 @80C"], {}, ["ohms 3.15..3.45 @20C"], "", WITHIN, {}),  # 4.08 / 1.2358 = 3.30
    ("coil", ["ohms=3.50"], {"sort": "shift solenoid"}, [], "", OUTSIDE, {"ohms": OUTSIDE}),
    ("coil", ["ohms=3.30"], {}, ["ohms 3.15..3.45 @20C"], "", UNKNOWN, {}),
    ("coil", ["ohms=13.0", "click=no"], {"sort": "shift solenoid"}, [], "", OUTSIDE, {"ohms": WITHIN, "click": OUTSIDE}),
    ("coil", ["click=yes"], {}, [], "", UNKNOWN, {"click": WITHIN}),
    ("coil", ["ohms=13.00 @20C", "hot_ohms=17.9 @80C"], {}, ["ohms 12..14"], "", OUTSIDE, {"hot_rise": OUTSIDE}),  # copper: 16.07
    ("coil", ["ohms=13.00 @20C", "hot_ohms=16.1 @80C"], {}, ["ohms 12..14"], "", WITHIN, {"hot_rise": WITHIN}),
    ("relay", ["coil=85", "pull_in=6.8V", "drop_out=2.4", "contact_drop=45m"], {}, [], "", WITHIN, {}),
    ("relay", ["coil=85", "pull_in=9.1", "contact_drop=0.34"], {}, [], "", OUTSIDE, {"pull_in": OUTSIDE, "contact_drop": OUTSIDE}),
    ("relay", ["coil=320", "pull_in=13.2", "drop_out=3.1"], {"system": "24 V"}, [], "", WITHIN, {}),
    ("relay", ["diode=0.02"], {"damping": "diode"}, [], "", OUTSIDE, {}),
    ("relay", ["drop_out=0.4"], {}, [], "", OUTSIDE, {}),
    ("timed-relay", ["delay=5.10s"], {"ohms": "100k", "farads": "47u"}, [], "", WITHIN, {}),
    ("timed-relay", ["delay=22s"], {"ohms": "100k", "farads": "47u"}, [], "", OUTSIDE, {}),
    ("timed-relay", ["timing=no", "coil=80"], {}, [], "", OUTSIDE, {"timing": OUTSIDE, "coil": WITHIN}),
    ("valve", ["ohms=26", "click=yes", "holds=yes", "passes=yes"], {"rest": "closed"}, [], "", WITHIN, {}),
    ("valve", ["ohms=26", "click=yes", "holds=no", "passes=yes"], {"rest": "closed"}, [], "", OUTSIDE, {"ohms": WITHIN, "holds": OUTSIDE}),
    ("valve", ["ohms=26", "click=yes", "holds=yes", "passes=yes"], {}, [], "", UNKNOWN, {"holds": UNKNOWN}),
    ("valve", ["ohms=26"], {"rest": "open"}, [], "", UNKNOWN, {"ohms": WITHIN}),
    ("valve", ["click=yes", "holds=yes", "passes=yes", "pressure=12kPa"], {"rest": "open"}, [], "", OUTSIDE, {"pressure": OUTSIDE}),
    ("hold", ["start=-60kPa", "end=-58kPa", "minutes=2", "resolution=1kPa"], {}, ["drop <=2kPa"], "", WITHIN, {}),
    ("hold", ["start=-60kPa", "end=-40kPa", "minutes=2", "resolution=1kPa"], {}, ["drop <=2kPa/min"], "", OUTSIDE, {}),
    ("hold", ["start=20inHg", "end=19inHg", "minutes=1", "resolution=1inHg"], {}, ["drop <=1inHg"], "", CLOSE, {}),
    ("hold", ["start=3kPa", "end=2.9kPa"], {}, [], "", UNKNOWN, {}),
    ("hold", ["resolution=1kPa"], {}, [], "port,start,end,minutes\nleft,600,590,5\nright,600,200,5",
     OUTSIDE, {"drop left": WITHIN, "drop right": OUTSIDE}),
    ("motor", ["running=8.50"], {"watts": "120"}, [], "", WITHIN, {}),
    ("motor", ["running=18.0"], {"watts": "120"}, [], "", OUTSIDE, {}),
    ("motor", ["ohms=OL"], {}, [], "", OUTSIDE, {}),
    ("motor", ["brush_drop=0.9", "turns=no"], {}, [], "", OUTSIDE, {"brush_drop": OUTSIDE, "turns": OUTSIDE}),
    ("thermistor", ["ohms=10.00k @25C"], {"r25": "10k", "beta": "3950"}, [], "", WITHIN, {}),
    ("thermistor", ["ohms=14.00k @25C"], {"r25": "10k", "beta": "3950"}, [], "", OUTSIDE, {}),
    ("thermistor", ["ohms=10.00k"], {"r25": "10k", "beta": "3950"}, [], "", UNKNOWN, {}),
    ("thermistor", ["ohms=OL"], {"r25": "10k", "beta": "3950"}, [], "", OUTSIDE, {}),
    ("pickup", ["ohms=870", "case=OL", "volts=0.45"], {}, [], "", WITHIN, {}),
    ("pickup", ["ohms=95"], {}, [], "", OUTSIDE, {}),
    ("pickup", [], {}, [], "rpm,volts\n200,0.40\n400,0.81\n800,0.90", OUTSIDE, {"grows": OUTSIDE}),
    ("hall", ["low=0.10", "high=4.90", "supply=12.1", "switches=yes"], {}, [], "", WITHIN, {}),
    ("hall", ["low_amps=7.1mA", "high_amps=14.2mA"], {"wires": "2"}, [], "", WITHIN, {}),
    ("hall", ["low_amps=0.2mA"], {"wires": "2"}, [], "", OUTSIDE, {}),
    ("pressure-sensor", ["volts=2.50 @500kPa"], {}, [], "", WITHIN, {}),
    ("pressure-sensor", ["volts=3.10 @500kPa"], {}, [], "", OUTSIDE, {}),  # stands for 650 kPa
    ("pressure-sensor", ["volts=2.50"], {}, [], "", UNKNOWN, {}),
    ("oxygen", ["rich=0.86", "lean=0.09", "swings=8", "heater=6.2"], {}, [], "", WITHIN, {}),
    ("oxygen", ["rich=0.48"], {}, [], "", OUTSIDE, {}),
    ("oxygen", ["heater=OL"], {}, [], "", OUTSIDE, {}),
    ("level", ["empty=240", "full=33.0"], {"empty_ohms": "240", "full_ohms": "33"}, [], "", WITHIN, {}),
    ("level", ["full=120"], {"empty_ohms": "240", "full_ohms": "33"}, [], "", OUTSIDE, {}),
    ("level", ["empty=240"], {}, [], "", UNKNOWN, {}),
    ("gauge", ["at_full=98.0", "at_empty=1.0", "feed=5.00"], {}, [], "", WITHIN, {}),
    ("gauge", ["at_full=70.0"], {}, [], "", OUTSIDE, {}),
    ("gauge", ["feed=9.80", "steady=no"], {}, [], "", OUTSIDE, {"feed": OUTSIDE}),
    ("regulator", ["mean=5.10", "supply=12.6"], {}, [], "", WITHIN, {}),
    ("regulator", ["duty=41", "supply=12.40"], {}, [], "", WITHIN, {"mean_by_duty": WITHIN}),  # 5.08 V
    ("regulator", ["mean=5.10", "duty=70", "supply=12.4"], {}, [], "", OUTSIDE, {"mean": WITHIN, "mean_by_duty": OUTSIDE}),
    ("regulator", ["duty=41", "supply=12.4"], {"gauge": "heated"}, [], "", OUTSIDE, {"rms": OUTSIDE}),  # 12.4·√0.41 = 7.94 V
    ("regulator", ["mean=12.5", "supply=12.6"], {}, [], "", OUTSIDE, {"stuck": OUTSIDE}),
    ("regulator", ["mean=0.02", "supply=12.6"], {}, [], "", OUTSIDE, {"stuck": OUTSIDE}),
    ("regulator", ["mean=5.10"], {"gauge": "heated"}, [], "", UNKNOWN, {}),
    ("scale", [], {}, ["error <=5%"], "indicated,true\n250,1000\n3000,7000", OUTSIDE, {}),
    ("scale", [], {}, ["error <=5%"], "indicated,true\n1010,1000\n3050,3000\n6080,6000", WITHIN, {}),
    ("scale", ["indicated=1048", "true=1000"], {}, ["error <=5%"], "", CLOSE, {}),
    ("stator", ["ab=0.62", "bc=0.63", "ca=0.62", *STATOR_OPEN], {}, [], "", WITHIN, {}),
    ("stator", ["ab=3.3V", "bc=4.8V", "ca=2.4V", "a_ground=20", "b_ground=OL", "c_ground=OL"],
     {}, [], "", OUTSIDE, {"a_ground": OUTSIDE, "balance": OUTSIDE}),
    ("stator", ["ab=30.1V", "bc=29.8V", "ca=30.4V", *STATOR_OPEN], {}, [], "", WITHIN, {"balance": WITHIN, "ab": WITHIN}),
    ("stator", ["ab=48.1V", "bc=47.9V", "ca=48.4V", *STATOR_OPEN], {"at": "1500rpm"}, ["phase 45..60V"], "", WITHIN, {}),
    ("stator", ["ab=0.62", "bc=0.63", "ca=0.62"], {}, [], "", UNKNOWN, {}),
    ("rectifier", ["ripple=0.12", "pulses=6"], {}, [], "", WITHIN, {}),
    ("rectifier", ["ripple=1.40", "pulses=4"], {}, [], "", OUTSIDE, {"pulses": OUTSIDE}),
    ("rectifier", ["ac=12.0V", "dc=14.8"], {}, [], "", WITHIN, {"mean": WITHIN}),  # 1.35·12 − 1.4 = 14.8
    ("rectifier", [],
     {}, [], "diode,forward,blocks\nA+,0.55,yes\nA-,0.02,no", OUTSIDE, {"forward A-": OUTSIDE, "blocks A-": OUTSIDE, "forward A+": WITHIN}),
    ("diode", ["forward=0.58", "blocks=yes"], {}, [], "", WITHIN, {}),
    ("diode", ["forward=0.00", "blocks=no"], {}, [], "", OUTSIDE, {}),
    ("diode", ["forward=0.28"], {"sort": "schottky"}, [], "", WITHIN, {}),
    ("capacitor", ["farads=44u"], {"farads": "47u", "use": "timing"}, [], "", CLOSE, {}),  # 2 digits of a microfarad
    ("capacitor", ["farads=45.0u"], {"farads": "47u", "use": "timing"}, [], "", WITHIN, {}),
    ("capacitor", ["farads=310u", "esr=2.10"],
     {"farads": "1000u", "use": "filter", "esr": "0.1"}, [], "", OUTSIDE, {"farads": OUTSIDE, "esr": OUTSIDE}),
    ("capacitor", ["look=bulged"], {"farads": "47u"}, [], "", OUTSIDE, {}),
    ("lamp", ["amps=1.75"], {"watts": "21"}, [], "", WITHIN, {}),
    ("lamp", ["ohms=0.6"], {"watts": "21"}, [], "", CLOSE, {}),
    ("lamp", ["at_lamp=9.80", "lights=no"], {"watts": "21"}, [], "", OUTSIDE, {"at_lamp": OUTSIDE}),
    ("fuse", ["look=whole", "ohms=0.01"], {"rating": "10"}, [], "", WITHIN, {}),
    ("fuse", ["look=blown"], {"rating": "10"}, [], "", OUTSIDE, {}),
    ("fuse", ["amps=9.50"], {"rating": "10"}, [], "", OUTSIDE, {}),
    ("switch", ["closed=0.1", "open=OL"], {}, [], "", WITHIN, {}),
    ("switch", ["closed=38"], {}, [], "", OUTSIDE, {}),
    ("switch", ["drop=0.65", "steady=no"], {"amps": "5"}, [], "", OUTSIDE, {}),
    ("heater", ["ohms=0.80"], {"sort": "glow plug"}, [], "", WITHIN, {}),
    ("heater", ["ohms=OL"], {"sort": "glow plug"}, [], "", OUTSIDE, {}),
    ("heater", ["ohms=1.20"], {"watts": "120"}, [], "", WITHIN, {}),  # 12² / 120
    ("terminator", ["ohms=60.2"], {}, [], "", WITHIN, {}),
    ("terminator", ["ohms=120.4"], {}, [], "", OUTSIDE, {}),
    ("terminator", ["ohms=120.4"], {"ends": "1"}, [], "", WITHIN, {}),
    ("terminator", ["ohms=0.8"], {}, [], "", OUTSIDE, {}),
    ("socket", [], {}, [], "pin,unloaded,loaded\n1,12.50,12.30\n3,0.02,0.05", WITHIN, {"pin 1 loaded": WITHIN}),
    ("socket", ["pin=4", "unloaded=12.50", "loaded=3.10"], {}, [], "", OUTSIDE, {"pin 4 unloaded": WITHIN, "pin 4 loaded": OUTSIDE}),
    ("socket", [], {"pulsed": "1", "duty": "50"}, [], "pin,unloaded\n1,8.80", WITHIN, {}),  # 12.6·√0.5 = 8.91
    ("two-condition", ["one=no", "two=no", "both=yes"], {}, [], "", WITHIN, {}),
    ("two-condition", ["one=yes"], {}, [], "", OUTSIDE, {}),
    ("two-condition", ["both=no", "two_seen=no"], {}, [], "", OUTSIDE, {"two_seen": OUTSIDE}),
    ("module", [], {}, [], "output,shows\n1,full\n2,full", WITHIN, {}),
    ("module", [], {}, [], "output,shows\n1,full\n2,dim", UNKNOWN, {"output 2": UNKNOWN}),
    ("module", ["supply=12.40", "ground=0.02", "plug=yes", "driven=yes"],
     {}, [], "output,shows,knocked\n1,full,flickers\n2,full,same", OUTSIDE, {"output 1": OUTSIDE, "output 2": WITHIN}),
    ("module", ["supply=12.40", "ground=0.02", "plug=no", "driven=yes"],
     {}, [], "output,shows\n1,dark", OUTSIDE, {"output 1": UNKNOWN, "plug": OUTSIDE}),
]  # fmt: skip


@pytest.mark.parametrize(("family", "reads", "settings", "limits", "points", "whole", "parts"), CASES)
def test_a_family_judges_as_worked_by_hand(family, reads, settings, limits, points, whole, parts):
    found = judged(family, *reads, limits=limits, points=points, **settings)
    assert str(found.verdict) == whole, [one.because for one in found.findings]
    told = verdicts(found)
    assert {name: told.get(name) for name in parts} == parts
    assert all(one.because[-1] in ".!" for one in found.findings) and found.next


def _sweep(n=41, hurt=(), two=None):
    rows = []
    for k in range(n):
        angle, volts = 2.0 * k, 0.5 + 4.0 * k / (n - 1)
        if k in hurt:
            volts = 0.1
        rows.append((angle, volts) if two is None else (angle, volts, two(volts, k)))
    heading = "angle,volts" if two is None else "angle,one,two"
    return heading + "\n" + "\n".join(",".join(f"{value:.3f}" for value in row) for row in rows)


def test_a_potentiometer_tells_where_its_track_drops_out():
    good, bad = judged("potentiometer", points=_sweep()), judged("potentiometer", points=_sweep(hurt=(12, 13)))
    assert str(good.verdict) == WITHIN and verdicts(good)["low"] == WITHIN
    assert verdicts(bad)["dropouts"] == OUTSIDE and verdicts(bad)["monotone"] == WITHIN
    assert "angle 24" in bad.findings[0].because and bad.service.figures["first_dropout_at"] == 24.0
    assert any(dot.off and dot.x == 24.0 for dot in bad.chart.dots)


def test_a_potentiometer_that_stands_still_on_the_way_or_ends_early_is_out():
    rows = [(k, 0.5 + min(k, 10) * 0.1 + max(k - 20, 0) * 0.1) for k in range(50)]
    still = "angle,volts\n" + "\n".join(f"{a},{v:.3f}" for a, v in rows)
    assert verdicts(judged("potentiometer", points=still))["monotone"] == OUTSIDE
    early = "angle,volts\n" + "\n".join(f"{k},{0.5 + 2.0 * k / 40:.3f}" for k in range(41))
    assert verdicts(judged("potentiometer", points=early))["high"] == OUTSIDE


def test_a_falling_sweep_is_as_good_as_a_rising_one():
    falls = "angle,volts\n" + "\n".join(f"{k},{4.5 - 4.0 * k / 40:.3f}" for k in range(41))
    assert str(judged("potentiometer", points=falls).verdict) == WITHIN


def test_a_pedal_s_tracks_are_held_against_their_rule():
    half = judged("pedal", points=_sweep(two=lambda one, k: one / 2))
    apart = judged("pedal", points=_sweep(two=lambda one, k: one / 2 + (0.4 if 20 < k < 24 else 0.0)))
    summed = judged("pedal", points=_sweep(two=lambda one, k: 5.0 - one), rule="sum")
    assert str(half.verdict) == str(summed.verdict) == WITHIN
    assert verdicts(apart)["rule"] == OUTSIDE and "At angle 4" in next(f.because for f in apart.findings if f.check == "rule")
    assert verdicts(judged("pedal", points=_sweep(two=lambda one, k: 5.0 - one)))["rule"] == OUTSIDE


def test_a_level_sender_is_swept_and_its_ends_compared():
    rows = "level,ohms\n" + "\n".join(f"{k},{240 - 2.07 * k:.1f}" for k in range(0, 101, 5))
    found = judged("level", points=rows, empty_ohms="240", full_ohms="33")
    assert str(found.verdict) == WITHIN and verdicts(found)["full"] == WITHIN


def test_a_coil_tells_its_share_of_shorted_turns():
    found = judged("coil", "ohms=3.50 @20C", limits=["ohms 12..14 @20C"])
    assert found.service.figures["turns_lost"] == pytest.approx(1.0 - 3.5 / 13.0)
    assert any("73 % of its turns" in text for text in found.next)


def test_pull_in_when_hot_goes_with_ohms_joint_and_gap():
    """9.0 V at 4.00 Ω are 2.25 A; at 90 °C copper has 4.00·1.2751 = 5.10 Ω, and a joint of 0.25 Ω adds to it: 12.04 V."""
    found = judged("coil", "ohms=4.00 @20C", "pull_in=9.00 @20C", hot="90", joint="0.25", supply="12.1", limits=["ohms 3..5"])
    assert found.service.figures["pull_in_v"] == pytest.approx(2.25 * (4.0 * 1.2751 + 0.25))
    assert found.service.figures["margin_v"] == pytest.approx(12.1 - 12.0385, abs=1e-3)
    assert verdicts(found)["margin"] == CLOSE  # 60 mV to spare by a meter that may be off by as much
    wider = judged(
        "coil", "ohms=4.00 @20C", "pull_in=9.00 @20C", hot="90", supply="12.1", gap="0.6mm", gap_read="0.5mm", limits=["ohms 3..5"]
    )
    assert wider.service.figures["pull_in_v"] == pytest.approx(2.25 * 1.2 * 4.0 * 1.2751)
    assert verdicts(wider)["margin"] == OUTSIDE
    assert [line.role for line in wider.chart.lines] == ["suspect", "read", "good"] and wider.chart.gap[3].endswith("too few")


def test_a_capacitor_with_4_7_times_the_value_makes_the_delay_4_7_times_as_long():
    found = judged("timed-relay", "delay=5.00s", ohms="100k", farads="47u", sub_farads="220u")
    assert found.service.figures["sub_delay_s"] == pytest.approx(5.0 * 220 / 47)
    assert found.service.figures["farads_by_delay"] == pytest.approx(50e-6, rel=1e-3)  # threshold 63.2 %: nearly one tau


def test_a_charging_curve_gives_back_its_capacitor():
    rows = "seconds,volts\n" + "\n".join(f"{k * 0.5},{12.0 * -math.expm1(-k * 0.5 / 4.7):.3f}" for k in range(25))
    found = judged("timed-relay", ohms="100k", farads="47u", points=rows)
    fit = next(one for one in found.findings if one.check == "farads_by_curve")
    assert fit.value == pytest.approx(47e-6, rel=1e-3) and str(fit.verdict) == WITHIN
    with pytest.raises(ReadingError, match="do not rise"):
        judged("timed-relay", ohms="100k", points="seconds,volts\n0,9\n1,6\n2,3\n3,1")


GOOD_SUB = {"farads": "47u", "volts": "16", "temp": "85", "sub_farads": "47u", "sub_volts": "25", "sub_temp": "105"}


@pytest.mark.parametrize(
    ("change", "check", "verdict"),
    [
        ({"use": "timing"}, "sub_farads", WITHIN),
        ({"use": "timing", "sub_farads": "220u"}, "sub_farads", OUTSIDE),
        ({"use": "filter", "sub_farads": "220u"}, "sub_farads", WITHIN),
        ({"use": "filter", "sub_farads": "22u"}, "sub_farads", OUTSIDE),
        ({"use": "timing", "sub_volts": "10"}, "sub_volts", OUTSIDE),
        ({"use": "timing", "sub_temp": "65"}, "sub_temp", OUTSIDE),
        ({"use": "filter", "esr": "0.1", "sub_esr": "0.5"}, "sub_esr", OUTSIDE),
        ({"use": "timing", "polarity": "reversed"}, "polarity", OUTSIDE),
    ],
)
def test_a_substitute_is_judged_by_what_the_capacitor_is_for(change, check, verdict):
    found = judged("capacitor", **{**GOOD_SUB, **change})
    assert verdicts(found)[check] == verdict
    assert (str(found.verdict) == OUTSIDE) == (verdict == OUTSIDE)


def test_a_substitute_without_its_ratings_or_its_use_is_not_whole():
    unsaid = judged("capacitor", **GOOD_SUB)
    assert unsaid.untested == ("use",) and any("where it times the value must be the same" in text for text in unsaid.next)
    less = {name: value for name, value in GOOD_SUB.items() if name != "sub_temp"}
    found = judged("capacitor", use="timing", **less)
    assert found.untested == ("sub_temp",) and str(found.verdict) == UNKNOWN
    assert judged("capacitor", use="filter", esr="0.1", **GOOD_SUB).untested == ("sub_esr",)


def test_capacitors_in_stock_are_sifted_by_the_same_rules():
    stock = "name,farads,volts,temp\nA,47u,10,105\nB,47u,25,105\nC,100u,25,105\nD,47u,25,65"
    assert judged("capacitor", farads="47u", volts="16", temp="85", use="timing", points=stock).service.figures["fits"] == "B"
    assert judged("capacitor", farads="47u", volts="16", temp="85", use="filter", points=stock).service.figures["fits"] == "B, C"


def test_a_rev_counter_off_by_one_factor_points_to_its_timing_and_one_that_is_not_does_not():
    one = judged("scale", points="indicated,true\n470,1000\n1410,3000\n2820,6000")
    many = judged("scale", points="indicated,true\n250,1000\n3000,7000")
    assert one.service.figures["one_factor"] is True and any("0.47 times" in text for text in one.service.says)
    assert many.service.figures["one_factor"] is False and many.service.figures["gain"] == pytest.approx(2750 / 6000)
    assert not any("One factor" in text for text in many.service.says)


def test_the_odd_phase_of_a_stator_is_named():
    found = judged("stator", "ab=0.62", "bc=0.21", "ca=0.22", *STATOR_OPEN)
    assert found.service.figures["odd_phase"] == "c"
    assert "odd_phase" not in judged("stator", "ab=0.62", "bc=0.63", "ca=0.62", *STATOR_OPEN).service.figures


def test_a_socket_wired_otherwise_gets_its_map():
    rows = "pin,unloaded,loaded,answers\n1,12.5,12.3,right indicator\n4,12.5,12.3,left indicator\n6,12.5,12.3,stop lamps"
    found = judged("socket", points=rows)
    assert str(found.verdict) == OUTSIDE and found.service.says == (
        "right indicator: from pin 1 to pin 4.",
        "left indicator: from pin 4 to pin 1.",
    )
    with pytest.raises(ReadingError, match="has no pin '9'"):
        judged("socket", points="pin,unloaded\n9,12.5")


def test_a_module_before_and_after_stands_on_one_sheet():
    rows = "output,shows,knocked,after\n1,flickers,dark,full\n2,full,same,full\nA,leaks,same,holds"
    found = judged("module", points=rows)
    assert str(found.verdict) == WITHIN
    assert (found.service.figures["failed_before"], found.service.figures["failed"]) == (2.0, 0.0)


def test_a_blown_fuse_asks_for_its_cause_first():
    assert any("what blew it" in text for text in judged("fuse", "look=blown", rating="10").next)
    assert judged("fuse", "drop=3.0mV", rating="10", cold_ohms="7.5m").service.figures["amps_by_drop"] == pytest.approx(0.4)


@pytest.mark.parametrize("family", FAMILIES.values(), ids=list(FAMILIES))
def test_every_family_says_what_it_needs_and_what_is_never_done(family):
    nothing = judged(family.name)
    assert str(nothing.verdict) == UNKNOWN and nothing.next and not nothing.findings
    assert family.cautions and family.title and family.covers
    names = [thing.name for thing in (*family.checks, *family.settings, *family.columns)]
    assert all(name == name.lower() and " " not in name for name in names)
    checks = [check.name for check in family.checks]
    assert len(checks) == len(set(checks)) and all(name in checks or family.check(name) for name in (family.main, *family.function))


def test_a_hold_that_a_gauge_cannot_show_is_watched_longer():
    found = judged("hold", "start=30kPa", "end=30kPa", "minutes=1", "resolution=2kPa", limits=["drop <=0.5kPa"])
    assert str(found.verdict) == CLOSE and "Watch it for 4.00 min" in found.next[0]
    with pytest.raises(ReadingError, match="both as vacuum"):
        judged("hold", "start=30kPa", "end=-3kPa", "minutes=1")
    with pytest.raises(ReadingError, match="nought"):
        judged("hold", "start=30kPa", "end=20kPa", "minutes=0")


def test_what_follows_for_the_vehicle_is_told_in_numbers():
    """Three phases of 20 V: 1.35·20 − 1.4 = 25.6 V. A shim out of a gap of 0.6 mm: the volts go with the gap."""
    volts = judged("stator", "ab=20.0V", "bc=20.0V", "ca=20.0V", *STATOR_OPEN)
    assert volts.service.figures["rectified_v"] == pytest.approx(25.6, abs=0.05)
    reads = ("ohms=4.00 @20C", "pull_in=8.00 @20C")
    shimmed = judged("coil", *reads, hot="20", supply="12", gap="0.6mm", gap_read="0.6mm", shim="0.2mm", limits=["ohms 3..5"])
    says = " ".join(shimmed.service.says)
    assert "over a gap of up to 0.90 mm" in says and "With 0.20 mm of shims out it needs 5.33 V" in says
    assert shimmed.chart.dots[0].y == pytest.approx(8.0)


@pytest.mark.parametrize(
    ("ohms", "odd"), [(("0.62", "0.21", "0.22"), "c"), (("0.21", "0.62", "0.22"), "a"), (("0.21", "0.22", "0.62"), "b")]
)
def test_every_phase_can_be_the_odd_one(ohms, odd):
    found = judged("stator", *(f"{name}={text}" for name, text in zip(("ab", "bc", "ca"), ohms, strict=True)), *STATOR_OPEN)
    assert found.service.figures["odd_phase"] == odd


def test_a_filter_capacitor_is_asked_for_its_series_resistance_and_no_other_is():
    assert any("series resistance" in text for text in judged("capacitor", "farads=47.0u", farads="47u", use="filter").next)
    assert not any("series resistance" in text for text in judged("capacitor", "farads=47.0u", farads="47u", use="timing").next)
    assert not any("series" in text for text in judged("capacitor", "farads=47.0u", "esr=0.1", farads="47u", use="filter").next)
    assert (
        "What may go in: 47.0 µF (as many or more), 16 V or more"
        in judged("capacitor", farads="47u", volts="16", use="filter").service.says[-1]
    )


@pytest.mark.parametrize(("life", "verdict"), [("5000", WITHIN), ("1000", OUTSIDE)])
def test_a_substitute_of_a_shorter_life_is_refused(life, verdict):
    assert verdicts(judged("capacitor", use="timing", life="2000", sub_life=life, **GOOD_SUB))["sub_life"] == verdict


def test_good_parts_are_told_to_be_good_and_bad_ones_are_not():
    assert judged("diode", "forward=0.58", "blocks=yes").next == ("By what was read it is good: look elsewhere.",)
    assert "look elsewhere" not in " ".join(judged("diode", "forward=0.02").next)
    assert judged("coil", "ohms=13.0", limits=["12..14"]).next[-1].startswith("Its ohms say nothing of a stuck plunger")
