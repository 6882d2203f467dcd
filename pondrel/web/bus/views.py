"""A log of a bus: its page, its signals as data, its marks, its databases."""

from __future__ import annotations

import math
from collections.abc import Mapping
from typing import Any, cast

import numpy as np
from flask import Blueprint, Flask, Response, abort, render_template, request, send_file, url_for
from werkzeug.wrappers import Response as WerkzeugResponse

from ...core.base.errors import PondrelError
from ...core.bus.census import census_of, changed_between
from ...core.bus.changes import Change
from ...core.bus.database import Known
from ...core.bus.plotted import held_between
from ...core.bus.words import called
from ...store.buses import (
    BusLogRow,
    BusMarkRow,
    add_bus_mark,
    all_databases,
    all_links,
    bus_log_of,
    bus_logs_beside,
    bus_marks_of,
    choose_databases,
    chosen_databases,
    strike_bus_mark,
)
from ...store.files import file_path
from ..jobs.docket import Record, record_of
from ..jobs.files import data_folder
from ..shell.attempt import attempt
from ..shell.database import get_db
from ..shell.fields import checked, number_asked, typed, whole
from ..shell.once import answered_once, answered_with
from ..shell.rooms import Room, add_room
from ..shell.who import me
from .desk import census_for, decoded_for, kept_for, known_for, log_row, worked_out
from .following import first_to_follow, followed
from .page import STATES, found_signals, page_of
from .plan import bus_sheet, drawn
from .taking import taken_databases

__all__ = ["LONGEST_MARK", "MOST_MARKS", "MOVES", "init_app"]

bp = Blueprint("bus", __name__, url_prefix="/bus/<id:log_id>")

MOST_COLUMNS, COLUMNS = 4000, 1000
MOST_MARKS, LONGEST_MARK, MOST_PLOTTED = 60, 80, 8
MOVES = ("Key on", "Seat moved", "Plug pulled", "Plug back in", "Loom flexed", "Module unplugged")


@bp.get("")
def show(log_id: int) -> str:
    """The log."""
    return _page(log_id, {}, "")


def _page(log_id: int, given: Mapping[str, str], error: str) -> str:
    conn = get_db()
    row = log_row(log_id)
    marks = bus_marks_of(conn, row.id)
    census = census_for(row)
    other = _other(row)
    at_mark = request.args.get("mark", "")
    changes, wrong = attempt(lambda: _changes(row, other, marks, at_mark))
    page = page_of(row, census, marks, all_links(conn), changes or (), (other, census_for(other)) if other else None, at_mark)
    record: Record | None = record_of(conn, row.job_id) if row.job_id is not None else None
    wanted = request.args.get("follow", "") or first_to_follow(page)
    text = request.args.get("q", "").strip()[:80]
    plotted = ", ".join(key.rpartition("|")[2] for key in request.args.getlist("plot"))
    bus = bus_sheet(list(page.heard), record)
    walk = followed(page, wanted, record, bus)
    shares = walk.ahead.shares if bus is not None and walk is not None and walk.sheet_id == bus.stored.id else {}
    drawing = drawn(bus, {one.key: one.state for one in page.senders}, shares) if bus is not None else None
    return render_template(
        "bus/show.html", page=page, drawing=drawing, record=record, others=bus_logs_beside(conn, row),
        chosen=chosen_databases(conn, row.id), databases=all_databases(conn), walk=walk, wanted=wanted,
        found=found_signals(census, text), text=text, states=STATES,
        moves=MOVES, plotted_names=plotted, typed=given, error=error or (str(wrong) if wrong else ""),
    )  # fmt: skip


def _other(row: BusLogRow) -> BusLogRow | None:
    number = whole(request.args.get("with", ""))
    found = bus_log_of(get_db(), number) if number is not None else None
    return found if found is not None and found.id != row.id else None


def _changes(row: BusLogRow, other: BusLogRow | None, marks: list[BusMarkRow], at_mark: str) -> list[Change]:
    """What differs from another log, or behind a mark from before it."""
    if other is not None:
        return worked_out(row, other.digest, lambda known: _from_another(row, other, known))
    mark = next((own for own in marks if str(own.id) == at_mark), None)
    if mark is None:
        return []
    # From the mark before it up to the mark behind it: what was done at those is no change of this one.
    first = max((own.at for own in marks if own.at < mark.at), default=-math.inf)
    last = min((own.at for own in marks if own.at > mark.at), default=math.inf)
    return worked_out(row, (first, mark.at, last), lambda known: _behind(row, first, mark.at, last, known))


def _from_another(row: BusLogRow, other: BusLogRow, known: Known) -> list[Change]:
    # The other log is read by this one's databases: signals are compared, not names of files.
    log = kept_for(other)
    return changed_between(census_of(log.frames, log.channels, known), census_for(row))


def _behind(row: BusLogRow, first: float, at: float, last: float, known: Known) -> list[Change]:
    log = kept_for(row)
    times = log.frames.time - log.frames.time[0]
    sides = [(first <= times) & (times < at), (at <= times) & (times < last)]
    if not all(side.any() for side in sides):
        raise PondrelError("There is nothing on one side of this mark: nothing can be compared.")
    before, after = (census_of(log.frames.only(side), log.channels, known) for side in sides)
    return changed_between(before, after)


