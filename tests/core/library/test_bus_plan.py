"""How a bus runs on its sheet: the trunk between its ends, stops in order, stubs beside it."""

from __future__ import annotations

from pondrel.core.circuit.read.sheet import parse_sheet
from pondrel.core.library.bus_links import sender_of
from pondrel.core.library.bus_plan import bus_plan
from pondrel.core.making.typical import TYPICALS, made

from ...circuits import sheet_of

BATTERY = "BAT: {kind: battery, pins: {p: batt+, n: b-}, ohms: 0.01}"
STAR = f"""
    {BATTERY}
    T1: {{kind: bus_terminator, pins: {{high: h1, low: l1}}}}
    N1: {{kind: bus_transceiver, pins: {{high: h1, low: l1, gnd: b-}}, label: dash module}}
    X1: {{kind: plug, pins: {{1a: h1, 1b: h2, 2a: l1, 2b: l2}}, label: sill plug}}
    W1: {{kind: wire, pins: {{a: h2, b: h3}}, ohms: 0.1}}
    W2: {{kind: wire, pins: {{a: l2, b: l3}}, ohms: 0.1}}
    N3: {{kind: bus_transceiver, pins: {{high: h3, low: l3, gnd: b-}}, label: rear module}}
    T2: {{kind: bus_terminator, pins: {{high: h3, low: l3}}}}
    X2: {{kind: plug, pins: {{1a: h2, 1b: h4, 2a: l2, 2b: l4}}, label: door plug}}
    N2: {{kind: bus_transceiver, pins: {{high: h4, low: l4, gnd: b-}}, label: door module}}
    W3: {{kind: wire, pins: {{a: h2, b: h5}}, ohms: 0.1}}
    W4: {{kind: wire, pins: {{a: l2, b: l5}}, ohms: 0.1}}
    N9: {{kind: bus_listener, pins: {{high: h5, low: l5}}, label: logger}}
"""


def test_the_trunk_runs_from_end_to_end_with_what_lies_between(demo_sheets):
    plan = bus_plan(demo_sheets["two_wire_bus"])
    assert plan.modules == ("N10", "N11", "N12")
    assert [(stop.ends, stop.listeners) for stop in plan.stops] == [(("T1",), ()), ((), ("N9",)), ((), ()), (("T2",), ())]
    assert [(set(stretch.parts), stretch.says) for stretch in plan.stretches] == [
        ({"W1H", "W1L"}, ""), ({"X5"}, "body plug"), ({"W2H", "W2L"}, ""),
    ]  # fmt: skip


def test_what_hangs_beside_the_trunk_is_a_stub_with_what_lies_in_it():
    plan = bus_plan(sheet_of(STAR))
    assert plan.modules == ("N1", "N2", "N3")
    middle = plan.stops[1]
    assert (middle.modules, middle.listeners) == ((), ("N9",))
    assert [(stretch.says, set(stretch.parts), far) for stretch, far in middle.stubs] == [("door plug", {"X2"}, ("N2",))]
    assert [stretch.says for stretch in plan.stretches] == ["sill plug", ""]
    assert set(plan.stretches[0].parts) == {"X1"} and {"W1"} <= set(plan.stretches[1].parts)


def test_a_bus_without_ends_runs_between_the_modules_that_are_farthest_apart():
    bare = "\n".join(line for line in STAR.splitlines() if "terminator" not in line)
    plan = bus_plan(sheet_of(bare))
    assert set(plan.modules) == {"N1", "N2", "N3"} and len(plan.stops) == 3 and len(plan.stretches) == 2


def test_where_no_two_modules_are_joined_there_is_no_bus(demo_sheets):
    assert bus_plan(demo_sheets["step_lights"]) is None
    alone = f"""
    {BATTERY}
    N1: {{kind: bus_transceiver, pins: {{high: h, low: l, gnd: b-}}}}
    """
    assert bus_plan(sheet_of(alone)) is None
    assert bus_plan(sheet_of(alone + "N2: {kind: bus_transceiver, pins: {high: k, low: m, gnd: b-}}")) is None


def test_a_bus_that_goes_round_is_walked_once():
    ring = STAR + "    W5: {kind: wire, pins: {a: h4, b: h3}, ohms: 0.1}\n    W6: {kind: wire, pins: {a: l4, b: l3}, ohms: 0.1}\n"
    plan = bus_plan(sheet_of(ring))
    assert sorted(plan.modules) == ["N1", "N2", "N3"]


def test_a_typical_bus_has_its_modules_in_order_and_each_is_a_sender_by_its_words():
    sheet = parse_sheet(made(TYPICALS["bus"], {"circuit.modules": "5"}))
    plan = bus_plan(sheet)
    assert plan.modules == ("N1", "N2", "N3", "N4", "N5") and plan.stops[0].listeners
    assert sender_of(sheet, plan.modules, ["BrakeModule", "Heater", "DashModule"]) == {"N1": "DashModule", "N4": "BrakeModule"}
