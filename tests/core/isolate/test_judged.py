"""Readings judged by the sheet's limits, numbers asked back, looks set beside the complaint, targets that agree with the headline."""

from __future__ import annotations

from dataclasses import replace

import pytest

from pondrel.core.evidence.limits import findings_of, limits_for, overall_of
from pondrel.core.evidence.line import parse_line
from pondrel.core.evidence.registry import test_of as asked_for
from pondrel.core.isolate.conclude.suspects import Suspect, chances, targets
from pondrel.core.isolate.isolation import isolate
from pondrel.core.isolate.predict.plausible import asked_back
from pondrel.core.isolate.show.complaint import against_the_complaint

from ...circuits import observed, reading_of


def judged(sheet, *reading: str) -> list[tuple[str, str]]:
    return [(str(j.verdict), j.says) for j in findings_of(sheet, reading_of(sheet, *reading))]


@pytest.mark.parametrize(
    ("name", "reading", "word"),
    [
        ("step_lights", ("open", "volts", "g3", "batt-", "0.31"), "outside limits"),
        ("step_lights", ("open", "volts", "g3", "batt-", "0.03"), "within limits"),
        ("step_lights", ("open", "volts", "batt-", "g3", "-0.31"), "outside limits"),  # the leads the other way round
        ("step_lights", ("open", "volts", "g3", "batt-", "0.10"), "too close to call"),
        ("step_lights", ("open", "volts", "batt-", "la2.feed", "-12.1"), "within limits"),
        ("kneeling_valves", ("ready", "ohms", "y1.1", "y1.2", "37.6 @20C"), "within limits"),
        ("kneeling_valves", ("ready", "ohms", "y1.1", "y1.2", "37.6"), "not comparable"),  # at which temperature?
        ("kneeling_valves", ("ready", "ohms", "y1.1", "y1.2", "45 @70C"), "within limits"),  # 37.6 at 20 degrees
        ("kneeling_valves", ("ready", "ohms", "y1.1", "y1.2", "45 @20C"), "outside limits"),
        ("kneeling_valves", ("ready", "ohms", "y1.1", "y1.2", "9"), "outside limits"),  # at any temperature
        ("kneeling_valves", ("slow", "ohms", "y1.2", "y1.1", "47"), "not comparable"),  # a warm winding reads more
        ("kneeling_valves", ("ready", "ohms", "y1.1", "y1.2", "OL"), "outside limits"),
        ("cabin_heater", ("heat", "clamp", "batt+", "q1.out", "30"), "outside limits"),
    ],
)
def test_a_limit_judges_in_four_words_and_says_whose_it_is(demo_sheets, name, reading, word):
    ((found, says),) = judged(demo_sheets[name], *reading)
    assert found == word
    assert says.startswith(word) and "(" in says  # with the source


@pytest.mark.parametrize(
    ("name", "reading"),
    [
        ("step_lights", ("shut", "volts", "g3", "batt-", "0.31")),  # another state
        ("step_lights", ("open", "volts", "j2", "batt-", "0.31")),  # another place
        ("step_lights", ("open", "ohms", "g3", "batt-", "0.3")),  # another quantity
        ("step_lights", ("open", "volts", "g3", "f9.in", "0.31")),
    ],
)
def test_a_limit_is_silent_about_what_it_does_not_limit(demo_sheets, name, reading):
    assert judged(demo_sheets[name], *reading) == []


@pytest.mark.parametrize(("state", "count"), [("ready", 1), ("kneel left", 1), ("parked", 0)])  # S1 is open when parked
def test_a_limit_of_ohms_holds_in_states_that_are_alike_without_power(demo_sheets, state, count):
    sheet = demo_sheets["kneeling_valves"]
    limit = replace(sheet.limits[0], what="ohms", of="Y1", start="", end="", state="ready")
    assert len(limits_for(replace(sheet, limits=(limit,)), asked_for(sheet, state, "ohms", "y1.1", "y1.2", ""))) == count


