"""What the record says of the remedy and the refit, and from when on it counts."""

from __future__ import annotations

from dataclasses import replace

import pytest

from pondrel.core.base.errors import PondrelError
from pondrel.core.base.written import EntryError
from pondrel.core.job.entry import Entry, Struck
from pondrel.core.job.kinds import checked_content
from pondrel.core.job.refit import came_off_of, function_list, left_over, refit_of, unplugged_in
from pondrel.core.job.remedy import held_back, remedy_of
from pondrel.core.job.report import digest_of, issued_of, seal_in, seal_of
from pondrel.core.refit.steps import Step
from pondrel.core.remedy.gates import Gate, Met

FOUND = ("conclusion", {"says": "G3", "reason": "", "faulty": True})
OFFER = ("offer", {"way": "new", "price": "12"})
CHOICE = ("choice", {"way": "new", "which": "failed", "says": "G3: new"})
YES = ("agreed", {"agrees": "yes", "who": "Jonne", "said": "by Friday"})
NO = ("agreed", {"agrees": "no", "who": "Jonne", "said": "too dear"})


def record(*written) -> list[Entry]:
    return [Entry(n, 7, None, kind, content, "Oda", f"2026-01-01T08:{n:02d}:00Z") for n, (kind, content) in enumerate(written, 1)]


def test_a_price_lasts_and_what_was_chosen_and_said_counts_since_the_conclusion():
    tick = ("gate", {"gate": "fits", "result": "done", "text": "9W-1"})
    found = remedy_of(record(OFFER, FOUND, CHOICE, tick, YES))
    assert found.offers["new"].price == 12.0 and found.choice is not None and found.agreed is not None and "fits" in found.met
    later = remedy_of(record(OFFER, FOUND, CHOICE, tick, YES, FOUND))
    assert later.offers and later.choice is None and later.agreed is None and not later.met


def test_a_word_to_an_older_choice_is_no_word_to_the_new_one():
    found = remedy_of(record(FOUND, CHOICE, YES, CHOICE))
    assert found.agreed is None and not found.declined and len(found.said) == 1
    assert remedy_of(record(FOUND, CHOICE, YES, NO)).declined and remedy_of(record(FOUND, CHOICE, YES, NO)).agreed is None


def test_a_struck_choice_is_none():
    entries = record(FOUND, CHOICE)
    entries[1] = replace(entries[1], struck=Struck("another way", "Oda", ""))
    assert remedy_of(entries).choice is None


@pytest.mark.parametrize("way", ["leave", "bypass", "by_hand", "power_cycle"])
def test_what_is_no_repair_wants_a_reason(way):
    given = {"way": way, "which": "failed", "says": "x", "reason": ""}
    with pytest.raises(EntryError, match="This is no repair"):
        checked_content("choice", given)
    assert checked_content("choice", {**given, "reason": "until spring"})["reason"] == "until spring"


def test_a_repair_with_open_gates_wants_a_reason_that_names_them():
    gates = (Gate("proved", "Fault proved", met=Met("done", "", "", "")), Gate("fits", "The right version for this vehicle"))
    with pytest.raises(EntryError, match="Still open before it is fitted: The right version"):
        held_back(gates, "")
    held_back(gates, "roadside")
    held_back(gates[:1], "")


@pytest.mark.parametrize(
    ("content", "says"),
    [
        ({"gate": "killed:heat", "result": "done", "text": ""}, "found or not found"),
        ({"gate": "killed:heat", "result": "found", "text": ""}, "What was found is missing"),
        ({"gate": "fits", "result": "found", "text": "x"}, "done or it is not"),
        ({"gate": "fits", "result": "done", "text": ""}, "part number is missing"),
    ],
)
def test_a_gate_is_met_by_what_it_asks_for(content, says):
    with pytest.raises(EntryError, match=says):
        checked_content("gate", content)


def test_what_came_off_is_left_over_until_it_is_ticked_on():
    off = [("came_off", {"what": "bracket"}), ("came_off", {"what": "shield"}), ("came_off", {"what": "bracket"})]
    tick = ("refitted", {"step": "back:bracket", "title": "bracket back on", "text": ""})
    assert came_off_of(record(*off)) == ("bracket", "shield")
    assert left_over(record(*off, tick)) == ("shield",)


def test_steps_are_ticked_since_the_conclusion_and_the_last_card_of_a_title_counts():
    steps = (Step("tight", "Tightened"), Step("greased", "Greased"))
    tick = ("refitted", {"step": "tight", "title": "Tightened", "text": "9 N·m"})
    card = {"title": "Cover", "fasteners": '[[0.5,0.5,"M6",""]]', "photo": "", "torque": ""}
    entries = record(
        tick, FOUND, ("card", card), ("card", {**card, "fasteners": '[[0.1,0.5,"M8",""]]'}), ("card", {**card, "fasteners": "{"})
    )
    found = refit_of(entries, steps)
    assert [step.name for step in found.left] == ["tight", "greased"] and found.says == "0 of 2 steps"
    assert [card.fasteners[0].size for _, card in found.cards] == ["M8"]
    assert refit_of([*entries, Entry(9, 7, None, *tick, "Oda", "")], steps).left == (steps[1],)


def test_what_was_unplugged_on_the_way_in_is_known_from_readings_and_deeds():
    reading = ("reading", {"state": "on", "instrument": "ohms", "red": "a", "black": "b", "value": "4", "unplugged": "C2, K1"})
    deed = ("action", {"deed": "unplugged and put back", "part": "C7", "text": ""})
    assert unplugged_in(record(reading, deed, reading)) == ("C2", "K1", "C7")
    alone = ("reading", {**reading[1], "unplugged": "Y2 alone"})
    assert unplugged_in(record(alone)) == ("Y2",)  # measured by itself, its plug was off


def test_functions_stand_side_by_side_before_and_after():
    told = [
        ("function", {"name": "wiper", "when": when, "works": works, "text": ""}) for when, works in (("before", "no"), ("after", "yes"))
    ]
    before, after = function_list(record(*told))["wiper"]
    assert before.text("works") == "no" and after.text("works") == "yes"


def test_a_seal_is_read_as_it_is_said_and_changes_with_a_letter():
    digest = digest_of({"told": ["all three dim"], "n": 1})
    assert digest == digest_of({"n": 1, "told": ["all three dim"]}) != digest_of({"n": 1, "told": ["all three dim."]})
    seal = seal_of(digest)
    assert seal_in(seal.lower().replace("-", " ")) == seal and len(seal) == 8
    for wrong in ("", "7K4", "7K4-Q2MAX", "7K4-Q2U!", "UUU-UUUU"):
        with pytest.raises(PondrelError, match="seven signs"):
            seal_in(wrong)
    made = issued_of(record(("issued", {"sheet": "full", "seal": seal, "digest": digest, "pdf": "0" * 64})))
    assert [(one.sheet, one.seal) for one in made] == [("full", seal)]
