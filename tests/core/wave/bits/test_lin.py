"""LIN out of volts: header, parity, both check sums, and headers that nobody answers."""

from __future__ import annotations

import random

import numpy as np
import pytest

from pondrel.core.wave import Capture, Channel
from pondrel.core.wave.bits import bits_of

from ....data_lines import lin_bits, lin_line


def read(states, sample_rate: float = 200e3, low: float = 0.8, high: float = 12.4, smooth: int = 2):
    volts = low + (high - low) * np.convolve(np.pad(states.astype(float), smooth, mode="edge"), np.ones(smooth) / smooth, mode="same")
    return bits_of(Capture((Channel("LIN", "V", volts[smooth:-smooth]),), 1.0 / sample_rate))


@pytest.mark.parametrize("rate", [9600, 10417, 19200, 20000])
def test_frames_are_read_with_either_check_sum(rate):
    r = random.Random(5)
    told = [(r.randrange(60), r.randbytes(r.choice([1, 2, 4, 8])), r.random() < 0.5) for _ in range(40)]
    found = read(lin_line([lin_bits(*frame) for frame in told], rate, 200e3))
    assert found.protocol == "LIN" and found.bit_rate == pytest.approx(rate, rel=0.01)
    assert [(f.id, f.data) for f in found.frames] == [frame[:2] for frame in told] and not found.errors
    assert all(f.crc_ok for f in found.frames) and sum(f.enhanced for f in found.frames) >= sum(frame[2] for frame in told)
    assert found.suspects[0].says == "The line is as it should be."


def test_a_wrong_check_sum_a_wrong_parity_and_a_header_nobody_answers():
    good, spoilt = lin_bits(0x11, b"\x01\x02"), lin_bits(0x12, b"\x03\x04", spoil=4)
    silent, wrong = lin_bits(0x13, b""), lin_bits(0x14, b"\x05\x06", enhanced=False)
    # The sync byte ends behind break, delimiter and ten bits; the identifier's parity follows its six bits.
    place = 13 + 1 + 10 + 1 + 6
    wrong[place] = 1 - wrong[place]
    found = read(lin_line([good, good, spoilt, silent, wrong, good], 19200, 200e3))
    assert [e.kind for e in found.errors] == ["checksum", "no response", "parity"]
    assert [(f.id, f.crc_ok) for f in found.frames] == [
        (0x11, True),
        (0x11, True),
        (0x12, False),
        (0x13, False),
        (0x14, True),
        (0x11, True),
    ]
    assert found.frames[3].data == b"" and not found.frames[3].acknowledged


def test_diagnostic_frames_have_the_classic_check_sum():
    found = read(lin_line([lin_bits(0x3C, bytes(range(8)), enhanced=False)] * 3, 19200, 200e3))
    assert all(f.crc_ok and f.enhanced is False for f in found.frames) and len(found.frames) == 3


@pytest.mark.parametrize(
    ("change", "says"), [({"low": 2.8}, "ground of who sends"), ({"smooth": 14}, "rises slowly"), ({"high": 7.5}, "draws it down")]
)  # fmt: skip
def test_levels_and_slow_edges_are_named(change, says):
    found = read(lin_line([lin_bits(0x21, b"\x11\x22\x33\x44")] * 20, 10417, 200e3), **change)
    assert says in found.suspects[0].says and len(found.frames) == 20
