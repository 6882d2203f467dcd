"""A circuit's diagram: what stands where, and that nothing lies on anything else."""

from __future__ import annotations

import os
import subprocess
import sys

import pytest

from pondrel.core.circuit.read.sheet import parse_sheet
from pondrel.core.drawing import Strip, draw

from ...circuits import RELAY_PUMP, sheet_of


def _whole(sheet) -> Strip:
    (strip,) = draw(sheet).strips
    return strip


def _parallel(branches: int):
    lines = [f"R{n}: {{kind: resistor, pins: {{a: f, b: b-}}, ohms: 5}}" for n in range(branches)]
    return sheet_of("\n".join(["BAT: {kind: battery, pins: {p: b+, n: b-}}", "F1: {kind: fuse, pins: {a: b+, b: f}, rating: 10}", *lines]))


def test_a_series_circuit_is_one_column_from_plus_to_minus(step_light):
    drawn = [d for d in _whole(step_light).drawn if d.stretch.part != "BAT"]
    assert len({d.column for d in drawn}) == 1
    assert [d.stretch.part for d in sorted(drawn, key=lambda d: d.top)] == ["F4", "W1", "C2.1", "S1", "LA1", "G1"]


def _apart(strip: Strip) -> None:
    """No two lines lie on each other, none lies on a bar that it does not end at, and bars and boxes stand clear of each other."""
    for one in strip.drawn:
        assert one.top < one.bottom, one
        for other in strip.drawn:
            if one is not other and one.column == other.column:
                assert one.bottom <= other.top or other.bottom <= one.top, (one, other)
    flat = [*((bar.node, bar) for bar in strip.bars), *((box.part, box) for box in strip.boxes)]
    for n, (_, one) in enumerate(flat):
        for _, other in flat[n + 1 :]:
            if one.row == other.row:
                assert one.right < other.left or other.right < one.left, (one, other)


@pytest.mark.parametrize("most", [0, 4, 1])
def test_nothing_lies_on_anything_else_in_one_strip_or_in_many(demo_sheets, most):
    for sheet in demo_sheets.values():
        for strip in draw(sheet, most).strips:
            _apart(strip)


@pytest.mark.parametrize("most", [0, 3])
def test_every_node_and_every_part_is_drawn(demo_sheets, most):
    for sheet in demo_sheets.values():
        strips = draw(sheet, most).strips
        assert set(sheet.nodes()) == {bar.node for strip in strips for bar in strip.bars}
        of_the_vehicle = {name for name, part in sheet.parts.items() if part.kind.modes}  # a logger that is plugged on is not
        assert of_the_vehicle == {d.stretch.part for strip in strips for d in strip.drawn}


def test_a_line_ends_at_the_bars_and_boxes_that_it_joins(demo_sheets):
    for sheet in demo_sheets.values():
        for strip in draw(sheet, 4).strips:
            at = {**{bar.node: bar for bar in strip.bars}, **{f"box:{box.part}": box for box in strip.boxes}}
            for d in strip.drawn:
                for vertex, row in ((d.stretch.top, d.top), (d.stretch.bottom, d.bottom)):
                    assert at[vertex].row == row and at[vertex].left <= d.column <= at[vertex].right


def test_a_wide_circuit_is_folded_into_strips_that_say_where_they_go_on():
    assert len(draw(_parallel(5), 5).strips) == 1  # the battery's own narrow column does not count
    strips = draw(_parallel(9), 4).strips
    assert len(strips) == 3 and all(strip.columns <= 4 for strip in strips[1:]) and strips[0].columns <= 5
    feeds = [next(bar for bar in strip.bars if bar.node == "f") for strip in strips]
    assert [(bar.before, bar.after) for bar in feeds] == [(False, True), (True, True), (True, False)]


def test_it_is_cut_where_the_fewest_lines_go_across():
    """Two loads that share a feed of their own stay together."""
    lines = ["BAT: {kind: battery, pins: {p: b+, n: b-}}"]
    for pair in range(3):
        lines.append(f"F{pair}: {{kind: fuse, pins: {{a: b+, b: f{pair}}}, rating: 10}}")
        lines += [f"R{pair}{n}: {{kind: resistor, pins: {{a: f{pair}, b: b-}}, ohms: 5}}" for n in range(2)]
    strips = draw(sheet_of("\n".join(lines)), 3).strips
    assert all(bar.node in ("b+", "b-") or not (bar.before or bar.after) for strip in strips for bar in strip.bars)


def test_a_part_of_many_pins_is_a_box_and_a_relay_stands_in_both_of_its_ways(demo_sheets):
    sensors = _whole(demo_sheets["engine_sensors"])
    pedal = next(box for box in sensors.boxes if box.part == "PED")
    pins = {d.stretch.pin for d in sensors.drawn if d.stretch.part == "PED"}
    assert pins == set(demo_sheets["engine_sensors"].parts["PED"].pins) and pedal.left < pedal.right
    relay = _whole(parse_sheet(RELAY_PUMP))
    assert not relay.boxes and len({d.column for d in relay.drawn if d.stretch.part == "K1"}) == 2


def test_a_part_that_hangs_in_the_air_is_still_drawn():
    sheet = sheet_of("""
        BAT: {kind: battery, pins: {p: b+, n: b-}}
        R1: {kind: resistor, pins: {a: b+, b: b-}, ohms: 5}
        R2: {kind: resistor, pins: {a: x, b: y}, ohms: 5}
        B2: {kind: battery, pins: {p: z, n: b-}}
    """)
    assert {d.stretch.part for d in _whole(sheet).drawn} == {"BAT", "R1", "R2", "B2"}
    _apart(_whole(sheet))


def test_the_same_sheet_is_drawn_the_same_in_another_process_with_another_hash_of_every_name(demo_sheets):
    program = """
from pondrel.core.circuit.read.sheet import parse_sheet
from pondrel.core.drawing import draw
from pondrel.demo.load import SHEETS
for file in sorted(SHEETS.glob("*.yaml")):
    strips = draw(parse_sheet(file.read_text()), 4).strips
    print(file.stem, [[(d.stretch.part, d.column, d.top, d.bottom) for d in strip.drawn] for strip in strips])
"""
    drawn = [
        subprocess.run(
            [sys.executable, "-c", program], env={**os.environ, "PYTHONHASHSEED": seed}, capture_output=True, text=True, check=True
        )
        for seed in ("1", "2")
    ]
    assert drawn[0].stdout == drawn[1].stdout and drawn[0].stdout.count("\n") == len(demo_sheets)
