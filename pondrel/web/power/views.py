"""Choosing a way, walking it step by step, and what follows from it."""

from __future__ import annotations

import sqlite3
from collections.abc import Mapping
from dataclasses import dataclass
from datetime import datetime
from typing import BinaryIO, cast

from flask import Blueprint, Flask, abort, flash, render_template, request, url_for
from werkzeug.wrappers import Response

from ...core.base.errors import PondrelError
from ...core.bench import FAMILIES, case_from
from ...core.bench.decide import span_words
from ...core.bench.house import checked_choice, house_rules
from ...core.circuit.read.sheet import parse_sheet
from ...core.evidence.hazards import DEFERS
from ...core.evidence.registry import content_of, sort_of
from ...core.job.power import (
    AGAIN,
    AT_HAND,
    CAPTURED,
    REACHES,
    STEP,
    WHAT_IS_KNOWN,
    KeptCapture,
    Setup,
    answers_of,
    capture_of,
    captured_answer,
    items_of,
    pairs_of,
    place_of,
    proof_of,
    settings_of,
    setup_of,
    step_on,
    ways_walked,
)  # fmt: skip
from ...core.making.typical import made, typical_called
from ...core.power import JUDGES, POWER
from ...core.power.capture_verdict import CAPTURE, capture_outcome
from ...core.power.guide import WAYS, Answer, Position
from ...core.power.guide.model import Step, Way
from ...core.power.guide.picture import phases_of
from ...core.power.guide.sequence import Done
from ...core.power.guide.words import shown_unit
from ...core.power.phased import laid_as_text, laid_in
from ...core.wave import capture_from
from ...store.bay import refresh_job
from ...store.bench import latest_checks
from ...store.conclusions import add_conclusion, standing_conclusion
from ...store.entries import add_entry, strike_entry
from ...store.house import house_choices, settle_house
from ...store.jobs import add_job
from ...store.sheets import add_sheet
from ...store.traces import add_trace
from ...store.vehicles import all_vehicles, get_vehicle
from ..jobs.docket import Record, record_of
from ..shell.attempt import attempt
from ..shell.database import get_db
from ..shell.fields import checked, is_fragment, typed, whole
from ..shell.once import answered_once
from ..shell.rooms import Room, Stop, add_room, add_stop
from ..shell.titles import Lead
from ..shell.who import me
from .drawing import Drawn, Loop, drawn_volts, loop_of

__all__ = ["init_app"]

bp = Blueprint("power", __name__)

LATEST = 6
RULES = house_rules([*POWER.values(), *FAMILIES.values()])
ALSO = "Charging"  # the group of the bench that belongs here too
LONGEST_ANSWER = 200
TAKEN_BACK = "taken back"


@dataclass(frozen=True, slots=True)
class Page:
    """All that a way's page shows: where it stands, what is known, what it draws, and the sentence why the last answer was not taken with
    what was typed."""

    record: Record
    way: Way
    position: Position | None
    setup: Setup
    loop: Loop | None
    volts: Drawn
    concluded: bool
    capture: KeptCapture | None = None
    error: str = ""
    typed: str = ""
    lays_wrong: str = ""

    @property
    def step(self) -> Step | None:
        """The step to do now."""
        return self.position.next.step if self.position and self.position.next else None

    @property
    def captured(self) -> str:
        """What the capture has for the step to do now."""
        return captured_answer(self.position, self.capture) if self.position and self.capture else ""

    @property
    def check(self) -> object:
        """The check of the step to do now: it knows words and units."""
        return JUDGES[self.step.family].check(self.step.check) if self.step else None


@bp.get("/power")
def choose() -> str:
    """What is wrong, and single checks."""
    conn = get_db()
    job = whole(request.args.get("job", ""))
    record = record_of(conn, job) if job is not None else None
    return _choice(record, {}, "")


