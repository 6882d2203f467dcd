"""The number that a meter on the wire shows now, for every screen that takes readings."""

from __future__ import annotations

import math
import threading
from collections import OrderedDict, deque

from flask import Blueprint, Flask, Response, current_app, jsonify, request

from ...core.base.quantity import as_typed, show
from ...core.meter.steady import STEADY_READINGS, is_steady
from ...instruments.visa import Live, MeterError, read_live
from ...store.meters import OwnMeter, meter_named, own_meters
from .database import get_db

__all__ = ["init_app", "on_the_wire"]

bp = Blueprint("live", __name__)

MOST_SERIES = 64
LONGEST = 80


class Series:
    """The last numbers of every meter and place, so that one that has come to rest can be held. Safe to be used from several threads."""

    def __init__(self) -> None:
        self._kept: OrderedDict[tuple[str, ...], deque[float]] = OrderedDict()
        self._lock = threading.Lock()

    def with_one_more(self, key: tuple[str, ...], value: float) -> list[float]:
        """The last numbers of a series, this one included."""
        with self._lock:
            series = self._kept.setdefault(key, deque(maxlen=STEADY_READINGS))
            self._kept.move_to_end(key)
            series.append(value)
            while len(self._kept) > MOST_SERIES:
                self._kept.popitem(last=False)
            return list(series)


def on_the_wire() -> OwnMeter | None:
    """The workshop's meter that is read by its address: the first by name; None where there is none."""
    return next((own for own in own_meters(get_db()) if own.address), None)


@bp.get("/live")
def read() -> Response | tuple[str, int]:
    """The number now as JSON: as it is shown and as it would be typed, whether it has come to rest, or the sentence why there is none.
    Nothing at all where no meter is on the wire."""
    given = {name: request.args.get(name, "")[:LONGEST] for name in ("meter", "unit", "red", "black", "state", "off")}
    own = meter_named(get_db(), given["meter"]) if given["meter"] else on_the_wire()
    if own is None or not own.address:
        return "", 204
    probes = (given["red"], given["black"]) if given["red"] else None
    try:
        live = read_live(own.address, given["unit"], probes, given["state"], given["off"])
    except MeterError as error:
        return jsonify({"meter": own.meter.name, "says": str(error)})
    return jsonify(_told(own.meter.name, live, (own.address, *given.values())))


def _told(name: str, live: Live, key: tuple[str, ...]) -> dict[str, object]:
    value = math.inf if live.over else live.value
    series: Series = current_app.extensions["live"]
    steady = is_steady(series.with_one_more(key, value), live.unit)
    if live.over and live.unit != "Ω":
        return {"meter": name, "says": "Over range: choose a higher one on the meter, or read it with a divider."}
    end = f"({as_typed(live.range_end)})" if live.over and live.range_end else ""
    typed = "0" if live.unit == "Ω" and value < 0.0 else as_typed(value)
    shown = f"over range{f' on {show(live.range_end, live.unit)}' if live.range_end else ''}" if live.over else show(value, live.unit)
    return {"meter": name, "shown": shown, "typed": typed + end, "steady": steady, "says": ""}


def init_app(app: Flask) -> None:
    """Register the blueprint, and give the templates ``on_the_wire``."""
    app.extensions["live"] = Series()
    app.register_blueprint(bp)
    app.jinja_env.globals["on_the_wire"] = on_the_wire
