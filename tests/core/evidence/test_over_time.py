"""Readings over time at one place, and delays by stopwatch."""

from __future__ import annotations

import pytest

from pondrel.core.base.errors import ReadingError
from pondrel.core.circuit.transient import transient
from pondrel.core.evidence.items import Observation
from pondrel.core.evidence.line import parse_line
from pondrel.core.evidence.registry import content_of, item_from
from pondrel.core.evidence.sorts.stopwatch import computed_delay
from pondrel.core.evidence.trend import lasting, trends
from pondrel.core.isolate.isolation import isolate
from pondrel.core.isolate.predict.workup import Workup

from ...circuits import STEP_LIGHT, sheet_of

TIMER = """
    BAT: {kind: battery, pins: {p: b+, n: b-}}
    S1: {kind: switch, pins: {a: b+, b: t15}}
    TR: {kind: timed_relay, pins: {30: b+, 87: out, 15: t15, 31: b-}}
    H1: {kind: heater, pins: {a: out, b: b-}, watts: 60}
"""


@pytest.fixture(scope="module")
def timer():
    return Workup(sheet_of(TIMER, states="rest: {}, on: {S1: closed}"))


def items_of(sheet, *lines: str):
    return tuple(parse_line(sheet, line, next(iter(sheet.states)))[0] for line in lines)


@pytest.fixture(scope="module")
def light():
    from pondrel.core.circuit.read.sheet import parse_sheet

    return Workup(parse_sheet(STEP_LIGHT))


def test_later_readings_of_a_series_take_the_place_of_earlier_ones(light):
    """12.2 and 14.1 V at one place contradict each other, unless ten minutes lie between them."""
    apart = isolate(light, items_of(light.sheet, "idle volts batt+ 11.2", "idle volts batt+ 13.4"))
    series = isolate(light, items_of(light.sheet, "idle volts batt+ 11.2 at 0 min", "idle volts batt+ 13.4 after 10 min"))
    alone = isolate(light, items_of(light.sheet, "idle volts batt+ 13.4"))
    assert apart.misfits and not series.misfits
    assert series.parts[None] == pytest.approx(alone.parts[None], rel=1e-6)
    (trend,) = series.trends
    assert trend.numbers == (0, 1) and trend.minutes == 10.0
    assert trend.says == "Volts between batt+ and batt- rose from 11.20 V to 13.40 V in 10 min; the last number counts."


def test_a_series_goes_by_its_times_and_not_by_the_order_of_typing(light):
    series = items_of(light.sheet, "idle volts batt+ 13.4 at 10 min", "idle volts batt+ 12.2 at 0 min", "idle volts batt+ 12.9 at 300 s")
    assert [type(item) is Observation for item in lasting(series)] == [False, True, True]
    assert trends(series)[0].numbers == (1, 2, 0)


@pytest.mark.parametrize(
    ("lines", "says"),
    [
        (("lit volts lamp.feed 12.02 @0min", "lit volts lamp.feed 12.03 @20min"), "stayed at 12.03 V in 20 min"),
        (("lit ohms lamp.feed g1 OL at 0 s", "lit ohms lamp.feed g1 14.2 at 30 s"), "went from OL to 14.2 Ω in 30 s"),
        (("lit volts g1 0.9 at 0 min", "lit volts g1 0.1 at 3 h"), "fell from 900 mV to 100 mV in 3 h"),
    ],
)
def test_a_trend_is_told_in_words(light, lines, says):
    assert says in trends(items_of(light.sheet, *lines))[0].says


def test_readings_at_other_places_states_or_without_a_time_are_no_series(light):
    lines = ("idle volts batt+ 12.2 at 0 min", "lit volts batt+ 12.4 at 5 min", "idle volts f4.out 12.2 at 9 min", "idle volts batt+ 12.3")
    assert trends(items_of(light.sheet, *lines)) == ()


@pytest.mark.parametrize("text", ["12.2 at -3 min", "12.2 at min", "12.2 @5lightyears"])
def test_a_time_that_is_none_is_refused_in_one_sentence(light, text):
    with pytest.raises(ReadingError) as refused:
        parse_line(light.sheet, f"idle volts batt+ {text}", "idle")
    assert str(refused.value).count(". ") == 0


def test_the_computed_delay_is_when_the_contact_moves_in_time(timer):
    """Closed form against the sheet followed in time."""
    trace = transient(timer.sheet, ((0.0, "rest"), (1.0, "on")), 20.0)
    switched = next(time for time, says in trace.events if "TR" in says)
    assert computed_delay(timer.sheet, "TR", "on") == pytest.approx(switched - 1.0, rel=0.02)


def test_a_relay_that_is_too_soon_has_a_dry_capacitor_and_one_that_waits_long_a_leaky_one(timer):
    fed = ("on volts t15 12.5", "on volts out 12.4")
    soon, late, right = (isolate(timer, items_of(timer.sheet, *fed, f"on delay TR {said}")) for said in ("2 s", "25 s", "6.6 s"))
    first = soon.suspects[0]
    assert (first.part, first.mode) == ("TR", "capacitor_dry") and first.probability > 0.9
    likeliest = next(s for s in late.suspects if s.part is not None and s.kind == "single")
    assert (likeliest.part, likeliest.mode) == ("TR", "capacitor_leaky")
    assert right.parts["TR"] < soon.parts["TR"] and right.suspects[0].part is None


def test_a_dried_out_capacitor_switches_sooner_in_time_too(timer):
    from pondrel.core.circuit.fault import parse_fault

    faults = (parse_fault(timer.sheet, "TR.capacitor_dry"),)
    sound, dry = (transient(timer.sheet, ((0.0, "rest"), (1.0, "on")), 20.0, f) for f in ((), faults))
    times = [next(time for time, says in trace.events if "TR" in says) - 1.0 for trace in (sound, dry)]
    assert times[1] == pytest.approx(0.3 * times[0], rel=0.03)


def test_a_delay_is_kept_with_its_seconds(timer):
    item, typed = parse_line(timer.sheet, "on delay TR 2,1 s", "rest")
    assert isinstance(item, Observation) and item.outcome == "too short" and "2,1 s" in item.note
    kept = content_of(item, typed)
    assert item_from(timer.sheet, "delay", kept) == item


@pytest.mark.parametrize(
    ("line", "says"),
    [
        ("on delay H1 3 s", "'H1' has no delay of its own that could be timed"),
        ("on delay TR soonish", "'soonish' is no delay of TR: write seconds, such as 3.2 s"),
        ("rest delay TR 3 s", "TR is never triggered in state rest"),
        ("on delay TR 90000 s", "longer than any relay waits"),
    ],
)
def test_what_is_no_delay_is_refused_in_one_sentence(timer, line, says):
    with pytest.raises(ReadingError, match=says):
        parse_line(timer.sheet, line, "rest")
