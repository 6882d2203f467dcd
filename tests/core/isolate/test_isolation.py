"""Belief, advice, proof: does the true part come first, and is nothing said that the readings do not bear."""

from __future__ import annotations

import math

import numpy as np
import pytest

from pondrel.core.base.errors import ReadingError
from pondrel.core.circuit.fault import parse_fault
from pondrel.core.circuit.measure import measure as show
from pondrel.core.circuit.paths import load_paths
from pondrel.core.circuit.read.sheet import parse_sheet
from pondrel.core.evidence.asked import Measurement, Question
from pondrel.core.evidence.csv_file import read_csv
from pondrel.core.evidence.registry import item_of
from pondrel.core.isolate.advise import advice as advice_of
from pondrel.core.isolate.advise.advice import METER_AMPS, Outlook, advise, describe, gains, repeats, together
from pondrel.core.isolate.advise.effort import Situation, minutes_for
from pondrel.core.isolate.believe import belief as beliefs
from pondrel.core.isolate.believe import fit, integral
from pondrel.core.isolate.believe.belief import update
from pondrel.core.isolate.conclude.proof import CERTAIN, SURE, direct_proof, percent
from pondrel.core.isolate.isolation import isolate
from pondrel.core.isolate.predict.workup import Workup
from pondrel.core.isolate.show.descent import descent, expected_volts
from pondrel.core.making.typical import TYPICALS, made
from pondrel.demo.load import SHEETS

from ...circuits import RELAY_PUMP, STEP_LIGHT, measure, reading_of, sheet_of

LIT = [
    ("lit", "batt+", "batt-"),
    ("lit", "f4.out", "batt-"),
    ("lit", "lamp.feed", "batt-"),
    ("lit", "g1", "batt-"),
    ("idle", "lamp.feed", "batt-"),
]
PUMP = [("run", place, "b-") for place in ("b+", "k.86", "k.85", "k.30", "k.87", "m.minus")] + [
    ("rest", "k.87", "b-"),
    ("rest", "b+", "b-"),
    ("rest", "k.86", "b-"),
]


def first(workup: Workup, readings):
    """The first suspect's part, or the group it belongs to."""
    result = isolate(workup, readings)
    part = result.suspects[0].part
    return next((set(g) for g in result.groups if part in g), {part}), result


@pytest.mark.parametrize(
    ("fault", "part"),
    [
        ("G1.high_resistance=1.4", "G1"),
        ("G1.open", "G1"),
        ("C2.1.high_resistance=0.9", "C2.1"),
        ("W1.open", "W1"),
        ("W1.high_resistance=3", "W1"),
        ("S1.stuck_closed", "S1"),
        ("S1.stuck_open", "S1"),
        ("LA1.open", "LA1"),
        ("F4.open", "F4"),
        ("F4.high_resistance=2", "F4"),
        ("", None),
    ],
)
@pytest.mark.parametrize("seed", [1, 2, 3])
def test_the_true_part_comes_first(step_light_workup, fault, part, seed):
    sheet = step_light_workup.sheet
    # Full volts and no drop are those of an open lamp, or of a very good circuit: that it is dark one sees.
    dark = (item_of(sheet, "lit", "see", "LA1", "", "dark"),) if fault == "LA1.open" else ()
    group, _ = first(step_light_workup, (*measure(sheet, fault, LIT, seed=seed), *dark))
    assert part in group


@pytest.mark.parametrize(
    ("fault", "part"),
    [
        ("K1.contact_high_resistance=0.9", "K1"),
        ("K1.contact_open", "K1"),
        ("K1.coil_open", "K1"),
        ("K1.contact_welded", "K1"),
        ("G1.high_resistance=60", "G1"),
        ("G2.high_resistance=0.7", "G2"),
        ("F1.open", "F1"),
        ("S1.stuck_open", "S1"),
        ("M1.open", "M1"),
        ("BAT.high_resistance=0.4", "BAT"),
        ("", None),
    ],
)
@pytest.mark.parametrize("emf", [12.6, 12.1, 13.4])
def test_the_true_part_comes_first_whatever_the_battery_gives(fault, part, emf):
    sheet = parse_sheet(RELAY_PUMP)
    parted = (reading_of(sheet, "rest", "ohms", "k.87", "m.minus", "OL"),) if fault == "M1.open" else ()
    group, _ = first(PUMP_WORKUP, (*measure(sheet, fault, PUMP, emf=emf), *parted))
    assert part in group


