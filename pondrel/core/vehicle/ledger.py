"""Parts that were fitted to a vehicle: when, at what mileage, from whom, and how long they are under warranty."""

from __future__ import annotations

import re
from collections.abc import Iterable, Mapping
from dataclasses import dataclass

from ..base.dates import days_between, months_later, months_to, said_date
from ..base.judgement import OWN_RULE, judged
from ..circuit.sheet import Part
from .mileage import UNITS, Mileage, apart

__all__ = ["HOW", "LATELY_DAYS", "Fitted", "Warranty", "about_part", "fitted_to", "lately", "warranty_of"]

HOW = ("new", "rebuilt", "used", "repaired")
LEAST_DAYS_OF_PACE = judged(
    "LEAST_DAYS_OF_PACE", 60.0, "days", "a part in use before its pace tells when a warranty by distance ends", OWN_RULE
)
DAYS_A_MONTH, MOST_MONTHS = 30.44, 600.0
LATELY_DAYS = int(judged("LATELY_DAYS", 365.0, "days", "a part that was fitted within them is said to be fitted lately", OWN_RULE))


@dataclass(frozen=True, slots=True)
class Fitted:
    """A line of the ledger. ``part`` is what was fitted in words, ``name`` that part's name on a circuit sheet where it is known; ``on`` an
    ISO date that may end with the year or month; ``helped`` is ``yes`` or ``no`` where it was fitted for the complaint of ``job_id``."""

    id: int
    part: str
    name: str
    on: str
    at: Mileage | None
    how: str
    source: str
    months: int | None
    distance: Mileage | None
    job_id: int | None
    helped: str
    note: str

    @property
    def when(self) -> str:
        """When it was fitted, as a person says it."""
        return said_date(self.on)


@dataclass(frozen=True, slots=True)
class Warranty:
    """What is left of a warranty: ``says`` it in words; ``over`` where the first of its ends has passed; ``none`` where there never was
    one; ``months_left`` by its date, or by its distance at the pace since it was fitted, whichever is less; 0 where neither is known."""

    says: str
    over: bool = False
    none: bool = False
    months_left: int = 0

    @property
    def stands(self) -> bool:
        """Whether the part is under warranty still, as far as is known."""
        return not self.over and not self.none


def warranty_of(fitted: Fitted, today: str, now: Mileage | None) -> Warranty:
    """How much of a part's warranty is left today with ``now`` on the instrument: by date or distance, whichever ends first."""
    if fitted.months is None and fitted.distance is None:
        return Warranty("none", none=True)
    left: list[str] = []
    ends: list[int] = []
    if fitted.months is not None:
        end = months_later(fitted.on, fitted.months)
        if days_between(today, end) < 0:
            return Warranty(f"ended {said_date(end)}", over=True)
        months = months_to(today, end)
        ends.append(months)
        left.append(f"{months} months" if months > 1 else "1 month" if months else f"until {said_date(end)}")
    if fitted.distance is not None:
        gone = apart(now, fitted.at) if now and fitted.at else None
        if gone is None:
            missing = "how far it has gone" if fitted.at else "the mileage when it was fitted"
            left.append(f"{fitted.distance} from then on ({missing} is not written down)")
        else:
            factor = UNITS[fitted.distance.unit][1] or 1.0
            rest = fitted.distance.value - gone / factor
            if rest < 0:
                return Warranty(f"ended {Mileage(-rest, fitted.distance.unit)} ago", over=True)
            paced = _months_at_its_pace(rest, gone / factor, days_between(fitted.on, today))
            ends += [paced] if paced is not None else []
            left.append(f"{Mileage(rest, fitted.distance.unit)}" + (f" (about {paced} months as it is used)" if paced is not None else ""))
    return Warranty(" or ".join(left) + (", whichever ends first" if len(left) > 1 else ""), months_left=min(ends, default=0))


def _months_at_its_pace(rest: float, gone: float, days: float) -> int | None:
    """Months until a distance is gone, at the pace since the part was fitted; None where that is too short a time to tell."""
    if days < LEAST_DAYS_OF_PACE or gone <= 0.0:
        return None
    return int(min(rest / gone * days / DAYS_A_MONTH, MOST_MONTHS))


def lately(fitted: Fitted, today: str) -> bool:
    """Whether a part was fitted not long ago."""
    return 0 <= days_between(fitted.on, today) <= LATELY_DAYS


_WORD = re.compile(r"[a-z0-9]+")
_SMALL = frozenset(("the", "of", "at", "for", "and", "to", "a", "an", "in"))


def _words(text: str) -> frozenset[str]:
    return frozenset(_WORD.findall(text.lower())) - _SMALL


def about_part(fitted: Fitted, part: Part) -> bool:
    """Whether a line of the ledger is about a part of a sheet: by its name there, or by the same words."""
    if fitted.name:
        return fitted.name == part.name
    own = _words(fitted.part)
    return bool(own) and own in (_words(part.called), _words(part.name), _words(part.spoken))


def fitted_in_words(called: str, ledger: Iterable[Fitted]) -> Fitted | None:
    """The last line of the ledger about what is called so, where it stands on no circuit."""
    own = [line for line in ledger if _words(line.part) and _words(line.part) == _words(called)]
    return max(own, key=_age, default=None)


def _age(line: Fitted) -> tuple[float, int]:
    return days_between("1900-01-01", line.on), line.id


def fitted_to(parts: Mapping[str, Part], ledger: Iterable[Fitted]) -> dict[str, Fitted]:
    """By the name of each part that the ledger knows, the last that was fitted there."""
    return {name: line for line in sorted(ledger, key=_age) for name, part in parts.items() if about_part(line, part)}
