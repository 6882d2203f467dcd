"""The sheet format: what is read, and what each mistake is answered with."""

from __future__ import annotations

import json
import pickle

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from pondrel.core.base.errors import ReadingError, SheetError
from pondrel.core.circuit.kinds import KINDS
from pondrel.core.circuit.read.sheet import parse_sheet

from ...circuits import RELAY_PUMP, STEP_LIGHT, sheet_of
from ...gallery import GALLERY


def flaws(text: str) -> list[tuple[str, str]]:
    with pytest.raises(SheetError) as caught:
        parse_sheet(text)
    return list(caught.value.flaws)


def test_the_format_s_own_example_is_read():
    sheet = parse_sheet(STEP_LIGHT)
    assert (sheet.plus, sheet.minus, sheet.supply_volts) == ("batt+", "batt-", 12.6)
    assert sheet.places["lamp.feed"].behind == "rear_panel"
    assert sheet.parts["W1"].params == {"length_m": 4.5, "csa_mm2": 0.75}
    assert sheet.states["lit"].positions == {"S1": "closed"}


def test_battery_minus_can_be_probed_though_no_place_names_it():
    assert "batt-" in parse_sheet(STEP_LIGHT).places


def test_relay_pins_may_be_written_as_numbers():
    assert parse_sheet(RELAY_PUMP).parts["K1"].pins == {"30": "k.30", "87": "k.87", "85": "k.85", "86": "k.86"}


def test_a_battery_without_volts_takes_the_supply_s():
    sheet = parse_sheet(STEP_LIGHT.replace("volts: 12.6, ohms: 0.008", "ohms: 0.008").replace("nominal: 12.6", "nominal: 25.2"))
    assert sheet.parts["BAT"].params["volts"] == 25.2


@pytest.mark.parametrize(
    ("old", "new", "path", "sentence"),
    [
        ("rating: 10", "rating: x", "parts.F4.rating", "must be a positive number of amperes, got 'x'"),
        ("rating: 10", "rating: -1", "parts.F4.rating", "must be a positive number of amperes, got -1"),
        ("rating: 10", "rating: true", "parts.F4.rating", "must be a positive number of amperes, got True"),
        ("rating: 10", "rating: .inf", "parts.F4.rating", "must be a positive number of amperes, got inf"),
        (", rating: 10", "", "parts.F4.rating", "is missing: must be a positive number of amperes"),
        ("kind: fuse", "kind: fuze", "parts.F4.kind", "did you mean fuse?"),
        ("kind: fuse, ", "", "parts.F4.kind", "got None"),
        ("rating: 10", "rating: 10, shade: red", "parts.F4.shade", "unknown key; allowed: kind, pins"),
        ("b: f4.out}, rating", "c: f4.out}, rating", "parts.F4.pins.c", "unknown key; allowed: a, b"),
        ("a: batt+, b: f4.out", "a: batt+", "parts.F4.pins.b", "is missing: every pin needs a node"),
        ("a: batt+, b: f4.out", "a: batt+, b: batt+", "parts.F4.pins", "bridged by its own wiring"),
        ("length_m: 4.5, csa_mm2: 0.75", "length_m: 4.5", "parts.W1", "needs ohms or length_m with csa_mm2 or length_m with awg"),
        ("csa_mm2: 0.75", "csa_mm2: 0.75, awg: 18", "parts.W1", "give csa_mm2 or awg, not both"),
        ("csa_mm2: 0.75", "awg: 99", "parts.W1.awg", "must be one of 40"),
        ("behind: rear_panel}\n  g1", "behind: side_panel}\n  g1", "places.lamp.feed.behind", "no access of that name, got 'side_panel'"),
        ("  g1: {at", "  g7: {at", "places.g7", "no part has a pin on this node; near it: g1"),
        ("minutes: 6", "minutes: six", "access.rear_panel.minutes", "zero or a positive number of minutes, got 'six'"),
        ("idle: {S1: open}", "idle: {S1: shut}", "states.idle.S1", "must be open or closed, got 'shut'"),
        ("idle: {S1: open}", "idle: {S9: open}", "states.idle.S9", "no part of that name; near it: S1"),
        ("idle: {S1: open}", "idle: {LA1: open}", "states.idle.LA1", "a lamp has no positions"),
        ("pondrel-sheet/1", "pondrel-sheet/9", "format", "must be pondrel-sheet/1, got 'pondrel-sheet/9'"),
        ("title: Step light, rear door", "title:", "title", "must say in a few words"),
        ("part: LA1", "part: LA9", "observe.lamp.part", "no part of that name, got 'LA9'"),
        ("unit: V", "unit: mV", "supply.unit", "must be V, got 'mV'"),
        ("nominal: 12.6", "nominal: 0", "supply.nominal", "must be a positive number of volts, got 0"),
        ("at: battery post,", "at: battery post, left,", "places.batt+.left", "unknown key"),
    ],
)
def test_every_mistake_names_its_place_and_what_would_be_right(old, new, path, sentence):
    assert old in STEP_LIGHT
    found = flaws(STEP_LIGHT.replace(old, new, 1))
    assert any(where == path and sentence in text for where, text in found), found


