"""A capture laid on the circuit of its job: what the sound circuit and each leading suspect would draw at the place where it was taken,
how well that fits, and its average and levels as readings of that circuit. The circuit is followed in time the first time it is asked for;
what came of that is kept."""

from __future__ import annotations

import threading
from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from typing import Any, cast

import numpy as np
from cachetools import LRUCache
from flask import Blueprint, Flask, Response, abort, current_app, redirect, url_for
from werkzeug.wrappers import Response as WerkzeugResponse

from ...core.base.brief import quoted
from ...core.base.errors import PondrelError
from ...core.circuit.fault import Fault
from ...core.circuit.waveform import Followed, followed
from ...core.evidence.asked import Measurement
from ...core.evidence.items import readings
from ...core.evidence.line import parse_line
from ...core.evidence.registry import content_of, sort_of
from ...core.isolate import Course, Explanation, Probes, course_of, explanations, seconds_ahead
from ...core.scope.readings import Candidate, candidates
from ...core.wave import Capture, Channel
from ...core.wave.capture import LEAST_SAMPLES
from ...core.wave.measure import Measures, measures_of
from ...store.bay import refresh_job
from ...store.captures import CaptureRow, LaidRow, add_laid, laid_of, marks_of
from ...store.entries import add_entry
from ..jobs.docket import Docket, docket_of
from ..shell.attempt import attempt
from ..shell.database import get_db
from ..shell.fields import number_asked, typed, whole
from ..shell.once import written_once
from ..shell.who import me
from ..shell.workups import workups
from .open import capture_row, measures_for, prepared_for
from .page import undisturbed_until

__all__ = ["Laid", "init_app", "laid_for"]

bp = Blueprint("scope_laid", __name__, url_prefix="/scope/<id:capture_id>/on-circuit")

MOST_KEPT = 48  # circuits in time, and captures on their circuits


@dataclass(frozen=True, slots=True)
class Laid:
    """A capture on its circuit: the row, the docket, the courses (the sound one first), and its numbers as they would be typed; all of
    what was captured up to ``until`` (s), where something that was moved changed it. ``error`` says why there are no courses; what is
    ``pending`` has not been worked out yet."""

    row: LaidRow
    docket: Docket
    courses: Sequence[Course] = ()
    numbers: Sequence[Candidate] = ()
    until: float = 0.0
    error: str = ""
    pending: bool = False

    @property
    def drawn(self) -> tuple[Course, ...]:
        """What is drawn at first: the sound course, and that of the suspect that comes nearest to what was captured."""
        nearest = min(self.courses[1:], key=lambda course: course.misfit, default=None)
        return (*self.courses[:1], *((nearest,) if nearest else ()))

    @property
    def counted(self) -> Sequence[Candidate]:
        """The numbers that become readings."""
        return [one for one in self.numbers if one.counts]

    @property
    def proves(self) -> Mapping[str, str]:
        """Once it is repaired: by the name of a reading in the Proof's form, what the capture says of it now."""
        concluded, record = self.docket.concluded, self.docket.record
        if concluded is None or not any(entry.kind == "remedy" and entry.stands for entry in record.entries):
            return {}
        read = [entry for entry in self.docket.log if entry.stands and entry.kind == "reading" and entry.id < concluded.id]
        entries = {item.test: entry for entry, item in zip(read, workups().items(self.docket.stored_sheet, read), strict=True)}
        now = {Measurement(self.row.state, one.instrument, self.row.red, self.row.black): one.typed for one in self.counted}
        return {f"r{entry.id}": now[test] for test, entry in entries.items() if test in now}

    def note(self, number: Candidate, row: CaptureRow) -> str:
        """What is written beside a number's reading."""
        return f"{number.called} of the capture {row.says}"[:200]

    def is_read(self, row: CaptureRow) -> bool:
        """Whether its numbers are readings of the circuit already."""
        own = {(self.row.state, one.instrument, self.row.red, self.row.black, self.note(one, row)) for one in self.counted}
        read = {(one.state, one.instrument, one.red, one.black, one.note) for one in readings(self.docket.items)}
        return bool(own) and own <= read

    @property
    def where(self) -> str:
        """From which place to which, as the circuit calls them."""
        places = self.docket.sheet.places
        names = [places[node].at or node if node in places else node for node in (self.row.red, self.row.black)]
        return " to ".join(names)


