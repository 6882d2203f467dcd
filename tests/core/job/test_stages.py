"""Where a job stands is a function of its record, and says what is true."""

from __future__ import annotations

from dataclasses import replace

import pytest

from pondrel.core.base.written import EntryError
from pondrel.core.job.entry import Entry, Struck
from pondrel.core.job.kinds import KINDS, answer_of, checked_content, words_of
from pondrel.core.job.stages import ASIDE, DONE, GO_ON, GROUPS, OFF, STAGES, WAITS, Known, move_of, state_of

KNOWN = Known("dim lamps", "when wet", {1: "Step lights"})


def record(*written) -> list[Entry]:
    """Entries from (kind, content) pairs, in order; evidence and conclusions are on trace 1."""
    return [
        Entry(n, 7, 1 if kind in ("reading", "see", "look", "conclusion") else None, kind, content, "Oda", f"2026-01-01T08:{n:02d}:00Z")
        for n, (kind, content) in enumerate(written, 1)
    ]


READING = ("reading", {"state": "open", "instrument": "volts", "red": "g3", "black": "batt-", "value": "3.76"})
LOOK = ("look", {"subject": "G3", "outcome": "corroded"})
FOUND = ("conclusion", {"says": "G3", "reason": "", "faulty": True, "proved": True, "probability": 0.99})
SOUND = ("conclusion", {"says": "Nothing on this sheet is wrong", "reason": "x", "faulty": False, "proved": False, "probability": 0.5})
MENDED, WORKS, FAILS = (
    ("remedy", {"text": "stud cleaned"}),
    ("proof", {"works": "yes", "text": ""}),
    ("proof", {"works": "no", "text": "still dim"}),
)
HANDED = ("report", {"text": ""})


@pytest.mark.parametrize(
    ("known", "written", "here", "waits_for"),
    [
        (replace(KNOWN, traces={}), (), "Look", "waits for a look, or a circuit to trace"),
        (KNOWN, (), "Look", "waits for a look, or the first reading"),
        (KNOWN, (LOOK,), "Trace", "waits for the next reading"),
        (KNOWN, (READING,), "Trace", "waits for the next reading"),
        (replace(KNOWN, ready={1: "G3 proved"}), (READING,), "Trace", "found: waits to be concluded"),
        (KNOWN, (READING, FOUND), "Remedy", "found: waits for the repair"),
        (KNOWN, (READING, SOUND), "Trace", "nothing wrong on this circuit: waits for another one"),
        (KNOWN, (READING, FOUND, MENDED), "Proof", "repaired: waits for the proof"),
        (KNOWN, (READING, FOUND, MENDED, FAILS), "Remedy", "repaired, does not work yet: go on looking"),
        (KNOWN, (READING, FOUND, MENDED, FAILS, MENDED), "Proof", "repaired: waits for the proof"),
        (KNOWN, (READING, FOUND, MENDED, WORKS), "Report", "proved: waits to be handed over"),
        (KNOWN, (READING, FOUND, MENDED, WORKS, HANDED), "Report", "handed over"),
        (KNOWN, (MENDED, READING, FOUND), "Remedy", "found: waits for the repair"),  # repaired before the cause was known
        (KNOWN, (READING, FOUND, WORKS), "Remedy", "found: waits for the repair"),  # nothing was repaired yet
    ],
)
def test_the_stage_and_what_is_waited_for_follow_from_the_record(known, written, here, waits_for):
    state = state_of(known, record(*written))
    assert (state.here, state.waits_for) == (here, waits_for)
    assert [stage.name for stage in state.stages] == list(STAGES) and len(state.letters) == 6


def test_found_is_not_repaired_and_repaired_is_not_proved():
    told = ((READING, FOUND), (READING, FOUND, MENDED), (READING, FOUND, MENDED, WORKS))
    letters = [state_of(KNOWN, record(*written)).letters for written in told]
    assert letters == ["dpdhaa", "dpddha", "dpdddh"]


def test_a_stage_that_was_passed_over_is_not_called_done():
    look = state_of(KNOWN, record(READING)).stages[1]
    assert (look.at, look.lacks) == ("passed", "a look before the meter")
    assert state_of(KNOWN, record(LOOK, READING)).stages[1].at == "done"


