"""Two faults at once, both of which show: readings are worked out with the circuit's own solver at two known severities."""

from __future__ import annotations

import pytest

from pondrel.core.circuit.fault import parse_fault
from pondrel.core.circuit.read.sheet import parse_sheet
from pondrel.core.circuit.solve import solve
from pondrel.core.evidence.registry import item_of
from pondrel.core.isolate import Workup, isolate
from pondrel.trial.sets import SETS


@pytest.fixture(scope="module")
def blower():
    return Workup(parse_sheet((SETS["seen"] / "blower_steps.yaml").read_text()))


def read_everywhere(workup, *faults: str):
    """The volts of every place in every state, to ten millivolts."""
    sheet = workup.sheet
    both = tuple(parse_fault(sheet, fault) for fault in faults)
    volts = {state: solve(sheet, state, both).places for state in sheet.states}
    return tuple(
        item_of(sheet, state, "volts", place, sheet.minus, f"{volts[state][place]:.2f}")
        for state in sheet.states
        for place in sheet.places
        if place != sheet.minus
    )


def test_a_second_fault_is_not_taken_for_a_slip_where_the_first_explains_all_other_readings(blower):
    """With the middle step open the blower turns at full speed only, and there its ground loses five volts: one reading of forty-three."""
    items = read_everywhere(blower, "R2.open", "G1.high_resistance=2.4")
    found = isolate(blower, items)
    pair = next(s for s in found.suspects if s.kind == "two" and set(s.parts) == {"R2", "G1"})
    assert pair.probability > 0.2 and found.suspects[0].part == "R2"  # one slip would explain it as well
    again = isolate(blower, (*items, items[-1]))  # two would have to be one and the same
    first = again.suspects[0]
    assert set(first.parts) == {"R2", "G1"} and first.probability > 0.95
    assert any(f"({ohms}" in first.words for ohms in ("2.2", "2.3", "2.4", "2.5"))  # and how bad it is


def test_one_fault_is_one(blower):
    found = isolate(blower, read_everywhere(blower, "R2.open"))
    assert found.suspects[0].kind == "single" and found.suspects[0].part == "R2"
