"""The stand-in meter: what it reads of the simulated vehicle, its ranges, its settling, and its language."""

from __future__ import annotations

import pytest

from pondrel.core.base.errors import ReadingError
from pondrel.core.circuit.fault import parse_fault
from pondrel.core.circuit.measure import measure
from pondrel.core.circuit.read.sheet import parse_sheet
from pondrel.core.making.typical import made, typical_called
from pondrel.standins.meter import LEAD_OHMS, OVER, Meter
from pondrel.standins.scpi import LONGEST_LINE, NO_ERROR, Scpi
from pondrel.standins.world import World


class Clock:
    def __init__(self):
        self.now = 1000.0

    def __call__(self):
        return self.now


@pytest.fixture
def clock():
    return Clock()


@pytest.fixture
def meter(step_light, clock):
    return Meter(World(step_light), 1, clock)


@pytest.fixture
def scpi(meter):
    return Scpi(meter)


def settled(meter, clock):
    """A reading long after the probes were moved, without one taken before."""
    clock.now += 10.0
    return meter.read()


def test_it_reads_what_the_circuit_has_within_its_accuracy(meter, clock, step_light):
    meter.world.turn("lit")
    meter.world.put("lamp.feed")
    true = measure(step_light, "lit", "volts", "lamp.feed", "").exact
    assert settled(meter, clock) == pytest.approx(true, abs=5e-4 * true + 1e-4 * 100)
    sick = Meter(World(step_light, (parse_fault(step_light, "G1.high_resistance=2"),)), 1, clock)
    sick.world.turn("lit")
    sick.world.put("lamp.feed")
    assert measure(step_light, "lit", "volts", "g1", "").exact < 0.1 < 1.0
    sick.world.put("g1")
    assert settled(sick, clock) > 1.0


def test_the_display_runs_to_its_number_after_the_probes_were_moved(meter, clock):
    meter.world.put("lamp.feed")
    meter.world.turn("lit")
    first = meter.read()
    clock.now += 0.1
    second = meter.read()
    clock.now += 5.0
    assert abs(first) < 0.5 < second < meter.read()


def test_a_chosen_range_goes_over_and_the_automatic_one_does_not(meter, clock):
    meter.world.turn("lit")
    meter.world.put("lamp.feed")
    settled(meter, clock)
    meter.choose("VOLT", 1.0)
    assert settled(meter, clock) == OVER
    meter.choose("VOLT")
    assert 11.0 < settled(meter, clock) < 13.0
    assert not meter.choose("VOLT", 5000.0)


def test_in_the_air_ohms_are_over_range_and_volts_nothing(meter, clock):
    assert settled(meter, clock) == pytest.approx(0.0, abs=1e-3)
    meter.choose("RES")
    assert settled(meter, clock) == OVER


def test_leads_are_in_two_wire_ohms_until_they_are_zeroed(meter, clock, step_light):
    meter.world.put("lamp.feed", "g1")
    meter.world.unplug("LA1 alone")
    meter.choose("RES")
    raw = settled(meter, clock)
    meter.zero()
    assert settled(meter, clock) == pytest.approx(raw - LEAD_OHMS, abs=0.02)
    meter.choose("FRES")
    assert settled(meter, clock) == pytest.approx(raw - LEAD_OHMS, abs=0.02)


def test_an_ohmmeter_that_a_mark_forbids_reads_nothing_and_breaks_nothing(meter, clock):
    meter.world.turn("lit")
    meter.world.put("batt+", "lamp.feed")
    meter.choose("CURR")
    assert settled(meter, clock) == OVER  # nothing joins the two directly: there is no line to stand in


def test_what_is_no_place_or_state_is_refused(meter):
    with pytest.raises(ReadingError, match="no place"):
        meter.world.put("nowhere")
    with pytest.raises(ReadingError, match="no state"):
        meter.world.turn("flying")
    with pytest.raises(ReadingError, match="two different places"):
        meter.world.put("g1", "g1")


