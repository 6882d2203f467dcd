"""The ways of current through a circuit."""

from __future__ import annotations

from pondrel.core.circuit.paths import load_paths
from pondrel.core.circuit.read.sheet import parse_sheet
from pondrel.demo.load import SHEETS

from ...circuits import RELAY_PUMP


def test_each_load_has_its_path_from_plus_to_minus():
    paths = {p.load: p for p in load_paths(parse_sheet(RELAY_PUMP))}
    assert paths["M1"].nodes == ("b+", "k.30", "k.87", "m.minus", "b-")
    assert paths["M1"].parts == ("F1", "K1", "M1", "G2")
    assert paths["K1.coil"].nodes == ("b+", "k.86", "k.85", "b-")


def test_every_part_and_every_place_of_a_sheet_is_on_some_way(demo_sheets):
    """A sensor, a module and a bus line have a ladder of their own, though no load is fed there; the battery stands beside all of them,
    and so does a logger, which is no part of the vehicle."""
    for sheet in demo_sheets.values():
        paths = load_paths(sheet)
        assert {name for name in sheet.parts if name not in {part for path in paths for part in path.parts}} <= {
            name for name, part in sheet.parts.items() if part.kind.posts or not part.kind.modes
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


def test_a_wire_beside_another_one_of_a_bus_line_has_a_way_too():
    text = (SHEETS / "two_wire_bus.yaml").read_text()
    wire = next(line for line in text.splitlines() if line.startswith("  W2H:"))
    paths = load_paths(parse_sheet(text.replace(wire, f"{wire}\n{wire.replace('W2H', 'W9H')}")))
    assert {"W2H", "W9H"} <= {part for path in paths for part in path.parts}


def test_a_part_is_called_by_its_label_with_the_word_that_it_lacks(demo_sheets):
    parts = demo_sheets["heated_glass"].parts
    assert [parts[name].called for name in ("F14", "W30", "W33", "S2")] == [
        "rear glass fuse", "wire, fuse box to relay", "tailgate ground lead", "rear glass switch",
    ]  # fmt: skip
    assert parts["F14"].spoken == "rear glass fuse (F14)"
    bare = parse_sheet(RELAY_PUMP).parts["F1"]
    assert (bare.called, bare.spoken) == ("fuse F1", "fuse F1")
