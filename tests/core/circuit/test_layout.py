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


def test_every_part_and_every_place_of_a_sheet_is_on_some_way(demo_sheets):
    """A sensor, a module and a bus line have a ladder of their own, though no load is fed there; the battery stands beside all of them."""
    for sheet in demo_sheets.values():
        paths = load_paths(sheet)
        assert {name for name in sheet.parts if name not in {part for path in paths for part in path.parts}} <= {
            name for name, part in sheet.parts.items() if part.kind.posts
        }
        assert set(sheet.places) <= {node for path in paths for node in path.nodes}
        assert len({path.load for path in paths}) == len(paths)
        assert all(path.subject in path.parts for path in paths)


def test_a_way_goes_from_node_to_node(demo_sheets):
    for sheet in demo_sheets.values():
        for path in load_paths(sheet):
            assert len(path.nodes) == len(path.segments) + 1
            for segment, one, other in zip(path.segments, path.nodes, path.nodes[1:], strict=False):
                assert {segment.top, segment.bottom} == {one, other}


def test_a_bus_line_is_followed_from_end_to_end(demo_sheets):
    lines = [path for path in load_paths(demo_sheets["two_wire_bus"]) if "X5" in path.parts and "N11" not in path.parts]
    ends = {frozenset((path.nodes[0], path.nodes[-1])) for path in lines}
    assert ends == {frozenset(("rear.high", "dash.high")), frozenset(("rear.low", "dash.low"))}


def test_a_part_is_called_by_its_label_with_the_word_that_it_lacks(demo_sheets):
    parts = demo_sheets["heated_glass"].parts
    assert [parts[name].called for name in ("F14", "W30", "W33", "S2")] == [
        "rear glass fuse", "wire, fuse box to relay", "tailgate ground lead", "rear glass switch",
    ]  # fmt: skip
    assert parts["F14"].spoken == "rear glass fuse (F14)"
    bare = parse_sheet(RELAY_PUMP).parts["F1"]
    assert (bare.called, bare.spoken) == ("fuse F1", "fuse F1")


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
