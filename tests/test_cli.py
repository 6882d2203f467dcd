"""The command line as other programs use it."""

from __future__ import annotations

import json

import pytest
from click.testing import CliRunner

from pondrel.cli import main
from pondrel.core.isolate.extent import MOST_READINGS

from .circuits import RELAY_PUMP, STEP_LIGHT


@pytest.fixture
def file(tmp_path):
    path = tmp_path / "light.yaml"
    path.write_text(STEP_LIGHT)
    return str(path)


def run(*args: str):
    return CliRunner().invoke(main, list(args))


def test_a_good_sheet_is_answered_with_silence(file):
    result = run("sheet", "check", file)
    assert (result.exit_code, result.output) == (0, "")


def test_a_bad_sheet_gets_one_line_per_flaw_and_exit_1(tmp_path):
    path = tmp_path / "bad.yaml"
    path.write_text(STEP_LIGHT.replace("rating: 10", "rating: x").replace("watts: 10", "watts: -1"))
    result = run("sheet", "check", str(path))
    assert result.exit_code == 1
    assert result.output.splitlines() == [
        f"{path}: parts.F4.rating: must be a positive number of amperes, got 'x'",
        f"{path}: parts.LA1.watts: must be a positive number of watts, got -1",
    ]


def test_what_a_sheet_most_probably_does_not_mean_is_a_warning(tmp_path):
    path = tmp_path / "doubtful.yaml"
    text = STEP_LIGHT.replace("{kind: contact, pins: {a: c2.1,", "{kind: contact, pins: {a: c2.l,")
    path.write_text(text.replace("part: LA1", "part: F4"))
    result = run("sheet", "check", str(path))
    assert result.exit_code == 0
    lines = result.output.splitlines()
    assert lines[0].startswith(f"{path}: parts.W1.pins.b: warning: nothing else is on the node 'c2.1'")
    assert lines[1].startswith(f"{path}: parts.C2.1.pins.a: warning: nothing else is on the node 'c2.l'") and "near it: c2.1" in lines[1]
    assert lines[2].startswith(f"{path}: observe.lamp.sees: warning: brightness of a fuse can never be predicted, only heat")
    assert len(lines) == 3
    path.write_text(STEP_LIGHT.replace("part: LA1", "part: BAT"))
    assert "observe.lamp.part: warning: nothing is seen or heard of a battery" in run("sheet", "check", str(path)).output


@pytest.mark.parametrize(
    ("word", "kind"),
    [
        ("bulb", "lamp"), ("earth", "ground"), ("fuze", "fuse"), ("cable", "wire"), ("solenoid_valve", "solenoid"), ("fuel pump", "motor"),
        ("brake_lamp", "lamp"), ("ntc", "thermistor"), ("contactor", "relay"), ("lamb", "lamp"), ("generator", "alternator"),
        ("pump relay", "relay"),
    ],
)  # fmt: skip
def test_an_unknown_kind_is_answered_by_what_it_means(tmp_path, word, kind):
    path = tmp_path / "unknown.yaml"
    path.write_text(STEP_LIGHT.replace("kind: fuse", f"kind: {word}"))
    assert f"got '{word}'; did you mean {kind}" in run("sheet", "check", str(path)).output


def test_what_is_near_no_kind_gets_the_list(tmp_path):
    path = tmp_path / "unknown.yaml"
    path.write_text(STEP_LIGHT.replace("kind: fuse", "kind: xyzzy"))
    assert "there are battery, alternator," in run("sheet", "check", str(path)).output


def test_isolating_more_than_is_worked_out_at_once_is_refused_in_a_sentence(file, tmp_path):
    rows = "\n".join(["state,instrument,red,black,value", *["lit,volts,g1,,1.1"] * MOST_READINGS])
    (tmp_path / "many.csv").write_text(rows)
    result = run("isolate", file, "--readings", str(tmp_path / "many.csv"), "--line", "volts g1 1.1")
    assert result.exit_code == 1 and f"{MOST_READINGS + 1} readings stand; at most {MOST_READINGS} are weighed" in result.output


@pytest.mark.parametrize(("content", "sentence"), [(None, "cannot be read"), (b"\xff\xfe\x00", "not UTF-8")])
def test_a_file_that_cannot_be_read_is_named(tmp_path, content, sentence):
    path = tmp_path / "x.yaml"
    if content is not None:
        path.write_bytes(content)
    result = run("solve", str(path), "--state", "lit")
    assert result.exit_code == 1
    assert sentence in result.output
    assert "Traceback" not in result.output


