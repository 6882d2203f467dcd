"""Data lines read out of volts against other people's libraries: cantools packs the data, python-can holds the frames and works out bit
rates and sample points, crccheck gives the check sums. Only fields and stuff bits are put together here (ISO 11898-1, from memory)."""

from __future__ import annotations

import random

import can
import cantools
import numpy as np
import pytest
from crccheck.crc import Crc15Can, Crc17CanFd, Crc21CanFd

from pondrel.core.wave import Capture, Channel
from pondrel.core.wave.bits import bits_of

from ..data_lines import FD_SIZES, binary, can_bits, differential, fd_bits, sampled

# An invented cart; signals of either byte order, signed, and multiplexed.
DATABASE = """
VERSION ""
NS_ :
BS_:
BU_: Drive Dash
BO_ 291 DriveState: 8 Drive
 SG_ Speed : 0|12@1+ (0.05,0) [0|200] "km/h" Dash
 SG_ Torque : 23|12@0- (0.5,0) [-1000|1000] "Nm" Dash
 SG_ Gear : 40|3@1+ (1,0) [0|7] "" Dash
 SG_ Counter : 60|4@1+ (1,0) [0|15] "" Dash
BO_ 2566844926 Cells: 8 Drive
 SG_ Group M : 0|4@1+ (1,0) [0|15] "" Dash
 SG_ VoltsA m0 : 8|16@1+ (0.001,0) [0|65] "V" Dash
 SG_ VoltsB m1 : 8|16@1+ (0.001,0) [0|65] "V" Dash
 SG_ Celsius m2 : 15|8@0- (1,-40) [-168|87] "C" Dash
BO_ 1537 Lamp: 1 Dash
 SG_ On : 0|1@1+ (1,0) [0|1] "" Drive
"""


@pytest.fixture(scope="module")
def database():
    return cantools.database.load_string(DATABASE, "dbc")


def said(database, count: int, seed: int):
    """Messages of python-can with what cantools packed into each, and the signals that were meant."""
    r = random.Random(seed)
    found = []
    for number in range(count):
        kind = r.choice(["DriveState", "Cells", "Lamp"])
        meant = {
            "DriveState": lambda n=number: {
                "Speed": r.randrange(4000) * 0.05,
                "Torque": r.randrange(-2000, 2000) * 0.5,
                "Gear": r.randrange(8),
                "Counter": n % 16,
            },
            "Cells": lambda: (
                {"Group": 0, "VoltsA": r.randrange(65_000) / 1000} if r.random() < 0.5 else {"Group": 2, "Celsius": r.randrange(-100, 60)}
            ),
            "Lamp": lambda: {"On": r.randrange(2)},
        }[kind]()
        message = database.get_message_by_name(kind)
        data = message.encode(meant, strict=False)
        frame = can.Message(arbitration_id=message.frame_id, is_extended_id=message.is_extended_frame, data=data, check=True)
        found.append((frame, database.decode_message(frame.arbitration_id, frame.data)))
    return found


def on_the_line(frames, rate: float, sample_rate: float, noise: float, seed: int):
    bits = [1] * 15
    for frame in frames:
        bits += can_bits(frame.arbitration_id, bytes(frame.data), frame.is_extended_id, frame.is_remote_frame)
    high, low = differential(sampled(bits + [1] * 15, rate, sample_rate), noise, seed)
    return Capture((Channel("high", "V", high), Channel("low", "V", low)), 1.0 / sample_rate)


@pytest.mark.parametrize("timing", [(500_000, 0.875), (250_000, 0.8), (125_000, 0.75), (1_000_000, 0.75)])
@pytest.mark.parametrize("noise", [0.0, 0.08])
def test_what_cantools_packed_is_what_cantools_unpacks_of_the_frames_that_were_read(database, timing, noise):
    rate = can.BitTiming.from_sample_point(f_clock=80_000_000, bitrate=timing[0], sample_point=100 * timing[1]).bitrate
    sent = said(database, 80, timing[0])
    found = bits_of(on_the_line([frame for frame, _ in sent], rate, 16.3 * rate, noise, 5))
    assert found.bit_rate == pytest.approx(rate, rel=1e-3) and not found.errors
    read = [
        can.Message(arbitration_id=one.id, is_extended_id=one.extended, is_remote_frame=one.remote, data=one.data, check=True)
        for one in found.frames
    ]
    assert [(m.arbitration_id, m.is_extended_id, bytes(m.data)) for m in read] == [
        (m.arbitration_id, m.is_extended_id, bytes(m.data)) for m, _ in sent
    ]
    assert [database.decode_message(m.arbitration_id, m.data) for m in read] == [signals for _, signals in sent]


