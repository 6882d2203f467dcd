"""What a capture of starting or charging shows: events, levels, cranking speed, compressions, ripple and missing pulses."""

from __future__ import annotations

import io

import numpy as np
import pytest

from pondrel.core.bench import case_from
from pondrel.core.power.capture_verdict import CAPTURE, capture_json, capture_outcome
from pondrel.core.wave import capture_from
from pondrel.core.wave.spectrum import humps

from ...captures import as_csv, bridge, crank


def looked_at(content: bytes, **settings: object):
    case = case_from(CAPTURE, [(name, str(value)) for name, value in settings.items()])
    return capture_outcome(case, capture_from(io.BytesIO(content), case.known("full_scale")))


def cranked(cylinders: int = 4, **kwargs):
    t, volts, _, true = crank(cylinders=cylinders, **kwargs)
    seen, outcome = looked_at(as_csv(t, volts), cylinders=cylinders)
    return seen, outcome, true


def verdicts(outcome):
    return {one.check: str(one.verdict) for one in outcome.findings}


def test_key_inrush_start_and_charging_are_found_where_they_are():
    seen, outcome, true = cranked()
    at = {event.name: event.at for event in seen.events}
    assert at["key on"] == pytest.approx(true["key_at"], abs=0.02) and at["inrush"] == pytest.approx(true["crank_at"], abs=0.02)
    assert at["engine starts"] == pytest.approx(true["crank_at"] + 2.0, abs=0.06) and at["charging"] > at["engine starts"]
    assert str(outcome.verdict) == "within limits" and outcome.service.figures["started"] is True


@pytest.mark.parametrize(
    ("cylinders", "rate", "ohms"), [(4, 2000, 0.008), (4, 200, 0.008), (6, 5000, 0.012), (3, 1000, 0.006), (4, 20_000, 0.02)]
)
def test_lowest_volts_and_cranking_speed_are_those_of_the_engine(cylinders, rate, ohms):
    _, outcome, true = cranked(cylinders=cylinders, rate=rate, ohms=ohms, seed=cylinders + rate)
    assert outcome.service.figures["rpm"] == pytest.approx(true["rpm"], rel=0.02)
    assert outcome.service.figures["lowest_v"] == pytest.approx(true["lowest"], abs=0.12)
    assert outcome.service.figures["rest_v"] == pytest.approx(12.6, abs=0.02)


def test_a_battery_that_sags_too_far_is_outside_and_not_named():
    _, outcome, _ = cranked(ohms=0.02)
    assert verdicts(outcome)["lowest"] == "outside limits"
    assert "alone does not name" in next(one.because for one in outcome.findings if one.check == "lowest")


def test_an_engine_that_does_not_start_shows_its_recovery():
    seen, outcome, _ = cranked(starts=False)
    assert outcome.service.figures["started"] is False and outcome.service.figures["recovery_v"] == pytest.approx(12.3, abs=0.15)
    assert "key released" in {event.name for event in seen.events} and "charge" not in verdicts(outcome)


@pytest.mark.parametrize("weak", [0, 1, 2, 3])
def test_one_weak_compression_is_a_hint_and_no_verdict(weak):
    seen, outcome, _ = cranked(weak=weak)
    depths = sorted(seen.cranking.depths)
    assert depths[0] < 0.75 < depths[1] and str(outcome.verdict) == "within limits"
    assert any("compressions differ" in says for says in outcome.service.says)
    assert min(cranked()[0].cranking.depths) > 0.9


def test_a_current_channel_gives_inrush_and_cranking_amperes():
    t, volts, amps, _ = crank(rate=5000.0)
    seen, _ = looked_at(as_csv(t, volts, amps))
    assert seen.amps["inrush_a"] == pytest.approx(amps.max(), rel=0.1)
    assert seen.amps["crank_a"] == pytest.approx(amps[(t > 1.9) & (t < 3.5)].mean(), rel=0.1)


@pytest.mark.parametrize("turns", [120.0, 400.0, 733.0])
@pytest.mark.parametrize("missing", [False, True])
def test_missing_pulses_are_told_by_their_shape_at_any_speed_and_height(turns, missing):
    for amplitude in (0.05, 0.15, 1.0):
        t, volts = bridge(turns, amplitude=amplitude, missing=missing)
        seen, outcome = looked_at(as_csv(t, volts))
        assert seen.ripple.missing is missing, amplitude
        assert seen.ripple.turns_hz == pytest.approx(turns, rel=0.005)
        assert verdicts(outcome)["pulses"] == ("outside limits" if missing else "within limits")


def test_ripple_is_held_against_its_limit_and_noise_is_none():
    t, volts = bridge(400.0, amplitude=1.0, missing=True)
    assert verdicts(looked_at(as_csv(t, volts))[1])["ripple"] == "outside limits"
    noise = 14.1 + np.random.default_rng(5).normal(0.0, 0.02, 20_000)
    assert looked_at(as_csv(np.arange(20_000) / 20_000.0, noise))[0].ripple is None


def test_a_slow_capture_of_minutes_is_judged_by_its_trend():
    t = np.arange(0.0, 600.0, 0.5)
    seen, outcome = looked_at(as_csv(t, 12.2 + 1.9 * (1.0 - np.exp(-t / 150.0))))
    assert verdicts(outcome) == {"trend": "within limits"} and seen.points[0][1] < 12.5
    assert verdicts(looked_at(as_csv(t, 12.5 - 0.001 * t))[1]) == {"trend": "outside limits"}


def test_24_v_has_twice_the_limits_and_the_same_events():
    t, volts, _, _ = crank()
    seen, outcome = looked_at(as_csv(t, 2.0 * volts), system="24")
    assert str(outcome.verdict) == "within limits" and {"key on", "inrush", "charging"} <= {event.name for event in seen.events}


def test_without_a_scale_only_shape_and_speed_are_told():
    from ..wave.test_read import wav

    _, volts, _, true = crank(rate=8000.0)
    seen, outcome = looked_at(wav(((volts - 12.0) / 20.0 * 32768.0).astype("<i2").tobytes(), 16))
    assert not seen.scaled and all(event.volts is None for event in seen.events)
    assert outcome.service.figures["rpm"] == pytest.approx(true["rpm"], rel=0.02) and set(verdicts(outcome)) <= {"rpm", "pulses"}
    seen, outcome = looked_at(wav((volts / 20.0 * 32768.0).astype("<i2").tobytes(), 16), full_scale="20")
    assert outcome.service.figures["lowest_v"] == pytest.approx(true["lowest"], abs=0.12)


def test_a_flat_line_and_a_single_spike_are_no_cranking():
    quiet = np.full(5000, 12.6)
    spike = quiet.copy()
    spike[2500:2504] = 4.0
    for volts in (quiet, spike):
        seen, _ = looked_at(as_csv(np.arange(5000) * 1e-3, volts))
        assert seen.cranking is None and not seen.events


def test_the_answer_goes_on_the_wire_as_json():
    import json

    t, volts, _, _ = crank()
    case = case_from(CAPTURE)
    own = capture_from(io.BytesIO(as_csv(t, volts)))
    text = json.dumps(capture_json(own, *capture_outcome(case, own)), allow_nan=False)
    assert json.loads(text)["capture"]["samples"] == len(t)


def test_humps_are_counted_round_the_period():
    turn = np.linspace(0.0, 2.0 * np.pi, 48, endpoint=False)
    assert [humps(np.cos(k * turn + 1.0)) for k in (1, 2, 5)] == [1, 2, 5]
    assert humps(np.zeros(48)) == 0
