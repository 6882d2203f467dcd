"""Fault codes from what people paste, what became of them, usual causes, and roll calls."""

from __future__ import annotations

import pytest
from hypothesis import given
from hypothesis import strategies as st

from pondrel.core.base.errors import PondrelError
from pondrel.core.module.causes import SHIPPED, causes_for, kept_lists, lists_from_text, lists_kept
from pondrel.core.module.fault_code import CodeError, FaultCode, parse_code
from pondrel.core.module.read_out import MOST_CODES, codes_from_text, codes_kept, kept_codes
from pondrel.core.module.readings_out import BACK, GONE, NEVER, NOT_READ, Cleared, Noted, Scan, standings
from pondrel.core.module.roll_call import ONE_SILENT, SEVERAL_SILENT, RollCallError, modules_named, roll_call

PASTED = """
Read on the bench
Engine module:
P0201-13  Injector 1 circuit open (Stored)
  rpm: 820
  coolant: 81 C
P0301 - cylinder 1 misfire, pending rpm=790 load=22

[lift box]
U0140-87 history
brakes: C0035 stored odo=148220
flash 2-4
"""


def test_codes_are_found_in_what_is_pasted_with_module_status_text_and_frame():
    found = codes_from_text(PASTED)
    assert [(c.name, c.module, c.status) for c in found.codes] == [
        ("P0201-13", "Engine module", "stored"), ("P0301", "Engine module", "pending"), ("U0140-87", "lift box", "history"),
        ("C0035", "brakes", "stored"), ("flash 2-4", "lift box", ""),
    ]  # fmt: skip
    assert found.codes[0].text == "Injector 1 circuit open" and found.codes[0].frame == (("rpm", "820"), ("coolant", "81 C"))
    assert found.codes[1].frame == (("rpm", "790"), ("load", "22")) and found.codes[3].frame == (("odo", "148220"),)
    assert found.passed_over == ("Read on the bench",)


@pytest.mark.parametrize("delimiter", [",", ";", "\t"])
def test_a_table_is_read_by_its_headings(delimiter):
    rows = [
        ["Status", "Code", "Module", "Failure type", "rpm"],
        ["confirmed", "p0201", "engine", "13", "820"],
        ["", "", "lost row", "", ""],
    ]
    found = codes_from_text("\n".join(delimiter.join(row) for row in rows))
    assert found.codes == (FaultCode("P0201", "13", "stored", "engine", "", (("rpm", "820"),)),)
    assert found.passed_over == ("lost row",)


def test_a_code_told_twice_by_one_module_stands_once_with_all_that_was_said():
    found = codes_from_text("engine:\nP0201 rpm=800\nP0201 stored Injector load=20\nbrakes:\nP0201")
    assert [(c.module, c.status, c.text, c.frame) for c in found.codes] == [
        ("engine", "stored", "Injector", (("rpm", "800"), ("load", "20"))), ("brakes", "", "", ()),
    ]  # fmt: skip


@pytest.mark.parametrize(
    ("text", "says"),
    [
        ("", "No code was given"), ("   \n", "No code was given"), ("all fine here", "No fault code is in it"),
        ("PO201", "'PO201' is no fault code"), ("P020", "'P020' is no fault code"), ("P4201", "'P4201' is no fault code"),
        ("code,status\nP02,stored", "Row 2: 'P02' is no fault code"), ("code,failure\nP0201,1Z", "Row 2: the failure type '1Z'"),
        ("P0201\x00", r"U\+0000"), ("x" * 60_001, "at most 60,000"),
        ("\n".join(f"P{n:04X}" for n in range(0x3FF)), "1,023 codes are too many for one reading out: at most 200"),
    ],
)  # fmt: skip
def test_what_cannot_be_read_out_is_refused_in_one_sentence(text, says):
    with pytest.raises(CodeError, match=says) as told:
        codes_from_text(text)
    assert len(str(told.value)) < 320


@given(st.text(max_size=400))
def test_no_text_breaks_the_reader(text):
    try:
        found = codes_from_text(text)
    except PondrelError:
        return
    assert 0 < len(found.codes) <= MOST_CODES and kept_codes(codes_kept(found.codes)) == found.codes


def test_a_word_that_only_looks_like_a_code_is_no_slip():
    assert [c.name for c in codes_from_text("Bell code Cabin BUS4A feed 12.4\nP0201").codes] == ["P0201"]


@pytest.mark.parametrize("text", ["", "nothing", '{"code": 1}', "[1]", '[{"code":"P02"}]', '[{"text":"x"}]'])
def test_what_was_kept_and_is_no_reading_out_is_told(text):
    with pytest.raises(CodeError):
        kept_codes(text)


def scan(at, *names):
    return Scan(at, tuple(FaultCode(*parse_code(name)) for name in names))


