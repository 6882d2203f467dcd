"""Rosters from ODX: what a small file says, what is left out, what is refused; and the simulated vehicle asked by such a roster."""

from __future__ import annotations

import io
import json
import sys
import zipfile

import pytest
from click.testing import CliRunner

from pondrel.cli import main
from pondrel.core.base.errors import PondrelError
from pondrel.core.module.moving import LockedError
from pondrel.core.module.roster import parse_roster
from pondrel.instruments.modules.odx import _is_good, numbers_from, roster_from_odx
from pondrel.instruments.modules.reached import lines_at
from pondrel.instruments.modules.tester import Tester as Asker
from tests.odx_file import ODX, odx, pdx
from tests.served import served

IDS = {"rampmodule": (0x7C2, 0x7CA)}


@pytest.fixture
def files(tmp_path):
    def written(name: str, content: bytes | str):
        path = tmp_path / name
        path.write_bytes(content if isinstance(content, bytes) else content.encode())
        return path

    return written


@pytest.fixture
def ramp(files):
    return parse_roster(roster_from_odx(files("ramp.pdx", pdx()), "Ramp").text).module("rampmodule")


def test_a_package_says_the_identifiers_and_the_roster_is_one(ramp):
    assert (ramp.title, ramp.asks, ramp.answers) == ("Ramp module", 0x7C2, 0x7CA)
    assert {name: code.says for name, code in ramp.codes.items()} == {
        "B1A21-13": "Ramp motor circuit open", "U0155-87": "No word from the gateway",
    }  # fmt: skip


def test_numbers_words_and_texts_are_read_at_their_bits(ramp):
    volts, place, angle, number = (ramp.datum(name) for name in ("read_supply", "place", "angle", "read_number"))
    assert volts.says_in(bytes.fromhex("04D2")) == "12.34 V"
    state = bytes([0b0000_1001, 0xFF, 0x9C])  # the place in bits 2 and 3, then -100 tenths of a degree
    assert place.says_in(state) == "moving" and angle.says_in(state) == "-10.0 °"
    assert number.says_in(b"RM-12-A     ") == "RM-12-A"
    assert "odd" not in ramp.data


def test_what_is_not_straight_is_left_out_and_said(files):
    notes = roster_from_odx(files("ramp.pdx", pdx()), "Ramp").notes
    assert len(notes) == 1 and notes[0].startswith("Ramp module: Something bent is neither a straight number")


def test_what_moves_is_locked_since_the_file_does_not_say_what_it_does(ramp):
    motor, teach = ramp.output("move_ramp"), ramp.routine("routine_0310")
    assert {name: command.data for name, command in motor.commands.items()} == {"stop": b"\0", "out": b"\1", "in": b"\2"}
    assert "find out what moves" in motor.caution and "find out what moves" in teach.caution
    assert teach.number == 0x0310 and teach.results == {0: ("not done", False), 1: ("taught, all done", True)}


@pytest.mark.parametrize(
    ("word", "good"),
    [("done", True), ("Not done", False), ("successfully finished", True), ("finished with error", False), ("running", False)],
)
def test_only_a_clear_word_counts_as_good(word, good):
    assert _is_good(word) is good


def test_identifiers_that_the_file_lacks_are_asked_for(files):
    path = files("ramp.odx-d", odx(ids=False))
    with pytest.raises(PondrelError, match="does not say on which CAN identifiers rampmodule is asked"):
        roster_from_odx(path, "Ramp")
    assert parse_roster(roster_from_odx(path, "Ramp", IDS).text).module("rampmodule").asks == 0x7C2
    assert numbers_from(" RampModule=7C2/7CA ") == ("rampmodule", (0x7C2, 0x7CA))
    for wrong in ("ramp", "ramp=7C2", "ramp=7C2/zz"):
        with pytest.raises(PondrelError, match="must be a module with the identifiers"):
            numbers_from(wrong)


@pytest.mark.parametrize(
    ("name", "content", "says"),
    [
        ("x.odx-d", "no xml at all", "no ODX file that can be read"),
        ("x.odx-d", "<ODX/>", "no ODX file|describes no ECU"),
        ("x.odx-d", ODX[: len(ODX) // 2], "no ODX file that can be read"),
        ("x.pdx", b"PK nothing", "cannot be opened"),
        ("x.txt", ODX, "no ODX file that can be read"),
    ],
)
def test_what_is_no_odx_is_refused_in_a_sentence(files, name, content, says):
    with pytest.raises(PondrelError, match=says):
        roster_from_odx(files(name, content), "x")


def test_a_package_that_unpacks_to_more_than_fits_is_refused(files):
    made = io.BytesIO()
    with zipfile.ZipFile(made, "w", zipfile.ZIP_DEFLATED) as packed:
        packed.writestr("bomb.odx-d", b"0" * 450_000_000)
    with pytest.raises(PondrelError, match="larger than 40 MB"):
        roster_from_odx(files("bomb.pdx", made.getvalue()), "x")


def test_without_the_extra_it_says_how_to_get_it(files, monkeypatch):
    monkeypatch.setitem(sys.modules, "odxtools", None)
    with pytest.raises(PondrelError, match=r"pip install 'pondrel\[odx\]'"):
        roster_from_odx(files("ramp.pdx", pdx()), "Ramp")


def test_a_vehicle_is_asked_by_such_a_roster(files):
    roster = parse_roster(roster_from_odx(files("ramp.pdx", pdx()), "Ramp", make="Quessel", model="Hop 16").text)
    assert [fit.says for fit in roster.fits]
    with served(roster) as own, Asker(roster, lines_at(own.bus)) as tester:
        own.life.facts["rampmodule.read_supply"] = 12.5
        own.life.texts["rampmodule.read_number"] = "RM-12-A"
        ramp = roster.module("rampmodule")
        assert tester.roll_call()[0].answers
        told = {value.datum.name: value.says for value in tester.data(ramp)}
        assert told["read_supply"] == "12.50 V" and told["read_number"] == "RM-12-A" and told["place"] == "stowed"
        with pytest.raises(LockedError), tester.hold(ramp, ramp.output("move_ramp"), ramp.output("move_ramp").command("out"), ()):
            pass


def test_the_command_writes_the_roster(files, tmp_path):
    path, out = files("ramp.pdx", pdx()), tmp_path / "ramp.yaml"
    found = CliRunner().invoke(main, ["module", "odx", str(path), "--make", "Quessel", "--out", str(out), "--json"])
    assert found.exit_code == 0, found.output
    told = json.loads(found.output)
    assert told["roster"] == out.read_text() and len(told["left_out"]) == 1
    assert parse_roster(out.read_text()).title == "ramp"
