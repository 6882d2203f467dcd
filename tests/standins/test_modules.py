"""Simulated modules: what they say follows the circuit, fail-safe takes away and gives back, renewal wants to be taught, a K-line wakes."""

from __future__ import annotations

import time

import pytest
from serial import rfc2217

from pondrel.core.base.errors import PondrelError, ReadingError
from pondrel.core.circuit.fault import Fault
from pondrel.core.module.roster import RosterError, parse_roster
from pondrel.core.module.roster.standard import standard_roster
from pondrel.demo.load import ROSTERS
from pondrel.instruments.modules.reached import lines_at
from pondrel.instruments.modules.serial_line import KLine
from pondrel.instruments.modules.tester import Tester as Asker
from pondrel.instruments.modules.trouble import Refused, Silent
from pondrel.standins.modules.unit import FORGETS_AFTER_S
from pondrel.standins.world import World
from tests.served import roster_named, served


def until(true, seconds: float = 20.0) -> None:
    end = time.monotonic() + seconds
    while not true():
        assert time.monotonic() < end, "it did not come to that"
        time.sleep(0.01)


def names(tester, module) -> list[str]:
    return [code.name for code in tester.codes(tester.roster.module(module)).codes]


@pytest.mark.parametrize(
    ("fault", "state", "codes"),
    [
        ("YD.open", "key on", ["P0765-13"]),  # the valve itself
        ("W84.open", "key on", ["P0765-13"]),  # its wire
        ("N6.23.stuck_open", "key on", []),  # a dead driver is not noticed at rest
        ("N6.23.stuck_open", "valve D", ["P0765-12"]),  # commanded, and the pin stays up: to the module that is a short
        ("YD.shorted=4", "valve D", ["P0765-12"]),  # most turns lost, 4 Ω left: it draws too much, and the output shuts itself down
        ("YA.open", "key on", ["P0750-13"]),
        ("YL.open", "key on", ["P0740-13"]),
        ("", "valve D", []),
    ],
)
def test_the_fault_in_the_circuit_sets_the_code_that_the_real_module_would_set(fault, state, codes):
    with (
        served(roster_named("carrall"), "wired_van_gearbox", [fault] if fault else [], state) as own,
        Asker(own.life.roster, lines_at(own.bus)) as tester,
    ):
        assert names(tester, "gearbox") == codes
        assert tester.roll_call()[1].answers


def test_fail_safe_takes_the_output_away_until_the_cause_is_mended_and_the_code_cleared():
    with (
        served(roster_named("carrall"), "wired_van_gearbox", ["YD.open"], "key on") as own,
        Asker(own.life.roster, lines_at(own.bus)) as tester,
    ):
        box = tester.roster.module("gearbox")
        until(lambda: own.modules.units["gearbox"].memory.taken_away == {"d", "lockup"})
        on = box.output("d").command("on")
        with pytest.raises(Refused, match="A fault keeps it"), tester.hold(box, box.output("d"), on, ["caution"]):
            pass
        own.world.mend()
        assert names(tester, "gearbox") == ["P0765-13"]  # mended, and it stays until it is cleared
        tester.clear(box, tester.codes(box), True)
        time.sleep(0.3)
        assert names(tester, "gearbox") == []
        with tester.hold(box, box.output("d"), box.output("d").command("on"), ["caution"]) as held:
            assert held.before.value == pytest.approx(0.0, abs=0.01)
            until(lambda: (held.look().value or 0.0) > 0.7)
            assert own.life.works("YD") and not own.life.works("YA")


def test_a_module_without_supply_is_silent_and_its_neighbour_says_so():
    with (
        served(roster_named("reader_75"), "wired_roof_bow", ["F31.open"], "latched") as own,
        Asker(own.life.roster, lines_at(own.bus)) as tester,
    ):
        assert {one.module.name for one in tester.roll_call() if not one.answers} == {"bow"}
        assert names(tester, "roof") == ["U0182-87", "B1C40-12"]  # latched by its switch, too
        with pytest.raises(Silent):
            tester.data(tester.roster.module("bow"))
        own.world.mend()
        assert all(one.answers for one in tester.roll_call())


def test_a_silent_gateway_hides_all_behind_it_and_the_roll_call_ends_in_time():
    with (
        served(roster_named("reader_75"), "wired_roof_bow", state="latched", silent=["gateway"]) as own,
        Asker(own.life.roster, lines_at(own.bus)) as tester,
    ):
        began = time.monotonic()
        assert not any(one.answers for one in tester.roll_call())
        assert time.monotonic() - began < 10.0  # five modules, called twice each


