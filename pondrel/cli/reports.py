"""`pondrel job report` and `pondrel job seal`."""

from __future__ import annotations

import hashlib
from pathlib import Path

import click

from ..core.base.errors import PondrelError
from ..core.job.report import SHEETS
from ..store.db import atomic
from ..store.jobs import get_job
from ..store.reports import report_of_file
from .depot import depot

__all__ = ["report_command", "seal_command"]


def _made(folder: Path, job_id: int, as_pdf: bool, sheet: str, shows: frozenset[str]) -> bytes:
    """The report of a job as PDF, which is kept and sealed as from the screen, or as HTML. Raises PondrelError with one sentence."""
    # The screens are loaded where a report is made, and not for every command.
    from ..web import create_app
    from ..web.jobs.docket import record_of
    from ..web.report.made import html_sheet, kept, ready_pdf
    from ..web.shell.database import get_db

    app = create_app(folder)
    with app.test_request_context():
        conn = get_db()
        if get_job(conn, job_id) is None:
            raise PondrelError(f"There is no job {job_id}: the Bay lists every job.")
        record = record_of(conn, job_id)
        if not as_pdf:
            return html_sheet(record, sheet, shows).encode("utf-8")
        ready = ready_pdf(record, sheet, shows)
        with atomic(conn):
            kept(conn, folder, job_id, ready, "")
        return ready.pdf.content


@click.command("report")
@click.argument("number", type=click.IntRange(1))
@click.option("--pdf", "as_pdf", is_flag=True, help="As PDF, kept and sealed in the record as from the screen.")
@click.option("--html", "as_html", is_flag=True, help="As one HTML file that holds everything.")
@click.option("--full", is_flag=True, help="The full record for the next workshop instead of the customer's page.")
@click.option("--plan", is_flag=True, help="The plan of what is left instead of the customer's page.")
@click.option(
    "--without", multiple=True, type=click.Choice(["readings", "pictures", "price"]), help="What is left off the customer's page."
)
@click.option("--claim", is_flag=True, help="With the warranty claim note.")
@click.option("-o", "--output", help="The file to write; without it what is made goes to standard output.")
def report_command(
    number: int, as_pdf: bool, as_html: bool, full: bool, plan: bool, without: tuple[str, ...], claim: bool, output: str | None
) -> None:
    """Make the report of job NUMBER, the same as on the screen."""
    if as_pdf == as_html:
        raise click.UsageError("Say which: --pdf or --html.")
    if full and plan:
        raise click.UsageError("Say which: --full or --plan.")
    shows = frozenset({"readings", "pictures", "price", *(("claim",) if claim else ())} - set(without))
    with depot() as (_, folder):
        content = _made(folder, number, as_pdf, "full" if full else "plan" if plan else "customer", shows)
    if output is None:
        click.echo(content, nl=False)
        return
    try:
        Path(output).write_bytes(content)
    except OSError as error:
        raise click.ClickException(f"{output} cannot be written: {error.strerror}.") from None


@click.command("seal")
@click.argument("file")
def seal_command(file: str) -> None:
    """Say whether a PDF FILE is a report of this workshop, unchanged to the last byte; exit 1 where it is not."""
    try:
        digest = hashlib.sha256(Path(file).read_bytes()).hexdigest()
    except OSError as error:
        raise click.ClickException(f"{file} cannot be read: {error.strerror}.") from None
    with depot() as (conn, _):
        found = report_of_file(conn, digest)
    if found is None:
        raise click.ClickException(f"{file} is no report of this workshop, or was changed since.")
    click.echo(
        f"Unchanged: report of job {found.job_id}, {SHEETS[found.sheet]}, seal {found.seal}, made {found.made_at}"
        + (", withdrawn since" if found.withdrawn else "")
    )