def told(found):
    return {one.code.name: (one.counts, one.after_clearing) for one in found}


def test_a_code_that_comes_back_after_clearing_is_told_from_one_that_does_not():
    before, after = scan(1, "P0201", "P0301", "U0140"), scan(9, "P0201", "P0500")
    assert told(standings([before], [Cleared(5)], [], [])) == dict.fromkeys(("P0201", "P0301", "U0140"), (True, NOT_READ))
    found = told(standings([before, after], [Cleared(5)], [], []))
    assert found == {"P0201": (True, BACK), "P0301": (True, GONE), "U0140": (True, GONE), "P0500": (True, NEVER)}


def test_a_code_first_read_after_something_was_unplugged_is_kept_apart():
    scans = [scan(1, "P0201"), scan(9, "P0201", "P0113")]
    (real, made) = standings(scans, [], [], [(4, "C2")])
    assert real.code.name == "P0201" and real.counts
    assert made.code.name == "P0113" and made.presumed and made.self_made == "first read after C2 was unplugged"
    assert all(one.counts for one in standings(scans[1:], [], [], [(4, "C2")]))  # nobody knows what was there before


def test_a_code_frozen_at_the_mileage_in_the_workshop_is_of_the_work_s_making_once_something_was_unplugged():
    scans = [scan(9, "P0113")]
    assert told(standings(scans, [], [], [(4, "C2")], {"P0113"}))["P0113"] == (False, NEVER)
    assert told(standings(scans, [], [], [], {"P0113"}))["P0113"] == (True, NEVER)  # nothing was unplugged
    assert told(standings(scans, [], [], [(12, "C2")], {"P0113"}))["P0113"] == (True, NEVER)  # only afterwards


def test_what_somebody_says_of_a_code_goes_before_what_is_presumed():
    scans, off = [scan(1, "P0201"), scan(9, "P0113")], [(4, "C2")]
    assert told(standings(scans, [], [Noted(10, "P0113", False, "")], off))["P0113"][0]
    (_, made) = standings(scans, [], [Noted(10, "P0201", True, "I did it")], [])
    assert made.code.name == "P0201" and made.self_made == "I did it" and not made.presumed


def test_a_workshop_s_own_list_goes_before_those_that_ship():
    own = lists_from_text("pattern,first,second\nP02XX,our way,other way\nP0201,closest of all", "our own")
    assert [c.causes[0] for c in causes_for(FaultCode("P0201", "13"), own)][:2] == ["closest of all", "our way"]
    assert causes_for(FaultCode("P0201", "13"))[0].pattern == "*-13" and causes_for(FaultCode("P0201"))[0].pattern == "P02XX"
    assert kept_lists(lists_kept(own), "our own") == own
    assert lists_from_text('{"flash 2-4": ["throttle"]}', "x")[0].fits(FaultCode("flash 2-4"))


def test_every_shipped_list_says_whose_it_is_and_leaves_the_module_for_last():
    for one in SHIPPED:
        assert one.origin == "common practice, no source"
        assert not any("last" in cause for cause in one.causes[:-1]), one


@pytest.mark.parametrize(
    ("text", "says"),
    [
        ("", "is empty"), ("P02XX", "P02XX has no cause"), ("hello,world", "Line 1: 'hello' is no code"), ("{", "no JSON"),
        ("[1]", "must be like"),
        ("P0201," + ",".join(f"c{n}" for n in range(13)), "more than 12 causes"), ("P0201," + "x" * 161, "longer than 160"),
        ("\n".join(f"P{n:04X},x" for n in range(2001)), "too many"),
    ],
)  # fmt: skip
def test_a_table_of_causes_that_does_not_fit_is_refused_in_one_sentence(text, says):
    with pytest.raises(CodeError, match=says):
        lists_from_text(text, "x")


def test_one_silent_module_points_to_its_own_supply_and_several_to_what_they_share():
    one, several = roll_call(["engine", "dash"], ["lift"]), roll_call(["dash"], ["lift", "ramp"])
    assert one.look_first == ONE_SILENT and "lift is silent" in one.says and "its supply" in one.says
    assert several.look_first == SEVERAL_SILENT and "lift and ramp are silent: look for one cause" in several.says
    assert roll_call(["engine"], []).look_first == () and "Nobody answers" in roll_call([], ["engine"]).says


def test_a_roll_call_that_does_not_fit_together_is_asked_about():
    for answered, silent, says in ((["a"], ["a"], "which is it"), ([], [], "No module is named")):
        with pytest.raises(RollCallError, match=says):
            roll_call(answered, silent)
    assert modules_named("engine,  dash ; lift\nengine") == ("engine", "dash", "lift")
    for text in (",".join(f"m{n}" for n in range(61)), "x" * 61):
        with pytest.raises(RollCallError):
            modules_named(text)
