"""What of a circuit can be unplugged one after the other: minutes, and what is cut off from where the signal is watched."""

import pytest

from pondrel.core.circuit.unpluggable import unpluggables
from pondrel.core.scope.one_by_one import plan_from, standing, written


@pytest.fixture
def bus(demo_sheets):
    return demo_sheets["two_wire_bus"]


def test_a_plug_in_a_bus_cuts_off_what_lies_behind_it(bus):
    found = {one.name: one for one in unpluggables(bus, "diag.high")}
    assert found["X5"].off == ("N11", "N12", "T2") and found["N12"].off == ()
    assert found["N12"].minutes == 11.0 and found["N11"].minutes is None  # behind a panel; nobody said where it is
    assert not {"BAT", "R0", "W1H"} & set(found)  # posts, what hangs on the battery alone, and wires stay
    # Seen from the other end the plug cuts off the others.
    assert {one.name: one for one in unpluggables(bus, "rear.high")}["X5"].off == ("T1", "N10", "N9")


def test_splices_and_grounds_stay_and_whole_plugs_come_off_at_once(demo_sheets):
    assert "SP1" not in {one.name for one in unpluggables(demo_sheets["kneeling_valves"], "y1.1")}
    gauges = {one.name: one for one in unpluggables(demo_sheets["dash_gauges"], "ivr.out")}
    assert gauges["P1"].off == ("C20", "R1") and gauges["C20"].off == ("R1",)


def test_the_list_is_one_that_can_be_read(bus):
    found = {one.name: one for one in unpluggables(bus, "diag.high")}
    text = written((one.called, one.minutes, [found[name].called for name in one.off]) for one in found.values())
    plan = plan_from(text)
    assert "body plug 0.5 min: door module, ramp module, rear end resistor" in text.splitlines()
    assert plan.things["body plug"].off == {"body plug", "door module", "ramp module", "rear end resistor"}
    assert standing(plan, []).next.name == "body plug"  # it halves the bus, and is at hand
    assert plan_from(written([("Plug: left, rear", 2.0, ()), ("Plug: left, rear", 3.0, ())])).things.keys() == {"Plug left rear"}
