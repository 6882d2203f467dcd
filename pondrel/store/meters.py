"""The workshop's meters: those that are shipped by kind, and its own."""

from __future__ import annotations

import json
import sqlite3
from collections.abc import Mapping
from dataclasses import dataclass

from ..core.meter.handheld import HANDHELDS, Accuracy, Handheld
from .db import now

__all__ = ["OwnMeter", "all_meters", "keep_meter", "meter_named", "own_meters"]

_NEWEST = """
SELECT name, words, accuracy, ranges, lead_ohms, thermometer_c, address
FROM meter
WHERE id IN (SELECT max(id) FROM meter GROUP BY name) AND NOT gone
ORDER BY name
"""
_INSERT = """
INSERT INTO meter (name, words, accuracy, ranges, lead_ohms, thermometer_c, address, gone, made_at)
VALUES (?, ?, ?, ?, ?, ?, ?, ?, ?)
"""


@dataclass(frozen=True, slots=True)
class OwnMeter:
    """A meter of the workshop, and the address at which it is read; empty for one that is read by eye."""

    meter: Handheld
    address: str = ""


def own_meters(conn: sqlite3.Connection) -> list[OwnMeter]:
    """The workshop's own meters by name."""
    return [_meter(row) for row in conn.execute(_NEWEST)]


def _meter(row: sqlite3.Row) -> OwnMeter:
    name, words, accuracy, ranges, leads, thermometer, address = row
    own = {unit: Accuracy(*pair) for unit, pair in json.loads(accuracy).items()}
    return OwnMeter(Handheld(name, words, own, tuple(json.loads(ranges)), leads, thermometer), address)


def all_meters(conn: sqlite3.Connection) -> Mapping[str, OwnMeter]:
    """Own meters first, then the shipped kinds, by name."""
    own = {one.meter.name: one for one in own_meters(conn)}
    return {**own, **{name: OwnMeter(meter) for name, meter in HANDHELDS.items() if name not in own}}


def meter_named(conn: sqlite3.Connection, name: str) -> OwnMeter | None:
    """The meter of that name; None where there is none."""
    return all_meters(conn).get(name)


def keep_meter(conn: sqlite3.Connection, own: OwnMeter, gone: bool = False) -> None:
    """Write a meter down; one of the same name is replaced by it, or with ``gone`` taken off the list."""
    meter = own.meter
    accuracy = json.dumps({unit: [one.of_reading, one.digits] for unit, one in meter.accuracy.items()}, ensure_ascii=False)
    values = (
        meter.name,
        meter.words,
        accuracy,
        json.dumps(list(meter.ranges)),
        meter.lead_ohms,
        meter.thermometer_c,
        own.address,
        int(gone),
    )
    conn.execute(_INSERT, (*values, now()))
