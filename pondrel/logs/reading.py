"""A log read from its file in pieces, whatever its format, packed or not."""

from __future__ import annotations

import codecs
import io
from collections.abc import Iterator
from pathlib import Path
from typing import Any, BinaryIO, cast

from ..core.base.errors import ReadingError
from ..core.bus.formats.blf import SIGNATURE, BlfReader
from ..core.bus.formats.registry import format_of_text
from ..core.bus.formats.text import Reader
from ..core.bus.frames import Frames
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
            with path.open("rb") as raw:
                self._is_packed = raw.read(2) == b"\x1f\x8b"
                raw.seek(0)
                head = Unpacked(raw).read(_HEAD) if self._is_packed else raw.read(_HEAD)
        except OSError as error:
            raise ReadingError(f"{called.name} cannot be read: {error.strerror}.") from error
        if not head:
            raise ReadingError(f"{called.name} is {'packed with gzip, but damaged' if self._is_packed else 'empty'}.")
        self.name = called.with_suffix("").name if self._is_packed else called.name
        self._raw: BinaryIO | None = None
        self._unpacked: Unpacked | None = None
        self._text: Reader | None = None
        self._packaged: PackagedReader | None = None
        self._binary = BlfReader() if head.startswith(SIGNATURE) or self.name.lower().endswith(".blf") else None
        kind = "blf" if self._binary is not None else looks_like(head, Path(self.name))
        own = format_of_text(_decoded(head)) if kind is None or kind == "trc" else None
        if own is not None:
            kind, self._text = own.name, own.reader()
            self._wide = codecs.getincrementaldecoder("utf-16")("replace") if head[:2] in _MARKS_OF_UTF_16 else None
        elif kind is not None and self._binary is None:
            self._packaged = PackagedReader(kind)
        elif self._binary is None:
            raise ReadingError(
                f"{called.name} is no log that is known here: candump, ASC, TRC, BLF, MDF4 or a table (CSV) whose first line names time, "
                "id and data."
            )
        assert kind is not None
        self.kind = kind
        self._reader: Reader | PackagedReader = cast(Any, self._text or self._binary or self._packaged)
        self.channels = self._reader.channels

    @property
    def notes(self) -> tuple[str, ...]:
        """What is to be said of what was read so far."""
        broken = self._unpacked is not None and self._unpacked.broken
        said = ("The packed file breaks off or is damaged: what comes after is not read.",) if broken else ()
        return (*said, *self._reader.notes)

    @property
    def share(self) -> float:
        """How much of the file is read, 0 to 1."""
        return min(self._raw.tell() / self._size, 1.0) if self._raw is not None and not self._raw.closed else 1.0

    def __iter__(self) -> Iterator[Frames]:
        with self.path.open("rb") as self._raw:
            self._unpacked = Unpacked(self._raw) if self._is_packed else None
            file = cast(BinaryIO, io.BufferedReader(self._unpacked) if self._unpacked is not None else self._raw)
            if self._packaged is not None:
                found = self._packaged.frames(file)
            elif self._binary is not None:
                found = self._of_binary(self._binary, file)
            else:
                assert self._text is not None
                found = map(self._text.piece, self._lines(file))
            yield from (frames for frames in found if len(frames))

    def _of_binary(self, reader: BlfReader, file: BinaryIO) -> Iterator[Frames]:
        yield from map(reader.piece, iter(lambda: file.read(_PIECE), b""))
        yield reader.rest()

    def _lines(self, file: BinaryIO) -> Iterator[bytes]:
        """Whole lines, about a megabyte at a time."""
        kept = b""
        while True:
            piece = file.read(_PIECE)
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
