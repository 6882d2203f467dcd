"""`pondrel bench` as other programs use it."""

from __future__ import annotations

import json

import pytest

from .test_cli import run


def answer(*args: str):
    result = run("bench", *args, "--json")
    assert result.exit_code == 0, result.output
    return json.loads(result.output)


def test_the_command_of_the_contract_answers_as_written():
    told = answer("coil", "--limit", "ohms 3.15..3.45 @20C", "--read", "ohms=3.7 @21C")
    assert told["family"] == "coil" and told["verdict"] == "outside limits" and told["untested"] == []
    one = told["findings"][0]
    assert (one["check"], one["value"], one["unit"]) == ("ohms", 3.7, "Ω")
    assert one["brought_to"] == {"value": pytest.approx(3.6855, abs=1e-4), "at_c": 20.0}


def test_points_come_from_a_file(tmp_path):
    file = tmp_path / "rev.csv"
    file.write_text("indicated,true\n250,1000\n3000,7000\n")
    told = answer("scale", "--points", str(file), "--limit", "error <=5%")
    assert told["verdict"] == "outside limits" and told["in_service"]["one_factor"] is False


def test_the_list_is_json_and_text():
    told = json.loads(run("bench", "--list", "--json").output)
    assert len(told) == 29 and {"family", "settings", "reads", "points", "cautions"} <= set(told[0])
    assert "stator" in run("bench", "--list").output


def test_text_tells_verdict_reasons_and_what_next():
    lines = run("bench", "valve", "--set", "rest=closed", "--read", "holds=no").output.splitlines()
    assert lines[0].endswith("outside limits") and any("It leaks by" in line for line in lines)


@pytest.mark.parametrize(
    ("args", "says"),
    [
        ([], "A family of checks is wanted"),
        (["coils"], "near it: coil"),
        (["coil", "--meter", "yellow"], "no meter that is known"),
        (["coil", "--read", "ohms"], "a reading such as"),
        (["coil", "--set", "rest"], "a setting such as"),
        (["coil", "--read", "ohms=3.7 @-300C"], "no temperature"),
        (["scale", "--points", "nowhere.csv"], "cannot be read"),
    ],
)
def test_what_cannot_be_is_one_sentence_and_exit_1(args, says):
    result = run("bench", *args)
    assert result.exit_code == 1 and says in result.output and "Traceback" not in result.output


def test_the_workshop_s_own_meter_is_known_where_its_folder_is_named(data_folder, monkeypatch):
    monkeypatch.setenv("PONDREL_DATA", str(data_folder))
    told = answer("coil", "--meter", "Yellow meter", "--read", "ohms=13.0 @20C", "--limit", "12..14 @20C")
    assert told["findings"][0]["uncertainty"] == pytest.approx((0.009 * 13.0 + 0.2) / 3**0.5)


@pytest.mark.parametrize("meter", ["as typed", "everyday meter", "simple meter", "fine meter"])
def test_every_meter_of_the_list_reads(meter):
    assert answer("coil", "--meter", meter, "--read", "ohms=13.0", "--set", "sort=shift solenoid")["verdict"] == "within limits"
