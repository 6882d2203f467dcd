"""Patterns of the trade on captures made by their own small physics: what is good is called good, and each fault by its name."""

from __future__ import annotations

import numpy as np
import pytest

from pondrel.core.base.errors import CaptureError, ReadingError
from pondrel.core.bench import case_from
from pondrel.core.scope import PATTERNS, pattern_of, pattern_outcome
from pondrel.core.wave import Capture, Channel

from ...data_lines import can_bits, differential, sampled
from ...valves import valve_amps


def judged(name, values, rate, unit="V", sets=(), second=None, noise=0.01, limits=(), **chosen):
    r = np.random.default_rng(5)
    channels = [Channel("one", unit, np.asarray(values) + r.normal(0.0, noise, len(values)))]
    if second is not None:
        channels.append(Channel("two", unit, second + r.normal(0.0, noise, len(values))))
    pattern = pattern_of(name)
    return pattern_outcome(pattern, case_from(pattern.family, list(sets), (), limits), Capture(tuple(channels), 1.0 / rate), **chosen)


def said(outcome):
    """Findings that are not within, by check."""
    return {one.check: str(one.verdict) for one in outcome.findings if str(one.verdict) != "within limits"}


SLOW = np.arange(20_000) / 1000.0


def pulses(duty, period=1.5, supply=12.4):
    return np.where((SLOW / period + 1e-9) % 1.0 < duty, supply, 0.02)


def test_a_pulsing_regulator_by_its_mean_and_by_its_heat():
    assert str(judged("bimetal_regulator", pulses(0.405), 1000).verdict) == "within limits"
    assert said(judged("bimetal_regulator", pulses(0.58), 1000)) == {"average": "outside limits"}
    # What is right for a magnetic gauge burns a heated one, and the other way round.
    heated = [("gauge", "heated")]
    assert said(judged("bimetal_regulator", pulses(0.405), 1000, sets=heated)) == {"average": "outside limits"}
    own = judged("bimetal_regulator", pulses(0.1627), 1000, sets=heated)
    assert str(own.verdict) == "within limits" and own.service.figures["rms_v"] == pytest.approx(5.0, abs=0.05)


def test_half_a_pulse_more_does_not_move_a_regulators_average():
    averages = [judged("bimetal_regulator", pulses(0.405)[:length], 1000).findings[0].value for length in (9000, 9400, 9800)]
    assert max(averages) - min(averages) < 0.02


def test_a_regulator_that_sticks_or_chatters():
    stuck = judged("bimetal_regulator", pulses(1.0), 1000)
    assert said(stuck)["stuck"] == "outside limits" and stuck.next[0].startswith("Pull its feed before the gauges burn")
    assert said(judged("bimetal_regulator", pulses(0.0), 1000))["stuck"] == "outside limits"
    chatters = pulses(0.405)
    for begin in range(300, 20_000, 1500):
        chatters[begin : begin + 6] = 0.0
    own = judged("bimetal_regulator", chatters, 1000)
    assert said(own) == {"contacts": "outside limits"} and own.service.figures["period_s"] == pytest.approx(1.5, rel=0.01)


def test_a_solid_regulator_is_steady():
    assert str(judged("solid_regulator", np.full(20_000, 5.02), 1000).verdict) == "within limits"
    assert said(judged("solid_regulator", 5.0 + 0.3 * np.sin(2 * np.pi * 100.0 * SLOW), 1000)) == {"ripple": "outside limits"}
    gone = np.full(20_000, 5.0)
    gone[3000:3050] = 0.0
    assert said(judged("solid_regulator", gone, 1000)) == {"drop-outs": "outside limits"}
    assert "pulses" in said(judged("solid_regulator", pulses(0.4), 1000))


@pytest.mark.slow
@pytest.mark.parametrize(
    "built",
    [{}, {"preload": 4.0, "mass": 8e-3}, {"stroke": 1e-4, "gain": 0.2}, {"henries": 0.005}, {"on": 0.009}, {"henries": 0.04, "ohms": 8.0}],
)
def test_a_needle_that_moves_is_seen_and_one_that_sticks_too(built):
    moves, sticks = (valve_amps(0.3, 20_000, sticks=one, **built) for one in (False, True))
    for noise in (0.002, 0.006):
        assert str(judged("pwm_valve", moves, 20_000, "A", noise=noise).findings[0].verdict) == "within limits"
        assert said(judged("pwm_valve", sticks, 20_000, "A", noise=noise)) == {"needle": "outside limits"}
    # In too much noise neither is claimed.
    assert said(judged("pwm_valve", sticks, 20_000, "A", noise=0.08)).get("needle") in ("too close to call", None)