def test_the_good_side_is_not_judged_and_a_look_has_no_limits(demo_sheets):
    sheet = demo_sheets["step_lights"]
    good = reading_of(sheet, "open", "volts", "g3", "batt-", "0.31", good=True)
    assert findings_of(sheet, good) == ()
    assert limits_for(sheet, asked_for(sheet, "open", "see", "front", "", "")) == ()
    assert len(limits_for(sheet, asked_for(sheet, "open", "volts", "g3", "", ""))) == 1


def test_a_sheet_s_limits_together_say_what_was_not_tested_and_the_last_reading_of_one_counts(demo_sheets):
    sheet = demo_sheets["step_lights"]
    bad, good = (reading_of(sheet, "open", "volts", "g3", "batt-", value) for value in ("0.31", "0.03"))
    assert overall_of(sheet, ()).verdict == "not comparable" and len(overall_of(sheet, ()).untested) == len(sheet.limits)
    told = overall_of(sheet, (bad,))
    assert told.verdict == "outside limits" and [f.about for f in told.findings] == [
        "drop from ground stud G3, ring terminal to battery minus post, open"
    ]
    assert len(told.untested) == len(sheet.limits) - 1 and not any("ground stud G3" in text for text in told.untested)
    assert overall_of(sheet, (bad, good)).verdict == "not comparable"  # repaired, but the rest was never read
    alone = replace(sheet, limits=tuple(limit for limit in sheet.limits if limit.start == "g3"))
    assert overall_of(alone, (bad, good)).verdict == "within limits"
    assert overall_of(alone, (good, bad)).verdict == "outside limits"


@pytest.mark.parametrize(
    ("line", "words"),
    [
        ("ready volts y1.1 480", "decimal point slipped"),
        ("ready volts y1.1 -48", "range or unit"),
        ("ready volts y1.1 -24.6", "leads swapped (24.60 V)"),
        ("parked volts batt+ 252", "decimal point slipped (25.20 V)"),
    ],
)
def test_a_number_far_outside_the_circuit_s_range_is_asked_back(demo_workups, line, words):
    workup = demo_workups["kneeling_valves"]
    says = asked_back(workup, parse_line(workup.sheet, line, "ready")[0])
    assert words in says and "far outside" in says and says.endswith("Enter it again to keep it as it is.")


@pytest.mark.parametrize(
    "line",
    [
        "ready volts y1.1 24.6", "ready volts y1.1 0", "ready volts batt- y1.1 -24.6", "ready volts batt+ 28.4", "ready ohms y1.1 y1.2 9k",
        "ready wiggle K8 changed", "ready good volts y1.1 24",
    ],
)  # fmt: skip
def test_what_a_vehicle_may_show_is_not_asked_back(demo_workups, line):
    """A charging battery, leads put on the other way round, and whatever is no voltage."""
    workup = demo_workups["kneeling_valves"]
    assert asked_back(workup, parse_line(workup.sheet, line, "ready")[0]) == ""


def looks(sheet, *entries: str):
    return tuple(parse_line(sheet, line, "open")[0] for line in entries)


def test_a_look_that_finds_working_what_was_complained_of_is_pointed_out(demo_workups):
    workup = demo_workups["step_lights"]
    items = looks(workup.sheet, "open front normal", "open volts g3 0.02")
    says = against_the_complaint(workup, items, "front step lamp dim since washing")
    assert list(says) == [0] and "does not go with the complaint" in says[0]
    assert against_the_complaint(workup, looks(workup.sheet, "open front dim"), "front step lamp dim") == {}
    assert against_the_complaint(workup, looks(workup.sheet, "shut front dark"), "front step lamp dim") == {}  # it should be dark then
    assert against_the_complaint(workup, (*items, observed(workup.sheet, "when", "", "sometimes")), "front step lamp dim") == {}


def test_a_complaint_in_other_words_is_held_against_all_that_can_be_seen(demo_workups):
    workup = demo_workups["step_lights"]
    some = looks(workup.sheet, "open front normal", "open rear normal")
    assert against_the_complaint(workup, some, "it is too dark to read there") == {}
    every = (*some, *looks(workup.sheet, "open marker normal"))
    assert list(against_the_complaint(workup, every, "it is too dark to read there")) == [2]


