"""Days of the calendar without a clock, against the standard library's own."""

from __future__ import annotations

import datetime

import pytest
from hypothesis import given
from hypothesis import strategies as st

from pondrel.core.base.dates import DateError, checked_date, days_between, months_later, months_to, said_date

DAYS = st.dates(datetime.date(1900, 1, 1), datetime.date(2199, 12, 31))


@given(DAYS, DAYS)
def test_days_between_are_those_of_the_calendar(one, other):
    assert days_between(one.isoformat(), other.isoformat()) == (other - one).days


@given(DAYS)
def test_every_day_is_kept_as_it_is(day):
    assert checked_date("The day", day.isoformat()) == day.isoformat()


@given(st.dates(datetime.date(1900, 1, 1), datetime.date(2170, 12, 31)), st.integers(1, 240))
def test_months_on_and_back_never_lose_a_month(day, months):
    later = months_later(day.isoformat(), months)
    assert checked_date("The day", later) == later
    year, month = divmod(day.month - 1 + months, 12)
    assert later[:7] == f"{day.year + year:04}-{month + 1:02}"
    assert months_to(day.isoformat(), later) in (months, months - 1)  # one less where the later month is too short for its day


@pytest.mark.parametrize(
    ("text", "says"),
    [
        ("2026-02-29", "Feb 2026 has 28 days"), ("2026-13", "months go from 1 to 12"), ("20.11.2026", "must be a date such as"),
        ("1492", "a year|the year 1492"), ("", "must be a date such as"), ("2026-11-20T08:00", "must be a date such as"),
    ],
)  # fmt: skip
def test_what_is_no_date_is_told_in_a_sentence(text, says):
    with pytest.raises(DateError, match=says):
        checked_date("The day it was fitted", text)


def test_a_month_or_year_is_said_and_reckoned_from_its_first_day():
    assert [said_date(d) for d in ("2026-11-09", "2026-11", "2026")] == ["9 Nov 2026", "Nov 2026", "2026"]
    assert days_between("2026-11", "2026-11-09") == 8 and months_later("2026", 1) == "2026-02-01"
    assert months_to("2026-11-20", "2026-11-01") == 0