@pytest.mark.slow
@pytest.mark.parametrize("saturates", [0.7, 0.5, 0.35])
@pytest.mark.parametrize("built", [{}, {"stroke": 1e-4, "gain": 0.2}, {"henries": 0.04, "ohms": 8.0}])
def test_a_core_that_saturates_is_no_needle(saturates, built):
    """The climb grows steeper by itself there, by more than a needle makes of it: a stuck one is never called moving."""
    moves, sticks = (valve_amps(0.2, 20_000, sticks=one, saturates=saturates, inner=4, **built) for one in (False, True))
    for noise in (0.002, 0.006):
        assert str(judged("pwm_valve", moves, 20_000, "A", noise=noise).findings[0].verdict) == "within limits"
        found = judged("pwm_valve", sticks, 20_000, "A", noise=noise)
        assert said(found).get("needle") in ("outside limits", "too close to call"), found.findings[0].because
    assert str(judged("pwm_valve", sticks, 20_000, "A", noise=0.002).verdict) != "within limits"


def test_a_valve_whose_current_never_falls_to_nought_is_not_judged_by_its_needle():
    t = np.arange(20_000) / 20_000.0
    assert said(judged("pwm_valve", 0.6 + 0.1 * np.abs((t * 400) % 1.0 - 0.5), 20_000, "A")) == {"needle": "not comparable"}
    assert said(judged("pwm_valve", 0.0 * t, 20_000, "A")) == {"needle": "outside limits"}


def test_share_of_time_on_against_what_is_commanded():
    square = np.where((SLOW * 10 + 1e-9) % 1.0 < 0.35, 0.2, 13.0)
    # The valve is switched to ground: the share above the middle is told, as the signal is.
    own = judged("pwm_valve", square, 1000, sets=[("duty", "65")])
    assert str(own.verdict) == "within limits" and own.service.figures["duty"] == pytest.approx(0.65, abs=0.01)
    assert said(judged("pwm_valve", square, 1000, sets=[("duty", "40")])) == {"share of time on": "outside limits"}


def kick(clamp):
    t = np.arange(6000) / 100_000.0
    since = t - 0.03
    lasts = 0.9e-3 if clamp > 20 else 4e-3
    volts = np.where((t > 0.01) & (t < 0.03), 0.2, 12.5)
    return (
        volts
        + np.where((since >= 0) & (since < lasts), clamp, 0.0)
        + np.where(since >= lasts, 0.3 * clamp * np.exp(-(since - lasts) / 3e-4), 0.0)
    )


@pytest.mark.parametrize(
    ("clamp", "kind", "verdict"),
    [
        (0.8, "diode", "within"),
        (60, "diode", "outside"),
        (45, "module", "within"),
        (6, "module", "outside"),
        (40, "resistor", "within"),
        (200, "resistor", "outside"),
    ],
)
def test_a_coil_kicks_as_far_as_what_clamps_it(clamp, kind, verdict):
    own = judged("switch_off_spike", kick(clamp), 100_000, sets=[("clamp", kind)])
    assert str(own.verdict) == f"{verdict} limits" and own.service.figures["spike_v"] == pytest.approx(clamp, rel=0.05, abs=0.1)


def test_a_spike_of_a_single_sample_may_be_higher_than_is_seen():
    volts = np.where(np.arange(3000) < 1500, 0.2, 12.5)
    volts[1500] = 300.0
    own = judged("switch_off_spike", volts, 10_000, sets=[("clamp", "resistor")])
    assert any(one.check == "rate" and "hardly a sample" in one.because for one in own.findings)


WHEEL = [("teeth", "60"), ("missing", "2")]


def wheel(turns_a_second=lambda t: 10.0 + 0.0 * t, run_out=0.0, weak=None, missing=2, size=0.3):
    t = np.arange(200_000) / 100_000.0
    phase = np.cumsum(turns_a_second(t)) / 100_000.0
    tooth = (phase * 60.0) % 60.0
    volts = np.where(tooth < 60 - missing, np.sin(2 * np.pi * tooth), 0.0) * size * turns_a_second(t)
    volts *= 1.0 + run_out * np.sin(2 * np.pi * (phase % 1.0))
    return volts if weak is None else np.where((tooth >= weak) & (tooth < weak + 1), 0.3 * volts, volts)


def test_a_wheel_with_its_gap_is_good_at_any_speed():
    for own in (judged("pickup", wheel(), 100_000, sets=WHEEL), judged("pickup", wheel(lambda t: 5.0 + 5.0 * t), 100_000, sets=WHEEL)):
        assert str(own.verdict) == "within limits", own.findings
    assert own.service.figures["grows_with_speed"] == pytest.approx(1.0, abs=0.05)
    assert judged("pickup", wheel(), 100_000, sets=WHEEL).service.figures["rpm"] == pytest.approx(600, rel=1e-3)


