"""What was probably not meant is found, with its cure; and what is meant is left alone."""

from __future__ import annotations

import pytest

from pondrel.core.circuit.read.sheet import parse_sheet
from pondrel.core.making.checks import check_made
from pondrel.core.making.dry_run import dry_run
from pondrel.core.making.typical import TYPICALS, made

from ...circuits import sheet_of

BASE = "BAT: {kind: battery, pins: {p: b+, n: b-}}\n"


def _found(parts: str, places: str = "", states: str = "on: {}") -> dict[str, str]:
    """What is found, by the part or node that it is about."""
    return {finding.part or finding.node: finding.says for finding in check_made(sheet_of(BASE + parts, places, states))}


def test_a_part_in_the_air_and_a_load_without_a_way_to_ground_are_two_things():
    found = _found("R1: {kind: heater, pins: {a: x, b: y}, watts: 5}\nLA1: {kind: lamp, pins: {a: b+, b: z}, watts: 5}")
    assert "hangs in the air" in found["R1"] and "no way to ground from z" in found["LA1"]
    assert "no way on from q" in _found("LA1: {kind: lamp, pins: {a: q, b: b-}, watts: 5}")["LA1"]


def test_a_fuse_too_small_for_what_it_feeds_blows():
    parts = "F1: {kind: fuse, pins: {a: b+, b: f}, rating: 5}\nE1: {kind: heater, pins: {a: f, b: b-}, watts: 120}"
    assert "is rated 5 A and its circuit draws 10." in _found(parts)["F1"]
    assert "F1" not in _found(parts.replace("rating: 5", "rating: 15"))


@pytest.mark.parametrize(
    ("section", "rating", "too_big"),
    [
        (0.5, 10, True), (0.5, 7.5, False), (0.75, 10, False), (0.75, 15, True), (1.5, 20, False), (1.5, 30, True), (2.5, 30, False),
        (6, 60, False),
    ],
)  # fmt: skip
def test_a_fuse_too_big_for_the_thinnest_wire_behind_it_is_the_fire(section, rating, too_big):
    found = _found(
        f"F1: {{kind: fuse, pins: {{a: b+, b: f}}, rating: {rating}}}\nW1: {{kind: wire, pins: {{a: f, b: s}}, length_m: 1, csa_mm2: 6}}\n"
        f"S1: {{kind: switch, pins: {{a: s, b: t}}}}\nW2: {{kind: wire, pins: {{a: t, b: l}}, length_m: 1, csa_mm2: {section}}}\n"
        "LA1: {kind: lamp, pins: {a: l, b: b-}, watts: 5}"
    )
    assert ("too big for wire" in found.get("F1", "")) == too_big


def test_a_wire_behind_a_fuse_of_its_own_or_behind_a_coil_is_not_the_big_ones_business():
    parts = """
F1: {kind: fuse, pins: {a: b+, b: f}, rating: 40}
F2: {kind: fuse, pins: {a: f, b: g}, rating: 5}
W2: {kind: wire, pins: {a: g, b: l}, length_m: 1, csa_mm2: 0.5}
LA1: {kind: lamp, pins: {a: l, b: b-}, watts: 5}
K1: {kind: relay, pins: {'30': f, '87': m, '86': f, '85': k}}
W3: {kind: wire, pins: {a: k, b: b-}, length_m: 1, csa_mm2: 0.5}
E1: {kind: heater, pins: {a: m, b: b-}, watts: 120}
"""
    assert "F1" not in _found(parts)
    contact = parts.replace("pins: {a: m, b: b-}", "pins: {a: n, b: b-}")
    through_contact = contact + "W4: {kind: wire, pins: {a: m, b: n}, length_m: 1, csa_mm2: 1}"
    assert "wire W4" in _found(through_contact)["F1"]


def test_a_valve_that_never_pulls_in_and_a_wire_that_loses_too_much_are_told_with_their_numbers():
    weak = "R1: {kind: resistor, pins: {a: b+, b: y}, ohms: 60}\nY1: {kind: solenoid, pins: {a: y, b: b-}, ohms: 20, pull_in_amps: 0.4}"
    assert "does not pull in in any state" in _found(weak)["Y1"]
    thin = "W1: {kind: wire, pins: {a: b+, b: l}, length_m: 10, csa_mm2: 0.5}\nE1: {kind: heater, pins: {a: l, b: b-}, watts: 120}"
    assert "too thin or too long" in _found(thin)["W1"]
    assert "W1" not in _found(thin.replace("0.5", "6"))


def test_a_load_that_no_probe_reaches_and_two_names_for_one_point_are_pointed_out():
    hidden = """
LA1: {kind: lamp, pins: {a: l, b: m}, watts: 5}
W1: {kind: wire, pins: {a: b+, b: l}, ohms: 0.1}
G1: {kind: ground, pins: {a: m, b: b-}}
"""
    out = _found(hidden, "b+: {}")
    assert "Nobody can put a probe to" in out["LA1"]
    twice = _found("R1: {kind: heater, pins: {a: b+, b: f1.out}, watts: 5}\nR2: {kind: heater, pins: {a: f1_out, b: b-}, watts: 5}")
    assert "f1.out and f1_out look like two names" in twice["f1_out"]


def test_an_engine_that_runs_turns_its_alternator_and_a_dead_battery_drives_nothing():
    parts = """
GEN: {kind: alternator, pins: {p: b+, n: b-}}
E1: {kind: heater, pins: {a: b+, b: b-}, watts: 50}
N1: {kind: low_side, pins: {out: o, gnd: b-}}
Y1: {kind: solenoid, pins: {a: b+, b: o}, ohms: 20}
"""
    wrong = _found(parts, states="run: {engine: running, key: 'on'}, off: {battery: 'off', N1: 'on'}")
    assert "the engine runs and" in wrong["GEN"] and "the battery is off, so" in wrong["N1"]
    right = _found(parts, states="run: {engine: running, key: 'on', GEN: running}, off: {battery: 'off'}")
    assert "GEN" not in right and "N1" not in right


def test_the_dry_run_tells_what_every_load_gets_where_it_gets_most():
    sheet = sheet_of(
        BASE + "S1: {kind: switch, pins: {a: b+, b: s}}\nLA1: {kind: lamp, pins: {a: s, b: b-}, watts: 21, label: step lamp}\n"
        "LA2: {kind: lamp, pins: {a: x, b: b-}, watts: 5}",
        states="off: {}, on: {S1: closed}",
    )  # fmt: skip
    lines = {line.part: line for line in dry_run(sheet)}
    assert lines["LA1"].state == "on" and lines["LA1"].says.startswith("step lamp gets 12.5") and "draws 1.7" in lines["LA1"].says
    assert not lines["LA2"].works and "fed in no state" in lines["LA2"].says


def test_the_dry_run_tells_who_is_heard_on_a_bus():
    text = made(TYPICALS["lin"], {})
    heard = {line.part: line for line in dry_run(parse_sheet(text))}
    assert all(line.works for line in heard.values()) and "rain sensor talks: logger at the diagnosis socket hears" in heard["N2"].says
    parted = "\n".join(line for line in text.splitlines() if not line.startswith("  W1:"))  # what joins the body module to all others
    heard = {line.part: line for line in dry_run(parse_sheet(parted))}
    assert heard["N1"].works and not heard["N2"].works and heard["N2"].says.endswith("nothing")
