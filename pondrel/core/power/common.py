"""What the families of starting and charging share: the system's volts, whose word a limit is, and what one reading is held against."""

from __future__ import annotations

import math
from dataclasses import replace

from ..base.brief import capitalized
from ..bench.case import Case, Read
from ..bench.decide import by_reading
from ..bench.family import Check, Family, Setting
from ..bench.judged import Judged
from ..check import Limit, Verdict

__all__ = [
    "PRACTICE",
    "STANDARD",
    "SYSTEM",
    "TYPE",
    "ahead",
    "batteries",
    "check_in",
    "current",
    "held",
    "limit",
    "not_comparable",
    "scaled",
    "unsigned",
]

PRACTICE = "common practice, no source"
SYSTEM = Setting("system", "volts of the vehicle", words=("12", "24"), usual="12")
TYPE = Setting("type", "sort of battery", words=("flooded", "glass-mat"))
STANDARD = Setting("standard", "standard of the cold-cranking figure", words=("sae", "en", "din"), usual="sae")


def batteries(case: Case) -> float:
    """How many batteries of 12 V the vehicle's system has in a row."""
    return 2.0 if case.word("system") == "24" else 1.0


def scaled(case: Case, volts: float) -> float:
    """Volts of a 12 V system in that of the case."""
    return volts * batteries(case)


def limit(case: Case, least: float = -math.inf, most: float = math.inf, source: str = PRACTICE, kind: str = "common practice") -> Limit:
    """A limit that is known for 12 V, in the system of the case."""
    doubled = f"{source}; doubled for 24 V" if batteries(case) > 1.0 else source
    return Limit("V", scaled(case, least), scaled(case, most), doubled, kind)


def check_in(family_checks: tuple[Check, ...], name: str) -> Check:
    """The check of that name."""
    return next(check for check in family_checks if check.name == name)


def held(case: Case, check: Check, read: Read, usual: Limit | None) -> Judged:
    """A reading held against what was given for it, else against what is usual."""
    return by_reading(case, check, read, case.given(check.name) or usual)


def unsigned(read: Read) -> Read:
    """A drop or a current without its sign: leads or clamp may be the other way round."""
    return replace(read, measured=replace(read.measured, value=abs(read.value)))


def current(case: Case, name: str) -> Read | None:
    """A current that was read, whichever way round clamp or meter hung; None where it was not."""
    read = case.read(name)
    return None if read is None else unsigned(read)


def not_comparable(found: Judged, why: str, then: str) -> Judged:
    """A finding of which something is not known that it hangs on."""
    return replace(found, verdict=Verdict.NOT_COMPARABLE, because=f"{found.because} {why}", then=then)


def ahead(family: Family, name: str) -> str:
    """What a check of a family is, as the beginning of a sentence."""
    check = family.check(name)
    says = check.says if check else name
    return capitalized(says)
