"""Conclusions: what was found faulty, on which entries; an entry of the record, with the parts it names and its basis beside it."""

from __future__ import annotations

import sqlite3
from collections.abc import Mapping, Sequence
from dataclasses import dataclass

from ..core.base.errors import PondrelError
from ..core.base.written import Value
from ..core.job.conclusion import modes_in, modes_text
from .entries import add_entry, entries_of

__all__ = ["Conclusion", "add_conclusion", "conclusions_of", "is_concluded", "standing_conclusion"]


@dataclass(frozen=True, slots=True)
class Conclusion:
    """A conclusion; ``parts`` is empty for "nothing on this sheet", ``probability`` None where the readings could not be worked out,
    ``basis`` are ids of entries, ``reopened`` the reason if it no longer stands, ``modes`` how parts failed where that is known."""

    id: int
    job_id: int
    trace_id: int | None
    parts: tuple[str, ...]
    says: str
    probability: float | None
    proved: bool
    reason: str
    basis: tuple[int, ...]
    person: str
    concluded_at: str
    reopened: str | None
    modes: Mapping[str, str]


def add_conclusion(
    conn: sqlite3.Connection,
    job_id: int,
    trace_id: int | None,
    parts: Sequence[str],
    says: str,
    probability: float | None,
    proved: bool,
    reason: str,
    basis: Sequence[int],
    person: str = "",
    concluded_at: str | None = None,
    modes: Mapping[str, str] | None = None,
) -> int:
    """Write a conclusion, with the modes of its parts where those are known, return its entry's id. Raises PondrelError where one stands
    already, sqlite3.IntegrityError for one that is neither proved nor has a reason."""
    content: dict[str, Value] = {"says": says, "reason": reason, "faulty": bool(parts), "proved": proved, "probability": probability}
    content["modes"] = modes_text(modes or {})
    try:
        entry_id = add_entry(conn, job_id, "conclusion", content, trace_id=trace_id, person=person, made_at=concluded_at)
    except sqlite3.IntegrityError as error:
        if "conclusion_standing" not in str(error):
            raise
        raise PondrelError("This job is concluded already: reopen it with a reason first.") from error
    conn.executemany(
        "INSERT INTO conclusion_part (entry_id, place, part) VALUES (?, ?, ?)", [(entry_id, n, part) for n, part in enumerate(parts, 1)]
    )
    conn.executemany("INSERT INTO conclusion_basis (entry_id, basis_id) VALUES (?, ?)", [(entry_id, other) for other in basis])
    return entry_id


def is_concluded(conn: sqlite3.Connection, job_id: int, trace_id: int | None) -> bool:
    """Whether a conclusion stands on a trace, or on the job itself."""
    return standing_conclusion(conn, job_id, trace_id) is not None


def standing_conclusion(conn: sqlite3.Connection, job_id: int, trace_id: int | None) -> int | None:
    """Id of the conclusion that stands on a trace, or on the job itself; None where none does."""
    sql = "SELECT entry_id FROM conclusion_standing WHERE job_id = ? AND trace_id = ?"
    row = conn.execute(sql, (job_id, trace_id or 0)).fetchone()
    return int(row[0]) if row else None


def conclusions_of(conn: sqlite3.Connection, job_id: int) -> tuple[Conclusion, ...]:
    """A job's conclusions, the latest last."""
    parts = _of_entries(conn, job_id, "conclusion_part", "part", "place")
    basis = _of_entries(conn, job_id, "conclusion_basis", "basis_id", "basis_id")
    return tuple(
        Conclusion(
            entry.id,
            entry.job_id,
            entry.trace_id,
            tuple(str(part) for part in parts.get(entry.id, ())),
            entry.text("says"),
            None if entry.content["probability"] is None else float(entry.content["probability"]),
            bool(entry.content["proved"]),
            entry.text("reason"),
            tuple(int(number) for number in basis.get(entry.id, ())),
            entry.person,
            entry.made_at,
            entry.struck.reason if entry.struck else None,
            modes_in(entry.content),
        )
        for entry in entries_of(conn, job_id)
        if entry.kind == "conclusion"
    )


def _of_entries(conn: sqlite3.Connection, job_id: int, table: str, column: str, order: str) -> dict[int, list[str]]:
    """The values of a table beside the conclusions of a job, by entry."""
    sql = f"SELECT entry_id, {column} FROM {table} JOIN entry ON entry.id = entry_id WHERE job_id = ? ORDER BY entry_id, {order}"
    found: dict[int, list[str]] = {}
    for entry_id, value in conn.execute(sql, (job_id,)):
        found.setdefault(entry_id, []).append(value)
    return found