def test_a_text_with_an_unquoted_comma_is_explained():
    found = flaws(STEP_LIGHT.replace("four trim screws", "four screws, two clips"))
    assert found == [
        (
            "access.rear_panel.two clips",
            "unknown key (a text that holds a comma needs quotes); allowed: minutes, note, caution, acknowledge",
        )
    ]


def test_all_flaws_come_at_once():
    text = STEP_LIGHT.replace("rating: 10", "rating: x").replace("watts: 10", "watts: 0")
    assert [path for path, _ in flaws(text)] == ["parts.F4.rating", "parts.LA1.watts"]


def test_the_command_line_s_line_is_file_path_sentence():
    with pytest.raises(SheetError) as caught:
        parse_sheet(STEP_LIGHT.replace("rating: 10", "rating: x"))
    assert caught.value.lines("a.yaml") == ["a.yaml: parts.F4.rating: must be a positive number of amperes, got 'x'"]


@pytest.mark.parametrize(
    "text",
    [
        "",
        "just words",
        "[1, 2]",
        "a: [",
        "a: 1\na: 2",
        "\t- x",
        "parts: 5",
        "format: pondrel-sheet/1\nparts: {A: 3}",
        "&a [*a]",
        "? {a: b}\n: c",
    ],
)
def test_broken_files_are_sheet_errors(text):
    assert flaws(text)


def test_broken_yaml_names_its_line():
    assert flaws("format: pondrel-sheet/1\ntitle: [x\nparts: {}\n")[0][0].startswith("line ")


def test_a_sheet_without_battery_says_so():
    lines = [line for line in STEP_LIGHT.splitlines() if "BAT:" not in line]
    assert any("must hold a battery" in text for _, text in flaws("\n".join(lines).replace("batt+: {at: battery post, minutes: 1}", "")))


@settings(deadline=None)
@given(st.recursive(st.none() | st.booleans() | st.floats() | st.text(max_size=5), lambda x: st.lists(x, max_size=3), max_leaves=6))
def test_any_value_in_a_part_s_place_is_read_or_refused(value):
    text = STEP_LIGHT.replace("rating: 10", f"rating: {json.dumps(value)}")
    try:
        sheet = parse_sheet(text)
    except SheetError:
        assert flaws(text)
    else:
        assert float(sheet.parts["F4"].params["rating"]) > 0


def test_a_sheet_error_survives_pickling():
    error = SheetError((("parts.F4", "is wrong"),))
    assert pickle.loads(pickle.dumps(error)).flaws == error.flaws


def test_unknown_state_and_place_name_near_ones(step_light):
    with pytest.raises(ReadingError, match=r"'lid' is no state of this sheet: idle, lit are\."):
        step_light.state("lid")
    with pytest.raises(ReadingError, match=r"'lampfeed' is no place on this sheet; near it: lamp\.feed"):
        step_light.probe("lampfeed")


def test_every_kind_stands_in_the_gallery_and_every_mode_changes_an_element_it_has():
    sheets = [sheet_of(parts, states=states) for parts, states in GALLERY.values()] + [parse_sheet(STEP_LIGHT)]
    parts = [part for sheet in sheets for part in sheet.parts.values()]
    assert {part.kind.name for part in parts} == set(KINDS)
    for part in parts:
        names = {element.name for element in part.elements()}
        assert "" in names
        for mode in part.modes:
            assert {name for name, _ in mode.effects} & names, (part.name, mode.name)
            assert mode.weight > 0
