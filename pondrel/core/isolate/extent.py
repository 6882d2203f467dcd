"""How much is worked out at once: sheets and jobs beyond it get a sentence instead of an answer.

An answer takes time with the square of the parts, and memory with parts × places × states: measured, about 4 kB for each part, place and
state. Readings take both in proportion, the more parts there are the more. What is refused here is kept and shown all the same.
"""

from __future__ import annotations

from collections.abc import Sequence

from ..base.errors import PondrelError
from ..circuit.sheet import Part, Sheet

__all__ = ["MOST_PARTS", "MOST_PRODUCT", "MOST_READINGS", "MOST_WEIGHED", "TooMuchError", "check_items", "check_sheet"]

MOST_PARTS = 320
MOST_PRODUCT = 160_000  # parts × places × states
MOST_READINGS = 1000
MOST_WEIGHED = 28_000  # parts × readings
FREE_PINS = 8


class TooMuchError(PondrelError):
    """A circuit or a record that is larger than what is worked out at once."""


def check_sheet(sheet: Sheet) -> None:
    """Raises TooMuchError where the faults of a sheet are too many to be ranked."""
    parts, places, states = sum(map(_counts_as, sheet.parts.values())), len(sheet.places), len(sheet.states)
    if parts > MOST_PARTS:
        raise TooMuchError(f"This circuit has {parts} parts; faults of at most {MOST_PARTS} are ranked at once. Split the sheet in two.")
    if parts * places * states > MOST_PRODUCT:
        raise TooMuchError(
            f"This circuit has {parts} parts, {places} places and {states} states; their product may be at most {MOST_PRODUCT:,}. "
            "Leave out places or states, or split the sheet in two."
        )


def _counts_as(part: Part) -> int:
    """As how many parts one counts: a plug's pins beyond the eighth fail each by itself."""
    return 1 + max(0, len(part.pins) // 2 - FREE_PINS) if part.kind.sized else 1


def check_items(sheet: Sheet, items: Sequence[object]) -> None:
    """Raises TooMuchError where the readings on a sheet are too many to be weighed together."""
    parts = max(1, sum(map(_counts_as, sheet.parts.values())))
    most = min(MOST_READINGS, MOST_WEIGHED // parts)
    if len(items) > most:
        where = f" on a circuit of {parts} parts" if most < MOST_READINGS else ""
        raise TooMuchError(
            f"{len(items)} readings stand; at most {most} are weighed together{where}. Strike out what no longer counts: all are kept."
        )
