"""Wires by themselves: a section for a load, and what one measured drop means."""

from __future__ import annotations

from collections.abc import Callable
from typing import TypeVar

from flask import Blueprint, Flask, render_template, request

from ...core.base.errors import MakingError, PondrelError
from ...core.base.quantity import parse_reading
from ...core.making.sizes import NOT_KNOWN, length_of, load_of, number_of
from ...core.wiring.drop import LOADS, STRETCHES, Drop, lost
from ...core.wiring.sizing import BUNDLES, Asked, Sizing, sized
from ..shell.rooms import Room, add_room

__all__ = ["init_app"]

bp = Blueprint("wires", __name__)

_VOLTS = {"": 1.0, "v": 1.0, "volts": 1.0}
_CELSIUS = {"": 1.0, "c": 1.0, "°c": 1.0}
SUPPLIES = {"12 V": 12.6, "24 V": 25.2, "48 V": 50.4}
FIELDS = ("length", "current", "supply", "drop", "back", "bundle", "celsius", "lost", "through", "stretch", "load")


@bp.get("/wires")
def show() -> str:
    """Both questions, each answered where it was asked."""
    given = {name: request.args.get(name, "")[:60] for name in FIELDS}
    sizing, sizing_error = _answered(lambda: _sizing(given)) if given["length"] or given["current"] else (None, "")
    drop, drop_error = _answered(lambda: _drop(given)) if given["lost"] or given["through"] else (None, "")
    return render_template(
        "making/wires.html", given=given, sizing=sizing, sizing_error=sizing_error, drop=drop, drop_error=drop_error, bundles=list(BUNDLES),
        stretches=STRETCHES, loads=list(LOADS), supplies=list(SUPPLIES),
    )  # fmt: skip


Answer = TypeVar("Answer")


def _answered(work: Callable[[], Answer]) -> tuple[Answer | None, str]:
    try:
        return work(), ""
    except PondrelError as error:
        return None, str(error)


def _supply(given: dict[str, str]) -> float:
    return SUPPLIES.get(given["supply"], SUPPLIES["12 V"])


def _sizing(given: dict[str, str]) -> Sizing:
    metres, load, supply = length_of(given["length"]), load_of(given["current"]), _supply(given)
    if metres is None or load is None:
        raise MakingError("Length and current are wanted: 4 m and 10 A, or the watts of what is fed, such as 120 W.")
    drop = number_of(given["drop"], _VOLTS, "volts such as 0.3 V are wanted", 60.0) or 0.0
    celsius = number_of(given["celsius"], _CELSIUS, "degrees such as 40 °C are wanted", 200.0)
    bundle = given["bundle"] or next(iter(BUNDLES))
    return sized(
        Asked(metres, load.at(supply).amps or 0.0, supply, drop, given["back"] == "wire", bundle, 30.0 if celsius is None else celsius)
    )


def _drop(given: dict[str, str]) -> Drop:
    read, load, supply = parse_reading(given["lost"], "V"), load_of(given["through"]), _supply(given)
    if load is None:
        raise MakingError(f"The current is {NOT_KNOWN}: give its amps, or the watts of what is fed.")
    stretch = given["stretch"] or "wire or switch"
    return lost(read.value, load.at(supply).amps, None, supply, stretch, given["load"], read.resolution)


def init_app(app: Flask) -> None:
    """Register the blueprint and the room."""
    app.register_blueprint(bp)
    add_room(app, Room("Wires", "wires.show", "w", 80, ("wires",)))
