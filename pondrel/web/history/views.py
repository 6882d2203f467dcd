"""The page of what was seen before."""

from __future__ import annotations

from collections import Counter
from dataclasses import dataclass

from flask import Blueprint, Flask, redirect, render_template, request, url_for
from werkzeug.wrappers import Response

from ...core.base.errors import PondrelError
from ...core.learn import LEAST_JOBS, Told, learned_from
from ...store.db import now
from ...store.history import jobs_with
from ...store.house import settle_house
from ..shell.attempt import attempt
from ..shell.database import get_db
from ..shell.fields import typed
from ..shell.learned import LEARNING, commonest_mode, learns, proved_on
from ..shell.once import written_once
from ..shell.who import me

__all__ = ["init_app"]

bp = Blueprint("history", __name__)

MOST_FOUND, MOST_WORDS, LONGEST_WORDS = 50, 8, 200


@dataclass(frozen=True)
class Line:
    """What the record teaches of one part: what it is called, how it failed most often (empty where nobody knows), and the counts."""

    called: str
    mostly: str
    told: Told


@dataclass(frozen=True)
class OnCircuit:
    """What the record teaches of one circuit."""

    circuit: str
    jobs: int
    lines: tuple[Line, ...]


@bp.get("/history")
def show() -> str:
    """Jobs found by words, and what proved ones have taught."""
    words = request.args.get("q", "")[:LONGEST_WORDS]
    found, _ = attempt(lambda: jobs_with(get_db(), words.split()[:MOST_WORDS], MOST_FOUND)) if words.strip() else ((), "")
    circuits, jobs = _taught()
    return render_template(
        "history/show.html", words=words, found=found or (), circuits=circuits, jobs=jobs, least=LEAST_JOBS, learns=learns()
    )  # fmt: skip


def _taught() -> tuple[list[OnCircuit], int]:
    proved = proved_on(0, now())
    past = [job for job, _ in proved]
    names = Counter(job.here.circuit for job in past)
    found = []
    for circuit, count in names.most_common():
        here, sheet = next((job.here, sheet) for job, sheet in reversed(proved) if job.here.circuit == circuit)
        told = learned_from(past, here).told or tuple(
            Told(part, n, count, 1.0, tuple(job.job_id for job in past if job.here.circuit == circuit and part in job.faulty))
            for part, n in Counter(part for job in past if job.here.circuit == circuit for part in job.faulty).most_common()
        )
        lines = [
            Line(sheet.parts[one.part].spoken if one.part in sheet.parts else one.part, commonest_mode(one, sheet), one) for one in told
        ]
        found.append(OnCircuit(circuit, count, tuple(lines)))
    return found, len(past)


@bp.post("/history/learning")
def switch() -> Response:
    """Let what proved jobs teach count, or not."""
    given = typed("learning")
    if given["learning"] not in ("on", "off"):
        raise PondrelError("Say whether the record counts: on or off.")

    def switched() -> str:
        settle_house(get_db(), LEARNING, given["learning"], me())
        return url_for("history.show")

    return redirect(written_once(switched))


def init_app(app: Flask) -> None:
    """Register the blueprint."""
    app.register_blueprint(bp)
