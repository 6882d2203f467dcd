"""A capture on the scope: its page, stretches of it as data, its marks, and what it comes to by a pattern."""

from __future__ import annotations

import math
from collections import Counter
from collections.abc import Mapping
from typing import Any, cast

import numpy as np
from flask import Blueprint, Flask, Response, abort, render_template, request, send_file, url_for
from werkzeug.wrappers import Response as WerkzeugResponse

from ...core.base.errors import PondrelError
from ...core.bench import Outcome, case_from
from ...core.bench.family import Setting
from ...core.module.blinks import Counted, counted, spans_seen
from ...core.scope import PATTERNS, pattern_of, pattern_outcome
from ...core.scope.one_by_one import plan_from
from ...core.wave.bits import Bits, bits_of
from ...core.wave.bits.frame import ERROR_KINDS
from ...core.wave.pyramid import drawn
from ...store.bay import refresh_job
from ...store.captures import (
    CaptureRow,
    add_judged,
    add_mark,
    add_plan,
    capture_of,
    captures_beside,
    judged_of,
    laid_of,
    marks_of,
    plan_of,
    strike_mark,
)
from ...store.entries import add_entry
from ...store.files import file_path
from ..jobs.docket import Record, docket_in, record_of
from ..jobs.files import data_folder
from ..shell.attempt import attempt
from ..shell.database import get_db
from ..shell.fields import checked, number_asked, typed, whole
from ..shell.once import answered_once, answered_with
from ..shell.rooms import Room, add_room
from ..shell.who import me
from . import open as desk
from .laid import laid_for
from .listed import listed_for
from .open import capture_row, prepared_for
from .page import scope_of
from .picture import picture_of

__all__ = ["init_app"]

bp = Blueprint("scope", __name__, url_prefix="/scope/<id:capture_id>")

MOST_COLUMNS, COLUMNS = 4000, 1000
MOST_MARKS, LONGEST_MARK, LONGEST_SET = 60, 80, 200
MOST_FRAMES, MOST_STRETCHES = 400, 40
MOVES = ("Seat moved", "Loom flexed", "Plug pulled", "Plug back in", "Knocked", "Let go")


@bp.get("")
def show(capture_id: int) -> str:
    """The capture."""
    return _page(capture_id, {}, "")


def _page(capture_id: int, given: Mapping[str, str], error: str) -> str:
    conn = get_db()
    row = capture_row(capture_id)
    judged = judged_of(conn, [row.id]).get(row.id)
    number = whole(request.args.get("with", ""))
    other = capture_of(conn, number) if number is not None else None
    own = scope_of(
        row, request.args.get("channel", ""), marks_of(conn, row.id), judged, other, request.args.get("align", ""), plan_of(conn, row.id)
    )
    wanted = given.get("pattern", "") or request.args.get("as", "") or (judged.pattern if judged else "")
    pattern = PATTERNS.get(wanted)
    sets = judged.given.get("sets") if judged and judged.pattern == wanted else {}
    record = _record(row)
    return render_template(
        "scope/show.html", scope=own, record=record, patterns=PATTERNS.values(), wanted=pattern, others=captures_beside(conn, row),
        picture=picture_of(own.prepared, own.place, [(one.row.at, one.letter) for one in own.marks]),
        laid=laid_for(row, "circuit" in request.args),
        listed=listed_for(record, laid_of(conn, row.id)) if "list" in request.args else "",
        dockets=[docket_in(conn, record, trace) for trace in record.traces] if record is not None else [],
        said={**(sets if isinstance(sets, dict) else {}), **{name[2:]: text for name, text in given.items() if name.startswith("s.")}},
        limits="\n".join(judged.given.get("limits", ())) if judged and judged.pattern == wanted else "",  # type: ignore[arg-type]
        typed=given, error=error, moves=MOVES,
    )  # fmt: skip


def _record(row: CaptureRow) -> Record | None:
    return record_of(get_db(), row.job_id) if row.job_id is not None else None


