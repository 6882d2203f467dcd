"""A log read from its file in pieces, whatever its format, packed or not."""

from __future__ import annotations

import codecs
import io
from collections.abc import Iterator
from pathlib import Path
from typing import BinaryIO, cast

from ..core.base.errors import ReadingError
from ..core.bus.formats.registry import format_of_text
from ..core.bus.frames import ChannelNames, Frames
from .packaged import PackagedReader, looks_like
from .unpacking import Unpacked

__all__ = ["LogFile"]

_PIECE = 1_000_000
_HEAD = 16_384
_LONGEST_LINE = 1_000_000
_MARKS_OF_UTF_16 = (b"\xff\xfe", b"\xfe\xff")


class LogFile:
    """A log's frames, piece by piece; iterate once.

    Raises `ReadingError` where the file is no log; what was left out or is damaged is in ``notes`` when all is read.
    """

    def __init__(self, path: Path, name: str = "") -> None:
        """``name``: what the file is called, where it lies under another name."""
        self.path = path
        called = Path(name or path.name)
        try:
            self._size = path.stat().st_size
            self._raw = path.open("rb")
        except OSError as error:
            raise ReadingError(f"{called.name} cannot be read: {error.strerror}.") from error
        packed = self._raw.read(2) == b"\x1f\x8b"
        self._raw.seek(0)
        self._unpacked = Unpacked(self._raw) if packed else None
        self._file = cast(BinaryIO, io.BufferedReader(self._unpacked) if self._unpacked is not None else self._raw)
        self.name = called.with_suffix("").name if packed else called.name
        head = self._file.read(_HEAD)
        self._file.seek(0)
        if not head:
            raise ReadingError(f"{called.name} is {'packed with gzip, but damaged' if packed else 'empty'}.")
        self._text = None
        kind = looks_like(head, Path(self.name))
        own = format_of_text(_decoded(head)) if kind is None or kind == "trc" else None
        if own is not None:
            kind, self._text, self.channels = own.name, own.reader(), ChannelNames()
            self._wide = codecs.getincrementaldecoder("utf-16")("replace") if head[:2] in _MARKS_OF_UTF_16 else None
        elif kind is not None:
            self._packaged = PackagedReader(kind, self._file, self._whole_size)
        else:
            raise ReadingError(
                f"{called.name} is no log that is known here: candump, ASC, TRC, BLF, MDF4 or a table (CSV) whose first line names time, "
                "id and data."
            )
        self.kind = kind
        self.channels = self._text.channels if self._text is not None else self._packaged.channels

    def _whole_size(self) -> int:
        return self._size if self._unpacked is None else self._unpacked.tell()

    @property
    def notes(self) -> tuple[str, ...]:
        """What is to be said of what was read so far."""
        broken = self._unpacked is not None and self._unpacked.broken
        said = ("The packed file breaks off or is damaged: what comes after is not read.",) if broken else ()
        return (*said, *(self._text.notes if self._text is not None else self._packaged.notes))

    @property
    def share(self) -> float:
        """How much of the file is read, 0 to 1."""
        return min(self._raw.tell() / self._size, 1.0) if self._size and not self._raw.closed else 1.0

    def __iter__(self) -> Iterator[Frames]:
        try:
            if self._text is None:
                yield from self._packaged
                return
            for text in self._lines():
                frames = self._text.piece(text)
                if len(frames):
                    yield frames
        finally:
            self._file.close()
            self._raw.close()

    def _lines(self) -> Iterator[bytes]:
        """Whole lines, about a megabyte at a time."""
        kept = b""
        while True:
            piece = self._file.read(_PIECE)
            if self._wide is not None and piece:
                piece = self._wide.decode(piece).encode()
            if not piece:
                if kept.strip():
                    yield kept
                return
            piece = kept + piece
            end = piece.rfind(b"\n") + 1
            if not end and len(piece) > _LONGEST_LINE * 8:
                raise ReadingError(f"{self.name} has a line of more than {_LONGEST_LINE} characters: that is no log.")
            kept = piece[end:]
            if end:
                yield piece[:end]


def _decoded(head: bytes) -> str:
    coding = "utf-16" if head[:2] in _MARKS_OF_UTF_16 else "utf-8-sig"
    return head.decode(coding, "replace")
