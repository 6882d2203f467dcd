"""`pondrel sheet`: checking and storing circuit sheets."""

from __future__ import annotations

import json
import sys
from pathlib import Path

import click

from ..core.base.brief import quoted
from ..core.base.errors import MakingError, SheetError
from ..core.circuit.read.remarks import remarks
from ..core.circuit.read.schema import json_schema
from ..core.circuit.read.sheet import parse_sheet
from ..core.making.asked import Thing
from ..core.making.bring import brought
from ..core.making.typical import TYPICALS, made, typical_called
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


@sheet.command("make")
@click.argument("typical", required=False)
@click.option("--set", "given", multiple=True, help="THING.QUESTION=ANSWER; may be given more than once. What is not given is as usual.")
@click.option("--asked", is_flag=True, help="List what is asked of it instead, with the answers that hold where none is given.")
@click.option("--json", "as_json", is_flag=True, help="Print JSON.")
def sheet_make(typical: str | None, given: tuple[str, ...], asked: bool, as_json: bool) -> None:
    """Print a sheet made from a typical circuit; without TYPICAL, list those there are."""
    if typical is None:
        _list_typicals(as_json)
        return
    chosen, answers = typical_called(typical), _answers(given)
    if asked:
        _list_asked(chosen.asks(answers), answers, as_json)
        return
    text = made(chosen, answers)
    click.echo(json.dumps({"typical": chosen.name, "sheet": text}, indent=2) if as_json else text, nl=as_json)


@sheet.command("from")
@click.argument("file")
@click.option("--json", "as_json", is_flag=True, help="Print JSON: the sheet, and what could not be read by line.")
def sheet_from(file: str, as_json: bool) -> None:
    """Print a sheet made from a wire list (CSV), a WireViz harness, a SPICE netlist or another sheet; what could not be read is told on the
    error output, a line each."""
    found = brought(Path(file).name, text_in(file))
    if as_json:
        unread = [{"line": line, "says": says} for line, says in found.unread]
        click.echo(json.dumps({"sheet": found.text, "unread": unread}, indent=2))
        return
    click.echo(found.text, nl=False)
    for line, says in found.unread:
        click.echo(f"{file}: {f'line {line}: ' if line else ''}{says}", err=True)


def _list_typicals(as_json: bool) -> None:
    if as_json:
        told = [{"name": t.name, "title": t.title, "family": t.family, "summary": t.summary} for t in TYPICALS.values()]
        click.echo(json.dumps(told, indent=2))
        return
    width = max(map(len, TYPICALS))
    for each in TYPICALS.values():
        click.echo(f"{each.name:{width}}  {each.title}: {each.summary}")


def _answers(given: tuple[str, ...]) -> dict[str, str]:
    answers = {}
    for item in given:
        key, equals, value = item.partition("=")
        if not equals or not key.strip():
            raise MakingError(f"{quoted(item)} is no answer: write it as THING.QUESTION=ANSWER, such as fuse.rating=10.")
        answers[key.strip()] = value
    return answers


def _list_asked(things: tuple[Thing, ...], answers: dict[str, str], as_json: bool) -> None:
    rows = [
        {
            "key": key, "thing": thing.title, "asks": each.words, "answer": answers.get(key) or each.default, "offers": list(each.offer),
            "only": each.only,
        }
        for thing in things
        for each in thing.asked
        for key in (f"{thing.key}.{each.name}",)
    ]  # fmt: skip
    if as_json:
        click.echo(json.dumps(rows, indent=2))
        return
    for row in rows:
        click.echo(f"{row['key']}={row['answer']}    {row['thing']}: {row['asks']}")


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