class _Kept:
    """What is dear to work out: circuits in time, and captures on them."""

    def __init__(self) -> None:
        self._kept: LRUCache[Any, Any] = LRUCache(MOST_KEPT)
        self._lock = threading.Lock()

    def get(self, key: object) -> Any:
        """What is kept under a key; None where nothing is."""
        with self._lock:
            return self._kept.get(key)

    def put(self, key: object, made: object) -> None:
        """Keep it."""
        with self._lock:
            self._kept[key] = made


def _kept(what: str) -> _Kept:
    return cast(_Kept, current_app.extensions["laid"][what])


def _followed(docket: Docket, state: str, faults: tuple[Fault, ...]) -> Followed:
    key = (docket.stored_sheet.id, state, faults)
    found = _kept("followed").get(key)
    if found is None:
        found = followed(docket.sheet, state, faults)
        _kept("followed").put(key, found)
    return cast(Followed, found)


def _explanations(docket: Docket, laid: LaidRow, own: Measures) -> tuple[Explanation, ...]:
    leading, _ = attempt(lambda: workups().isolation(docket.stored_sheet, docket.items))
    seen = [parse_line(docket.sheet, _line(laid, one), laid.state)[0] for one in candidates(own, ())]
    known = {item.test for item in docket.items}
    supposed = (*docket.items, *(item for item in seen if item.test not in known))
    fitted, _ = attempt(lambda: workups().isolation(docket.stored_sheet, supposed))
    return explanations(docket.sheet, leading, fitted)


def _line(laid: LaidRow, number: Candidate) -> str:
    return f"{laid.state} {number.instrument} {laid.red} {laid.black} {number.typed}"


def _probes(docket: Docket, laid: LaidRow) -> Probes:
    return Probes(laid.state, docket.sheet.probe(laid.red), docket.sheet.probe(laid.black))


def _stretch(row: CaptureRow, place: int) -> tuple[Measures, Capture]:
    """A channel up to the first mark at which it changed: what is laid on a circuit is one state of it. Measured, and itself."""
    capture = prepared_for(row).capture
    until = undisturbed_until(row, place, marks_of(get_db(), row.id))
    count = round((until - capture.start) / capture.step)
    if count >= capture.count or count < LEAST_SAMPLES:
        return measures_for(row, place), capture
    channel = capture.channels[place]
    own = Channel(channel.name, channel.unit, channel.samples[:count], channel.gain, channel.offset, channel.scaled)
    part = Capture((own,), capture.step, capture.start)
    return measures_of(part, own), part


def laid_for(row: CaptureRow, work_out: bool) -> Laid | None:
    """A capture on its circuit; None where nobody said where it was taken. What is not known yet stays pending unless ``work_out``."""
    laid = laid_of(get_db(), row.id)
    if laid is None or row.job_id is None:
        return None
    docket = docket_of(get_db(), row.job_id, laid.trace_number)
    marks = tuple((mark.id, mark.at) for mark in marks_of(get_db(), row.id))
    items, error = attempt(lambda: docket.items)
    if items is None:
        return Laid(laid, docket, error=error)
    key = (row.id, laid, docket.stored_sheet.id, docket.stored_sheet.learned, items, marks)
    found = _kept("laid").get(key)
    if found is None and not work_out:
        return Laid(laid, docket, pending=True)
    if found is None:
        found = _worked_out(row, laid, docket)
        _kept("laid").put(key, found)
    courses, numbers, until, error = found
    return Laid(laid, docket, courses, numbers, until, error)


