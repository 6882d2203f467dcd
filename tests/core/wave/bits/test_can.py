"""CAN frames out of volts, made elsewhere bit by bit: read to the bit, errors told apart, FD frames never called errors."""

from __future__ import annotations

import random

import numpy as np
import pytest

from pondrel.core.wave import Capture, Channel
from pondrel.core.wave.bits import bits_of

from ....data_lines import can_bits, differential, fd_bits, sampled

REST = [1] * 20


def traffic(count: int, seed: int = 1, gaps=(0, 0, 3, 50)):
    """Frames of all kinds, and their bits on the line."""
    r = random.Random(seed)
    frames, bits = [], list(REST)
    for _ in range(count):
        extended, remote = r.random() < 0.4, r.random() < 0.1
        identifier = r.getrandbits(29 if extended else 11)
        size = 0 if remote else r.randint(0, 8)
        # Much of what is sent on vehicles is noughts and ones: that is where stuffing counts.
        data = r.randbytes(size) if r.random() < 0.6 else bytes([r.choice([0, 255])]) * size
        frames.append((identifier, extended, remote, data))
        bits += can_bits(identifier, data, extended, remote) + [1] * r.choice(gaps)
    return frames, bits + REST


def read(states, sample_rate: float, noise: float = 0.0, **named):
    high, low = differential(states, noise)
    capture = Capture((Channel("CAN_H", "V", high), Channel("CAN_L", "V", low)), 1.0 / sample_rate)
    return bits_of(capture, **named)


def plain(found):
    return [(f.id, f.extended, f.remote, f.data) for f in found.frames]


@pytest.mark.parametrize(("rate", "sample_rate"), [(500e3, 10e6), (500e3, 3.1e6), (125e3, 1e6), (1e6, 20e6), (33_333, 1e6), (250e3, 25e6)])
@pytest.mark.parametrize("noise", [0.0, 0.05])
def test_every_frame_is_read_to_the_bit_at_a_rate_found_by_itself(rate, sample_rate, noise):
    frames, bits = traffic(120)
    found = read(sampled(bits, rate, sample_rate), sample_rate, noise)
    assert found.protocol == "CAN" and found.bit_rate == pytest.approx(rate, rel=1e-3)
    assert plain(found) == frames and all(f.crc_ok and f.acknowledged for f in found.frames) and not found.errors
    assert found.disturbed == 0.0 and found.suspects[0].says == "The line is as it should be."


def test_times_are_those_of_the_first_bits():
    _, bits = traffic(5, gaps=(7,))
    found = read(sampled(bits, 500e3, 10e6), 10e6)
    assert found.frames[0].time == pytest.approx(len(REST) / 500e3, abs=2e-7)


@pytest.mark.parametrize("by", ["high", "low", "difference", "logic", "upside down"])
def test_one_channel_is_enough_whichever_it_is(by):
    frames, bits = traffic(30)
    states = sampled(bits, 500e3, 10e6)
    high, low = differential(states, 0.02)
    values = {"high": high, "low": low, "difference": high - low, "logic": states.astype(np.uint8), "upside down": (1 - states) * 5.0}[by]
    found = bits_of(Capture((Channel("one", "V", values),), 1e-7))
    assert plain(found) == frames and not found.errors


def test_a_frame_that_nobody_confirms_and_one_with_a_wrong_check_sum():
    good, lonely, spoilt = (
        can_bits(0x123, b"\x01\x02"),
        can_bits(0x124, b"\x03", acknowledged=False),
        can_bits(0x125, b"\x04\x05\x06", spoil=True),
    )
    found = read(sampled(REST + good * 6 + lonely + spoilt + good * 2 + REST, 500e3, 10e6), 10e6)
    assert [f.acknowledged for f in found.frames if f.id == 0x124] == [False]
    assert [f.crc_ok for f in found.frames if f.id == 0x125] == [False]
    assert [e.kind for e in found.errors] == ["crc"] and sum(f.crc_ok for f in found.frames) == 9


