"""`pondrel standin vehicle` as a process of its own, and what it refuses."""

from __future__ import annotations

import re
import socket
import subprocess
import sys

import pytest

from pondrel.core.circuit.measure import measure
from pondrel.core.circuit.read.sheet import parse_sheet
from pondrel.core.making.typical import made, typical_called
from pondrel.demo.load import ROSTERS, SHEETS
from pondrel.standins.hidden import hidden_world

from ..circuits import STEP_LIGHT
from ..test_cli import run


@pytest.fixture
def file(tmp_path):
    path = tmp_path / "light.yaml"
    path.write_text(STEP_LIGHT)
    return str(path)


@pytest.mark.parametrize("more", [["--fault", "G1.high_resistance=2"], ["--hidden", "3"], ["--state", "lit"]])
def test_it_tells_its_address_and_answers_there(file, more):
    command = [sys.executable, "-u", "-m", "pondrel", "standin", "vehicle", "--sheet", file, "--meter-port", "0", *more]
    with subprocess.Popen(command, stdout=subprocess.PIPE, text=True) as process:
        try:
            port = int(re.search(r"127\.0\.0\.1::(\d+)::SOCKET", process.stdout.readline())[1])
            with socket.create_connection(("127.0.0.1", port), 5) as line, line.makefile("rw") as stream:
                stream.write('*IDN?\nROUT:PROB "g1"\nROUT:STAT?\n')
                stream.flush()
                assert stream.readline().startswith("Pondrel,Stand-in meter")
                assert stream.readline().strip() in ('"idle"', '"lit"')
        finally:
            process.kill()


@pytest.mark.parametrize(
    ("args", "says"),
    [
        (["--fault", "G9.open"], "G9"),
        (["--fault", "G1.open", "--hidden", "1"], "not both"),
        (["--state", "flying"], "no state"),
        (["--sheet", "nowhere.yaml"], "cannot be read"),
    ],
)
def test_what_cannot_be_is_one_sentence(file, args, says):
    result = run("standin", "vehicle", *(["--sheet", file] if "--sheet" not in args else []), *args)
    assert result.exit_code == 1 and says in result.output and "Traceback" not in result.output


def test_a_port_that_is_taken_is_said(file):
    with socket.create_server(("127.0.0.1", 0)) as taken:
        result = run("standin", "vehicle", "--sheet", file, "--meter-port", str(taken.getsockname()[1]))
    assert result.exit_code == 1 and "choose another" in result.output


def test_a_hidden_fault_is_there_and_the_same_for_the_same_seed(step_light):
    one, again, other = hidden_world(step_light, 4), hidden_world(step_light, 4), [hidden_world(step_light, seed) for seed in range(6)]
    assert one.faults == again.faults and one.faults and len({world.faults for world in other}) > 1
    sound = measure(step_light, "lit", "volts", "lamp.feed", "g1").exact
    sick = [measure(world.sheet, "lit", "volts", "lamp.feed", "g1", world.faults).exact for world in other]
    assert any(abs(volts - sound) > 0.5 for volts in sick)


@pytest.mark.parametrize("typical", ["starter", "stator"])
def test_a_hidden_vehicle_s_battery_rests_like_one_and_its_stator_has_three_alike_phases(typical):
    sheet = parse_sheet(made(typical_called(typical), {}))
    for seed in range(1, 13):
        world = hidden_world(sheet, seed)
        world.faults = ()
        world.put("batt+", "batt-")
        assert 12.2 < world.truly("volts") < 12.8
        if typical == "stator":
            world.turn("idle")
            world.unplug("V1")
            volts = []
            for red, black in (("gen1.u", "gen1.v"), ("gen1.v", "gen1.w"), ("gen1.w", "gen1.u")):
                world.put(red, black)
                volts.append(world.truly("ac"))
            assert max(volts) - min(volts) < 0.02 * max(volts) and 14.0 < volts[0] < 30.0


def test_its_modules_answer_on_the_bus_and_facts_and_mending_go_by_route_commands():
    files = {"--sheet": SHEETS / "kneeling_valves.yaml", "--modules": ROSTERS / "hop_16.yaml"}
    ports = [
        "--meter-port",
        "0",
        "--bus-port",
        "0",
        "--kline-port",
        "0",
        "--state",
        "ready",
        "--fault",
        "Y2.open",
        "--fact",
        "air.tank=6.5",
    ]
    words = [text for pair in files.items() for text in map(str, pair)]
    command = [sys.executable, "-u", "-m", "pondrel", "standin", "vehicle", *words, *ports, "--silent", "dash"]
    with subprocess.Popen(command, stdout=subprocess.PIPE, text=True) as process:
        try:
            meter = int(re.search(r"127\.0\.0\.1::(\d+)::SOCKET", process.stdout.readline())[1])
            bus = int(re.search(r"port (\d+), channel can0", process.stdout.readline())[1])
            where = ("--bus", f"socketcand://127.0.0.1:{bus}/can0", "--modules", str(files["--modules"]))
            called = run("module", "rollcall", *where).output
            assert "Dash module                  silent" in called and "Air module                   answers" in called
            assert "6.5 bar" in run("module", "data", "air", "tank", *where).output
            with socket.create_connection(("127.0.0.1", meter), 5) as line, line.makefile("rw") as stream:
                stream.write('ROUT:FACT "air.tank","9.1"\nROUT:FACT "air.tank","much"\nSYST:ERR?\nROUT:MEND\nROUT:FACT:CAT?\n')
                stream.flush()
                assert "is no number" in stream.readline() and '"air.tank",9.1' in stream.readline()
            assert "9.1 bar" in run("module", "data", "air", "tank", *where).output
            run("module", "clear", "air", *where, "--loss-is-known")
            assert "no code" in run("module", "codes", "air", *where).output
        finally:
            process.kill()


def test_a_roster_or_a_fact_that_is_none_is_one_sentence(file, tmp_path):
    wrong = tmp_path / "roster.yaml"
    wrong.write_text("format: pondrel-modules/1\ntitle: T\nmodules: {a: {asks: 1, answers: 1}}")
    assert "must differ" in run("standin", "vehicle", "--sheet", file, "--modules", str(wrong)).output
    good = str(ROSTERS / "hop_16.yaml")
    for more, says in (
        (["--fact", "tank=much"], "is no number"),
        (["--silent", "sir"], "no module 'sir'"),
        (["--fact", "tank"], "a fact such as"),
    ):
        result = run("standin", "vehicle", "--sheet", file, "--modules", good, *more)
        assert result.exit_code == 1 and says in result.output and "Traceback" not in result.output