PUMP_WORKUP = Workup(parse_sheet(RELAY_PUMP))


def test_severity_is_found_with_an_honest_interval(step_light_workup):
    for ohms in (0.3, 1.4, 6.0, 40.0):
        result = isolate(step_light_workup, measure(step_light_workup.sheet, f"G1.high_resistance={ohms}", LIT))
        value, low, high = result.suspects[0].severity
        assert low < ohms < high
        assert value == pytest.approx(ohms, rel=0.15)


def test_without_a_reading_nothing_is_accused(step_light_workup):
    result = isolate(step_light_workup, ())
    assert result.suspects[0].part is None
    assert not result.standing.ready
    assert result.next


def test_one_mistyped_number_does_not_kill_the_truth_and_is_pointed_out(step_light_workup):
    good = measure(step_light_workup.sheet, "G1.high_resistance=1.4", LIT)
    slip = reading_of(step_light_workup.sheet, "lit", "volts", "f4.out", "batt-", "1.25")  # 12.5 meant
    result = isolate(step_light_workup, (*good[:1], slip, *good[2:]))
    assert result.suspects[0].part == "G1"
    assert [m.reading for m in result.misfits] == [1]
    assert "Reading 2 fits none of the leading suspects" in result.misfits[0].says


def test_a_low_battery_alone_accuses_nobody(step_light_workup):
    group, result = first(step_light_workup, measure(step_light_workup.sheet, "", LIT, emf=11.7))
    assert group == {None}
    assert result.suspects[0].probability > 0.5  # more than all parts together


def test_the_same_inputs_give_the_same_answer_to_the_last_digit(step_light):
    readings = measure(step_light, "G1.high_resistance=1.4", LIT)
    assert isolate(Workup(step_light), readings).as_json() == isolate(Workup(step_light), readings).as_json()


def test_the_order_of_readings_tells_how_far_the_battery_sagged_and_no_more(step_light, monkeypatch):
    monkeypatch.setattr(fit, "SAG", 0.0)
    readings = measure(step_light, "C2.1.high_resistance=0.9", LIT)
    one, other = update(Workup(step_light), readings), update(Workup(step_light), readings[::-1])
    assert np.argsort(-one.probability).tolist() == np.argsort(-other.probability).tolist()
    assert one.probability == pytest.approx(other.probability, abs=1e-6)  # pieces below e⁻¹⁶ are left out, by what was read first


def test_with_nothing_left_out_the_order_changes_no_digit_that_counts(step_light, monkeypatch):
    for module in (integral, beliefs):
        monkeypatch.setattr(module, "REACH", 1e9)
    monkeypatch.setattr(beliefs, "AHEAD", 1e9)
    monkeypatch.setattr(fit, "SAG", 0.0)
    readings = measure(step_light, "C2.1.high_resistance=0.9", LIT)
    one, other = update(Workup(step_light), readings), update(Workup(step_light), readings[::-1])
    assert one.probability == pytest.approx(other.probability, abs=1e-9)


def test_probabilities_sum_to_one(step_light_workup):
    for fault in ("", "G1.open", "W1.short_to_ground"):
        belief = update(step_light_workup, measure(step_light_workup.sheet, fault, LIT))
        assert belief.probability.sum() == pytest.approx(1.0)
        assert belief.atoms.mass.sum() == pytest.approx(1.0)


