"""The Remedy page: comparing the ways, choosing one, seeing to what comes before it, and writing down that it is done."""

from __future__ import annotations

from collections.abc import Callable, Mapping

from flask import Blueprint, Flask, render_template, request, url_for
from werkzeug.wrappers import Response

from ...core.base.errors import PondrelError
from ...core.base.written import Value
from ...core.check import Verdict
from ...core.job.alike import words_in
from ...core.job.remedy import REMEDY, held_back
from ...core.remedy.choice import AGREED, CHOICE, MEMBER, MEMBER_STATES
from ...core.remedy.gates import GATE
from ...core.remedy.money import HORIZONS, amount_from, checked_rates
from ...core.remedy.new_one import number_told
from ...core.remedy.offer import OFFER, Offer
from ...core.remedy.options import SCHOOLS, Option
from ...store.bay import refresh_job
from ...store.bench import check_of
from ...store.conclusions import add_conclusion, standing_conclusion
from ...store.entries import add_entry, strike_entry
from ...store.mended import fit_parts
from ...store.rates import keep_rates
from ..jobs.docket import Record, record_of
from ..shell.database import get_db
from ..shell.fields import checked, typed
from ..shell.once import answered_once
from ..shell.rooms import Stop, add_stop
from ..shell.who import me
from .page import Page, Wanted, page_of

__all__ = ["init_app"]

LONGEST_PART, LONGEST_REASON = 120, 500

bp = Blueprint("remedy", __name__, url_prefix="/jobs/<id:job_id>/remedy")


@bp.get("")
def show(job_id: int) -> str:
    """The ways side by side."""
    return _drawn(record_of(get_db(), job_id), Wanted.of(request.args), {}, "")


def _drawn(record: Record, wanted: Wanted, given: Mapping[str, str], error: str) -> str:
    return render_template(
        "remedy/show.html",
        page=page_of(record, wanted),
        record=record,
        horizons=HORIZONS,
        schools=SCHOOLS,
        states=MEMBER_STATES,
        typed=given,
        error=error,
    )


def _answered(job_id: int, names: tuple[str, ...], write: Callable[[Page, dict[str, str]], None]) -> Response | tuple[str, int]:
    """Take a form of the page: ``write`` does it or raises PondrelError with one sentence; the page stays as it was looked at."""
    record = record_of(get_db(), job_id)
    given = typed(*names, "years", "school", "pick", "part")
    wanted = Wanted.of(given)

    def written() -> str:
        write(page_of(record, wanted), given)
        refresh_job(get_db(), job_id)
        return url_for("remedy.show", job_id=job_id, **wanted.address())  # type: ignore[arg-type]

    return answered_once(written, lambda error: _drawn(record, wanted, given, error))


def _add(job_id: int, kind: str, content: Mapping[str, Value]) -> None:
    add_entry(get_db(), job_id, kind, content, person=me())


def _fields(kind: object, given: Mapping[str, str]) -> dict[str, Value]:
    return {field.name: given[field.name] for field in kind.fields if field.name in given}  # type: ignore[attr-defined]


@bp.post("/found")
def found(job_id: int) -> Response | tuple[str, int]:
    """Name a part that was found on no circuit: by a check on the bench, or by what was seen."""

    def named(page: Page, given: dict[str, str]) -> None:
        part = checked("The part", given["called"], LONGEST_PART)
        if not part:
            raise PondrelError("The part is missing: write what was found to be at fault.")
        if standing_conclusion(get_db(), job_id, None) is not None:
            raise PondrelError("Something is found already: take it back with a reason first.")
        check = next((e for e in page.checks if str(e.id) == given["check"]), None)
        reason = checked("What shows it", given["reason"], LONGEST_REASON)
        row = check_of(get_db(), int(check.text("check"))) if check and check.text("check").isdecimal() else None
        if row is not None and not words_in(f"{row.title} {row.part}") & words_in(part):
            if not reason:
                raise PondrelError(f"That check was of the {row.title}: choose the check of this part, or write what shows it.")
            check = row = None
        proved = row is not None and row.verdict == Verdict.OUTSIDE
        if not proved and not reason:
            raise PondrelError("What shows it is missing: choose a check that was outside limits, or write what was seen.")
        basis = [check.id] if check else []
        add_conclusion(get_db(), job_id, None, [part], part, None, proved, reason, basis, me())

    return _answered(job_id, ("called", "check", "reason"), named)


@bp.post("/withdraw")
def withdraw(job_id: int) -> Response | tuple[str, int]:
    """Take back what was found on no circuit, with a reason."""

    def withdrawn(page: Page, given: dict[str, str]) -> None:
        reason = checked("The reason", given["reason"], LONGEST_REASON)
        entry_id = standing_conclusion(get_db(), job_id, None)
        if not reason:
            raise PondrelError("A reason is missing: say why it no longer stands.")
        if entry_id is None or not strike_entry(get_db(), job_id, entry_id, reason, me()):
            raise PondrelError("There is nothing to take back here: what was found on a circuit is reopened there.")

    return _answered(job_id, ("reason",), withdrawn)


