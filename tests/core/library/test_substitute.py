"""A load in place of a part: which one the driver can carry, by hand and by the circuit, and what the module must not see."""

from __future__ import annotations

from dataclasses import replace

import pytest

from pondrel.core.circuit.fault import Fault
from pondrel.core.circuit.solve import solve
from pondrel.core.library.substitute import best_of, fittings_of, part_driven


@pytest.fixture
def gearbox(demo_sheets):
    return demo_sheets["wired_van_gearbox"]


@pytest.mark.parametrize(
    ("sheet", "driver", "part"),
    [
        ("wired_van_gearbox", "N6.23", "YD"),
        ("wired_van_gearbox", "N6.24", "YL"),
        ("kneeling_valves", "N7.5", "Y1"),
        ("kneeling_valves", "N7.6", "Y2"),
    ],
)
def test_the_part_that_a_driver_works_is_found_by_its_current(demo_sheets, sheet, driver, part):
    assert part_driven(demo_sheets[sheet], driver) == part


def test_what_drives_nothing_has_none(gearbox):
    dead = replace(gearbox, states={"key off": gearbox.states["key off"]})
    assert part_driven(dead, "N6.23") == "" and fittings_of(dead, "N6.23", "YD") == ()


def test_the_likest_that_fits_goes_first_and_what_is_too_much_is_refused(gearbox):
    fittings = {one.load.name: one for one in fittings_of(gearbox, "N6.23", "YD")}
    best = best_of(list(fittings.values()))
    assert best.load.name == "15 Ω" and best.amps == pytest.approx(12.6 / 15.4, rel=0.02)  # the load, and some tenths of wire and driver
    assert best.watts == pytest.approx(best.amps**2 * 15.0)
    # 12.6 V over 5.6 Ω and some tenths are 2.2 A: below 2.5 A, and too near to it
    assert not fittings["5.6 Ω"].fits and "2.2 A, and it shuts down at 2.5 A" in fittings["5.6 Ω"].says
    # a lamp of 10 W has 15.9 Ω hot, and a tenth of that cold: 7.9 A in the first moment
    assert "7.9 A" in fittings["lamp of 10 W"].says and not fittings["lamp of 10 W"].fits
    assert fittings["lamp of 2 W"].fits


def test_what_the_sound_part_is_taken_for_too_is_no_reason_against_a_load(demo_sheets):
    # without its feed the module calls every load of this output open, its own valve as well
    assert best_of(fittings_of(demo_sheets["kneeling_valves"], "N7.5", "Y1")).load.name == "33 Ω"


def test_a_module_that_wants_more_current_refuses_what_draws_little(gearbox):
    driver = gearbox.parts["N6.23"]
    keen = replace(gearbox, parts={**gearbox.parts, "N6.23": replace(driver, params={**driver.params, "open_load": 0.3})})
    fittings = {one.load.name: one for one in fittings_of(keen, "N6.23", "YD")}
    assert fittings["33 Ω"].fits and fittings["47 Ω"].says == "its module takes it for open"


def test_the_load_answers_in_the_circuit_as_was_worked_out(gearbox):
    """The coil open in a world of its own: with the load in its place the module is content, without it reports open."""
    best = best_of(fittings_of(gearbox, "N6.23", "YD"))
    valve = gearbox.parts["YD"]
    loaded = replace(gearbox, parts={**gearbox.parts, "YD": replace(valve, params={**valve.params, "ohms": best.load.ohms})})

    def report(sheet, *faults):
        return next(one.value for one in solve(sheet, "valve D", faults).sights["N6.23"] if one.what == "diagnosis")

    assert report(gearbox, Fault("YD", "open")) == 2.0 and report(loaded) == 0.0
    assert report(loaded, Fault("W84", "open")) == 2.0  # the wire: the load does not help
