"""Names within a sentence."""

from __future__ import annotations

import pytest

from pondrel.core.base.brief import lowered


@pytest.mark.parametrize(
    ("title", "goes_on"),
    [
        ("Shift valve D", "shift valve D"), ("Gateway", "gateway"), ("ABS pump", "ABS pump"), ("A1 plug", "A1 plug"), ("A lamp", "a lamp"),
        ("kWh meter", "kWh meter"), ("", ""),
    ],
)  # fmt: skip
def test_a_name_goes_on_within_a_sentence_with_what_is_part_of_it_kept(title, goes_on):
    assert lowered(title) == goes_on
