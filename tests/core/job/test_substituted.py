"""What a substitute load proves, by every order in which it is tried."""

from __future__ import annotations

import pytest

from pondrel.core.job.entry import Entry
from pondrel.core.job.kinds import checked_content, words_of
from pondrel.core.job.substituted import CIRCUIT, COMES_AND_GOES, PART_OPEN, substitution_of


def record(*tries: tuple[str, str], code: str = "P0765-13") -> list[Entry]:
    return [
        Entry(n, 7, None, "substituted", checked_content("substituted", {"module": "Gearbox module", "code": code, "part": "shift valve D",
              "load": "15 Ω" if what == "load" else "", "there": there}), "Oda", f"2026-01-01T08:{n:02d}:00Z")
        for n, (what, there) in enumerate(tries, 1)
    ]  # fmt: skip


def proves(*tries: tuple[str, str]) -> str:
    return substitution_of(record(*tries), "Gearbox module", "P0765-13", "shift valve D").proves


@pytest.mark.parametrize(
    ("tries", "what"),
    [
        ((), ""),
        ((("load", "no"),), ""),
        ((("part", "yes"),), ""),
        ((("load", "no"), ("part", "yes")), PART_OPEN),
        ((("part", "yes"), ("load", "no")), PART_OPEN),
        ((("load", "yes"),), CIRCUIT),
        ((("load", "yes"), ("part", "yes")), CIRCUIT),
        ((("load", "no"), ("part", "no")), COMES_AND_GOES),
        ((("load", "yes"), ("load", "no"), ("part", "yes")), PART_OPEN),  # the last word of each counts
    ],
)
def test_what_it_proves(tries, what):
    assert proves(*tries) == what


def test_another_code_says_nothing():
    assert substitution_of(record(("load", "no"), ("part", "yes"), code="P0750-13"), "Gearbox module", "P0765-13", "x").proves == ""


def test_it_reads_in_a_line():
    lines = [words_of(entry) for entry in record(("load", "no"), ("part", "yes"))]
    assert lines == ["15 Ω in place of shift valve D: P0765-13 stays away", "shift valve D back in its place: P0765-13 is there"]
