"""Which circuit is meant: by the words, codes and modules that a complaint shares with the sheets."""

from __future__ import annotations

import pytest

from pondrel.core.job.which import Phrase, kept_phrases, phrases_kept, phrases_of, proposed_circuits


@pytest.fixture(scope="module")
def phrases(demo_sheets):
    return {number: phrases_of(sheet) for number, sheet in enumerate(demo_sheets.values())}


@pytest.fixture(scope="module")
def title(demo_sheets):
    return {number: name for number, name in enumerate(demo_sheets)}  # noqa: C416  a number each, as ids are


@pytest.mark.parametrize(
    ("complaint", "sheet"),
    [
        ("All three door lamps dim", "step_lights"),
        ("Platform at the back will not go up, contactor quiet", "tail_lift"),
        ("the rear window heater clears only half", "heated_glass"),
        ("battery flat every Monday", "charging"),
        ("left front does not kneel", "kneeling_valves"),
        ("needle of the fuel gauge jumps", "dash_gauges"),
        ("reading room lights go out too soon", "cabin_light"),
        ("ramp stops halfway", "ramp_motor"),
    ],
)
def test_the_circuit_that_is_meant_is_proposed_first(phrases, title, complaint, sheet):
    found = proposed_circuits(phrases, complaint)
    assert title[found[0].key] == sheet and found[0].because and found[0].share == 1.0


def test_a_lamp_that_tells_of_a_code_is_no_lamp_that_is_complained_of(phrases):
    assert proposed_circuits(phrases, "Engine lamp on, warning light too") == ()
    assert proposed_circuits(phrases, "Step lamp dim, engine lamp on")[0] == proposed_circuits(phrases, "Step lamp dim")[0]


def test_a_complaint_that_shares_no_word_proposes_nothing(phrases):
    for complaint in ("", "it does not work", "smells of coffee", "crates everywhere", "<script>alert(1)</script>", "x" * 5000):
        assert proposed_circuits(phrases, complaint) == ()


def test_a_code_of_a_sheet_and_a_silent_module_propose_theirs():
    sheets = {
        1: (Phrase("title", "Boost sensor"), Phrase("code", "P0238 boost high")),
        2: (Phrase("title", "Ramp"), Phrase("module", "ramp module")),
        3: (Phrase("title", "Horn"), Phrase("note", "beside the ramp")),
    }
    assert [p.key for p in proposed_circuits(sheets, "", codes=["P0238"])] == [1]
    assert [p.key for p in proposed_circuits(sheets, "", modules=["Ramp Module"])] == [2]


def test_what_all_sheets_say_parts_none_of_them(phrases):
    assert proposed_circuits(phrases, "battery") == () or proposed_circuits(phrases, "battery")[0].share == 1.0
    everywhere = {n: (Phrase("title", f"sheet {n}"), Phrase("part", "battery")) for n in range(40)}
    assert proposed_circuits(everywhere, "battery") == ()


def test_phrases_are_kept_as_they_are(phrases):
    assert all(kept_phrases(phrases_kept(own)) == own for own in phrases.values()) and kept_phrases("") == ()
