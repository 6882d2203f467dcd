"""Files of other programs, read as those programs read them."""

from __future__ import annotations

import re

import pytest

from pondrel.core.circuit.read.sheet import parse_sheet
from pondrel.core.circuit.solve import solve
from pondrel.core.making.bring import brought
from pondrel.trial.ngspice import installed, simulated

# Source of the connections: WireViz 0.4.1's own parser, run on this very text; the syntax is that of its documentation.
HARNESS = """
connectors:
  X1:
    type: row of pins
    subtype: female
    pinlabels: [GND, +12V, RX, TX]
  X2:
    type: row of pins
    pincount: 4
    pinlabels: [GND, A, B, C]
  X3:
    pins: [10, 20, 30]
    pinlabels: [P, Q, R]
cables:
  W1:
    gauge: 0.25 mm2
    length: 0.2
    color_code: DIN
    wirecount: 3
    shield: true
  W2:
    gauge: 20 AWG
    length: 3 ft
    colors: [RD, BK]
connections:
  -
    - X1: [1,2,3]
    - W1: [1,2,3]
    - X2: [1,3,2]
  -
    - X1: 1
    - W1: s
  -
    - X2: [A, B]
    - W2: [1-2]
    - X3: [P, 30]
"""
CONNECTED = {
    ("W1", "1"): ("x1.1", "x2.1"), ("W1", "2"): ("x1.2", "x2.3"), ("W1", "3"): ("x1.3", "x2.2"), ("W1", "s"): ("x1.1", None),
    ("W2", "1"): ("x2.2", "x3.10"), ("W2", "2"): ("x2.3", "x3.30"),
}  # fmt: skip

# Netlists of our own; what they come to is ngspice's word.
NETLISTS = {
    "divider": "divider\nV1 in 0 DC 12.6\nR1 in a 100\nR2 a b 4.7k\nR3 b 0 2.2k\nR4 a 0 1k\n.end\n",
    "bridge": "bridge\nV1 t 0 10\nR1 t a 1k\nR2 t b 2k\nR3 a 0 3k\nR4 b 0 1.5k\nR5 a b 470\n.end\n",
    "two sources": "two\nV1 p 0 12\nV2 q 0 5\nR1 p m 220\nR2 q m 330\nR3 m 0 100\nL1 m n 10m\nR4 n 0 50\nC1 n 0 1u\n.end\n",
    "ammeter": "ammeter\nV1 p 0 24\nR1 p a 47\nVA a b 0\nR2 b 0 33\n.end\n",
}  # fmt: skip


def test_a_harness_is_wired_as_its_own_program_wires_it():
    sheet = parse_sheet(brought("harness.yml", HARNESS).text)
    for (cable, core), (one, other) in CONNECTED.items():
        pins = sheet.parts[f"{cable}.{core}"].pins
        assert pins["a"] == one and (pins["b"] == other if other else pins["b"] not in sheet.places)
    assert sum(part.kind.name == "wire" for part in sheet.parts.values()) == len(CONNECTED)
    assert sheet.parts["W2.1"].params["length_m"] == pytest.approx(0.9144) and sheet.parts["W2.1"].params["awg"] == "20"


@pytest.mark.skipif(not installed(), reason="ngspice is not installed; make test installs it")
@pytest.mark.parametrize("name", NETLISTS)
def test_a_netlist_comes_to_what_ngspice_says_of_it(name):
    text = NETLISTS[name]
    said = simulated(text.replace(".end", ".op\n.print op all\n.end"))
    volts = {node: float(value) for node, value in re.findall(r"(?m)^\s*([a-z]\w*)\s+(-?\d\.\d+e[-+]\d+)\s*$", said)}
    sheet = parse_sheet(brought(f"{name}.cir", text).text)
    point = solve(sheet, next(iter(sheet.states)))
    checked = [node for node in point.nodes if node in volts]
    assert len(checked) >= 3
    for node in checked:
        assert point.nodes[node] == pytest.approx(volts[node], abs=2e-4, rel=2e-4), node  # sources of a microohm, a coil of 0.1 mOhm
