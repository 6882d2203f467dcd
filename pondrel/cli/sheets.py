"""`pondrel sheet`: checking and storing circuit sheets."""

from __future__ import annotations

import json
import sys

import click

from ..core.base.errors import SheetError
from ..core.circuit.read.remarks import remarks
from ..core.circuit.read.schema import json_schema
from ..core.circuit.read.sheet import parse_sheet
from ..store.db import DATABASE, atomic, opened
from ..store.folder import prepared
from ..store.sheets import add_sheet
from .files import data_folder, sheet_in, text_in

__all__ = ["sheet"]


@click.group()
def sheet() -> None:
    """Circuit sheets."""


@sheet.command("check")
@click.argument("file")
def sheet_check(file: str) -> None:
    """Silence and exit 0 for a good sheet; one line per flaw and exit 1 otherwise. What is allowed and most probably not meant is a line
    that begins with "warning" after its path; the exit is 0 then."""
    try:
        circuit = parse_sheet(text_in(file))
    except SheetError as error:
        for line in error.lines(file):
            click.echo(line)
        sys.exit(1)
    for path, says in remarks(circuit):
        click.echo(f"{file}: {path}: warning: {says}")


@sheet.command("schema")
def sheet_schema() -> None:
    """Print the JSON Schema of the sheet format."""
    click.echo(json.dumps(json_schema(), indent=2))


@sheet.command("add")
@click.argument("file")
def sheet_add(file: str) -> None:
    """Store a sheet in the data folder, so that jobs can be opened on it."""
    circuit = sheet_in(file)
    conn = opened(prepared(data_folder()) / DATABASE)
    with atomic(conn):
        number = add_sheet(conn, text_in(file))
    conn.close()
    click.echo(f"'{circuit.title}' is sheet {number}.")
