"""Signals decoded by arrays against cantools' own decoder, frame by frame, on databases by lot: equal to the last bit.

Source: cantools 45 (Debian and PyPI: `cantools`), the reference program for databases; the databases are made up.
"""

from __future__ import annotations

import struct

import pytest
from cantools.database.can import Message, Signal

from pondrel.core.bus.database import Known, SignalDatabase
from pondrel.core.bus.decode import Short, decoded_lines
from pondrel.core.bus.formats.text import from_fields
from pondrel.core.bus.frames import FD, joined

from ..databases import by_cantools, random_database, random_frames


def same(own: object, other: object) -> bool:
    if isinstance(own, float) or isinstance(other, float):
        return struct.pack("<d", own) == struct.pack("<d", other) or (own != own and other != other)
    return own == other and type(own) is type(other)


@pytest.mark.parametrize("seed", range(40))
def test_every_signal_is_what_cantools_says(seed):
    database = random_database(seed)
    frames = random_frames(database, seed, 1500)
    begins = frames.begins
    by_id = {message.frame_id: message for message in database.messages}
    short = Short()
    rows = iter(decoded_lines(frames, ("1",), Known([database]), short))
    compared = refused = 0
    row = next(rows, None)
    for place in range(len(frames)):
        message = by_id[int(frames.id[place])]
        wanted = by_cantools(message, frames.bytes_of(place, begins))
        mine = []
        while row is not None and row[0] == frames.time[place]:
            mine.append(row)
            row = next(rows, None)
        if wanted is None:  # a multiplexer's value that the database does not know: what does not hang on it is still told
            refused += 1
            continue
        assert [one[4] for one in mine] == [name for name, *_ in wanted]
        for (name, raw, value, named), one in zip(wanted, mine, strict=True):
            assert same(one[5], raw), (message.name, name, one[5], raw)
            assert same(one[6], value), (message.name, name, one[6], value)
            assert one[7] == named
            compared += 1
    assert row is None
    assert compared > 3000
    assert refused == sum(count for (kind, _), count in short.counts.items() if kind in ("multiplexer", "unreadable"))


def container():
    """A container with two messages in it, each behind its header of three bytes and a length."""
    little = {"byte_order": "little_endian"}
    inner = [
        Message(0x1, "Heat", 3, [Signal("Inside", 0, 8, **little), Signal("Outside", 8, 16, is_signed=True, **little)], header_id=0x0A0B0C),
        Message(0x2, "Doors", 1, [Signal("Left", 0, 1, **little), Signal("Right", 1, 1, **little)], header_id=0x01),
    ]
    return Message(0x555, "Box", 64, [], contained_messages=inner, is_fd=True)


def test_messages_in_a_container_are_decoded_as_cantools_does_it():
    box = container()
    datas = [
        bytes.fromhex("0A0B0C 03 11FFFE 000001 01 02"),
        bytes.fromhex("000001 01 01"),
        bytes.fromhex("0A0B0C 03 224433 777777 02 AABB"),  # one of them nobody knows
        bytes.fromhex("0A0B0C 03 2244"),  # it breaks off: what is wholly there is told
    ]
    frames = joined([from_fields(float(k), 0x555, FD, 0, data) for k, data in enumerate(datas)])
    short = Short()
    rows = list(decoded_lines(frames, ("1",), Known([SignalDatabase("box", (box,), ())]), short))
    for k, data in enumerate(datas):
        wanted = [
            (message.name, name, value)
            for message, values in box.decode(data, decode_containers=True, allow_truncated=True)
            if isinstance(values, dict)
            for name, value in values.items()
        ]
        assert [(row[3], row[4], row[6]) for row in rows if row[0] == k] == wanted, k
    assert len(rows) == 4 + 2 + 2 + 1
    assert "Box, messages in it that the database does not know: 1." in short.notes
