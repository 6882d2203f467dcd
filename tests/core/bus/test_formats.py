"""Text logs in the dialects that are met, and what is said of lines that are no frames."""

from __future__ import annotations

import contextlib

import numpy as np
import pytest
from hypothesis import example, given, settings
from hypothesis import strategies as st

from pondrel.core.base.errors import ReadingError
from pondrel.core.bus.formats.asc import AscReader
from pondrel.core.bus.formats.candump import CandumpReader, candump_lines
from pondrel.core.bus.formats.lengths import fd_code, fd_length
from pondrel.core.bus.formats.registry import format_of_text
from pondrel.core.bus.formats.table import TableReader
from pondrel.core.bus.frames import BRS, ERROR, ESI, EXTENDED, FD, LIN, REMOTE, SENT


def rows(reader, text):
    """Time, identifier, flags, channel's name and data (or the length that is asked for) of each frame."""
    frames = reader.piece(text.encode())
    begins = frames.begins
    return [
        (
            float(frames.time[place]),
            int(frames.id[place]),
            int(frames.flags[place]),
            reader.channels.names[frames.channel[place]],
            int(frames.length[place]) if frames.flags[place] & REMOTE else frames.bytes_of(place, begins).hex(),
        )
        for place in range(len(frames))
    ]


CANDUMP = [
    ("(1.5) can0 123#1122", (1.5, 0x123, 0, "can0", "1122")),
    ("(0000000001.500000)  can0  123#", (1.5, 0x123, 0, "can0", "")),
    ("(1.5) vcan12 00000123#DEADBEEF", (1.5, 0x123, EXTENDED, "vcan12", "deadbeef")),
    ("(1.5) can0 1FFFFFFF#de.ad.be T", (1.5, 0x1FFFFFFF, EXTENDED | SENT, "can0", "deadbe")),
    ("(1.5) can0 123#R", (1.5, 0x123, REMOTE, "can0", 0)),
    ("(1.5) can0 123#R5 R", (1.5, 0x123, REMOTE, "can0", 5)),
    ("(1.5) can0 123##3112233445566778899AABBCC", (1.5, 0x123, FD | BRS | ESI, "can0", "112233445566778899aabbcc")),
    ("(1.5) can0 12345678##0", (1.5, 0x12345678, FD | EXTENDED, "can0", "")),
    ("(1.5) can0 20000088#0000000000000000", (1.5, 0, ERROR, "can0", "")),
    ("(1.5) can0 123#1122334455667788_B", (1.5, 0x123, 0, "can0", "1122334455667788")),
    (" (1.5)  can0  123   [3]  11 22 33", (1.5, 0x123, 0, "can0", "112233")),
    (" (1.5)  can0  TX - -  12345678   [2]  11 22   '.\"'", (1.5, 0x12345678, EXTENDED | SENT, "can0", "1122")),
    (" (1.5)  can0  123   [4]  remote request", (1.5, 0x123, REMOTE, "can0", 4)),
    (" (1.5)  can0  123  [12]  01 02 03 04 05 06 07 08 09 0A 0B 0C", (1.5, 0x123, FD, "can0", "0102030405060708090a0b0c")),
]


@pytest.mark.parametrize(("line", "wanted"), CANDUMP, ids=[line for line, _ in CANDUMP])
def test_a_line_of_candump_is_read(line, wanted):
    assert format_of_text(line).name == "candump"
    reader = CandumpReader()
    # Alone, and among lines that are read by arrays.
    plain = "(1.0) can0 7FF#00\n"
    for text, place in ((line, 0), (plain + line + "\r\n" + plain, 1)):
        assert rows(reader, text)[place] == wanted
    assert reader.notes == ()


@pytest.mark.parametrize(
    "line",
    ["(1.5) can0 123#1", "(1.5) can0 123#11223344556677889900", "(x) can0 123#11", "(1.5) can0", "can0 123#1122", "\x00\xff",
     "(1.5) can0 1234#11G2", "(1.5) can0 123#1R", "(1.5) can0 123##", "(1.5) can0 123 [3] 11 22"],
)  # fmt: skip
def test_a_line_that_is_no_frame_is_told_and_not_taken(line):
    reader = CandumpReader()
    assert (
        rows(reader, f"(1.0) can0 7FF#00\n{line}\n(2.0) can0 7FF#01\n")
        == [
            (1.0, 0x7FF, 0, "can0", "00"),
            (2.0, 0x7FF, 0, "can0", "01"),
        ]
        or len(line.split("#")[0].split()[-1]) == 2
    )
    assert len(reader.notes) == 1 or "12#" in line


