"""What findings do to the ranking: seen, coded, moved, swapped, known; and what lies beyond one lasting fault."""

from __future__ import annotations

import pytest

from pondrel.core.circuit.fault import parse_fault
from pondrel.core.circuit.measure import measure as shown
from pondrel.core.circuit.read.sheet import parse_sheet
from pondrel.core.circuit.sights import SEEN, word_chances
from pondrel.core.evidence.line import parse_line
from pondrel.core.isolate.believe import belief as beliefs
from pondrel.core.isolate.believe import integral
from pondrel.core.isolate.believe.belief import update
from pondrel.core.isolate.isolation import isolate
from pondrel.core.isolate.predict.workup import Workup

from ...circuits import STEP_LIGHT, measure, observed, reading_of
from .test_isolation import LIT


def items_of(workup, *lines, state="lit"):
    return tuple(parse_line(workup.sheet, line, state)[0] for line in lines)


def probability(workup, part, *lines):
    return update(workup, items_of(workup, *lines)).parts()[part]


@pytest.fixture(scope="module")
def seen_workup():
    extra = """
codes:
  B1001: {at: lamp.feed, state: lit, below: 6}
tests:
  pull on G1: {outcomes: [holds, comes off], given: {otherwise: [0.99, 0.01], G1.open: [0.2, 0.8]}}
"""
    return Workup(parse_sheet(STEP_LIGHT + extra))


@pytest.mark.parametrize(
    ("line", "up", "down"),
    [
        ("LA1 dark", "LA1", None),
        ("LA1 dim", "G1", "LA1"),
        ("LA1 normal", None, "F4"),
        ("idle see LA1 normal", "S1", "F4"),
        ("wiggle C2.1 changed", "C2.1", "LA1"),
        ("swap LA1 gone", "LA1", "G1"),
        ("swap LA1 no change", "G1", "LA1"),
        ("look G1 corroded", "G1", None),
        ("history LA1 replaced", "G1", "LA1"),
        ("history C2.1 water", "C2.1", None),
        ("code B1001 set", "F4", "G1"),
        ("test pull on G1 comes off", "G1", "LA1"),
    ],
)
def test_a_finding_moves_what_it_speaks_of(seen_workup, line, up, down):
    before = update(seen_workup, ()).parts()
    after = update(seen_workup, items_of(seen_workup, line)).parts()
    assert after[up] > before[up]
    if down is not None:
        assert after[down] < before[down]


@pytest.mark.parametrize("line", ["look G1 corroded", "wiggle C2.1 changed", "swap LA1 gone", "history G1 repaired", "LA1 dark"])
def test_no_finding_condemns_a_part_by_itself(seen_workup, line):
    assert not isolate(seen_workup, items_of(seen_workup, line)).standing.ready


def test_skipping_a_place_leaves_the_ranking_alone_and_its_tests_out(seen_workup):
    skip = items_of(seen_workup, "skip lamp.feed")
    assert update(seen_workup, skip).parts() == pytest.approx(update(seen_workup, ()).parts())
    advised = isolate(seen_workup, skip).next
    assert advised and all("lamp.feed" not in (a.test.red, a.test.black) for a in advised)


def test_the_words_of_every_sight_share_all_the_chance():
    for what in SEEN:
        chances = word_chances(what, *([__import__("numpy").array([0.0, 0.3, 1.0, 2.0])]), sound=1.0)
        assert chances.shape == (4, len(SEEN[what]))
        assert chances.sum(axis=1) == pytest.approx(1.0)
        assert (chances > 0.0).all()  # nobody is always right


def test_the_good_side_pins_the_supply_down(step_light_workup):
    """12.1 V at the feed is a loss if the good side has 12.6 V, and none if it has 12.1 V too."""
    sheet = step_light_workup.sheet

    def with_good(value):
        items = (
            reading_of(sheet, "lit", "volts", "lamp.feed", "batt-", value, good=True),
            reading_of(sheet, "lit", "volts", "lamp.feed", "batt-", "11.70"),
        )
        return update(step_light_workup, items).parts()[None]

    assert with_good("11.71") > 2.0 * with_good("12.60")


@pytest.mark.parametrize("instrument", ["lowz", "scope", "clamp", "continuity", "load", "lamp"])
def test_every_instrument_is_evidence(step_light_workup, instrument):
    """What each shows of a bad ground is laid at the ground's door more than what it shows of a sound circuit."""
    sheet = step_light_workup.sheet
    fault = (parse_fault(sheet, "G1.high_resistance=1.4"),)
    red, black = ("batt+", "f4.out") if instrument == "clamp" else ("g1", "batt-")
    state = "idle" if instrument == "continuity" else "lit"

    def ground(faults):
        value = shown(sheet, state, instrument, red, black, faults).measured.value
        item = reading_of(sheet, state, instrument, red, black, f"{value:.3g}")
        return update(step_light_workup, (item,)).parts()["G1"]

    assert ground(fault) > ground(())


