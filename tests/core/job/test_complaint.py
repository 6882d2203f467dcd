"""What was told counts: on every circuit, until it is told otherwise; and what follows from it before the meter comes out."""

from __future__ import annotations

import pytest

from pondrel.core.base.errors import PondrelError
from pondrel.core.evidence.registry import carried
from pondrel.core.evidence.told import Told, ToldError, tries_of
from pondrel.core.job.complaint import FROM_COMPLAINT, to_carry, told_of
from pondrel.core.job.entry import Entry, Struck
from pondrel.core.job.kinds import checked_content, words_of
from pondrel.core.job.look import MOST_LOOKS, look_list, outcomes_of_looks, whole_plug
from pondrel.core.job.renewed import renewed_on
from pondrel.core.job.reproduce import stirrings, to_watch
from pondrel.core.vehicle.ledger import Fitted


def entry(number: int, kind: str, content: dict, trace: int | None = None, struck: bool = False) -> Entry:
    return Entry(number, 1, trace, kind, content, "Oda", f"2026-11-20T08:{number:02}:00Z", Struck("x", "", "") if struck else None)


def complaint(number: int = 1, struck: bool = False, **given: str) -> Entry:
    return entry(number, "complaint", checked_content("complaint", given), struck=struck)


def test_what_was_told_reads_in_one_line():
    told = complaint(
        often="sometimes", tries="3 of 10", under="start,bumps", minutes="12", since="Tuesday", before="battery", text="Only in rain"
    )
    assert words_of(told) == (
        "comes and goes (3 of 10 tries), over bumps, some 12 minutes after the start, since Tuesday. Only in rain. Done before: battery"
    )
    assert told_of([told]).comes_and_goes and told_of([]) is None


def test_what_was_told_last_counts():
    first, second = complaint(1, often="always"), complaint(2, often="sometimes")
    assert told_of([first, second]).often == "sometimes" and told_of([first, complaint(2, True, often="sometimes")]).often == "always"


@pytest.mark.parametrize(
    ("given", "says"),
    [
        ({}, "Nothing is told yet"),
        ({"under": "moonlight"}, "nothing that a complaint can hang on"),
        ({"tries": "often"}, "must be like '3 of 10'"),
        ({"tries": "11 of 10"}, "must be like '3 of 10'"),
        ({"tries": "0 of 0"}, "must be like '3 of 10'"),
        ({"often": "always", "tries": "3 of 10"}, "which is it"),
        ({"often": "never"}, "not one of always"),
        ({"minutes": "soon"}, "minutes after the start must be a number"),
        ({"minutes": "-1"}, "from 0 to 1440"),
        ({"text": "x" * 2001}, "at most 2,000"),
    ],
)
def test_what_does_not_fit_together_is_asked_about(given, says):
    with pytest.raises(PondrelError, match=says):
        complaint(**given)


def test_a_count_of_tries_alone_says_that_it_comes_and_goes():
    assert told_of([complaint(tries="3 of 10")]).comes_and_goes and not told_of([complaint(tries="10 of 10")]).comes_and_goes
    assert tries_of("3 out of 10") == (3, 10)
    with pytest.raises(ToldError):
        tries_of("3 of")


def test_a_circuit_takes_from_the_complaint_what_it_lacks_and_gives_back_what_is_told_no_more():
    told = Told(often="sometimes", under=("wet", "bumps"))
    assert set(carried(told)) == {("when", "sometimes"), ("during", "wet"), ("during", "bumps")}
    own = [
        entry(5, "when", {"outcome": "sometimes", "subject": "", "note": FROM_COMPLAINT}, 1),
        entry(6, "during", {"outcome": "hot", "subject": "", "note": FROM_COMPLAINT}, 1),
        entry(7, "during", {"outcome": "wet", "subject": "", "note": ""}, 1),
        entry(8, "during", {"outcome": "cold", "subject": "", "note": ""}, 1),  # entered on the circuit itself: stays
        entry(9, "said", {"outcome": "low", "subject": "fuel", "note": FROM_COMPLAINT}, 1),  # said of a part: stays
    ]
    change = to_carry(told, own)
    assert change.write == (("during", "bumps"),) and [e.id for e in change.strike] == [6]
    assert [e.id for e in to_carry(None, own).strike] == [5, 6]
    assert carried(Told(often="always")) == (("when", "always"),) and carried(Told(since="May")) == ()


