"""Reading what a command names: files, sheets, the data folder."""

from __future__ import annotations

import io
import os
import sys
from collections.abc import Callable
from pathlib import Path
from typing import BinaryIO, TypeVar

import click

from ..core.base.errors import SheetError
from ..core.circuit.read.sheet import parse_sheet
from ..core.circuit.sheet import Sheet
from ..core.module.roster import Roster, parse_roster
from ..core.wave.read import MOST_BYTES

T = TypeVar("T")
__all__ = ["data_folder", "roster_in", "sheet_in", "stream_of", "text_in"]


def text_in(path: str) -> str:
    """A file's text. Raises ClickException where it cannot be read."""
    try:
        return Path(path).read_text(encoding="utf-8")
    except (OSError, UnicodeDecodeError) as error:
        reason = error.strerror if isinstance(error, OSError) else "it is not UTF-8 text"
        raise click.ClickException(f"{path} cannot be read: {reason}.") from None


def stream_of(path: str) -> BinaryIO:
    """A file as a stream of bytes that can be read anywhere. Raises ClickException where it cannot be read."""
    try:
        stream = Path(path).open("rb")  # noqa: SIM115 - whoever asked for it closes it
    except OSError as error:
        raise click.ClickException(f"{path} cannot be read: {error.strerror}.") from None
    if stream.seekable() and Path(path).is_file():
        return stream
    with stream:
        return io.BytesIO(stream.read(MOST_BYTES + 1))


def sheet_in(path: str) -> Sheet:
    """A file's sheet; a wrong one is told line by line, and the command ends with exit 1."""
    return _read(path, parse_sheet)


def roster_in(path: str) -> Roster:
    """A file's roster of modules; a wrong one is told as a sheet is."""
    return _read(path, parse_roster)


def _read(path: str, parse: Callable[[str], T]) -> T:
    try:
        return parse(text_in(path))
    except SheetError as error:
        for line in error.lines(path):
            click.echo(line, err=True)
        sys.exit(1)


def data_folder(otherwise: str = "data") -> Path:
    """The folder that PONDREL_DATA names."""
    return Path(os.environ.get("PONDREL_DATA") or otherwise)
