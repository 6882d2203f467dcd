"""Watching live: what a scope on the wire shows, drawn as it comes, with a mark for each thing done; kept as a capture in the end.

Samples are gathered at the server: the page asks for a look every now and then, and each look goes back to where the last one ended.
"""

from __future__ import annotations

import io
import secrets
import threading
import time
from collections import OrderedDict
from dataclasses import dataclass, field
from typing import Any, cast

import numpy as np
from flask import Blueprint, Flask, Response, abort, current_app, redirect, render_template, request, url_for
from numpy.typing import NDArray
from werkzeug.wrappers import Response as WerkzeugResponse

from ...core.base.errors import PondrelError
from ...core.scope.moved import Mark, changes_at
from ...core.scope.one_by_one import Plan, opened_in, plan_from, standing
from ...core.wave import Capture, Channel
from ...core.wave.measure import averages_of, measures_of
from ...core.wave.pyramid import drawn, pyramid_of
from ...instruments.scope import Lead, acquire, places_of, turn
from ...store.captures import add_mark, add_plan
from ...store.jobs import get_job
from ..jobs.docket import record_of
from ..shell.database import get_db
from ..shell.fields import checked, typed, whole
from ..shell.letters import letter
from ..shell.live import on_the_wire
from ..shell.once import written_once
from ..shell.who import me
from .listed import listed_for
from .taking import kept_capture
from .views import LONGEST_MARK, MOVES

__all__ = ["init_app"]

bp = Blueprint("scope_live", __name__, url_prefix="/scope/live")

MOST_WATCHED, MOST_SAMPLES = 8, 3_000_000
BEHIND_S, LONGEST_LOOK_S = 0.4, 30.0
SHOWN_S = 30.0
SPEEDS = {"slow": 500.0, "quick": 5000.0, "fast": 50_000.0}  # samples a second, by what one wants to see


@dataclass
class Watch:
    """A scope that is watched: its address, what it is of, its leads, and what was gathered: even samples of each channel from ``start``
    on."""

    token: str
    address: str
    says: str
    leads: tuple[Lead, ...]
    rate: float
    job: int | None
    volts: NDArray[np.float64] = field(default_factory=lambda: np.zeros((1, 0)))
    start: float = 0.0
    looked_at: float = 0.0
    marks: list[Mark] = field(default_factory=list)
    things: str = ""
    lock: threading.Lock = field(default_factory=threading.Lock)

    @property
    def seconds(self) -> float:
        """How long it has been watched."""
        return float(self.volts.shape[1]) / self.rate

    def look(self) -> None:
        """Go on from where the last look ended. Raises MeterError."""
        now = time.monotonic()
        back = min(now - self.looked_at + BEHIND_S, LONGEST_LOOK_S) if self.looked_at else BEHIND_S
        found = acquire(self.address, back, max(int(back * self.rate), 16), self.leads)
        self.looked_at = now
        ends = found.start + found.step * found.volts.shape[1]
        if not self.volts.shape[1]:
            self.start = found.start
            self.volts = np.zeros((len(self.leads), 0))
        have = self.start + self.seconds
        times = have + np.arange(max(int((ends - have) * self.rate), 0)) / self.rate
        own = found.start + found.step * np.arange(found.volts.shape[1])
        more = np.array([np.interp(times, own, channel) for channel in found.volts])
        self.volts = np.concatenate([self.volts, more], axis=1)
        if self.volts.shape[1] > MOST_SAMPLES:
            raise PondrelError("It was watched for as long as can be kept: keep it, and begin anew.")

    def capture(self) -> Capture:
        """What was gathered."""
        names = [f"{lead.red} to {lead.black or 'battery minus'}" if lead.red else f"CH{k}" for k, lead in enumerate(self.leads, 1)]
        channels = tuple(Channel(name, "V", np.ascontiguousarray(own)) for name, own in zip(names, self.volts, strict=True))
        return Capture(channels, 1.0 / self.rate)


def _watches() -> OrderedDict[str, Watch]:
    found: OrderedDict[str, Watch] = current_app.extensions["watches"]
    return found


def _watch(token: str) -> Watch:
    found = _watches().get(token)
    if found is None:
        abort(404)
    return found


@bp.get("")
def begin() -> str:
    """What to watch, and where."""
    return _form({name: request.args.get(name, "") for name in ("address", "job")}, "")


def _form(given: dict[str, str], error: str) -> str:
    wired = on_the_wire()
    address = given.get("address") or (wired.address if wired is not None else "")
    places: tuple[str, ...] = ()
    if address:
        try:
            places, _ = places_of(address)
        except PondrelError as found:
            error = error or str(found)
    return render_template("scope/live_begin.html", typed=given, address=address, places=places, error=error, speeds=SPEEDS)


@bp.post("")
def start() -> WerkzeugResponse | str | tuple[str, int]:
    """Begin to watch; or only look for the scope, to say then where its leads are."""
    given = typed("address", "says", "red", "black", "red2", "black2", "speed", "job")
    if "look" in request.form:
        return _form(given, "" if given["address"] else "Say where the scope is: its address on the network.")
    try:
        says = checked("What it is of", given["says"], 120) or given["red"] or "Watched live"
        leads = tuple(Lead(given[red], given[black]) for red, black in (("red", "black"), ("red2", "black2")) if given[red] or red == "red")
        own = Watch(
            secrets.token_urlsafe(9), given["address"], says, leads, SPEEDS.get(given["speed"], SPEEDS["slow"]), whole(given["job"])
        )
        own.look()
    except PondrelError as error:
        return _form(given, str(error)), 400
    known = _watches()
    known[own.token] = own
    while len(known) > MOST_WATCHED:
        known.popitem(last=False)
    return redirect(url_for("scope_live.show", token=own.token))