def test_a_stage_says_where_it_stands_in_a_few_words():
    told = [stage.brief for stage in state_of(KNOWN, record(READING)).stages]
    assert told == ["taken", "passed over", "1 entry", "needs a cause", "needs a repair", "needs proof"]
    told = [stage.brief for stage in state_of(KNOWN, record(LOOK, READING, FOUND, MENDED, WORKS, HANDED)).stages]
    assert told == ["taken", "1 look", "found", "done", "works", "handed over"]
    assert all(len(words) <= 18 for words in told)  # they stand in a strip of six


def test_what_waits_is_sorted_by_what_it_waits_for():
    waits = [move_of(WAITS, f"waits for {what}") for what in ("a part: seal", "an answer", "the road")]
    moves = [move_of(GO_ON, "waits for the next reading"), *waits]
    assert [title for _, title, _ in moves] == ["Go on now", "Waits for a part", "Waits for an answer", "Waits for the road"]
    assert moves == sorted(moves)  # whose hands are missing comes first
    assert move_of(WAITS, "waits for something else: rain")[1] == "Waits for something else"
    assert move_of(DONE, "handed over")[1:] == ("Handed over", "")


def test_what_is_struck_out_no_longer_counts():
    entries = record(READING, FOUND, MENDED)
    entries[2] = replace(entries[2], struck=Struck("it was the other stud", "Oda", "2026-01-02T00:00:00Z"))
    assert state_of(KNOWN, entries).here == "Remedy"
    entries[1] = replace(entries[1], struck=Struck("came back", "Oda", "2026-01-02T00:00:00Z"))
    assert state_of(KNOWN, entries).here == "Trace"


@pytest.mark.parametrize(
    ("entry", "group", "says"),
    [
        (("waits", {"for": "a part", "text": "seal kit"}), WAITS, "waits for a part: seal kit"),
        (("aside", {"text": "customer on holiday"}), ASIDE, "put aside: customer on holiday"),
        (("off", {"text": "sold"}), OFF, "called off: sold"),
        (HANDED, DONE, "handed over"),
        (("note", {"text": "x"}), GO_ON, "waits for the next reading"),
    ],
)
def test_whose_move_it_is(entry, group, says):
    entries = record(READING, entry)
    state = state_of(KNOWN, entries)
    assert (state.group, state.waits_for) == (group, says) and GROUPS[group]
    assert state.held_by == (2 if group in (WAITS, ASIDE, OFF) else None) and state.over == (group in (DONE, OFF))
    entries[1] = replace(entries[1], struck=Struck("taken up again", "", ""))
    assert state_of(KNOWN, entries).group == GO_ON


def test_several_circuits_of_one_job_are_found_together():
    known = replace(KNOWN, traces={1: "Step lights", 2: "Door"})
    entries = record(READING, SOUND, FOUND)
    entries[2] = replace(entries[2], trace_id=2)
    state = state_of(known, entries)
    assert state.here == "Remedy" and state.found == "G3"


@pytest.mark.parametrize("kind", list(KINDS))
def test_every_kind_of_entry_can_be_written_and_reads_as_a_line(kind):
    given = {
        "text": "words",
        "works": "yes",
        "for": "a part",
        "says": "G3",
        "faulty": True,
        "proved": True,
        "probability": 0.5,
        "part": "",
        "reason": "",
        "often": "sometimes",
        "tries": "3 of 10",
        "under": "cold,start",
        "minutes": "12",
        "word": "yes",
        "function": "drive",
        "condition": "key",
        "since": "Tuesday",
        "before": "new battery",
        "codes": '[{"code":"P0201","failure":"13"}]',
        "code": "P0201",
        "self_made": True,
        "answered": "engine, dash",
        "laid": '{"figures":{"crank":10.4},"line":{}}',
        "silent": "lift",
        "deed": "cleaned",
        "check": "5",
        "place": "battery posts",
        "outcome": "corroded",
        "by": "Ida",
        "moved": "the seat",
        "did": "changed",
        "back": "the fuse is back in",
        "who": "the owner",
        "file": "0" * 64,
        "why": "seen under the floor",
        "sheet": "1" * 64,
        "way": "start",
        "step": "heard",
        "value": "one click",
        "skipped": False,
        "name": "reach",
        "marks": '[[0.5, 0.25, "crust"]]',
        "price": "42",
        "which": "failed",
        "state": "good",
        "agrees": "yes",
        "gate": "fits",
        "result": "done",
        "today": 42.0,
        "title": "cover",
        "fasteners": '[[0.5,0.5,"M6",""]]',
        "torque": "9 Nm",
        "what": "bracket",
        "sort": "resistor",
        "printed": "4k7 0.25 W",
        "when": "after",
        "of": "3",
        "good": "2",
        "bad": "0",
        "module": "shelf module",
        "off": "20",
        "woke": "3",
        "left": "0",
        "load": "15 Ω",
        "there": "yes",
        "seal": "7K4-Q2MA",
        "digest": "0" * 64,
        **({"way": "new"} if kind in ("offer", "choice") else {}),
        **({"minutes": 12.0} if kind == "choice" else {}),
        **({"check": "pedal"} if kind == "checked" else {}),
        **({"part": "shift valve D"} if kind == "substituted" else {}),
        **({"sheet": "customer"} if kind == "issued" else {}),
    }
    content = checked_content(kind, {field.name: given.get(field.name) for field in KINDS[kind].fields})
    line = words_of(Entry(1, 1, None, kind, content, "", ""))
    assert line and "None" not in line and answer_of(Entry(1, 1, None, kind, content, "", "")) == ""


