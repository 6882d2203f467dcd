"""Growing a sheet step by step: each from a good sheet to a good sheet that does what it should."""

from __future__ import annotations

import random

import pytest

from pondrel.core.base.errors import MakingError
from pondrel.core.circuit.read.sheet import parse_sheet
from pondrel.core.circuit.solve import solve
from pondrel.core.making.document import Document
from pondrel.core.making.steps import STEPS, grown, steps_on
from pondrel.core.making.typical import TYPICALS, made

LOAD = made(TYPICALS["switched_load"], {})
COMMENTED = """# kept: the heading
format: pondrel-sheet/1
title: Lamp
places:
  b+: {at: plus}   # kept: beside a place
  la: {at: lamp}
parts:
  BAT: {kind: battery, pins: {p: b+, n: b-}}
  # kept: before a part
  W1: {kind: wire, pins: {a: b+, b: la}, length_m: 4, csa_mm2: 1.5, colour: red}
  LA1: {kind: lamp, pins: {a: la, b: b-}, watts: 21}
states:
  "on": {}
limits:
  - {what: volts, at: la, state: "on", least: 11, source: demo}
observe: {lamp: {part: LA1, sees: brightness}}
"""


def _grow(text: str, step: str, subject: str = "", **given: str) -> tuple[str, str]:
    after = grown(text, step, subject, given)
    return after.text, after.outcome.part or after.outcome.node


def test_what_nobody_touched_stays_as_it_was_written():
    after, _ = _grow(COMMENTED, "put_in", "W1", what="fuse")
    assert after.count("# kept") == 3
    assert next(line for line in COMMENTED.splitlines() if "LA1" in line) in after


@pytest.mark.parametrize(
    ("what", "kind"), [("fuse", "fuse"), ("switch", "switch"), ("plug pin", "plug"), ("splice", "splice"), ("relay contact", "relay")]
)
def test_what_is_put_into_a_wire_stands_in_its_line_and_the_lamp_still_burns(what, kind):
    after, new = _grow(COMMENTED, "put_in", "W1", what=what)
    sheet = parse_sheet(after)
    assert sheet.parts[new].kind.name == kind
    halves = [part for part in sheet.parts.values() if part.kind.name == "wire"]
    assert sum(part.params["length_m"] for part in halves) == 4 and {part.colour for part in halves} == {"red"}
    before = solve(parse_sheet(COMMENTED), "on").currents["LA1"]
    assert solve(sheet, "on").currents["LA1"] == pytest.approx(before, rel=0.01)


def test_two_wires_through_one_plug_take_two_pins_of_it():
    once, plug = _grow(LOAD, "put_in", "W1", what="plug pin", name="C7")
    twice, again = _grow(once, "put_in", "W2", what="plug pin", name="c7")
    assert (plug, again) == ("C7", "C7") and set(parse_sheet(twice).parts["C7"].pins) == {"1a", "1b", "2a", "2b"}
    with pytest.raises(MakingError, match="Pin 2 of C7 is in another wire"):
        grown(twice, "put_in", "W3", {"what": "plug pin", "name": "C7", "pin": "2"})
    together, _ = _grow(LOAD, "plug", parts="W1, W2, W3", name="C9")
    assert len(parse_sheet(together).parts["C9"].pins) == 6


def test_a_branch_brings_its_wire_its_ground_and_what_is_seen_of_it():
    after, lamp = _grow(LOAD, "branch", "s1.2", sort="lamp", size="5 W")
    sheet = parse_sheet(after)
    assert solve(sheet, "on").currents[lamp] > 0.3 > 1e-3 > abs(solve(sheet, "off").currents[lamp])
    assert {entry["part"] for entry in sheet.observe.values()} >= {lamp}
    back, other = _grow(LOAD, "branch", "s1.2", sort="valve", back="g1")
    assert "g1" in {node for part in parse_sheet(back).parts.values() for node in part.pins.values() if part.name == "W5"} and other


def test_what_is_lifted_out_of_a_line_leaves_it_closed_and_a_load_takes_its_dead_ends_along():
    fused, fuse = _grow(COMMENTED, "put_in", "W1", what="fuse")
    sheet = parse_sheet(_grow(fused, "lift_out", fuse)[0])
    assert fuse not in sheet.parts and solve(sheet, "on").currents["LA1"] > 1.5
    branched, lamp = _grow(LOAD, "branch", "s1.2", sort="lamp")
    assert set(parse_sheet(_grow(branched, "lift_out", lamp)[0]).parts) == set(parse_sheet(LOAD).parts)
    with pytest.raises(MakingError, match="The battery stays"):
        grown(LOAD, "lift_out", "BAT", {})


