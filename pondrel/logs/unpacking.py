"""A file packed with gzip as a stream that gives what can be had of it, though it breaks off."""

from __future__ import annotations

import io
import zlib
from typing import BinaryIO

__all__ = ["Unpacked"]

_PIECE = 1 << 18
_GZIP = 31  # zlib's word for a header and a check sum of gzip


class Unpacked(io.RawIOBase):
    """The contents of a file packed with gzip (RFC 1952), member by member; ``broken`` when it ended too early or made no sense."""

    def __init__(self, raw: BinaryIO) -> None:
        self._raw = raw
        self.broken = False
        self._begin()

    def _begin(self) -> None:
        self._raw.seek(0)
        self._member = zlib.decompressobj(_GZIP)
        self._packed, self._ready, self._ended, self._at = b"", b"", False, 0

    def readable(self) -> bool:
        """It is."""
        return True

    def seekable(self) -> bool:
        """To its beginning only, for whoever looks at the first bytes."""
        return True

    def seek(self, offset: int, whence: int = io.SEEK_SET) -> int:
        """Back to the beginning, or forward from there."""
        if whence != io.SEEK_SET:
            raise io.UnsupportedOperation("A packed log is read from its beginning.")
        if offset < self._at:
            self._begin()
        while self._at < offset and self.read(min(offset - self._at, _PIECE)):
            pass
        return self._at

    def tell(self) -> int:
        """How many bytes were given out."""
        return self._at

    def readinto(self, buffer: memoryview) -> int:  # type: ignore[override]
        """The next bytes; none at the end, be it the right one or not."""
        while not self._ready and not self._ended:
            self._more()
        count = min(len(buffer), len(self._ready))
        buffer[:count] = self._ready[:count]
        self._ready = self._ready[count:]
        self._at += count
        return count

    def _more(self) -> None:
        if not self._packed:
            self._packed = self._raw.read(_PIECE)
            if not self._packed:
                self.broken = self.broken or not self._member.eof
                self._ended = True
                return
        if self._member.eof:
            self._packed = self._packed.lstrip(b"\0")  # what pads the end of a file on tape
            if not self._packed:
                return
            self._member = zlib.decompressobj(_GZIP)
        try:
            # So much at a time and no more: a small file may hold gigabytes.
            self._ready = self._member.decompress(self._packed, _PIECE)
        except zlib.error:
            self.broken = self._ended = True
            return
        self._packed = self._member.unused_data if self._member.eof else self._member.unconsumed_tail
