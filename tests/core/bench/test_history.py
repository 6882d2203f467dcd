"""Others of the same sort, and the workshop's limits as files."""

from __future__ import annotations

import math

import pytest

from pondrel.core.base.errors import PondrelError
from pondrel.core.bench.given import Given, given_from
from pondrel.core.bench.history import among
from pondrel.core.bench.limits_file import Row, rows_from, to_csv, to_json


def test_one_that_lies_apart_is_named_and_one_that_does_not_is_not():
    found = among([3.52, 3.55, 3.58, 3.61, 4.40], 3.56, "Ω")
    assert found.apart == (4,) and not found.this_apart and found.says == "5 others lie around 3.58 Ω. This one is like them."
    assert among([3.52, 3.55, 3.58, 3.61], 4.00, "Ω").says.endswith("This one lies apart from them, above.")


def test_of_a_few_nobody_says_which_lies_apart():
    found = among([3.5, 9.0], 3.5, "Ω")
    assert found.apart == () and not found.this_apart and "2 others" in found.says
    assert among([], 3.5, "Ω") is None and among([math.inf], 3.5, "Ω") is None
    assert among([3.5], None, "Ω").says == "One other lies around 3.50 Ω."


def test_numbers_that_are_all_the_same_do_not_make_the_next_one_an_outlier():
    assert not among([3.50] * 6, 3.52, "Ω").this_apart and among([3.50] * 6, 4.0, "Ω").this_apart


ROWS = [Row("coil", "Clutch", "ohms 3..4 @20C (maker: sheet 1, page 2)", 'says "so"'), Row("diode", "", "forward 0.5..0.7", "")]


@pytest.mark.parametrize("write", [to_csv, to_json])
def test_limits_come_back_from_a_file_as_they_went(write):
    assert rows_from(write(ROWS)) == ROWS
    assert rows_from("\ufeff" + write(ROWS)) == ROWS


def test_a_table_of_another_country_is_read():
    assert rows_from("Limit;Family;What\nohms 3,1..3,9;coil;Clutch") == [Row("coil", "Clutch", "ohms 3,1..3,9", "")]


@pytest.mark.parametrize(
    "text", ["", "{}", "[1]", "[" * 5000, "family,limit\nnone,3..4", "family,limit\n" + "coil,3..4\n" * 6000, "family\ncoil"]
)
def test_a_file_that_is_wrong_is_one_sentence(text):
    with pytest.raises(PondrelError) as caught:
        rows_from(text)
    assert "\n" not in str(caught.value)


def test_what_was_given_comes_back_and_rubbish_does_not():
    given = Given((("hot", "90"),), (("ohms", "3 @20C"),), ("3..4",), "a,b", "Yellow")
    assert given_from(given.as_json()) == given and bool(given)
    assert given_from({"reads": [["ohms"], 3], "limits": "x", "points": None}) == Given() and not Given()
