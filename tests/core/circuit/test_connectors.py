"""Connectors: how a pin is found, and which way round its face is seen."""

from __future__ import annotations

import pytest

from pondrel.core.base.errors import SheetError
from pondrel.core.circuit.connector import Connector, pin_at
from pondrel.core.circuit.read.sheet import parse_sheet

from ...circuits import STEP_LIGHT

DRAWN = STEP_LIGHT.replace(
    "  lamp.feed: {at: lamp plug pin 1, minutes: 1, behind: rear_panel}",
    "  lamp.feed: {at: lamp plug pin 1, connector: LA1, cavity: 2, face: wire}",
).replace("states:\n", "connectors: {LA1: {label: lamp plug, cavities: [[1, 2, 3], [4, null, 5, 6]], face: mating}}\nstates:\n")


def test_the_other_face_is_seen_mirrored():
    connector = Connector("X1", rows=(("1", "2", "3"), ("4", "", "5", "6")), face="mating")
    assert connector.seen_on("mating") == connector.rows
    assert connector.seen_on("wire") == (("", "3", "2", "1"), ("6", "5", "", "4"))
    # Mirrored twice, every cavity is where it was.
    again = Connector("X1", rows=connector.seen_on("wire"), face="wire").seen_on("mating")
    assert [[c for c in row if c] for row in again] == [["1", "2", "3"], ["4", "5", "6"]]


def test_a_pin_says_connector_cavity_face_and_the_colour_of_its_wire():
    text = DRAWN.replace("b: c2.1}, length_m", "b: lamp.feed}, colour: green/white, length_m")
    text = text.replace("{a: c2.1m, b: lamp.feed}", "{a: c2.1m, b: c2.1}")
    pin = pin_at(parse_sheet(text), "lamp.feed")
    assert pin is not None and pin.words == "LA1 cavity 2, wire side, green/white"


def test_an_unplugged_connector_shows_its_mating_side():
    sheet = parse_sheet(DRAWN)
    assert [pin.face for pin in (pin_at(sheet, "lamp.feed"), pin_at(sheet, "lamp.feed", ("LA1",))) if pin] == ["wire", "mating"]


def test_of_a_place_that_says_no_more_than_its_name_there_is_no_pin():
    sheet = parse_sheet(DRAWN)
    assert pin_at(sheet, "f4.out") is None and pin_at(sheet, "c2.1") is None


@pytest.mark.parametrize(
    ("old", "new", "says"),
    [
        ("cavity: 2", "cavity: 9", "connector LA1 has no cavity '9'; allowed: 1, 2, 3, 4, 5, 6"),
        ("face: wire", "face: back", "must be wire or mating, got 'back'"),
        ("connector: LA1, cavity: 2", "cavity: 2", "cavity: says nothing without its connector"),
        ("[4, null, 5, 6]", "[4, null, 5, 1]", "names the cavity '1' twice"),
        ("[[1, 2, 3], [4, null, 5, 6]]", "[1, 2, 3]", r"must be a list of rows such as \[\[1, 2, 3\], \[4, 5, 6\]\]"),
        ("label: lamp plug", "lable: lamp plug", "unknown key; allowed: label, cavities, face, note"),
    ],
)
def test_what_a_connector_cannot_be_is_named(old, new, says):
    assert old in DRAWN
    with pytest.raises(SheetError, match=says):
        parse_sheet(DRAWN.replace(old, new))


def test_a_connector_that_nobody_drew_is_a_name_all_the_same():
    sheet = parse_sheet(DRAWN.replace("connectors: {LA1: {label: lamp plug, cavities: [[1, 2, 3], [4, null, 5, 6]], face: mating}}\n", ""))
    pin = pin_at(sheet, "lamp.feed")
    assert pin is not None and pin.words.startswith("LA1 cavity 2")
