"""The modules that a vehicle is known to have: by roll calls and codes of all its jobs."""

from __future__ import annotations

import json
import sqlite3

from ..core.module.read_out import kept_codes
from ..core.module.roll_call import MOST_MODULES, modules_named

__all__ = ["modules_of_vehicle"]

_TOLD = """
SELECT entry.kind, entry.content FROM entry
JOIN job ON job.id = entry.job_id
WHERE job.vehicle_id = ? AND entry.kind IN ('roll_call', 'scan')
  AND NOT EXISTS (SELECT 1 FROM strike WHERE strike.entry_id = entry.id)
ORDER BY entry.id
"""


def modules_of_vehicle(conn: sqlite3.Connection, vehicle_id: int) -> list[str]:
    """Their names in the order in which they were named first."""
    names: dict[str, str] = {}
    for kind, text in conn.execute(_TOLD, (vehicle_id,)):
        content = json.loads(text)
        found = (
            [code.module for code in kept_codes(content.get("codes") or "[]")]
            if kind == "scan"
            else modules_named(f"{content.get('answered') or ''},{content.get('silent') or ''}")
        )
        for name in found:
            if name:
                names.setdefault(name.lower(), name)
    return list(names.values())[:MOST_MODULES]
