"""The Bay: every job by whose move it is, with its stage and what it waits for."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

from flask import Blueprint, Flask, render_template, request

from ...core.job.stages import GROUPS, move_of
from ...store.bay import JobRow, Wanted, counts_by_party, page_of_jobs
from ...store.jobs import persons
from ...store.vehicles import all_vehicles
from ..shell.database import get_db
from ..shell.fields import whole
from ..shell.rooms import Room, add_room
from ..shell.who import me

__all__ = ["init_app"]

ON_A_PAGE = 20
MOST_PAGES = 100_000
LONGEST_SEARCH = 200

bp = Blueprint("bay", __name__)


@dataclass(frozen=True, slots=True)
class Group:
    """Jobs whose move is the same person's: a title, a note on it, and the jobs."""

    title: str
    note: str
    jobs: tuple[JobRow, ...]


def _grouped(jobs: Sequence[JobRow]) -> list[Group]:
    """The jobs by whose move it is, each group in the order in which they came."""
    found: dict[tuple[int, str, str], list[JobRow]] = {}
    for job in jobs:
        found.setdefault(move_of(job.party, job.waits_for), []).append(job)
    return [Group(title, note, tuple(found[number, title, note])) for number, title, note in sorted(found)]


@bp.get("/")
def show() -> str:
    """A page of the jobs; ``party``, ``person``, ``vehicle`` and ``q`` choose among them."""
    conn = get_db()
    asked = {name: request.args.get(name, "")[:LONGEST_SEARCH] for name in ("party", "person", "vehicle", "q")}
    party = whole(asked["party"])
    wanted = Wanted(
        (party,) if party is not None and party < len(GROUPS) else (), asked["person"], whole(asked["vehicle"]), tuple(asked["q"].split())
    )
    page = min(max(whole(request.args.get("page", "")) or 1, 1), MOST_PAGES)
    found = page_of_jobs(conn, ON_A_PAGE + 1, (page - 1) * ON_A_PAGE, wanted)
    people = persons(conn)
    return render_template(
        "bay/bay.html",
        groups=_grouped(found[:ON_A_PAGE]),
        page=page,
        more=len(found) > ON_A_PAGE,
        parties=GROUPS,
        counts=counts_by_party(conn),
        asked={name: text for name, text in asked.items() if text},
        persons=people if me() in (*people, "") else [me(), *people],
        vehicles=all_vehicles(conn),
    )


def init_app(app: Flask) -> None:
    """Register the blueprint and the room."""
    app.register_blueprint(bp)
    add_room(
        app,
        Room(
            "Bay",
            "bay.show",
            "b",
            10,
            ("bay", "history", "jobs", "complaint", "codes", "look", "visit", "photos", "trace", "remedy", "refit", "proof", "report"),
            "there / searches and n opens a job",
        ),
    )
