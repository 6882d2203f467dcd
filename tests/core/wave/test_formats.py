"""Value change dumps, files of arrays, gaps and uneven times: read, put right and said, or refused in one sentence."""

from __future__ import annotations

import io
import random

import numpy as np
import pytest

from pondrel.core.base.errors import CaptureError
from pondrel.core.wave import capture_from

VCD = """$date today $end
$timescale 1 us $end
$scope module board $end
$var wire 1 ! rx $end
$var real 64 " volts $end
$var wire 4 # count [3:0] $end
$upscope $end
$enddefinitions $end
#0
$dumpvars
1!
r2.5 "
b0000 #
$end
#100
0!
#200 1!
r3.5 "
b101 #
#1000
x!
#2000
"""


def read(content: bytes):
    return capture_from(io.BytesIO(content))


def packed(**arrays) -> bytes:
    out = io.BytesIO()
    np.savez(out, **arrays)
    return out.getvalue()


def test_a_value_change_dump_becomes_even_samples():
    own = read(VCD.encode())
    rx, volts, count = own.channels
    at = lambda seconds: round(seconds / own.step)  # noqa: E731
    assert [channel.name for channel in own.channels] == ["rx", "volts", "count"] and own.seconds == pytest.approx(2e-3, rel=1e-2)
    assert list(rx.samples[[at(50e-6), at(150e-6), at(250e-6), at(1.5e-3)]]) == [1, 0, 1, 1]
    assert list(volts.samples[[at(50e-6), at(250e-6)]]) == [2.5, 3.5] and list(count.samples[[0, at(300e-6)]]) == [0, 5]
    assert "1 values are unknown" in own.notes[0]


@pytest.mark.parametrize(
    ("changed", "says"),
    [
        (("$timescale 1 us $end", ""), "names no .timescale"), (("$enddefinitions", "$end"), "cut off"), (("#1000", "#50"), "backwards"),
        (("r3.5", "r1e999"), "'volts' goes to inf"), (("#2000", "#9999999999999999999"), "too late a time"),
        (("x!", "q!"), "'q!' is nothing"), (("#1000", "#12a"), "no time"), (("$var", "$comment"), "declares no signal"),
    ],
)  # fmt: skip
def test_a_dump_that_is_none_is_refused_in_one_sentence(changed, says):
    with pytest.raises(CaptureError, match=says):
        read(VCD.replace(*changed).encode())


def test_a_dump_finer_than_can_be_kept_is_brought_to_a_coarser_step_and_says_so():
    text = VCD.replace("1 us", "1 ps").replace("#1000", "#1000000000001").replace("#2000", "#2000000000003")
    own = read(text.encode())
    assert own.count <= 10_000_001 and any("its own step would give" in note for note in own.notes)


def test_a_vector_too_long_to_be_a_number_counts_as_unknown():
    assert "2 values are unknown" in read(VCD.replace("b101", "b" + "1" * 5000).encode()).notes[0]


@pytest.mark.parametrize(
    ("time", "volts", "says"),
    [
        ("{}e-3", "{}e300", "'v' goes to 9.9e.301: no channel"),
        ("{}e305", "{}", "runs from 0 to 9.9e.306: that is no time"),
        ("{}e-310", "{}", "1e-310 s apart"),
    ],
)
def test_numbers_that_nobody_measures_are_refused_before_anything_overflows(time, volts, says):
    rows = "".join(f"{time.format(k)},{volts.format(k)}\n" for k in range(100))
    with pytest.raises(CaptureError, match=says):
        read(("t [s],v\n" + rows).encode())


def test_arrays_are_read_with_times_or_with_a_rate():
    values = np.sin(np.arange(500))
    by_rate, by_time = read(packed(out_mv=values, rate=2000.0)), read(packed(out_mv=values, time=np.arange(500) / 2000.0))
    for own in (by_rate, by_time):
        assert own.step == pytest.approx(5e-4) and own.channels[0].unit == "V"
        assert own.channels[0].values(0, 500) == pytest.approx(values * 1e-3)
    table = io.BytesIO()
    np.save(table, np.stack([np.arange(500) / 2000.0, values], axis=1))
    assert read(table.getvalue()).step == pytest.approx(5e-4)


@pytest.mark.parametrize(
    ("content", "says"),
    [
        (packed(a=np.arange(100.0)), "no time in this file"),
        (packed(rate=5.0), "no channel"),
        (packed(a=np.arange(9.0), rate=1.0), "at least 16"),
        (packed(a=np.arange(100.0), b=np.arange(90.0), rate=1.0), "90 and 100 samples"),
        (packed(a=np.arange(100.0), rate=0.0), "above nought"),
        (packed(a=np.array(["x"] * 100), rate=1.0), "no channel"),
        (packed(a=np.arange(99.0), time=np.arange(99.0)[::-1]), "backwards at sample 2"),
        (packed(a=np.array([{}] * 50, dtype=object), rate=1.0), "damaged or holds no plain arrays"),
        (packed(a=np.full(100, np.nan), rate=1.0), "100 of 100 samples of a hold no number"),
        (packed(a=np.arange(99.0), rate=1e-300), "1e.300 s apart"),
        (packed(a=np.arange(99.0), step=1e-320), "no time of a capture"),
        (packed(a=np.full(99, 2**63, dtype=np.uint64), rate=1.0), "'a' goes to 9.22337e.18"),
        (b"PK\x03\x04" + b"x" * 200, "damaged"),
        (b"\x93NUMPY" + b"x" * 50, "damaged"),
    ],
)
def test_arrays_that_are_no_capture_are_refused_in_one_sentence(content, says):
    with pytest.raises(CaptureError, match=says):
        read(content)


def test_a_file_cut_anywhere_or_with_bytes_turned_is_read_or_refused_but_never_breaks():
    r = random.Random(7)
    whole = [VCD.encode(), packed(a=np.arange(300.0), rate=5.0), b"time,v\n" + b"".join(b"%d,%d\n" % (k, k % 7) for k in range(200))]
    for content in whole:
        for _ in range(60):
            cut = bytearray(content[: r.randrange(8, len(content))])
            for _ in range(r.randrange(4)):
                cut[r.randrange(len(cut))] = r.randrange(256)
            told, count = "", 16
            try:
                count = read(bytes(cut)).count
            except CaptureError as error:
                told = str(error)
            assert count >= 16 and (not told or told.endswith("."))


def test_samples_without_a_number_are_bridged_and_counted():
    rows = "".join(f"{k / 100:.2f},{'nan' if k % 10 == 3 else k},{k}\n" for k in range(100))
    own = read(("time,a,b\n" + rows).encode())
    assert own.channels[0].values(0, 100) == pytest.approx(np.arange(100.0))
    assert own.notes == ("10 of 100 samples of a hold no number: straight lines bridge them.",)
    with pytest.raises(CaptureError, match="Line 5 holds something that is no time"):
        read(("time,a,b\n" + rows.replace("0.03,", "nan,", 1)).encode())


def test_pauses_between_samples_keep_the_usual_step():
    times = np.concatenate([np.arange(200) * 1e-3, 1.0 + np.arange(200) * 1e-3])
    own = read(("t,v\n" + "".join(f"{t:.4f},{t:.4f}\n" for t in times)).encode())
    assert own.step == pytest.approx(1e-3) and own.count == pytest.approx(1200, abs=1) and "not even" in own.notes[0]
    assert own.channels[0].values(0, own.count) == pytest.approx(np.arange(own.count) * own.step, abs=1e-9)