def test_parts_in_series_without_a_place_between_are_one_group(step_light_workup):
    result = isolate(step_light_workup, measure(step_light_workup.sheet, "W1.open", LIT))
    assert set(result.groups[0]) == {"W1", "C2.1", "S1"}
    assert set(result.standing.target) == {"W1", "C2.1", "S1"}


def test_parts_of_which_only_an_unlikely_fault_of_each_looks_alike_are_no_group():
    """A valve that touches its case and a feed that chafes at its end look alike; an open winding and an open feed do not."""
    sheet = parse_sheet(made(TYPICALS["module_valve"], {}))
    result = isolate(Workup(sheet), (item_of(sheet, "driven", "see", "control module output", "", "open"),))
    valve, feed = (next(name for name, part in sheet.parts.items() if part.called == called) for called in ("valve", "wire, fuse to valve"))
    assert not any({valve, feed} <= set(group) for group in result.groups)
    assert not {valve, feed} <= set(result.standing.target)


def test_a_place_between_them_takes_the_group_apart():
    sheet = parse_sheet(STEP_LIGHT.replace("places:", "places:\n  c2.1: {}\n  c2.1m: {}"))
    result = isolate(Workup(sheet), measure(sheet, "C2.1.open", [*LIT, ("lit", "c2.1", "batt-"), ("lit", "c2.1m", "batt-")]))
    assert result.groups == ()
    assert result.standing.target == ("C2.1",)
    assert result.standing.ready


def test_a_drop_across_the_joint_proves_it_and_one_place_alone_does_not(step_light_workup):
    sheet = step_light_workup.sheet
    proved = isolate(step_light_workup, measure(sheet, "G1.high_resistance=1.4", [("lit", "g1", "batt-")])).standing
    assert proved.target == ("G1",)
    assert proved.proof == (0,)
    dark = isolate(step_light_workup, measure(sheet, "W1.open", [("lit", "lamp.feed", "batt-")])).standing
    assert not dark.ready


def test_a_blown_fuse_is_not_condemned_while_a_short_could_have_blown_it(step_light_workup):
    sheet = step_light_workup.sheet
    blown = measure(sheet, "F4.open", LIT)
    assert not isolate(step_light_workup, blown).standing.ready
    no_short = [reading_of(sheet, state, "ohms", "f4.out", "batt-", text) for state, text in (("lit", "1.3"), ("idle", "OL"))]
    result = isolate(step_light_workup, (*blown, *no_short))
    assert result.standing.target == ("F4",)
    assert result.standing.ready
    shorted = reading_of(sheet, "idle", "ohms", "f4.out", "batt-", "0.2")
    assert isolate(step_light_workup, (*blown, shorted)).suspects[0].part == "W1"


def test_when_a_target_is_certain_the_proof_tests_come_first():
    sheet = parse_sheet(RELAY_PUMP)
    readings = measure(sheet, "G2.high_resistance=0.7", [("run", "b+", "b-"), ("run", "k.87", "b-")])
    result = isolate(PUMP_WORKUP, readings)
    seen = 0
    while not result.standing.ready and seen < 6:
        test = result.next[0].test
        assert test.instrument == "volts"
        readings = (*readings, *measure(sheet, "G2.high_resistance=0.7", [(test.state, test.red, test.black)]))
        result, seen = isolate(PUMP_WORKUP, readings), seen + 1
    assert result.standing.target == ("G2",)
    assert direct_proof(result.belief, ("G2",))


def taken(sheet, fault: str, test: Measurement):
    """The reading that a test gives, whatever its instrument."""
    shown = show(sheet, test.state, test.instrument, test.red, test.black, (parse_fault(sheet, fault),))
    text = "OL" if shown.text == "OL" else f"{shown.measured.value:.4g}"
    return reading_of(sheet, test.state, test.instrument, test.red, test.black, text)