def test_solve_prints_the_agreed_json(file):
    result = run("solve", file, "--state", "lit", "--fault", "G1.high_resistance=0.8", "--json")
    answer = json.loads(result.output)
    assert set(answer) == {"state", "places", "currents", "notes"}
    assert answer["state"] == "lit"
    assert set(answer["places"]) == {"batt+", "f4.out", "lamp.feed", "g1", "batt-"}
    assert answer["places"]["batt-"] == 0.0
    assert answer["places"]["g1"] == pytest.approx(0.8 * answer["currents"]["G1"], rel=1e-6)
    assert answer["notes"] == []


def test_faults_may_be_combined(file):
    result = run("solve", file, "--state", "lit", "--fault", "G1.high_resistance=1", "--fault", "C2.1.high_resistance=1", "--json")
    answer = json.loads(result.output)
    assert answer["places"]["lamp.feed"] - answer["places"]["g1"] < 11.0


@pytest.mark.parametrize(
    ("args", "sentence"),
    [
        (("--state", "dark"), "'dark' is no state of this sheet: idle, lit are."),
        (("--state", "lit", "--fault", "G9.open"), "No part 'G9'"),
        (("--state", "lit", "--fault", "G1.high_resistance=lots"), "'lots' is no reading"),
    ],
)
def test_wrong_words_get_one_sentence(file, args, sentence):
    result = run("solve", file, *args)
    assert result.exit_code == 1
    assert sentence in result.output
    assert len(result.output.strip().splitlines()) == 1


def test_solve_without_json_is_for_people(file):
    output = run("solve", file, "--state", "lit", "--fault", "W1.short_to_ground").output
    assert "F4 would blow" in output
    assert " V" in output


def test_isolate_prints_the_agreed_json(file, tmp_path):
    readings = tmp_path / "r.csv"
    readings.write_text(
        "state,instrument,red,black,value\nlit,volts,batt+,batt-,12.59\nlit,volts,lamp.feed,batt-,12.48\nlit,volts,g1,batt-,1.13\n"
    )
    answer = json.loads(run("isolate", file, "--readings", str(readings), "--json").output)
    assert set(answer) == {
        "suspects",
        "groups",
        "next",
        "misfits",
        "standing",
        "assumed",
        "contradiction",
        "worn",
        "trends",
        "mind",
        "tested",
        "untested",
    }
    top = answer["suspects"][0]
    assert (top["part"], top["mode"]) == ("G1", "high_resistance")
    assert set(top["severity"]) == {"value", "low", "high", "unit"}
    assert top["severity"]["low"] < 1.4 < top["severity"]["high"]
    assert sum(s["probability"] for s in answer["suspects"]) == pytest.approx(1.0)
    probabilities = [s["probability"] for s in answer["suspects"]]
    assert probabilities == sorted(probabilities, reverse=True)
    [nothing] = [s for s in answer["suspects"] if s["part"] is None and s["kind"] == "single"]
    assert (nothing["mode"], nothing["severity"]) == (None, None)
    assert nothing["probability"] == pytest.approx(0.0, abs=0.05)
    for test in answer["next"]:
        assert {"instrument", "red", "black", "state", "minutes", "gain_bits", "expect"} <= set(test)
        assert {"part", "mode", "value"} == set(test["expect"][0])


def test_isolate_without_json_says_where_it_stands(file, tmp_path):
    readings = tmp_path / "r.csv"
    readings.write_text("state,instrument,red,black,value\nlit,volts,lamp.feed,batt-,11.7\n")
    output = run("isolate", file, "--readings", str(readings)).output
    assert "Next: " in output


def test_isolate_names_the_line_of_a_bad_reading(file, tmp_path):
    readings = tmp_path / "r.csv"
    readings.write_text("state,instrument,red,black,value\nlit,volts,batt+,batt-,12.59\nlit,volts,batt+,batt-,many\n")
    result = run("isolate", file, "--readings", str(readings))
    assert result.exit_code == 1
    assert "Line 3: 'many' is no reading" in result.output


