"""Orders that do not hang on the last bit of a number."""

from __future__ import annotations

import numpy as np

from pondrel.core.base.ties import first_of_most, in_order, ranks


def test_what_differs_by_a_last_bit_keeps_the_order_it_came_in():
    third = 1.0 / 3.0
    assert in_order({"b": third, "a": np.nextafter(third, 1.0), "c": 0.9}) == {"c": 0.9, "b": third, "a": np.nextafter(third, 1.0)}
    assert list(in_order({"b": third, "a": np.nextafter(third, 1.0), "c": 0.9})) == ["c", "b", "a"]
    assert first_of_most([0.2, 0.7, 0.7 + 1e-16]) == 1


def test_what_differs_by_more_goes_by_its_size():
    assert list(ranks([0.1, 0.3, 0.2])) == [2, 0, 1]
    assert list(ranks([0.3, 0.3 * (1 + 1e-5)])) == [1, 0]


def test_steps_below_the_tolerance_do_not_add_up_to_one_long_tie():
    """Each lies within the tolerance of the one before, the last not of the first."""
    values = [1.0 - 7e-7 * k for k in range(5)]
    assert list(ranks(values)) == [0, 0, 1, 1, 2]


def test_nothing_and_negative_numbers_have_places_too():
    assert list(ranks([])) == []
    assert list(ranks([-2.0, -1.0, 0.0])) == [2, 1, 0]
