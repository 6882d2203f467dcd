"""Choosing what to check, and checking it."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import replace
from typing import Any

from flask import Blueprint, Flask, abort, redirect, render_template, request, url_for
from werkzeug.wrappers import Response

from ...core.base.errors import PondrelError
from ...core.bench import FAMILIES
from ...core.bench.common import SETTINGS
from ...core.bench.family import Family
from ...core.bench.given import Given, given_from
from ...core.bench.house import with_house
from ...core.bench.registry import family_of_kind
from ...core.job.bench import limits_on, settings_on
from ...core.power import POWER
from ...store.bench import BenchRow, add_check, check_of, latest_checks
from ...store.house import house_choices
from ...store.jobs import Job, get_job
from ...store.meters import all_meters
from ...store.own_limits import limits_for
from ...store.vehicles import all_vehicles, get_vehicle
from ..jobs.docket import docket_of
from ..shell.database import get_db
from ..shell.fields import checked, is_fragment, whole
from ..shell.once import answered_with
from ..shell.rooms import Room, add_room
from ..shell.who import me
from .page import Board, board, given_of

__all__ = ["family_here", "init_app"]

bp = Blueprint("bench", __name__)

LATEST = 8
LONGEST_TITLE = 80
LONGEST_POINTS = 400_000


def family_here(name: str) -> Family:
    """The family at an address."""
    family = FAMILIES.get(name) or POWER.get(name)
    if family is None:
        abort(404)
    return family


@bp.get("/bench")
def choose() -> str:
    """What can be checked, by its sort, and what was checked last."""
    words = request.args.get("q", "").strip()[:60]
    found = [family for family in FAMILIES.values() if _matches(family, words)]
    by_group: dict[str, list[Family]] = {}
    for family in found:
        by_group.setdefault(family.group, []).append(family)
    goes_on = {name: text for name in ("job", "vehicle", "part") if (text := request.args.get(name, "")[:60])}
    return render_template(
        "bench/choose.html", groups=by_group, words=words, latest=latest_checks(get_db(), LATEST), goes_on=goes_on, sorts=_sorts
    )  # fmt: skip


def _matches(family: Family, words: str) -> bool:
    text = " ".join((family.name, family.title, family.covers, *_sorts(family))).lower()
    return all(word in text for word in words.lower().split())


def _sorts(family: Family) -> Sequence[str]:
    """The sorts of thing that a family begins with directly."""
    setting = family.setting("sort")
    return [word for word in setting.words if word != setting.usual] if setting else []


@bp.get("/bench/of/<id:job_id>/<int:number>/<part>")
def of_part(job_id: int, number: int, part: str) -> Response:
    """The check for a part of a job's circuit, with what its sheet says of it."""
    sheet = docket_of(get_db(), job_id, number).sheet
    own = sheet.parts.get(part)
    if own is None:
        abort(404)
    family = family_of_kind(own.kind.name)
    if family is None:
        return redirect(url_for("bench.choose", job=job_id, part=part))
    title = own.called[:1].upper() + own.called[1:]
    known: dict[str, Any] = {
        "title": title[:LONGEST_TITLE],
        "limit": "\n".join(limits_on(sheet, part, family)),
        "job": job_id,
        "part": part,
    }
    known.update({f"s.{name}": text for name, text in settings_on(sheet, part, family).items()})
    return redirect(url_for("bench.show", name=family.name, **{name: text for name, text in known.items() if text}))


@bp.get("/bench/<name>")
def show(name: str) -> str:
    """A check that nothing was read for yet: what is known goes along in the address, or is that of the check of the old part."""
    family, before = family_here(name), _before(request.args.get("after", ""))
    form = dict(request.args)
    given = given_of(family, form)
    if before is not None and not given:
        old = given_from(before.given)
        given = Given(old.settings, (), old.limits, "", old.meter)
        form = {"title": before.title, "vehicle": str(before.vehicle_id or ""), "job": str(before.job_id or ""), "part": before.part}
    return _page(family, given, form, before)


