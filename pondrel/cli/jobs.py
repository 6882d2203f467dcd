"""`pondrel job show`, `export` and `import`, and `pondrel codes read`."""

from __future__ import annotations

import hashlib
import json
import sqlite3
from collections.abc import Iterator
from contextlib import closing, contextmanager
from pathlib import Path

import click

from ..core.job.exchange import MOST_CHARACTERS
from ..core.module.causes import causes_for
from ..core.module.read_out import codes_from_text
from ..store.db import DATABASE, opened
from ..store.exchange import export_job, import_job, job_record
from ..store.folder import prepared
from ..store.reports import report_of_file
from ..web.report.outside import report_outside
from .files import data_folder, text_in

__all__ = ["codes", "job"]


@contextmanager
def _depot(existing: bool = True) -> Iterator[tuple[sqlite3.Connection, Path]]:
    """The database of the data folder; made where there is none, unless it must be there already."""
    folder = data_folder()
    if existing and not (folder / DATABASE).exists():
        raise click.ClickException(f"There is no database in {folder}: name the data folder in PONDREL_DATA.")
    with closing(opened(prepared(folder) / DATABASE)) as conn:
        yield conn, folder


@click.group("codes")
def codes() -> None:
    """Fault codes."""


@codes.command("read")
@click.argument("file")
@click.option("--json", "as_json", is_flag=True, help="Print JSON.")
def read_command(file: str, as_json: bool) -> None:
    """Take the fault codes of a text or CSV file apart: system, group, failure word, status, what was frozen with them."""
    found = codes_from_text(text_in(file))
    if as_json:
        causes = {code.name: [{"causes": list(c.causes), "origin": c.origin} for c in causes_for(code)] for code in found.codes}
        told = found.as_json()
        click.echo(json.dumps({**told, "usual_causes": causes}, indent=2, ensure_ascii=False))
        return
    for code in found.codes:
        where = f" ({code.module})" if code.module else ""
        click.echo(f"{code.name}{where} {code.status}".rstrip() + f": {code.says}" + (f". {code.text}" if code.text else ""))
        for name, value in code.frame:
            click.echo(f"    {name} = {value}")
        for listed in causes_for(code)[:1]:
            click.echo(f"    look at: {'; '.join(listed.causes)} ({listed.origin})")
    for line in found.passed_over:
        click.echo(f"passed over: {line}", err=True)


@click.group("job")
def job() -> None:
    """Jobs of the data folder that PONDREL_DATA names."""


@job.command("show")
@click.argument("number", type=click.IntRange(1))
@click.option("--json", "as_json", is_flag=True, help="Print JSON.")
def show_command(number: int, as_json: bool) -> None:
    """Print the whole record of job NUMBER."""
    with _depot() as (conn, _):
        found = job_record(conn, number)
    if as_json:
        click.echo(json.dumps(found, indent=2, ensure_ascii=False))
        return
    click.echo(f"{found['vehicle']['name']}: {found['job']['complaint']} ({found['stands']['waits_for']})")
    for entry in found["entries"]:
        struck = " [struck out]" if entry["struck"] else ""
        told = " ".join(filter(None, (entry["says"], entry["answer"])))
        click.echo(f"{entry['made_at']}  {entry['kind']:<12} {told}{struck}")


@job.command("export")
@click.argument("number", type=click.IntRange(1))
@click.option("-o", "--output", help="The file to write; what is printed goes there.")
def export_command(number: int, output: str | None) -> None:
    """Print job NUMBER with its vehicle, sheets, record and files as one JSON file."""
    with _depot() as (conn, folder):
        text = export_job(conn, folder, number)
    if output is None:
        click.echo(text, nl=False)
        return
    try:
        Path(output).write_text(text, encoding="utf-8")
    except OSError as error:
        raise click.ClickException(f"{output} cannot be written: {error.strerror}.") from None


@job.command("import")
@click.argument("file")
def import_command(file: str) -> None:
    """Take a job up from a FILE that `export` made; what is here already is not added again."""
    try:
        size = Path(file).stat().st_size
    except OSError as error:
        raise click.ClickException(f"{file} cannot be read: {error.strerror}.") from None
    if size > 4 * MOST_CHARACTERS:
        raise click.ClickException(f"{file} has {size / 1e6:.0f} MB: no exported job is that large.")
    text = text_in(file)
    with _depot(existing=False) as (conn, folder):
        found = import_job(conn, folder, text)
    if found.new:
        click.echo(f"Job {found.job_id} is new here, with {found.entries} entries.")
    elif found.entries:
        click.echo(f"Job {found.job_id} was here; {found.entries} entries are new.")
    else:
        click.echo(f"Job {found.job_id} is here already, and nothing is new.")


@job.command("report")
@click.argument("number", type=click.IntRange(1))
@click.option("--pdf", "as_pdf", is_flag=True, help="As PDF, kept and sealed in the record as from the screen.")
@click.option("--html", "as_html", is_flag=True, help="As one HTML file that holds everything.")
@click.option("--full", is_flag=True, help="The full record for the next workshop instead of the customer's page.")
@click.option(
    "--without", multiple=True, type=click.Choice(["readings", "pictures", "price"]), help="What is left off the customer's page."
)
@click.option("--claim", is_flag=True, help="With the warranty claim note.")
@click.option("-o", "--output", help="The file to write; without it what is made goes to standard output.")
def report_command(number: int, as_pdf: bool, as_html: bool, full: bool, without: tuple[str, ...], claim: bool, output: str | None) -> None:
    """Make the report of job NUMBER, the same as on the screen."""
    if as_pdf == as_html:
        raise click.UsageError("Say which: --pdf or --html.")
    shows = frozenset({"readings", "pictures", "price", *(("claim",) if claim else ())} - set(without))
    with _depot() as (_, folder):
        content = report_outside(folder, number, as_pdf, full, shows)
    if output is None:
        click.get_binary_stream("stdout").write(content)
        return
    try:
        Path(output).write_bytes(content)
    except OSError as error:
        raise click.ClickException(f"{output} cannot be written: {error.strerror}.") from None


@job.command("seal")
@click.argument("file")
def seal_command(file: str) -> None:
    """Say whether a PDF FILE is a report of this workshop, unchanged to the last byte; exit 1 where it is not."""
    try:
        digest = hashlib.sha256(Path(file).read_bytes()).hexdigest()
    except OSError as error:
        raise click.ClickException(f"{file} cannot be read: {error.strerror}.") from None
    with _depot() as (conn, _):
        found = report_of_file(conn, digest)
    if found is None:
        raise click.ClickException(f"{file} is no report of this workshop, or was changed since.")
    what = "the page for the customer" if found.sheet == "customer" else "the full record"
    click.echo(
        f"Unchanged: {what} of job {found.job_id}, seal {found.seal}, made {found.made_at}"
        + (", withdrawn since" if found.withdrawn else "")
    )