HEAD = "date Mon Jun 1 10:00:00.000 am 2026\nbase hex  timestamps absolute\ninternal events logged\n// version 9.0.0\n"
ASC = [
    ("   0.015991 1  123             Rx   d 3 11 22 33", (0.015991, 0x123, 0, "1", "112233")),
    ("0.5 2 18FEF100x Tx d 2 aA Bb  Length = 234910 BitCount = 121 ID = 419361024x", (0.5, 0x18FEF100, EXTENDED | SENT, "2", "aabb")),
    ("0.5 1 123 Rx d 0", (0.5, 0x123, 0, "1", "")),
    ("0.5 1 123 Rx r", (0.5, 0x123, REMOTE, "1", 0)),
    ("0.5 1 123 Tx r 8 Length = 0 BitCount = 0", (0.5, 0x123, REMOTE | SENT, "1", 8)),
    ("0.5 1 ErrorFrame", (0.5, 0, ERROR, "1", "")),
    ("0.5 1  errorframe  Flags = 0xe CodeExt = 0x20a2", (0.5, 0, ERROR, "1", "")),
    ("0.5 CANFD 1 Rx 123 1 0 9 12 01 02 03 04 05 06 07 08 09 0A 0B 0C 130000 130 303000 0 0 0 0 0",
     (0.5, 0x123, FD | BRS, "1", "0102030405060708090a0b0c")),
    ("0.5 CANFD 2 Tx 18FEF100x Brake_State 0 1 1 1 FF 0 0 1000 0 0 0 0 0", (0.5, 0x18FEF100, FD | ESI | SENT | EXTENDED, "2", "ff")),
    ("0.5 CANFD 1 Rx ErrorFrame Not Acknowledge error", (0.5, 0, ERROR, "1", "")),
    ("0.5 CANFD 1 Rx 123 0 0 5 0", (0.5, 0x123, REMOTE, "1", 5)),
    ("0.5 L1 2a Rx 3 01 02 03  checksum = 5a header time = 40, full time = 86", (0.5, 0x2A, LIN, "L1", "010203")),
    ("0,5 1 123 Rx d 1 11", (0.5, 0x123, 0, "1", "11")),
    ("0.5 1 123 Rx d F 11 22 33 44 55 66 77 88", (0.5, 0x123, 0, "1", "1122334455667788")),
    ("0.5 1 1ABCD Rx d 1 11", (0.5, 0x1ABCD, EXTENDED, "1", "11")),
]  # fmt: skip


@pytest.mark.parametrize(("line", "wanted"), ASC, ids=[line.strip() for line, _ in ASC])
def test_a_line_of_asc_is_read(line, wanted):
    assert format_of_text(HEAD + line).name == "asc"
    reader = AscReader()
    plain = "  1.000000 1  7FF             Rx   d 1 00\n"
    for text, place in ((HEAD + line, 0), (plain + line + "\r\n" + plain, 1)):
        assert rows(reader, text)[place] == wanted
    assert reader.notes == ()


def test_decimal_numbers_and_times_from_the_line_before():
    reader = AscReader()
    head = "base dec timestamps relative\n"
    text = "0.5 1 291 Rx d 2 17 255\n0.25 1 Statistic: D 1 R 0\n0.25 1 292 Rx d 1 16\n0.1 1 Status chip: warning\n"
    assert rows(reader, head + text) == [(0.5, 291, 0, "1", "11ff"), (1.0, 292, 0, "1", "10")]
    assert rows(reader, "0.9 1 293 Rx d 0\n") == [(2.0, 293, 0, "1", "")]
    assert reader.notes == ("2 lines tell of something other than frames, the first: '0.25 1 Statistic: D 1 R 0'.",)