def test_following_the_advice_isolates_every_fault_of_the_pump():
    sheet = parse_sheet(RELAY_PUMP)
    for fault in ("K1.contact_open", "G2.open", "F1.high_resistance=0.8", "M1.open", "S1.high_resistance=70"):
        readings: tuple = ()
        for _ in range(12):
            result = isolate(PUMP_WORKUP, readings)
            if result.standing.ready or not result.next:
                break
            readings = (*readings, taken(sheet, fault, result.next[0].test))
        part = fault.split(".")[0]
        assert result.standing.target == (part,) and result.belief.parts()[part] > 0.95, (fault, result.standing)


def test_a_gain_is_never_more_than_what_is_not_known(step_light_workup):
    belief = update(step_light_workup, ())
    p = np.array(list(belief.parts().values()))
    entropy = -(p * np.log2(p)).sum()
    bits = gains(belief, step_light_workup.offered)
    assert bits.min() >= 0
    assert bits.max() < entropy


def test_a_test_already_made_tells_next_to_nothing_again(step_light_workup):
    readings = measure(step_light_workup.sheet, "G1.high_resistance=1.4", [("lit", "f4.out", "batt-"), ("lit", "batt+", "batt-")])
    belief = update(step_light_workup, readings)
    assert gains(belief, (Measurement("lit", "volts", "f4.out", "batt-"),))[0] < 0.02
    assert all(a.test not in {r.test for r in readings} for a in advise(belief))


def test_access_is_paid_once(step_light_workup):
    sheet = step_light_workup.sheet
    test = Measurement("lit", "volts", "lamp.feed", "batt-")
    taken = measure(sheet, "", [("lit", "g1", "batt-")])
    before, after = (minutes_for(sheet, test, Situation.of(sheet, items)) for items in ((), taken))
    assert before - after == pytest.approx(6 + 0.2)


def test_a_lead_that_is_where_it_is_wanted_stays_there(step_light_workup):
    sheet = step_light_workup.sheet
    taken = measure(sheet, "", [("lit", "f4.out", "lamp.feed")])
    here = Situation.of(sheet, taken)
    place = {name: sheet.places[name].minutes for name in ("f4.out", "lamp.feed", "g1")}
    assert minutes_for(sheet, Measurement("lit", "volts", "lamp.feed", "g1"), here) == pytest.approx(place["g1"])
    assert minutes_for(sheet, Measurement("lit", "volts", "lamp.feed", "batt-"), here) == pytest.approx(0.3)  # only read
    assert minutes_for(sheet, Measurement("idle", "volts", "f4.out", "lamp.feed"), here) == pytest.approx(0.5)
    moved = here.after(sheet, Measurement("lit", "volts", "g1", "batt-"))
    assert minutes_for(sheet, Measurement("lit", "volts", "f4.out", "lamp.feed"), moved) == pytest.approx(
        place["f4.out"] + place["lamp.feed"]
    )
    looked = here.after(sheet, Question("see", "dark", "idle"))
    assert looked.leads == here.leads and looked.state == "idle"
    good = Situation.of(sheet, (*taken, reading_of(sheet, "lit", "volts", "g1", "batt-", "0.02", good=True)))
    assert good.leads == frozenset() and good.gained == here.gained


def test_what_is_said_to_prove_a_fuse_tells_of_the_short_that_a_slip_hides(demo_workups):
    """F21 is blown, and 14.9 Ω was read where W12 had chafed through to 0.4: nothing that fits F21 speaks against W12."""
    sheet = demo_workups["tail_lift"].sheet
    taken = [
        ("raise", "see", "contactor", "", "silent"), ("raise", "volts", "f21.out", "batt-", "0.0008"),
        ("raise", "ohms", "f21.out", "batt-", "14.9"), ("lower", "ohms", "f21.out", "batt-", "15.1"),
        ("lower", "ohms", "batt+", "f21.out", "OL"),
    ]  # fmt: skip
    items = tuple(item_of(sheet, *columns) for columns in taken)
    first = isolate(demo_workups["tail_lift"], items)
    assert first.standing.target == ("F21",) and not first.standing.proof
    assert first.next[0].gain_bits > 0.05
    assert (first.next[0].test.state, first.next[0].test.instrument) == ("raise", "ohms")
    left_out = tuple(item_of(sheet, "", "skip", name, "", "not here") for name in sheet.places if name not in ("f21.out", "batt+", "batt-"))
    then = isolate(demo_workups["tail_lift"], (*items, *left_out))
    assert then.next[0].test == items[2].test and "reading 3 may have been a slip" in then.next[0].steps[0]


