"""What is the matter with a line, by its volts. The volts are those of nodal equations written here anew, with other numbers for senders
and modules than the program has, and with capacitance in time steps."""

from __future__ import annotations

import random

import numpy as np
import pytest

from pondrel.core.wave import Capture, Channel
from pondrel.core.wave.bits import bits_of

from ....data_lines import can_bits, sampled

RATE = 20e6
SOUND = "The line is as it should be."


def states(seed: int = 2, frames: int = 60):
    r = random.Random(seed)
    bits = [1] * 30
    for _ in range(frames):
        bits += can_bits(r.getrandbits(11), r.randbytes(8)) + [1] * r.choice([0, 30, 90])
    return sampled(bits + [1] * 20, 250e3, RATE)


def simulated(line, ends=60.0, farads=5e-9, shorts=(), touching=None, opened=""):
    """High and low volts: each wire a node with half the capacitance; senders of 38 and 52 Ω, modules that hold 2.5 V by 11 kΩ."""
    high = low = 2.5
    out = np.empty((2, len(line)))
    step, half = 1.0 / RATE, farads / 2.0
    for k, recessive in enumerate(line):
        g_high = g_low = 1.0 / 11e3
        i_high = i_low = 2.5 / 11e3
        if not recessive and opened != "high":
            g_high, i_high = g_high + 1 / 38.0, i_high + 5.0 / 38.0
        if not recessive and opened != "low":
            g_low += 1 / 52.0
        between = 1.0 / ends
        for wire, volts, ohms in (*shorts, *((touching[1],) if touching is not None and touching[0][k] else ())):
            if wire == "high":
                g_high, i_high = g_high + 1 / ohms, i_high + volts / ohms
            elif wire == "low":
                g_low, i_low = g_low + 1 / ohms, i_low + volts / ohms
            else:
                between += 1 / ohms
        # Implicit step of two nodes, each with half the capacitance to ground.
        a, b = half / step + g_high + between, half / step + g_low + between
        p, q = half / step * high + i_high, half / step * low + i_low
        det = a * b - between * between
        high, low = (p * b + q * between) / det, (q * a + p * between) / det
        out[:, k] = high, low
    return out + np.random.default_rng(1).normal(0.0, 0.02, out.shape)


def looked_at(volts):
    return bits_of(Capture((Channel("CAN_H", "V", volts[0]), Channel("CAN_L", "V", volts[1])), 1.0 / RATE))


@pytest.mark.slow
@pytest.mark.parametrize(
    ("fault", "says"),
    [
        ({}, SOUND),
        ({"ends": 64.0, "farads": 8e-9}, SOUND),
        ({"ends": 120.0, "farads": 6e-9}, "One end's resistor"),
        ({"ends": 9e3}, "Both ends' resistors"),
        ({"shorts": [("low", 0.0, 0.5)]}, "CAN low is shorted to ground"),
        ({"shorts": [("high", 13.4, 0.5)]}, "CAN high is shorted to the supply"),
        ({"shorts": [("between", 0.0, 18.0)]}, "Something lets current"),
        ({"shorts": [("between", 0.0, 2.0)]}, "CAN high and CAN low are shorted"),
        ({"opened": "high"}, "CAN high is open"),
        ({"opened": "low"}, "CAN low is open"),
    ],
)  # fmt: skip
def test_what_is_wrong_with_the_wires_is_likeliest(fault, says):
    found = looked_at(simulated(states(), **fault))
    assert found.suspects[0].says.startswith(says), found.suspects
    assert sum(one.probability for one in found.suspects) == pytest.approx(1.0, abs=0.02)


@pytest.mark.slow
@pytest.mark.parametrize(
    ("wire", "volts", "says"),
    [("high", 0.0, "CAN high touches ground"), ("low", 0.0, "CAN low touches ground"), ("high", 13.0, "CAN high touches the supply")],
)
def test_a_wire_that_touches_now_and_then_is_named_and_its_time_told(wire, volts, says):
    line = states()
    touching = np.zeros(len(line), dtype=bool)
    for begin in range(20_000, len(line) - 20_000, 30_000):
        touching[begin : begin + 3000] = np.arange(3000) % 700 < 480
    found = looked_at(simulated(line, touching=(touching, (wire, volts, 1.0))))
    assert found.suspects[0].says.startswith(says), found.suspects
    assert 0.02 < found.disturbed < 0.4
    for error in found.errors:
        near = slice(max(int(error.time * RATE) - 12_000, 0), int(error.end * RATE) + 12_000)
        assert touching[near].any()


def test_a_line_at_rest_is_called_silent_and_a_short_between_its_wires_is_not_forgotten():
    rest = 2.5 + np.random.default_rng(1).normal(0.0, 0.01, (2, 40_000))
    found = looked_at(rest)
    says = [one.says for one in found.suspects]
    assert says[0] == "Nothing is sent on it in this capture." and any("shorted together" in one for one in says) and not found.frames


def test_a_line_on_ground_names_either_wire():
    found = looked_at(np.array([[0.02], [0.05]]) + np.zeros((2, 40_000)))
    assert {one.says for one in found.suspects[:2]} == {"CAN high is shorted to ground.", "CAN low is shorted to ground."}