@bp.get("/view")
def view(capture_id: int) -> Response:
    """A stretch of all channels, as many columns as are asked for: least and most of each, in the channel's unit."""
    own = prepared_for(capture_row(capture_id))
    capture = own.capture
    begin, end = number_asked("from", capture.start), number_asked("to", capture.start + capture.seconds)
    columns = int(min(max(number_asked("columns", COLUMNS), 1), MOST_COLUMNS))
    first = int(np.clip(math.floor((begin - capture.start) / capture.step), 0, capture.count - 2))
    last = int(np.clip(math.ceil((end - capture.start) / capture.step) + 1, first + 2, capture.count))
    channels = []
    for channel, pyramid in zip(capture.channels, own.pyramids, strict=True):
        stretch = drawn(capture, channel, pyramid, first, last, columns)
        least = [float(f"{value:.5g}") for value in stretch.least.tolist()]
        most = least if stretch.every == 1.0 else [float(f"{value:.5g}") for value in stretch.most.tolist()]
        channels.append({"name": channel.name, "unit": channel.unit, "least": least, "most": None if most is least else most})
    answer: Any = {
        "start": capture.start, "seconds": capture.seconds, "from": capture.at(stretch.first), "every": stretch.every * capture.step,
        "channels": channels,
        "averages": own.averages,
    }  # fmt: skip
    return cast(Response, answer)


@bp.get("/between")
def between(capture_id: int) -> Response:
    """What is measured between two times: average, effective value, least and most of each channel."""
    own = prepared_for(capture_row(capture_id)).capture
    ends = sorted((number_asked("from", own.start), number_asked("to", own.start + own.seconds)))
    first, last = (int(np.clip(round((end - own.start) / own.step), 0, own.count)) for end in ends)
    found = []
    for channel in own.channels:
        values = channel.values(first, max(last, first + 1))
        found.append(
            {
                "name": channel.name, "unit": channel.unit, "mean": float(values.mean()), "rms": float(np.sqrt((values * values).mean())),
                "least": float(values.min()), "most": float(values.max()), "first": float(values[0]), "last": float(values[-1]),
            }
        )  # fmt: skip
    answer: Any = {"seconds": ends[1] - ends[0], "channels": found}
    return cast(Response, answer)


@bp.get("/file")
def file(capture_id: int) -> WerkzeugResponse:
    """The file as it came."""
    row = capture_row(capture_id)
    path = file_path(data_folder(), row.digest)
    if not path.exists():
        abort(404)
    return send_file(path, mimetype="application/octet-stream", as_attachment=True, download_name=row.name)


@bp.post("/judge")
def judge(capture_id: int) -> WerkzeugResponse | tuple[str, int]:
    """What the capture comes to by a pattern; kept."""
    form = {name: text.strip()[:LONGEST_SET] for name, text in request.form.items()}
    row = capture_row(capture_id)
    limits = [line.strip() for line in request.form.get("limits", "").splitlines() if line.strip()][:12]

    def ready() -> tuple[Outcome, Mapping[str, Any]]:
        pattern = pattern_of(form.get("pattern", ""))
        sets = {s.name: text for s in pattern.family.settings if (text := form.get(f"s.{s.name}", "")) and text != _usual(s)}
        case = case_from(pattern.family, list(sets.items()), (), limits)
        channel, second = form.get("channel", ""), form.get("second", "")
        found = pattern_outcome(pattern, case, prepared_for(row).capture, channel, second)
        return found, {"sets": sets, "limits": limits, "channel": channel, "second": second, "outcome": found.as_json()}

    def write(made: tuple[Outcome, Mapping[str, Any]]) -> str:
        found, given = made
        says = found.findings[0].because if found.findings else ""
        add_judged(get_db(), row.id, found.family, given, str(found.verdict), says, me())
        if row.job_id is not None:
            text = f"{row.says}: {found.verdict}. {says}"[:400]
            add_entry(get_db(), row.job_id, "capture", {"text": text, "capture": str(row.id)}, person=me())
            refresh_job(get_db(), row.job_id)
        return url_for("scope.show", capture_id=row.id, channel=given["channel"] or None)

    return answered_with(ready, write, lambda error: _page(capture_id, form, error))


