"""The path diagram's geometry and the current paths."""

from __future__ import annotations

import os
import subprocess
import sys

from pondrel.core.circuit.layout import draw, load_paths
from pondrel.core.circuit.read.sheet import parse_sheet

from ...circuits import RELAY_PUMP, sheet_of


def test_a_series_circuit_is_one_column_from_plus_to_minus(step_light):
    drawing = draw(step_light)
    columns = {s.segment.part: s.column for s in drawing.segments}
    assert len({columns[p] for p in ("F4", "W1", "C2.1", "S1", "LA1", "G1")}) == 1
    order = [s.segment.part for s in sorted(drawing.segments, key=lambda s: s.top) if s.segment.part != "BAT"]
    assert order == ["F4", "W1", "C2.1", "S1", "LA1", "G1"]


def test_every_segment_points_down_and_no_two_share_a_stretch(demo_sheets):
    for sheet in demo_sheets.values():
        drawing = draw(sheet)
        taken: dict[int, list[tuple[float, float]]] = {}
        for s in drawing.segments:
            assert s.top < s.bottom, s
            for top, bottom in taken.setdefault(s.column, []):
                assert s.bottom <= top or s.top >= bottom, (s, top, bottom)
            taken[s.column].append((s.top, s.bottom))


def test_bars_of_different_nodes_never_touch(demo_sheets):
    for sheet in demo_sheets.values():
        bars = draw(sheet).bars
        for i, one in enumerate(bars):
            for other in bars[i + 1 :]:
                if one.row == other.row:
                    assert one.right < other.left or other.right < one.left, (one, other)


def test_every_pin_of_every_part_is_drawn(demo_sheets):
    for sheet in demo_sheets.values():
        drawn = {bar.node for bar in draw(sheet).bars}
        assert set(sheet.nodes()) <= drawn


def test_each_load_has_its_path_from_plus_to_minus():
    paths = {p.load: p for p in load_paths(parse_sheet(RELAY_PUMP))}
    assert paths["M1"].nodes == ("b+", "k.30", "k.87", "m.minus", "b-")
    assert paths["M1"].parts == ("F1", "K1", "M1", "G2")
    assert paths["K1.coil"].nodes == ("b+", "k.86", "k.85", "b-")


def test_a_part_that_hangs_in_the_air_is_still_drawn():
    sheet = sheet_of("""
        BAT: {kind: battery, pins: {p: b+, n: b-}}
        R1: {kind: resistor, pins: {a: b+, b: b-}, ohms: 5}
        R2: {kind: resistor, pins: {a: x, b: y}, ohms: 5}
    """)
    assert {s.segment.part for s in draw(sheet).segments} == {"BAT", "R1", "R2"}


def test_the_same_sheet_is_drawn_the_same_in_another_process_with_another_hash_of_every_name(demo_sheets):
    program = """
import sys
from pondrel.core.circuit.layout import draw
from pondrel.core.circuit.read.sheet import parse_sheet
from pondrel.demo.load import SHEETS
for file in sorted(SHEETS.glob("*.yaml")):
    print(file.stem, [(s.segment.part, s.column, s.top, s.middle, s.bottom) for s in draw(parse_sheet(file.read_text())).segments])
"""
    drawn = [
        subprocess.run(
            [sys.executable, "-c", program], env={**os.environ, "PYTHONHASHSEED": seed}, capture_output=True, text=True, check=True
        )
        for seed in ("1", "2")
    ]
    assert drawn[0].stdout == drawn[1].stdout and drawn[0].stdout.count("\n") == len(demo_sheets)
