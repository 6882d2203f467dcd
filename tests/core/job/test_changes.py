"""What was done between readings, what has been made safe, what was authorised; each as the record's entries have it."""

from __future__ import annotations

from dataclasses import replace

import pytest

from pondrel.core.base.errors import PondrelError
from pondrel.core.evidence.hazards import HAZARDS
from pondrel.core.evidence.line import parse_line
from pondrel.core.evidence.safety import acknowledged_first
from pondrel.core.job.budget import authorised_minutes, budget_of
from pondrel.core.job.changes import mattering, sides_of, unclear_changes
from pondrel.core.job.entry import Entry, Struck
from pondrel.core.job.kinds import checked_content, words_of
from pondrel.core.job.marks import Mark, marks_of
from pondrel.core.job.safety import acknowledged, hazards_of_job, made_safe

READ = {"state": "open", "instrument": "volts", "red": "g3", "black": "batt-", "value": "3.8"}
OHMS = {**READ, "instrument": "ohms"}


def record(*lines: tuple) -> list[Entry]:
    """Entries by kind, content and trace (1 where none is said), in order."""
    return [
        Entry(n, 1, line[2] if len(line) > 2 else 1, line[0], line[1], "Oda", f"2026-11-20T08:{n:02}:00Z")
        for n, line in enumerate(lines, 1)
    ]


def ids(entries) -> list[int]:
    return [e.id for e in entries]


def test_what_was_read_before_something_was_done_no_longer_speaks():
    entries = record(
        ("reading", READ), ("see", {"subject": "lamp", "outcome": "dim"}), ("action", {"part": "G3", "deed": "cleaned"}), ("reading", READ)
    )
    sides = sides_of(entries, 1)
    assert (ids(sides.before), ids(sides.now), sides.action.id) == ([1, 2], [4], 3)
    entries[2] = replace(entries[2], struck=Struck("was not done", "", ""))
    assert ids(sides_of(entries, 1).now) == [1, 2, 4] and sides_of(entries, 1).action is None


def test_what_is_no_property_of_the_circuit_as_it_stands_lasts():
    entries = record(
        ("when", {"outcome": "sometimes"}),
        ("renewed", {"subject": "LA2", "outcome": "no help"}),
        ("look", {"subject": "C2", "outcome": "wet"}),
        ("look", {"subject": "G3", "outcome": "corroded"}),
        ("skip", {"subject": "g3", "outcome": "not here"}),
        ("action", {"part": "G3", "deed": "cleaned"}),
    )
    assert ids(sides_of(entries, 1).now) == [1, 2, 3, 5]  # the look at what was cleaned is of before
    entries[5] = replace(entries[5], content={"part": "", "text": "washed all of it"})
    assert ids(sides_of(entries, 1).now) == [1, 2, 5]
    entries[5] = replace(entries[5], content={"part": "C2.1", "deed": "reseated"})
    assert ids(sides_of(entries, 1).now) == [1, 2, 4, 5]  # a pin is its plug


def test_an_action_on_one_circuit_leaves_the_other_and_one_on_the_job_cuts_both():
    own = record(("reading", READ, 1), ("reading", READ, 2), ("action", {"part": "K2"}, 2))
    assert ids(sides_of(own, 1).now) == [1] and ids(sides_of(own, 2).now) == []
    whole = record(("reading", READ, 1), ("reading", READ, 2), ("action", {"text": "battery renewed"}, None))
    assert ids(sides_of(whole, 1).now) == ids(sides_of(whole, 2).now) == []
    assert mattering(whole, 1) == (1, 3) and mattering(own, 1) == (1,)


def test_a_repair_after_the_conclusion_does_not_take_its_ground_away():
    entries = record(("reading", READ), ("conclusion", {"faulty": True, "says": "G3"}), ("remedy", {"text": "cleaned"}, None))
    assert ids(sides_of(entries, 1).now) == [1]
    entries[1] = replace(entries[1], struck=Struck("reopened", "", ""))
    assert ids(sides_of(entries, 1).now) == []


def test_two_things_done_with_nothing_read_between_are_noticed():
    deed = ("action", {"part": "G3", "deed": "cleaned"})
    assert unclear_changes(record(deed, deed, ("reading", READ), deed, ("note", {"text": "x"}, None), deed)) == {2, 6}
    assert unclear_changes(record(deed, ("reading", READ), deed, ("proof", {"works": "no"}, None), deed)) == frozenset()


def test_an_action_says_what_was_done():
    assert words_of(record(("action", {"part": "G3", "deed": "cleaned", "text": "to bare metal"}))[0]) == "G3: cleaned. to bare metal"
    with pytest.raises(PondrelError, match="What was done is missing"):
        checked_content("action", {"part": "G3", "deed": "", "text": ""})


SPRINGS, BATTERY, HIGH = (HAZARDS[name].caution for name in ("air_springs", "battery", "high_voltage"))


def test_what_was_made_safe_is_locked_again_when_the_danger_is_back():
    entries = record(("caution", {"text": SPRINGS}), ("note", {"text": "x"}))
    assert acknowledged(entries) == {SPRINGS}
    assert acknowledged([*entries, *record(("unsafe", {"text": SPRINGS, "back": "fuse in"}))]) == frozenset()
    assert acknowledged(record(("unsafe", {"text": SPRINGS}), ("caution", {"text": SPRINGS}))) == {SPRINGS}


