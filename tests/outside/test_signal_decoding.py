"""Signals decoded by arrays against cantools' own decoder, frame by frame, on databases by lot: equal to the last bit.

Source: cantools 45 (Debian and PyPI: `cantools`), the reference program for databases; the databases are made up.
"""

from __future__ import annotations

import pytest
from cantools.database.can import Message, Signal

from pondrel.core.bus.database import Known, SignalDatabase
from pondrel.core.bus.decode import Short, decoded_lines
from pondrel.core.bus.formats.text import from_fields
from pondrel.core.bus.frames import FD, joined

from ..databases import bits_of, compared, random_database, random_frames, with_known_branches


@pytest.mark.parametrize("seed", range(40))
def test_every_signal_is_what_cantools_says(seed):
    database = random_database(seed)
    found = compared(database, with_known_branches(random_frames(database, seed, 1500), database, seed))
    assert not found.differing
    assert found.values > 4000
    assert sum(found.refused.values()) == sum(
        count for (kind, _), count in found.short.counts.items() if kind in ("multiplexer", "unreadable")
    )


def at(data, signal):
    """The number in a signal's bits, read one by one."""
    return sum((data[bit // 8] >> (7 - bit % 8) & 1) << weight for weight, bit in enumerate(reversed(bits_of(signal))))


def test_signals_that_share_bits_so_that_cantools_reads_none_are_each_read_where_they_stand():
    """Databases of real vehicles have such messages."""
    signals = [
        Signal("Whole", 7, 64, "big_endian"),
        Signal("High", 7, 8, "big_endian"),
        Signal("Low", 4, 12, "little_endian"),
    ]
    message = Message(0x123, "Shared", 8, signals, strict=False)
    database = SignalDatabase("shared", (message,), ())
    frames = random_frames(database, 3, 200)
    found = compared(database, frames)
    assert found.refused == {"Shared": 200}
    begins, rows = frames.begins, {}
    for row in decoded_lines(frames, ("1",), Known([database]), Short()):
        rows.setdefault(row[0], {})[row[4]] = row[5]
    for place in range(200):
        data = frames.bytes_of(place, begins)
        wanted = {signal.name: at(data, signal) for signal in signals if max(bits_of(signal)) < 8 * len(data)}
        assert rows[frames.time[place]] == wanted
    assert any(note.startswith("Shared, signals share bits, and cantools decodes no frame of it: ") for note in found.short.notes)


def test_a_signal_beyond_its_message_is_told_and_the_others_are_read():
    signals = [Signal("Here", 0, 8, "little_endian"), Signal("Beyond", 12, 8, "little_endian")]
    database = SignalDatabase("beyond", (Message(0x123, "Small", 2, signals, strict=False),), ())
    frames = joined([from_fields(0.0, 0x123, 0, 0, bytes.fromhex("7F FF FF FF"))])
    short = Short()
    assert [row[4:6] for row in decoded_lines(frames, ("1",), Known([database]), short)] == [("Here", 0x7F)]
    assert "Small, signals that lie beyond its own length in the database: not read, 1 times." in short.notes


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
