"""The chain of a function: its links as rings, the one that does not hold with what it hangs on, and what to ask next."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from typing import Any

from flask import Blueprint, Flask, abort, redirect, render_template, request, url_for
from werkzeug.wrappers import Response as WerkzeugResponse

from ...core.base.brief import lowered
from ...core.base.errors import PondrelError
from ...core.evidence.hazards import HAZARDS
from ...core.job.links import LINK, facts_said, said_in
from ...core.library.module_links import line_for_value, lines_for_call
from ...core.module.chain.function import Function
from ...core.module.chain.next_link import asked_next, shares_of
from ...core.module.chain.order import order_of
from ...core.module.chain.standing import Fact, Link, LinkState, Standing, fact_of, number_said, standing_of
from ...core.module.roster import Roster
from ...instruments.modules.tester import Answered
from ...store.bay import refresh_job
from ...store.entries import add_entry
from ...store.sheets import StoredSheet, sheet_called
from ...store.vehicles import get_vehicle
from ..jobs.ahead import Ahead, look_ahead, take_up
from ..jobs.docket import Record
from ..shell.attempt import attempt
from ..shell.database import get_db
from ..shell.fields import checked, typed, whole
from ..shell.once import answered_once
from ..shell.who import me
from ..shell.workups import workups
from .known import job_asked, roster_of, talk_with
from .live import Live
from .page import called_in, facts_known

__all__ = ["Ring", "init_app", "rings_of"]

bp = Blueprint("module_chain", __name__, url_prefix="/modules/vehicle/<id:vehicle_id>/function/<function>")

STEP, ROW, PER_ROW, PER_ROW_NARROW = 172, 132, 8, 4
LONGEST_WORD = 60


@dataclass(frozen=True, slots=True)
class Ring:
    """A ring of the drawing: its corner, what it says, and how it stands."""

    x: float
    y: float
    title: str
    wants: str
    foot: str
    state: str
    share: str
    joined: bool


@dataclass(frozen=True, slots=True)
class Drawing:
    """The chain as it is drawn: its rings row by row, and its last piece: what the function does."""

    width: float
    height: float
    rings: Sequence[Ring]
    end_x: float
    end_y: float
    end_title: str
    end_says: str


@dataclass(frozen=True, slots=True)
class Circuit:
    """The circuit that the unmet link hangs on: its sheet, the ``lines`` of evidence on it, and what to measure next."""

    stored: StoredSheet
    lines: str
    ahead: Ahead


def rings_of(chain: Standing, most: int = PER_ROW) -> Drawing:
    """A chain drawn in rows of at most so many pieces, each as long as the others."""
    shares = shares_of(chain)
    pieces = len(chain.links) + 1
    rows = -(-pieces // most)
    per_row = -(-pieces // rows)
    rings = []
    for place, link in enumerate(chain.links):
        row, column = divmod(place, per_row)
        share = shares.get(link.condition.name, 0.0)
        rings.append(
            Ring(
                8 + column * STEP, 14 + row * ROW, link.condition.title, _inside(link), link.why or link.state.value,
                link.state.name.lower(), f"{100 * share:.0f} %" if share >= 0.01 else "", column < per_row - 1,
            )
        )  # fmt: skip
    row, column = divmod(pieces - 1, per_row)
    says = chain.function.does if chain.complete else "waits"
    return Drawing(per_row * STEP + 20, rows * ROW, rings, 8 + column * STEP, 14 + row * ROW, chain.function.title, says)


def _inside(link: Link) -> str:
    if link.state is LinkState.HOLDS:
        return link.says if link.says and len(link.says) <= 14 else link.condition.wants
    if link.state is LinkState.UNMET:
        return link.says or f"not {link.condition.wants}"
    return link.condition.wants


@bp.get("")
def show(vehicle_id: int, function: str) -> str:
    """The chain."""
    return _page(vehicle_id, function, {}, "")


def _function(vehicle_id: int, name: str) -> tuple[Roster, Function]:
    roster = roster_of(vehicle_id)
    return roster, roster.functions.get(name) or abort(404)


def _told(record: Record | None, function: Function) -> dict[str, Fact]:
    """What was said by hand: lines of a job's record, or for no job words of the address."""
    if record is not None:
        return facts_said(function, said_in(record.entries, function))
    return facts_said(function, [(name.removeprefix("f."), word) for name, word in request.args.items() if name.startswith("f.")])


def _answered(roster: Roster, talk: Live | None, record: Record | None) -> Mapping[str, Answered]:
    return talk.answered if talk is not None and talk.answered else called_in(roster, record)


def _asked(roster: Roster, function: str, talk: Live | None, record: Record | None) -> tuple[dict[str, Fact], list[str]]:
    """What modules have told of a function, and who is silent: by the talk, or where none was had, by the job's last roll call."""
    answered = _answered(roster, talk, record)
    values = talk.values if talk is not None else {}
    return facts_known(roster, function, answered, values), [name for name, one in answered.items() if not one.answers]


