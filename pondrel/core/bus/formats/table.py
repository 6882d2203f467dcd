"""Logs as tables: a first line that names its columns (time, identifier, data and what else is known), then a frame a line; CAN or LIN."""

from __future__ import annotations

import base64
import binascii
import csv
import re
from collections.abc import Iterator, Mapping, Sequence

from ...base.errors import ReadingError
from ..frames import BRS, ERROR, ESI, EXTENDED, FD, LIN, REMOTE, SENT, ChannelNames, Frames, joined
from .odd import Odd
from .text import fields_joined, from_fields

__all__ = ["TABLE_COLUMNS", "TableReader", "is_heading", "table_lines"]

TABLE_COLUMNS = ("time", "channel", "id", "extended", "remote", "error", "fd", "brs", "esi", "sent", "lin", "length", "data")
# What a column may be called, spelled without spaces, signs and units.
_NAMES: Mapping[str, frozenset[str]] = {
    "time": frozenset({"time", "timestamp", "t", "abstime", "timeabs", "timeoffset", "seconds", "timestamps"}),
    "channel": frozenset({"channel", "bus", "interface", "ch", "network"}),
    "id": frozenset({"id", "canid", "arbitrationid", "identifier", "frameid", "messageid", "msgid", "linid", "pid", "arbid"}),
    "extended": frozenset({"extended", "ext", "ide", "isextended", "isextendedid", "xtd", "extid"}),
    "remote": frozenset({"remote", "rtr", "isremote", "remoteframe", "isremoteframe"}),
    "error": frozenset({"error", "iserror", "errorframe", "iserrorframe"}),
    "fd": frozenset({"fd", "edl", "fdf", "isfd", "canfd"}),
    "brs": frozenset({"brs", "bitrateswitch"}),
    "esi": frozenset({"esi", "errorstateindicator"}),
    "sent": frozenset({"sent", "dir", "direction", "rxtx", "way"}),
    "lin": frozenset({"lin", "bustype", "protocol"}),
    "length": frozenset({"length", "dlc", "len", "datalength", "bytes", "size", "count"}),
    "data": frozenset({"data", "payload", "databytes", "datahex", "hexdata"}),
    "checksum": frozenset({"checksum", "linchecksum", "chksum"}),
}
_BYTE = re.compile(r"(?:d|b|db|data|byte|databyte)(\d{1,2})")
_SCALES = {"s": 1.0, "sec": 1.0, "seconds": 1.0, "ms": 1e-3, "us": 1e-6, "µs": 1e-6, "μs": 1e-6, "ns": 1e-9}
_PACKAGE_HEADING = ["timestamp", "arbitration_id", "extended", "remote", "error", "dlc", "data"]
_TRUE = frozenset({"1", "true", "yes", "x", "t", "tx", "txrq", "y", "xtd", "ext", "lin", "fd", "sent"})
_DELIMITERS = ",;\t|"


def _plain(name: str) -> str:
    return re.sub(r"[^a-z0-9]", "", re.sub(r"[(\[].*?[)\]]", "", name.lower()))


def _columns(heading: Sequence[str]) -> dict[str, int]:
    """Which column is what; bytes of their own as b0, b1 and so on."""
    found: dict[str, int] = {}
    for place, name in enumerate(heading):
        plain = _plain(re.sub(r"(?<=[a-z])[_ ]+(s|ms|us|ns)$", "", name.strip().lower()))
        own = next((column for column, names in _NAMES.items() if plain in names), None)
        byte = _BYTE.fullmatch(plain)
        if own is None and byte:
            own = f"b{int(byte[1])}"
        if own is not None:
            found.setdefault(own, place)
    return found


def is_heading(line: str) -> bool:
    """Whether a line names the columns of such a log."""
    return any({"time", "id"} <= set(_columns(line.split(delimiter))) for delimiter in _DELIMITERS)


