"""What an hour of the workshop costs, among its house rules."""

from __future__ import annotations

import sqlite3
from collections.abc import Mapping

from ..core.remedy.money import Rates
from .house import house_choices, settle_house

__all__ = ["keep_rates", "rates_of"]

_NAMES = ("currency", "hourly", "day")


def rates_of(conn: sqlite3.Connection) -> Rates:
    """The workshop's rates; those shipped where nobody settled them."""
    settled = {name: choice for name in _NAMES if (choice := house_choices(conn).get(f"rates.{name}"))}
    if "hourly" not in settled:
        return Rates()
    return Rates(settled["currency"], float(settled["hourly"]), float(settled["day"]), shipped=False)


def keep_rates(conn: sqlite3.Connection, rates: Mapping[str, str], person: str = "") -> None:
    """Settle them, as they were checked."""
    for name in _NAMES:
        settle_house(conn, f"rates.{name}", rates[name], person)
