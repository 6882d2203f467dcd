"""Codes and outcome tables of a sheet: read, checked, and what they are taken to say."""

from __future__ import annotations

import pytest

from pondrel.core.base.errors import SheetError
from pondrel.core.circuit.read.sheet import parse_sheet
from pondrel.core.evidence.asked import Question
from pondrel.core.evidence.registry import on_offer
from pondrel.core.isolate.predict.workup import Workup

from ...circuits import STEP_LIGHT, observed

GOOD = """
codes:
  B1001: {at: lamp.feed, state: lit, below: 6, meaning: lamp circuit low}
tests:
  tug: {minutes: 2, behind: rear_panel, outcomes: [holds, comes off], given: {otherwise: [1, 0], G1: [0.5, 0.5], G1.open: [0.1, 0.9]}}
"""


def flaws(text: str) -> list[str]:
    with pytest.raises(SheetError) as found:
        parse_sheet(STEP_LIGHT + text)
    return found.value.lines("f")


@pytest.mark.parametrize(
    ("text", "flaw"),
    [
        ("codes: {X: {at: nowhere, state: lit, below: 1}}", "codes.X.at: no part has a pin on this node"),
        ("codes: {X: {at: lamp.feed, state: fly, below: 1}}", "codes.X.state: no state of that name"),
        ("codes: {X: {at: lamp.feed, state: lit, below: 1, fed: nowhere}}", "codes.X.fed: no part has a pin on this node"),
        ("codes: {X: {at: lamp.feed, state: lit}}", "codes.X: needs below or above"),
        ("codes: {X: {at: lamp.feed, state: lit, below: low}}", "codes.X.below: must be a number of volts"),
        ("tests: {t: {outcomes: [one], given: {otherwise: [1]}}}", "tests.t.outcomes: must list two or more"),
        ("tests: {t: {outcomes: [a, b], given: {G1: [0.5, 0.5]}}}", "tests.t.given: needs 'otherwise'"),
        (
            "tests: {t: {outcomes: [a, b], given: {otherwise: [0.5, 0.4]}}}",
            "tests.t.given.otherwise: must be 2 probabilities that sum to 1",
        ),
        ("tests: {t: {outcomes: [a, b], given: {otherwise: [1, 0], G9: [0, 1]}}}", "tests.t.given.G9: is neither a part nor PART.MODE"),
        ("tests: {t: {outcomes: [a, b], behind: roof, given: {otherwise: [1, 0]}}}", "tests.t.behind: no access of that name"),
        ("tests: {t: {outcomes: [a, b], colour: red, given: {otherwise: [1, 0]}}}", "tests.t.colour: unknown key"),
    ],
)
def test_a_flaw_names_its_place_and_what_would_be_right(text, flaw):
    assert any(flaw in line for line in flaws(text))


def test_a_table_is_never_quite_certain_and_the_mode_goes_before_its_part():
    table = parse_sheet(STEP_LIGHT + GOOD).tables["tug"]
    assert 0.0 < table.under(None, None)[1] < 0.01
    assert table.under("G1", "open")[1] == pytest.approx(0.9, abs=0.01)
    assert table.under("G1", "high_resistance")[1] == pytest.approx(0.5)
    assert table.under("W1", "open") == table.under(None, None)


def test_codes_and_tables_are_offered_and_predicted():
    workup = Workup(parse_sheet(STEP_LIGHT + GOOD))
    offered = on_offer(workup.sheet)
    assert Question("code", "B1001", "lit") in offered and Question("test", "tug") in offered
    code = workup.chances(Question("code", "B1001", "lit"))
    assert code[0, 0] < 0.1  # a sound circuit holds 12 V there: only an old code would be set
    by_mode = {(item.part, item.mode): h for h, item in enumerate(workup.hypotheses.items)}
    broken = int(workup.curves.start[list(workup.curves.hypothesis).index(by_mode["W1", "open"])])
    assert code[broken, 0] > 0.9


def test_a_module_without_its_supply_sets_no_code():
    """F4 feeds the module and the lamp alike: without it there is nobody to set a code, though the lamp's volts are low."""
    fed = GOOD.replace("below: 6,", "below: 6, fed: f4.out,")
    for text, share in ((GOOD, 0.9), (fed, 0.02)):
        workup = Workup(parse_sheet(STEP_LIGHT + text))
        number = [(item.part, item.mode) for item in workup.hypotheses.items].index(("F4", "open"))
        row = int(workup.curves.start[list(workup.curves.hypothesis).index(number)])
        set_when_blown = workup.chances(Question("code", "B1001", "lit"))[row, 0]
        assert set_when_blown > share if text is GOOD else set_when_blown < share


def test_a_code_is_read_in_its_own_state():
    sheet = parse_sheet(STEP_LIGHT + GOOD)
    assert observed(sheet, "code", "B1001", "stored", "lit").outcome == "set"


def test_a_state_may_take_minutes():
    sheet = parse_sheet(STEP_LIGHT.replace("lit:  {S1: closed}", "lit: {S1: closed, minutes: 2.5}"))
    assert sheet.states["lit"].minutes == 2.5
    bad = STEP_LIGHT.replace("lit:  {S1: closed}", "lit: {S1: closed, minutes: -1}")
    with pytest.raises(SheetError):
        parse_sheet(bad)