@bp.get("/signals")
def signals(log_id: int) -> Response:
    """Signals as data, step by step: of as many columns as are asked for, the least and the most of what held in each."""
    row = log_row(log_id)
    log = kept_for(row)
    seconds = max(row.seconds, 1e-6)
    begin = min(max(number_asked("from", 0.0), 0.0), seconds)
    end = min(max(number_asked("to", seconds), begin + 1e-6), seconds + 1e-6)
    columns = int(min(max(number_asked("columns", COLUMNS), 1), MOST_COLUMNS))
    start = float(log.frames.time.min())
    channels = []
    for key in request.args.getlist("signal")[:MOST_PLOTTED]:
        channel, _, rest = key.partition("|")
        frame, _, name = rest.partition("|")
        message = decoded_for(row, channel, frame) or abort(404)
        own = next((one for one in message.signals if one.signal.name == name), None) or abort(404)
        times = np.asarray(log.frames.time[own.places]) - start
        least, most = held_between(times, own.value.astype(float), begin, end, columns)
        channels.append({"name": called(own.signal), "unit": own.signal.unit or "", "least": _finite(least), "most": _finite(most)})
    answer: Any = {
        "start": 0.0, "seconds": seconds, "from": begin, "every": (end - begin) / columns, "channels": channels,
        "averages": [None] * len(channels),
    }  # fmt: skip
    return cast(Response, answer)


def _finite(values: Any) -> list[float | None]:
    return [float(f"{value:.6g}") if math.isfinite(value) else None for value in values.tolist()]


@bp.get("/file")
def file(log_id: int) -> WerkzeugResponse:
    """The file as it came."""
    row = log_row(log_id)
    path = file_path(data_folder(), row.digest)
    if not path.exists():
        abort(404)
    return send_file(path, mimetype="application/octet-stream", as_attachment=True, download_name=row.name)


@bp.post("/databases")
def databases(log_id: int) -> WerkzeugResponse | tuple[str, int]:
    """Which databases read the log: those that are ticked, each for one channel or for all, and files that come with the form."""
    row = log_row(log_id)
    ticked = [number for text in request.form.getlist("database") if (number := whole(text)) is not None]

    def ready() -> list[tuple[int, str]]:
        known = {own.id for own in all_databases(get_db())}
        channels = {number: checked("A channel", request.form.get(f"channel.{number}", ""), 40) for number in ticked}
        wrong = next((name for name in channels.values() if name and name not in row.channels), None)
        if wrong is not None:
            raise PondrelError(f"This log has no channel {wrong}: it has {', '.join(row.channels)}.")
        found = [(number, channels[number]) for number in ticked if number in known] + taken_databases("")
        known_for(tuple((own, channel) for own, channel in _rows(found)))
        return found

    def write(found: list[tuple[int, str]]) -> str:
        choose_databases(get_db(), row.id, found, me())
        return url_for("bus.show", log_id=row.id)

    return answered_with(ready, write, lambda error: _page(log_id, {}, error))


def _rows(found: list[tuple[int, str]]) -> list[tuple[Any, str]]:
    known = {own.id: own for own in all_databases(get_db())}
    return [(known[number], channel) for number, channel in found]


@bp.post("/mark")
def mark(log_id: int) -> WerkzeugResponse | tuple[str, int]:
    """Set a mark: what was done, and when."""
    row, given = log_row(log_id), typed("at", "says", "other")

    def write() -> str:
        says = checked("What was done", given["other"] or given["says"], LONGEST_MARK)
        if not says:
            raise PondrelError("Say what was done: touch one of the words, or type your own.")
        try:
            at = float(given["at"].replace(",", "."))
        except ValueError:
            raise PondrelError(f"'{given['at'][:20]}' is no time: type the second of the log, such as 12.5.") from None
        if not 0.0 <= at <= row.seconds:
            raise PondrelError(f"{at:g} s is not within this log: it is {row.seconds:.4g} s long.")
        if len(bus_marks_of(get_db(), row.id)) >= MOST_MARKS:
            raise PondrelError(f"There are {MOST_MARKS} marks already: strike one first.")
        number = add_bus_mark(get_db(), row.id, at, says, me())
        return url_for("bus.show", log_id=row.id, mark=number, _anchor="differs")

    return answered_once(write, lambda error: _page(log_id, given, error))


@bp.post("/marks/<id:mark_id>/strike")
def strike(log_id: int, mark_id: int) -> WerkzeugResponse | tuple[str, int]:
    """Strike a mark out that stands in the wrong place."""

    def write() -> str:
        strike_bus_mark(get_db(), log_id, mark_id, me())
        return url_for("bus.show", log_id=log_id)

    return answered_once(write, lambda error: _page(log_id, {}, error))


def init_app(app: Flask) -> None:
    """Register the blueprint and the room."""
    app.register_blueprint(bp)
    own = ("bus", "logs_taken", "bus_follow", "bus_live")
    add_room(app, Room("Bus", "logs_taken.index", "m", 45, own, "there + and − zoom, 0 shows all"))