@bp.post("/offer")
def offer(job_id: int) -> Response | tuple[str, int]:
    """Write down price, minutes, days or warranty of a way."""
    names = tuple(field.name for field in OFFER.fields)
    return _answered(job_id, names, lambda page, given: _add(job_id, OFFER.name, _fields(OFFER, given)))


@bp.post("/member")
def member(job_id: int) -> Response | tuple[str, int]:
    """Write down how another of the set is."""
    names = tuple(field.name for field in MEMBER.fields)
    return _answered(job_id, names, lambda page, given: _add(job_id, MEMBER.name, _fields(MEMBER, given)))


@bp.post("/choose")
def choose(job_id: int) -> Response | tuple[str, int]:
    """Choose a way, as it is reckoned now."""

    def chosen(page: Page, given: dict[str, str]) -> None:
        option = page.found.find(given["option"]) if page.found else None
        shut = next((o for o in page.found.refused if o.key == given["option"]), None) if page.found else None
        if shut is not None:
            raise PondrelError(f"{shut.title} is not offered. {shut.refused}")
        if option is None:
            raise PondrelError("No way is chosen: touch one of the rows first.")
        if option.lacks:
            raise PondrelError(f"{option.title} cannot be chosen yet: {option.lacks} is missing. Write it down first.")
        _add(job_id, CHOICE.name, _choice(page, option, given["reason"]))

    return _answered(job_id, ("option", "reason"), chosen)


def _choice(page: Page, option: Option, reason: str) -> dict[str, Value]:
    """What is kept of a choice: what it was reckoned to cost when it was made."""
    assert page.target is not None
    seen = option.outlook
    return {
        "way": option.way.name,
        "which": option.which,
        "says": f"{page.target.called}: {option.title.lower() if option.which == 'failed' else option.title[0].lower() + option.title[1:]}",
        "reason": reason,
        "minutes": option.minutes,
        "today": option.today,
        "average": seen.average if seen else None,
        "low": seen.low if seen else None,
        "high": seen.high if seen else None,
        "years": page.wanted.years,
        "currency": page.rates.currency,
    }


@bp.post("/agreed")
def agreed(job_id: int) -> Response | tuple[str, int]:
    """The customer's word to what is chosen."""

    def said(page: Page, given: dict[str, str]) -> None:
        if page.chosen is None:
            raise PondrelError("Nothing is chosen yet that the customer could agree to: choose a way first.")
        _add(job_id, AGREED.name, {**_fields(AGREED, given), "limits": page.limits})

    return _answered(job_id, ("agrees", "who", "said"), said)


@bp.post("/gate")
def gate(job_id: int) -> Response | tuple[str, int]:
    """Say that something was seen to, or looked for."""

    def met(page: Page, given: dict[str, str]) -> None:
        known = next((one for one in page.gates if one.name == given["gate"] and not one.own), None)
        if known is None:
            raise PondrelError("This is nothing that can be ticked here: load the page again to see what is open.")
        if known.words and not given["text"]:
            raise PondrelError(f"{known.title}: {known.words} is missing. Write it down, then tick it.")
        if known.numbered:
            number_told(given["text"])
        _add(job_id, GATE.name, _fields(GATE, given))

    return _answered(job_id, ("gate", "result", "text"), met)


@bp.post("/done")
def done(job_id: int) -> Response | tuple[str, int]:
    """Write down that it was carried out."""

    def mended(page: Page, given: dict[str, str]) -> None:
        if page.target is not None and page.counts is not None:
            held_back(page.gates, given["reason"])
        if given["minutes"] and not (given["minutes"].isascii() and given["minutes"].isdecimal() and len(given["minutes"]) < 5):
            raise PondrelError("The minutes it took must be a whole number, such as 35.")
        amount_from("What it cost", given["paid"])
        _add(job_id, REMEDY.name, {**_fields(REMEDY, given), "part": page.target.name if page.target else ""})
        if page.chosen and page.chosen.way.cures:
            way, parts = page.chosen.way, [(member.called, member.on_sheet) for member in page.chosen.members]
            known = page.remedy.offers.get(way.name, Offer(way.name))
            months = round(known.months or 0)  # of a warranty that somebody wrote down: what is usual was promised by nobody
            fit_parts(get_db(), page.record.vehicle.id, job_id, parts, way.fitted_as, months, known.source, me())

    return _answered(job_id, ("text", "minutes", "paid", "reason"), mended)


@bp.post("/rates")
def rates(job_id: int) -> Response | tuple[str, int]:
    """Settle what an hour of the workshop costs."""
    return _answered(job_id, ("currency", "hourly", "day"), lambda page, given: keep_rates(get_db(), checked_rates(given), me()))


def _page_of_job(record: Record) -> str:
    return url_for("remedy.show", job_id=record.job.id)


def init_app(app: Flask) -> None:
    """Register the blueprint, and the stage that is worked at here."""
    app.register_blueprint(bp)
    add_stop(app, Stop("Remedy", _page_of_job))
