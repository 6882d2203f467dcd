"""Which vehicles a sheet or limit is for, and what speaks against one."""

from __future__ import annotations

import pytest

from pondrel.core.base.errors import SheetError
from pondrel.core.circuit.fits import misfit
from pondrel.core.circuit.read.sheet import parse_sheet

from ...circuits import STEP_LIGHT


def fitting(text: str):
    return parse_sheet(STEP_LIGHT.replace("supply:", f"fits: {text}\nsupply:", 1)).fits


@pytest.mark.parametrize(
    ("text", "vehicle", "says"),
    [
        ("{make: Quessel, model: Hop 16, years: 2015-2021}", ("Quessel", "Hop 16", 2019, ""), ""),
        ("{make: Quessel, years: 2015-2021}", ("Quessel", "Hop 16", 2012, ""), "is for Quessel, 2015 to 2021, and it is from 2012"),
        ("{make: Quessel}", ("Tarnbolt", "", None, ""), "is for Quessel, and it is a Tarnbolt"),
        ("{make: Quessel}", ("", "", None, ""), ""),  # what is not known speaks against nothing
        ("{years: 2015-}", ("", "", 2014, ""), "is for from 2015 on, and it is from 2014"),
        ("{years: -2015}", ("", "", 2016, ""), "is for up to 2015, and it is from 2016"),
        ("{years: 2015}", ("", "", 2016, ""), "is for 2015, and it is from 2016"),
        ("[{make: Quessel}, {make: Tarnbolt, years: 2010-2012}]", ("Tarnbolt", "", 2011, ""), ""),
        ("{options: [second battery]}", ("", "", None, "tail-lift"), "with second battery, and nothing is written down of second battery"),
        ("{options: second battery}", ("", "", None, "Second battery, tail-lift"), ""),
        ("{model: Hop 16}", ("Quessel", "Hop", None, ""), ""),
    ],
)
def test_what_speaks_against_a_vehicle_is_said(text, vehicle, says):
    found = misfit(fitting(text), *vehicle)
    assert found == says if not says.startswith("with") else says in found


def test_a_sheet_that_says_nothing_fits_all():
    assert parse_sheet(STEP_LIGHT).fits == () and misfit((), "Quessel", "Hop", 2019, "") == ""


@pytest.mark.parametrize(
    ("text", "says"),
    [
        ("{years: soon}", "must be years such as"),
        ("{years: 2021-2015}", "ends before it begins"),
        ("{colour: red}", "unknown key"),
        ("yes", "must be a list of vehicles"),
        ("{options: 4}", "must be a text, or a list"),
        (f"[{', '.join(['{make: A}'] * 21)}]", "at most 20"),
    ],
)
def test_what_does_not_fit_is_named_with_its_place(text, says):
    with pytest.raises(SheetError, match=says) as told:
        fitting(text)
    assert told.value.flaws[0][0].startswith("fits")


def test_a_limit_says_for_whom_it_is():
    limit = "limits: [{what: volts, at: lamp.feed, state: lit, least: 11, source: x, fits: {make: Quessel}}]\n"
    sheet = parse_sheet(STEP_LIGHT + limit)
    assert sheet.limits[0].fits[0].make == "Quessel"