def test_a_part_renewed_in_vain_is_evidence_once_and_not_again_where_it_was_struck_out(demo_sheets):
    sheet = demo_sheets["step_lights"]
    line = Fitted(1, "rear step lamp", "", "2026-10", None, "new", "", None, None, 1, "no", "")
    assert renewed_on(sheet, [line], []) == (("renewed", "LA2", "no help"),)
    for struck in (False, True):
        assert renewed_on(sheet, [line], [entry(3, "renewed", {"subject": "LA2", "outcome": "no help"}, 1, struck)]) == ()


def test_what_is_worth_a_look_begins_with_what_was_lately_disturbed(demo_sheets):
    sheet = demo_sheets["step_lights"]
    lamp = Fitted(1, "rear step lamp", "", "2026-10", None, "new", "", None, None, None, "", "")
    looks = look_list(sheet, Told(under=("door",)), [lamp], ["W2"])
    assert [look.subject for look in looks][:2] == ["LA2", "W2"] and "fitted lately" in looks[0].why
    moved = next(look for look in looks if look.subject == "C12")
    assert "as the door is moved" in moved.why and moved.where == "pillar plug C12 pin 3, loom side, unclip the door pillar cover"
    ground = next(look for look in looks if look.subject == "G3")
    assert "six screws" in ground.where and len(looks) <= MOST_LOOKS
    assert len({look.subject for look in looks}) == len(looks)


def test_pins_of_one_plug_are_looked_at_together(demo_sheets):
    sheet = demo_sheets["two_wire_bus"]
    assert whole_plug(sheet, "C12.3") == "C12.3" and whole_plug(demo_sheets["step_lights"], "C12.3") == "C12"
    wet = look_list(sheet, Told(under=("wet",)), (), ())
    assert "when wet" in next(look for look in wet if look.subject == "X5").why


def test_what_was_found_last_where_one_looked_stands_there(demo_sheets):
    looks = look_list(demo_sheets["step_lights"], None, (), ())
    seen = [
        entry(n, "look", {"subject": "G3", "outcome": word, "note": "x"}, 1, word == "wet")
        for n, word in enumerate(("fine", "corroded", "wet"))
    ]
    assert outcomes_of_looks(looks, seen)["G3"].outcome == "corroded"


def test_what_is_moved_while_one_watches_is_what_moves_in_service(demo_sheets):
    sheet = demo_sheets["step_lights"]
    first = stirrings(sheet, Told(often="sometimes", under=("door",)), ())
    assert (first[0].kind, first[0].subject) == ("wiggle", "C12")
    hot = stirrings(sheet, Told(under=("hot",)), ())
    assert hot[0].kind == "heat" and all(s.kind in ("heat", "wiggle") for s in hot)
    tried = [entry(n, "wiggle", {"subject": "C12", "outcome": word}, 1) for n, word in ((1, "changed"), (2, "no change"))]
    again = stirrings(sheet, Told(under=("door",)), tried)[0]
    assert (again.outcome, again.tries) == ("no change", 2)


def test_one_watches_what_is_complained_of(demo_sheets):
    sheet = demo_sheets["tail_lift"]
    said = [entry(1, "said", {"subject": "contactor", "state": "raise", "outcome": "silent"}, 1)]
    assert to_watch(sheet, None, said) == "contactor with the vehicle in state raise" and to_watch(sheet, None, ()) == "pump"
