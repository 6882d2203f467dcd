"""No lines cross where none need to: against the planarity test of networkx (Boyer and Myrvold's problem by the left-right method), which
tells whether a graph can be drawn in the plane without a crossing."""

from __future__ import annotations

from pathlib import Path

import networkx
from hypothesis import given, settings
from hypothesis import strategies as st

from pondrel.core.circuit.read.sheet import parse_sheet
from pondrel.core.drawing.order import chains_of, crossings, ordered
from pondrel.core.drawing.wiring import Wiring
from pondrel.trial.sets import SETS, sheets_of

from ..circuits import sheet_of


def _planar(wiring: Wiring) -> bool:
    graph = networkx.Graph([(s.top, s.bottom) for s in (wiring.source, *wiring.stretches)])
    return networkx.check_planarity(graph)[0]


def _crossed(wiring: Wiring) -> float:
    return crossings(wiring, ordered(wiring, chains_of(wiring)))


def test_every_circuit_at_hand_that_can_be_drawn_without_crossings_is(demo_sheets):
    drawn = {name: Wiring(sheet) for name, sheet in demo_sheets.items()}
    drawn |= {file: Wiring(parse_sheet(Path(file).read_text())) for chosen in SETS for file in sheets_of(chosen)}
    planar = {name for name, wiring in drawn.items() if _planar(wiring)}
    assert len(planar) > 20  # or this tells nothing
    assert {name: _crossed(drawn[name]) for name in planar} == dict.fromkeys(planar, 0.0)


def _grown(steps: list[tuple[bool, int]]) -> list[tuple[str, str]]:
    """A network of two ends, grown by putting edges in line or side by side."""
    edges = [("b+", "b-")]
    for number, (in_line, where) in enumerate(steps):
        one, other = edges[where % len(edges)]
        if in_line:
            edges[where % len(edges)] = (one, f"n{number}")
            edges.append((f"n{number}", other))
        else:
            edges.append((one, other))
    return edges


@settings(max_examples=60, deadline=None)
@given(st.lists(st.tuples(st.booleans(), st.integers(0, 60)), min_size=4, max_size=28))
def test_no_lines_cross_in_a_network_grown_in_line_and_side_by_side(steps):
    """Such networks are planar by how they are made, so that here the growth itself is the oracle."""
    lines = ["BAT: {kind: battery, pins: {p: b+, n: b-}}"]
    lines += [f"R{n}: {{kind: resistor, pins: {{a: {a}, b: {b}}}, ohms: 5}}" for n, (a, b) in enumerate(_grown(steps))]
    wiring = Wiring(sheet_of("\n".join(lines)))
    assert _planar(wiring) and _crossed(wiring) == 0.0