@pytest.mark.parametrize("value", ["yes", 1.0, None])
def test_a_flag_is_a_flag(value):
    with pytest.raises(EntryError, match="must be yes or no"):
        checked_content("conclusion", {"says": "G3", "faulty": True, "proved": value})


def told(**given):
    return ("complaint", checked_content("complaint", given))


MOVED = ("flexed", {"moved": "the seat", "did": "changed"})
STIRRED = ("wiggle", {"subject": "C2", "outcome": "changed"})


@pytest.mark.parametrize(
    ("entries", "here", "says"),
    [
        ((), "Complaint", "ask when it is there, and what was done before"),
        ((told(often="always"),), "Look", "waits for a look, or a circuit to trace"),
        ((told(often="sometimes"),), "Look", "make it show itself: move one thing at a time, and watch"),
        (
            (told(tries="2 of 5"), ("looked", {"place": "x", "outcome": "fine"})),
            "Trace",
            "make it show itself: move one thing at a time, and watch",
        ),
        ((told(often="sometimes"), MOVED), "Look", "waits for a look, or a circuit to trace"),
        ((told(often="always"), ("looked", {"place": "x", "outcome": "fine"})), "Trace", "looked: waits for a circuit to trace"),
        ((("looked", {"place": "x", "outcome": "fine"}),), "Trace", "looked: waits for a circuit to trace"),
    ],
)
def test_a_job_without_a_circuit_always_names_what_is_next(entries, here, says):
    lines = [replace(entry, trace_id=None) for entry in record(*entries)]
    state = state_of(replace(KNOWN, conditions="", traces={}), lines)
    assert (state.here, state.waits_for) == (here, says)


def test_what_comes_and_goes_is_measured_once_it_has_shown_itself_or_somebody_has_begun():
    known = replace(KNOWN, conditions="")
    for entries in ((told(often="sometimes"), STIRRED), (told(often="sometimes"), READING)):
        assert "make it show itself" not in state_of(known, record(*entries)).waits_for
    assert (
        "make it show itself"
        in state_of(known, record(told(often="sometimes"), ("wiggle", {"subject": "C2", "outcome": "no change"}))).waits_for
    )


def test_what_a_circuit_took_from_the_complaint_is_no_entry_of_the_trace():
    carried = [
        ("when", {"outcome": "always", "note": "as the customer told it"}),
        ("renewed", {"subject": "K2", "note": "from the parts fitted"}),
    ]
    lines = [replace(entry, trace_id=1) for entry in record(told(often="always"), *carried)]
    assert state_of(KNOWN, lines).waits_for == "waits for a look, or the first reading"


def test_a_complaint_that_calls_for_a_guided_way_waits_for_its_first_step():
    clicks = replace(KNOWN, complaint="Just clicks", conditions="", traces={})
    begun = state_of(clicks, [replace(entry, trace_id=None) for entry in record(told(often="always"))])
    assert begun.way == "start" and begun.waits_for == "waits for a look, or the first step of start and charge"
    assert next(stage for stage in begun.stages if stage.name == "Trace").brief == "step by step"
    walked = record(("power", {"way": "charge", "step": "rest", "value": "12.4", "skipped": False}))
    assert state_of(clicks, [replace(entry, trace_id=None) for entry in walked]).way == "charge"
    assert state_of(replace(clicks, traces={1: "Starter"}), record()).way == ""