def test_what_lay_beside_a_part_is_told_when_it_goes_with_it_and_a_plug_closes_pin_by_pin():
    beside, _ = _grow(
        COMMENTED.replace("places:", "places:\n  q: {at: q}").replace("b: la}, length", "b: q}, length"), "wire_to", "q", to="la"
    )
    twice = grown(grown(beside, "wire_to", "q", {"to": "la"}).text, "lift_out", "W2", {})
    assert "W3 that lay beside it" in twice.outcome.words and set(parse_sheet(twice.text).parts) == {"BAT", "W1", "LA1"}
    plug = LOAD.replace("parts:\n", "parts:\n  X7: {kind: plug, pins: {1a: s1.2, 2a: g1, 1b: la1.1, 2b: la1.2}}\n", 1)
    bare = "\n".join(line for line in plug.splitlines() if not line.startswith(("  W2:", "  W3:")))
    sheet = parse_sheet(_grow(bare, "lift_out", "X7")[0])
    assert solve(sheet, "on").currents["LA1"] > 1.5 and set(sheet.parts["LA1"].pins.values()) & {"s1.2", "la1.1"}


def test_lifting_out_a_lamp_takes_its_limit_and_its_observation_along():
    with_ohms = COMMENTED.replace("limits:", "limits:\n  - {what: amps, of: LA1, state: 'on', least: 1, source: demo}")
    after, lamp = _grow(with_ohms, "branch", "la", sort="lamp", size="5 W")
    sheet = parse_sheet(_grow(after, "lift_out", "LA1")[0])
    assert "LA1" not in sheet.parts and lamp in sheet.parts
    assert all(limit.of != "LA1" for limit in sheet.limits) and all(entry["part"] != "LA1" for entry in sheet.observe.values())


def test_another_name_goes_through_the_whole_sheet():
    after, name = _grow(LOAD, "change", "S1", name="S9", label="door switch")
    sheet = parse_sheet(after)
    assert name == "S9" and sheet.parts["S9"].label == "door switch" and sheet.states["on"].positions == {"S9": "closed"}
    assert {"s9.1", "s9.2"} <= set(sheet.places) and sheet.places["s9.1"].connector == "S9"
    told = parse_sheet(_grow(LOAD.replace("label: lamp}", "label: lamp LA1}"), "change", "LA1", name="LA7")[0])
    assert told.parts["LA7"].label == "lamp LA7"  # a name in words that holds the code follows it
    with pytest.raises(MakingError, match="There is a part called 'F1' already"):
        grown(LOAD, "change", "S1", {"name": "F1"})


def test_values_are_changed_in_place_and_what_becomes_known_loses_its_wide_tolerance():
    section, _ = _grow(LOAD, "change", "W1", csa_mm2="2.5")
    wire = parse_sheet(section).parts["W1"]
    assert wire.params["csa_mm2"] == 2.5 and wire.note == "length not known, 3 m of 0.75 mm² taken"
    both = parse_sheet(_grow(section, "change", "W1", length_m="1.2 m")[0]).parts["W1"]
    assert (both.note, both.params.get("tolerance")) == ("", None)
    unknown = parse_sheet(_grow(COMMENTED, "change", "W1", length_m="not known")[0]).parts["W1"]
    assert unknown.params["tolerance"] >= 0.5 and "not known" in unknown.note
    gauge = parse_sheet(_grow(COMMENTED, "change", "W1", csa_mm2="AWG 14")[0]).parts["W1"]
    assert gauge.params.get("csa_mm2") is None and gauge.params["awg"] == "14"
    with pytest.raises(MakingError, match="a positive number of amperes is wanted"):
        grown(LOAD, "change", "F1", {"rating": "-5"})


def test_a_copied_branch_stands_beside_the_first_and_does_the_same():
    branched, lamp = _grow(LOAD, "branch", "s1.2", sort="lamp", size="5 W")
    after, second = _grow(branched, "copy_branch", lamp)
    sheet = parse_sheet(after)
    point = solve(sheet, "on")
    assert second != lamp and point.currents[second] == pytest.approx(point.currents[lamp], rel=0.02)
    assert len(sheet.parts) == len(parse_sheet(branched).parts) + 4  # wire, lamp, wire, ground


def test_pins_the_other_way_round_cross_what_they_carry():
    plug, _ = _grow(LOAD, "plug", parts="W2, W3", name="C1")
    sheet = parse_sheet(_grow(plug, "swap_pins", "C1", one="1", other="2")[0])
    before, after = parse_sheet(plug).parts["C1"].pins, sheet.parts["C1"].pins
    assert (after["1b"], after["2b"], after["1a"]) == (before["2b"], before["1b"], before["1a"])
    with pytest.raises(MakingError, match="it has 1, 2"):
        grown(plug, "swap_pins", "C1", {"one": "1", "other": "9"})


