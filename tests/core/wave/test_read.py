"""Captures from files: what is understood, and the one sentence for what is not."""

from __future__ import annotations

import io
import struct
import wave

import numpy as np
import pytest

from pondrel.core.base.errors import CaptureError
from pondrel.core.wave import capture_from
from pondrel.core.wave import read as reading
from pondrel.core.wave.csv_file import capture_from_csv

from ...captures import as_csv

N = 64
T = np.arange(N) * 1e-3
V = 12.0 + 0.01 * np.arange(N)


def read(content: bytes, full: float | None = None):
    return capture_from(io.BytesIO(content), full)


def lines(*heading: str, sign: str = ",", point: str = ".", end: str = "\n", tail: str = "") -> bytes:
    rows = [f"{t:.3f}{sign}{v:.2f}{tail}".replace(".", point) for t, v in zip(T, V, strict=True)]
    return (end.join([*heading, *rows]) + end).encode()


@pytest.mark.parametrize(
    "content",
    [
        lines("time,volts"), lines(), lines("time;volts", sign=";", point=","), lines("t\tV", sign="\t"), lines("t V", sign=" "),
        lines("t|V", sign="|"), lines("time,volts", end="\r\n"), lines("time,volts,", tail=","), b"\xef\xbb\xbf" + lines("time,volts"),
        lines("recorder 7", "", "time,volts"), lines('"time","volts"'), ("\ufeff" + lines("time,volts").decode()).encode("utf-16-le"),
    ],
)  # fmt: skip
def test_any_delimiter_decimal_sign_line_end_and_encoding_is_read(content):
    own = read(content)
    assert own.count == N and own.step == pytest.approx(1e-3) and len(own.channels) == 1
    assert own.channels[0].values(0, N) == pytest.approx(V)


def test_units_come_from_brackets_or_from_a_line_of_their_own():
    for heading in (["time [ms],battery [mV]"], ["time,battery", "ms,mV"], ["time,battery", "(ms),(mV)"]):
        own = read(lines(*heading))
        assert own.step == pytest.approx(1e-6) and own.channels[0].unit == "V" and own.channels[0].name == "battery"
        assert own.channels[0].values(1, 2)[0] == pytest.approx(0.01201)


def test_several_channels_are_told_apart():
    own = read(as_csv(T, V, 2 * V))
    assert [(channel.name, channel.unit) for channel in own.channels] == [("battery", "V"), ("starter", "A")]


@pytest.mark.parametrize(
    ("line", "step"),
    [
        ("rate, 2000 Hz", 5e-4),
        ("Sample rate: 2 kHz", 5e-4),
        ("sampling frequency;2000", 5e-4),
        ("Sample interval = 0.5 ms", 5e-4),
        ("dt 0.25", 0.25),
    ],
)
def test_one_column_is_a_capture_where_a_line_gives_its_rate(line, step):
    own = read((line + "\n" + "\n".join(f"{v:.2f}" for v in V)).encode())
    assert own.step == pytest.approx(step) and own.channels[0].values(0, N) == pytest.approx(V)


def test_uneven_times_are_brought_to_even_ones_and_rounded_ones_are_left_alone():
    uneven = T + np.where(np.arange(N) % 2, 3e-4, 0.0)
    own = read(as_csv(uneven, 100.0 * uneven))
    assert own.channels[0].values(0, N) == pytest.approx(100.0 * (own.start + own.step * np.arange(N)), abs=1e-6)
    rounded = np.round(np.arange(2000) * 1e-4, 3)
    own = read(as_csv(rounded, np.arange(2000.0)))
    assert own.channels[0].values(0, 2000) == pytest.approx(np.arange(2000.0))


@pytest.mark.parametrize(
    ("content", "says"),
    [
        (b"", "empty"), (b"hello\nworld\n", "no numbers.*'hello'"), (b"\x00\x01\x02" * 60, "no text file"),
        (b"1\n" * 60, "one column and no rate"),
        (lines("time,b").replace(b"0.030,12.30", b"0.020,12.30"), "goes backwards in line 32"),
        (lines("a,b").replace(b"0.030,12.30", b"0.030,x"), "Line 32 holds 'x'"),
        (lines("a,b").replace(b"0.030,12.30", b"0.030"), "Line 32 has another number of columns"),
        (lines("time,b").replace(b"0.030,12.30", b"nan,12.30"), "Line 32 holds something that is no time"),
        (lines("time,b")[:55], "lines of numbers, and at least 16"),
        (b"time,v\n" + b"5,1\n" * 60, "stands still"), (b"time\n" + b"\n".join(b"%d" % k for k in range(60)), "time column only"),
        (b"u,v\n" + b"\n".join(b"%d,%d" % (k, k) for k in range(60)), "no time column and no rate"),
        (b"RIFF\x10\0\0\0WAVE", "no samples"), (b"RIFX\x10\0\0\0WAVE", "no plain WAV"),
    ],
)  # fmt: skip
def test_bad_captures_get_one_sentence(content, says):
    with pytest.raises(CaptureError, match=says) as caught:
        read(content)
    assert str(caught.value).count("\n") == 0


