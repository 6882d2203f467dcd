"""What a flag or a silence on a bus says of a circuit: lines that the sheet itself can read."""

from __future__ import annotations

from pondrel.core.evidence.line import parse_line
from pondrel.core.isolate import Workup, isolate
from pondrel.core.library.bus_links import about, lines_for_bus, lines_for_flag, lines_for_silence


def test_a_flag_is_a_code_of_the_sheet_in_its_own_state(demo_sheets):
    sheet = demo_sheets["under_seat_crash_loop"]
    lines = lines_for_flag(sheet, "Crash loop open BatteryState.CrashLoopOpen")
    assert lines == ("key on code crash loop open set",)
    item, _ = parse_line(sheet, lines[0], "away")
    assert (item.kind, item.subject, item.outcome, item.state) == ("code", "crash loop open", "set", "key on")
    assert lines_for_flag(demo_sheets["step_lights"], "Crash loop open") == ()


def test_a_silent_module_does_not_answer_where_a_sound_one_does(demo_sheets):
    sheet = demo_sheets["wake_heater_module"]
    lines = lines_for_silence(sheet, "Heater module is silent HeaterModule")
    assert lines[0] == "key on see heater module answers silent"
    assert not any(line.startswith("away") for line in lines)  # there it sleeps, and may
    item, _ = parse_line(sheet, lines[0], "away")
    assert item.outcome == "silent" and item.state == "key on"
    assert lines_for_silence(demo_sheets["step_lights"], "HeaterModule") == ()


def test_words_that_every_module_shares_say_nothing():
    assert about("HeaterModuleMissing") == {"heater"} and about("crash loop open") == {"crash", "loop", "open"}


def test_who_is_heard_tells_which_stretch_of_the_bus_is_broken(demo_sheets):
    sheet = demo_sheets["two_wire_bus"]
    lines = lines_for_bus(sheet, {"DashModule": True, "DoorModule": True, "RampModule": False})
    assert lines == ("dash dominant see logger heard", "door dominant see logger heard", "ramp dominant see logger nothing")
    found = isolate(Workup(sheet), tuple(parse_line(sheet, line, "asleep")[0] for line in lines))
    behind = {"W2H", "W2L", "N12", "T2"}  # all that lies beyond the door module, and the ramp module itself
    assert sum(one.probability for one in found.suspects if one.part in behind) > 0.75
    everyone = lines_for_bus(sheet, dict.fromkeys(("DashModule", "DoorModule", "RampModule"), False))
    found = isolate(Workup(sheet), tuple(parse_line(sheet, line, "asleep")[0] for line in everyone))
    assert not any("broken" in one.words and one.part in ("W2H", "W2L") for one in found.suspects[:5])  # an open end silences one only
    assert any("chafed" in one.words for one in found.suspects[:3])
    assert lines_for_bus(sheet, {"Heater": False}) == () and lines_for_bus(demo_sheets["step_lights"], {"DashModule": True}) == ()


def test_a_module_that_holds_the_bus_lets_nobody_be_heard(demo_sheets):
    sheet = demo_sheets["two_wire_bus"]
    heard = dict.fromkeys(("DashModule", "DoorModule", "RampModule"), False)
    items = tuple(parse_line(sheet, line, "asleep")[0] for line in lines_for_bus(sheet, heard))
    levels = ("recessive scope diag.high batt- 3.4", "recessive scope diag.low batt- 1.6")
    volts = tuple(parse_line(sheet, line, "asleep")[0] for line in levels)
    found = isolate(Workup(sheet), (*items, *volts))
    holds = sum(one.probability for one in found.suspects if one.mode == "holds_dominant")
    assert holds > 0.9
    ohms = tuple(parse_line(sheet, line, "asleep")[0] for line in ("asleep ohms diag.high diag.low 118",))
    found = isolate(Workup(sheet), ohms)
    assert {one.part for one in found.suspects[:6]} & {"T1", "T2"}  # one end is all that is left
