"""Vehicles: their list, a vehicle's page, and what is written down about it."""

from __future__ import annotations

from collections.abc import Callable, Mapping

from flask import Blueprint, Flask, render_template, request, url_for
from werkzeug.wrappers import Response

from ...core.base.errors import PondrelError
from ...core.base.written import Value
from ...core.vehicle.facts import FACT_NAMES, SYSTEM_VOLTS, checked_facts
from ...core.vehicle.ledger import HOW
from ...core.vehicle.mileage import UNITS
from ...core.vehicle.record import KINDS
from ...store.bay import refresh_all
from ...store.db import now
from ...store.vehicle_entries import add_vehicle_entry, strike_vehicle_entry
from ...store.vehicles import Vehicle, add_vehicle, all_vehicles, change_vehicle
from ..shell.database import get_db
from ..shell.fields import checked, typed
from ..shell.once import answered_once
from ..shell.who import me
from .page import vehicle_of, vehicle_page

__all__ = ["FITTED_FIELDS", "fitted_from", "init_app"]

bp = Blueprint("vehicles", __name__)

LONGEST_REASON = 200  # characters
FITTED_FIELDS = tuple(field.name for field in KINDS["fitted"].fields)


@bp.get("/vehicles")
def index() -> str:
    """Every vehicle by name."""
    return render_template("vehicles/index.html", vehicles=all_vehicles(get_db()))


@bp.get("/vehicles/<id:vehicle_id>")
def show(vehicle_id: int) -> str:
    """A vehicle's page."""
    return _page(vehicle_of(get_db(), vehicle_id), {}, "")


def _page(vehicle: Vehicle, given: Mapping[str, str], error: str) -> str:
    return render_template(
        "vehicles/show.html",
        page=vehicle_page(get_db(), vehicle),
        how=HOW,
        today=now()[:10],
        typed=given,
        error=error,
    )


@bp.get("/vehicles/new")
def new() -> str:
    """The form for a new vehicle."""
    return _form(None, {"name": request.args.get("name", "")[:80]}, "")


@bp.get("/vehicles/<id:vehicle_id>/edit")
def edit(vehicle_id: int) -> str:
    """The form for what a vehicle is."""
    vehicle = vehicle_of(get_db(), vehicle_id)
    known = {name: getattr(vehicle, name) for name in FACT_NAMES}
    return _form(vehicle, {name: "" if value is None else f"{value:g}" if name == "volts" else value for name, value in known.items()}, "")


def _form(vehicle: Vehicle | None, given: Mapping[str, str], error: str) -> str:
    return render_template(
        "vehicles/edit.html", vehicle=vehicle, typed=given, error=error, units=UNITS, volts=[f"{volts:g}" for volts in SYSTEM_VOLTS]
    )


@bp.post("/vehicles/new")
@bp.post("/vehicles/<id:vehicle_id>/edit")
def save(vehicle_id: int | None = None) -> Response | tuple[str, int]:
    """Write down what a vehicle is; what it was before is kept."""
    conn = get_db()
    vehicle = vehicle_of(conn, vehicle_id) if vehicle_id is not None else None
    given = typed(*FACT_NAMES)

    def saved() -> str:
        facts = checked_facts(given)
        if vehicle is None:
            return url_for("vehicles.show", vehicle_id=add_vehicle(conn, facts))
        change_vehicle(conn, vehicle.id, facts)
        refresh_all(conn)
        return url_for("vehicles.show", vehicle_id=vehicle.id)

    return answered_once(saved, lambda error: _form(vehicle, given, error))


def _write(vehicle_id: int, names: tuple[str, ...], write: Callable[[Vehicle, dict[str, str]], object]) -> Response | tuple[str, int]:
    """Write a line into a vehicle's record and show its page; what was typed comes back where it does not fit."""
    conn = get_db()
    vehicle = vehicle_of(conn, vehicle_id)
    given = typed(*names)

    def written() -> str:
        write(vehicle, given)
        return url_for("vehicles.show", vehicle_id=vehicle_id)

    return answered_once(written, lambda error: _page(vehicle, given, error))


@bp.post("/vehicles/<id:vehicle_id>/notes")
def add_note(vehicle_id: int) -> Response | tuple[str, int]:
    """Write a note that stays."""
    return _write(vehicle_id, ("text",), lambda v, given: add_vehicle_entry(get_db(), v.id, "note", {"text": given["text"]}, person=me()))


@bp.post("/vehicles/<id:vehicle_id>/mileages")
def add_mileage(vehicle_id: int) -> Response | tuple[str, int]:
    """Write down what the instrument shows."""

    def write(vehicle: Vehicle, given: Mapping[str, str]) -> None:
        content: dict[str, Value] = {"reads": given["reads"], "renewed": given["renewed"] == "yes"}
        add_vehicle_entry(get_db(), vehicle.id, "mileage", content, unit=vehicle.unit, person=me())

    return _write(vehicle_id, ("reads", "renewed"), write)


@bp.post("/vehicles/<id:vehicle_id>/fitted")
def add_fitted(vehicle_id: int) -> Response | tuple[str, int]:
    """Write a part that was fitted into the ledger."""
    return _write(vehicle_id, FITTED_FIELDS, lambda v, given: fitted_from(v, given, None))


def fitted_from(vehicle: Vehicle, given: Mapping[str, str], job_id: int | None) -> int:
    """Write a line of the ledger from what was typed, in a job where there is one; returns its id."""
    content = {name: given.get(name, "") for name in FITTED_FIELDS}
    return add_vehicle_entry(get_db(), vehicle.id, "fitted", content, unit=vehicle.unit, job_id=job_id, person=me())


@bp.post("/vehicles/<id:vehicle_id>/entries/<id:entry_id>/strike")
def strike(vehicle_id: int, entry_id: int) -> Response | tuple[str, int]:
    """Strike a line out, with a reason."""

    def write(vehicle: Vehicle, given: Mapping[str, str]) -> None:
        reason = checked("The reason", given["reason"], LONGEST_REASON)
        if not reason:
            raise PondrelError("A reason is missing: say why this no longer counts.")
        if not strike_vehicle_entry(get_db(), vehicle.id, entry_id, reason, me()):
            raise PondrelError("This is struck out already, perhaps by somebody else: load the page again to see what stands.")

    return _write(vehicle_id, ("reason",), write)


def init_app(app: Flask) -> None:
    """Register the blueprint."""
    app.register_blueprint(bp)