def _choice(record: Record | None, given: Mapping[str, str], error: str) -> str:
    conn = get_db()
    checks = [row for row in latest_checks(conn, 60) if row.family in POWER][:LATEST]
    return render_template(
        "power/choose.html",
        ways=WAYS,
        families=[*POWER.values(), *(f for f in FAMILIES.values() if f.group == ALSO)],
        vehicles=all_vehicles(conn),
        latest=checks,
        record=record,
        typed=given,
        error=error,
        rules=RULES,
        choices=house_choices(conn),
    )


@bp.post("/power")
def begin() -> Response | tuple[str, int]:
    """Begin a way: on a job that is there, or on a new one of a vehicle."""
    given = typed("way", "vehicle", "complaint", "job")
    conn = get_db()
    number = whole(given["job"])
    record = record_of(conn, number) if number is not None else None

    def begun() -> str:
        if given["way"] not in WAYS:
            raise PondrelError(f"Nothing is chosen: say what is wrong, one of {', '.join(way.title.lower() for way in WAYS.values())}.")
        if record is not None:
            return url_for("power.show", job_id=record.job.id, name=given["way"])
        vehicle_id = whole(given["vehicle"])
        if vehicle_id is None or get_vehicle(conn, vehicle_id) is None:
            raise PondrelError("No vehicle is chosen: pick the one that you stand at.")
        complaint = checked("The complaint", given["complaint"]) or WAYS[given["way"]].complaint
        job_id = add_job(conn, vehicle_id, complaint, person=me())
        refresh_job(conn, job_id)
        return url_for("power.show", job_id=job_id, name=given["way"])

    return answered_once(begun, lambda error: _choice(record, given, error))


@bp.post("/power/house")
def house() -> Response | tuple[str, int]:
    """Settle the house rules."""
    given = typed(*RULES)

    def settled() -> str:
        conn = get_db()
        for name, choice in given.items():
            settle_house(conn, name, checked_choice(RULES, name, choice), me())
        return url_for("power.choose")

    return answered_once(settled, lambda error: _choice(None, {}, error))


def _way(name: str) -> Way:
    if name not in WAYS:
        abort(404)
    return WAYS[name]


def _setup(record: Record) -> Setup:
    return setup_of(record.entries, record.vehicle.volts, house_choices(get_db()))


def _at(record: Record, name: str, *more: Answer) -> Position:
    return place_of(record.entries, name, more, _setup(record))


def _standing(record: Record, name: str) -> Position | None:
    position, _ = attempt(lambda: _at(record, name))
    return position


def _page(record: Record, way: Way, error: str = "", given: str = "", lays_wrong: str = "") -> str:
    setup = _setup(record)
    position, says = attempt(lambda: _at(record, way.name))
    others = [place for other in ways_walked(record.entries) if other != way.name and (place := _standing(record, other)) is not None]
    twice = 2.0 if setup.settings.get("system") == "24" else 1.0
    capture = capture_of(record.entries)
    phases = phases_of([*others, *([position] if position else [])], setup.settings, capture.laid if capture else None)
    drawn = drawn_volts(phases, twice)
    page = Page(
        record,
        way,
        position,
        setup,
        loop_of(position) if position else None,
        drawn,
        standing_conclusion(get_db(), record.job.id, None) is not None,
        capture,
        error or says,
        given,
        lays_wrong,
    )
    template = "power/_way.html" if is_fragment() else "power/way.html"
    return render_template(template, page=page, hands=AT_HAND, defers=DEFERS, reaches=REACHES, settings=settings_of(way), ways=WAYS)


@bp.get("/power/<id:job_id>/<name>")
def show(job_id: int, name: str) -> str:
    """Where a way stands, and what comes next."""
    way = _way(name)
    return _page(record_of(get_db(), job_id), way)


