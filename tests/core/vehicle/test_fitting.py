"""Whether a sheet is for a vehicle."""

from __future__ import annotations

from dataclasses import replace

import pytest

from pondrel.core.circuit.fits import Fit
from pondrel.core.vehicle.facts import Facts
from pondrel.core.vehicle.fitting import sheet_misfit

BUS = Facts("Bus 4", "Quessel", "Hop 16", "2019")


@pytest.mark.parametrize(("volts", "against"), [(None, False), (12.0, False), (24.0, True), (48.0, True)])
def test_a_sheet_for_another_voltage_is_warned_of(demo_sheets, volts, against):
    says = sheet_misfit(demo_sheets["step_lights"], replace(BUS, volts=volts))
    assert bool(says) == against and (not against or "about 12.6 V, and this vehicle has" in says)
    assert bool(sheet_misfit(demo_sheets["kneeling_valves"], replace(BUS, volts=volts))) == (volts in (12.0, 48.0))


def test_other_years_are_other_systems_and_a_year_that_is_none_speaks_against_nothing(demo_sheets):
    sheet = replace(demo_sheets["step_lights"], fits=(Fit("Quessel", "Hop 16", 2020, None),))
    assert "it is from 2019: other years and makes are other systems" in sheet_misfit(sheet, BUS)
    assert sheet_misfit(sheet, replace(BUS, year="")) == sheet_misfit(sheet, replace(BUS, year="2020")) == ""
