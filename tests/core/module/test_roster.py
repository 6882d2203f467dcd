"""Rosters: those that ship, what is wrong named by its place, values to bytes and back, and a hostile text."""

from __future__ import annotations

import contextlib
import random

import pytest

from pondrel.core.base.errors import SheetError
from pondrel.core.module.roster import Datum, RosterError, Speaks, parse_roster, parse_roster_if_one
from pondrel.demo.load import ROSTERS
from tests.fuzz.mutate import some_data_changed, some_text_changed

SMALL = """
format: pondrel-modules/1
title: Two modules
modules:
  gateway: {asks: 0x710, answers: 0x718, gateway: true, data: {key: {id: 0xD001, words: {0: "off", 1: in Run}}}}
  air:
    behind: gateway
    asks: 0x712
    answers: 0x71A
    circuit: {sheet: Valves, place: f8.out}
    codes: {C1A10-13: {says: open, takes_away: [left]}, U0100-87: {says: silent, silent: gateway}}
    data: {height: {id: 0xD200, size: 2, signed: true, scale: 0.1, unit: mm}}
    outputs: {left: {id: 0xD110, commands: {open: {bytes: "01", by: -8, within_s: 2}, shut: "00"}, watch: height, hazards: [air_springs]}}
    routines: {level: {id: 0x310, results: {1: {says: done, good: true}, 2: it failed}}}
functions:
  kneel:
    name: Kneeling
    conditions: {key: {name: Key, wants: in Run, datum: gateway.key, is: in Run}, air: {name: Air module, answers: air}}
"""


def rosters() -> dict[str, str]:
    return {file.stem: file.read_text() for file in sorted(ROSTERS.glob("*.yaml"))}


@pytest.mark.parametrize("name", rosters())
def test_what_ships_is_right_and_its_links_lead_somewhere(name, demo_sheets):
    roster = parse_roster(rosters()[name])
    titles = {sheet.title: sheet for sheet in demo_sheets.values()}
    links = [module.link for module in roster.modules.values()]
    for module in roster.modules.values():
        links += [one.link for one in (*module.codes.values(), *module.data.values(), *module.outputs.values())]
        for output in module.outputs.values():
            positions = {command.position for command in output.commands.values() if command.position}
            if output.link is not None:
                assert positions <= set(titles[output.link.sheet].parts[output.link.part].kind.positions)
    for link in filter(None, links):
        sheet = titles[link.sheet]
        assert sheet.part(link.part) if link.part else sheet.probe(link.place)
    for function in roster.functions.values():
        for condition in function.conditions.values():
            assert not condition.hangs.sheet or condition.hangs.sheet in titles


def test_a_small_one_says_what_it_says():
    roster = parse_roster(SMALL)
    air = roster.module("AIR")
    assert air.speaks is Speaks.UDS and air.outputs["left"].session == 3 and air.outputs["left"].command("open").data == b"\x01"
    assert roster.gateway is roster.modules["gateway"] and air.code("C1A10") is None and air.code("C1A10-13").takes_away == ("left",)
    assert air.routines["level"].results == {1: ("done", True), 2: ("it failed", False)}
    assert parse_roster_if_one("format: pondrel-sheet/1") is None and parse_roster_if_one(SMALL) is not None