def test_two_readings_at_the_battery_tell_how_it_holds_up():
    """A battery of 0.5 Ω of which nobody knows how full it is: one reading of 10.3 V with the lamps on says next to nothing."""
    text = (SHEETS / "step_lights.yaml").read_text().replace("ohms: 0.008,", "ohms: 0.008, tolerance: 0.2,")
    workup = Workup(parse_sheet(text))
    sheet = workup.sheet
    places = ("la1.gnd", "la2.gnd", "j2", "g3")
    items = measure(sheet, "BAT.high_resistance=0.5", [("open", place, "batt-") for place in places] + [("open", "batt+", "la1.feed")])
    belief = update(workup, items)
    lit, dark = Measurement("open", "volts", "batt+", "batt-"), Measurement("shut", "volts", "batt+", "batt-")
    outlook = Outlook(belief)
    alone = gains(belief, (lit, dark), outlook)
    assert together(outlook, lit, dark) == pytest.approx(together(outlook, dark, lit), abs=1e-3)
    assert together(outlook, lit, dark) > 2 * alone.max()
    sigma = outlook.difference(lit, dark)[1][outlook.hypothesis == 0]
    assert sigma.max() < 0.3  # the meter twice, and a supply that wanders by so much of its tolerance
    (said,) = advise(belief, (lit, dark))
    assert {said.test.state, said.steps[-1].split()[-1]} == {"open", "shut"}
    assert said.gain_bits > alone.max()
    after = update(workup, (*items, *measure(sheet, "BAT.high_resistance=0.5", [("shut", "batt+", "batt-")])))
    assert gains(after, (lit,))[0] > 2 * alone[0]
    both = update(workup, (*after.items, *measure(sheet, "BAT.high_resistance=0.5", [("open", "batt+", "batt-")])))
    assert both.parts()["BAT"] > 0.8


def test_a_contact_that_chatters_divides_its_time_alike_for_all_readings(demo_workups):
    """A fuse of 36 Ω starves its relay. Above and below one place the volts add up, however the relay divides its time."""
    workup = demo_workups["cabin_light"]
    rows = np.flatnonzero(workup.points("open").swings)
    assert rows.size
    above, below, whole = (
        workup.reading_spreads((Measurement("open", "volts", *leads),), (0.0,), rows)[:, 0, -len(workup.sheet.states) :]
        for leads in (("batt+", "k12.87"), ("k12.87", "batt-"), ("batt+", "batt-"))
    )
    assert np.abs(below).max() > 1.0
    assert above + below == pytest.approx(whole, abs=1e-3)
    leads = [("open", "k12.87", "batt-"), ("open", "batt+", "k12.87"), ("open", "batt+", "batt-")]
    belief = update(workup, measure(workup.sheet, "F11.high_resistance=36", leads))
    # The fuse's volts may be as the contact's, so the readings must leave both.
    assert 0.1 < belief.parts()["F11"] / belief.parts()["K12"] < 10


def test_no_ammeter_is_put_where_a_short_may_go_through_it(step_light_workup):
    readings = measure(step_light_workup.sheet, "F4.open", [("lit", "f4.out", "batt-"), ("lit", "batt+", "batt-")])
    result = isolate(step_light_workup, readings)
    assert any(s.mode == "short_to_ground" and s.probability > 0.02 for s in result.suspects)
    assert all(a.test.instrument != "amps" for a in result.next)
    assert METER_AMPS == 10.0


