"""What instruments show: they load the circuit, see parallel paths, refuse what they cannot measure, and know their own accuracy."""

from __future__ import annotations

import math

import pytest

from pondrel.core.base.errors import ReadingError
from pondrel.core.circuit.fault import parse_fault
from pondrel.core.circuit.measure import LEAD_OHMS, Leads, measure
from pondrel.core.meter.instrument import INSTRUMENTS, displayed

from ...circuits import sheet_of

BENCH = sheet_of(
    """
    BAT: {kind: battery, pins: {p: b+, n: b-}, volts: 12, ohms: 0}
    S: {kind: switch, pins: {a: b+, b: s}, ohms: 0}
    R1: {kind: resistor, pins: {a: s, b: m}, ohms: 1000000}
    R2: {kind: resistor, pins: {a: m, b: b-}, ohms: 1000000}
    W: {kind: wire, pins: {a: s, b: w}, ohms: 0.5}
    L: {kind: resistor, pins: {a: w, b: b-}, ohms: 5.5}
    D: {kind: diode, pins: {a: d, k: b-}}
    RD: {kind: resistor, pins: {a: d, b: e}, ohms: 100}
    RP: {kind: resistor, pins: {a: p, b: q}, ohms: 300}
    RQ: {kind: resistor, pins: {a: p, b: q}, ohms: 600}
    """,
    states="off: {S: open}, on: {S: closed}",
)


def test_a_voltmeter_and_more_so_a_low_impedance_one_loads_a_high_impedance_divider():
    high = measure(BENCH, "on", "volts", "m", "b-")
    assert high.measured.value == pytest.approx(12 * (1 / (1 / 1e6 + 1 / 10e6)) / (1e6 + 1 / (1 / 1e6 + 1 / 10e6)), abs=0.01)
    assert high.true == pytest.approx(6.0, abs=0.01)
    assert "loads what it measures: 6.0" in high.notes[0] or "loads what it measures: 5.9" in high.notes[0]
    assert abs(measure(BENCH, "on", "lowz", "m", "b-").measured.value) < 0.05
    assert measure(BENCH, "on", "lowz", "w", "b-").measured.value == pytest.approx(11.0, abs=0.02)


def test_ohms_see_parallel_paths_and_leads_that_were_not_zeroed():
    assert measure(BENCH, "off", "ohms", "p", "q").measured.value == pytest.approx(200.0, abs=0.2)
    zeroed = measure(BENCH, "off", "ohms", "w", "b-")
    assert zeroed.measured.value == pytest.approx(5.5, abs=0.05)
    raw = measure(BENCH, "off", "ohms", "w", "b-", leads=Leads(zeroed=False))
    assert raw.measured.value - zeroed.measured.value == pytest.approx(LEAD_OHMS, abs=0.11)


def test_ohms_through_a_diode_depend_on_the_meter_and_on_which_way_round_it_is_held():
    forward = measure(BENCH, "off", "ohms", "e", "b-")
    assert 300 < forward.measured.value < 2000
    assert "diode" in forward.notes[0]
    assert measure(BENCH, "off", "ohms", "b-", "e").measured.value > 10e6


def test_an_ohmmeter_refuses_a_live_circuit_and_says_how_many_volts_there_are():
    shown = measure(BENCH, "on", "ohms", "w", "b-", battery_off=False)
    assert shown.text == "live"
    assert math.isnan(shown.measured.value)
    assert "11.00 V between the leads" in shown.notes[0] and "disconnect the battery" in shown.notes[0]
    assert shown.as_json()["value"] is None


def test_a_few_millivolts_of_a_working_joint_spoil_an_ohmmeter_too():
    """6 mV across a ground under load are three ohms to a meter that sends two milliamperes."""
    sheet = sheet_of(
        """
        BAT: {kind: battery, pins: {p: b+, n: b-}, volts: 12, ohms: 0}
        L: {kind: resistor, pins: {a: b+, b: g}, ohms: 6}
        G: {kind: ground, pins: {a: g, b: b-}, ohms: 0.003}
        """
    )
    live = measure(sheet, "on", "ohms", "g", "b-", battery_off=False)
    assert live.text == "live" and "6.0 mV between the leads" in live.notes[0]
    assert measure(sheet, "on", "ohms", "g", "b-").measured.value == pytest.approx(0.0, abs=0.1)


def test_continuity_beeps_through_what_is_low_and_stays_silent_through_what_is_not():
    assert measure(BENCH, "off", "continuity", "w", "b-").notes == ("Beeps.",)
    assert measure(BENCH, "off", "continuity", "p", "q").notes[-1] == "Stays silent."


def test_an_ammeter_in_line_takes_the_part_s_place_and_a_clamp_leaves_it():
    clamp = measure(BENCH, "on", "clamp", "s", "w")
    assert clamp.measured.value == pytest.approx(2.0, abs=0.01)
    inline = measure(BENCH, "on", "amps", "s", "w")
    assert inline.measured.value == pytest.approx(12 / (5.5 + 0.02 + LEAD_OHMS), abs=0.01)
    assert inline.true == pytest.approx(2.0, abs=0.01)
    with pytest.raises(ReadingError, match="Nothing joins s and e directly"):
        measure(BENCH, "on", "amps", "s", "e")


def test_an_ammeter_across_a_short_blows_its_fuse():
    shown = measure(BENCH, "on", "amps", "s", "w", (parse_fault(BENCH, "L.shorted=0.01"),))
    assert shown.text == "OL"
    assert "the meter's own fuse blows" in shown.notes[0]


def test_a_substitute_load_and_a_test_lamp_show_a_bad_joint_that_a_voltmeter_does_not():
    """12 V through a connection that cannot carry current: the trade's own example."""
    bad = (parse_fault(BENCH, "W.high_resistance=30"), parse_fault(BENCH, "L.open"))
    assert measure(BENCH, "on", "volts", "w", "b-", bad).measured.value == pytest.approx(12.0, abs=0.02)
    loaded = measure(BENCH, "on", "load", "w", "b-", bad)
    assert loaded.measured.value == pytest.approx(12 * 7 / 37, abs=0.02)
    assert "30.0 Ω behind it" in loaded.notes[0]
    assert "glows" in measure(BENCH, "on", "lamp", "w", "b-", bad).notes[0]
    assert "lights:" in measure(BENCH, "on", "lamp", "w", "b-", (parse_fault(BENCH, "L.open"),)).notes[0]


def test_a_display_keeps_to_its_range_its_last_digit_and_its_accuracy():
    volts = INSTRUMENTS["volts"]
    assert displayed(volts, 12.3456).value == pytest.approx(12.35)
    assert displayed(volts, 5.99949).value == pytest.approx(5.999)
    assert displayed(volts, 12.3456, 1.0).value == pytest.approx(12.43)  # 0.5 % and two digits up
    assert displayed(volts, 1500.0).over_range
    assert displayed(INSTRUMENTS["ohms"], math.inf).over_range


def test_unknown_instruments_and_places_are_named():
    with pytest.raises(ReadingError, match="'lux' is no instrument: volts, lowz, ac, ohms"):
        measure(BENCH, "on", "lux", "w", "b-")
    with pytest.raises(ReadingError, match="both on w"):
        measure(BENCH, "on", "volts", "w", "w")