@bp.post("/power/<id:job_id>/<name>")
def answer(job_id: int, name: str) -> Response | tuple[str, int]:
    """Take an answer: a number, a word, that a deed is done, or that it cannot be done here."""
    way, conn = _way(name), get_db()
    record = record_of(conn, job_id)
    given = typed("step", "value", "answer", "skip", "warm")
    text = given["answer"] or given["value"]

    def taken() -> str:
        skipped = bool(given["skip"])
        value = "" if skipped else _with_conditions(record, way, given["step"], text, given["warm"])
        _at(record, name, Answer(given["step"], value, skipped))  # refuses what cannot be
        if not skipped and not value:
            raise PondrelError("Nothing was typed: type what the meter shows, or touch what you saw.")
        add_entry(conn, job_id, STEP.name, {"way": name, "step": given["step"], "value": value, "skipped": skipped}, person=me())
        refresh_job(conn, job_id)
        return url_for("power.show", job_id=job_id, name=name)

    return answered_once(taken, lambda error: _page(record, way, error, text))


@bp.get("/power/<id:job_id>/<name>/look")
def look(job_id: int, name: str) -> str:
    """What a typed number would mean, before it is entered."""
    way, record = _way(name), record_of(get_db(), job_id)
    given = typed("step", "value", "warm", given=request.args)
    if not given["value"] or way.step(given["step"]) is None:
        return ""
    value, says = attempt(lambda: _with_conditions(record, way, given["step"], given["value"], given["warm"]))
    if value is None:
        return render_template("power/_look.html", done=None, after=None, says=says)
    after, says = attempt(lambda: _at(record, name, Answer(given["step"], value)))
    return render_template("power/_look.html", done=after.done[-1] if after else None, after=after, says=says)


def _with_conditions(record: Record, way: Way, name: str, text: str, warm: str) -> str:
    """An answer with the minutes or the temperature that belong beside it."""
    text = checked("The reading", text, LONGEST_ANSWER)
    if not text or "@" in text or way.deed(name) is not None:
        return text
    step = step_on(way.name, name)
    if warm:
        return f"{text} @{warm}{'C' if warm[-1:].isdigit() else ''}"
    if step.timed:
        return f"{text} @{_minutes_since(record, way, step):.0f}min"
    return text


def _minutes_since(record: Record, way: Way, step: Step) -> float:
    """Minutes since the first answer that is read at the same place."""
    first = next((entry for entry in record.entries if entry.stands and entry.kind == STEP.name and entry.text("way") == way.name
                  and entry.text("step") in (step.name, step.check)), None)  # fmt: skip
    if first is None:
        return 0.0
    return max(
        (datetime.now(datetime.fromisoformat(first.made_at).tzinfo) - datetime.fromisoformat(first.made_at)).total_seconds() / 60.0, 1.0
    )


@bp.post("/power/<id:job_id>/<name>/known")
def known(job_id: int, name: str) -> Response | tuple[str, int]:
    """Note what is known of the vehicle, or what is at hand."""
    way, conn = _way(name), get_db()
    record = record_of(conn, job_id)

    def noted() -> str:
        setup = _setup(record)
        hand = request.form.get("hand", "")
        if hand:
            if hand not in AT_HAND:
                raise PondrelError(f"Nothing of that name can be at hand: {', '.join(AT_HAND)} can.")
            now = [word for word in AT_HAND if (word in setup.at_hand) != (word == hand)]
            _note(conn, job_id, "at hand", ", ".join(now))
        for own, text in typed(*settings_of(way), "reach").items():
            before = setup.reach if own == "reach" else setup.settings.get(own, "")
            if own in request.form and text != before:
                fresh = Setup(
                    {**setup.settings, own: text} if own != "reach" and text else setup.settings, setup.at_hand, setup.reach, setup.house
                )
                place_of((), name, setup=fresh)  # refuses what cannot be
                _note(conn, job_id, own, text)
        refresh_job(conn, job_id)
        return url_for("power.show", job_id=job_id, name=name)

    return answered_once(noted, lambda error: _page(record, way, error))


def _note(conn: sqlite3.Connection, job_id: int, what: str, text: str) -> None:
    add_entry(conn, job_id, WHAT_IS_KNOWN.name, {"name": what, "value": text}, person=me())