@pytest.mark.parametrize("name", ["step_lights", "kneeling_valves", "tail_lift", "ramp_motor"])
def test_no_suspect_that_would_blow_an_ammeter_is_passed_over(demo_workups, name):
    """Those looked at with the meter in the fuse's place are all that send more than it carries, by looking at every one."""
    workup, seen = demo_workups[name], 0
    rows = np.arange(0, workup.curves.rows, 2)
    for test in [t for t in workup.offered if t.instrument == "amps"][:6]:
        too_much = np.abs(workup.values((test,), rows)[:, 0]) > METER_AMPS
        looked_at = advice_of._may_be_much(workup, test, rows)
        assert looked_at[too_much].all() and not looked_at.all()
        seen += int(too_much.sum())
    assert seen


def test_expectations_show_what_a_sound_circuit_would_give_too(step_light_workup):
    result = isolate(step_light_workup, ())
    for advice in result.next:
        assert any(e.part is None for e in advice.expect)


def test_the_descent_falls_where_the_volts_are_lost(demo_workups):
    workup = demo_workups["step_lights"]
    sheet = workup.sheet
    readings = measure(sheet, "G3.high_resistance=2.2", [("open", "batt+", "batt-"), ("open", "la2.gnd", "batt-"), ("open", "g3", "batt-")])
    path = next(p for p in load_paths(sheet) if p.load == "LA2")
    found = descent(update(workup, readings), path, "open")
    assert found.suspect == "G3"
    at = {stop.node: stop for stop in found.stops}
    assert at["g3"].suspect == pytest.approx(3.76, abs=0.1)
    assert at["g3"].expected < 0.05
    assert [number for number, _ in at["g3"].readings] == [2]
    good = reading_of(sheet, "open", "volts", "g3", "batt-", "0.006", good=True)
    again = {stop.node: stop for stop in descent(update(workup, (*readings, good)), path, "open").stops}
    assert [number for number, _ in again["g3"].readings] == [2]  # the good side's volts are not this vehicle's
    assert [stop.node for stop in found.stops][::12] == ["batt+", "batt-"]


def test_the_expected_band_follows_the_battery(step_light_workup):
    low = measure(step_light_workup.sheet, "", [("lit", "batt+", "batt-")], emf=11.9)
    blind, told = expected_volts(update(step_light_workup, ()), "lit"), expected_volts(update(step_light_workup, low), "lit")
    assert told["lamp.feed"][0] == pytest.approx(blind["lamp.feed"][0] - 0.7, abs=0.05)
    assert told["lamp.feed"][1] < blind["lamp.feed"][1] / 5


def test_csv_is_read_as_people_and_programs_write_it(step_light):
    text = '\ufeffstate, instrument, red, black, value, note\nlit,volts,lamp.feed,batt-,"12,4",warm\n\nidle,ohms,lamp.feed,,OL,\n'
    one, two = read_csv(step_light, text)
    assert (one.measured.value, one.note) == (12.4, "warm")
    assert (two.black, two.measured.over_range) == ("batt-", True)


@pytest.mark.parametrize(
    ("row", "sentence"),
    [
        ("dark,volts,lamp.feed,batt-,12", "Line 2: 'dark' is no state"),
        ("lit,lux,lamp.feed,batt-,12", "Line 2: 'lux' is no instrument"),
        ("lit,volts,lamp.fed,batt-,12", "Line 2: 'lamp.fed' is no place on this sheet; near it: lamp.feed"),
        ("lit,volts,g1,g1,12", "Line 2: Red and black are both on g1"),
        ("lit,volts,g1,batt-,twelve", "Line 2: 'twelve' is no reading"),
        ("lit,volts,g1,batt-,12,4,x", "Line 2: more fields than columns; put a decimal comma in quotes"),
        ("lit,volts,g1,batt-", "Line 2: Nothing was typed"),
    ],
)
def test_a_bad_csv_row_names_its_line(step_light, row, sentence):
    header = "state,instrument,red,black,value,note" if row.count(",") > 5 else "state,instrument,red,black,value"
    with pytest.raises(ReadingError) as caught:
        read_csv(step_light, f"{header}\n{row}\n")
    assert sentence in str(caught.value)