def test_what_no_circuit_has_moves_with_its_part_or_output_and_stays_within_its_ends():
    now = [0.0]
    with served(roster_named("hop_16"), "kneeling_valves", state="ready") as own:
        own.modules.stop()
        own.life.clock = lambda: now[0]
        air = own.life.roster.module("air")
        own.life._at = 0.0
        now[0] = 1.0
        own.life.go_on()
        assert own.life.value(air, air.data["left"]) == 5.0  # it is up already
        own.world.drive({"N7.5": "on"})
        now[0] = 2.0
        own.life.go_on()
        assert own.life.value(air, air.data["left"]) == pytest.approx(-9.0) and own.life.value(air, air.data["right"]) == 4.0
        now[0] = 60.0
        own.life.go_on()
        assert own.life.value(air, air.data["left"]) == -70.0


def test_a_renewed_module_wants_to_be_taught_and_says_what_it_misses():
    roster = roster_named("ferrow")
    with served(roster) as own, Asker(roster, lines_at(own.bus)) as tester:
        brakes = roster.module("brakes")
        teach = brakes.routine("teach")
        assert names(tester, "brakes") == []
        own.modules.renew("brakes")
        assert names(tester, "brakes") == ["C1A52-54"]
        safe = ["steering_brakes", "caution"]
        own.life.set("brakes.steering", "12")
        assert tester.routine(brakes, teach, safe) == ("It was not taught: steering straight, standing still, and again.", False)
        assert names(tester, "brakes") == ["C1A52-54"]
        own.life.set("brakes.steering", "0.5")
        assert tester.routine(brakes, teach, safe) == ("The sensors are taught.", True)
        tester.clear(brakes, tester.codes(brakes), True)
        time.sleep(0.2)
        assert names(tester, "brakes") == []
        with pytest.raises(RosterError, match="no module 'brake'"):
            own.modules.renew("brake")


def test_a_session_that_nobody_keeps_ends_by_itself_and_one_that_is_kept_does_not():
    now = [100.0]
    roster = roster_named("hop_16")
    with served(roster, "kneeling_valves", state="ready") as own:
        own.modules.stop()
        unit = own.modules.units["air"]
        own.life.clock = lambda: now[0]
        assert unit.answer(b"\x10\x03")[0] == 0x50 and unit.answer(bytes.fromhex("2FD1500301"))[0] == 0x6F
        for _ in range(5):
            now[0] += 0.8 * FORGETS_AFTER_S
            assert unit.answer(b"\x3e\x80") is None  # asked not to answer
            unit.go_on()
            assert unit.session == 3 and unit.held
        now[0] += 1.1 * FORGETS_AFTER_S
        unit.go_on()
        assert unit.session == 1 and not unit.held


def test_all_are_asked_at_once_and_nobody_refuses_aloud():
    roster = roster_named("carrall")
    with served(roster, "wired_van_gearbox", state="key on") as own:
        own.modules.stop()
        units = own.modules.units
        assert units["gearbox"].answer(b"\xba\x01", asked_all=True) is None and units["gearbox"].answer(b"\xba\x01") == b"\x7f\xba\x11"
        assert units["engine"].answer(b"\x01\x00", asked_all=True)[:2] == b"\x41\x00"


@pytest.mark.slow
@pytest.mark.filterwarnings("ignore:set(Daemon|Name)")  # the serial library's own
@pytest.mark.parametrize("speaks_9141", [False, True])
def test_the_k_line_wakes_fast_and_slowly_and_brings_codes_data_and_outputs(speaks_9141):
    roster = roster_named("ferrow")
    with served(roster, speaks_9141=speaks_9141) as own, Asker(roster, lines_at(own.kline)) as tester:
        winch, engine = roster.module("winch"), roster.module("engine")
        assert [one.answers for one in tester.roll_call([winch])] == [True]
        assert {value.datum.name: value.says for value in tester.data(winch)} == {"volts": "12.20 V", "rope": "14.5 m"}
        with tester.hold(winch, winch.output("lamp"), winch.output("lamp").command("on"), []):
            assert own.life.commanded == {"winch.lamp"}
        assert own.life.commanded == frozenset()
        assert [(code.name, code.status) for code in tester.codes(engine).codes] == [("P0113", "present")]
        own.life.silent.add("winch")
        assert [one.answers for one in tester.roll_call([winch])] == [False]


@pytest.mark.slow
@pytest.mark.filterwarnings("ignore:set(Daemon|Name)")  # the serial library's own
def test_an_address_that_a_busy_machine_spelled_late_is_spelled_again_and_a_silent_module_is_not(monkeypatch):
    spelled = 0
    real, spell = rfc2217.Serial._update_break_state, KLine._spelled

    def held_up(port) -> None:
        nonlocal spelled
        if spelled == 4:
            time.sleep(0.45)
        spelled += 1
        real(port)

    monkeypatch.setattr(rfc2217.Serial, "_update_break_state", held_up)
    roster = roster_named("ferrow")
    with served(roster) as own, Asker(roster, lines_at(own.kline)) as tester:
        engine = roster.module("engine")
        assert names(tester, "engine") == ["P0113"] and spelled >= 20
        own.life.silent.add("engine")
        time.sleep(5.0)  # until the talk is over
        spelled = 5
        monkeypatch.setattr(KLine, "_spelled", lambda line, address: spell(line, address) is not None)  # as if in its time
        with pytest.raises(Silent):
            tester.codes(engine)
        assert spelled == 15  # once, and not as often as there are tries


