"""House rules as the workshop settled them."""

from __future__ import annotations

import sqlite3

from .db import now

__all__ = ["house_choices", "settle_house"]

_SETTLE = """
INSERT INTO house_rule (name, choice, person, settled_at) VALUES (?, ?, ?, ?)
ON CONFLICT (name) DO UPDATE SET choice = excluded.choice, person = excluded.person, settled_at = excluded.settled_at
"""


def house_choices(conn: sqlite3.Connection) -> dict[str, str]:
    """By rule what was settled; nothing for those that nobody settled."""
    return dict(conn.execute("SELECT name, choice FROM house_rule").fetchall())


def settle_house(conn: sqlite3.Connection, name: str, choice: str, person: str = "") -> None:
    """Settle one."""
    conn.execute(_SETTLE, (name, choice, person, now()))
