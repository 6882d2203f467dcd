"""Random signal databases and frames, and how the decoding of frames compares with cantools' own, frame by frame."""

from __future__ import annotations

import random
import struct
from collections.abc import Mapping
from dataclasses import dataclass, field
from typing import Any

import numpy as np
from cantools.database import conversion
from cantools.database.can import Message, Signal
from cantools.database.errors import DecodeError

from pondrel.core.bus.database import Known, SignalDatabase
from pondrel.core.bus.decode import Short, decoded_lines
from pondrel.core.bus.frames import EXTENDED, FD, Frames

FLOATS = [16, 32, 64]
SCALES = (1, 1, 2, -3, 0.1, 0.25, 1e-3, 10.0, 0.03125, -0.5, 1 << 20)
OFFSETS = (0, 0, -40, 273, 0.5, -1000.25)


def bits_of(signal: Signal) -> list[int]:
    """The bits of a signal, its highest first; they are numbered byte by byte, the highest of each first."""
    if signal.byte_order == "little_endian":
        return [8 * (bit // 8) + 7 - bit % 8 for bit in reversed(range(signal.start, signal.start + signal.length))]
    first = 8 * (signal.start // 8) + 7 - signal.start % 8
    return list(range(first, first + signal.length))


def _signal(rng: random.Random, name: str, length: int, taken: set[int], **more: object) -> Signal | None:
    """A signal where none lies yet; None where no room was found."""
    for _ in range(60):
        is_float = not more.get("is_multiplexer") and rng.random() < 0.15
        width = rng.choice(FLOATS) if is_float else rng.choice((1, 1, 2, 3, 4, 5, 8, 8, 11, 12, 16, 16, 24, 31, 32, 33, 57, 64))
        if more.get("is_multiplexer"):
            width = rng.choice((1, 2, 3))
        order = rng.choice(("little_endian", "big_endian"))
        first = rng.randrange(8 * length)
        if first + width > 8 * length:
            continue
        start = first if order == "little_endian" else 8 * (first // 8) + 7 - first % 8
        scale, offset = (1, 0) if more.get("is_multiplexer") else (rng.choice(SCALES), rng.choice(OFFSETS))
        choices = {0: "off", 1: "on", 3: "fault"} if not is_float and rng.random() < 0.3 else None
        own = Signal(
            name, start, width, order, is_signed=not is_float and rng.random() < 0.4 and not more.get("is_multiplexer"),
            conversion=conversion.BaseConversion.factory(scale, offset, choices, is_float), **more,
        )  # fmt: skip
        if not taken.intersection(bits_of(own)):
            taken.update(bits_of(own))
            return own
    return None


def random_message(rng: random.Random, place: int) -> Message:
    """A message of any length up to 64 bytes, with multiplexers in multiplexers now and then."""
    length = rng.choice((1, 2, 5, 8, 8, 8, 8, 12, 24, 64))
    taken: set[int] = set()
    signals = [_signal(rng, f"S{number}", length, taken) for number in range(rng.randint(1, 8))]
    if rng.random() < 0.5 and length > 1:
        outer = _signal(rng, "Which", length, taken, is_multiplexer=True)
        signals.append(outer)
        for branch in range(3) if outer else ():
            own = set(taken)
            for number in range(2):
                signals.append(_signal(rng, f"M{branch}_{number}", length, own, multiplexer_ids=[branch], multiplexer_signal="Which"))
            if rng.random() < 0.4:
                inner = _signal(
                    rng, f"Inner{branch}", length, own, is_multiplexer=True, multiplexer_ids=[branch], multiplexer_signal="Which"
                )
                signals.append(inner)
                for number in range(2) if inner else ():
                    signals.append(
                        _signal(rng, f"N{branch}_{number}", length, set(own), multiplexer_ids=[number], multiplexer_signal=f"Inner{branch}")
                    )
    extended = rng.random() < 0.4
    identity = rng.randrange(1 << 29) if extended else 0x100 + place
    return Message(identity, f"Message{place}", length, [one for one in signals if one], is_extended_frame=extended, is_fd=length > 8)


def random_database(seed: int, messages: int = 30, plain: bool = False) -> SignalDatabase:
    """A database of such messages; ``plain`` ones have no floating numbers of 16 bits, which not every format has."""
    rng = random.Random(f"database {seed}")
    made = [random_message(rng, place) for place in range(messages)]
    if plain:
        made = [own for own in made if not any(one.conversion.is_float and one.length == 16 for one in own.signals)]
    found = {message.frame_id: message for message in made}
    return SignalDatabase(f"random{seed}", tuple(found.values()), ())


def random_frames(database: SignalDatabase, seed: int, count: int) -> Frames:
    """Frames of its messages with data by lot; some too short, some too long."""
    rng = np.random.default_rng(seed)
    which = rng.integers(0, len(database.messages), count)
    own = [database.messages[place] for place in which]
    lengths = np.array([message.length for message in own])
    lengths = np.clip(lengths + rng.choice([0, 0, 0, 0, 0, -1, 1, -3], count), 0, 64)
    kinds = [(EXTENDED if message.is_extended_frame else 0) | (FD if message.is_fd else 0) for message in own]
    return Frames(
        np.arange(count) * 1e-3, np.array([message.frame_id for message in own], np.uint32), np.array(kinds, np.uint8),
        np.zeros(count, np.uint8), lengths.astype(np.uint8), rng.integers(0, 256, int(lengths.sum())).astype(np.uint8),
    )  # fmt: skip


def with_known_branches(frames: Frames, database: SignalDatabase, seed: int) -> Frames:
    """Frames whose multiplexers mostly choose what the database knows; by lot alone they seldom would."""
    rng = random.Random(seed)
    by_key = {(message.frame_id, bool(message.is_extended_frame)): message for message in database.messages}
    begins = frames.begins
    for place in range(len(frames)):
        message = by_key[int(frames.id[place]), bool(frames.flags[place] & EXTENDED)]
        if message._codecs is not None and rng.random() < 0.9:
            first = int(begins[place])
            _choose(rng, frames.data[first : first + int(frames.length[place])], message._codecs)
    return frames


def _choose(rng: random.Random, data: np.ndarray, node: Mapping[str, Any]) -> None:
    for name, branches in node["multiplexers"].items():
        signal = next(signal for signal in node["signals"] if signal.name == name)
        chosen = rng.choice(sorted(branches))
        for weight, bit in enumerate(reversed(bits_of(signal))):
            byte, mask = bit // 8, 0x80 >> bit % 8
            if byte < len(data):
                data[byte] = data[byte] & ~np.uint8(mask) | (mask if chosen >> weight & 1 else 0)
        _choose(rng, data, branches[chosen])


def by_cantools(message: Message, data: bytes) -> list[tuple[str, object, object, str]] | None:
    """Name, raw value, value and the value's name of each signal, as cantools decodes one frame; None where it does not."""
    try:
        raw = message.decode(data, decode_choices=False, scaling=False, allow_truncated=True)
        value = message.decode(data, decode_choices=False, allow_truncated=True)
        named = message.decode(data, allow_truncated=True)
    except (DecodeError, ValueError):
        return None
    return [(name, raw[name], value[name], str(named[name]) if not isinstance(named[name], (int, float)) else "") for name in raw]


@dataclass
class Compared:
    """How many values were compared, how many frames cantools does not decode, by message, and what differs."""

    values: int = 0
    refused: dict[str, int] = field(default_factory=dict)
    differing: list[str] = field(default_factory=list)
    short: Short = field(default_factory=Short)


def compared(database: SignalDatabase, frames: Frames) -> Compared:
    """Every frame decoded by arrays and by cantools; times of the frames must differ. Containers are left out."""
    known, found = Known([database]), Compared()
    by_time: dict[float, list[tuple[Any, ...]]] = {}
    for row in decoded_lines(frames, ("1",), known, found.short):
        by_time.setdefault(row[0], []).append(row)
    begins = frames.begins
    for place in range(len(frames)):
        message = known.message("1", int(frames.id[place]), bool(frames.flags[place] & EXTENDED))
        if message is None or message.is_container:
            continue
        mine = by_time.get(frames.time[place], [])
        wanted = by_cantools(message, frames.bytes_of(place, begins))
        if wanted is None:  # such as a multiplexer's value that the database does not know: what does not hang on it is still told
            found.refused[message.name] = found.refused.get(message.name, 0) + 1
        elif [row[4] for row in mine] != [name for name, *_ in wanted]:
            found.differing.append(f"{message.name}: {[row[4] for row in mine]}, not {[name for name, *_ in wanted]}")
        else:
            found.values += len(mine)
            for (name, raw, value, named), row in zip(wanted, mine, strict=True):
                if not (_same(row[5], raw) and _same(row[6], value) and row[7] == named):
                    found.differing.append(f"{message.name}.{name}: {row[5:8]}, not {(raw, value, named)}")
    return found


def _same(own: object, other: object) -> bool:
    """Equal to the last bit, and of the same type."""
    if isinstance(own, float) or isinstance(other, float):
        return struct.pack("<d", own) == struct.pack("<d", other) or (own != own and other != other)
    return own == other and type(own) is type(other)
