"""`pondrel power` as others run it: the answers as JSON, and one sentence for what cannot be."""

from __future__ import annotations

import json

import pytest

from .captures import as_csv, bridge, crank
from .test_cli import run

KEYS = {"family", "verdict", "findings", "untested", "in_service", "next"}


def answer(*args):
    done = run("power", *args, "--json")
    assert done.exit_code == 0, done.output
    return json.loads(done.output)


def test_every_command_answers_in_the_shape_of_the_bench():
    for family, reads in {
        "battery": ["rest=12.60@25C", "load=9.90@21C", "load_amps=250"], "crank": ["battery=10.4", "supply_drop=0.27", "ground_drop=0.15"],
        "charge": ["lamp_key=on", "lamp_running=off", "raised=14.2"], "draw": ["amps=0.03@70min"], "belt": ["deflection=9"],
        "health": ["rest=12.60@10C", "crank=10.2@10C", "charge=14.2"],
    }.items():  # fmt: skip
        found = answer(family, *(part for text in reads for part in ("--read", text)))
        assert set(found) >= KEYS and found["family"] == family and found["verdict"] == "within limits", (family, found)
        assert {"check", "verdict", "value", "unit", "uncertainty", "brought_to", "limit", "because"} <= set(found["findings"][0])


def test_settings_of_the_issue_are_taken_as_written():
    found = answer("battery", "--set", "system=24", "--set", "type=glass-mat", "--set", "standard=din", "--set", "cca=300",
                   "--read", "rest=25.6@25C", "--read", "load=19.8@21C", "--read", "load_amps=250")  # fmt: skip
    assert found["verdict"] == "within limits" and found["in_service"]["sae_amps"] == 500.0
    assert answer("battery", "--read", "rest=12.6@25C", "--read", "load=9.9@21C", "--read", "cca=500")["in_service"]["load_amps"] == 250.0
    fuse = answer("draw", "--set", "fuse=mini:10", "--read", "mv=2.2", "--read", "minutes=65")
    assert fuse["verdict"] == "outside limits" and fuse["in_service"]["draw_a"] == pytest.approx(0.297, abs=0.01)
    assert answer("draw", "--set", "fuse=mini:10", "--read", "mv=2.2")["verdict"] == "not comparable"


def test_a_trend_is_read_from_a_file_of_points(tmp_path):
    file = tmp_path / "trend.csv"
    file.write_text("minutes,volts\n0,12.2\n5,13.3\n10,14.1\n")
    assert answer("charge", "--points", str(file))["verdict"] == "within limits"
    file.write_text("minutes;volts\n0;12,5\n10;11,9\n")
    assert answer("charge", "--points", str(file))["verdict"] == "outside limits"


def test_what_is_needed_and_missing_is_listed():
    assert answer("battery", "--read", "rest=12.6@25C")["untested"] == ["load"]
    assert answer("crank", "--read", "battery=10.2")["untested"] == ["supply_drop", "ground_drop"]
    assert answer("charge", "--read", "lamp_key=on")["untested"] == ["raised"]


def test_a_capture_is_judged_with_its_events(tmp_path):
    t, volts, amps, true = crank()
    file = tmp_path / "start.csv"
    file.write_bytes(as_csv(t, volts, amps))
    found = answer("capture", str(file))
    assert found["verdict"] == "within limits" and [event["name"] for event in found["events"]][:2] == ["key on", "inrush"]
    assert found["in_service"]["rpm"] == pytest.approx(true["rpm"], rel=0.02) and found["capture"]["samples"] == len(t)
    file.write_bytes(as_csv(*bridge(400.0, missing=True)))
    assert answer("capture", str(file))["in_service"]["missing_pulses"] is True


@pytest.mark.parametrize(
    ("args", "says"),
    [
        (["battery", "--read", "rest=abc"], "is no reading"), (["battery", "--read", "rest"], "is wanted"),
        (["battery", "--read", "ohms=12"], "nothing that is read for battery"),
        (["battery", "--set", "system=36", "--read", "rest=12"], "no answer to"),
        (["draw", "--set", "fuse=mini", "--read", "mv=1", "--read", "minutes=70"], "as in mini:10"),
        (["charge", "--points", "nowhere.csv"], "cannot be read"),
        (["charge", "--meter", "crystal ball", "--read", "raised=14"], "no meter that is known"),
        (["capture", "nowhere.csv"], "cannot be read"), (["capture", "/"], "cannot be read"),
    ],
)  # fmt: skip
def test_what_cannot_be_gets_one_sentence(args, says):
    done = run("power", *args)
    assert done.exit_code == 1 and says in done.output and "Traceback" not in done.output
    assert len([line for line in done.output.splitlines() if line.startswith("Error")]) == 1


@pytest.mark.parametrize(
    "content", [b"", b"hello\n", b"1\n" * 99, b"time,v\n" + b"".join(b"%d,12\n" % (99 - k) for k in range(99)), b"\x00" * 500]
)
def test_a_bad_capture_gets_one_sentence(tmp_path, content):
    file = tmp_path / "bad.csv"
    file.write_bytes(content)
    done = run("power", "capture", str(file))
    assert done.exit_code == 1 and done.output.startswith("Error: ") and done.output.count("\n") == 1


def test_a_gigabyte_is_refused_at_once(tmp_path):
    file = tmp_path / "huge.csv"
    with file.open("wb") as out:
        out.truncate(1 << 30)
    done = run("power", "capture", str(file))
    assert done.exit_code == 1 and "1074 MB" in done.output


def test_it_prints_for_people_too():
    done = run("power", "crank", "--read", "battery=10.4", "--read", "supply_drop=0.27", "--read", "ground_drop=1.22")
    assert done.exit_code == 0 and "ground_drop: outside limits" in done.output
    listed = run("power", "battery", "--list")
    assert json.loads(listed.output)["family"] == "battery"


def test_one_set_and_one_read_may_be_followed_by_several():
    several = answer(
        "battery", "--set", "system=24", "type=glass-mat", "standard=din", "cca=300", "--read", "rest=25.6@25C", "load=19.8@21C"
    )
    each = answer("battery", *(part for text in ("system=24", "type=glass-mat", "standard=din", "cca=300") for part in ("--set", text)),
                  "--read", "rest=25.6@25C", "--read", "load=19.8@21C")  # fmt: skip
    assert several == each
    wrong = run("power", "battery", "--read", "rest=12.6", "nonsense", "--json")
    assert wrong.exit_code == 1 and "'nonsense' is not understood" in wrong.output