def _page(vehicle_id: int, name: str, given: Mapping[str, str], error: str) -> str:
    roster, function = _function(vehicle_id, name)
    record, talk = job_asked(vehicle_id), talk_with(vehicle_id)
    asked, gone = _asked(roster, name, talk, record)
    chain = standing_of(function, {**asked, **_told(record, function)}, gone)
    hazards = [HAZARDS[own] for own in dict.fromkeys(h for link in chain.links for h in link.condition.hazards)]
    return render_template(
        "modules/chain.html", vehicle=get_vehicle(get_db(), vehicle_id), function=function, chain=chain, drawing=rings_of(chain),
        narrow=rings_of(chain, PER_ROW_NARROW), record=record, talk=talk, asked=asked, circuit=_circuit(roster, chain, talk, record),
        next=asked_next(chain)[:3], order=order_of(chain), hazards=hazards, typed=given, error=error,
        facts_typed=[(own, word) for own, word in request.args.items() if own.startswith("f.")],
    )  # fmt: skip


def _circuit(roster: Roster, chain: Standing, talk: Live | None, record: Record | None) -> Circuit | None:
    """The circuit that the unmet link hangs on; None where it has none in the library."""
    if chain.root is None or not chain.root.condition.hangs.sheet:
        return None
    condition, said = chain.root.condition, chain.root.says
    stored = sheet_called(get_db(), condition.hangs.sheet)
    if stored is None:
        return None

    def line() -> str:
        sheet = workups().sheet(stored)
        if condition.answers:  # who hangs on the same circuit and answers tells as much
            answered = _answered(roster, talk, record).values()
            others = [one.module for one in answered if one.answers and one.module.name != condition.answers]
            return lines_for_call(sheet, roster.modules[condition.answers], others)
        told = talk.values.get(condition.module, ()) if talk is not None else ()
        value = next((own.value for own in told if own.datum.name == condition.datum), number_said(said))
        datum = roster.modules[condition.module].data.get(condition.datum) if condition.module in roster.modules else None
        return line_for_value(sheet, datum, value) if datum is not None and value is not None else ""

    found, _ = attempt(line)
    text = found or ""
    return Circuit(stored, text, look_ahead(stored, text, record))


@bp.post("")
def tell(vehicle_id: int, function: str) -> WerkzeugResponse | tuple[str, int]:
    """Say how a link stands."""
    _, own = _function(vehicle_id, function)
    given = typed("condition", "word")
    record = job_asked(vehicle_id)

    def write() -> str:
        condition = own.condition(checked("The link", given["condition"], LONGEST_WORD))
        word = checked("What was found", given["word"], LONGEST_WORD)
        fact_of(condition, word)
        if record is not None:
            content = {"function": own.name, "condition": condition.name, "word": word, "title": f"{own.title}: {condition.title}"}
            add_entry(get_db(), record.job.id, LINK.name, content, person=me())
            refresh_job(get_db(), record.job.id)
            return url_for("module_chain.show", vehicle_id=vehicle_id, function=function, job=record.job.id)
        words: dict[str, Any] = {name: text for name, text in request.args.items() if name.startswith("f.")}
        return url_for("module_chain.show", vehicle_id=vehicle_id, function=function, **words | {f"f.{condition.name}": word})

    return answered_once(write, lambda error: _page(vehicle_id, function, given, error))


@bp.post("/trace")
def trace(vehicle_id: int, function: str) -> WerkzeugResponse | tuple[str, int]:
    """Take the circuit of the unmet link up in the job, with what is known as its first evidence."""
    roster, own = _function(vehicle_id, function)
    record, talk = job_asked(vehicle_id), talk_with(vehicle_id)

    def write() -> str:
        if record is None:
            raise PondrelError("This is looked at without a job: open a job for the vehicle, and come here from it.")
        asked, gone = _asked(roster, function, talk, record)
        found = _circuit(roster, standing_of(own, {**asked, **_told(record, own)}, gone), talk, record)
        if found is None:
            raise PondrelError("The link that does not hold has no circuit in the library: trace it by a sheet of your own.")
        number = take_up(get_db(), record.job.id, found.stored, found.lines, f"from the chain of {lowered(own.title)}")
        return url_for("trace.show", job_id=record.job.id, number=number)

    return answered_once(write, lambda error: _page(vehicle_id, function, {}, error))


@bp.get("/ask")
def ask(vehicle_id: int, function: str) -> WerkzeugResponse:
    """To the talk that can ask, or to where one is begun."""
    talk = talk_with(vehicle_id)
    if talk is not None and not talk.ended:
        return redirect(url_for("module_talk.show", token=talk.token))
    return redirect(url_for("module_talk.vehicle", vehicle_id=vehicle_id, job=whole(request.args.get("job", ""))))


def init_app(app: Flask) -> None:
    """Register the blueprint."""
    app.register_blueprint(bp)
