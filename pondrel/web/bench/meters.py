"""The workshop's meters: written down once, chosen at the bench."""

from __future__ import annotations

from flask import Blueprint, Flask, render_template, request, url_for
from werkzeug.wrappers import Response

from ...core.meter.handheld import Handheld
from ...core.meter.written import accuracy_words, meter_from, ranges_words
from ...store.meters import OwnMeter, all_meters, keep_meter, meter_named, own_meters
from ..shell.database import get_db
from ..shell.fields import typed
from ..shell.once import answered_once, answered_with

__all__ = ["init_app"]

bp = Blueprint("bench_meters", __name__)

FIELDS = ("name", "words", "accuracy", "ranges", "leads", "thermometer", "address")


@bp.get("/bench/meters")
def show() -> str:
    """All meters, and the form for one; ``change`` fills it with one that is on the list."""
    known = meter_named(get_db(), request.args.get("change", ""))
    return _page(_fields(known) if known else {}, "")


def _fields(own: OwnMeter) -> dict[str, str]:
    meter = own.meter
    texts = (
        meter.name,
        meter.words,
        accuracy_words(meter),
        ranges_words(meter),
        f"{meter.lead_ohms:g}",
        f"{meter.thermometer_c:g}",
        own.address,
    )
    return dict(zip(FIELDS, texts, strict=True))


def _page(given: dict[str, str], error: str) -> str:
    conn = get_db()
    own = {one.meter.name for one in own_meters(conn)}
    return render_template("bench/meters.html", meters=all_meters(conn), own=own, given={**dict.fromkeys(FIELDS, ""), **given}, error=error)


@bp.post("/bench/meters")
def write() -> Response | tuple[str, int]:
    """Write a meter down; one of the same name is replaced."""
    given = typed(*FIELDS)

    def written(meter: Handheld) -> str:
        keep_meter(get_db(), OwnMeter(meter, given["address"][:200]))
        return url_for("bench_meters.show")

    return answered_with(lambda: meter_from(given), written, lambda error: _page(given, error))


@bp.post("/bench/meters/remove")
def remove() -> Response | tuple[str, int]:
    """Take a meter off the list."""

    def written() -> str:
        own = next((one for one in own_meters(get_db()) if one.meter.name == request.form.get("name")), None)
        if own is not None:
            keep_meter(get_db(), own, gone=True)
        return url_for("bench_meters.show")

    return answered_once(written, lambda error: _page({}, error))


def init_app(app: Flask) -> None:
    """Register the blueprint."""
    app.register_blueprint(bp)