@pytest.mark.parametrize("extended", [False, True])
def test_an_error_flag_is_an_error_and_what_it_broke_off_is_no_frame(extended):
    good = can_bits(0x2A0 if not extended else 0x1ABCDEF, bytes(range(8)), extended)
    broken = good[:60] + [0] * 6 + [1] * 8 + [1] * 3
    echoed = good[:70] + [0] * 11 + [1] * 8 + [1] * 3
    found = read(sampled(REST + good * 5 + broken + good + echoed + good * 3 + REST, 500e3, 10e6), 10e6)
    assert (
        [e.kind for e in found.errors] == ["error frame", "error frame"] and len(found.frames) == 9 and all(f.crc_ok for f in found.frames)
    )
    assert 0.0 < found.disturbed < 0.25


def test_a_line_that_lets_go_in_the_middle_of_a_frame_is_a_stuff_error():
    good = can_bits(0x2A0, bytes(range(8)))
    found = read(sampled(REST + good * 5 + good[:50] + [1] * 20 + good * 3 + REST, 500e3, 10e6), 10e6)
    assert {e.kind for e in found.errors} == {"stuff"} and len(found.frames) == 8


def test_short_spikes_are_glitches_and_the_frames_are_read_all_the_same():
    frames, bits = traffic(40)
    states = sampled(bits, 500e3, 20e6)
    places = np.arange(1000, len(states) - 1000, 2777)
    # In the middle of a bit, an eighth of one long.
    places = places[(states[places - 12] == states[places]) & (states[places + 12] == states[places])]
    for place in places:
        states[place : place + 5] = 1 - states[place]
    found = read(states, 20e6)
    assert plain(found) == frames and [e.kind for e in found.errors] == ["glitch"] * len(places)


def test_what_the_capture_cuts_off_at_either_end_is_no_error():
    frames, bits = traffic(20, gaps=(0,))
    states = sampled(bits, 500e3, 10e6)
    found = read(states[777 : len(states) - 1500], 10e6)
    assert not found.errors and 15 <= len(found.frames) < 20 and all(frame in frames for frame in plain(found))


@pytest.mark.parametrize(("rate", "fast", "sample_rate"), [(500e3, 2e6, 40e6), (500e3, 5e6, 100e6), (250e3, 1e6, 10e6), (500e3, 4e6, 80e6)])
@pytest.mark.parametrize("point", [0.7, 0.8, 0.875])
def test_fd_frames_are_read_with_their_own_check_sums_and_are_no_errors(rate, fast, sample_rate, point):
    r = random.Random(3)
    frames, bits = [], list(REST)
    for _ in range(40):
        extended, switch = r.random() < 0.3, r.random() < 0.9
        identifier = r.getrandbits(29 if extended else 11)
        size = r.choice([0, 1, 5, 8, 12, 16, 20, 24, 32, 48, 64])
        data = bytes(size) if r.random() < 0.3 else r.randbytes(size)
        if r.random() < 0.25:
            data = data[:8]
            bits += can_bits(identifier, data, extended)
            frames.append((identifier, extended, False, data, False))
        else:
            bits += fd_bits(identifier, data, extended, switch)
            frames.append((identifier, extended, False, data, True))
    found = read(sampled(bits + REST, rate, sample_rate, fast, point), sample_rate)
    assert [(*frame, f.flexible) for frame, f in zip(plain(found), found.frames, strict=True)] == frames
    assert found.bit_rate == pytest.approx(rate, rel=1e-3) and not found.errors and all(f.crc_ok and f.acknowledged for f in found.frames)


def test_an_fd_frame_with_a_wrong_check_sum_says_so():
    data = bytes(range(20))
    bits = REST + fd_bits(0x111, data) * 6 + fd_bits(0x112, data, spoil=True) + fd_bits(0x111, data) * 3 + REST
    found = read(sampled(bits, 500e3, 40e6, 2e6), 40e6)
    assert [f.crc_ok for f in found.frames] == [True] * 6 + [False] + [True] * 3 and [e.kind for e in found.errors] == ["crc"]


def test_a_length_code_beyond_eight_still_means_eight_bytes():
    found = read(sampled(REST + can_bits(0x7F, bytes(8), size=13) * 3 + REST, 500e3, 10e6), 10e6)
    assert [f.data for f in found.frames] == [bytes(8)] * 3 and all(f.crc_ok for f in found.frames)


def test_noise_alone_is_no_data_line():
    r = np.random.default_rng(2)
    found = bits_of(Capture((Channel("a", "V", r.normal(2.5, 1.0, 50_000)),), 1e-6))
    assert found.protocol == "" and found.bit_rate is None and not any(f.crc_ok for f in found.frames)
