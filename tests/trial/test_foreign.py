"""The foreign world: vehicles that are not their sheets. Their volts are ngspice's; what ageing is, is common practice, no source."""

from __future__ import annotations

import json
import math

import pytest
from click.testing import CliRunner

from pondrel.cli import main
from pondrel.core.circuit.fault import Fault
from pondrel.core.circuit.solve import solve
from pondrel.core.evidence.asked import Measurement
from pondrel.demo.load import SHEETS
from pondrel.trial.foreign import (
    BODY_MOVES,
    BODY_VOLTS,
    SENSORS,
    ForeignCase,
    ForeignVehicle,
    by_sort,
    foreign_cases,
    mixed,
    try_foreign,
)

from ..reference import needs_ngspice

TEXT = (SHEETS / "step_lights.yaml").read_text()


def test_ten_vehicles_are_of_every_sort_and_the_seed_says_which(demo_workups):
    workup = demo_workups["step_lights"]
    assert sum(mixed(10).values()) == 10 and min(mixed(10).values()) >= 1
    cases = foreign_cases(workup, 4, mixed(10))
    assert cases == foreign_cases(workup, 4, mixed(10)) != foreign_cases(workup, 5, mixed(10))
    assert {len(case.faults) for case in cases} == {0, 1, 2}
    assert all(len({fault.part for fault in case.faults}) == len(case.faults) for case in cases)


@needs_ngspice
def test_a_sound_vehicle_is_worn_within_the_trade_s_limits(demo_workups):
    """Its body stands above the post, its contacts lose more than the sheet's, and none of it is beyond a tenth of a volt a connection."""
    workup = demo_workups["step_lights"]
    sheet = workup.sheet
    new = solve(sheet, "open")
    for seed in range(4):
        vehicle = ForeignVehicle(workup, TEXT, ForeignCase("sound", (), seed), blunders=0.0)
        body = float(vehicle.answer(Measurement("open", "volts", "g3", "batt-")).measured.value)
        assert BODY_VOLTS[0] - BODY_MOVES < body < BODY_VOLTS[1] + BODY_MOVES + 0.06
        pin = float(vehicle.answer(Measurement("open", "volts", "c12.in", "s1.out")).measured.value)
        assert new.places["c12.in"] - new.places["s1.out"] < pin < 0.15


@needs_ngspice
def test_the_battery_sags_while_one_measures(demo_workups):
    workup = demo_workups["step_lights"]
    vehicle = ForeignVehicle(workup, TEXT, ForeignCase("sound", (), 2), blunders=0.0)
    volts = [vehicle.answer(Measurement("shut", "volts", "batt+", "batt-")).measured.value for _ in range(13)]
    assert volts[0] - volts[-1] == pytest.approx(0.3, abs=0.1)


@needs_ngspice
def test_worn_and_sound_vehicles_are_not_condemned(demo_workups):
    workup = demo_workups["step_lights"]
    tried = [try_foreign(workup, TEXT, ForeignCase("sound", (), seed)) for seed in (11, 12)]
    assert not any(t.named for t in tried)
    told = by_sort(tried)["sound"]
    assert told["vehicles"] == 2 and told["right"] == 1.0 and told["condemned_wrongly"] == 0.0


@needs_ngspice
@pytest.mark.slow
def test_the_command_reports_by_sort(tmp_path):
    answer = CliRunner().invoke(
        main, ["trial", str(SHEETS / "step_lights.yaml"), "--world", "foreign", "--vehicles", "4", "--workers", "1", "--json"]
    )
    told = json.loads(answer.output)
    assert told["world"] == "foreign" and sum(row["vehicles"] for row in told["sorts"].values()) == 4
    assert {"right", "one_led", "called_sound", "named_wrongly", "condemned_wrongly", "tests", "minutes"} <= set(told["sorts"]["single"])
    assert {"found_in_turn"} <= set(told["sorts"].get("two", {"found_in_turn": 0.0}))
    assert 0.0 <= told["brier"] < 0.5 and told["calibration"]


