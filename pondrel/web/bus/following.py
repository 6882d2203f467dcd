"""From a flag to the pin: which circuit it is about, which line of evidence it is there, what to measure next; and the way into the job."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, field, replace

from flask import Blueprint, Flask, render_template, request, url_for
from werkzeug.wrappers import Response as WerkzeugResponse

from ...core.base.brief import capitalized
from ...core.base.errors import PondrelError
from ...core.bus.words import spelled_out
from ...core.circuit.sheet import Sheet
from ...core.evidence.items import Item
from ...core.evidence.line import parse_line
from ...core.library.bus_links import about, lines_for_bus, lines_for_flag, lines_for_silence
from ...store.buses import add_link, all_links
from ...store.sheets import StoredSheet, get_sheet, sheet_cards, sheet_titles
from ..jobs.ahead import Ahead, items_of_lines, look_ahead, said_of, take_up
from ..jobs.docket import Record
from ..shell.attempt import attempt
from ..shell.database import get_db
from ..shell.fields import checked, whole
from ..shell.once import answered_once
from ..shell.who import me
from ..shell.workups import workups
from .desk import log_row
from .page import BusPage, page_key
from .plan import BusSheet

__all__ = ["Walk", "first_to_follow", "followed", "init_app"]

bp = Blueprint("bus_follow", __name__, url_prefix="/bus/<id:log_id>/follow")

MOST_LOOKED_AT, LONGEST_LINE = 6, 2000
THE_BUS = "the bus"  # what is followed where no single module is to blame


@dataclass(frozen=True, slots=True)
class Walk:
    """The way from a flag or a silent sender: its key and what it says, the circuit with its line of evidence (None where none is known),
    whether that is a guess that nobody confirmed, and what to measure next there."""

    key: str
    says: str
    silent: bool
    sheet_id: int | None = None
    title: str = ""
    line: str = ""
    guessed: bool = False
    ahead: Ahead = field(default_factory=Ahead)


def first_to_follow(page: BusPage) -> str:
    """What is worth following before all else: the bus where several are not heard, then a flag of a fault that no silence explains,
    then the sender that is silent alone, then a flag that only warns."""
    if page.verdict.kind in ("bus down", "some silent"):
        return THE_BUS
    flags = [own for own in page.flags if not own.flag.silent]
    fault = next((own.key for own in flags if not own.flag.warns), "")
    alone = page.verdict.senders if page.verdict.kind == "one silent" else ()
    sender = next((page_key(own) for own in page.senders if own.key in alone), "")
    return fault or sender or next((own.key for own in flags), "")


def followed(page: BusPage, key: str, record: Record | None, bus: BusSheet | None) -> Walk | None:
    """The way from what is followed; None where nothing is. ``bus``: that of the library that the log's modules are on."""
    if key == THE_BUS:
        return _bus_walk(page, record, bus)
    flag = next((own for own in page.flags if own.key == key), None)
    sender = next((own for own in page.senders if page_key(own) == key), None)
    if flag is None and (sender is None or not sender.key):
        return None
    silent = flag is None
    says = flag.flag.says if flag is not None else f"{sender.says} is silent" if sender is not None else ""
    link = flag.link if flag is not None else sender.link if sender is not None else None
    if link is not None:
        return _walk(Walk(key, says, silent, link.sheet_id, link.title, link.line), record)
    offer = _offered(f"{says} {key}", silent)
    if offer is None:
        return Walk(key, says, silent)
    stored, line = offer
    return _walk(Walk(key, says, silent, stored.id, stored.title, line, guessed=True), record)


def _bus_walk(page: BusPage, record: Record | None, bus: BusSheet | None) -> Walk:
    """The way from who is heard and who is not to the bus itself."""
    walk = Walk(THE_BUS, "Nobody is heard any more" if page.verdict.kind == "bus down" else "Some are not heard", True)
    lines, _ = attempt(lambda: lines_for_bus(bus.sheet, page.heard) if bus is not None else ())
    if bus is None or not lines:
        return walk
    return _walk(replace(walk, sheet_id=bus.stored.id, title=bus.stored.title, line="\n".join(lines), guessed=True), record)


def _offered(says: str, silent: bool) -> tuple[StoredSheet, str] | None:
    """The circuit of the library that is about the same words, and its line; None where none shares two of them."""
    wanted, best = about(says), 1
    cards = {card.id: card for word in sorted(wanted, key=len, reverse=True)[:MOST_LOOKED_AT] for card in sheet_cards(get_db(), word)}
    found: tuple[StoredSheet, str] | None = None
    for number in list(cards)[: 4 * MOST_LOOKED_AT]:
        stored = get_sheet(get_db(), number)
        sheet, _ = attempt(lambda stored=stored: workups().sheet(stored))  # type: ignore[misc]
        if stored is None or sheet is None:
            continue
        lines = (lines_for_silence if silent else lines_for_flag)(sheet, says)
        shared = len(about(lines[0]) & wanted) if lines else 0
        if shared > best:
            best, found = shared, (stored, lines[0])
    return found


