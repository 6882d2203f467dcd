"""From a flag to the pin: which circuit it is about, which line of evidence it is there, what to measure next; and the way into the job."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field, replace

from flask import Blueprint, Flask, render_template, request, url_for
from werkzeug.wrappers import Response as WerkzeugResponse

from ...core.base.brief import capitalized
from ...core.base.errors import PondrelError
from ...core.bus.words import spelled_out
from ...core.circuit.sheet import Sheet
from ...core.evidence.asked import Measurement
from ...core.evidence.items import Item
from ...core.evidence.line import parse_line
from ...core.evidence.registry import content_of, sort_of
from ...core.isolate import likely_outcomes
from ...core.library.bus_links import about, lines_for_bus, lines_for_flag, lines_for_silence
from ...store.bay import refresh_job
from ...store.buses import add_link, all_links
from ...store.carry import carry
from ...store.entries import add_entry
from ...store.own_drawings import own_drawing_of
from ...store.sheets import StoredSheet, get_sheet, sheet_cards, sheet_titles
from ...store.traces import add_trace
from ..jobs.docket import Record, docket_in, record_of
from ..shell.attempt import attempt
from ..shell.database import get_db
from ..shell.fields import checked, whole
from ..shell.once import answered_once
from ..shell.titles import measured, part_or_place
from ..shell.who import me
from ..shell.words import reading_text
from ..shell.workups import workups
from .desk import log_row
from .page import BusPage, page_key
from .plan import BusSheet

__all__ = ["Walk", "first_to_follow", "followed", "init_app"]

bp = Blueprint("bus_follow", __name__, url_prefix="/bus/<id:log_id>/follow")

MOST_LOOKED_AT, LONGEST_LINE = 6, 2000
THE_BUS = "the bus"  # what is followed where no single module is to blame
_NAMED = 1
_ALIKE = 0.05  # V that make no difference where it is said what to expect


@dataclass(frozen=True, slots=True)
class Walk:
    """The way from a flag or a silent sender: its key and what it says, the circuit with its line of evidence (None where none is known),
    whether that is a guess that nobody confirmed, the next test in words with its minutes, what its outcomes
    would mean, and how the suspicion is shared, by part."""

    key: str
    says: str
    silent: bool
    sheet_id: int | None = None
    title: str = ""
    line: str = ""
    guessed: bool = False
    test: str = ""
    place: str = ""
    minutes: float = 0.0
    outcomes: Sequence[tuple[str, str]] = ()
    caution: str = ""
    error: str = ""
    shares: Mapping[str, float] = field(default_factory=dict)


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


def _items_of(sheet: Sheet, lines: str) -> list[tuple[Item, str]]:
    """The evidence of lines. Raises ReadingError for one that the sheet does not know."""
    return [parse_line(sheet, line, next(iter(sheet.states))) for line in lines.splitlines() if line.strip()]


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
        return replace(walk, error="The circuit is not in the library any more.")

    def look() -> Walk:
        sheet = workups().sheet(stored)
        known = _docket_items(record, stored.id) or ()
        items = (*known, *(item for item, _ in _items_of(sheet, walk.line) if not any(_alike(item, own) for own in known)))
        isolation = workups().isolation(stored, items)
        advice = isolation.next[0] if isolation.next else None
        shares: dict[str, float] = {}
        for one in isolation.suspects:
            if one.part is not None:
                shares[one.part] = shares.get(one.part, 0.0) + one.probability
        found = replace(walk, caution=sheet.caution if isinstance(sheet.caution, str) else "", shares=shares)
        if advice is None:
            return found
        test = advice.test
        place = part_or_place(sheet, test.red)
        rows: list[tuple[str, str]] = []
        for outcome in likely_outcomes(isolation, test):
            if not outcome.parts or len(rows) == 2:
                continue
            text = outcome.word or _span(outcome.low, outcome.high, test.instrument)
            named = [sheet.parts[part].called if part else "nothing wrong" for part in outcome.parts]
            others = len(named) - _NAMED
            more = f" or {others} other{'s' if others > 1 else ''}" if others > 0 else ""
            rows.append((text, ", ".join(named[:_NAMED]) + more))
        other = isinstance(test, Measurement) and test.black not in ("", sheet.minus)
        where = f"{measured(test.instrument)} at {place}" + (f", against {part_or_place(sheet, test.black)}" if other else "")
        return replace(found, test=measured(test.instrument), place=where, minutes=advice.minutes, outcomes=tuple(rows))

    found, wrong = attempt(look)
    return found if found is not None else replace(walk, error=str(wrong))


def _alike(item: Item, other: Item) -> bool:
    """Whether two items say the same, whatever is noted beside them."""
    return sort_of(item) is sort_of(other) and _said(item) == _said(other)


def _said(item: Item) -> dict[str, object]:
    return {name: text for name, text in content_of(item, "").items() if name != "note"}


def _docket_items(record: Record | None, sheet_id: int) -> tuple[Item, ...] | None:
    """What a job knows of a circuit already; None where it does not trace it."""
    trace = next((own for own in record.traces if own.sheet_id == sheet_id), None) if record is not None else None
    return docket_in(get_db(), record, trace).items if record is not None and trace is not None else None


def _span(low: float, high: float, meter: str) -> str:
    if meter == "volts" and high - low < _ALIKE:
        low = high = round((low + high) / 2.0, 1)
    first, last = reading_text(low, meter), reading_text(high, meter)
    return first if first == last else f"{first} to {last}"


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
    return tuple((line, _in_words(item)) for line in lines for item, _ in _items_of(sheet, line))


def _in_words(item: Item) -> str:
    said = _said(item)
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
        record = record_of(conn, row.job_id)
        own = own_drawing_of(conn, record.vehicle.id, stored.id) or stored.id
        trace = next((one for one in record.traces if one.sheet_id == own), None)
        if trace is None:
            trace_id, number = add_trace(conn, row.job_id, own, me()), len(record.traces) + 1
        else:
            trace_id, number = trace.id, trace.number
        known = _docket_items(record, own) or ()
        for item, value in _items_of(workups().sheet(get_sheet(conn, own) or stored), given["line"]):
            if not any(_alike(item, one) for one in known):
                content = {**content_of(item, value), "note": f"as the bus says: {_says(given['key'])}, {row.says}"[:400]}
                add_entry(conn, row.job_id, sort_of(item).name, content, trace_id=trace_id, person=me())
        carry(conn, row.job_id, me())
        refresh_job(conn, row.job_id)
        return url_for("trace.show", job_id=row.job_id, number=number)

    return answered_once(write, lambda error: _choose(log_id, given, error))


def init_app(app: Flask) -> None:
    """Register the blueprint."""
    app.register_blueprint(bp)
