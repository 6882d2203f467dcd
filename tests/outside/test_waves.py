"""Captures against scipy.signal, ngspice, closed forms of IEEE 181's quantities, and the published figures of data lines' check sums."""

from __future__ import annotations

import math

import numpy as np
import pytest
from scipy import signal

from pondrel.core.circuit.fault import parse_fault
from pondrel.core.circuit.read.sheet import parse_sheet
from pondrel.core.circuit.waveform import followed
from pondrel.core.evidence.line import parse_line
from pondrel.core.isolate import isolate
from pondrel.core.isolate.predict.workup import Workup
from pondrel.core.scope.compare import misfit
from pondrel.core.scope.pattern import SCALE_WITHIN
from pondrel.core.scope.readings import SCOPE_READS, level_of
from pondrel.core.wave import Capture, Channel
from pondrel.core.wave.bits.crc import CRC15, CRC17, CRC21, crc_of_bits, lin_checksum, lin_parity
from pondrel.core.wave.measure import measures_of
from pondrel.demo.load import SHEETS

from ..reference import needs_ngspice, ngspice_trace

RATE = 50_000.0
T = np.arange(100_000) / RATE


def measured(values, rate: float = RATE):
    own = Capture((Channel("a", "V", np.asarray(values, dtype=float)),), 1.0 / rate)
    return measures_of(own, own.channels[0])


@pytest.mark.parametrize("duty", [0.1, 0.37, 0.5, 0.9])
def test_a_square_wave_of_scipy(duty):
    """scipy.signal.square as generator; mean and effective value of a pulse train between two levels in closed form."""
    own = measured(6.0 + 6.0 * signal.square(2 * np.pi * 40.0 * T + 1e-7, duty))
    assert own.frequency.value == pytest.approx(40.0, rel=1e-4) and own.duty.value == pytest.approx(duty, abs=2e-3)
    assert own.cycle_mean.value == pytest.approx(12.0 * duty, rel=5e-3)
    assert own.rms.value == pytest.approx(12.0 * math.sqrt(duty), rel=5e-3)
    assert own.pulses == pytest.approx(80, abs=1) and own.top.value == pytest.approx(12.0, abs=1e-3)


def test_a_sawtooth_of_scipy_rises_for_eight_tenths_of_its_ramp():
    """scipy.signal.sawtooth as generator: 10 to 90 % of a ramp over 70 % of the period."""
    own = measured(signal.sawtooth(2 * np.pi * 10.0 * T, 0.7))
    assert own.rise.value == pytest.approx(0.8 * 0.07, rel=0.01) and own.fall.value == pytest.approx(0.8 * 0.03, rel=0.01)


@pytest.mark.parametrize("tau", [0.5e-3, 2e-3])
def test_a_first_order_edge_takes_ln_9_time_constants(tau):
    """scipy.signal.lsim of 1 / (1 + s tau): 10 to 90 % lasts tau ln 9."""
    drive = signal.square(2 * np.pi * 20.0 * T) * 0.5 + 0.5
    _, out, _ = signal.lsim(([1.0], [tau, 1.0]), drive, T)
    own = measured(out)
    assert own.rise.value == pytest.approx(tau * math.log(9.0), rel=0.01) and own.fall.value == pytest.approx(tau * math.log(9.0), rel=0.01)


@pytest.mark.parametrize("damping", [0.2, 0.4, 0.7])
def test_a_second_order_edge_shoots_over_by_its_damping(damping):
    """scipy.signal.lsim; overshoot exp(-pi z / sqrt(1 - z²)) in closed form."""
    drive = signal.square(2 * np.pi * 5.0 * T) * 0.5 + 0.5
    w = 2 * np.pi * 200.0
    _, out, _ = signal.lsim(([w * w], [1.0, 2 * damping * w, w * w]), drive, T)
    assert measured(out).overshoot.value == pytest.approx(math.exp(-math.pi * damping / math.sqrt(1 - damping**2)), rel=0.03)


@pytest.mark.parametrize("hertz", [49.3, 333.3, 4_321.0])
def test_the_frequency_of_a_noisy_sine_is_that_of_its_spectrum(hertz):
    """scipy.signal.periodogram: its strongest line, refined by a parabola through three bins."""
    values = np.sin(2 * np.pi * hertz * T) + np.random.default_rng(3).normal(0.0, 0.05, len(T))
    lines, power = signal.periodogram(values, RATE, window="hann", nfft=8 * len(T))
    own = measured(values).frequency
    assert own.value == pytest.approx(lines[power.argmax()], rel=4e-4) and abs(own.value - hertz) < 3.0 * own.u


