"""What is never done, and what is read first: one place that every door asks."""

from __future__ import annotations

import json

import pytest
from click.testing import CliRunner

from pondrel.cli import main
from pondrel.core.base.errors import SheetError
from pondrel.core.circuit.measure import measure
from pondrel.core.circuit.read.sheet import parse_sheet
from pondrel.core.circuit.safety import ForbiddenError
from pondrel.core.evidence.asked import Measurement, Question
from pondrel.core.evidence.csv_file import read_csv
from pondrel.core.evidence.entered import Entered, item_entered
from pondrel.core.evidence.safety import acknowledged_first, cautions_for, is_allowed, locking_cautions
from pondrel.core.isolate import Workup

from ...circuits import STEP_LIGHT

SQUIB = "LA1: {kind: lamp, pins: {a: lamp.feed, b: g1}, volts: 12, watts: 10, never: [meter, flex, unplug], because: It may fire.}"
MARKED = STEP_LIGHT.replace("LA1: {kind: lamp, pins: {a: lamp.feed, b: g1}, volts: 12, watts: 10}", SQUIB).replace(
    "f4.out: {at: fuse box, minutes: 1}",
    "f4.out: {at: fuse box, minutes: 1, never: [lamp], because: Vapour., caution: Mind, acknowledge: true}",
)


@pytest.fixture(scope="module")
def sheet():
    return parse_sheet(MARKED)


def test_a_part_that_bears_no_meter_is_in_no_proposal(sheet):
    offered = Workup(sheet).offered
    assert offered and not any({"lamp.feed", "g1"} & {t.red, t.black} for t in offered)
    assert any({"lamp.feed", "g1"} & {t.red, t.black} for t in Workup(parse_sheet(STEP_LIGHT)).offered)


@pytest.mark.parametrize(
    "entered",
    [
        Entered("lit", "volts", "lamp.feed", "batt-", "12.1"),
        Entered("lit", "volts", "batt+", "g1", "12.1"),
        Entered("lit", "volts", "", "", "ohms lamp.feed g1 14"),
        Entered("lit", "volts", "", "", "good volts lamp.feed 12"),
        Entered("lit", "volts", "", "", "lamp f4.out 12"),
        Entered("lit", "volts", "", "", "wiggle LA1 changed"),
        Entered("lit", "volts", "", "", "knock rear_panel changed"),  # the lamp is behind it
        Entered("lit", "volts", "", "", "swap LA1 gone"),
    ],
)
def test_no_entry_goes_around_it(sheet, entered):
    with pytest.raises(ForbiddenError, match=r"^Never at .+: .+\. (It may fire|Vapour)\.$"):
        item_entered(sheet, entered, "lit")


def test_what_is_not_forbidden_is_taken(sheet):
    for value in ("12.1", "ohms f4.out batt+ 0.1", "wiggle F4 changed", "look LA1 burnt"):
        item_entered(sheet, Entered("lit", "volts", "f4.out", "batt-", value), "lit")


def test_files_the_command_line_and_instruments_ask_the_same(sheet, tmp_path):
    with pytest.raises(Exception, match="Line 2: Never at LA1"):
        read_csv(sheet, "state,instrument,red,black,value\nlit,ohms,lamp.feed,g1,14\n")
    with pytest.raises(ForbiddenError):
        measure(sheet, "lit", "volts", "lamp.feed", "batt-")
    file = tmp_path / "marked.yaml"
    file.write_text(MARKED)
    measured = ["measure", str(file), "--state", "lit", "--instrument", "volts", "--red", "g1"]
    for more in (["isolate", str(file), "--line", "wiggle LA1 changed"], measured):
        said = CliRunner().invoke(main, more)
        assert said.exit_code == 1 and "Never at LA1" in said.output


@pytest.mark.parametrize(
    ("name", "act"),
    [
        ("engine_sensors", ("ignition", "lamp", "ref", "batt-")),
        ("two_wire_bus", None),
        ("dash_gauges", ("on", "lamp", "tank", "batt-")),
    ],
)
def test_references_bus_lines_and_marked_places_bear_no_lamp(demo_sheets, name, act):
    sheet = demo_sheets[name]
    if act is None:
        part = next(p for p in sheet.parts.values() if p.kind.name == "bus_terminator")
        act = (next(iter(sheet.states)), "lamp", part.pins["high"], sheet.minus)
    elif name == "engine_sensors":
        part = next(p for p in sheet.parts.values() if p.kind.name == "reference")
        act = (next(iter(sheet.states)), "lamp", part.pins["out"], sheet.minus)
    else:
        act = (next(iter(sheet.states)), *act[1:3], sheet.minus)
    assert not is_allowed(sheet, Measurement(*act)) and is_allowed(sheet, Measurement(act[0], "volts", *act[2:]))


def test_a_step_with_a_locking_caution_waits_until_it_is_read(sheet):
    test = Measurement("lit", "volts", "f4.out", "batt-")
    assert acknowledged_first(sheet, test, ()) == ("Mind",) and acknowledged_first(sheet, test, {"Mind"}) == ()
    assert acknowledged_first(sheet, Measurement("lit", "volts", "batt+", "batt-"), ()) == ()
    assert locking_cautions(sheet) == ("Mind",)


def test_cautions_are_each_told_once_and_lock_where_any_of_them_does(demo_sheets):
    valves = demo_sheets["kneeling_valves"]
    found = cautions_for(valves, Question("see", "left valve", "kneel left"))
    assert [c.locks for c in found] == [False, True] and "sinks" in found[1].text
    dead = cautions_for(valves, Measurement("kneel left", "ohms", "y1.1", "y1.2"))
    assert not any(c.locks for c in dead)  # with the battery off nothing sinks


@pytest.mark.parametrize(
    ("change", "path"),
    [
        (("because: It may fire.", ""), "because"),
        (("never: [meter, flex, unplug], ", ""), "because"),
        (("never: [meter,", "never: [sing,"), "never"),
        (("acknowledge: true", "acknowledge: sometimes"), "acknowledge"),
    ],
)
def test_a_mark_that_is_not_whole_is_named(change, path):
    text = MARKED.replace(*change).replace(", }", "}")
    with pytest.raises(SheetError) as error:
        parse_sheet(text)
    assert any(path in flaw for flaw, _ in error.value.flaws), json.dumps(error.value.flaws)
