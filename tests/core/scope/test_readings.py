"""What of a capture becomes readings of its circuit, and when a level is not weighed."""

import numpy as np
import pytest

from pondrel.core.circuit.fault import parse_fault
from pondrel.core.circuit.measure import measure
from pondrel.core.circuit.waveform import followed
from pondrel.core.evidence.asked import Measurement
from pondrel.core.evidence.line import parse_line
from pondrel.core.isolate.predict.workup import Workup
from pondrel.core.scope.readings import SCOPE_READS, candidates, level_of
from pondrel.core.wave import Capture, Channel
from pondrel.core.wave.measure import measures_of

from ...circuits import sheet_of

STATES = "off: {}, slow: {M: pulsed}, full: {M: 'on'}"
FEED = """
        BAT: {kind: battery, pins: {p: b+, n: b-}, volts: 12, ohms: 0.001}
        W: {kind: wire, pins: {a: b+, b: feed}, ohms: 0.01}
        M: {kind: low_side, pins: {out: out, gnd: m31}, duty: 40, hertz: 100, limit: 20, on_ohms: 0.05}
        G: {kind: ground, pins: {a: m31, b: b-}, ohms: 0.001}"""
LOAD = "\n        H: {kind: resistor, pins: {a: feed, b: out}, ohms: 4}"
HEATER = sheet_of(FEED + LOAD, states=STATES)
# A winding of 80 ms beside pulses of 4 ms: its diode never stops conducting.
VALVE = sheet_of(
    FEED
    + "\n        Y: {kind: solenoid, pins: {a: feed, b: out}, ohms: 4, henries: 0.32, pull_in_amps: 0.3}"
    + "\n        D: {kind: diode, pins: {a: out, k: feed}}",
    states=STATES,
)


def measured(values, step: float = 2e-5):
    own = Capture((Channel("a", "V", np.asarray(values, dtype=float)),), step)
    return measures_of(own, own.channels[0])


def drawn(sheet, *faults):
    """What a scope on the output sees in 60 ms once it is even, and what the engine weighs there."""
    course, found = followed(sheet, "slow", faults), {}
    for name in SCOPE_READS:
        found[name] = measure(sheet, "slow", name, "out", "b-", faults).exact
    return measured(course.volts("out", "b-", float(course.trace.times[-1]) - 0.06 + np.arange(3000) * 2e-5)), found


def test_the_levels_of_a_pulsed_load_are_those_of_a_divider_on_and_off():
    for fault, ohms in (("", 0.0), ("W.high_resistance=2", 2.0 - 0.01)):
        faults = (parse_fault(HEATER, fault),) if fault else ()
        shown = [measure(HEATER, "slow", name, "out", "b-", faults).exact for name in ("top", "base", "scope")]
        low = 12.0 * 0.051 / (4.0 + 0.001 + 0.01 + 0.051 + ohms)
        assert shown == pytest.approx([12.0, low, 0.6 * 12.0 + 0.4 * low], abs=2e-3)
    at_rest = [measure(HEATER, "full", name, "out", "b-").exact for name in ("top", "base", "scope")]
    assert at_rest == pytest.approx([at_rest[2]] * 3, abs=1e-9)


def test_under_every_fault_the_average_is_that_of_the_levels_with_slopes_and_spreads():
    """On 40 in a hundred to ground: average = 0.6 top + 0.4 base, and so whatever is derived of them."""
    workup = Workup(HEATER)
    tests = tuple(Measurement("slow", name, "out", "b-") for name in ("scope", "top", "base"))
    found, rows = workup.predict(tests), np.arange(workup.curves.rows)
    spread = workup.spread(tests, rows)
    assert len(rows) > 50 and (found.value[:, 1] > found.value[:, 2] + 1.0).mean() > 0.5
    assert (found.value[:, 1] >= found.value[:, 2] - 1e-9).all()
    plain = found.stray[:, 0] < 1e-3  # nothing hangs on insulation
    assert plain.mean() > 0.8
    mixed, probe = np.array([1.0, -0.6, -0.4]), 2e-3  # a probe of 1 MΩ takes a little more from one level than from the other
    assert np.abs(found.value @ mixed)[plain].max() < probe and np.abs(found.slope @ mixed)[plain].max() < probe
    assert np.abs(np.einsum("mtk,t->mk", spread, mixed))[plain].max() < probe and np.abs(spread[0]).max() > 0.1


def test_a_level_of_too_short_a_time_is_none():
    for duty, low in ((98.5, True), (97.0, False)):
        sheet = sheet_of(FEED.replace("duty: 40", f"duty: {duty}") + LOAD, states=STATES)
        assert (measure(sheet, "slow", "top", "out", "b-").exact < 1.0) is low


def test_the_numbers_of_a_heater_are_all_weighed():
    own = measured(drawn(HEATER)[0].channel.samples * 1.01 + np.random.default_rng(1).normal(0.0, 0.02, 3000))
    found = candidates(own, [drawn(HEATER), drawn(HEATER, parse_fault(HEATER, "W.high_resistance=2"))])
    assert [(one.instrument, one.counts) for one in found] == [("scope", True), ("top", True), ("base", True)]
    assert float(found[1].typed) == pytest.approx(12.12, abs=0.03)
    for one in found:
        item, _ = parse_line(HEATER, f"slow {one.instrument} out b- {one.typed}", "slow")
        assert item.measured.value == pytest.approx(level_of(own, one.instrument), abs=0.05)


def test_a_level_that_a_winding_shifts_is_shown_and_not_weighed():
    own, weighed = drawn(VALVE)
    assert own.top.value == pytest.approx(12.8, abs=0.15) and weighed["top"] == pytest.approx(12.0, abs=0.01)  # a diode's drop above
    found = candidates(own, [(own, weighed)])
    assert len(found) == 3 and not any(one.counts for one in found) and "coil" in found[1].why_not
    # Where only a suspect's winding would do that, it is not weighed either.
    agrees = {name: level_of(own, name) for name in SCOPE_READS}
    assert candidates(own, [(own, agrees)])[1].counts and not candidates(own, [(own, agrees), (own, weighed)])[1].counts


def test_what_does_not_pulse_has_levels_only_where_it_should_pulse():
    steady = measured(np.full(3000, 6.3) + np.random.default_rng(2).normal(0.0, 0.01, 3000))
    assert [one.instrument for one in candidates(steady, [drawn(HEATER)])] == ["scope", "top", "base"]
    still = (steady, dict.fromkeys(SCOPE_READS, 12.0))
    assert [one.instrument for one in candidates(steady, [still])] == ["scope"]
    alone = candidates(drawn(HEATER)[0], [])
    assert [one.counts for one in alone] == [True, False, False] and "could not be followed" in alone[1].why_not


@pytest.mark.parametrize(("volts", "typed"), [(7.4412, "7.44"), (12.613, "12.61"), (0.0004, "0.000"), (-0.0004, "0.000"), (240.2, "240")])
def test_numbers_are_written_to_what_a_scope_is_good_for(volts, typed):
    (only,) = candidates(measured(np.full(3000, volts)), [])
    assert only.typed == typed