def test_too_large_a_file_is_refused_before_it_is_read(monkeypatch):
    class Huge(io.BytesIO):
        def seek(self, place, whence=0):
            return 10**9 if whence == 2 else super().seek(place, whence)

        def read(self, *size):
            raise AssertionError("it was read")

    with pytest.raises(CaptureError, match="1000 MB, and 600 MB are the most"):
        capture_from(Huge())
    monkeypatch.setattr("pondrel.core.wave.csv_file.MOST_VALUES", 40)
    with pytest.raises(CaptureError, match="more than 20 samples of 2 columns"):
        capture_from_csv(io.BytesIO(lines("time,volts")))
    assert reading.MOST_BYTES < 10**9


def wav(samples: bytes, bits: int, channels: int = 1, kind: int = 1, rate: int = 8000) -> bytes:
    head = struct.pack("<HHIIHH", kind, channels, rate, rate * channels * bits // 8, channels * bits // 8, bits)
    chunks = ((b"fmt ", head), (b"LIST", b"abc"), (b"data", samples))
    body = b"WAVE" + b"".join(name + struct.pack("<I", len(own)) + own + bytes(len(own) % 2) for name, own in chunks)
    return b"RIFF" + struct.pack("<I", len(body)) + body


@pytest.mark.parametrize("bits", [8, 16, 24, 32])
def test_whole_numbers_of_a_wav_are_shares_of_its_full_scale(bits):
    levels = np.tile([0.0, 0.5, -0.5, -1.0], 8)
    if bits == 8:
        stored = (128 + 128 * levels).astype("<u1").tobytes()
    elif bits == 24:
        stored = b"".join(int(8388608 * level).to_bytes(3, "little", signed=True) for level in levels)
    else:
        stored = (levels * 2.0 ** (bits - 1)).astype(f"<i{bits // 8}").tobytes()
    own = read(wav(stored, bits), 20.0)
    assert own.step == 1 / 8000 and own.channels[0].scaled
    assert own.channels[0].values(0, 32) == pytest.approx(20.0 * levels)
    assert not read(wav(stored, bits)).channels[0].scaled


def test_floating_point_samples_are_volts_as_they_stand_and_channels_are_told_apart():
    both = np.column_stack((V, -V)).astype("<f4")
    own = read(wav(both.tobytes(), 32, 2, 3))
    assert own.channels[0].scaled and own.channels[1].values(0, N) == pytest.approx(-V, abs=1e-5)
    with pytest.raises(CaptureError, match="no numbers"):
        read(wav(np.full(64, np.nan, "<f4").tobytes(), 32, 1, 3))
    with pytest.raises(CaptureError, match="packed format"):
        read(wav(bytes(64), 4, 1, 17))


def test_a_wav_written_by_the_standard_library_is_read():
    out = io.BytesIO()
    with wave.open(out, "wb") as file:
        file.setnchannels(1)
        file.setsampwidth(2)
        file.setframerate(44100)
        file.writeframes(np.arange(1000, dtype="<i2").tobytes())
    own = read(out.getvalue(), 32768.0)
    assert own.channels[0].values(0, 1000) == pytest.approx(np.arange(1000.0)) and own.seconds == pytest.approx(1000 / 44100)


def test_blocks_are_the_least_most_and_mean_of_their_samples():
    values = np.random.default_rng(3).normal(0.0, 5.0, 10_007)
    own = read(as_csv(np.arange(10_007) * 1e-3, values))
    found = own.blocks(own.channels[0], 100)
    pieces = own.channels[0].values(0, 10_007)[: 100 * found.every].reshape(100, -1)
    assert found.every == 100 and found.least == pytest.approx(pieces.min(axis=1)) and found.mean == pytest.approx(pieces.mean(axis=1))
    assert found.most == pytest.approx(pieces.max(axis=1))
