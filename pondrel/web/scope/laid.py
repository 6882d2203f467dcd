"""A capture laid on the circuit of its job: what the sound circuit and each leading suspect would draw at the place where it was taken,
how well that fits, and its average as a reading of that circuit."""

from __future__ import annotations

import threading
from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from typing import Any, cast

import numpy as np
from cachetools import LRUCache
from flask import Blueprint, Flask, Response, abort, current_app, redirect, url_for
from werkzeug.wrappers import Response as WerkzeugResponse

from ...core.base.errors import PondrelError
from ...core.circuit.fault import Fault
from ...core.circuit.measure import measure
from ...core.circuit.waveform import Followed, followed
from ...core.evidence.asked import Measurement
from ...core.evidence.items import readings
from ...core.evidence.line import parse_line
from ...core.evidence.registry import content_of, sort_of
from ...core.scope.compare import misfit, trigger_of
from ...core.scope.pattern import SCALE_WITHIN
from ...core.scope.readings import SCOPE_READS, Candidate, candidates
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

__all__ = ["Course", "Laid", "init_app", "laid_for"]

bp = Blueprint("scope_laid", __name__, url_prefix="/scope/<id:capture_id>/on-circuit")

MOST_SUSPECTS, LEAST_SHARE = 3, 0.02
LOOKED_AT = 20_000  # samples in which a computed course is measured
FITS = 1.5  # of what is left open, up to which a course fits
MOST_FOLLOWED = 48


@dataclass(frozen=True, slots=True)
class Course:
    """What one explanation would draw: what it is called, its share (None for the sound circuit), how far it is from what was captured in
    units of what is left open, and whether that fits."""

    says: str
    share: float | None
    misfit: float
    fits: bool


@dataclass(frozen=True, slots=True)
class Laid:
    """A capture on its circuit: the row, the docket, the courses (the sound one first), and its numbers as they would be typed; all of
    what was captured up to ``until`` (s), where something that was moved changed it."""

    row: LaidRow
    docket: Docket
    courses: Sequence[Course]
    numbers: Sequence[Candidate]
    until: float
    error: str

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
        return own <= read

    @property
    def where(self) -> str:
        """From which place to which, as the circuit calls them."""
        places = self.docket.sheet.places
        names = [places[node].at or node if node in places else node for node in (self.row.red, self.row.black)]
        return " to ".join(names)


def _followed(docket: Docket, state: str, faults: tuple[Fault, ...]) -> Followed:
    cache, lock = current_app.extensions["followed"]
    key = (docket.stored_sheet.id, state, faults)
    with lock:
        found = cache.get(key)
    if found is None:
        found = followed(docket.sheet, state, faults)
        with lock:
            cache[key] = found
    return cast(Followed, found)


def _explanations(docket: Docket, laid: LaidRow, own: Measures) -> list[tuple[str, float | None, tuple[Fault, ...]]]:
    """The sound circuit, and the leading suspects as faults, as bad as what was captured makes each of them likeliest to be."""
    found: list[tuple[str, float | None, tuple[Fault, ...]]] = [("As it should be", None, ())]
    leading, _ = attempt(lambda: workups().isolation(docket.stored_sheet, docket.items))
    seen = [parse_line(docket.sheet, _line(laid, one), laid.state)[0] for one in candidates(own, ())]
    known = {item.test for item in docket.items}
    supposed = (*docket.items, *(item for item in seen if item.test not in known))
    fitted, _ = attempt(lambda: workups().isolation(docket.stored_sheet, supposed))
    severities = {(one.part, one.mode): one.severity for one in fitted.suspects} if fitted is not None else {}
    for suspect in leading.suspects if leading is not None else ():
        if suspect.kind != "single" or suspect.part is None or suspect.mode is None or suspect.probability < LEAST_SHARE:
            continue
        severity = severities.get((suspect.part, suspect.mode)) or suspect.severity
        called = docket.sheet.parts[suspect.part].called
        fault = Fault(suspect.part, suspect.mode, severity[0] if severity is not None else None)
        found.append((f"{called[:1].upper()}{called[1:]}: {suspect.words}", suspect.probability, (fault,)))
        if len(found) > MOST_SUSPECTS:
            break
    return found


def _line(laid: LaidRow, number: Candidate) -> str:
    return f"{laid.state} {number.instrument} {laid.red} {laid.black} {number.typed}"


def _shift(own: Measures, course: Followed, red: str, black: str) -> float:
    """By how much the course's time is ahead of the capture's: their pulses rise together."""
    rises, first = course.rises(red, black), trigger_of(own)
    return float(rises[0]) - first if len(rises) and first is not None else float(course.trace.times[-1])


def _measured(course: Followed, red: str, black: str, shift: float, capture: Capture) -> Measures:
    count = min(capture.count, LOOKED_AT)
    times = capture.start + np.arange(count) * capture.seconds / count
    values = course.volts(red, black, times + shift)
    own = Capture((Channel("computed", "V", values),), capture.seconds / count, capture.start)
    return measures_of(own, own.channels[0])


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


def laid_for(row: CaptureRow) -> Laid | None:
    """A capture on its circuit; None where nobody said where it was taken."""
    laid = laid_of(get_db(), row.id)
    if laid is None or row.job_id is None:
        return None
    docket = docket_of(get_db(), row.job_id, laid.trace_number)
    own, capture = _stretch(row, laid.channel)
    courses: list[Course] = []
    drawn: list[tuple[Measures, dict[str, float]]] = []
    error = ""
    try:
        red, black = docket.sheet.probe(laid.red), docket.sheet.probe(laid.black)
        for says, share, faults in _explanations(docket, laid, own):
            course = _followed(docket, laid.state, faults)
            computed = _measured(course, red, black, _shift(own, course, red, black), capture)
            weighed = {name: measure(docket.sheet, laid.state, name, red, black, faults).exact for name in SCOPE_READS}
            drawn.append((computed, weighed))
            away = misfit(own, computed, SCALE_WITHIN)
            courses.append(Course(says, share, away, away < FITS))
    except PondrelError as found:
        error = str(found)
    return Laid(laid, docket, courses, candidates(own, drawn), capture.start + capture.seconds, error)


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
    red, black = docket.sheet.probe(laid.red), docket.sheet.probe(laid.black)
    begin, end = (number_asked(name, otherwise) for name, otherwise in (("from", capture.start), ("to", capture.start + capture.seconds)))
    columns = int(min(max(number_asked("columns", 800), 2), 4000))
    times = np.linspace(begin, max(end, begin + capture.step), 2 * columns)
    found = []
    for says, share, faults in _explanations(docket, laid, own):
        try:
            course = _followed(docket, laid.state, faults)
        except PondrelError:
            continue
        values = course.volts(red, black, times + _shift(own, course, red, black))
        found.append({"says": says, "sound": share is None, "values": [float(f"{value:.4g}") for value in values.tolist()]})
    answer: Any = {"from": begin, "every": (times[-1] - times[0]) / (len(times) - 1), "courses": found}
    return cast(Response, answer)


@bp.post("/reading")
def reading(capture_id: int) -> WerkzeugResponse:
    """Its average and its levels become readings of the circuit, as many as the engine weighs."""
    row = capture_row(capture_id)
    own = laid_for(row)
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
    app.extensions["followed"] = (LRUCache(MOST_FOLLOWED), threading.Lock())
    app.register_blueprint(bp)
