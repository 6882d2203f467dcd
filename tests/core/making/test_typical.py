"""The typical circuits: every one is a sound circuit as it comes, and takes what is answered."""

from __future__ import annotations

import pytest

from pondrel.core.base.errors import MakingError
from pondrel.core.circuit.fault import parse_fault
from pondrel.core.circuit.read.flaws import review
from pondrel.core.circuit.read.sheet import parse_sheet
from pondrel.core.circuit.solve import solve
from pondrel.core.making.asked import Answers
from pondrel.core.making.checks import check_made
from pondrel.core.making.dry_run import dry_run
from pondrel.core.making.typical import CIRCUIT, TYPICALS, made, typical_called

CHOICES = [
    (name, {f"{CIRCUIT}.{asked.name}": way})
    for name, typical in TYPICALS.items()
    for asked in typical.asks({})[0].asked
    if asked.name != "title"
    for way in ((asked.offer[0], asked.offer[-1]) if asked.offer else ())
]


def _sheet(name: str, **given: str):
    return parse_sheet(made(TYPICALS[name], given))


def test_there_are_at_least_fourteen_and_one_can_be_found_by_name():
    assert len(TYPICALS) >= 14 and typical_called("bus").title == "Two-wire bus"
    with pytest.raises(MakingError, match="near it: starter"):
        typical_called("startr")


@pytest.mark.parametrize(("name", "given"), CHOICES, ids=lambda value: value if isinstance(value, str) else "+".join(value.values()))
def test_every_choice_makes_a_sheet_in_which_nothing_is_amiss_and_every_load_is_fed(name, given):
    text = made(TYPICALS[name], given)
    assert review(text).flaws == () and review(text).remarks == ()
    sheet = parse_sheet(text)
    assert [finding.says for finding in check_made(sheet)] == []
    assert all(line.works for line in dry_run(sheet)), [line.says for line in dry_run(sheet)]


def test_what_is_answered_stands_on_the_sheet():
    sheet = _sheet(
        "switched_load",
        **{
            "fuse.name": "F14 step light fuse", "fuse.rating": "7,5 A", "feed.length": "2 m", "feed.section": "AWG 16",
            "feed.colour": "red/black", "load.size": "10 W", "load.name": "step lamp", "load.reach": "behind trim, 12 min",
            "return.plug": "C3 pin 7", "switched.plug": "c3.8",
        },
    )  # fmt: skip
    fuse, feed = sheet.parts["F14"], next(part for part in sheet.parts.values() if part.colour)
    assert (fuse.label, fuse.params["rating"]) == ("step light fuse", 7.5)
    assert (feed.params["length_m"], feed.params["awg"], feed.colour) == (2.0, "16", "red/black")
    assert sheet.parts["LA1"].params["watts"] == 10 and sheet.parts["LA1"].label == "step lamp"
    lamp = sheet.places["la1.1"]
    assert (lamp.connector, lamp.cavity, sheet.access[lamp.behind].minutes) == ("LA1", "1", 12)
    assert set(sheet.parts["C3"].pins) == {"7a", "7b", "8a", "8b"}  # one plug, two wires


def test_what_nobody_knows_is_taken_with_a_wide_tolerance_and_the_sheet_says_so():
    text = made(TYPICALS["switched_load"], {})
    sheet = parse_sheet(text)
    wires = [part for part in sheet.parts.values() if part.kind.name == "wire"]
    assert all("not known" in wire.note and wire.params["tolerance"] >= 0.5 for wire in wires)
    assert "What was not known is taken as usual" in sheet.note
    told = _sheet("switched_load", **{"feed.length": "2 m", "feed.section": "1.5"})
    assert sum("not known" in part.note for part in told.parts.values()) == len(wires) - 1


def test_the_wires_behind_a_fuse_are_as_thick_as_its_rating_asks_for():
    sheet = _sheet("relay", **{"fuse.rating": "40 A"})
    assert {part.params["csa_mm2"] for part in sheet.parts.values() if part.kind.name == "wire"} == {4.0}


@pytest.mark.parametrize("name", TYPICALS)
def test_a_24_volt_vehicle_gets_the_same_circuit_on_its_own_supply(name):
    sheet = _sheet(name, **{"circuit.volts": "24 V"})
    assert sheet.supply_volts == pytest.approx(25.2)
    assert all(line.works for line in dry_run(sheet))
    assert [f.says for f in check_made(sheet) if "pull" in f.says] == []


def test_a_starter_turns_only_with_its_interlocks_closed_and_its_relay_pulled():
    sheet = _sheet("starter", **{"circuit.interlocks": "2"})
    turning, resting = solve(sheet, "start"), solve(sheet, "key on")
    assert turning.currents["BAT"] > 100 > 1 > resting.currents["BAT"]
    assert "turns the engine" in turning.sights["M1"][0].says


def test_without_its_shared_ground_every_lamp_stands_under_volts():
    sheet = _sheet("shared_ground")
    open_ground = solve(sheet, "brake lamp on", (parse_fault(sheet, "G1.open"),))
    sound = solve(sheet, "brake lamp on")
    assert sound.places["lamps.ground"] < 0.5 < 6.0 < open_ground.places["lamps.ground"]


@pytest.mark.parametrize(
    ("name", "given", "says"),
    [
        ("switched_load", {"fuse.rating": "lots"}, "fuse, rating: 'lots' is not understood"),
        ("switched_load", {"fuse.lenght": "2"}, "'fuse.lenght' is not asked"),
        ("switched_load", {"load.sort": "dynamo"}, "is none of them"),
        ("switched_load", {"load.sort": "motor", "load.size": "2 ohm"}, "ohms of a motor say little"),
        ("switched_load", {"fuse.name": "F1 one", "switch.name": "F1 two"}, "Two parts are called 'F1'"),
        ("switched_load", {"feed.plug": "the big one"}, "names no pin of a plug"),
        ("switched_load", {"feed.plug": "C3 pin 7", "switched.plug": "C3 pin 7"}, "Two wires are on C3 pin 7"),
        ("switched_load", {"load.pins": "1"}, "does not name the two pins"),
        ("switched_load", {"circuit.title": "x" * 500}, "500 characters are too many"),
        ("switched_load", {"fuse.name": "bell\x07"}, "no screen can show"),
        ("pedal", {"pedal.pins": "1, 2, 3"}, "has six pins"),
        ("valves", {"module.pin_output1": "5", "module.pin_output2": "5"}, "named twice"),
    ],
)
def test_an_answer_that_is_none_gets_one_sentence(name, given, says):
    with pytest.raises(MakingError, match=says):
        made(TYPICALS[name], given)


def test_all_wrong_answers_are_told_at_once():
    things = TYPICALS["switched_load"].asks({})
    flaws = Answers(things, {"fuse.rating": "lots", "feed.length": "far", "feed.section": "1.5"}).flaws()
    assert set(flaws) == {"fuse.rating", "feed.length"}
