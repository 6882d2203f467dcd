"""Evidence in one line: the grammar, what it makes of names with spaces, its sentences, its completions; and what CSV makes of it."""

from __future__ import annotations

import pytest

from pondrel.core.base.errors import ReadingError
from pondrel.core.evidence.csv_file import read_csv
from pondrel.core.evidence.items import Observation, Reading
from pondrel.core.evidence.line import completions, parse_line, starts_a_line, written
from pondrel.core.evidence.registry import columns_of, item_of
from pondrel.core.evidence.sort import parts_at


@pytest.fixture(scope="module")
def valves(demo_workups):
    return demo_workups["kneeling_valves"].sheet


@pytest.mark.parametrize(
    ("line", "state", "instrument", "red", "black", "value"),
    [
        ("kneel left volts y1.1 24.2", "kneel left", "volts", "y1.1", "batt-", 24.2),
        ("volts y1.1 to y1.2 4", "ready", "volts", "y1.1", "y1.2", 4.0),
        ("volts y1.1 y1.2 470m", "ready", "volts", "y1.1", "y1.2", 0.47),
        ("KNEEL LEFT Volts Y1.1 24,2", "kneel left", "volts", "y1.1", "batt-", 24.2),
        ("parked ohms k8.87 OL", "parked", "ohms", "k8.87", "batt-", float("inf")),
        ("clamp f8.out batt+ 0.7", "ready", "clamp", "f8.out", "batt+", 0.7),
    ],
)
def test_readings(valves, line, state, instrument, red, black, value):
    item, typed = parse_line(valves, line, "ready")
    assert isinstance(item, Reading)
    assert (item.state, item.instrument, item.red, item.black, item.measured.value) == (state, instrument, red, black, value)
    assert typed == line.split()[-1]


@pytest.mark.parametrize(
    ("line", "kind", "subject", "outcome", "state"),
    [
        ("wiggle SP1 → dropped", "wiggle", "SP1", "changed", ""),
        ("flex W51 -> nothing", "wiggle", "W51", "no change", ""),
        ("swap K8 no change", "swap", "K8", "no change", ""),
        ("slow see left valve moves", "see", "left valve", "moves", "slow"),
        ("left valve still", "see", "left valve", "still", "ready"),
        ("module right open load", "see", "module right", "open", "ready"),
        ("look W51 pinched", "look", "W51", "chafed", ""),
        ("history K8 new", "history", "K8", "replaced", ""),
        ("when intermittent", "when", "", "sometimes", ""),
        ("skip y2.2", "skip", "y2.2", "not here", ""),
    ],
)
def test_findings(valves, line, kind, subject, outcome, state):
    item, _ = parse_line(valves, line, "ready")
    assert item == Observation(kind, subject, outcome, state)


@pytest.mark.parametrize(
    ("line", "sentence"),
    [
        ("", "Nothing was typed"),
        ("volt y1.1 4", "'volt' begins no line.*near it: volts"),
        ("volts y9 3", "'y9' is no place on this sheet"),
        ("volts", "A place is missing"),
        ("volts y1.1", "Nothing was typed"),
        ("volts y1.1 many", "'many' is no reading"),
        ("wiggle K8", "'' is no answer to 'wiggle K8': say changed or no change"),
        ("wiggle Q9 changed", "'Q9' is nothing on this sheet that can be wiggled"),
        ("left valve dim", "'dim' is no answer to 'see left valve': say still or moves"),
        ("good left valve moves", "After 'good' stands an instrument"),
        ("clamp y1.1 y2.2 3", "Nothing joins y1.1 and y2.2 directly"),
    ],
)
def test_a_bad_line_gets_one_sentence_that_says_what_would_be_right(valves, line, sentence):
    with pytest.raises(ReadingError, match=sentence):
        parse_line(valves, line, "ready")


def test_completions_go_on_word_by_word(valves):
    assert completions(valves, "kn", "ready") == ("kneel left", "kneel right", "knock")
    assert completions(valves, "kneel left volts y", "ready") == tuple(f"kneel left volts {p}" for p in ("y1.1", "y1.2", "y2.1", "y2.2"))
    assert completions(valves, "wiggle SP1 ", "ready") == ("wiggle SP1 changed", "wiggle SP1 no change")
    assert completions(valves, "volts y1.1 24", "ready") == ()


def test_every_completion_leads_to_a_line_that_is_understood(valves):
    """Walk the grammar by its own completions: each way ends in a value to type or a line that parses."""
    for start in ("wiggle", "swap", "look", "history", "left valve", "module right", "when", "suspect"):
        lines = [start + " "]
        for _ in range(3):
            line = lines[-1]
            more = completions(valves, line, "ready")
            if not more:
                break
            lines.append(more[0] + " ")
        parse_line(valves, lines[-1], "ready")


@pytest.mark.parametrize(
    "line", ["kneel left good volts y1.1 24.2", "wiggle SP1 changed", "slow see left valve moves", "amps batt+ f8.out 1.2"]
)
def test_a_line_goes_through_its_columns_and_back(valves, line):
    item, typed = parse_line(valves, line, "ready")
    state, instrument, red, black = columns_of(item)
    again = item_of(valves, state, instrument, red, black, item.outcome if isinstance(item, Observation) else typed)
    assert again == item
    assert parse_line(valves, written(item, typed, valves.minus), "ready")[0] == item


def test_a_number_is_no_line_and_a_word_of_the_grammar_is(valves):
    assert not starts_a_line(valves, "12.4")
    assert not starts_a_line(valves, "OL")
    assert starts_a_line(valves, "kneel left volts y1.1 3")
    assert starts_a_line(valves, "left valve moves")


def test_csv_takes_findings_and_the_good_side(valves):
    rows = ("ready,volts,y1.1,,24.9", ",wiggle,SP1,,dropped", "ready,good volts,y2.1,,24.9", "slow,see,left valve,,moves")
    text = "\n".join(("state,instrument,red,black,value", *rows))
    first, second, third, fourth = read_csv(valves, text)
    assert isinstance(first, Reading) and not first.elsewhere
    assert second == Observation("wiggle", "SP1", "changed")
    assert isinstance(third, Reading) and third.elsewhere
    assert fourth == Observation("see", "left valve", "moves", "slow")
    with pytest.raises(ReadingError, match=r"Line 2: 'lux' is no instrument: volts, .*; what is seen, done or known begins with see, "):
        read_csv(valves, "state,instrument,red,black,value\nready,lux,y1.1,,24.9\n")


def test_a_subject_is_a_part_a_plug_a_place_or_an_access(demo_workups):
    sheet = demo_workups["heated_glass"].sheet
    assert parts_at(sheet, "K5") == ("K5",)
    assert parts_at(sheet, "C20") == ("C20.1", "C20.2")
    assert set(parts_at(sheet, "f14.out")) >= {"F14", "W30"}