@pytest.mark.parametrize(
    ("old", "new", "path", "says"),
    [
        ("asks: 0x712", "asks: 0x718", "modules.air", "already what gateway uses"),
        ("asks: 0x712", "asks: seven", "modules.air.asks", "whole number"),
        ("answers: 0x71A", "answers: 0x712", "modules.air.answers", "must differ"),
        ("behind: gateway", "behind: gatewy", "modules.air.behind", "near it: gateway"),
        ("takes_away: [left]", "takes_away: [rigt]", "modules.air.codes.C1A10-13.takes_away", "no output"),
        ("watch: height", "watch: hight", "modules.air.outputs.left.watch", "no datum"),
        ("hazards: [air_springs]", "hazards: [air]", "modules.air.outputs.left.hazards", "no hazard"),
        ('bytes: "01"', "bytes: zz", "modules.air.outputs.left.commands.open.bytes", "hexadecimal"),
        ("C1A10-13", "X1A10", "modules.air.codes.X1A10", "no fault code"),
        ("scale: 0.1", "scale: 0", "modules.air.data.height.scale", "must not be 0"),
        ("datum: gateway.key", "datum: key", "functions.kneel.conditions.key.datum", "MODULE.DATUM"),
        ("datum: gateway.key", "datum: gateway.kea", "functions.kneel.conditions.key.datum", "no datum"),
        ("answers: air}", "answers: sir}", "functions.kneel.conditions.air.answers", "no module"),
        ("title: Two modules", "titel: Two modules", "titel", "unknown key"),
        ("place: f8.out", "place: f8.out, part: F8", "modules.air.circuit", "one of both"),
        ("silent: gateway", "silent: gate", "modules.air.codes.U0100-87.silent", "no module"),
        ("pondrel-modules/1", "pondrel-modules/2", "format", "must be pondrel-modules/1"),
    ],
)
def test_a_flaw_is_named_by_its_place_with_what_would_be_right(old, new, path, says):
    with pytest.raises(SheetError) as error:
        parse_roster(SMALL.replace(old, new, 1))
    assert any(where == path and says in text for where, text in error.value.flaws), error.value.flaws


def test_a_k_line_module_has_an_address_instead():
    roster = parse_roster("format: pondrel-modules/1\ntitle: Old van\nmodules: {winch: {speaks: kwp, address: 0x52, start: slow}}")
    assert roster.modules["winch"].asks == 0x52 and roster.modules["winch"].slow_start
    with pytest.raises(SheetError, match=r"winch\.address"):
        parse_roster("format: pondrel-modules/1\ntitle: Old van\nmodules: {winch: {speaks: kwp, asks: 0x52, answers: 0x53}}")


def test_what_a_module_does_not_have_is_named_with_what_it_has():
    air = parse_roster(SMALL).modules["air"]
    with pytest.raises(RosterError, match="no output that is called 'rigth'"):
        air.output("rigth")
    with pytest.raises(RosterError, match="it knows open, shut"):
        air.output("left").command("half")
    with pytest.raises(RosterError, match="near it: height"):
        air.datum("hight")
    with pytest.raises(RosterError, match="no module 'aer'"):
        parse_roster(SMALL).module("aer")


@pytest.mark.parametrize(
    ("datum", "value", "told", "says"),
    [
        (Datum("v", "V", 1, size=2, scale=0.01, unit="V"), 12.34, "04d2", "12.34 V"),
        (Datum("h", "H", 1, size=2, signed=True, scale=0.1, unit="mm"), -30.7, "fecd", "-30.7 mm"),
        (Datum("t", "T", 1, offset=-40.0, unit="°C"), -12.0, "1c", "-12 °C"),
        (Datum("w", "W", 1, words={1: "open"}), 1.0, "01", "open"),
        (Datum("m", "M", 1, mask=0x30), 2.0, "20", "2"),
        (Datum("o", "O", 1, size=1), 1e9, "ff", "255"),  # what does not fit is the nearest that does
        (Datum("n", "N", 1, size=1), -3.0, "00", "0"),
    ],
)
def test_values_to_bytes_and_back(datum, value, told, says):
    assert datum.bytes_of(value).hex() == told
    assert datum.says_in(bytes.fromhex(told)) == says
    assert datum.says_in(b"") == "–" and datum.value_in(b"") is None


def test_a_word_that_has_no_name_is_said_to_have_none():
    assert Datum("w", "W", 1, words={1: "open"}).says_in(b"\x07") == "7, which has no name"


def test_any_text_is_a_roster_or_refused_with_a_sentence():
    dice = random.Random(21)
    texts = list(rosters().values())
    for turn in range(400):
        change = some_text_changed if turn % 2 else some_data_changed
        text = change(random.Random(turn), dice.choice(texts))
        with contextlib.suppress(SheetError):  # whatever is wrong with it, it is told as that
            parse_roster(text)
