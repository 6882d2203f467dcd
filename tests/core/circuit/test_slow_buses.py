"""LIN and low-speed buses: who is heard under which fault, and what of it a reading tells."""

from __future__ import annotations

import pytest

from pondrel.core.circuit.fault import parse_fault
from pondrel.core.circuit.read.sheet import parse_sheet
from pondrel.core.circuit.solve import solve
from pondrel.core.evidence.line import parse_line
from pondrel.core.isolate import Workup, isolate
from pondrel.core.library.bus_links import lines_for_bus
from pondrel.core.library.bus_plan import bus_plan
from pondrel.core.making.typical import TYPICALS, made

from ...circuits import sheet_of
from ...gallery import GALLERY

LIN, LOW_SPEED = (sheet_of(*GALLERY[name][:1], states=GALLERY[name][1]) for name in ("lin", "low_speed"))


def hears(sheet, state, *faults):
    found = solve(sheet, state, tuple(parse_fault(sheet, own) for own in faults)).sights["LG"]
    return next(one.value for one in found if one.what == "hears")


@pytest.mark.parametrize(
    "fault", ["WH.open", "WL.open", "WH.short_to_ground=0.1", "WL.short_to_ground=0.1", "WH.short_to_plus=0.1", "A.drive_low_open"],
)  # fmt: skip
def test_a_low_speed_bus_goes_on_by_the_wire_that_is_left(fault):
    assert hears(LOW_SPEED, "dominant", fault) > 1.2
    assert hears(LOW_SPEED, "recessive", fault) < 0.8


def test_a_low_speed_bus_with_both_wires_open_is_silent_and_one_that_is_held_is_loud_always():
    assert hears(LOW_SPEED, "dominant", "WH.open", "WL.open") < 0.3
    assert hears(LOW_SPEED, "recessive", "B.holds_dominant") > 1.2
    assert hears(LOW_SPEED, "dominant", "B.shorted=1") == pytest.approx(1.0)  # nobody can say beforehand


def test_a_broken_lin_line_silences_what_lies_beyond_it_and_a_short_everybody():
    assert hears(LIN, "dominant", "WL.open") < 0.3 and hears(LIN, "answering", "WL.open") > 1.2
    assert hears(LIN, "answering", "SL.drive_open") < 0.3 and hears(LIN, "dominant", "SL.drive_open") > 1.2
    assert hears(LIN, "recessive", "SL.short_to_ground=5") > 1.2


def test_a_master_without_its_pull_up_shows_in_the_line_s_strength():
    sound, weak = (solve(LIN, "dominant", faults).currents["MA"] for faults in ((), (parse_fault(LIN, "MA.open"),)))
    assert sound > 0.01 and abs(weak) < 1e-4
    drop = solve(LIN, "dominant", (parse_fault(LIN, "MA.open"),)).places["l1"]
    assert drop < 0.1  # pulled down by the same driver against 30 kΩ only


def test_who_is_heard_on_a_lin_line_ranks_the_part_that_parts_them():
    text = GALLERY["lin"]
    sheet = sheet_of(text[0].replace("MA: {", "MA: {label: wiper master, ").replace("SL: {", "SL: {label: rain sensor, "), states=text[1])
    assert bus_plan(sheet).modules == ("MA", "SL")
    lines = ("dominant see LG heard", "answering see LG nothing")
    found = isolate(Workup(sheet), tuple(parse_line(sheet, line, "asleep")[0] for line in lines))
    assert found.suspects[0].part == "SL" and "never pulls" in found.suspects[0].words
    lines = ("dominant see LG nothing", "answering see LG heard")
    found = isolate(Workup(sheet), tuple(parse_line(sheet, line, "asleep")[0] for line in lines))
    assert {one.part for one in found.suspects[:2]} == {"MA", "WL"}
    assert lines_for_bus(sheet, {"WiperMaster": True, "RainSensor": False}) == ()  # nothing on it is looked at


def test_volts_of_a_low_speed_bus_tell_a_short_that_nobody_notices():
    """It goes on by one wire, so only a meter shows it."""
    lines = ("recessive volts l1 0.02", "recessive volts h1 0.02", "dominant volts h1 3.66")
    found = isolate(Workup(LOW_SPEED), tuple(parse_line(LOW_SPEED, line, "recessive")[0] for line in lines))
    assert any("ground" in one.words and one.part == "WL" for one in found.suspects[:3]), [(s.part, s.words) for s in found.suspects[:5]]


@pytest.mark.parametrize(
    ("name", "heard", "behind"),
    [
        ("lin", {"BodyModule": True, "RainSensor": True, "WiperMotor": False, "Mirror": False}, {"W2"}),
        ("lin", {"BodyModule": True, "RainSensor": True, "WiperMotor": False, "Mirror": True}, {"N3"}),
        ("slow_bus", {"BodyModule": True, "LeftDoorModule": True, "RightDoorModule": False, "SeatModule": True}, {"N3"}),
    ],
)  # fmt: skip
def test_who_is_heard_on_a_typical_bus_leads_to_the_part(name, heard, behind):
    sheet = parse_sheet(made(TYPICALS[name], {"circuit.modules": "4"}))
    lines = lines_for_bus(sheet, heard)
    assert len(lines) == 4
    found = isolate(Workup(sheet), tuple(parse_line(sheet, line, "asleep")[0] for line in lines))
    best = max((one for one in found.suspects if one.part is not None), key=lambda one: one.probability)
    assert best.part in behind, [(one.part, one.words, one.probability) for one in found.suspects[:5]]
