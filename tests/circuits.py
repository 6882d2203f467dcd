"""Circuits for tests: sheets as text, builders, and generators of connected networks."""

from __future__ import annotations

import dataclasses
import random
import textwrap
from collections.abc import Sequence

import numpy as np
from hypothesis import strategies as st
from ruamel.yaml import YAML

from pondrel.core.circuit.effects import named_faults
from pondrel.core.circuit.fault import Fault, changes, parse_fault
from pondrel.core.circuit.network import Cases, Network
from pondrel.core.circuit.operate import Points, operating_points
from pondrel.core.circuit.read.sheet import parse_sheet
from pondrel.core.circuit.sheet import Sheet
from pondrel.core.circuit.solve import solve
from pondrel.core.evidence.items import Observation, Reading
from pondrel.core.evidence.registry import item_of

STEP_LIGHT = """\
format: pondrel-sheet/1
title: Step light, rear door
supply: {nominal: 12.6, unit: V}
access:                        # shared effort: done once, then everything behind it is cheap
  rear_panel: {minutes: 6, note: four trim screws}
places:                        # only these can be probed
  batt+: {at: battery post, minutes: 1}
  f4.out: {at: fuse box, minutes: 1}
  lamp.feed: {at: lamp plug pin 1, minutes: 1, behind: rear_panel}
  g1: {at: lamp plug pin 2, minutes: 1, behind: rear_panel}
parts:
  BAT: {kind: battery, pins: {p: batt+, n: batt-}, volts: 12.6, ohms: 0.008}
  F4:  {kind: fuse, pins: {a: batt+, b: f4.out}, rating: 10}
  W1:  {kind: wire, pins: {a: f4.out, b: c2.1}, length_m: 4.5, csa_mm2: 0.75}
  C2.1: {kind: contact, pins: {a: c2.1, b: c2.1m}}
  S1:  {kind: switch, pins: {a: c2.1m, b: lamp.feed}}
  LA1: {kind: lamp, pins: {a: lamp.feed, b: g1}, volts: 12, watts: 10}
  G1:  {kind: ground, pins: {a: g1, b: batt-}}
states:
  idle: {S1: open}
  lit:  {S1: closed}
observe: {lamp: {part: LA1, sees: brightness}}
"""

RELAY_PUMP = """\
format: pondrel-sheet/1
title: Pump on a relay
places:
  b+: {}
  k.86: {}
  k.85: {}
  k.30: {}
  k.87: {}
  m.minus: {}
parts:
  BAT: {kind: battery, pins: {p: b+, n: b-}, volts: 12.6, ohms: 0.02}
  F1: {kind: fuse, pins: {a: b+, b: k.30}, rating: 15}
  S1: {kind: switch, pins: {a: b+, b: k.86}}
  K1: {kind: relay, pins: {30: k.30, 87: k.87, 85: k.85, 86: k.86}, coil_ohms: 80}
  G1: {kind: ground, pins: {a: k.85, b: b-}}
  M1: {kind: resistor, pins: {a: k.87, b: m.minus}, ohms: 2.5}
  G2: {kind: ground, pins: {a: m.minus, b: b-}}
states:
  rest: {}
  run: {S1: closed}
"""


def sheet_of(parts: str, places: str = "", states: str = "on: {}") -> Sheet:
    """A sheet from its parts' lines; every node is a place unless places are given."""
    body = textwrap.indent(textwrap.dedent(parts).strip(), "  ")
    if not places:
        raw = YAML(typ="safe", pure=True).load(body)
        places = ", ".join(f"{node!r}: {{}}" for node in dict.fromkeys(str(n) for part in raw.values() for n in part["pins"].values()))
    return parse_sheet(f"format: pondrel-sheet/1\ntitle: t\nplaces: {{{places}}}\nparts:\n{body}\nstates: {{{states}}}\n")


