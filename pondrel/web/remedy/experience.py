"""What repairs of the workshop say of the ways to mend a part."""

from __future__ import annotations

from collections.abc import Mapping, Sequence

from ...core.base.dates import days_between
from ...core.remedy.builds import build_in_words
from ...core.remedy.experience import BACK_WITHIN_DAYS, Experience, Mended, experience_of
from ...store.db import now
from ...store.repairs import Repair, repairs_before
from ...store.sheets import get_sheet
from ..shell.attempt import attempt
from ..shell.database import get_db
from ..shell.workups import workups

__all__ = ["experience_here"]


def experience_here(job_id: int) -> Mapping[tuple[str, str], Experience]:
    """By way and build, from the repairs of all other jobs."""
    today = now()
    repairs = repairs_before(get_db(), job_id, today)
    return experience_of(_mended(repair, repairs, today) for repair in repairs)


def _mended(repair: Repair, repairs: Sequence[Repair], today: str) -> Mended:
    stored = get_sheet(get_db(), repair.sheet_id) if repair.sheet_id else None
    sheet, _ = attempt(lambda: workups().sheet(stored)) if stored else (None, "")
    part = sheet.parts.get(repair.part) if sheet else None
    built = part.kind.built if part else build_in_words(repair.part).name
    taken = float(repair.taken) if repair.taken.isascii() and repair.taken.isdecimal() else None
    return Mended(repair.way, built, repair.reckoned, taken, _back(repair, repairs, today))


def _back(repair: Repair, repairs: Sequence[Repair], today: str) -> bool | None:
    """Whether the same part was mended again on the vehicle within a year; None while that year is not over."""
    again = any(
        other.job_id > repair.job_id
        and (other.vehicle_id, other.circuit, other.part) == (repair.vehicle_id, repair.circuit, repair.part)
        and 0 <= days_between(repair.made_at[:10], other.made_at[:10]) <= BACK_WITHIN_DAYS
        for other in repairs
    )
    return True if again else False if days_between(repair.made_at[:10], today[:10]) > BACK_WITHIN_DAYS else None