def test_a_csv_without_its_columns_says_which(step_light):
    with pytest.raises(ReadingError, match="missing: state, black"):
        read_csv(step_light, "instrument,red,value\nvolts,g1,1\n")


def test_readings_at_a_node_that_is_no_place_still_count(step_light_workup):
    sheet = step_light_workup.sheet
    result = isolate(Workup(sheet), measure(sheet, "C2.1.high_resistance=0.9", [*LIT, ("lit", "c2.1", "c2.1m")]))
    assert result.suspects[0].part == "C2.1"
    assert result.suspects[0].probability > 0.95


def test_an_unheard_of_reading_does_not_break_anything(step_light_workup):
    sheet = step_light_workup.sheet
    wild = tuple(reading_of(sheet, "lit", "volts", "g1", "batt-", v) for v in ("900", "-900"))
    result = isolate(step_light_workup, wild)
    assert math.isclose(sum(s.probability for s in result.suspects), 1.0)


def test_nobody_is_certain(step_light_workup):
    assert percent(0.99999) == "over 99 %"
    assert percent(0.0001) == "under 1 %"
    assert percent(0.347) == "35 %"


def test_a_sheet_of_a_battery_alone_is_answered():
    sheet = sheet_of("BAT: {kind: battery, pins: {p: b+, n: b-}}")
    result = isolate(Workup(sheet), (reading_of(sheet, "on", "volts", "b+", "b-", "12.6"),))
    assert result.suspects[0].part is None


def test_what_insulation_lets_through_tells_no_two_breaks_apart(demo_workups):
    """With the ground side broken the glass floats: a few tenths of a volt through the meter say nothing about where."""
    workup = demo_workups["heated_glass"]
    readings = (
        reading_of(workup.sheet, "on", "volts", "tab.gnd", "batt-", "12.64"),
        reading_of(workup.sheet, "off", "volts", "batt+", "tab.feed", "0.60"),
    )
    parts = update(workup, readings).parts()
    assert parts["C20.2"] > 0.1
    assert parts["W33"] > 0.05
    assert parts["G5"] > 0.1


def test_stray_volts_on_a_floating_point_accuse_nobody(demo_workups):
    """With the relay's ground or its coil open, terminal 86 floats once the switch is off: two volts there are stray either way."""
    workup = demo_workups["kneeling_valves"]
    readings = (
        reading_of(workup.sheet, "kneel right", "volts", "k8.86", "batt-", "25.7"),
        reading_of(workup.sheet, "kneel right", "volts", "k8.87", "batt-", "0.00"),
        reading_of(workup.sheet, "parked", "volts", "batt+", "k8.86", "2.04"),
    )
    names = [(item.part, item.mode) for item in workup.hypotheses.items]
    ground, coil = names.index(("G20", "open")), names.index(("K8", "coil_open"))
    before, after = (update(workup, some).probability for some in (readings[:2], readings))
    assert (after[ground] / after[coil]) / (before[ground] / before[coil]) < 6.0


def test_no_advice_counts_on_ohms_through_a_diode(demo_workups):
    """With the relay's coil open only its suppressor diode is left between its terminals: what an ohmmeter makes of that depends on the
    meter."""
    workup = demo_workups["kneeling_valves"]
    prediction = workup.predict((Measurement("ready", "ohms", "k8.86", "batt-"),))
    number = [(item.part, item.mode) for item in workup.hypotheses.items].index(("K8", "coil_open"))
    row = workup.curves.start[list(workup.curves.hypothesis).index(number)]
    assert prediction.stray[row, 0] == 1.0
    assert prediction.stray[0, 0] < 0.05