def as_bytes(bits) -> bytes:
    """Noughts in front do not change a check sum whose register starts empty."""
    bits = [0] * (-len(bits) % 8) + list(bits)
    return bytes(int("".join(map(str, bits[i : i + 8])), 2) for i in range(0, len(bits), 8))


@pytest.mark.parametrize("seed", range(5))
def test_check_sums_on_the_line_are_those_of_crccheck(seed):
    """crccheck's CRC-15/CAN over the fields of a frame; spoiled by one bit it is called wrong."""
    r = random.Random(seed)
    identifier, data = r.getrandbits(11), r.randbytes(r.randint(0, 8))
    body = [0, *binary(identifier, 11), 0, 0, 0, *binary(len(data), 4), *[bit for byte in data for bit in binary(byte, 8)]]
    crc = Crc15Can.calc(as_bytes(body))
    for flip, right in ((0, True), (1 << r.randrange(15), False)):
        line, same = [], 0
        for bit in body + binary(crc ^ flip, 15):
            same = same + 1 if line and line[-1] == bit else 1
            line.append(bit)
            if same == 5:
                line.append(1 - bit)
                same = 1
        frame = [*line, 1, 0, 1, *[1] * 10]
        good = can_bits(0x2A5, b"\x55\xaa")
        high, low = differential(sampled([1] * 15 + good * 4 + frame + good * 4 + [1] * 15, 500e3, 10e6))
        found = bits_of(Capture((Channel("high", "V", high), Channel("low", "V", low)), 1e-7))
        assert len(found.frames) == 9 and (found.frames[4].id, found.frames[4].data) == (identifier, data)
        assert found.frames[4].crc_ok is right and all(one.crc_ok for one in (*found.frames[:4], *found.frames[5:]))


@pytest.mark.parametrize("data_rate", [2_000_000, 4_000_000])
@pytest.mark.parametrize("size", [8, 16, 20, 64])
def test_fd_frames_at_python_cans_timing_have_crcchecks_sums(size, data_rate):
    """A register that starts with its highest bit set is one that starts empty and meets the first bit turned. Rates and sample point are
    those that python-can's timing comes to on a clock of 80 MHz."""
    timing = can.BitTimingFd.from_sample_point(
        f_clock=80_000_000, nom_bitrate=500_000, nom_sample_point=80.0, data_bitrate=data_rate, data_sample_point=80.0
    )
    data = np.random.default_rng(size).bytes(size)
    message = can.Message(arbitration_id=0x18DA10F1, is_extended_id=True, is_fd=True, bitrate_switch=True, data=data, check=True)
    marked = fd_bits(message.arbitration_id, bytes(message.data), True)
    assert FD_SIZES[can.util.len2dlc(message.dlc)] == size
    states = [bit for bit, _ in marked]
    width, sums = (17, Crc17CanFd) if size <= 16 else (21, Crc21CanFd)
    # From the back: eleven bits of end and pause, acknowledgement, two delimiters; a fixed stuff bit before each four of count and sum.
    tail = states[: -(1 + 1 + 1 + 10)]
    own = (4 + width + 3) // 4 + 4 + width
    covered, rest = tail[:-own], [bit for place, bit in enumerate(tail[-own:]) if place % 5]
    counted = covered + rest[:4]
    assert int("".join(map(str, rest[4:])), 2) == sums.calc(as_bytes([1 - counted[0], *counted[1:]]))
    line = sampled([1] * 20 + marked * 3 + [1] * 20, timing.nom_bitrate, 20 * data_rate, timing.data_bitrate, timing.nom_sample_point / 100)
    high, low = differential(line, 0.03, 3)
    found = bits_of(Capture((Channel("high", "V", high), Channel("low", "V", low)), 1.0 / (20 * data_rate)))
    assert [(one.id, one.extended, one.data, one.crc_ok, one.flexible) for one in found.frames] == [
        (0x18DA10F1, True, data, True, True)
    ] * 3
    assert not found.errors
