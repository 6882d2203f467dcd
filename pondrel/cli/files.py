"""Reading what a command names: files, sheets, the data folder."""

from __future__ import annotations

import os
import sys
from pathlib import Path

import click

from ..core.base.errors import SheetError
from ..core.circuit.read.sheet import parse_sheet
from ..core.circuit.sheet import Sheet

__all__ = ["data_folder", "sheet_in", "text_in"]


def text_in(path: str) -> str:
    """A file's text. Raises ClickException where it cannot be read."""
    try:
        return Path(path).read_text(encoding="utf-8")
    except (OSError, UnicodeDecodeError) as error:
        reason = error.strerror if isinstance(error, OSError) else "it is not UTF-8 text"
        raise click.ClickException(f"{path} cannot be read: {reason}.") from None


def sheet_in(path: str) -> Sheet:
    """A file's sheet; a wrong one is told line by line, and the command ends with exit 1."""
    try:
        return parse_sheet(text_in(path))
    except SheetError as error:
        for line in error.lines(path):
            click.echo(line, err=True)
        sys.exit(1)


def data_folder(otherwise: str = "data") -> Path:
    """The folder that PONDREL_DATA names."""
    return Path(os.environ.get("PONDREL_DATA") or otherwise)