def suspect(part, p, kind="single", parts=None):
    return Suspect(0, part, "m", "w", p, 0.1, None, kind, parts if parts is not None else ((part,) if part else ()))


def test_targets_are_exclusive_and_the_likeliest_stands_first():
    found = (suspect("A", 0.3), suspect("B", 0.25), suspect("C", 0.2), suspect(None, 0.1), suspect("B", 0.05, "sometimes"))
    others = (suspect("A", 0.06, "two", ("A", "C")), suspect(None, 0.04, "undrawn"))
    names = ("A", "B", "C")
    rows = targets((*found, *others), names, (("B", "C"),))
    assert [(t.members, round(t.probability, 9)) for t in rows] == [(("B", "C"), 0.5), (("A",), 0.3), ((), 0.1)]
    alone = chances((*found, *others), names)
    assert alone["A"] == pytest.approx(0.36) and alone[None] == pytest.approx(0.1)  # what is on no sheet is not "nothing wrong"
    shared = targets((*found, *others), names, (("A", "B"), ("B", "C")))
    assert [t.members for t in shared] == [("A", "B"), ("C",), ()]


@pytest.mark.parametrize("name", ["charging", "two_wire_bus", "tail_lift", "step_lights"])
def test_the_headline_names_what_stands_first_in_the_list(demo_workups, name):
    workup = demo_workups[name]
    items = ()
    state = list(workup.sheet.states)[-1]
    for place, value in zip([p for p in workup.sheet.places if p != workup.sheet.minus][:3], ("12.1", "9.7", "8.9"), strict=False):
        items = (*items, reading_of(workup.sheet, state, "volts", place, "", value))
        found = isolate(workup, items)
        first = found.targets[0]
        elsewhere = max((s.probability for s in found.suspects if s.kind in ("two", "touching", "diagram", "undrawn")), default=0.0)
        says = found.standing.says
        if found.contradiction:
            assert says == found.contradiction
        elif elsewhere > first.probability:
            assert "lead" in says and " with " in says
        elif first.members:
            names = " or ".join(workup.sheet.parts[name].spoken for name in first.members)
            assert says.startswith(names[:1].upper() + names[1:])
        else:
            assert "No part stands accused" in says or "Nothing on this sheet" in says
        together = sum(t.probability for t in found.targets) + sum(
            s.probability for s in found.suspects if s.kind in ("two", "touching", "diagram", "undrawn")
        )
        assert together == pytest.approx(1.0, abs=1e-6)


def test_nothing_is_said_to_lead_before_anything_was_measured(demo_workups):
    for name in ("two_wire_bus", "charging", "kneeling_valves"):
        assert isolate(demo_workups[name], ()).standing.says == "No part stands accused yet."


def test_a_group_falls_apart_once_evidence_of_any_sort_has_separated_it(demo_workups):
    """F1 and S1 of the charging sheet look alike at every place; that a swapped fuse changes nothing tells them apart."""
    workup = demo_workups["charging"]
    sheet = workup.sheet
    lines = ["loaded volts box 12.5", "loaded clamp box f1.out 0"]
    items = tuple(parse_line(sheet, line, "loaded")[0] for line in lines)
    together = isolate(workup, items)
    group = next(g for g in together.groups if "F1" in g)
    assert "S1" in group
    after = isolate(workup, (*items, *(parse_line(sheet, f"swap F1 {how}", "loaded")[0] for how in ("gone", "gone", "gone"))))
    assert after.targets[0].members == ("F1",)
    assert not any("F1" in g for g in after.groups)


def test_a_finished_job_is_offered_no_test_that_tells_nothing(step_light_workup):
    workup = step_light_workup
    items = tuple(parse_line(workup.sheet, line, "lit")[0] for line in ("lit volts lamp.feed 12.4", "lit volts g1 3.9", "lit volts g1 3.9"))
    found = isolate(workup, items)
    assert found.standing.ready
    assert all(a.gain_bits >= 0.05 for a in found.next)
    assert found.exhausted == "Nothing is left to test"