def _before(text: str) -> BenchRow | None:
    number = whole(text)
    return check_of(get_db(), number) if number is not None else None


def _title(family: Family, form: Mapping[str, str]) -> str:
    typed = " ".join(form.get("title", "").split())[:LONGEST_TITLE]
    sort = form.get("s.sort", "")
    plain = sort if sort and sort in _sorts(family) else family.title.partition(",")[0]
    return typed or plain[:1].upper() + plain[1:]


def _page(family: Family, given: Given, form: Mapping[str, str], before: BenchRow | None, error: str = "") -> str:
    conn = get_db()
    given = replace(given, settings=with_house(family.settings, given.settings, house_choices(conn)))
    title = _title(family, form)
    job = _job(form.get("job", ""))
    own = board(conn, family, given, title, vehicle_id=job.vehicle_id if job else whole(form.get("vehicle", "")))
    known = {**form, "vehicle": str(job.vehicle_id)} if job else form
    template = "bench/_says.html" if is_fragment() else "bench/show.html"
    return render_template(
        template, board=own, title=title, known=known, before=before, error=error or own.error, meters=all_meters(conn),
        vehicles=all_vehicles(conn), limits=limits_for(conn, family.name, title), settings=SETTINGS,
    )  # fmt: skip


def _job(text: str) -> Job | None:
    number = whole(text)
    return get_job(get_db(), number) if number is not None else None


@bp.post("/bench/<name>")
def look(name: str) -> str:
    """What the fields come to; nothing is kept."""
    family = family_here(name)
    form = request.form.to_dict()
    return _page(family, _given(family, form), form, _before(form.get("after", "")))


def _given(family: Family, form: Mapping[str, str]) -> Given:
    given = given_of(family, {**form, "points": form.get("points", "")[:LONGEST_POINTS]})
    return replace(given, settings=with_house(family.settings, given.settings, house_choices(get_db())))


@bp.post("/bench/<name>/keep")
def keep(name: str) -> Response | tuple[str, int]:
    """Keep the check; what was typed comes back where it cannot be judged."""
    family, form = family_here(name), request.form.to_dict()
    given, before = _given(family, form), _before(form.get("after", ""))

    def ready() -> Board:
        own = board(get_db(), family, given, _title(family, form))
        if own.outcome is None or not own.outcome.findings:
            raise PondrelError(own.error or "Nothing was read yet: type what the meter shows, then keep it.")
        return own

    def write(own: Board) -> str:
        check_id = _kept(family, own, form, before)
        if form.get("then") == "new":
            return url_for("bench.show", name=family.name, after=check_id)
        return url_for("bench_checks.show", check_id=check_id)

    return answered_with(ready, write, lambda error: _page(family, given, form, before, error))


def _kept(family: Family, own: Board, form: Mapping[str, str], before: BenchRow | None) -> int:
    assert own.outcome is not None
    conn = get_db()
    title = checked("The name of what is checked", _title(family, form), LONGEST_TITLE)
    vehicle, job = whole(form.get("vehicle", "")), _job(form.get("job", ""))
    vehicle_id = job.vehicle_id if job else vehicle if vehicle is not None and get_vehicle(conn, vehicle) else None
    number, unit = own.outcome.number(family.main)
    worst = own.outcome.findings[0]
    return add_check(
        conn, family.name, title, own.given.as_json(), str(own.outcome.verdict), worst.because, number, unit, vehicle_id=vehicle_id,
        job_id=job.id if job else None, part=form.get("part", "")[:LONGEST_TITLE], before_id=before.id if before else None, person=me(),
    )  # fmt: skip


def init_app(app: Flask) -> None:
    """Register the blueprint and the room."""
    app.register_blueprint(bp)
    add_room(app, Room("Bench", "bench.choose", "k", 20, ("bench", "bench_checks", "bench_limits", "bench_meters")))
