"""A log decoded: for each message the columns of its signals, for all frames at once; and the same as lines in the log's order."""

from __future__ import annotations

from collections import Counter
from collections.abc import Iterable, Iterator, Mapping
from dataclasses import dataclass, field
from typing import Any, cast

import numpy as np
from cantools.database.can import Message, Signal
from cantools.database.errors import Error as DatabaseError
from cantools.database.namedsignalvalue import NamedSignalValue

from .database import Known
from .frames import REMOTE, Codes, Frames
from .groups import Group, groups_of
from .unpack import Column, Payload, fits_within, overlapping, raw_of, scaled_of

__all__ = ["DECODED_COLUMNS", "DecodedMessage", "DecodedSignal", "Short", "decoded_lines", "decoded_of", "names_of"]

DECODED_COLUMNS = ("time", "channel", "id", "frame", "signal", "raw", "value", "text", "unit")
_AT_ONCE = 20_000


@dataclass(frozen=True, slots=True, eq=False)
class DecodedSignal:
    """A signal in some frames of its message: ``frame`` (of the container that it lies in, its own), the places of the frames in the
    log (ascending), raw values and values in the signal's unit; each of shape (n,)."""

    signal: Signal
    frame: str
    places: Codes
    raw: Column
    value: Column


@dataclass(frozen=True, slots=True, eq=False)
class DecodedMessage:
    """A message of a channel and its signals, in the order in which cantools lists them."""

    message: Message
    group: Group
    signals: tuple[DecodedSignal, ...]


@dataclass
class Short:
    """What could not be decoded as the database has it, counted by kind and message; ``unknown``: frames that no database knows."""

    counts: Counter[tuple[str, str]] = field(default_factory=Counter)
    unknown: int = 0

    def tell(self, kind: str, message: str, count: int) -> None:
        """Count some frames of a message."""
        if count:
            self.counts[kind, message] += count

    @property
    def notes(self) -> tuple[str, ...]:
        """A sentence for each kind and message."""
        says = {
            "shorter": "{message}, frames shorter than the database has it: {count}. Only signals that are wholly in them are read.",
            "longer": "{message}, frames longer than the database has it: {count}. What comes behind is not read.",
            "multiplexer": "{message}, frames with a multiplexer value unknown to the database: {count}. What hangs on it is not read.",
            "unreadable": "{message}, frames that cannot be decoded by the database: {count}.",
            "outside": "{message}, signals that lie beyond its own length in the database: not read, {count} times.",
            "namesakes": "{message}, signals of one name: its frames, {count}, are decoded one by one, as cantools does it.",
            "overlap": "{message}, signals share bits, and cantools decodes no frame of it: {count}. Each is read where it stands.",
            "container": "{message}, messages in it that the database does not know: {count}.",
        }
        return tuple(says[kind].format(count=count, message=name) for (kind, name), count in sorted(self.counts.items()))


def decoded_of(frames: Frames, names: tuple[str, ...], known: Known, short: Short, only: str | None = None) -> Iterator[DecodedMessage]:
    """Each message that the databases know, decoded in all its frames; ``only`` one of that name where one is given."""
    begins = frames.begins
    for group in groups_of(frames):
        message = None if group.lin else known.message(names[group.channel], group.id, group.extended)
        if message is None:
            short.unknown += len(group.places)
        if message is None or (only is not None and message.name != only):
            continue
        places = group.places[(frames.flags[group.places] & REMOTE) == 0]
        if len(places):
            yield DecodedMessage(message, group, tuple(_signals(frames, begins, message, places, short)))


def _signals(frames: Frames, begins: Codes, message: Message, places: Codes, short: Short) -> list[DecodedSignal]:
    if message.is_container:
        return _contained(frames, begins, message, places, short)
    lengths = frames.length[places]
    own: list[DecodedSignal] = []
    for length in np.unique(lengths).tolist():
        which = places[lengths == length] if length != lengths[0] or (lengths != length).any() else places
        wanted = message.length
        short.tell("shorter", message.name, len(which) if length < wanted else 0)
        short.tell("longer", message.name, len(which) if length > wanted else 0)
        data = frames.payload(which, begins, min(length, wanted))
        own += _of_node(message, cast(Mapping[str, Any], message._codecs), Payload(data), which, length, short)
    return _merged(message, own)