def test_ohms_near_the_end_of_the_scale_tell_no_two_breaks_apart(demo_workups):
    """A break leaves only insulation, and nobody knows whether that is 8 or 12 MΩ."""
    workup = demo_workups["kneeling_valves"]
    high, over = (
        update(workup, (reading_of(workup.sheet, "kneel right", "ohms", "k8.86", "batt-", text),)).parts() for text in ("8.6M", "OL")
    )
    assert high["G20"] / high["K8"] == pytest.approx(over["G20"] / over["K8"], rel=0.3)


def test_a_reading_is_asked_for_three_times_at_the_most(step_light_workup):
    sheet = step_light_workup.sheet
    drop, post = reading_of(sheet, "lit", "volts", "g1", "batt-", "0.12"), reading_of(sheet, "lit", "volts", "batt+", "batt-", "12.5")

    def asked(*items):
        return {advice.test for _, advice in repeats(update(step_light_workup, items), (), tuple(range(len(items))), "may be a slip")}

    assert asked(post, drop, drop) == {post.test, drop.test}
    assert asked(post, drop, drop, drop) == {post.test}


def test_between_certain_and_sure_one_more_test_is_asked_for_while_any_tells_something(demo_workups):
    """A G3 that loses 3.8 V: a look and two readings prove it at 98 %. With all else left out there is nothing to wait for."""
    workup = demo_workups["step_lights"]
    taken = (("volts", "batt+", "batt-", "12.47"), ("see", "front", "", "dim"), ("volts", "g3", "batt-", "3.76"))
    readings = tuple(item_of(workup.sheet, "open", *columns) for columns in taken)
    now = isolate(workup, readings).standing
    assert CERTAIN <= now.probability < SURE
    assert now.proof == (2,) and not now.ready and "one more test" in now.says
    again = repeats(update(workup, readings), ("G3",), (0, 1), "carries the proof")
    assert again[0][1].test == readings[2].test  # not that of the battery, which proves nothing here
    assert again[0][0] > 5 * again[1][0] and "reading 3 carries the proof" in again[0][1].steps[0]
    twice = isolate(workup, (*readings, readings[2])).standing
    assert twice.ready and twice.probability > SURE
    left_out = tuple(item_of(workup.sheet, "", "skip", name, "", "not here") for name in ("volts", "ohms", "amps", *workup.sheet.states))
    settled = isolate(workup, (*readings, *left_out)).standing
    assert settled.ready and settled.says.endswith("proved by reading 3, and no test here tells more.")


def test_no_advice_counts_on_a_floating_point_to_read_zero(demo_workups):
    """With UP not pressed contactor terminal 85 is at ground through its coil, or it floats: 0.00 V either way. What is left to be told is
    whether ground G7 is open, which lifts the terminal to battery volts."""
    workup = demo_workups["tail_lift"]
    readings = tuple(
        reading_of(workup.sheet, state, meter, red, "batt-", value)
        for state, meter, red, value in (
            ("raise", "volts", "f21.out", "12.49"),
            ("lower", "volts", "y3.feed", "12.35"),
            ("raise", "ohms", "batt+", "OL"),
        )
    )
    bits = gains(
        update(workup, readings), (Measurement("lower", "volts", "k2.85", "batt-"), Measurement("raise", "volts", "k2.85", "batt-"))
    )
    assert bits[1] > 0.7
    assert bits[0] < bits[1] / 2


def test_an_ohms_test_at_the_battery_s_node_says_clamps_and_not_posts(demo_workups):
    workup = demo_workups["tail_lift"]
    told = describe(update(workup, ()), Measurement("raise", "ohms", "batt+", "batt-"), 0.5)
    assert any("never on the posts" in step for step in told.steps)
    assert not any("platform rises" in caution for caution in told.cautions)  # nothing moves with the battery off
    assert any("Prop the platform" in caution for caution in told.cautions)
    live = describe(update(workup, ()), Measurement("raise", "volts", "k2.30", "batt-"), 0.5)
    assert any("platform rises" in caution for caution in live.cautions)
    assert any("Unfused battery stud" in caution for caution in live.cautions)
    assert any("Open the way: four bolts of the lift box lid (5 min)" in step for step in live.steps)