def test_a_csv_of_headings_only_ranks_by_prior(file, tmp_path):
    readings = tmp_path / "r.csv"
    readings.write_text("state,instrument,red,black,value\n")
    assert json.loads(run("isolate", file, "--readings", str(readings), "--json").output)["suspects"][0]["part"] is None


def test_spice_prints_a_netlist(tmp_path):
    path = tmp_path / "pump.yaml"
    path.write_text(RELAY_PUMP)
    output = run("spice", str(path), "--state", "run").output
    assert output.startswith("* Pump on a relay")
    assert output.rstrip().endswith(".end")


@pytest.mark.usefixtures("small_depot")
def test_the_demo_is_loaded_once_and_reset_on_request(tmp_path, monkeypatch):
    monkeypatch.setenv("PONDREL_DATA", str(tmp_path / "d"))
    assert "The demo depot is in" in run("demo").output
    assert "is left as it is" in run("demo").output
    assert "The demo depot is in" in run("demo", "--reset").output


def test_a_sheet_can_be_added_to_the_data_folder(file, tmp_path, monkeypatch):
    monkeypatch.setenv("PONDREL_DATA", str(tmp_path / "d"))
    assert "is sheet 1" in run("sheet", "add", file).output
    assert "is sheet 1" in run("sheet", "add", file).output


def test_the_schema_is_printed():
    assert json.loads(run("sheet", "schema").output)["type"] == "object"


def test_trial_reports_what_came_of_hidden_faults(file):
    answer = json.loads(run("trial", file, "--every", "9", "--small-worlds", "1", "--workers", "1", "--json").output)
    best = answer["orders"]["best"]
    assert best["cases"] >= 2
    assert 0.0 <= best["wrong_condemned"] <= best["proved"] <= 1.0
    assert best["minutes"] > 0.0
    assert answer["optimal"]["adviser"] >= 1.0
    assert all(0.0 <= d["true"] <= 1.0 for d in answer["calibration"])
    told = run("trial", file, "--every", "9", "--small-worlds", "0", "--workers", "1").output
    assert "Brier score" in told


def test_trial_names_the_orders_there_are(file):
    result = run("trial", file, "--order", "luck")
    assert result.exit_code == 1
    assert "'luck' is no order of attack: best, fuse, part, half, module, random are." in result.output


def test_isolate_takes_lines(file):
    answer = json.loads(run("isolate", file, "--line", "lit volts g1 1.13", "--line", "look G1 corroded", "--json").output)
    assert answer["suspects"][0]["part"] == "G1"
    assert "'Q9' is nothing on this sheet that can be wiggled" in run("isolate", file, "--line", "wiggle Q9 changed").output


CODES = "engine:\nP0201-13 stored Injector 1\n  rpm: 820\nhello\n"


def test_codes_are_read_from_a_file(tmp_path):
    file = tmp_path / "codes.txt"
    file.write_text(CODES)
    found = json.loads(run("codes", "read", str(file), "--json").output)
    (code,) = found["codes"]
    assert code == {
        "code": "P0201", "failure_type": "13", "status": "stored", "module": "engine", "text": "Injector 1", "system": "powertrain",
        "group": "fuel and air metering, injectors", "defined_by": "the standard", "failed": "circuit open", "freeze_frame": {"rpm": "820"},
    }  # fmt: skip
    assert found["passed_over"] == ["hello"] and found["usual_causes"]["P0201-13"][0]["origin"] == "common practice, no source"
    told = run("codes", "read", str(file))
    assert "P0201-13 (engine) stored: powertrain" in told.output and "    rpm = 820" in told.output
    file.write_text("no codes here")
    refused = run("codes", "read", str(file), "--json")
    assert refused.exit_code == 1 and refused.output.startswith("Error: No fault code is in it")
    assert "cannot be read" in run("codes", "read", str(tmp_path / "none"), "--json").output


