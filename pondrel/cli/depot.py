"""The database of the data folder, for a command."""

from __future__ import annotations

import sqlite3
from collections.abc import Iterator
from contextlib import closing, contextmanager
from pathlib import Path

import click

from ..store.db import DATABASE, opened
from ..store.folder import prepared
from .files import data_folder

__all__ = ["depot"]


@contextmanager
def depot(existing: bool = True) -> Iterator[tuple[sqlite3.Connection, Path]]:
    """The database of the data folder; made where there is none, unless it must be there already."""
    folder = data_folder()
    if existing and not (folder / DATABASE).exists():
        raise click.ClickException(f"There is no database in {folder}: name the data folder in PONDREL_DATA.")
    with closing(opened(prepared(folder) / DATABASE)) as conn:
        yield conn, folder