def _order(node: Mapping[str, Any], found: dict[str, int]) -> dict[str, int]:
    """The place of each signal in cantools' own order: those of a node, then those that its multiplexers choose."""
    for signal in node["signals"]:
        found.setdefault(signal.name, len(found))
    for branches in node["multiplexers"].values():
        for branch in branches.values():
            _order(branch, found)
    return found


def _of_node(message: Message, node: Mapping[str, Any], payload: Payload, places: Codes, length: int, short: Short) -> list[DecodedSignal]:
    """The signals of a node of the multiplexers' tree and of all below it that the frames choose."""
    signals: list[Signal] = node["signals"]
    if len({signal.name for signal in signals}) < len(signals):
        short.tell("namesakes", message.name, len(places))
        return _one_by_one(message, payload, places, length, short)
    if overlapping(signals):
        short.tell("overlap", message.name, len(places))
    found: list[DecodedSignal] = []
    by_name: dict[str, DecodedSignal] = {}
    for signal in signals:
        if not fits_within(signal, message.length):
            short.tell("outside", message.name, len(places))
            continue
        if not fits_within(signal, length):
            continue
        try:
            raw = raw_of(signal, payload)
        except ValueError:
            short.tell("unreadable", message.name, len(places))
            continue
        own = DecodedSignal(signal, message.name, places, raw, scaled_of(signal, raw))
        found.append(own)
        by_name[signal.name] = own
    for name, branches in node["multiplexers"].items():
        if name not in by_name:
            continue
        chosen = _chosen(by_name[name])
        for number in np.unique(chosen).tolist():
            which = chosen == number
            branch = branches.get(number)
            if branch is None:
                short.tell("multiplexer", message.name, int(which.sum()))
            else:
                found += _of_node(message, branch, Payload(payload.data[which]), places[which], length, short)
    return found


def _chosen(own: DecodedSignal) -> Codes:
    """The number that a multiplexer's signal chooses in each frame, as cantools takes it: that of its value's name, or its value."""
    choices: Mapping[int, Any] = own.signal.conversion.choices or {}
    raws, back = np.unique(own.raw, return_inverse=True)
    numbers = []
    for raw, value in zip(raws.tolist(), scaled_of(own.signal, raws).tolist(), strict=True):
        name = choices.get(int(raw)) if choices and raw == raw else None
        numbers.append(own.signal.conversion.choice_to_number(str(name)) if name is not None else int(value))
    return np.array(numbers, object if max(map(abs, numbers), default=0) >= 1 << 63 else np.int64)[back.reshape(-1)]


def _one_by_one(message: Message, payload: Payload, places: Codes, length: int, short: Short) -> list[DecodedSignal]:
    """Frames that only cantools' own loop decodes."""
    columns: dict[str, tuple[list[int], list[object], list[object]]] = {}
    for place, row in zip(places.tolist(), payload.data, strict=True):
        try:
            raw = message.decode_simple(row[:length].tobytes(), decode_choices=False, scaling=False, allow_truncated=True)
            value = message.decode_simple(row[:length].tobytes(), decode_choices=False, allow_truncated=True)
        except (DatabaseError, ValueError):
            short.tell("unreadable", message.name, 1)
            continue
        for name in raw:
            own = columns.setdefault(name, ([], [], []))
            own[0].append(place)
            own[1].append(raw[name])
            own[2].append(value[name])
    return [
        DecodedSignal(message.get_signal_by_name(name), message.name, np.array(at), np.array(raw, object), np.array(value, object))
        for name, (at, raw, value) in columns.items()
    ]


