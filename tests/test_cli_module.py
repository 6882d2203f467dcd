"""`pondrel module`, run as it is written, against the simulated vehicle."""

from __future__ import annotations

import json
import time

import pytest
from click.testing import CliRunner

from pondrel.cli import main
from pondrel.demo.load import ROSTERS
from tests.served import roster_named, served

AIR, GEARBOX, ROOF = (str(ROSTERS / f"{name}.yaml") for name in ("hop_16", "carrall", "reader_75"))


def run(*words: str, exit_code: int = 0):
    found = CliRunner().invoke(main, ["module", *words])
    assert found.exit_code == exit_code, found.output
    return found.output


def told(*words: str):
    return json.loads(run(*words, "--json"))


@pytest.fixture(scope="module")
def kneeling():
    with served(roster_named("hop_16"), "kneeling_valves", ["Y2.open"], "ready") as own:
        time.sleep(0.2)
        yield own


def test_the_roll_call_says_who_answers_and_keeps_what_was_said(kneeling):
    found = told("rollcall", "--bus", kneeling.bus, "--modules", AIR)
    assert [(one["name"], one["answers"], one["asks"]) for one in found["modules"]] == [
        ("gateway", True, 0x720), ("air", True, 0x722), ("dash", True, 0x723),
    ]  # fmt: skip
    assert found["says"] == "All 3 answer." and {one["request"] for one in found["conversation"]} == {"3e00"}
    only = told("rollcall", "air", "--bus", kneeling.bus, "--modules", AIR)
    assert [one["name"] for one in only["modules"]] == ["air"]


def test_codes_come_with_status_what_was_frozen_and_what_is_off_because_of_them(kneeling):
    found = {one["name"]: one for one in told("codes", "--bus", kneeling.bus, "--modules", AIR)["modules"]}
    assert found["gateway"]["codes"] == [] and found["gateway"]["says"] is None
    code = found["air"]["codes"][0]
    assert (code["name"], code["status"], code["takes_away"]) == ("C1B22-13", "present", ["Right vent valve"])
    assert code["freeze_frame"]["height right front"] == "4.0 mm" and "fails now" in code["status_bits"]
    assert code["felt"] == "the right front does not kneel" and code["substitutes"] is None
    text = run("codes", "air", "--bus", kneeling.bus, "--modules", AIR)
    assert "off because of it: Right vent valve" in text and "Air module: 1 code" in text


def test_data_with_and_without_a_roster(kneeling):
    found = told("data", "air", "supply", "tank", "--bus", kneeling.bus, "--modules", AIR)["values"]
    assert [(one["name"], one["unit"], one["within"]) for one in found] == [("supply", "V", True), ("tank", "bar", True)]
    assert found[0]["value"] == pytest.approx(25.2, abs=0.1)
    raw = told("data", "0xD112", "--bus", kneeling.bus, "--asks", "0x722", "--answers", "0x72A")["values"]
    assert raw == [
        {"name": "0xd112", "title": "0xd112", "id": 0xD112, "value": None, "unit": None, "says": "X", "bytes": "58", "text": "X"}
    ]
    assert "no data identifier" in run("data", "0x12345", "--bus", kneeling.bus, "--asks", "0x722", "--answers", "0x72A", exit_code=1)


def test_an_output_is_locked_until_each_caution_is_named_then_moves_and_goes_back(kneeling):
    where = ("--bus", kneeling.bus, "--modules", AIR)
    locked = run("output", "air", "left_vent", "open", *where, exit_code=1)
    assert "locked until this is made safe (air_springs, caution)" in locked and "Local codes" in locked
    assert "(caution)" in run("output", "air", "left_vent", "open", *where, "--made-safe", "air_springs", exit_code=1)
    assert "N7.5" not in kneeling.world.driven  # the right one is off by its code
    safe = ("--made-safe", "air_springs", "--made-safe", "caution")
    found = told("output", "air", "left_vent", "open", *where, *safe, "--seconds", "2.5")
    assert found["given_back"] and found["watched"] == "left" and found["verdict"] == "moves"
    values = [one["value"] for one in found["values"]]
    assert values[0] > values[-1] + 20.0 and found["held_s"] == 2.5
    assert [one["request"] for one in found["conversation"]][-2:] == ["2fd15000", "1001"]  # control back, then the ordinary session
    assert "N7.5" not in kneeling.world.driven  # the right one is off by its code
    refused = run("output", "air", "right_vent", "open", *where, *safe, exit_code=1)
    assert "A fault keeps it from doing that" in refused
    assert "it knows open, shut" in run("output", "air", "left_vent", "half", *where, *safe, exit_code=1)


def test_a_routine_runs_to_its_result(kneeling):
    found = told("routine", "air", "level", "--bus", kneeling.bus, "--modules", AIR, "--made-safe", "air_springs")
    assert (found["good"], found["says"]) == (True, "The ride height is set.")


def test_clearing_reads_first_and_wants_the_loss_to_be_known():
    with served(roster_named("carrall"), "wired_van_gearbox", ["YD.open"], "key on") as own:
        where = ("--bus", own.bus, "--modules", GEARBOX)
        assert "Say first that you know" in run("clear", "gearbox", *where, exit_code=1)
        own.world.mend()
        found = told("clear", "gearbox", *where, "--loss-is-known")["cleared"][0]
        assert [code["name"] for code in found["before"]["codes"]] == ["P0765-13"] and found["after"]["codes"] == []
        assert "no code" in run("codes", "gearbox", *where)


