"""The workshop's own limits: searched, written, versioned, taken in and given out as files."""

from __future__ import annotations

from flask import Blueprint, Flask, Response, abort, flash, render_template, request, url_for
from werkzeug.wrappers import Response as AnyResponse

from ...core.base.errors import PondrelError
from ...core.bench import FAMILIES, case_from
from ...core.bench.decide import span_words
from ...core.bench.limits_file import COLUMNS, Row, checked_row, rows_from, to_csv, to_json
from ...store.own_limits import OwnLimit, add_limit, own_limit, search_limits, versions_of, withdraw_limit
from ..shell.database import get_db
from ..shell.fields import typed
from ..shell.once import answered_once, answered_with
from ..shell.who import me

__all__ = ["init_app"]

bp = Blueprint("bench_limits", __name__)


@bp.get("/bench/limits")
def show() -> str:
    """The limits that hold some words."""
    return _page({}, "")


def _page(given: dict[str, str], error: str) -> str:
    words = request.args.get("q", "").strip()[:80]
    fields = {**dict.fromkeys(COLUMNS, ""), **given}
    found = search_limits(get_db(), words)
    return render_template(
        "bench/limits.html", limits=found, words=words, families=FAMILIES, usual=_usual(words), given=fields, error=error
    )  # fmt: skip


def _usual(words: str) -> list[tuple[str, str, str, str]]:
    """What is usual where no limit is given: family, check, span and source, of those that hold the words."""
    found = []
    for family in FAMILIES.values():
        case = case_from(family)
        for check in (*family.checks, *family.derived):
            limit = check.limit(case)
            text = f"{family.title} {family.name} {check.says}".lower()
            if limit is not None and all(word in text for word in words.lower().split()):
                found.append((family.title, check.says, span_words(limit), limit.source))
    return found


@bp.post("/bench/limits")
def write() -> AnyResponse | tuple[str, int]:
    """Write a limit down, or the next version of one."""
    given = typed("family", "what", "limit", "note", "number")

    def written(row: Row) -> str:
        number = int(given["number"]) if given["number"].isdecimal() and own_limit(get_db(), int(given["number"])) else None
        add_limit(get_db(), row.family, row.what, row.limit, row.note, me(), number)
        return url_for("bench_limits.show", q=row.family)

    return answered_with(lambda: checked_row(given), written, lambda error: _page(given, error))


@bp.get("/bench/limits/<id:number>")
def versions(number: int) -> str:
    """Every version of a limit, and the form for the next."""
    rows = versions_of(get_db(), number)
    if not rows:
        abort(404)
    return render_template("bench/limit.html", rows=rows, current=own_limit(get_db(), number), families=FAMILIES)


@bp.post("/bench/limits/<id:number>/withdraw")
def withdraw(number: int) -> AnyResponse | tuple[str, int]:
    """Take a limit off the list; its versions stay."""

    def written() -> str:
        withdraw_limit(get_db(), number, me())
        return url_for("bench_limits.show")

    return answered_once(written, lambda error: _page({}, error))


def _row(own: OwnLimit) -> Row:
    return Row(own.family, own.what, own.line, own.note)


@bp.get("/bench/limits.<kind>")
def file(kind: str) -> Response:
    """All limits as CSV or JSON."""
    if kind not in ("csv", "json"):
        abort(404)
    rows = [_row(own) for own in search_limits(get_db(), request.args.get("q", ""))]
    answer = Response(to_csv(rows) if kind == "csv" else to_json(rows), mimetype="text/csv" if kind == "csv" else "application/json")
    answer.headers["Content-Disposition"] = f"attachment; filename=limits.{kind}"
    return answer


@bp.post("/bench/limits/file")
def take() -> AnyResponse | tuple[str, int]:
    """Take limits in from a file; one that is on the list already is not written again."""
    upload = request.files.get("file")

    def read() -> list[Row]:
        if upload is None or not upload.filename:
            raise PondrelError("No file is chosen: pick a CSV or JSON file of limits.")
        try:
            return rows_from(upload.read().decode("utf-8-sig"))
        except UnicodeDecodeError:
            raise PondrelError("The file is no text: save it as CSV or JSON in UTF-8.") from None

    def written(rows: list[Row]) -> str:
        known = {_row(own) for own in search_limits(get_db(), "")}
        fresh = [row for row in dict.fromkeys(rows) if row not in known]
        for row in fresh:
            add_limit(get_db(), row.family, row.what, row.limit, row.note, me())
        flash(f"{len(fresh)} limits were written, {len(rows) - len(fresh)} were there already.")
        return url_for("bench_limits.show")

    return answered_with(read, written, lambda error: _page({}, error))


def init_app(app: Flask) -> None:
    """Register the blueprint."""
    app.register_blueprint(bp)
