"""What codes of a module say of a circuit: the one that is traced, and what the module does not report beside it."""

from __future__ import annotations

import time

import pytest

from pondrel.core.evidence.line import parse_line
from pondrel.core.isolate import Workup, isolate
from pondrel.core.library.module_links import line_for_movement, lines_for_codes
from pondrel.core.module.movement import DEAD, LOST, UNSEEN, WORKS, WRONG_WAY, judged_move
from pondrel.core.module.moving import CAUTION_READ
from pondrel.instruments.modules.reached import lines_at
from pondrel.instruments.modules.tester import Tester as Asker
from tests.served import roster_named, served

CARRALL = roster_named("carrall")
BOX = CARRALL.module("gearbox")
D_OPEN = BOX.codes["P0765-13"]


@pytest.fixture
def sheet(demo_sheets):
    return demo_sheets["wired_van_gearbox"]


def shares(sheet, lines: str) -> dict[str, float]:
    """The suspicion by part."""
    found: dict[str, float] = {}
    for one in isolate(Workup(sheet), [parse_line(sheet, line, next(iter(sheet.states)))[0] for line in lines.splitlines()]).suspects:
        if one.part is not None:
            found[one.part] = found.get(one.part, 0.0) + one.probability
    return found


def test_beside_a_code_it_says_what_the_module_does_not_report_in_the_same_state(sheet):
    lines = lines_for_codes(sheet, BOX, D_OPEN, ["P0765-13"]).splitlines()
    assert lines[0] == "valve D see gearbox module on D open"
    assert "valve D see gearbox module on A nothing" in lines and len(lines) == 4 and not any(" on D nothing" in line for line in lines)
    assert len(lines) == len(set(lines)) and all(line.startswith("valve D see ") for line in lines)


@pytest.mark.parametrize("beside", ["P0750-13", "P0750"])
def test_of_a_part_that_has_a_code_itself_nothing_is_said(sheet, beside):
    lines = lines_for_codes(sheet, BOX, D_OPEN, ["P0765-13", beside])
    assert " on A " not in lines


def test_where_a_code_is_told_that_the_roster_does_not_know_nothing_is_said_of_what_is_absent(sheet):
    assert lines_for_codes(sheet, BOX, D_OPEN, ["P0765-13", "P0999-11"]) == "valve D see gearbox module on D open"


def test_a_code_that_is_on_no_circuit_says_nothing(sheet):
    engine = CARRALL.module("engine")
    assert lines_for_codes(sheet, engine, engine.codes["P0128"], ["P0128"]) == ""


@pytest.mark.parametrize(
    ("fault", "part"),
    [
        ("YD.open", "YD"),
        ("W84.open", "W84"),
        ("YD.high_resistance=900", "YD"),
        ("W81.open", "W81"),
        ("W82.open", "W82"),
    ],
)
def test_what_the_simulated_module_tells_of_a_hidden_fault_never_speaks_against_the_part_that_has_it(sheet, fault, part):
    """The module's codes are made by its own memory from the faulty circuit; the more of them is said, the more falls on the part."""
    with served(CARRALL, "wired_van_gearbox", [fault], "valve D") as own, Asker(CARRALL, lines_at(own.bus)) as tester:
        read = [code.name for code in tester.codes(BOX).codes]
    code = next(BOX.codes[name] for name in read)
    alone, told = shares(sheet, lines_for_codes(sheet, BOX, code, [*read, "P0999"])), shares(sheet, lines_for_codes(sheet, BOX, code, read))
    assert told.get(part, 0.0) >= 0.98 * alone[part], (read, alone, told)


HOP = roster_named("hop_16")
AIR = HOP.module("air")
LEFT = AIR.output("left_vent")


@pytest.mark.parametrize(
    ("word", "heard", "line"),
    [
        (DEAD, False, "kneel left see left valve still"),
        (UNSEEN, False, "kneel left see left valve still"),
        (DEAD, True, "kneel left see left valve moves"),  # what is behind the valve is blocked
        (WORKS, None, "kneel left see left valve moves"),
        (LOST, False, "kneel left see left valve moves"),
        (DEAD, None, ""),  # the corner may be stuck
        (UNSEEN, None, ""),
        (WRONG_WAY, None, ""),
    ],
)
def test_what_moved_or_was_heard_says_whether_the_valve_worked(demo_sheets, word, heard, line):
    sheet = demo_sheets["kneeling_valves"]
    assert line_for_movement(sheet, AIR, LEFT, LEFT.command("open"), word, heard) == line


def test_what_is_told_to_rest_or_stands_on_no_sheet_says_nothing(demo_sheets):
    sheet = demo_sheets["kneeling_valves"]
    assert line_for_movement(sheet, AIR, LEFT, LEFT.command("shut"), WORKS, True) == ""
    roof = roster_named("reader_75").module("roof")
    pump = roof.output("pump")
    assert line_for_movement(demo_sheets["wired_roof_bow"], roof, pump, pump.command("run"), DEAD, False) == ""


@pytest.mark.parametrize(("fault", "seen", "part"), [("N6.21.stuck_open", "still", "N6.21"), ("", "moves", "")])
def test_a_current_that_does_not_flow_under_command_falls_on_the_circuit(sheet, fault, seen, part):
    valve, on = BOX.output("a"), BOX.output("a").command("on")
    with served(CARRALL, "wired_van_gearbox", [fault] if fault else [], "key on") as own, Asker(CARRALL, lines_at(own.bus)) as tester:
        values = []
        with tester.hold(BOX, valve, on, [CAUTION_READ]) as held:
            values.append((0.0, held.before.value))
            for at in range(1, 6):
                time.sleep(0.2)
                values.append((at / 5, held.look().value))
    moved = judged_move(on, values)
    line = line_for_movement(sheet, BOX, valve, on, moved.word)
    assert line == f"valve A see valve A {seen}"
    if part:
        assert shares(sheet, line)[part] > 2.0 * shares(sheet, "").get(part, 0.0)