def test_a_crash_is_not_cleared_from_here():
    roster = roster_named("parcel_2")
    with served(roster, "under_seat_crash_loop", state="key on") as own:
        own.life.set("manager.B1A01-68", "1")
        where = ("--bus", own.bus, "--modules", str(ROSTERS / "parcel_2.yaml"))
        assert "A crash flag is not cleared from here" in run("clear", "manager", *where, "--loss-is-known", exit_code=1)
        assert [c["name"] for c in told("codes", "manager", *where)["modules"][0]["codes"]] == ["B1A01-68"]


def test_without_a_roster_whoever_answers_for_emissions_is_found():
    with served(roster_named("carrall"), "wired_van_gearbox", state="key on") as own:
        found = told("rollcall", "--bus", own.bus)
        assert [(one["title"], one["speaks"]) for one in found["modules"]] == [("Engine module", "obd"), ("Gearbox module", "obd")]
        values = {one["title"]: one["says"] for one in told("data", "obd7e8", "--bus", own.bus)["values"]}
        assert values["coolant"] == "21 °C" and values["engine speed"] == "0 r/min" and values["supply at the module"] == "12.40 V"


@pytest.mark.parametrize(
    ("address", "says"),
    [
        ("socketcand://127.0.0.1:1/can0", "Nobody listens at 127.0.0.1 port 1"),
        ("telepathy:can0", "'telepathy' is no interface"),
        ("nothing", "'nothing' is no interface"),
        ("socketcan:", "Say which channel"),
        ("slcan:/dev/ttyX?speed=9", "stands only bit_rate"),
        ("socketcand://127.0.0.1:99999/can0", "no address of a bus on the network"),
        ("kline:/dev/no-such-adapter", "K-line adapter at /dev/no-such-adapter cannot be reached: there is no such device."),
    ],
)
def test_an_address_that_leads_nowhere_is_one_sentence(address, says):
    output = run("rollcall", "--bus", address, exit_code=1)
    assert says in output and output.count("\n") == 1


def test_options_that_do_not_fit_are_said(kneeling):
    where = ("--bus", kneeling.bus)
    assert "--asks and --answers together" in run("codes", *where, "--asks", "0x722", exit_code=1)
    assert "'722' is no identifier" in run("codes", *where, "--asks", "722", "--answers", "0x72A", exit_code=1)
    assert "no module 'aire'; near it: air" in run("codes", "aire", *where, "--modules", AIR, exit_code=1)


def test_a_chain_from_a_file_with_facts_as_words_and_as_a_file(tmp_path):
    facts = tmp_path / "facts.json"
    facts.write_text('{"speed": 0, "volts": 12.4, "oil": true, "bow_up": null}')
    found = told("chain", ROOF, "--facts", "key=in Run", "--facts", str(facts), "--facts", "latch=shut")
    assert found["root"] == "latch" and found["counts"] == "4 hold, 1 does not, 2 are not asked yet" and found["next"] == []
    link = next(one for one in found["links"] if one["name"] == "latch")
    assert (link["state"], link["hangs_on"]) == ("does not hold", "S12") and "latch" in link["sheet"]
    silent = told("chain", ROOF, "--function", "roof", "--silent", "bow")
    assert silent["root"] == "bow" and "explains the whole" in silent["says"]
    asked = told("chain", ROOF, "--facts", "key=yes")
    assert asked["root"] is None and asked["next"][0]["conditions"] == ["volts", "oil", "latch"] and not asked["complete"]
    assert sum(one["share"] for one in asked["links"]) == pytest.approx(1.0, abs=1e-3)


def test_a_chain_that_cannot_be_read_is_one_sentence(tmp_path):
    assert "no condition 'latsh'; near it: latch" in run("chain", ROOF, "--facts", "latsh=open", exit_code=1)
    assert "'perhaps' is neither" in run("chain", ROOF, "--silent", "bow", "--facts", "bow=perhaps", exit_code=1)
    assert "There is no function 'lid'" in run("chain", ROOF, "--function", "lid", exit_code=1)
    wrong = tmp_path / "facts.json"
    wrong.write_text("{latch")
    assert "is no JSON" in run("chain", ROOF, "--facts", str(wrong), exit_code=1)
    own = tmp_path / "roster.yaml"
    own.write_text("format: pondrel-modules/1\ntitle: T\nmodules: {a: {asks: 1, answers: 2}}")
    assert "describes no function" in run("chain", str(own), exit_code=1)
    own.write_text("format: pondrel-modules/1\ntitle: T\nmodules: {a: {asks: one, answers: 2}}")
    assert "modules.a.asks: must be a whole number" in run("chain", str(own), exit_code=1)


def test_what_is_missing_leads_to_the_code():
    found = told("felt", GEARBOX, "fifth and sixth gear")
    assert [one["code"] for one in found["codes"]] == ["P0765-13", "P0765-12"]
    assert found["codes"][0]["takes_away"] == ["Shift valve D", "Lock-up valve"] and found["codes"][0]["leaves"] == []
    assert "No code of these modules" in run("felt", GEARBOX, "the radio")