def test_how_a_place_is_reached_gives_its_minutes_and_a_lid_over_several_fuses_is_one():
    sheet = parse_sheet(_grow(LOAD, "reach", "s1.2", at="door switch", reach="behind trim, 12 min")[0])
    assert sheet.access[sheet.places["s1.2"].behind].minutes == 12 and sheet.places["s1.2"].at == "door switch"
    gone = parse_sheet(_grow(LOAD, "reach", "s1.2", probe="no")[0])
    assert "s1.2" not in gone.places
    two, second = _grow(LOAD, "put_in", "W3", what="fuse")
    boxed = parse_sheet(_grow(two, "box", parts=f"F1, {second}", name="left fuse box")[0])
    assert boxed.places["f1.out"].behind == boxed.places["f2.in"].behind == "cover_left_fuse_box"


def test_states_are_added_changed_renamed_and_taken_off():
    added, _ = _grow(LOAD, "new_state", "on", name="held")
    assert parse_sheet(added).states["held"].positions == {"S1": "closed"}
    changed = parse_sheet(_grow(added, "state", "held", S1="open", note="let go", name="let go")[0])
    assert changed.states["let go"].positions == {} and changed.states["let go"].note == "let go"
    assert set(parse_sheet(_grow(added, "drop_state", "held")[0]).states) == {"off", "on"}
    only = parse_sheet(COMMENTED)
    assert len(only.states) == 1
    with pytest.raises(MakingError, match="One state stays"):
        grown(COMMENTED, "drop_state", "on", {})
    with pytest.raises(MakingError, match="That would leave no good sheet"):
        grown(LOAD, "state", "on", {"S1": "sideways"})


@pytest.mark.parametrize(
    ("step", "subject", "given", "says"),
    [
        ("fly", "", {}, "is no step"),
        ("put_in", "W99", {}, "No part 'W99'"),
        ("put_in", "LA1", {}, "does not go with"),
        ("put_in", "W1", {"what": "dragon"}, "cannot be put into a wire"),
        ("put_in", "W1", {"name": "x y"}, "is no name for a part"),
        ("branch", "nowhere", {}, "No place 'nowhere'"),
        ("branch", "s1.2", {"back": "moon"}, "No place 'moon'"),
        ("wire_to", "s1.2", {"to": "s1.2"}, "joins nothing"),
        ("plug", "", {"parts": "W1"}, "Two or more are wanted"),
        ("plug", "", {"parts": "W1, LA1"}, "LA1 is no wire"),
        ("box", "", {"parts": "F1, W1"}, "is no fuse and no relay"),
    ],
)
def test_a_step_that_cannot_be_taken_says_why_in_a_sentence(step, subject, given, says):
    with pytest.raises(MakingError, match=says):
        grown(LOAD, step, subject, given)


@pytest.mark.slow
@pytest.mark.parametrize("seed", range(6))
def test_any_steps_one_after_the_other_leave_a_good_sheet_or_a_sentence(seed):
    """A walk without a plan: whoever touches at random never gets what is no sheet."""
    dice = random.Random(seed)
    text = made(dice.choice(list(TYPICALS.values())), {})
    taken, refused = 0, []
    for _ in range(25):
        document = Document(text)
        on = dice.choice(["part", "part", "node", "state", "sheet"])
        subjects = {"part": list(document.parts), "node": sorted(document.nodes()), "state": list(document.states), "sheet": [""]}
        subject = str(dice.choice(subjects[on]))
        steps = steps_on(document, on, subject)
        step = dice.choice(steps)
        names = list(map(str, document.parts))
        given = {
            "what": dice.choice(["fuse", "switch", "plug pin", "splice", "relay contact"]), "sort": dice.choice(["lamp", "valve", "motor"]),
            "to": dice.choice(sorted(document.nodes())), "name": f"Q{dice.randint(1, 99)}", "parts": ", ".join(dice.sample(names, 2)),
            "one": "1", "other": "2", "reach": "cover", "at": "here",
        }  # fmt: skip
        own = {"change": ("name",), "state": ("name",), "new_state": ("name",)}.get(step.name, tuple(given))
        try:
            text = grown(text, step.name, subject, {key: given[key] for key in own}).text
            taken += 1
        except MakingError as error:
            refused.append(str(error))
        sheet = parse_sheet(text)
        solve(sheet, next(iter(sheet.states)))
    assert taken >= 8
    assert not [says for says in refused if "no good sheet" in says]


def test_every_step_has_a_title_and_names_what_it_is_done_on():
    assert {step.on for step in STEPS.values()} == {"part", "node", "state", "sheet"} and all(step.title for step in STEPS.values())