def measure(sheet: Sheet, fault: str, tests: list[tuple[str, str, str]], emf: float | None = None, seed: int = 1) -> tuple[Reading, ...]:
    """Volts that a meter of half a percent would show on the circuit with a fault; ``emf`` in place of the sheet's battery."""
    rng = random.Random(seed)
    faults = (parse_fault(sheet, fault),) if fault else ()
    if emf is not None:
        battery = next(p for p in sheet.parts.values() if p.kind.name == "battery")
        weak = dataclasses.replace(battery, params={**battery.params, "volts": emf})
        sheet = dataclasses.replace(sheet, parts={**sheet.parts, battery.name: weak})
    made = []
    for state, red, black in tests:
        nodes = solve(sheet, state, faults).nodes
        true = nodes[red] - nodes[black]
        made.append(reading_of(sheet, state, "volts", red, black, f"{true * (1 + rng.gauss(0, 0.002)) + rng.gauss(0, 0.004):.2f}"))
    return tuple(made)


def every_fault(sheet: Sheet) -> list[Fault]:
    """Each fault of each part at its default severity."""
    return [fault for fault, _ in named_faults(sheet)]


def points_of(sheet: Sheet, state: str, cases: Sequence[tuple[Fault, ...]]) -> Points:
    """The operating points of a state with each case's faults, worked out together."""
    network = Network.of(sheet, state)
    rows = Cases.of(len(cases), [one for row, faults in enumerate(cases) for one in changes(network, np.array([row]), faults)])
    return operating_points(network, rows, network.positions(state))


@st.composite
def resistor_networks(draw, most: int = 9) -> Sheet:
    """Connected networks of resistors on one battery: a random tree over the nodes and some extra branches."""
    count = draw(st.integers(2, most))
    ohms = st.floats(0.05, 5000.0)
    lines = [f"BAT: {{kind: battery, pins: {{p: n1, n: n0}}, volts: {draw(st.floats(1, 28))}, ohms: {draw(st.floats(0.005, 2))}}}"]
    edges = [(draw(st.integers(0, i - 1)), i) for i in range(1, count + 1)]
    extra = draw(st.lists(st.tuples(st.integers(0, count), st.integers(0, count)), max_size=6))
    edges += [(a, b) for a, b in extra if a != b]
    lines += [f"R{i}: {{kind: resistor, pins: {{a: n{a}, b: n{b}}}, ohms: {draw(ohms)}}}" for i, (a, b) in enumerate(edges)]
    return sheet_of("\n".join(lines))


def laplacian_volts(sheet: Sheet) -> dict[str, float]:
    """A second, plain way to solve a resistor network: dense nodal equations written out by hand."""
    nodes = [n for n in sheet.nodes() if n != sheet.minus]
    matrix, rhs = np.zeros((len(nodes), len(nodes))), np.zeros(len(nodes))
    for part in sheet.parts.values():
        a, b = part.pins.values()
        siemens = 1.0 / float(part.params["ohms"])
        for node, other in ((a, b), (b, a)):
            if node == sheet.minus:
                continue
            matrix[nodes.index(node), nodes.index(node)] += siemens
            if other != sheet.minus:
                matrix[nodes.index(node), nodes.index(other)] -= siemens
        if part.kind.name == "battery":
            rhs[nodes.index(a)] += siemens * float(part.params["volts"])
    return dict(zip(nodes, np.linalg.solve(matrix, rhs).tolist(), strict=True)) | {sheet.minus: 0.0}


def reading_of(sheet: Sheet, state: str, meter: str, red: str, black: str, value: str, note: str = "", good: bool = False) -> Reading:
    """A reading as a person types it."""
    item = item_of(sheet, state, f"good {meter}" if good else meter, red, black, value, note)
    assert isinstance(item, Reading)
    return item


def observed(sheet: Sheet, kind: str, subject: str, outcome: str, state: str = "") -> Observation:
    """An observation as a person types it."""
    item = item_of(sheet, state, kind, subject, "", outcome)
    assert isinstance(item, Observation)
    return item
