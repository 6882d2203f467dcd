"""Many sheets in one ZIP file: names that cannot lead out of a folder, and no more than a library can take."""

from __future__ import annotations

import io
import re
import zipfile
import zlib
from collections.abc import Iterable
from dataclasses import dataclass

from ..base.brief import quoted
from ..base.errors import MakingError, PondrelError
from ..making.bring import brought

__all__ = ["Unpacked", "packed", "unpacked"]

MOST_FILES, MOST_BYTES, MOST_RATIO = 500, 20_000_000, 200
_UNFIT = re.compile(r"[^a-z0-9]+")


@dataclass(frozen=True, slots=True)
class Unpacked:
    """What a bundle holds: sheets as pairs of a name and a text, and what could not be taken, as pairs of a name and a sentence."""

    sheets: tuple[tuple[str, str], ...]
    refused: tuple[tuple[str, str], ...]


def packed(sheets: Iterable[tuple[str, str, str]]) -> bytes:
    """A ZIP of sheets given as family, title and text: a folder a family, names from the titles."""
    out, taken = io.BytesIO(), set()
    with zipfile.ZipFile(out, "w", zipfile.ZIP_DEFLATED) as bundle:
        for family, title, text in sheets:
            folder, stem = _plain(family) or "other", _plain(title) or "sheet"
            name = next(n for k in range(1, 10_000) if (n := f"{folder}/{stem}{f'-{k}' if k > 1 else ''}.yaml") not in taken)
            taken.add(name)
            bundle.writestr(zipfile.ZipInfo(name, (2000, 1, 1, 0, 0, 0)), text)  # the same sheets are the same bytes
    return out.getvalue()


def _plain(text: str) -> str:
    return _UNFIT.sub("-", text.lower()).strip("-")[:60]


def unpacked(content: bytes) -> Unpacked:
    """The sheets of a bundle. Raises MakingError for what is no bundle, or too much of one; a file that is no good sheet, or whose name
    leads out of the bundle, is refused with a sentence and the others are taken."""
    try:
        bundle = zipfile.ZipFile(io.BytesIO(content))
        members = [member for member in bundle.infolist() if not member.is_dir()]
    except (zipfile.BadZipFile, ValueError, OSError, NotImplementedError) as error:
        raise MakingError("This is no ZIP file, or a damaged one: make it again from the library's own list.") from error
    if len(members) > MOST_FILES:
        raise MakingError(f"The bundle holds {len(members):,} files; at most {MOST_FILES} are taken at once.")
    if sum(member.file_size for member in members) > MOST_BYTES:
        raise MakingError(f"Unpacked the bundle is larger than {MOST_BYTES // 1_000_000} MB: split it.")
    sheets, refused = [], []
    for member in members:
        try:
            sheets.append((member.filename[:120], _read(bundle, member)))
        except PondrelError as error:
            refused.append((member.filename[:120], str(error)[:300]))
    return Unpacked(tuple(sheets), tuple(refused))


def _read(bundle: zipfile.ZipFile, member: zipfile.ZipInfo) -> str:
    name = member.filename
    if name.startswith(("/", "\\")) or ".." in re.split(r"[/\\]", name) or ":" in name or "\x00" in name:
        raise MakingError(f"{quoted(name[:60])} leads out of the bundle: it is not taken.")
    if member.file_size > MOST_RATIO * max(member.compress_size, 100):
        raise MakingError("It unfolds to far more than it is: it is not taken.")
    if member.flag_bits & 0x1:
        raise MakingError("It is locked with a password: make the bundle without one.")
    try:
        with bundle.open(member) as file:
            text = file.read(MOST_BYTES + 1).decode("utf-8-sig")
    except (UnicodeDecodeError, zipfile.BadZipFile, OSError, RuntimeError, NotImplementedError, ValueError, EOFError) as error:
        raise MakingError("It cannot be unpacked as text: it is damaged, or no sheet.") from error
    except zlib.error as error:
        raise MakingError("It cannot be unpacked: it is damaged.") from error
    return brought(name.rpartition("/")[2], text).annotated
