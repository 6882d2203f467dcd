"""Signal databases: which frames they know and what lies in them. Read by cantools; several for a log, each for its channels.

A frame of the protocol J1939 is known by its parameter group whoever sends it (SAE J1939-21: of the 29 bits of an identifier, priority
and source address say nothing of what is in it, and below PDU format 240 neither does the destination).
"""

from __future__ import annotations

import logging
from collections.abc import Mapping, Sequence
from dataclasses import dataclass

import cantools.database
from cantools.database.can import Database as CanDatabase
from cantools.database.can import Message

from ..base.errors import ReadingError
from .mending import mended

__all__ = ["Known", "SignalDatabase", "database_from", "group_of"]

_FORMATS = {".dbc": "dbc", ".arxml": "arxml", ".kcd": "kcd", ".sym": "sym", ".xml": "arxml"}
_MOST_TEXT = 60_000_000
# A text is read anew after each correction: of all readings together so many characters.
_MOST_CORRECTIONS, _TEXT_PARSED, _MOST_SAID = 40, 8_000_000, 6
# cantools warns of clashing identifiers in its log; here they are told as notes.
logging.getLogger("cantools").addHandler(logging.NullHandler())


@dataclass(frozen=True, slots=True, eq=False)
class SignalDatabase:
    """A database: the name of its file, its messages, and what is to be said of it. ``channel``: the only channel that it is for, by
    name; empty for all."""

    name: str
    messages: tuple[Message, ...]
    notes: tuple[str, ...]
    channel: str = ""
    bit_rates: tuple[int, ...] = ()


def database_from(text: bytes, name: str, channel: str = "") -> SignalDatabase:
    """A database from the text of its file, whose name tells its format.

    Raises `ReadingError` with what is wrong where it cannot be read.
    """
    suffix = name[name.rfind(".") :].lower() if "." in name else ""
    kind = _FORMATS.get(suffix)
    if kind is None:
        raise ReadingError(f"{name}: a signal database is a DBC, ARXML, KCD or SYM file; its name ends in one of {', '.join(_FORMATS)}.")
    if len(text) > _MOST_TEXT:
        raise ReadingError(f"{name} is larger than {_MOST_TEXT // 1_000_000} MB: no signal database is.")
    decoded = _decoded(text, kind)
    notes: list[str] = []
    try:
        found = _loaded(decoded, kind, strict=True)
    except Exception as strict:  # cantools' parsers raise what comes: a sentence is wanted, whatever it was
        found, corrections = _in_spite(decoded, name, kind)
        said = corrections or [f"{_first_line(strict)} Read in spite of that."]
        notes += [f"{name}: {what}" for what in said[:_MOST_SAID]]
        if len(said) > _MOST_SAID:
            notes.append(f"{name}: {len(said) - _MOST_SAID} more corrections like these.")
    if not isinstance(found, CanDatabase):
        raise ReadingError(f"{name} describes diagnostics, not the frames of a bus.")
    if not found.messages:
        raise ReadingError(f"{name} holds no messages.")
    rates = tuple(sorted({int(bus.baudrate) for bus in found.buses if bus.baudrate}))
    return SignalDatabase(name, tuple(found.messages), (*notes, *_clashes(name, found.messages)), channel, rates)


def _loaded(text: str, kind: str, *, strict: bool) -> object:
    # Names as the file has them: long names of values are not shortened.
    return cantools.database.load_string(text, kind, strict=strict, prune_choices=False)


def _in_spite(text: str, name: str, kind: str) -> tuple[object, list[str]]:
    """What lies in a text that cantools refuses when it is strict, and how it was mended for that.

    Raises `ReadingError` with the first thing that is wrong where it cannot be read.
    """
    said: list[str] = []
    first = ""
    for _ in range(1 + min(_MOST_CORRECTIONS, _TEXT_PARSED // (len(text) + 1))):
        try:
            return _loaded(text, kind, strict=False), said
        except Exception as error:
            first = first or _first_line(error)
            better = mended(text, str(error)) if kind == "dbc" else None
        if better is None:
            break
        text = better[0]
        said.append(better[1])
    raise ReadingError(f"{name} cannot be read as {kind.upper()}: {first}")


def _decoded(text: bytes, kind: str) -> str:
    if kind in ("arxml", "kcd"):
        return text.decode("utf-8-sig", "replace")
    try:
        return text.decode("utf-8-sig")
    except UnicodeDecodeError:  # what most programs wrote before: a degree sign in it is no UTF-8
        return text.decode("cp1252", "replace")


def _first_line(error: Exception) -> str:
    line = str(error).strip().splitlines()[0] if str(error).strip() else type(error).__name__
    return line[:200].rstrip(".") + "."


def _clashes(name: str, messages: Sequence[Message]) -> tuple[str, ...]:
    """A sentence for each name or identifier that two messages share: the last holds for what is read, as cantools has it."""
    said: list[str] = []
    by_key: dict[tuple[int, bool], str] = {}
    names: set[str] = set()
    for message in messages:
        key = (message.frame_id, bool(message.is_extended_frame))
        if key in by_key:
            said.append(f"{name}: {by_key[key]} and {message.name} have the same identifier {message.frame_id:X}; {message.name} is taken.")
        by_key[key] = message.name
        if message.name in names:
            said.append(f"{name}: two messages are called {message.name}.")
        names.add(message.name)
    return tuple(said)


def group_of(identity: int) -> int:
    """The parameter group of an identifier of 29 bits, with destination and sender left out (SAE J1939-21)."""
    group = (identity >> 8) & 0x3FFFF
    return group & 0x3FF00 if (group >> 8) & 0xFF < 240 else group


class Known:
    """What some databases know: the message of a frame by its channel, identifier and kind.

    Of several databases that know a frame, one that is for its channel comes first, then the one that was given first.
    """

    def __init__(self, databases: Sequence[SignalDatabase]) -> None:
        self.databases = tuple(databases)
        self._tables: list[tuple[SignalDatabase, dict[tuple[int, bool], Message], dict[int, Message]]] = []
        for own in databases:
            exact = {(message.frame_id, bool(message.is_extended_frame)): message for message in own.messages}
            groups = {group_of(message.frame_id): message for message in own.messages if _is_j1939(message)}
            self._tables.append((own, exact, groups))

    @property
    def notes(self) -> tuple[str, ...]:
        """What is to be said of the databases."""
        said = [note for own in self.databases for note in own.notes]
        owners: dict[tuple[int, bool], tuple[str, str]] = {}
        for own, exact, _ in self._tables:
            for key in exact:
                first = owners.setdefault(key, (own.name, own.channel))
                if first[0] != own.name and (not first[1] or not own.channel or first[1] == own.channel):
                    said.append(f"{first[0]} and {own.name} both know the identifier {key[0]:X}: that of {first[0]} is taken.")
        return tuple(said)

    def message(self, channel: str, identity: int, extended: bool) -> Message | None:
        """The message that a frame is; None where none of the databases knows it."""
        for matched in (True, False):
            for own, exact, groups in self._tables:
                if bool(own.channel) is matched and own.channel in ("", channel):
                    found = exact.get((identity, extended)) or (groups.get(group_of(identity)) if extended else None)
                    if found is not None:
                        return found
        return None

    def expected(self, channel: str) -> Mapping[tuple[int, bool], Message]:
        """The messages that may be on a channel, by identifier and kind."""
        found: dict[tuple[int, bool], Message] = {}
        for own, exact, _ in self._tables:
            if own.channel in ("", channel):
                found = {**exact, **found}
        return found


def _is_j1939(message: Message) -> bool:
    return message.protocol == "j1939" and bool(message.is_extended_frame)
