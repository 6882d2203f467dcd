"""Choosing a typical circuit, and answering what is asked of it."""

from __future__ import annotations

from collections.abc import Mapping
from functools import cache

from flask import Blueprint, Flask, Response, abort, render_template, request, url_for
from werkzeug.wrappers import Response as AnyResponse

from ...core.base.brief import quoted
from ...core.base.errors import MakingError
from ...core.circuit.read.sheet import parse_sheet
from ...core.making.asked import Answers, in_short
from ...core.making.bring import FORMATS, brought
from ...core.making.typical import TYPICALS, Typical, made
from ...store.drafts import add_draft, open_drafts
from ...store.jobs import get_job
from ..shell.database import get_db
from ..shell.fields import is_fragment, whole
from ..shell.figures import frame_of, sketch
from ..shell.once import answered_with
from ..shell.who import me

__all__ = ["init_app", "job_of"]

bp = Blueprint("typical", __name__)

MOST_ANSWERS = 400
_OWN = ("csrf_token", "key", "job", "change")


def job_of(text: str) -> int | None:
    """The job that a circuit is drawn for, by what an address or a form says; None for none."""
    number = whole(text)
    return number if number is not None and get_job(get_db(), number) is not None else None


@bp.get("/circuits")
def choose() -> str:
    """The typical circuits to begin with, and the drafts that are no sheet yet."""
    return _choice(job_of(request.args.get("job", "")), "")


def _choice(job: int | None, error: str) -> str:
    drafts, formats = open_drafts(get_db()), [known.name for known in FORMATS]
    typicals = list(TYPICALS.values())
    return render_template("making/choose.html", typicals=typicals, job=job, drafts=drafts, formats=formats, error=error)


@bp.post("/circuits/file")
def bring() -> AnyResponse | tuple[str, int]:
    """Begin a draft with a file of another program; what of it could not be read stands beside the drawing."""
    upload, job = request.files.get("file"), job_of(request.form.get("job", ""))

    def read() -> str:
        if upload is None or not upload.filename:
            raise MakingError("No file is chosen: pick a wire list, a harness, a netlist or a sheet.")
        try:
            text = upload.read().decode("utf-8-sig").replace("\r\n", "\n")
        except UnicodeDecodeError as error:
            raise MakingError(f"{quoted(upload.filename)} is no text: save it as CSV or YAML in UTF-8.") from error
        return brought(upload.filename, text).annotated

    def write(text: str) -> str:
        name = (upload.filename or "a file") if upload else "a file"
        return url_for("drafts.show", draft_id=add_draft(get_db(), text, f"from {name[:80]}", me(), None, job))

    return answered_with(read, write, lambda error: _choice(job, error))


def _typical(name: str) -> Typical:
    if name not in TYPICALS:
        abort(404)
    return TYPICALS[name]


def _given(source: Mapping[str, str]) -> dict[str, str]:
    return {key: value for key, value in list(source.items())[:MOST_ANSWERS] if key not in _OWN and value.strip()}


@bp.get("/circuits/<name>/drawing.svg")
def drawing(name: str) -> Response:
    """A typical circuit as a small picture without words."""
    answer = Response(_sketch_of(_typical(name)), mimetype="image/svg+xml")
    answer.headers["Cache-Control"] = "private, max-age=86400"
    return answer


@cache
def _sketch_of(typical: Typical) -> str:
    return sketch(frame_of(parse_sheet(made(typical, {})), 0))


@bp.get("/circuits/<name>")
def show(name: str) -> str:
    """What is asked of a typical circuit, with the answers so far."""
    return _form(_typical(name), _given(request.args), {})


def _form(typical: Typical, given: dict[str, str], flaws: Mapping[str, str], error: str = "") -> str:
    things = typical.asks(given)
    known = {f"{thing.key}.{asked.name}" for thing in things for asked in thing.asked}
    answers = Answers(things, {key: value for key, value in given.items() if key in known})
    job = job_of(request.values.get("job", ""))
    page = "making/_things.html" if is_fragment() else "making/typical.html"
    wrong = {key.partition(".")[0] for key in flaws}
    short = {thing.key: in_short(thing, answers.said) for thing in things}
    return render_template(
        page, typical=typical, things=things, said=answers.said, short=short, flaws=flaws, wrong=wrong, error=error, job=job
    )  # fmt: skip


@bp.post("/circuits/<name>")
def make(name: str) -> AnyResponse | tuple[str, int]:
    """Make the sheet and begin a draft with it; what was answered comes back where an answer is none."""
    typical, given = _typical(name), _given(request.form)
    things = typical.asks(given)
    # A question that another answer took away was answered for nothing.
    known = {f"{thing.key}.{asked.name}" for thing in things for asked in thing.asked}
    kept = {key: value for key, value in given.items() if key in known}
    flaws = Answers(things, kept).flaws()
    if flaws:
        many = f"{len(flaws)} answers are" if len(flaws) > 1 else "One answer is"
        return _form(typical, kept, flaws, f"{many} not understood: {' '.join(flaws.values())}"), 400
    job = job_of(request.form.get("job", ""))

    def write(text: str) -> str:
        return url_for("drafts.show", draft_id=add_draft(get_db(), text, f"made from: {typical.title}", me(), None, job))

    try:
        return answered_with(lambda: made(typical, kept), write, lambda error: _form(typical, kept, {}, error))
    except MakingError as error:
        return _form(typical, kept, {}, str(error)), 400


def init_app(app: Flask) -> None:
    """Register the blueprint."""
    app.register_blueprint(bp)