def test_a_vehicle_with_numbers_of_29_bits_is_found_by_calling():
    text = (
        (ROSTERS / "carrall.yaml").read_text().replace("asks: 0x7E0", "asks: 0x18DA10F1").replace("answers: 0x7E8", "answers: 0x18DAF110")
    )
    with served(parse_roster(text), "wired_van_gearbox") as own, Asker(standard_roster(), lines_at(own.bus)) as tester:
        here = [one.module for one in tester.roll_call() if one.answers]
        assert [module.title for module in here] == ["Gearbox module", "Engine module (29 bits)"]
        told = {value.datum.title: value.says for value in tester.data(here[1]) if value.value is not None}
        assert told["Coolant"] == "21 °C"


@pytest.mark.slow
@pytest.mark.filterwarnings("ignore:set(Daemon|Name)")  # the serial library's own
@pytest.mark.parametrize("speaks_9141", [False, True])
def test_on_a_k_line_the_emission_system_of_any_vehicle_is_one_address(speaks_9141):
    roster = standard_roster()
    with served(roster_named("carrall"), speaks_9141=speaks_9141) as own, Asker(roster, lines_at(own.kline)) as tester:
        called = tester.roll_call()
        assert [(one.module.name, one.answers) for one in called] == [("obd7e8", True)]  # and not one answer eight times
        told = {value.datum.title: value.says for value in tester.data(called[0].module) if value.value is not None}
        assert told["Coolant"] == "21 °C" and told["Supply at the module"] == "12.40 V"
        assert tester.codes(called[0].module).codes == ()


def test_a_module_that_hangs_wakes_after_its_time_without_supply_and_not_before():
    with served(roster_named("reader_75")) as own, Asker(own.life.roster, lines_at(own.bus)) as tester:
        shelf, now = tester.roster.module("shelf"), [100.0]
        own.life.clock = lambda: now[0]

        def supply(off: bool, seconds: float) -> None:
            own.life.set("shelf.supply_off", "1" if off else "0")
            own.life.go_on()
            now[0] += seconds
            own.life.go_on()

        own.life.set("shelf.hangs", "1")
        assert not own.life.alive(shelf)
        supply(True, 8.0)
        supply(False, 10.0)
        assert not own.life.alive(shelf)  # its roster says 12 s
        supply(True, 14.0)
        supply(False, 1.0)
        assert not own.life.alive(shelf)  # it is waking
        supply(False, 3.0)
        assert own.life.alive(shelf) and tester.roll_call([shelf])[0].answers


def test_a_renewed_module_tells_another_number_and_wants_to_be_taught_by_a_drive():
    with served(roster_named("ferrow")) as own, Asker(own.life.roster, lines_at(own.bus)) as tester:
        brakes = tester.roster.module("brakes")
        number = lambda: tester.data(brakes, [brakes.datum("number")])[0].says  # noqa: E731
        assert number() == "BT-4410-B" and names(tester, "brakes") == []
        own.life.renew("Brake module")
        assert number() == "BT-4410-C" and names(tester, "brakes") == ["C1A52-54"]
        with pytest.raises(RosterError):
            own.life.renew("nobody")


def test_a_drive_moves_its_facts_and_tells_when_it_is_over():
    with served(roster_named("ferrow")) as own:
        now = [10.0]
        own.life.clock = lambda: now[0]
        brakes = own.life.roster.module("brakes")
        own.life.drive("yard")
        now[0] += 6.0
        own.life.go_on()
        assert own.life.value(brakes, brakes.datum("speed")) == pytest.approx(9.0)
        assert own.life.value(brakes, brakes.datum("steering")) == pytest.approx(-420.0)
        assert own.life.facts["driven.yard"] == 0.0
        now[0] += 30.0
        own.life.go_on()
        assert own.life.value(brakes, brakes.datum("speed")) == 0.0 and own.life.facts["driven.yard"] == 1.0
        with pytest.raises(ReadingError, match="no drive 'moon'"):
            own.life.drive("moon")


def test_a_load_stands_in_for_a_part_and_takes_its_fault_out_of_the_circuit(demo_sheets):
    world = World(demo_sheets["wired_van_gearbox"], (Fault("YD", "open"),))
    world.turn("valve D")
    assert world.point().currents["YD"] == pytest.approx(0.0, abs=1e-3)
    world.substitute("YD", 15.0)
    assert abs(world.point().currents["YD"]) == pytest.approx(0.82, abs=0.02)
    world.substitute("YD", 0.0)
    assert world.point().currents["YD"] == pytest.approx(0.0, abs=1e-3)
    for part, ohms in (("N6", 15.0), ("YD", -1.0), ("nothing", 1.0)):
        with pytest.raises(PondrelError):
            world.substitute(part, ohms)