@needs_ngspice
def test_of_two_faults_the_second_is_found_when_the_first_is_repaired(demo_workups):
    """A lamp behind an open ground is masked by it; with the ground repaired it shows."""
    workup = demo_workups["step_lights"]
    case = ForeignCase("two", (Fault("G3", "open"), Fault("LA1", "open")), 5)
    tried = try_foreign(workup, TEXT, case, blunders=0.0)
    assert tried.hits == 1 and not tried.right
    assert tried.in_turn


@needs_ngspice
def test_what_is_unplugged_is_unplugged_in_the_foreign_world_too(demo_workups):
    workup = demo_workups["step_lights"]
    vehicle = ForeignVehicle(workup, TEXT, ForeignCase("single", (Fault("LA2", "open"),), 3), blunders=0.0)
    plain, off = (
        vehicle.answer(Measurement("shut", "ohms", "la2.feed", "batt-", names)).measured.value for names in ((), ("LA1", "LA3"))
    )  # fmt: skip
    assert plain < 5.0 and off == math.inf
    alone = vehicle.answer(Measurement("shut", "ohms", "la1.feed", "la1.gnd", ("LA1 alone",)))
    assert alone.measured.value == pytest.approx(1.2, abs=0.6) and alone.without == ("LA1 alone",)


@needs_ngspice
def test_electronics_without_power_show_the_foreign_ohmmeter_anything(demo_workups):
    workup = demo_workups["kneeling_valves"]
    shown = {
        ForeignVehicle(workup, (SHEETS / "kneeling_valves.yaml").read_text(), ForeignCase("sound", (), seed), 0.0)
        .answer(Measurement("parked", "ohms", "n7.5", "n7.31"))
        .measured.value
        for seed in range(4)
    }
    assert len(shown) == 4 and max(shown) > 3.0 * min(shown)


@needs_ngspice
def test_a_delay_of_the_foreign_world_is_its_own_relay_s(demo_workups):
    workup = demo_workups["cabin_light"]
    text = (SHEETS / "cabin_light.yaml").read_text()
    relay = next(name for name, part in workup.sheet.parts.items() if part.kind.delay is not None)
    question = next(q for q in workup.questions if q.kind == "delay")
    words = []
    for faults in ((), (Fault(relay, "capacitor_dry"),)):
        case = ForeignCase("single" if faults else "sound", faults, 5)
        words.append([ForeignVehicle(workup, text, case, blunders=0.0).answer(question).outcome for _ in range(12)])
    assert words[0].count("as it should") >= 9 and words[1].count("too short") >= 9


@needs_ngspice
def test_sensors_and_inputs_of_a_foreign_vehicle_have_ohms_and_volts_of_their_own(demo_workups):
    """A thermistor within seven percent of its sheet's, never just that; what hangs between it and its input follows."""
    workup, text = demo_workups["engine_sensors"], (SHEETS / "engine_sensors.yaml").read_text()
    thermistor = next(name for name, part in workup.sheet.parts.items() if part.kind.name == "thermistor")
    own, volts = workup.sheet.parts[thermistor].elements()[0].ohms, set()
    for seed in range(4):
        vehicle = ForeignVehicle(workup, text, ForeignCase("sound", (), seed), blunders=0.0)
        part = vehicle._circuit("idle").parts[thermistor]
        ohms = next(e.ohms for e in part.elements() if e.name == "")
        assert SENSORS[0] <= ohms / own <= SENSORS[1] and abs(ohms / own - 1.0) > 1e-4
        volts.add(vehicle.answer(Measurement("cold", "volts", "t1.sig", "batt-")).measured.value)
    assert max(volts) - min(volts) > 0.03


@needs_ngspice
def test_volts_with_a_lamp_out_are_read_in_the_foreign_world(demo_workups):
    workup = demo_workups["step_lights"]
    vehicle = ForeignVehicle(workup, TEXT, ForeignCase("sound", (), 3), blunders=0.0)
    with_all, without = (
        vehicle.answer(Measurement("open", "volts", "batt+", "la1.feed", off)).measured.value for off in ((), ("LA2", "LA3"))
    )
    assert 0.0 < without < with_all  # less current, less lost on the way
