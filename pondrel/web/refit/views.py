"""The Refit page."""

from __future__ import annotations

from collections.abc import Callable, Mapping

from flask import Blueprint, Flask, render_template, url_for
from werkzeug.wrappers import Response

from ...core.base.errors import PondrelError
from ...core.base.written import EntryKind, Value
from ...core.job.refit import FUNCTION, components_of, function_list, tick
from ...core.refit.card import CARD, MOST_FASTENERS, card_from
from ...core.refit.components import COMPONENT, SORTS, USES
from ...core.refit.steps import CAME_OFF, FITTED_STEP
from ...store.bay import refresh_job
from ...store.entries import add_entry
from ...store.files import photos_of
from ...store.vehicle_entries import add_vehicle_entry
from ..jobs.docket import Record, record_of
from ..shell.database import get_db
from ..shell.fields import typed
from ..shell.once import answered_once
from ..shell.points import points_typed
from ..shell.who import me
from .page import Page, page_of

__all__ = ["init_app"]

bp = Blueprint("refit", __name__, url_prefix="/jobs/<id:job_id>/refit")


@bp.get("")
def show(job_id: int) -> str:
    """The steps, the cards, and what came off."""
    return _drawn(record_of(get_db(), job_id), {}, "")


def _drawn(record: Record, given: Mapping[str, str], error: str) -> str:
    return render_template(
        "refit/show.html",
        page=page_of(record),
        record=record,
        photos=sorted(photos_of(get_db(), record.job.id)),
        functions=function_list(record.entries),
        components=components_of(record.entries),
        sorts=SORTS,
        uses=USES,
        most=MOST_FASTENERS,
        kept=points_typed(given.get("fasteners", ""), 2),
        typed=given,
        error=error,
    )


def _answered(job_id: int, names: tuple[str, ...], write: Callable[[Page, dict[str, str]], None]) -> Response | tuple[str, int]:
    record = record_of(get_db(), job_id)
    given = typed(*names)

    def written() -> str:
        write(page_of(record), given)
        refresh_job(get_db(), job_id)
        return url_for("refit.show", job_id=job_id)

    return answered_once(written, lambda error: _drawn(record, given, error))


def _add(record: Record, kind: EntryKind, given: Mapping[str, Value]) -> None:
    content = {field.name: given.get(field.name) for field in kind.fields}
    add_entry(get_db(), record.job.id, kind.name, content, person=me())


@bp.post("/step")
def done(job_id: int) -> Response | tuple[str, int]:
    """Tick a step."""

    def ticked(page: Page, given: dict[str, str]) -> None:
        step = next((step for step, _ in page.refit.steps if step.name == given["step"]), None)
        if step is None:
            raise PondrelError("This is none of the steps here: load the page again.")
        _add(page.record, FITTED_STEP, tick(step, given["text"], components_of(page.record.entries)))

    return _answered(job_id, ("step", "text"), ticked)


@bp.post("/card")
def card(job_id: int) -> Response | tuple[str, int]:
    """Keep a fastener card; what was seized goes into the vehicle's own record for the next time."""

    def kept(page: Page, given: dict[str, str]) -> None:
        if given["photo"] and given["photo"] not in photos_of(get_db(), job_id):
            raise PondrelError("This photo is none of this job's: choose one from the list, or none.")
        _add(page.record, CARD, given)
        found = card_from(given)
        if found.bad:
            told = "; ".join(f"{number} ({note})" for number, note in found.bad)
            note = {"text": f"Fasteners of {found.title}: {told}. Plan minutes and spares."}
            add_vehicle_entry(get_db(), page.record.vehicle.id, "note", note, job_id=job_id, person=me())

    return _answered(job_id, tuple(field.name for field in CARD.fields), kept)


@bp.post("/came-off")
def came_off(job_id: int) -> Response | tuple[str, int]:
    """Write down something that came off: it will have to go back on."""
    return _answered(job_id, ("what",), lambda page, given: _add(page.record, CAME_OFF, given))


@bp.post("/component")
def component(job_id: int) -> Response | tuple[str, int]:
    """Write down a component of the board, or what is printed on its new one."""
    return _answered(job_id, tuple(f.name for f in COMPONENT.fields), lambda page, given: _add(page.record, COMPONENT, given))


@bp.post("/function")
def function(job_id: int) -> Response | tuple[str, int]:
    """Write down whether a function works, before or after."""
    return _answered(job_id, tuple(f.name for f in FUNCTION.fields), lambda page, given: _add(page.record, FUNCTION, given))


def init_app(app: Flask) -> None:
    """Register the blueprint."""
    app.register_blueprint(bp)
