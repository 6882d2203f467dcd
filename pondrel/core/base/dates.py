"""Days of the calendar as ISO 8601 text, with no clock: today is always handed in.

A date may be known to the year or the month only (``2025``, ``2025-05``); it then begins with the first day of that.
"""

from __future__ import annotations

import re

from .brief import quoted
from .errors import PondrelError

__all__ = [
    "MONTHS", "DateError", "checked_date", "days_between", "days_in_words", "elapsed_days", "first_day", "months_later", "months_to",
    "said_date",
]  # fmt: skip

MONTHS = ("Jan", "Feb", "Mar", "Apr", "May", "Jun", "Jul", "Aug", "Sep", "Oct", "Nov", "Dec")
_DATE = re.compile(r"(\d{4})(?:-(\d{1,2})(?:-(\d{1,2}))?)?")
_FIRST_YEAR, _LAST_YEAR = 1900, 2199


class DateError(PondrelError):
    """A text that is no date."""


def _long_year(year: int) -> bool:
    return year % 4 == 0 and (year % 100 != 0 or year % 400 == 0)


def _days_in(year: int, month: int) -> int:
    return 29 if month == 2 and _long_year(year) else (31, 28, 31, 30, 31, 30, 31, 31, 30, 31, 30, 31)[month - 1]


def checked_date(what: str, text: str) -> str:
    """A date as it is kept: ``2025``, ``2025-05`` or ``2025-05-09``. Raises DateError naming ``what``.

    >>> checked_date("The date", "2025-5-9")
    '2025-05-09'
    """
    match = _DATE.fullmatch(text.strip())
    if match is None:
        raise DateError(f"{what} must be a date such as 2026-11-20, 2026-11 or 2026, got {quoted(text.strip())}.")
    year, month, day = (int(part) if part else None for part in match.groups())
    assert year is not None
    if not _FIRST_YEAR <= year <= _LAST_YEAR:
        raise DateError(f"{what} has the year {year}: one from {_FIRST_YEAR} to {_LAST_YEAR} is meant.")
    if month is not None and not 1 <= month <= 12:
        raise DateError(f"{what} has month {month}: months go from 1 to 12, and stand behind the year, as in 2026-11-20.")
    if month is not None and day is not None and not 1 <= day <= _days_in(year, month):
        raise DateError(f"{what} has day {day}: {MONTHS[month - 1]} {year} has {_days_in(year, month)} days.")
    return "-".join([f"{year:04}", *(f"{part:02}" for part in (month, day) if part is not None)])


def first_day(date: str) -> tuple[int, int, int]:
    """Year, month and day on which a date begins."""
    year, month, day = (int(part) for part in (date[:10] + "-01-01").split("-")[:3])
    return year, month, day


def _ordinal(date: str) -> int:
    """Days since a fixed one, in the Gregorian calendar."""
    year, month, day = first_day(date)
    before = year - 1
    return before * 365 + before // 4 - before // 100 + before // 400 + sum(_days_in(year, m) for m in range(1, month)) + day


def days_between(earlier: str, later: str) -> int:
    """Days from one date to another, negative where the second comes first.

    >>> days_between("2024-02-28", "2024-03-01")
    2
    """
    return _ordinal(later) - _ordinal(earlier)


def elapsed_days(earlier: str, later: str) -> float:
    """Days and parts of a day from one moment to another, each as ISO 8601 in UTC; a date alone begins at midnight.

    >>> elapsed_days("2026-11-20T18:00:00Z", "2026-11-22T06:00:00Z")
    1.5
    """
    return days_between(earlier, later) + _of_its_day(later) - _of_its_day(earlier)


def _of_its_day(moment: str) -> float:
    match = re.match(r"\d{4}-\d{2}-\d{2}T(\d{2}):(\d{2})(?::(\d{2}))?", moment)
    hours, minutes, seconds = (int(part or 0) for part in match.groups()) if match else (0, 0, 0)
    return (hours * 3600 + minutes * 60 + seconds) / 86400.0


def days_in_words(days: float) -> str:
    """A time as a person says it, as roughly as it is long.

    >>> days_in_words(0.02), days_in_words(0.5), days_in_words(3.6), days_in_words(800)
    ('29 minutes', '12 hours', '4 days', '2.2 years')
    """
    if days < 1.0 / 24.0:
        count, unit = round(days * 1440.0), "minute"
    elif days < 2.0:
        count, unit = round(days * 24.0), "hour"
    elif days < 730.0:
        count, unit = round(days), "day"
    else:
        return f"{days / 365.25:.1f} years"
    return f"{count} {unit}{'' if count == 1 else 's'}"


def months_later(date: str, months: int) -> str:
    """The day so many months later; where that month is shorter, its last day.

    >>> months_later("2026-01-31", 1)
    '2026-02-28'
    """
    year, month, day = first_day(date)
    year, month = year + (month - 1 + months) // 12, (month - 1 + months) % 12 + 1
    return f"{year:04}-{month:02}-{min(day, _days_in(year, month)):02}"


def months_to(today: str, end: str) -> int:
    """Whole months from today to a day that lies ahead, 0 where it does not."""
    (year, month, _), (last_year, last_month, _) = first_day(today), first_day(end)
    months = (last_year - year) * 12 + last_month - month
    if months > 0 and months_later(today, months) > end:
        months -= 1
    return max(months, 0)


def said_date(date: str) -> str:
    """As a person says it: ``20 Nov 2026``, ``Nov 2026``, ``2026``."""
    parts = date[:10].split("-")
    month = f"{MONTHS[int(parts[1]) - 1]} " if len(parts) > 1 else ""
    day = f"{int(parts[2])} " if len(parts) > 2 else ""
    return f"{day}{month}{parts[0]}"
