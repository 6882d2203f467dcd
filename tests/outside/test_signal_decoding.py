"""Signals decoded by arrays against cantools' own decoder, frame by frame, on databases by lot: equal to the last bit.

Source: cantools 45 (Debian and PyPI: `cantools`), the reference program for databases; the databases are made up.
"""

from __future__ import annotations

import struct

import pytest

from pondrel.core.bus.database import Known
from pondrel.core.bus.decode import Short, decoded_lines

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