class TableReader:
    """Reads such a log in pieces."""

    def __init__(self) -> None:
        self.channels = ChannelNames()
        self.odd = Odd()
        self._columns: dict[str, int] | None = None
        self._base: int | None = None
        self._said: list[str] = []

    @property
    def notes(self) -> tuple[str, ...]:
        """What is to be said of what was read so far."""
        return (*self._said, *self.odd.notes)

    def piece(self, text: bytes) -> Frames:
        """The frames of some whole lines."""
        lines = text.decode("utf-8-sig", "replace").splitlines()
        if self._columns is None:
            lines = self._head(lines)
        rows = csv.reader(lines, delimiter=self._delimiter)
        found = []
        for row in rows:
            if not any(word.strip() for word in row):
                continue
            try:
                found.append(self._frame(row))
            except (ValueError, IndexError, binascii.Error, csv.Error):
                self.odd.tell("wrong", f"{self._delimiter.join(row)[:60]!r}")
        return joined(found)

    def _head(self, lines: list[str]) -> list[str]:
        for place, line in enumerate(lines):
            for delimiter in _DELIMITERS:
                heading = [word.strip().strip('"') for word in line.split(delimiter)]
                columns = _columns(heading)
                if {"time", "id"} <= set(columns):
                    self._delimiter, self._columns = delimiter, columns
                    self._package = [word.lower() for word in heading] == _PACKAGE_HEADING
                    self._bytes = sorted((int(name[1:]), at) for name, at in columns.items() if re.fullmatch(r"b\d+", name))
                    self._scale = self._scale_of(heading[columns["time"]])
                    self._look(lines[place + 1 :])
                    return lines[place + 1 :]
        raise ReadingError("A log as a table begins with a line that names its columns: time, id and data at least.")

    @staticmethod
    def _scale_of(name: str) -> float:
        unit = re.search(r"[(\[_ ]\s*([a-zµμ]+)\s*[)\]]?$", name.strip().lower())
        return _SCALES.get(unit[1], 1.0) if unit else 1.0

    def _look(self, lines: list[str]) -> None:
        """In which base identifiers are written, from the first of them."""
        assert self._columns is not None
        at = self._columns["id"]
        words = [row[at].strip() for row in csv.reader(lines[:2000], delimiter=self._delimiter) if len(row) > at]
        plain = [word.rstrip("xXhH") for word in words if word and not word.lower().startswith("0x")]
        if not plain:
            return
        hexadecimal = any(re.search(r"[a-fA-F]", word) for word in plain) or any(len(word) > 1 and word[0] == "0" for word in plain)
        self._base = 16 if hexadecimal else 10
        if not hexadecimal:
            self._said.append("Identifiers are taken as decimal: none of the first holds a letter or leads with a nought.")

    def _cell(self, row: Sequence[str], name: str) -> str:
        at = self._columns.get(name) if self._columns else None
        return row[at].strip() if at is not None and at < len(row) else ""

    def _is(self, row: Sequence[str], name: str) -> bool:
        return self._cell(row, name).lower() in _TRUE

    def _frame(self, row: Sequence[str]) -> Frames:
        time = float(self._cell(row, "time").replace(",", ".")) * self._scale
        place = self.channels.place(self._cell(row, "channel") or "1")
        if self._is(row, "error"):
            return from_fields(time, 0, ERROR, place, b"")
        word = self._cell(row, "id")
        extended = word[-1:] in ("x", "X")
        word = word.rstrip("xXhH") if not word.lower().startswith("0x") else word
        identity = int(word, 16 if word.lower().startswith("0x") else self._base or 16)
        is_lin = bool(self._cell(row, "checksum")) or self._is(row, "lin")
        if not 0 <= identity < 1 << 29:
            raise ValueError(word)
        extended = extended or self._is(row, "extended") or identity > 0x7FF
        kind = (EXTENDED if extended else 0) | (SENT if self._is(row, "sent") else 0)
        asked = self._cell(row, "length")
        if self._is(row, "remote"):
            return from_fields(time, identity, kind | REMOTE, place, b"", int(asked or 0))
        data = self._data(row)
        flexible = self._is(row, "fd") or len(data) > 8
        if flexible:
            kind |= FD | (BRS if self._is(row, "brs") else 0) | (ESI if self._is(row, "esi") else 0)
        if is_lin:
            kind = LIN | (kind & SENT)
            identity &= 0x3F  # a protected identifier carries two bits of parity above its six
        if asked and len(data) > int(asked) and not flexible:
            data = data[: int(asked)]
        if len(data) > 64:
            self.odd.tell("overlong", f"{self._delimiter.join(row)[:60]!r}")
            data = data[:64]
        return from_fields(time, identity, kind, place, data)

    def _data(self, row: Sequence[str]) -> bytes:
        if self._bytes and "data" not in (self._columns or {}):
            words = [row[at].strip() for _, at in self._bytes if at < len(row)]
            return bytes(int(word, 16) for word in words if word)
        word = self._cell(row, "data")
        if self._package:
            return base64.b64decode(word, validate=True)
        return bytes.fromhex(re.sub(r"0x|[\s_:.\-]", "", word, flags=re.IGNORECASE))


def table_lines(frames: Frames, names: tuple[str, ...]) -> Iterator[str]:
    """Frames as lines below the heading of `TABLE_COLUMNS`; data in hexadecimal digits."""
    begins = frames.begins
    quoted = [f'"{name}"' if re.search(r"[,\"\s]", name) else name for name in names]
    for place, (time, identity, flags, channel, length) in enumerate(fields_joined(frames)):
        known = f"0x{identity:X}" if not flags & ERROR else "0x0"
        bits = [str(int(bool(flags & flag))) for flag in (EXTENDED, REMOTE, ERROR, FD, BRS, ESI, SENT, LIN)]
        data = frames.bytes_of(place, begins).hex().upper()
        yield f"{time:.6f},{quoted[channel]},{known},{','.join(bits)},{length},{data}\n"
