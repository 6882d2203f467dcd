"""How a place is reached, and the minutes that this takes once; everything behind it is quick then."""

from __future__ import annotations

import re
from dataclasses import dataclass

from ..base.brief import quoted
from ..base.errors import MakingError
from ..base.judgement import judged

__all__ = ["OPEN", "REACHES", "Reached", "reached"]

OPEN = "open"
REACHES = {
    OPEN: 0.0,
    "cover": judged("REACH_COVER", 2.0, "min", "to get at what lies under a cover or lid that clips"),
    "underneath": judged("REACH_UNDERNEATH", 6.0, "min", "to lift the vehicle and get at what lies underneath"),
    "behind trim": judged("REACH_TRIM", 10.0, "min", "to take off the trim or panel that it lies behind"),
    "out of the vehicle": judged("REACH_OUT", 30.0, "min", "to take the part out of the vehicle"),
}
_CAUTIONS = {"underneath": "Stands under the vehicle before anyone goes beneath it, never a jack alone."}
MOST_MINUTES = 600.0
_SAID = re.compile(r"(?P<way>[a-z ]+?)\s*(?:[,:]?\s*(?P<minutes>\d+(?:[.,]\d+)?)\s*(?:min|minutes)?)?", re.IGNORECASE)


@dataclass(frozen=True, slots=True)
class Reached:
    """A ``way`` to reach something, the ``minutes`` that it takes, and the ``caution`` that goes with it; none for what lies open."""

    way: str
    minutes: float
    caution: str = ""


def reached(text: str) -> Reached:
    """How something is reached by what was said: one of the ways, with minutes of one's own where they are known.

    >>> reached("behind trim, 15 min").minutes
    15.0
    """
    said = _SAID.fullmatch(text.strip())
    named = " ".join(said["way"].lower().split()) if said else ""
    way = next((known for known in REACHES if named in (known, known.removeprefix("behind "), known.removesuffix(" of the vehicle"))), None)
    if said is None or way is None:
        raise MakingError(
            f"{quoted(text)} is no way to reach it: {', '.join(REACHES)}, with minutes if you know them, such as 'cover, 4 min'."
        )
    minutes = float(said["minutes"].replace(",", ".")) if said["minutes"] else REACHES[way]
    if minutes > MOST_MINUTES:
        raise MakingError(f"{quoted(text)} is more than ten hours: say the minutes that it takes to get there.")
    return Reached(way, minutes, _CAUTIONS.get(way, ""))