def _walk(walk: Walk, record: Record | None) -> Walk:
    """The walk with its circuit looked at: what to measure next once the line is evidence there."""
    stored = get_sheet(get_db(), walk.sheet_id or 0)
    if stored is None:
        return replace(walk, ahead=Ahead(error="The circuit is not in the library any more."))

    return replace(walk, ahead=look_ahead(stored, walk.line, record))


@bp.get("")
def choose(log_id: int) -> str:
    """The form that says which circuit a flag or a silent sender is about."""
    return _choose(log_id, {}, "")


def _choose(log_id: int, given: Mapping[str, str], error: str) -> str:
    row = log_row(log_id)
    key = given.get("key", "") or request.args.get("key", "")
    number = whole(given.get("sheet", "") or request.args.get("sheet", ""))
    stored = get_sheet(get_db(), number) if number is not None else None
    lines: tuple[tuple[str, str], ...] = ()
    if stored is not None:
        silent = key.startswith("sender ")
        lines, wrong = attempt(lambda: _lines(workups().sheet(stored), key, silent))  # type: ignore[assignment]
        error = error or (str(wrong) if wrong else "")
    return render_template(
        "bus/link.html", row=row, key=key, says=_says(key), sheets=sheet_titles(get_db()), sheet=stored, lines=lines or (), typed=given,
        error=error, links=all_links(get_db()),
    )  # fmt: skip


def _lines(sheet: Sheet, key: str, silent: bool) -> tuple[tuple[str, str], ...]:
    """What may be meant on a sheet, the likeliest first: each line with what it says in words."""
    first, second = (lines_for_silence, lines_for_flag) if silent else (lines_for_flag, lines_for_silence)
    lines = (*first(sheet, key), *second(sheet, key))
    return tuple((line, _in_words(item)) for line in lines for item, _ in items_of_lines(sheet, line))


def _in_words(item: Item) -> str:
    said = said_of(item)
    return f"{capitalized(str(said['subject']))}: {said['outcome']}, {said['state']}"


def _says(key: str) -> str:
    if key == THE_BUS:
        return "Who is heard and who is not"
    if key.startswith("sender "):
        return f"{spelled_out(key.removeprefix('sender '))} is silent"
    return spelled_out(key.rpartition(".")[2])


def _link_key(key: str) -> tuple[str, str]:
    """Frame and signal of a key, as links are kept by."""
    if key.startswith("sender "):
        return "", key.removeprefix("sender ")
    frame, _, signal = key.rpartition(".")
    return frame, signal


@bp.post("/link")
def link(log_id: int) -> WerkzeugResponse | tuple[str, int]:
    """Keep which circuit a flag or a silent sender is about, and which line of evidence it is there."""
    row = log_row(log_id)
    given = {name: request.form.get(name, "").strip()[:LONGEST_LINE] for name in ("key", "sheet", "line")}

    def write() -> str:
        number = whole(given["sheet"])
        stored = get_sheet(get_db(), number) if number is not None else None
        if stored is None:
            raise PondrelError("Choose the circuit that it is about.")
        frame, signal = _link_key(checked("The key", given["key"], LONGEST_LINE))
        if not signal:
            raise PondrelError("Say what is linked: follow a flag or a silent module from its log.")
        line = given["line"]
        if line:
            sheet = workups().sheet(stored)
            parse_line(sheet, line, next(iter(sheet.states)))
        add_link(get_db(), frame, signal, stored.id, line, me())
        return url_for("bus.show", log_id=row.id, follow=given["key"])

    return answered_once(write, lambda error: _choose(log_id, given, error))


@bp.post("/measure")
def measure(log_id: int) -> WerkzeugResponse | tuple[str, int]:
    """Take the circuit up in the log's job, with what the bus says as its first evidence, and go and measure."""
    row = log_row(log_id)
    given = {name: request.form.get(name, "").strip()[:LONGEST_LINE] for name in ("key", "sheet", "line")}

    def write() -> str:
        conn = get_db()
        if row.job_id is None:
            raise PondrelError("This log belongs to no job: open a job for the vehicle, and take the log in there.")
        stored = get_sheet(conn, whole(given["sheet"]) or 0)
        if stored is None:
            raise PondrelError("Choose the circuit that it is about first.")
        frame, signal = _link_key(given["key"])
        if signal and given["key"] != THE_BUS and (frame, signal) not in all_links(conn):
            add_link(conn, frame, signal, stored.id, given["line"], me())
        note = f"as the bus says: {_says(given['key'])}, {row.says}"
        number = take_up(conn, row.job_id, stored, given["line"], note)
        return url_for("trace.show", job_id=row.job_id, number=number)

    return answered_once(write, lambda error: _choose(log_id, given, error))


def init_app(app: Flask) -> None:
    """Register the blueprint."""
    app.register_blueprint(bp)
