"""Resets in a job's record: what is written down, what tries come to, what is no way to live with it yet."""

from __future__ import annotations

import pytest

from pondrel.core.base.written import EntryError
from pondrel.core.job.entry import Entry, Struck
from pondrel.core.job.kinds import checked_content, words_of
from pondrel.core.job.resets import _often_in_words, resets_gate, resets_of
from pondrel.core.remedy.gates import DONE, Met

NOW = "2026-01-20T08:00:00Z"


def reset(day: int, off: str = "20", works: str = "yes", module: str = "Shelf module") -> Entry:
    content = checked_content("reset", {"module": module, "off": off, "woke": "3" if works == "yes" else "", "works": works})
    return Entry(day, 7, None, "reset", content, "Oda", f"2026-01-{day:02d}T08:00:00Z")


def hung(day: int, module: str = "Shelf module") -> Entry:
    return Entry(100 + day, 7, None, "hung", {"module": module, "text": ""}, "Oda", f"2026-01-{day:02d}T08:00:00Z")


def test_a_try_is_read_in_a_line():
    assert words_of(reset(1)) == "Shelf module, 20 s off: works again, awake after 3 s"
    assert words_of(reset(1, "5", "no")) == "Shelf module, 5 s off: does not work"


@pytest.mark.parametrize(
    ("given", "says"),
    [
        ({"off": "soon"}, "without supply must be seconds from 1 to 3600"),
        ({"off": "0"}, "must be seconds from 1"),
        ({"off": "nan"}, "must be seconds"),
        ({"off": "1e9"}, "must be seconds"),
        ({"woke": "-3"}, "until it answers must be seconds from 0 to 600"),
        ({"works": "perhaps"}, "not one of yes, no"),
        ({"module": ""}, "The module is missing"),
    ],
)
def test_what_is_no_number_of_seconds_is_refused(given, says):
    with pytest.raises(EntryError, match=says):
        checked_content("reset", {"module": "x", "off": "20", "works": "yes", **given})


def test_a_comma_and_a_unit_are_taken():
    assert checked_content("reset", {"module": "x", "off": "7,5 s", "works": "yes"})["off"] == "7.5"


def test_two_good_tries_are_never_called_a_cure():
    found = resets_of([reset(18), reset(19)], "Shelf module", NOW)
    assert "cures nothing" in found.says and "is still there" in found.says
    assert found.says.startswith("It helped in 2 of 2 tries. 30 s without supply are enough, and 3 s to wake.")


def test_days_are_counted_from_a_reset_that_helped_to_the_next_hanging():
    found = resets_of([reset(1), hung(5), reset(5, "5", "no"), reset(5), hung(14), reset(14)], "Shelf module", NOW)
    assert found.holding.hung == 2 and found.holding.days == pytest.approx(4 + 9 + 6)
    assert found.holding.quiet == pytest.approx(6.0) and found.brief.endswith("needed about 42 times a year")


def test_another_try_without_a_hanging_between_is_no_hanging():
    found = resets_of([reset(1), reset(2), reset(3)], "Shelf module", NOW)
    assert found.brief == "20 s off wakes it" and found.known
    assert found.holding.hung == 0 and found.holding.quiet == pytest.approx(19.0)


def test_only_what_stands_and_is_of_the_module_counts():
    struck = reset(2)
    struck = Entry(struck.id, 7, None, "reset", struck.content, "Oda", struck.made_at, Struck("misread", "Oda", NOW))
    found = resets_of([reset(1), struck, reset(3, module="Roof module")], "Shelf module", NOW)
    assert len(found.entries) == 1


def test_what_long_times_do_not_wake_sends_back_to_the_circuit():
    found = resets_of([reset(1, "60", "no"), reset(1, "120", "no"), reset(1, "300", "no")], "Shelf module", NOW)
    assert "does not wake it: look at its supply" in found.says


def test_a_switch_in_its_supply_waits_for_three_good_tries():
    assert resets_gate([reset(1), reset(2)], NOW, None).open
    gate = resets_gate([reset(1), reset(2), reset(3)], NOW, None)
    assert not gate.open and gate.met.text.startswith("20 s off wakes it")
    said = resets_gate([], NOW, Met(DONE, "10 s off, 6 of 6", "Oda", NOW))
    assert not said.open and not said.own
    assert resets_gate([reset(1, works="no"), *[reset(k, "5") for k in (2, 3)]], NOW, None).open


@pytest.mark.parametrize(
    ("a_year", "says"), [(None, ""), (4e4, "about 99 times a day"), (900.0, "about 2 times a day"), (400.0, "about 400 times a year"),
                         (1.0, "about once a year"), (0.3, "less than once a year")],
)  # fmt: skip
def test_how_often_is_said_as_a_person_says_it(a_year, says):
    assert _often_in_words(a_year) == says