def _usual(setting: Setting) -> str:
    return setting.usual if isinstance(setting.usual, str) else f"{setting.usual:g}" if setting.usual is not None else ""


@bp.post("/mark")
def mark(capture_id: int) -> WerkzeugResponse | tuple[str, int]:
    """Set a mark: what was done, and when."""
    row, given = capture_row(capture_id), typed("at", "says", "other", "channel")

    def write() -> str:
        says = checked("What was done", given["other"] or given["says"], LONGEST_MARK)
        if not says:
            raise PondrelError("Say what was moved: touch one of the words, or type your own.")
        try:
            at = float(given["at"].replace(",", "."))
        except ValueError:
            raise PondrelError(f"'{given['at'][:20]}' is no time: touch the place in the capture, or type seconds such as 5.2.") from None
        own = prepared_for(row).capture
        if not own.start <= at <= own.start + own.seconds:
            raise PondrelError(f"{at:g} s is not within this capture: it goes from {own.start:g} to {own.start + own.seconds:g} s.")
        if len(marks_of(get_db(), row.id)) >= MOST_MARKS:
            raise PondrelError(f"There are {MOST_MARKS} marks already: strike one first.")
        add_mark(get_db(), row.id, at, says, me())
        return url_for("scope.show", capture_id=row.id, channel=given["channel"] or None)

    return answered_once(write, lambda error: _page(capture_id, given, error))


@bp.post("/things")
def things(capture_id: int) -> WerkzeugResponse | tuple[str, int]:
    """What can be unplugged one after the other."""
    row, text = capture_row(capture_id), request.form.get("things", "").replace("\r\n", "\n").strip()

    def write() -> str:
        plan_from(text)
        add_plan(get_db(), row.id, text, me())
        return url_for("scope.show", capture_id=row.id)

    return answered_once(write, lambda error: _page(capture_id, {"things": text}, error))


@bp.post("/marks/<id:mark_id>/strike")
def strike(capture_id: int, mark_id: int) -> WerkzeugResponse | tuple[str, int]:
    """Strike a mark out that stands in the wrong place."""

    def write() -> str:
        strike_mark(get_db(), capture_id, mark_id, me())
        return url_for("scope.show", capture_id=capture_id)

    return answered_once(write, lambda error: _page(capture_id, {}, error))


@bp.get("/blinks")
def blinks(capture_id: int) -> Response:
    """The flash code that a channel blinks, with how it was taken."""
    row = capture_row(capture_id)

    def found() -> Counted:
        capture = prepared_for(row).capture
        return counted(spans_seen(capture.named(request.args.get("channel", "1")), capture.step))

    code, wrong = attempt(found)
    told: Any = {"code": code.code if code else "", "says": f"{code.code}: {code.says}." if code else str(wrong)}
    return cast(Response, told)


@bp.get("/bits")
def bits(capture_id: int) -> str:
    """The capture read as a data line."""
    row = capture_row(capture_id)
    own: Bits | None = None
    error = ""
    try:
        own = bits_of(prepared_for(row).capture, request.args.get("high", ""), request.args.get("low", ""))
    except PondrelError as found:
        error = str(found)
    return render_template(
        "scope/bits.html",
        row=row,
        bits=own,
        stretches=_stretches(own) if own is not None else [],
        error=error,
        kinds=ERROR_KINDS,
        most=MOST_FRAMES,
        high=request.args.get("high", ""),
        low=request.args.get("low", ""),
        record=_record(row),
    )


def _stretches(own: Bits) -> list[tuple[float, float, Mapping[str, int]]]:
    """The first disturbed stretches, each with how many errors of each kind it holds."""
    return [
        (begin, end, Counter(error.kind for error in own.errors if begin <= error.time <= end))
        for begin, end in own.stretches[:MOST_STRETCHES]
    ]


def init_app(app: Flask) -> None:
    """Register the blueprint and the room."""
    desk.init_app(app)
    app.register_blueprint(bp)
    add_room(
        app,
        Room(
            "Scope",
            "captures_taken.index",
            "o",
            40,
            ("scope", "captures_taken", "scope_live", "scope_laid"),
            "there + and − zoom, 0 shows all, c cursors",
        ),
    )
