"""Circuits that are being drawn: every step with the whole text that it led to, so that nothing drawn is lost and all can be undone."""

from __future__ import annotations

import sqlite3
from dataclasses import dataclass

from ..core.base.errors import PondrelError
from .db import now

__all__ = ["Draft", "add_draft", "add_step", "get_draft", "keep_draft", "move_back", "move_on", "open_drafts", "steps_taken"]

MOST_STEPS = 2000  # of one draft: each holds the whole text


@dataclass(frozen=True, slots=True)
class Draft:
    """A draft where it stands: its ``text``, the ``words`` of the step that led there, and those of the step that would be taken ``again``,
    each empty for none. ``sheet_id`` is the sheet whose next version it will be, ``job_id`` the job that it is drawn for, ``kept_id`` the
    sheet that it has become."""

    id: int
    sheet_id: int | None
    job_id: int | None
    person: str
    made_at: str
    step_id: int
    before_id: int | None
    text: str
    words: str
    again: str
    kept_id: int | None
    trace_id: int | None = None

    @property
    def title(self) -> str:
        """What its text says that it is."""
        line = next((line for line in self.text.splitlines() if line.startswith("title:")), "")
        return line.removeprefix("title:").strip().strip("'\"") or "a circuit"


_INSERT = "INSERT INTO draft (sheet_id, job_id, trace_id, person, made_at) VALUES (?, ?, ?, ?, ?) RETURNING id"
_STEP = "INSERT INTO draft_step (draft_id, before_id, text, words, step, made_at) VALUES (?, ?, ?, ?, ?, ?) RETURNING id"
_MOVE = "INSERT INTO draft_move (draft_id, step_id, made_at) VALUES (?, ?, ?)"
_COUNT = "SELECT count(*) FROM draft_step WHERE draft_id = ?"
_GET = """
SELECT draft.id, draft.sheet_id, draft.job_id, draft.person, draft.made_at, step.id, step.before_id, step.text, step.words,
       coalesce((SELECT later.words FROM draft_step AS later WHERE later.before_id = step.id ORDER BY later.id DESC LIMIT 1), ''),
       (SELECT sheet_id FROM draft_kept WHERE draft_kept.draft_id = draft.id), draft.trace_id
FROM draft
JOIN draft_step AS step
  ON step.id = (SELECT step_id FROM draft_move WHERE draft_move.draft_id = draft.id ORDER BY draft_move.id DESC LIMIT 1)
WHERE draft.id = ?
"""
_LATER = "SELECT id FROM draft_step WHERE before_id = ? ORDER BY id DESC LIMIT 1"
_OPEN = """
SELECT draft.id FROM draft
WHERE trace_id IS NULL AND NOT EXISTS (SELECT 1 FROM draft_kept WHERE draft_kept.draft_id = draft.id)
ORDER BY draft.id DESC LIMIT ?
"""
_TAKEN = """
WITH RECURSIVE taken (id, before_id) AS (
    SELECT id, before_id FROM draft_step WHERE id = ?
    UNION ALL
    SELECT draft_step.id, draft_step.before_id FROM draft_step JOIN taken ON draft_step.id = taken.before_id
)
SELECT words, step FROM draft_step WHERE id IN (SELECT id FROM taken) AND before_id IS NOT NULL ORDER BY id
"""
_KEEP = "INSERT INTO draft_kept (draft_id, sheet_id, kept_at) VALUES (?, ?, ?)"


def add_draft(
    conn: sqlite3.Connection, text: str, words: str, person: str = "", sheet_id: int | None = None, job_id: int | None = None,
    trace_id: int | None = None,
) -> int:  # fmt: skip
    """Begin a draft with a text; returns its id."""
    draft_id = int(conn.execute(_INSERT, (sheet_id, job_id, trace_id, person, now())).fetchone()[0])
    _stand(conn, draft_id, int(conn.execute(_STEP, (draft_id, None, text, words, "", now())).fetchone()[0]))
    return draft_id


def _stand(conn: sqlite3.Connection, draft_id: int, step_id: int) -> None:
    conn.execute(_MOVE, (draft_id, step_id, now()))


def get_draft(conn: sqlite3.Connection, draft_id: int) -> Draft | None:
    """A draft where it stands, None if there is none of that id."""
    row = conn.execute(_GET, (draft_id,)).fetchone()
    return Draft(*row) if row else None


def add_step(conn: sqlite3.Connection, draft: Draft, text: str, words: str, step: str = "") -> None:
    """Take a step from where a draft stands; ``step`` is the JSON by which it can be taken again elsewhere.

    Raises PondrelError where somebody else took one meanwhile, or there are too many."""
    now_at = get_draft(conn, draft.id)
    if now_at is None or now_at.step_id != draft.step_id:
        raise PondrelError("Somebody changed this circuit meanwhile: look at it as it is now, and make your change there.")
    if now_at.kept_id is not None:
        raise PondrelError("This circuit is kept already: begin from the sheet to change it.")
    if conn.execute(_COUNT, (draft.id,)).fetchone()[0] >= MOST_STEPS:
        raise PondrelError(f"This drawing has {MOST_STEPS:,} steps: keep it as a sheet and go on from there.")
    _stand(conn, draft.id, int(conn.execute(_STEP, (draft.id, draft.step_id, text, words, step, now())).fetchone()[0]))


def move_back(conn: sqlite3.Connection, draft: Draft) -> bool:
    """Undo the last step; False where there is none."""
    if draft.before_id is None:
        return False
    _stand(conn, draft.id, draft.before_id)
    return True


def move_on(conn: sqlite3.Connection, draft: Draft) -> bool:
    """Take the step again that was undone last; False where there is none."""
    row = conn.execute(_LATER, (draft.step_id,)).fetchone()
    if row is None:
        return False
    _stand(conn, draft.id, int(row[0]))
    return True


def steps_taken(conn: sqlite3.Connection, draft: Draft) -> list[tuple[str, str]]:
    """The steps that led to where a draft stands, in words and as JSON, the first first."""
    return [(row["words"], row["step"]) for row in conn.execute(_TAKEN, (draft.step_id,))]


def keep_draft(conn: sqlite3.Connection, draft: Draft, sheet_id: int) -> None:
    """Write down which sheet a draft has become."""
    conn.execute(_KEEP, (draft.id, sheet_id, now()))


def open_drafts(conn: sqlite3.Connection, most: int = 12) -> list[Draft]:
    """Drafts that are no sheet yet, the newest first."""
    found = (get_draft(conn, row[0]) for row in conn.execute(_OPEN, (most,)).fetchall())
    return [draft for draft in found if draft is not None]