@pytest.mark.parametrize(
    ("made", "check"),
    [
        ({"run_out": 0.25}, "run-out"),
        ({"weak": 17}, "weak tooth"),
        ({"missing": 0}, "gap"),
        ({"missing": 1}, "gap"),
        ({"size": 0.01}, "size"),
    ],
)
def test_what_is_wrong_with_a_wheel_is_named(made, check):
    assert said(judged("pickup", wheel(**made), 100_000, sets=WHEEL, noise=0.004)).get(check) == "outside limits"


def test_a_wheel_with_a_tooth_too_few_is_counted():
    assert "teeth" in said(judged("pickup", wheel(), 100_000, sets=[("teeth", "58"), ("missing", "2")]))


def hall(low=0.2, high=4.9):
    t = np.arange(50_000) / 50_000.0
    return np.where((t * 200 + 1e-9) % 1.0 < 0.5, high, low)


def test_a_hall_sensor():
    assert str(judged("hall", hall(), 50_000).verdict) == "within limits"
    assert said(judged("hall", hall(low=1.6), 50_000)) == {"low": "outside limits"}
    assert said(judged("hall", hall(high=3.1), 50_000)) == {"high": "outside limits"}
    missing = hall()
    missing[20_000:20_700] = 0.2
    assert said(judged("hall", missing, 50_000)) == {"missing": "outside limits"}
    assert said(judged("hall", np.full(50_000, 4.9), 50_000)) == {"switches": "outside limits"}


@pytest.mark.parametrize("unit", ["A", "V"])
def test_a_two_wire_sensor_in_amperes_or_across_the_modules_resistor(unit):
    per = 1.0 if unit == "A" else 115.0
    for levels, bad in (
        ((0.007, 0.014), set()),
        ((0.0101, 0.0143), {"low current", "ratio"}),
        ((0.007, 0.0095), {"high current", "ratio"}),
    ):
        own = judged("sensor_current", hall(*levels) * per, 50_000, unit, noise=1e-4 * per)
        assert set(said(own)) == bad
    assert said(judged("sensor_current", np.full(50_000, 0.0071) * per, 50_000, unit, noise=1e-4 * per)) == {"switches": "outside limits"}


def test_a_pedal_is_swept_on_both_tracks():
    t = np.arange(6000) / 1000.0
    travel = np.clip(np.where(t < 3.0, t / 2.6, (5.8 - t) / 2.6), 0.0, 1.0)
    one = 0.8 + 3.2 * travel
    assert str(judged("pedal_sweep", one, 1000, second=one / 2, noise=0.004).verdict) == "within limits"
    assert said(judged("pedal_sweep", one, 1000, second=one / 2 + 0.3, noise=0.004)) == {"tracks": "outside limits"}
    gone = one.copy()
    gone[1500:1512] = 0.0
    own = judged("pedal_sweep", gone, 1000, second=one / 2, noise=0.004)
    assert said(own) == {"drop-outs": "outside limits"} and "gone once, first at 1.5 s" in own.findings[0].because
    assert said(judged("pedal_sweep", np.full(6000, 0.8), 1000)) == {"moves": "outside limits"}


def test_an_alternators_ripple_and_its_missing_pulse():
    t = np.arange(40_000) / 20_000.0
    hump = np.abs(np.sin(np.pi * 600.0 * t))
    assert str(judged("alternator_ripple", 14.1 + 0.15 * hump, 20_000).verdict) == "within limits"
    assert said(judged("alternator_ripple", 14.1 + 0.9 * hump, 20_000)) == {"ripple": "outside limits"}
    assert said(judged("alternator_ripple", 14.1 + 0.15 * hump * np.where((t * 600) % 6 < 1, -1, 1), 20_000)) == {
        "pulses": "outside limits"
    }


@pytest.mark.parametrize("sign", [1.0, -1.0])
def test_cranking_current_and_its_compressions_whichever_way_the_clamp_lies(sign):
    t = np.arange(15_000) / 5000.0
    for weak, bad in ((1.0, {}), (0.5, {"compressions": "outside limits"})):
        hump = np.where(np.floor(t * 9) % 4 == 2, weak, 1.0) * np.sin(2 * np.pi * 9.0 * t - np.pi / 2)
        amps = np.where((t > 0.5) & (t < 2.6), 130 + 450 * np.exp(-(t - 0.5) / 0.05) + 35 * hump, 0.0)
        own = judged("cranking_current", sign * amps, 5000, "A", noise=1.0)
        assert said(own) == bad and own.service.figures["rpm"] == pytest.approx(270, rel=0.01)
        if bad:
            assert own.findings[0].value == pytest.approx(0.5, abs=0.16)
    assert said(judged("cranking_current", 0.0 * t, 5000, "A", noise=1.0)) == {"cranking": "not comparable"}