def _worked_out(row: CaptureRow, laid: LaidRow, docket: Docket) -> tuple[Sequence[Course], Sequence[Candidate], float, str]:
    own, capture = _stretch(row, laid.channel)
    courses: list[Course] = []
    error = ""
    try:
        at = _probes(docket, laid)
        for explanation in _explanations(docket, laid, own):
            course = _followed(docket, laid.state, explanation.faults)
            courses.append(course_of(docket.sheet, at, explanation, course, own, capture))
    except PondrelError as found:
        error = str(found)
    numbers = candidates(own, [(course.drawn, course.weighed) for course in courses])
    return tuple(courses), numbers, capture.start + capture.seconds, error


@bp.post("")
def lay(capture_id: int) -> WerkzeugResponse:
    """Say where a channel was taken. Raises PondrelError with one sentence."""
    row, given = capture_row(capture_id), typed("trace", "state", "red", "black", "channel")
    number = whole(given["trace"])
    if row.job_id is None or number is None:
        raise PondrelError("A capture is laid on a circuit of its job: open it from the job, and take up the circuit there.")
    docket = docket_of(get_db(), row.job_id, number)
    docket.sheet.state(given["state"])
    red, black = docket.sheet.probe(given["red"]), docket.sheet.probe(given["black"])
    if red == black:
        raise PondrelError(f"Red and black are both on {red}: say two different places.")
    place = min(max((whole(given["channel"]) or 1) - 1, 0), len(row.channels) - 1)
    name, unit = row.channels[place]
    if unit not in ("V", ""):
        raise PondrelError(f"{quoted(name)} is in {unit}: only volts between two places can be laid on a circuit.")

    def write() -> str:
        add_laid(get_db(), row.id, place, number, given["state"], red, black, me())
        return url_for("scope.show", capture_id=row.id, channel=place + 1)

    return redirect(written_once(write))


@bp.get("/courses")
def courses(capture_id: int) -> Response:
    """What each explanation would draw in a stretch, in so many columns."""
    row = capture_row(capture_id)
    laid = laid_of(get_db(), row.id)
    if laid is None or row.job_id is None:
        abort(404)
    docket = docket_of(get_db(), row.job_id, laid.trace_number)
    (own, _), capture = _stretch(row, laid.channel), prepared_for(row).capture
    at = _probes(docket, laid)
    begin, end = (number_asked(name, otherwise) for name, otherwise in (("from", capture.start), ("to", capture.start + capture.seconds)))
    columns = int(min(max(number_asked("columns", 800), 2), 4000))
    times = np.linspace(begin, max(end, begin + capture.step), 2 * columns)
    found = []
    for explanation in _explanations(docket, laid, own):
        try:
            course = _followed(docket, laid.state, explanation.faults)
        except PondrelError:
            continue
        values = course.volts(at.red, at.black, times + seconds_ahead(own, course, at)).tolist()
        found.append({"says": explanation.says, "sound": explanation.share is None, "values": [float(f"{value:.4g}") for value in values]})
    answer: Any = {"from": begin, "every": (times[-1] - times[0]) / (len(times) - 1), "courses": found}
    return cast(Response, answer)


@bp.post("/reading")
def reading(capture_id: int) -> WerkzeugResponse:
    """Its average and its levels become readings of the circuit, as many as the engine weighs."""
    row = capture_row(capture_id)
    own = laid_for(row, True)
    if own is None or row.job_id is None:
        raise PondrelError("Say first where this capture was taken.")
    if own.docket.concluded is not None:
        raise PondrelError("This circuit is concluded: reopen it with a reason before anything is read on it.")
    if own.is_read(row):
        raise PondrelError("The numbers of this capture are readings of the circuit already.")
    laid, job_id = own.row, own.docket.job.id

    def write() -> str:
        for number in own.counted:
            item, value = parse_line(own.docket.sheet, _line(laid, number), laid.state)
            content = {**content_of(item, value), "note": own.note(number, row)}
            add_entry(get_db(), job_id, sort_of(item).name, content, trace_id=own.docket.trace.id, person=me())
        refresh_job(get_db(), job_id)
        return url_for("trace.show", job_id=job_id, number=laid.trace_number)

    return redirect(written_once(write))


def init_app(app: Flask) -> None:
    """Register the blueprint."""
    app.extensions["laid"] = {"followed": _Kept(), "laid": _Kept()}
    app.register_blueprint(bp)