@bp.post("/power/<id:job_id>/<name>/back")
def take_back(job_id: int, name: str) -> Response | tuple[str, int]:
    """Take the last answer back: it is struck out, not lost."""
    way, conn = _way(name), get_db()
    record = record_of(conn, job_id)

    def taken_back() -> str:
        own = answers_of(record.entries, name)
        number = whole(request.form.get("entry", "")) or (own[-1].key if own else None)
        if number not in {answer.key for answer in own} or not strike_entry(conn, job_id, number, TAKEN_BACK, me()):
            raise PondrelError("There is nothing to take back, or somebody did so already: load the page again.")
        refresh_job(conn, job_id)
        return url_for("power.show", job_id=job_id, name=name)

    return answered_once(taken_back, lambda error: _page(record, way, error))


@bp.post("/power/<id:job_id>/<name>/capture")
def lay(job_id: int, name: str) -> Response | tuple[str, int]:
    """Lay a capture of a start on the battery's volts: what it shows is kept, the file is not."""
    way, conn = _way(name), get_db()
    record = record_of(conn, job_id)
    given = typed("cylinders", "full_scale")

    def laid() -> str:
        sent = request.files.get("capture")
        if sent is None or not sent.filename:
            raise PondrelError("No file is chosen: a capture as CSV or WAV is wanted.")
        own = [(key, text) for key, text in (*_setup(record).settings.items(), *given.items()) if text and CAPTURE.setting(key)]
        case = case_from(CAPTURE, own)
        seen, outcome = capture_outcome(case, capture_from(cast(BinaryIO, sent.stream), case.known("full_scale")))
        rpm = outcome.service.figures.get("rpm")
        content = {
            "name": checked("The file's name", sent.filename)[:80],
            "says": " ".join(f"{found.because}" for found in outcome.findings),
            "laid": laid_as_text(laid_in(seen, rpm if isinstance(rpm, float) else None)),
        }
        add_entry(conn, job_id, CAPTURED.name, content, person=me())
        refresh_job(conn, job_id)
        return url_for("power.show", job_id=job_id, name=name)

    return answered_once(laid, lambda error: _page(record, way, lays_wrong=error))


@bp.post("/power/<id:job_id>/<name>/conclude")
def conclude(job_id: int, name: str) -> Response | tuple[str, int]:
    """Write down what was found."""
    way, conn = _way(name), get_db()
    record = record_of(conn, job_id)

    def concluded() -> str:
        at = _at(record, name)
        if at.found is None:
            raise PondrelError("Nothing is found yet: go on with the next step.")
        cause = at.found.cause
        faulty = () if cause.aim == "none" else (cause.name,)
        reason = "" if at.found.proved else "nothing at hand shows it directly"
        basis = [done.answer.key for done in at.done if not done.history and not done.answer.skipped]
        add_conclusion(conn, job_id, None, faulty, at.found.says.removesuffix("."), at.found.chance, at.found.proved, reason, basis, me())
        refresh_job(conn, job_id)
        flash("Written down. What follows is the repair, then the same readings again.")
        return url_for("jobs.show", job_id=job_id)

    return answered_once(concluded, lambda error: _page(record, way, error))


@bp.post("/power/<id:job_id>/<name>/trace")
def hand_over(job_id: int, name: str) -> Response | tuple[str, int]:
    """Go on in Trace: the typical circuit with the readings that were taken, where its wires are not those of this vehicle to the metre."""
    way, conn = _way(name), get_db()
    record = record_of(conn, job_id)
    if not way.typical:
        abort(404)
    typical = typical_called(way.typical)

    def handed() -> str:
        at, setup = _at(record, name), _setup(record)
        volts = "24 V" if setup.settings.get("system") == "24" else "12 V"
        text = made(typical, {"circuit.volts": volts, "circuit.title": f"{typical.title}, {record.vehicle.name}"[:110]})
        sheet_id = add_sheet(conn, text)
        if any(trace.sheet_id == sheet_id for trace in record.traces):
            raise PondrelError("This circuit is traced in this job already: go on there.")
        trace_id = add_trace(conn, job_id, sheet_id, me())
        for item, value, _ in items_of(at, parse_sheet(text)):
            add_entry(conn, job_id, sort_of(item).name, content_of(item, value), trace_id=trace_id, person=me())
        refresh_job(conn, job_id)
        return url_for("trace.show", job_id=job_id, number=len(record.traces) + 1)

    return answered_once(handed, lambda error: _page(record, way, error))