def test_a_ground_that_moves():
    t = np.arange(10_000) / 10_000.0
    assert str(judged("ground_bounce", 0.03 + 0.0 * t, 10_000).verdict) == "within limits"
    assert said(judged("ground_bounce", np.where((t * 8) % 1 < 0.3, 0.6, 0.03), 10_000)) == {"bounce": "outside limits"}
    assert said(judged("ground_bounce", 0.2 + 0.0 * t, 10_000)) == {"ground": "outside limits"}
    assert str(judged("ground_bounce", 0.2 + 0.0 * t, 10_000, sets=[("load", "heavy")]).verdict) == "within limits"


def test_contacts_that_bounce_and_contacts_that_let_go():
    closes = np.where(np.arange(10_000) < 3000, 12.0, 0.05)
    assert str(judged("contact_bounce", closes, 10_000).verdict) == "within limits"
    bounces = closes.copy()
    for begin in (3010, 3025, 3060, 3140):
        bounces[begin : begin + 6] = 12.0
    assert said(judged("contact_bounce", bounces, 10_000)) == {"bounce": "outside limits"}
    lets_go = closes.copy()
    lets_go[7000:7300] = 12.0
    assert said(judged("contact_bounce", lets_go, 10_000)) == {"lets go": "outside limits"}


def test_a_data_line_is_judged_by_how_much_of_it_is_disturbed():
    bits = [1] * 20
    for k in range(120):
        bits += can_bits(0x100 + k, bytes([k] * 8))
    high, low = differential(sampled(bits + [1] * 20, 500e3, 10e6))
    good = judged("data_line", high, 10e6, second=low)
    assert str(good.verdict) == "within limits" and good.service.figures["frames"] == 120
    weak = judged("data_line", 2.5 + 0.4 * (high - 2.5), 10e6, second=2.5 + 0.4 * (low - 2.5))
    assert weak.service.figures["frames"] == 120 and "0.80 V apart, and a receiver wants 0.9 V" in weak.findings[0].because
    assert str(weak.verdict) == "outside limits" and "Something lets current" in weak.service.says[0]
    r = np.random.default_rng(1)
    for begin in range(20_000, len(high) - 20_000, 40_000):
        touching = r.random(1500) < 0.5
        high[begin : begin + 1500][touching] = 0.1
        low[begin : begin + 1500][touching] = 0.15
    bad = judged("data_line", high, 10e6, second=low)
    assert said(bad)["disturbed"] == "outside limits" and "touches ground" in bad.service.says[0]


def test_a_limit_that_is_given_outranks_the_usual_one():
    own = judged("bimetal_regulator", pulses(0.405), 1000, limits=["average 5.2..5.6 V (maker: sheet 4)"])
    assert said(own) == {"average": "outside limits"} and own.findings[0].limit.source == "sheet 4"


def test_every_pattern_answers_any_capture_in_words_and_never_breaks():
    r = np.random.default_rng(9)
    n = 4000
    odd = [
        np.zeros(n), np.full(n, 12.6), r.normal(0.0, 1.0, n), np.linspace(0, 5, n), np.where(np.arange(n) == 17, 50.0, 0.0),
        np.where(np.arange(n) < n // 2, 0.0, 5.0), 1e-9 * r.normal(0.0, 1.0, n), 1e6 * np.sin(np.arange(n)), np.arange(n) % 2.0,
        np.zeros(16), r.normal(5, 1, 17),
    ]  # fmt: skip
    for name in PATTERNS:
        for values in odd:
            for unit in ("V", "A", ""):
                if unit and PATTERNS[name].unit not in ("", unit):
                    continue
                own = judged(name, values, 1000.0, unit, noise=0.0)
                assert own.findings and all(one.because.endswith((".", ")")) for one in own.findings), name
                assert own.as_json()["family"] == name


def test_unknown_patterns_and_channels_are_named():
    with pytest.raises(ReadingError, match=r"'bimetal' is no pattern.*bimetal_regulator"):
        pattern_of("bimetal")
    with pytest.raises(CaptureError, match="'x' is no channel of this capture"):
        judged("hall", hall(), 50_000, channel="x")
    with pytest.raises(CaptureError, match="no channel of amperes"):
        judged("cranking_current", hall(), 50_000, "V")