def test_uncertainty_of_a_period_covers_what_chance_makes():
    """Monte Carlo: a square wave of irrational period at random phases; nine in ten within two standard deviations."""
    r = np.random.default_rng(11)
    period, inside = 0.0123456789, 0
    for _ in range(200):
        own = measured(np.where(((T[:5000] + r.random() * period) / period) % 1.0 < 0.4, 5.0, 0.0))
        inside += abs(own.period.value - period) <= 2.0 * own.period.u
    assert inside >= 180


# Catalogue of parametrised CRC algorithms (reveng), from memory: what each gives for the nine characters 123456789.
@pytest.mark.parametrize(("kind", "check"), [(CRC15, 0x059E), (CRC17, 0x04F03), (CRC21, 0x0ED841)])
def test_check_values_of_the_catalogue(kind, check):
    bits = [byte >> place & 1 for byte in b"123456789" for place in range(7, -1, -1)]
    assert crc_of_bits(bits, kind) == check


def test_lin_check_sums_of_the_specification():
    """LIN Specification Package 2.1, 2.8.3, example of a check sum, from memory: 4A 55 93 E5 give E6."""
    assert lin_checksum([0x4A, 0x55, 0x93, 0xE5]) == 0xE6


@pytest.mark.parametrize(
    ("identifier", "protected"),
    [
        (0x00, 0x80),
        (0x01, 0xC1),
        (0x02, 0x42),
        (0x03, 0x03),
        (0x10, 0x50),
        (0x20, 0x20),
        (0x3C, 0x3C),
        (0x3D, 0x7D),
        (0x3E, 0xFE),
        (0x3F, 0xBF),
    ],
)
def test_protected_identifiers_of_the_specification(identifier, protected):
    """LIN Specification Package 2.1, table of protected identifiers, from memory."""
    assert lin_parity(identifier) == protected


GAUGES_IN = "cold and half full"
GAIN, SHIFT, NOISE = 1.01, -0.02, 0.03  # a scope's scale, zero and noise


@pytest.fixture(scope="module")
def gauges():
    return parse_sheet((SHEETS / "dash_gauges.yaml").read_text(encoding="utf-8"))


def simulated_capture(sheet, place: str, fault: str):
    """What ngspice has at a place of the gauges' circuit, a minute from switching on, the first 24 s left out."""
    faults = (parse_fault(sheet, fault),) if fault else ()
    volts = ngspice_trace(sheet, ((0.0, "off"), (0.2, GAUGES_IN)), 60.0, faults, grid=6000)[place]
    return measured(volts[2400:], 100.0), faults


@needs_ngspice
@pytest.mark.slow
@pytest.mark.parametrize("place", ["ivr.out", "fuel.sig"])
@pytest.mark.parametrize("fault", ["", "G30.high_resistance=13", "W70.high_resistance=20", "P1.high_resistance=60"])
def test_what_a_circuit_should_draw_is_what_ngspice_draws(gauges, place, fault):
    """ngspice's transient of the same circuit; what a course is told by: average, both levels, share of time on, period. A relay that
    ngspice's switch stands for goes over a little later: 2 % of time."""
    reference, faults = simulated_capture(gauges, place, fault)
    course = followed(gauges, GAUGES_IN, faults)
    own = measured(course.volts(place, gauges.minus, float(course.trace.times[-1]) * 0.4 + np.arange(36_000) / 1000.0), 1000.0)
    for name in ("top", "base"):
        assert getattr(own, name).value == pytest.approx(getattr(reference, name).value, abs=0.01), name
    assert own.cycle_mean.value == pytest.approx(reference.cycle_mean.value, rel=0.02)
    assert own.duty.value == pytest.approx(reference.duty.value, abs=0.02)
    assert own.period.value == pytest.approx(reference.period.value, rel=0.02)
    assert misfit(reference, own, SCALE_WITHIN) < 0.5


@needs_ngspice
@pytest.mark.slow
@pytest.mark.parametrize(("fault", "least"), [("W70.high_resistance=8", 0.55), ("S1.high_resistance=20", 0.85)])
def test_levels_tell_a_poor_feed_where_the_average_tells_nothing(gauges, fault, least):
    """ngspice draws the regulator's output; its average stays near what it should be, its upper level does not. With a scope's own faults
    on top, the feed (switch, wire) leads by all three numbers and does not by the average."""
    workup = Workup(gauges)
    reference, _ = simulated_capture(gauges, "ivr.out", fault)
    noise = np.random.default_rng(7).normal(0.0, NOISE, reference.scan.count)
    seen = measured(reference.channel.samples * GAIN + SHIFT + noise, 100.0)

    def of_feed(names) -> float:
        lines = [f"{GAUGES_IN} {name} ivr.out batt- {level_of(seen, name):.2f}" for name in names]
        found = isolate(workup, tuple(parse_line(gauges, line, GAUGES_IN)[0] for line in lines))
        return sum(suspect.probability for suspect in found.suspects if suspect.part in ("S1", "W70"))

    assert of_feed(["scope"]) < 0.4 and of_feed(SCOPE_READS) > least