def leads_of_step(step: Step) -> list[Lead]:
    """Where red and black go, and what is to do."""
    lines = [Lead("red", "red", step.red)] if step.red else []
    lines += [Lead("black", "black", step.black)] if step.black else []
    return [*lines, *([Lead("do", "do", step.do)] if step.do else [])]


def answer_shown(done: Done) -> str:
    """An answer as the list of steps shows it: a number with its unit, a word as it is."""
    value, at, noted = done.answer.text.partition("@")
    plain = value.strip()
    if not plain.replace(".", "", 1).replace(",", "", 1).lstrip("+-−").isdigit():
        return plain
    unit = f" {shown_unit(done.step)}".rstrip() if isinstance(done.step, Step) else ""
    return f"{plain.replace(',', '.')}{unit}{_noted(noted) if at else ''}"


@bp.get("/power/<id:job_id>/<name>/after")
def after(job_id: int, name: str) -> str:
    """The same points before and after the repair."""
    return _pairs(record_of(get_db(), job_id), _way(name), "", {})


def _pairs(record: Record, way: Way, error: str, given: Mapping[str, str]) -> str:
    pairs, says = attempt(lambda: pairs_of(record.entries, way.name, _setup(record)))
    return render_template(
        "power/after.html", record=record, way=way, pairs=pairs or (), proof=proof_of(pairs or ()), error=error or says, typed=given,
    )  # fmt: skip


@bp.post("/power/<id:job_id>/<name>/after")
def read_again(job_id: int, name: str) -> Response | tuple[str, int]:
    """Take readings of the same points after the repair."""
    way, conn = _way(name), get_db()
    record = record_of(conn, job_id)
    given = {key: text.strip() for key, text in request.form.items() if way.step(key) is not None and text.strip()}

    def taken() -> str:
        for step, text in given.items():
            value = checked("The reading", text, LONGEST_ANSWER)
            place_of((), name, (Answer(step, value),), _setup(record))  # refuses what cannot be
            add_entry(conn, job_id, AGAIN.name, {"way": name, "step": step, "value": value}, person=me())
        if not given:
            raise PondrelError("Nothing was typed: read a point again and type what the meter shows.")
        refresh_job(conn, job_id)
        return url_for("power.after", job_id=job_id, name=name)

    return answered_once(taken, lambda error: _pairs(record, way, error, given))


def _noted(text: str) -> str:
    """What was noted beside a number: ``after 6 min``, ``at 15 °C``."""
    number, unit = text.strip().rstrip("minC°F "), text.strip().lstrip("0123456789.,-+ ")
    return (
        f" after {number} min"
        if unit.startswith("min")
        else f" at {number} °{unit[-1:]}"
        if unit[-1:] in ("C", "F")
        else f" @{text.strip()}"
    )


def _way_of_job(record: Record) -> str:
    way = record.state.way
    return url_for("power.show", job_id=record.job.id, name=way) if way and not record.traces else ""


def init_app(app: Flask) -> None:
    """Register the blueprint, the room, and the way to it from a job."""
    app.register_blueprint(bp)
    app.jinja_env.filters.update(leads_of_step=leads_of_step, answer_shown=answer_shown, span=span_words, unit_of_step=shown_unit)
    add_room(app, Room("Start & charge", "power.choose", "y", 30, ("power", "captures")))
    add_stop(app, Stop("Trace", _way_of_job))