def test_what_an_asc_line_holds_too_little_of_is_told():
    reader = AscReader()
    text = (
        HEAD
        + "0.1 1 123 Rx d 8 11 22\n0.2 1 EngineData Rx d 1 11\n0.3 1 123 Rx d 1 1FF\n0.4 CANFD 1 Rx 123 1 0 f 64 11\n0.5 1 1 Rx d 1 01\n"
    )
    assert [row[1] for row in rows(reader, text)] == [1]
    assert reader.notes == ("4 lines are no frames and were left out, the first: '0.1 1 123 Rx d 8 11 22'.",)


TABLES = [
    ("Time (ms),Channel,ID,DLC,Data\n10,PT,0x123,2,11 22\n", [(0.01, 0x123, 0, "PT", "1122")]),
    ("timestamp;can_id;len;b0;b1;b2\n0,5;123;2;AA;BB;\n", [(0.5, 123, 0, "1", "aabb")]),
    ("time\tid\trtr\tdlc\tdata\n0.5\t0A3\t1\t4\t\n0.6\t7FF\t0\t0\t\n", [(0.5, 0xA3, REMOTE, "1", 4), (0.6, 0x7FF, 0, "1", "")]),
    ("# made by a logger\ntime,id,dir,data\n1.0,18FEF100x,Tx,01-02-03\n", [(1.0, 0x18FEF100, EXTENDED | SENT, "1", "010203")]),
    ("timestamp,arbitration_id,extended,remote,error,dlc,data\n1.0,0x1,1,0,0,2,ESI=\n", [(1.0, 1, EXTENDED, "1", "1122")]),
    ("time,id,data,checksum\n1.0,0xB2,0102,4C\n", [(1.0, 0x32, LIN, "1", "0102")]),
    ("time,channel,id,fd,brs,data\n1,A,0x10,1,1,00\n1,B,0x10,0,0,000102030405060708\n",
     [(1.0, 16, FD | BRS, "A", "00"), (1.0, 16, FD, "B", "000102030405060708")]),
]  # fmt: skip


@pytest.mark.parametrize(("text", "wanted"), TABLES)
def test_a_table_is_read_by_what_its_columns_are_called(text, wanted):
    assert format_of_text(text).name == "csv"
    assert rows(TableReader(), text) == wanted


def test_a_table_without_names_of_columns_is_refused():
    with pytest.raises(ReadingError, match="names its columns"):
        TableReader().piece(b"1,2,3\n4,5,6\n")


def test_bad_rows_of_a_table_are_told():
    reader = TableReader()
    assert len(rows(reader, "time,id,data\nx,1A,00\n1.0,1A,0\n1.0,,00\n1.0,1A,zz\n2.0,1A,00\n")) == 1
    assert reader.notes == ("4 lines are no frames and were left out, the first: 'x,1A,00'.",)


def test_length_codes_of_flexible_frames():
    """ISO 11898-1:2015, from memory: codes 9 to 15 stand for 12, 16, 20, 24, 32, 48 and 64 bytes."""
    assert [fd_length(code) for code in range(16)] == [0, 1, 2, 3, 4, 5, 6, 7, 8, 12, 16, 20, 24, 32, 48, 64]
    assert [fd_code(length) for length in (0, 8, 9, 12, 13, 64)] == [0, 8, 9, 9, 10, 15]


@settings(deadline=None, max_examples=300)
@example(text="0(0) 0 0#RR", at=0)
@example(text="(0.0) can0 123   [4294967296] remote request", at=90)
@example(text="0.5 CANFD 1 Rx 123 0 0 -15 0", at=90)
@example(text="time,id,data,remote,dlc\n1e999,0xB2,0102,0,2\n0.5,0xB2,,1,-14\n", at=90)
@given(
    text=st.one_of(st.text(max_size=200), st.lists(st.sampled_from([line for line, _ in CANDUMP + ASC]), max_size=6).map("\n".join)),
    at=st.integers(0, 80),
)
def test_no_text_stops_a_reader(text, at):
    broken = text[:at] + text[at + 1 :]
    for kind in (CandumpReader, AscReader):
        reader = kind()
        frames = reader.piece(broken.encode())
        assert int(frames.stored.sum()) == len(frames.data) and len(frames.time) == len(frames.id) == len(frames.flags)
        "".join(candump_lines(frames, reader.channels.names))
    with contextlib.suppress(ReadingError):
        assert np.isfinite(TableReader().piece(broken.encode()).time).all()