@pytest.mark.parametrize(
    "line",
    [
        "MEASure:VOLTage:DC?",
        "meas:volt:dc?",
        "MEAS:VOLT?",
        ":MEAS:SCAL:VOLT:DC? AUTO",
        "measure:voltage:ac? MAX",
        "MEAS:RES? 1E3",
        "READ?",
        "CONF:FRES;READ?",
    ],
)
def test_commands_are_taken_in_long_and_short_form(scpi, line):
    reply = scpi.answer(line)
    assert reply is not None and abs(float(reply.split(";")[-1])) >= 0.0 and scpi.answer("SYST:ERR?") == NO_ERROR


@pytest.mark.parametrize(
    ("line", "number"),
    [
        ("FLY:ME", -113),
        ("MEAS:VOLT", -113),
        ("MEASU:VOLT?", -113),
        ("CONF:VOLT 5000", -222),
        ("CONF:VOLT much", -104),
        ('ROUT:PROB "nowhere"', -224),
        ("ROUT:STAT", -109),
        ("FUNC 'TEMP'", -224),
        ("é!", -102),
        ("X" * (LONGEST_LINE + 1), -363),
    ],
)
def test_what_is_wrong_is_queued_and_not_answered(scpi, line, number):
    assert scpi.answer(line) is None
    told = scpi.answer("SYSTem:ERRor?")
    assert told.startswith(f"{number},") and scpi.answer("SYST:ERR?") == NO_ERROR


def test_the_queue_overflows_by_the_book_and_is_cleared(scpi):
    for _ in range(30):
        scpi.answer("FLY")
    errors = [scpi.answer("SYST:ERR?") for _ in range(21)]
    assert errors[19].startswith("-350,") and errors[20] == NO_ERROR
    scpi.answer("FLY")
    scpi.answer("*CLS")
    assert scpi.answer("SYST:ERR?") == NO_ERROR and scpi.answer("*ESR?") == "0"


def test_an_error_ends_the_line_and_what_came_before_is_answered(scpi):
    assert scpi.answer("*OPC?;FLY;*IDN?") == "1"


def test_configuration_range_and_function_are_told(scpi):
    scpi.answer("CONF:RES 400")
    assert scpi.answer("CONF?") == '"RES +1.00000000E+03"' and scpi.answer("RES:RANG:AUTO?") == "0"
    scpi.answer("RES:RANG:AUTO ON")
    assert scpi.answer("RES:RANG:AUTO?;CONF?") == '1;"RES AUTO"'
    scpi.answer('FUNC "VOLT:AC"')
    assert scpi.answer("FUNC?") == '"VOLT:AC"'
    scpi.answer("*RST")
    assert scpi.answer("FUNC?") == '"VOLT"'


def test_probes_states_and_plugs_go_by_route_commands(scpi, step_light):
    scpi.answer('ROUT:STAT "lit";ROUT:PROB "lamp.feed","g1";ROUT:UNPL "LA1"')
    assert scpi.answer("ROUT:PROB?;ROUT:STAT?") == '"lamp.feed","g1";"lit"' and "LA1" in scpi.answer("ROUT:UNPL?")
    assert scpi.answer("ROUT:PLAC?").count('"') == 2 * len(step_light.places) and "lit" in scpi.answer("ROUT:STAT:CAT?")


def test_what_is_seen_and_heard_of_the_vehicle_follows_its_state_and_its_fault():
    sheet = parse_sheet(made(typical_called("starter"), {}))
    sound, dead = World(sheet), World(sheet, (parse_fault(sheet, "K1.coil_open"),))
    for world in (sound, dead):
        world.turn("start")
    line = Scpi(Meter(sound)).answer("ROUT:SIGH?")
    assert "turns the engine" in line and "starter" in line
    assert "does not turn" in Scpi(Meter(dead)).answer("ROUTe:SIGHts?")
    dead.mend()
    assert "turns the engine" in Scpi(Meter(dead)).answer("ROUTe:SIGHts?")
