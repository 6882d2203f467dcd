"""A capture of starting or charging, judged on its page: nothing of it is kept but what somebody writes down."""

from __future__ import annotations

from dataclasses import dataclass
from typing import BinaryIO, cast

from flask import Blueprint, Flask, render_template, request

from ...core.base.errors import PondrelError
from ...core.bench import case_from
from ...core.bench.case import Case
from ...core.bench.house import with_house
from ...core.bench.judged import Outcome
from ...core.power.capture import Seen
from ...core.power.capture_verdict import CAPTURE, capture_outcome
from ...core.wave import Capture, capture_from
from ...store.house import house_choices
from ..shell.chart import Drawn, drawn
from ..shell.database import get_db
from ..shell.fields import typed

__all__ = ["init_app"]

bp = Blueprint("captures", __name__)

FIELDS = ("system", "cylinders", "full_scale", "school")


@dataclass(frozen=True, slots=True)
class Shown:
    """A capture as its page shows it."""

    name: str
    capture: Capture
    seen: Seen
    outcome: Outcome
    chart: Drawn | None


@bp.get("/power/capture")
def show() -> str:
    """The form for a capture."""
    return _page(None, dict(with_house(CAPTURE.settings, (), house_choices(get_db()))), "")


@bp.post("/power/capture")
def judge() -> str | tuple[str, int]:
    """What is in a capture, and what it comes to."""
    given = typed(*FIELDS)
    try:
        return _page(_shown(given), given, "")
    except PondrelError as error:
        return _page(None, given, str(error)), 400


def _shown(given: dict[str, str]) -> Shown:
    sent = request.files.get("capture")
    if sent is None or not sent.filename:
        raise PondrelError("No file is chosen: a capture as CSV or WAV is wanted.")
    case: Case = case_from(CAPTURE, [(name, text) for name, text in given.items() if text])
    capture = capture_from(cast(BinaryIO, sent.stream), case.known("full_scale"))
    seen, outcome = capture_outcome(case, capture)
    return Shown(sent.filename[:80], capture, seen, outcome, drawn(outcome.chart) if outcome.chart else None)


def _page(shown: Shown | None, given: dict[str, str], error: str) -> str:
    settings = [setting for setting in CAPTURE.settings if setting.name in FIELDS]
    return render_template("power/capture.html", shown=shown, typed=given, error=error, settings=settings, cautions=CAPTURE.cautions)


def init_app(app: Flask) -> None:
    """Register the blueprint."""
    app.register_blueprint(bp)
