"""A packed file gives what can be had of it, and says where it broke."""

from __future__ import annotations

import gzip
import io
import random

import pytest

from pondrel.logs.reading import LogFile
from pondrel.logs.unpacking import Unpacked

WHOLE = random.Random(1).randbytes(300_000) + bytes(2_000_000)
PACKED = gzip.compress(WHOLE)


def unpacked(packed):
    own = Unpacked(io.BytesIO(packed))
    return io.BufferedReader(own).read(), own.broken


def test_what_is_whole_comes_out_whole_in_members_and_with_what_pads_a_tape():
    assert unpacked(PACKED) == (WHOLE, False)
    assert unpacked(PACKED + gzip.compress(b"more")) == (WHOLE + b"more", False)
    assert unpacked(PACKED + bytes(512)) == (WHOLE, False)


@pytest.mark.parametrize("length", [20, len(PACKED) // 2, len(PACKED) - 1])
def test_what_breaks_off_gives_what_came_before(length):
    found, broken = unpacked(PACKED[:length])
    assert broken and WHOLE.startswith(found) and len(found) >= length // 2 - 20


def test_what_makes_no_sense_in_the_middle_is_said_to_be_broken():
    spoilt = bytearray(PACKED)
    spoilt[len(PACKED) // 3 : len(PACKED) // 3 + 400] = b"\xff" * 400
    _, broken = unpacked(bytes(spoilt))
    assert broken
    assert unpacked(PACKED + b"this is no member")[1]


def test_the_first_bytes_can_be_looked_at_and_all_read_afterwards():
    own = Unpacked(io.BytesIO(PACKED))
    assert own.read(10) == WHOLE[:10]
    own.seek(0)
    assert own.read(10) == WHOLE[:10] and own.tell() == 10
    own.seek(100)
    assert own.read(5) == WHOLE[100:105]
    with pytest.raises(io.UnsupportedOperation):
        own.seek(0, io.SEEK_END)


def test_a_log_that_is_spoilt_within_is_told_of(tmp_path):
    lines = b"".join(b"(%d.000000) can0 123#%04X\n" % (k, k % 65536) for k in range(50_000))
    packed = bytearray(gzip.compress(lines))
    packed[len(packed) // 2 : len(packed) // 2 + 200] = b"\xff" * 200
    path = tmp_path / "a.log.gz"
    path.write_bytes(packed)
    log = LogFile(path)
    assert 0 < sum(len(piece) for piece in log) < 50_000
    assert any("breaks off or is damaged" in note for note in log.notes)