def test_a_job_is_shown_exported_and_imported(demo_folder, tmp_path, monkeypatch):
    monkeypatch.setenv("PONDREL_DATA", str(demo_folder))
    shown = json.loads(run("job", "show", "9", "--json").output)
    assert shown["job"]["complaint"] == "Cart stops under the pedal" and shown["stands"]["stage"] == "Look"
    assert [entry["kind"] for entry in shown["entries"]] == ["complaint", "scan", "note", "flexed"]
    assert "comes and goes (3 of 10 tries)" in run("job", "show", "9").output
    assert "reading      volts g3 to batt-, open 3.76" in run("job", "show", "1").output
    file = tmp_path / "job.json"
    assert run("job", "export", "9", "-o", str(file)).exit_code == 0
    assert json.loads(run("job", "export", "9").output)["format"] == json.loads(file.read_text())["format"] == "pondrel-job/1"
    monkeypatch.setenv("PONDREL_DATA", str(tmp_path / "elsewhere"))
    assert run("job", "import", str(file)).output == "Job 1 is new here, with 4 entries.\n"
    assert run("job", "import", str(file)).output == "Job 1 is here already, and nothing is new.\n"
    file.write_text(file.read_text().replace("pedal", "peddle"))
    refused = run("job", "import", str(file))
    assert refused.exit_code == 1 and "The file is damaged, and nothing was taken from it" in refused.output
    assert "There is no job 7" in run("job", "show", "7", "--json").output
    monkeypatch.setenv("PONDREL_DATA", str(tmp_path / "nowhere"))
    assert "There is no database" in run("job", "show", "1").output and not (tmp_path / "nowhere" / "pondrel.sqlite").exists()


def test_a_typical_circuit_is_printed_as_a_sheet_that_the_other_commands_take(tmp_path):
    listed = run("sheet", "make", "--json")
    assert {"switched_load", "bus", "starter"} <= {each["name"] for each in json.loads(listed.output)}
    asked = json.loads(run("sheet", "make", "relay", "--asked", "--json").output)
    assert {"key": "fuse.rating", "answer": "20 A"}.items() <= next(row for row in asked if row["key"] == "fuse.rating").items()
    made = run("sheet", "make", "switched_load", "--set", "load.size=10 W", "--set", "fuse.name=F14 lamp")
    path = tmp_path / "sheet.yaml"
    path.write_text(made.stdout)
    assert run("sheet", "check", str(path)).output == ""
    solved = json.loads(run("solve", str(path), "--state", "on", "--json").output)
    assert solved["currents"]["F14"] > 0.7
    assert json.loads(run("sheet", "make", "switched_load", "--json").output)["sheet"].startswith("format: pondrel-sheet/1")


@pytest.mark.parametrize(
    ("args", "says"),
    [
        (("sheet", "make", "dragon"), "'dragon' is no typical circuit"),
        (("sheet", "make", "relay", "--set", "fuse.rating"), "is no answer: write it as THING.QUESTION=ANSWER"),
        (("sheet", "make", "relay", "--set", "fuse.size=3"), "is not asked for this circuit"),
        (("wire", "size", "--length", "0", "--amps", "5"), "The length is a number of metres"),
        (("wire", "drop", "--volts", "lots", "--amps", "5"), "is no reading"),
        (("wire", "drop", "--volts", "0.2"), "The current is missing"),
    ],
)
def test_what_cannot_be_made_or_sized_is_one_sentence_and_exit_1(args, says):
    result = run(*args)
    assert result.exit_code == 1 and says in result.output and "Traceback" not in result.output


def test_a_file_of_another_program_becomes_a_sheet_and_what_is_unread_is_told_beside_it(tmp_path):
    path = tmp_path / "list.csv"
    path.write_text("from,to,section\nBAT+,F1:1,1.5\nF1:2,LA1:1,1.5\nLA1:2,GND,1.5\n???,x,1\n")
    result = run("sheet", "from", str(path))
    assert result.exit_code == 0 and result.stdout.startswith("format: pondrel-sheet/1")
    assert "line 5: '???' is no end of a wire" in result.stderr and "???" not in result.stdout
    told = json.loads(run("sheet", "from", str(path), "--json").stdout)
    assert told["unread"][0]["line"] == 5 and "kind: lamp" in told["sheet"]
    path.write_text("nothing of the kind")
    assert run("sheet", "from", str(path)).exit_code == 1


def test_a_wire_is_sized_and_a_drop_told_as_json():
    sized = json.loads(run("wire", "size", "--length", "4", "--amps", "10", "--json").output)
    assert sized["section_mm2"] == 2.5 and "common practice" in sized["source"] and len(sized["choices"]) > 10
    drop = json.loads(run("wire", "drop", "--volts", "420m", "--amps", "8", "--load", "lamp", "--json").output)
    assert drop["ohms"] == pytest.approx(0.0525) and drop["verdict"] == "outside limits" and 0.1 < drop["share_lost"] < 0.12
