"""`pondrel job show`, `export` and `import`, and `pondrel codes read`."""

from __future__ import annotations

import json
from pathlib import Path

import click

from ..core.job.exchange import MOST_CHARACTERS
from ..core.module.causes import causes_for
from ..core.module.read_out import codes_from_text
from ..store.exchange import export_job, import_job, job_record
from .depot import depot
from .files import text_in
from .reports import report_command, seal_command

__all__ = ["codes", "job"]


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
    with depot() as (conn, _):
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
    with depot() as (conn, folder):
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
    with depot(existing=False) as (conn, folder):
        found = import_job(conn, folder, text)
    if found.new:
        click.echo(f"Job {found.job_id} is new here, with {found.entries} entries.")
    elif found.entries:
        click.echo(f"Job {found.job_id} was here; {found.entries} entries are new.")
    else:
        click.echo(f"Job {found.job_id} is here already, and nothing is new.")


job.add_command(report_command)
job.add_command(seal_command)