def _contained(frames: Frames, begins: Codes, message: Message, places: Codes, short: Short) -> list[DecodedSignal]:
    """The messages within a container, each decoded by arrays as a message of its own."""
    pieces: dict[str, tuple[Message, list[int], list[bytes]]] = {}
    for place in places.tolist():
        try:
            inner = message.unpack_container(frames.bytes_of(place, begins)[: message.length], allow_truncated=True)
        except (DatabaseError, ValueError):
            short.tell("unreadable", message.name, 1)
            continue
        for own, data in inner:
            if isinstance(own, int):
                short.tell("container", message.name, 1)
                continue
            kept = pieces.setdefault(own.name, (own, [], []))
            kept[1].append(place)
            kept[2].append(data)
    found: list[DecodedSignal] = []
    for own, at, datas in pieces.values():
        lengths = np.array([min(len(data), 255) for data in datas], np.uint8)
        nothing = np.zeros(len(at))
        zeros = np.zeros(len(at), np.uint8)
        inner_frames = Frames(nothing, zeros.astype(np.uint32), zeros, zeros, lengths, np.frombuffer(b"".join(datas), np.uint8))
        inner_places = np.array(at)
        for signal in _signals(inner_frames, inner_frames.begins, own, np.arange(len(at)), short):
            found.append(DecodedSignal(signal.signal, own.name, inner_places[signal.places], signal.raw, signal.value))
    return found


def _merged(message: Message, found: list[DecodedSignal]) -> list[DecodedSignal]:
    """One entry a signal, though frames of different lengths or multiplexer values were decoded apart; in cantools' order."""
    if message._codecs is not None:
        places = _order(cast(Mapping[str, Any], message._codecs), {})
        found = sorted(found, key=lambda own: places[own.signal.name])
    by_name: dict[str, list[DecodedSignal]] = {}
    for own in found:
        by_name.setdefault(own.signal.name, []).append(own)
    merged = []
    for parts in by_name.values():
        if len(parts) == 1:
            merged.append(parts[0])
            continue
        at = np.concatenate([part.places for part in parts])
        order = np.argsort(at, kind="stable")
        # Where two branches hold one name in one frame, the later of them counts, as in cantools.
        order = order[np.append(at[order][1:] != at[order][:-1], True)]
        raw = np.concatenate([part.raw for part in parts])[order]
        value = np.concatenate([part.value for part in parts])[order]
        merged.append(DecodedSignal(parts[0].signal, message.name, at[order], raw, value))
    return merged


def names_of(signal: Signal) -> Mapping[int, str]:
    """What the values of a signal are called, by raw value."""
    return {int(raw): name.name if isinstance(name, NamedSignalValue) else str(name) for raw, name in (signal.choices or {}).items()}


def decoded_lines(frames: Frames, names: tuple[str, ...], known: Known, short: Short) -> Iterator[tuple[object, ...]]:
    """A row of `DECODED_COLUMNS` for each signal of each known frame, in the log's order."""
    for _, part in frames.parts(_AT_ONCE):
        rows: list[tuple[int, tuple[object, ...]]] = []
        times = part.time.tolist()
        for own in decoded_of(part, names, known, short):
            head = (names[own.group.channel], own.group.id)
            for signal in own.signals:
                rows += _rows(times, head, signal)
        rows.sort(key=lambda row: row[0])  # stable: the signals of a frame stay in their order
        yield from (row for _, row in rows)


def _rows(times: list[float], head: tuple[str, int], own: DecodedSignal) -> Iterable[tuple[int, tuple[object, ...]]]:
    called, unit, name = names_of(own.signal), own.signal.unit or "", own.signal.name
    for place, raw, value in zip(own.places.tolist(), own.raw.tolist(), own.value.tolist(), strict=True):
        text = called.get(int(raw), "") if called and raw == raw and abs(raw) != float("inf") else ""
        yield place, (times[place], *head, own.frame, name, raw, value, text, unit)
