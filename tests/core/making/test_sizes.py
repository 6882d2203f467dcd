"""What people say of lengths, sections, fuses, loads and ways to get there."""

from __future__ import annotations

import pytest

from pondrel.core.base.conductor import largest_fuse, thinnest_for_fuse
from pondrel.core.base.errors import MakingError
from pondrel.core.making.loads import LOADS, load_params
from pondrel.core.making.reach import REACHES, reached
from pondrel.core.making.sizes import Size, length_of, load_of, rating_of, section_of, whole_of


@pytest.mark.parametrize(
    ("said", "metres"), [("3", 3.0), ("2,5 m", 2.5), ("80 cm", 0.8), ("10 ft", 3.048), ("not known", None), ("", None), ("?", None)]
)
def test_a_length_is_read_as_it_is_said(said, metres):
    assert length_of(said) == pytest.approx(metres) if metres else length_of(said) is None


@pytest.mark.parametrize(("said", "section"), [("1.5", 1.5), ("1,5 mm²", 1.5), ("AWG 14", "14"), ("2/0 awg", "2/0"), ("do not know", None)])
def test_a_section_is_square_millimetres_or_a_gauge(said, section):
    assert section_of(said) == section


@pytest.mark.parametrize(
    ("said", "size"),
    [
        ("21 W", Size(watts=21)),
        ("3,5 A", Size(amps=3.5)),
        ("13 ohm", Size(ohms=13)),
        ("2.2 kΩ", Size(ohms=2200)),
        ("1.2 kW", Size(watts=1200)),
    ],
)
def test_a_load_has_watts_amps_or_ohms(said, size):
    assert load_of(said) == size


@pytest.mark.parametrize(
    ("read", "said", "part"),
    [
        (length_of, "three", "a length such as 2.5 m"),
        (length_of, "0", "cannot be"),
        (length_of, "4000 m", "cannot be"),
        (section_of, "AWG 99", "no gauge"),
        (rating_of, "10 V", "a fuse rating such as 10 A"),
        (load_of, "21", "watts, amps or ohms are wanted"),
        (load_of, "0 W", "cannot be"),
        (lambda said: whole_of(said, 2, 6, "lamps"), "9", "a number of lamps from 2 to 6"),
        (lambda said: whole_of(said, 2, 6, "lamps"), "9" * 400, "a number of lamps from 2 to 6"),
        (reached, "by helicopter", "no way to reach it"),
        (reached, "cover, 5000 min", "more than ten hours"),
    ],
)
def test_what_is_no_answer_gets_a_sentence_that_says_what_is_wanted(read, said, part):
    with pytest.raises(MakingError, match=part):
        read(said)


def test_how_it_is_reached_gives_the_minutes_unless_somebody_knows_better():
    assert [reached(way).minutes for way in REACHES] == sorted(REACHES.values()) and reached("open").minutes == 0
    assert reached("trim").way == "behind trim" and reached("cover, 4.5 min").minutes == 4.5
    assert "Stands" in reached("underneath").caution


def test_any_size_of_a_load_becomes_what_its_kind_takes():
    assert load_params("lamp", Size(amps=1.75), 12.0)[1]["watts"] == pytest.approx(21.0)
    assert load_params("motor", Size(watts=96), 12.0)[1]["amps"] == pytest.approx(8.0)
    kind, valve, note = load_params("valve", Size(amps=0.5), 24.0)
    assert (kind, valve["ohms"], note) == ("solenoid", pytest.approx(48.0), "")
    assert 0 < valve["pull_in_amps"] < 0.5


def test_what_is_not_known_of_a_load_is_taken_as_usual_with_a_wide_tolerance_that_says_so():
    _, usual, note = load_params("motor", None, 12.0)
    _, double, _ = load_params("motor", None, 24.0)
    assert usual["tolerance"] > 0.3 and "8 A taken as usual" in note
    assert double["amps"] == pytest.approx(usual["amps"] / 2)  # the same watts


@pytest.mark.parametrize("sort", [name for name, load in LOADS.items() if load.cold])
def test_ohms_of_what_reads_otherwise_cold_are_refused_with_the_reason(sort):
    with pytest.raises(MakingError, match="say little of what it draws"):
        load_params(sort, Size(ohms=1.0), 12.0)


def test_a_fuse_and_the_thinnest_wire_for_it_agree():
    for amps in (5, 7.5, 10, 15, 20, 30, 40, 60, 80):
        section = thinnest_for_fuse(amps)
        assert largest_fuse(section) >= amps > largest_fuse(section * 0.74)
    assert largest_fuse(0.175) == pytest.approx(2.5) and largest_fuse(95.0) == float("inf")