def test_a_fault_that_comes_and_goes_is_named_as_such(step_light_workup):
    sheet = step_light_workup.sheet
    there = measure(sheet, "G1.high_resistance=1.4", [("lit", "g1", "batt-")])
    gone = measure(sheet, "", [("lit", "g1", "batt-")], seed=2)
    result = isolate(step_light_workup, (*there, *gone, *measure(sheet, "G1.high_resistance=1.4", [("lit", "g1", "batt-")], seed=3)))
    best = result.suspects[0]
    assert (best.kind, best.part) == ("sometimes", "G1")
    assert "now and then" in best.words


def test_two_faults_are_brought_in_when_no_single_one_explains(demo_workups):
    workup = demo_workups["step_lights"]
    sheet = workup.sheet
    faults = (parse_fault(sheet, "G3.high_resistance=0.9"), parse_fault(sheet, "W2.high_resistance=1.5"))
    items = []
    for red in ("f9.out", "s1.out", "la1.feed", "la1.gnd", "la2.feed", "g3", "batt+"):
        value = shown(sheet, "open", "volts", red, "batt-", faults).measured.value
        items.append(reading_of(sheet, "open", "volts", red, "batt-", f"{value:.3f}"))
    result = isolate(workup, tuple(items))
    assert result.suspects[0].kind == "two"
    assert "G3" in result.suspects[0].parts
    assert not result.standing.ready
    assert result.standing.says.startswith("Two faults lead with")  # as the list below it has it
    assert "two at once" in result.assumed


def test_readings_that_go_together_bring_in_nothing_else(step_light_workup):
    result = isolate(step_light_workup, measure(step_light_workup.sheet, "G1.high_resistance=1.4", LIT))
    assert result.assumed.startswith("One lasting fault at most")
    assert result.contradiction == ""


def test_what_nothing_explains_gets_a_sentence_and_no_condemnation(step_light_workup):
    sheet = step_light_workup.sheet
    wild = [("batt+", "4.1"), ("f4.out", "17.3"), ("lamp.feed", "8.8"), ("g1", "15.2")]
    result = isolate(step_light_workup, tuple(reading_of(sheet, "lit", "volts", red, "batt-", v) for red, v in wild))
    assert "do not go together" in result.contradiction
    assert not result.standing.ready
    assert result.standing.says == result.contradiction


def test_pins_the_other_way_round_are_thought_of(demo_workups):
    """A diode fitted backwards by the last person, seen from both of its sides."""
    workup = demo_workups["cabin_heater"]
    sheet = workup.sheet
    volts = {"batt+": "25.2", "q1.out": "25.2", "m5.a": "0.00", "k20.86": "25.1", "k20.87": "25.0"}
    items = tuple(reading_of(sheet, "heat", "volts", red, "batt-", v) for red, v in volts.items())
    asked = (*items, observed(sheet, "suspect", "", "two"))
    kinds = {s.kind for s in isolate(workup, asked).suspects}
    assert "diagram" in kinds


def test_the_same_items_give_the_same_answer_whatever_was_asked_before(step_light):
    items = measure(step_light, "C2.1.high_resistance=0.9", LIT)
    fresh, used = Workup(step_light), Workup(step_light)
    for n in range(len(items)):
        update(used, items[:n])
    update(used, items[::-1])
    assert isolate(fresh, items).as_json() == isolate(used, items).as_json()


def test_left_alone_curves_come_back_when_the_leader_falls(step_light_workup):
    """Five readings all but rule everything out but G1; then it turns out that they were another vehicle's."""
    sheet = step_light_workup.sheet
    bad = measure(sheet, "G1.high_resistance=1.4", LIT)
    told = update(step_light_workup, bad)
    assert not told.shares.live.all()
    other = tuple(x for seed in range(2, 6) for x in measure(sheet, "W1.open", LIT, seed=seed))
    belief = update(step_light_workup, (*bad, *other))
    assert belief.probability.sum() == pytest.approx(1.0)
    assert belief.parts()["W1"] + belief.parts()["C2.1"] + belief.parts()["S1"] > belief.parts()["G1"]


def test_what_is_left_alone_changes_nothing_that_shows(step_light, monkeypatch):
    items = (*measure(step_light, "G1.high_resistance=1.4", LIT), *measure(step_light, "W1.open", LIT, seed=3))
    usual = update(Workup(step_light), items)
    for module in (integral, beliefs):
        monkeypatch.setattr(module, "REACH", 1e9)
    everything = update(Workup(step_light), items)
    assert everything.shares.live.sum() > 1.5 * usual.shares.live.sum()
    assert usual.probability == pytest.approx(everything.probability, abs=2e-5)
