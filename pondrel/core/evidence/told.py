"""What the customer told: when the complaint is there, how often, since when, what was done before. Circuits take what they can from it."""

from __future__ import annotations

import re
from collections.abc import Mapping
from dataclasses import dataclass

from ..base.brief import quoted
from ..base.errors import PondrelError

__all__ = ["CIRCUMSTANCES", "MOVED", "OFTEN", "Told", "ToldError", "tries_of"]

OFTEN: Mapping[str, str] = {"always": "always there", "sometimes": "comes and goes", "once": "seen once"}
# When it is there, by a word for it: how a person says it.
CIRCUMSTANCES: Mapping[str, str] = {
    "cold": "when cold", "hot": "when hot", "wet": "when wet", "bumps": "over bumps", "load": "under load", "speed": "at speed",
    "standing": "after standing", "start": "some minutes after the start", "seat": "as the seat is moved", "door": "as the door is moved",
    "tilt": "as it is tilted", "steering": "as the steering is turned",
}  # fmt: skip
# Of those: what is moved, and words by which a sheet says that something lies beside it.
MOVED: Mapping[str, tuple[str, ...]] = {
    "seat": ("seat",), "door": ("door", "hinge", "tailgate"), "tilt": ("tilt", "platform"),
    "steering": ("steering", "column"),
}  # fmt: skip
MOST_TRIES = 10_000
_TRIES = re.compile(r"(\d{1,6})\s*(?:of|/|out of)\s*(\d{1,6})")


class ToldError(PondrelError):
    """What was told of the complaint does not fit together."""


@dataclass(frozen=True, slots=True)
class Told:
    """A complaint beyond its one sentence: ``often`` is a key of `OFTEN` or empty, ``tries`` how many of how many showed it, ``under`` keys
    of `CIRCUMSTANCES`, ``minutes`` those after the start; ``since``, ``before`` and ``text`` in words."""

    often: str = ""
    tries: tuple[int, int] | None = None
    under: tuple[str, ...] = ()
    minutes: float | None = None
    since: str = ""
    before: str = ""
    text: str = ""

    @property
    def comes_and_goes(self) -> bool:
        """Whether it is there at times only, by what was said or by the count of tries."""
        return self.often in ("sometimes", "once") or (self.tries is not None and self.tries[0] < self.tries[1])

    @property
    def says(self) -> str:
        """In one line: ``comes and goes (3 of 10 tries), over bumps, when wet, since Tuesday``."""
        tries = f"{self.tries[0]} of {self.tries[1]} tries" if self.tries else ""
        often = " ".join(filter(None, (OFTEN.get(self.often, ""), f"({tries})" if tries and self.often else tries)))
        minutes = f"some {self.minutes:g} minutes after the start" if self.minutes is not None else CIRCUMSTANCES["start"]
        under = [minutes if name == "start" else CIRCUMSTANCES[name] for name in self.under]
        return ", ".join(filter(None, (often, *under, f"since {self.since}" if self.since else "")))


def tries_of(text: str) -> tuple[int, int] | None:
    """How many of how many tries: ``3 of 10``; None from an empty text. Raises ToldError with one sentence.

    >>> tries_of("3 of 10")
    (3, 10)
    """
    typed = " ".join(text.lower().split())
    if not typed:
        return None
    match = _TRIES.fullmatch(typed)
    shown, made = (int(match[1]), int(match[2])) if match else (0, 0)
    if match is None or not 0 < made <= MOST_TRIES or shown > made:
        raise ToldError(f"The count of tries must be like '3 of 10', the times it showed first, got {quoted(typed)}.")
    return shown, made