def test_a_reading_on_the_live_circuit_shows_that_the_battery_is_on_again():
    off = ("caution", {"text": BATTERY})
    assert acknowledged(record(off, ("reading", OHMS))) == {BATTERY}
    assert acknowledged(record(off, ("reading", READ))) == frozenset()
    assert acknowledged(record(("caution", {"text": SPRINGS}), ("reading", READ))) == {SPRINGS}  # air does not mind


def test_high_voltage_is_left_to_qualified_people():
    with pytest.raises(PondrelError, match="for qualified people"):
        checked_content("caution", {"text": HIGH, "by": ""})
    assert "Isolated by Ida" in words_of(record(("caution", checked_content("caution", {"text": HIGH, "by": "Ida"})))[0])


def test_the_hazards_of_a_job_come_from_its_circuits_and_from_what_is_said(demo_sheets):
    found = [h.name for h in hazards_of_job([demo_sheets["charging"]], "Cart with a tow and run switch", "new brake module")]
    assert found == ["battery", "moving", "tow_run", "steering_brakes"]
    safe = made_safe([HAZARDS[n] for n in ("battery", "air_springs")], record(("caution", {"text": BATTERY})))
    assert [(one.hazard.name, one.entry is not None) for one in safe] == [("air_springs", False), ("battery", True)]


@pytest.mark.parametrize(
    ("sheet", "line", "hazards"),
    [
        ("charging", "charging volts batt+ 14.1", ["moving"]),
        ("charging", "parked volts batt+ 12.6", []),
        ("charging", "parked ohms alt+ batt- 3k without GEN", ["battery"]),
        ("kneeling_valves", "kneel left volts y1.1 24.1", ["air_springs"]),
        ("kneeling_valves", "parked ohms y1.1 y1.2 38", []),
        ("dash_gauges", "warm and full volts tank 2.1", ["fuel"]),
        ("charging", "charging volts alt+ 14.2", ["moving"]),
        ("tail_lift", "raise volts k2.30 12.4", []),
        ("step_lights", "open volts batt+ 12.4", []),
    ],
)
def test_a_step_waits_for_the_hazards_it_touches_and_for_no_other(demo_sheets, sheet, line, hazards):
    own = demo_sheets[sheet]
    state = next(iter(own.states))
    item, _ = parse_line(own, line.replace("parked ", f"{state} ") if "parked" not in own.states else line, state)
    waits = acknowledged_first(own, item.test, ())
    assert [name for name, hazard in HAZARDS.items() if hazard.caution in waits] == hazards
    assert acknowledged_first(own, item.test, waits) == ()


def test_the_minutes_authorised_last_count_and_say_when_to_ring():
    entries = record(
        ("authorised", checked_content("authorised", {"minutes": "30 min", "who": "the owner"}), None),
        ("authorised", {"minutes": "45"}, None),
    )
    assert authorised_minutes(entries) == 45.0 and authorised_minutes([]) is None
    assert "ask before the first cover" in budget_of(None, 4.0, [3.0], 0.0).says
    assert "used up: ring the customer now" in budget_of(30.0, 31.0, [3.0], 0.4).says
    assert "likely to be enough" in budget_of(30.0, 5.0, [3.0], 0.9).says
    assert "after step 2, before step 3" in budget_of(30.0, 5.0, [10.0, 10.0, 10.0], 0.5).says
    assert "not enough for the next step" in budget_of(30.0, 25.0, [10.0], 0.1).says
    assert "when the last of these steps" in budget_of(30.0, 5.0, [10.0], 0.5).says


@pytest.mark.parametrize("minutes", ["", "soon", "0", "-5", "7000", "1e3", "30.5"])
def test_minutes_that_are_none_are_refused(minutes):
    with pytest.raises(PondrelError, match=r"whole number from 1|minutes authorised is missing"):
        checked_content("authorised", {"minutes": minutes, "who": ""})


@pytest.mark.parametrize(
    ("marks", "says"),
    [
        ("nothing", "cannot be read"),
        ("[[1]]", "cannot be read"),
        ('[[2, 0, "x"]]', "beside the photo"),
        ('[[0.5, 0.5, " "]]', "has no words"),
        ('[[0.5, 0.5, "' + "x" * 61 + '"]]', "at most 60"),
        ("[" + ",".join(['[0.5, 0.5, "x"]'] * 13) + "]", "too many"),
        ('[[0.5, NaN, "x"]]', "beside the photo"),
    ],
)
def test_marks_that_are_none_are_refused(marks, says):
    with pytest.raises(PondrelError, match=says):
        checked_content("marks", {"file": "0" * 64, "marks": marks})


def test_the_marks_drawn_last_stand_on_a_photo():
    def drawn(digest, marks):
        return ("marks", checked_content("marks", {"file": digest, "marks": marks}), None)

    entries = record(drawn("a", '[[0.1, 0.2, "crust"]]'), drawn("b", '[[0.3, 0.4, "pin"]]'), drawn("a", "[]"))
    assert marks_of(entries, "a") == () and marks_of(entries, "b") == (Mark(0.3, 0.4, "pin"),)