@bp.get("/<token>")
def show(token: str) -> str:
    """The scope as it is watched."""
    own = _watch(token)
    try:
        _, states = places_of(own.address)
    except PondrelError:
        states = ()
    known = own.job is not None and not own.things and get_job(get_db(), own.job) is not None
    record = record_of(get_db(), own.job) if known and own.job is not None else None
    listed = listed_for(record) if "list" in request.args else ""
    return render_template(
        "scope/live.html", watch=own, states=states, moves=MOVES, error="", things=own.things or listed, plan=_plan(own), listed=listed,
        offers=bool(record and record.traces and not listed),
    )  # fmt: skip


def _plan(own: Watch) -> Plan | None:
    return plan_from(own.things) if own.things else None


@bp.get("/<token>/look")
def look(token: str) -> Response:
    """One look more: the last seconds in so many columns, marks with what came of them, or the sentence why there is none."""
    own = _watch(token)
    columns = whole(request.args.get("columns", "")) or 800
    error = ""
    with own.lock:
        try:
            own.look()
        except PondrelError as found:
            error = str(found)
        answer = _told(own, min(columns, 4000))
    return cast(Response, {**answer, "says": error})


def _told(own: Watch, columns: int) -> dict[str, Any]:
    capture = own.capture()
    if capture.count < 16:
        return {"channels": [], "marks": []}
    first = max(capture.count - int(SHOWN_S * own.rate), 0)
    channels, averages = [], []
    measures = measures_of(capture, capture.channels[0])
    for place, channel in enumerate(capture.channels):
        stretch = drawn(capture, channel, pyramid_of(capture, channel), first, capture.count, columns)
        least, most = ([float(f"{value:.5g}") for value in side.tolist()] for side in (stretch.least, stretch.most))
        channels.append({"name": channel.name, "unit": "V", "least": least, "most": None if stretch.every == 1.0 else most})
        averages.append(averages_of(measures if place == 0 else measures_of(capture, channel)).tolist())
    changes = changes_at(capture, capture.channels[0], measures, own.marks)
    marks = [
        {"at": one.mark.at, "letter": letter(k), "what": one.mark.says, "says": one.says, "hit": one.changed}
        for k, one in enumerate(changes)
    ]
    mean = measures.cycle_mean or measures.mean
    plan = plan_from(own.things) if own.things else None
    now = standing(plan, opened_in(plan, changes)) if plan is not None else None
    return {
        "plan": {"says": now.says, "cleared": list(now.cleared), "next": now.next.name if now.next else ""} if now is not None else None,
        "from": stretch.first / own.rate, "every": stretch.every / own.rate, "channels": channels, "averages": averages, "marks": marks,
        "seconds": own.seconds, "mean": mean.value, "now": float(own.volts[0, -1]),
    }  # fmt: skip


@bp.post("/<token>/mark")
def mark(token: str) -> WerkzeugResponse:
    """Something was done just now."""
    own, given = _watch(token), typed("says", "other")
    says = (given["other"] or given["says"] or "Moved")[:LONGEST_MARK]
    with own.lock:
        own.marks.append(Mark(own.seconds, says))
    return redirect(url_for("scope_live.show", token=token))


@bp.post("/<token>/state")
def state(token: str) -> WerkzeugResponse:
    """Bring the simulated vehicle into another state: a mark of its own."""
    own, given = _watch(token), typed("state")
    with own.lock:
        try:
            turn(own.address, given["state"])
        except PondrelError:
            return redirect(url_for("scope_live.show", token=token))
        own.marks.append(Mark(own.seconds, given["state"][:LONGEST_MARK]))
    return redirect(url_for("scope_live.show", token=token))


@bp.post("/<token>/things")
def things(token: str) -> WerkzeugResponse | tuple[str, int]:
    """What can be unplugged one after the other."""
    own, text = _watch(token), request.form.get("things", "").replace("\r\n", "\n").strip()
    try:
        if text:
            plan_from(text)
    except PondrelError as error:
        given = {"error": str(error), "things": text, "listed": "", "offers": False}
        return render_template("scope/live.html", watch=own, states=(), moves=MOVES, plan=None, **given), 400
    own.things = text
    return redirect(url_for("scope_live.show", token=token))


@bp.post("/<token>/keep")
def keep(token: str) -> WerkzeugResponse | tuple[str, int]:
    """Keep what was watched as a capture with its marks."""
    own = _watch(token)
    with own.lock:
        capture, marks = own.capture(), list(own.marks)
    out = io.BytesIO()
    values: dict[str, Any] = {f"{channel.name} [V]": channel.samples.astype(np.float32) for channel in capture.channels}
    np.savez_compressed(out, **values, rate=np.array(own.rate))

    def write() -> str:
        capture_id = kept_capture(out, "watched.npz", own.says, own.job)
        for one in marks:
            add_mark(get_db(), capture_id, one.at, one.says, me())
        if own.things:
            add_plan(get_db(), capture_id, own.things, me())
        return url_for("scope.show", capture_id=capture_id)

    try:
        address = written_once(write)
    except PondrelError as error:
        return render_template(
            "scope/live.html", watch=own, states=(), moves=MOVES, error=str(error), things=own.things, plan=_plan(own)
        ), 400
    _watches().pop(token, None)
    return redirect(address)


def init_app(app: Flask) -> None:
    """Register the blueprint."""
    app.extensions["watches"] = OrderedDict()
    app.register_blueprint(bp)
