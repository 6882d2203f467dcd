"""Mileages, warranties by whichever ends first, and which part of a circuit a line of the ledger is about."""

from __future__ import annotations

from dataclasses import replace

import pytest

from pondrel.core.base.dates import days_between
from pondrel.core.base.errors import PondrelError
from pondrel.core.base.written import EntryError
from pondrel.core.vehicle.facts import checked_facts
from pondrel.core.vehicle.history import Concluded, came_back
from pondrel.core.vehicle.ledger import Fitted, fitted_to, lately, warranty_of
from pondrel.core.vehicle.mileage import Mileage, MileageError, apart, parse_mileage
from pondrel.core.vehicle.record import VehicleEntry, checked_vehicle_content, fitted_of

KM = Mileage(100_000, "km")
PART = Fitted(1, "pump contactor", "", "2026-01-31", KM, "new", "", 12, Mileage(20_000, "km"), None, "", "")
TODAY = "2026-11-20"


@pytest.mark.parametrize(
    ("text", "value", "unit"),
    [
        ("148 220 km", 148220, "km"), ("148.220", 148220, "km"), ("92,100 miles", 92100, "mi"), ("1204h", 1204, "h"), ("7", 7, "km"),
        ("148'220", 148220, "km"), ("12,5 h", 12.5, "h"),
    ],
)  # fmt: skip
def test_a_mileage_is_read_as_people_write_it(text, value, unit):
    found = parse_mileage("The mileage", text)
    assert (found.value, found.unit) == (value, unit)
    assert parse_mileage("The mileage", found.kept) == found


@pytest.mark.parametrize("text", ["12..4", "about 90 000", "-5", "90 000 leagues", "1e9", "99999999", "<script>"])
def test_what_is_no_mileage_is_refused_in_a_sentence(text):
    with pytest.raises(MileageError, match=r"The mileage .*\."):
        parse_mileage("The mileage", text)


def test_miles_and_kilometres_are_compared_and_hours_only_with_hours():
    assert apart(Mileage(100, "mi"), Mileage(100, "km")) == pytest.approx(60.9344)
    assert apart(Mileage(100, "h"), Mileage(40, "h")) == 60
    assert apart(Mileage(100, "h"), KM) is None


def test_a_warranty_ends_by_date_or_distance_whichever_is_first():
    says = "2 months or 12\u2009000 km (about 14 months as it is used), whichever ends first"
    assert warranty_of(PART, TODAY, Mileage(108_000, "km")).says == says
    by_distance = warranty_of(PART, TODAY, Mileage(121_000, "km"))
    assert by_distance.over and by_distance.says == "ended 1\u2009000 km ago"
    by_date = warranty_of(PART, "2027-02-01", Mileage(100_001, "km"))
    assert by_date.over and by_date.says == "ended 31 Jan 2027"
    assert warranty_of(PART, "2027-01-31", KM).stands  # the last day counts


def test_a_warranty_by_distance_ends_when_the_pace_so_far_ends_it():
    only = replace(PART, months=None)
    half_gone = warranty_of(only, TODAY, Mileage(110_000, "km"))  # as many kilometres again take as long again
    days = days_between(PART.on, TODAY)
    assert half_gone.months_left == int(days / 30.44)
    fast = warranty_of(PART, TODAY, Mileage(119_500, "km"))
    assert fast.months_left == 0 and fast.stands and warranty_of(PART, TODAY, Mileage(100_001, "km")).months_left == 2
    new = replace(only, on=TODAY)
    assert warranty_of(new, TODAY, Mileage(100_500, "km")).months_left == 0  # too short a time to tell
    assert "as it is used" not in warranty_of(new, TODAY, Mileage(100_500, "km")).says


def test_a_warranty_whose_distance_cannot_be_told_says_so():
    assert "how far it has gone is not written down" in warranty_of(PART, TODAY, None).says
    assert "the mileage when it was fitted" in warranty_of(replace(PART, at=None), TODAY, KM).says
    assert warranty_of(replace(PART, months=None, distance=None), TODAY, KM).none


def test_lately_is_a_year_and_never_ahead():
    assert lately(PART, TODAY) and not lately(PART, "2027-02-01") and not lately(PART, "2026-01-30")


def test_a_line_is_about_the_part_of_its_name_or_its_words(demo_sheets):
    parts = demo_sheets["tail_lift"].parts
    assert list(fitted_to(parts, [PART])) == ["K2"]
    assert list(fitted_to(parts, [replace(PART, part="whatever", name="K2")])) == ["K2"]
    assert fitted_to(parts, [replace(PART, part="contactor")]) == {}  # a word of its name is not enough
    older = replace(PART, id=2, on="2024-03", how="used")
    assert fitted_to(parts, [PART, older])["K2"] is PART  # the last that was fitted counts, whatever was written down last


def content(**changes):
    given = {
        "part": "K2",
        "name": "",
        "on": "2026-05",
        "at": "",
        "how": "new",
        "source": "",
        "months": "",
        "distance": "",
        "helped": "",
        "note": "",
    }
    return checked_vehicle_content("fitted", {**given, **changes}, "mi", TODAY)


@pytest.mark.parametrize(
    ("changes", "says"),
    [
        ({"part": ""}, "What was fitted is missing"), ({"on": "2026-12-24"}, "lies ahead"), ({"months": "two"}, "whole number from 1"),
        ({"months": "0"}, "whole number from 1"), ({"how": "borrowed"}, "not one of new"), ({"distance": "far"}, "must be a number"),
        ({"helped": "maybe"}, "not one of yes"), ({"part": "x" * 121}, "at most 120"), ({"note": "\x07"}, r"U\+0007"),
    ],
)  # fmt: skip
def test_a_line_that_does_not_fit_is_refused_in_a_sentence(changes, says):
    with pytest.raises(PondrelError, match=says):
        content(**changes)


def test_a_line_is_kept_with_the_vehicle_s_own_unit():
    kept = content(at="88 200", distance="10 000", months="24")
    line = fitted_of(VehicleEntry(3, 1, None, "fitted", kept, "", ""))
    assert (line.at, line.distance, line.months, line.when) == (Mileage(88200, "mi"), Mileage(10000, "mi"), 24, "May 2026")


def test_a_mileage_that_goes_back_is_asked_about():
    before = VehicleEntry(1, 1, None, "mileage", {"reads": "148220 km", "renewed": False}, "", "2026-11-01T08:00:00Z")

    def write(text, renewed=False):
        return checked_vehicle_content("mileage", {"reads": text, "renewed": renewed}, "km", TODAY, before)["reads"]

    with pytest.raises(MileageError, match=r"it was 148.220 km on 1 Nov 2026: look once more, or say that the instrument was changed"):
        write("140 000")
    assert write("140 000", renewed=True) == "140000 km" and write("148 220 km") == "148220 km" and write("92 103 mi") == "92103 mi"


@pytest.mark.parametrize(
    ("given", "says"),
    [
        ({"name": " "}, "has no name"), ({"name": "x" * 81}, "at most 80"), ({"name": "Bus", "year": "19"}, "four digits"),
        ({"name": "Bus", "volts": "13"}, "12, 24, 48 V"), ({"name": "Bus", "unit": "miles"}, "no unit"), ({"name": "Bus\x00"}, r"U\+0000"),
        ({"name": "Bus", "vin": "12"}, "has 2 characters"),
    ],
)  # fmt: skip
def test_facts_that_do_not_fit_are_refused_in_a_sentence(given, says):
    with pytest.raises(PondrelError, match=says):
        checked_facts(given)


def test_script_in_a_plate_is_only_text():
    facts = checked_facts({"name": "Bus 4", "plate": "<script>1</script>", "volts": "24"})
    assert (facts.plate, facts.volts) == ("<script>1</script>", 24.0)


def test_a_fault_comes_back_when_another_job_finds_the_same_part():
    told = [(1, "G3", "2026-01"), (2, "LA2", "2026-02"), (4, "G3", "2026-06"), (4, "G3", "2026-07"), (5, "K2", "2026-08")]
    finds = [Concluded(job, "Step lights", part, f"{part} found", at) for job, part, at in told]
    (again,) = came_back([*finds, Concluded(6, "Tail-lift", "LA2", "another circuit's", "2026-08-01")])
    assert [f.job_id for f in again.finds] == [1, 4] and again.says == "G3 found"


def test_a_kind_that_is_none_is_refused():
    with pytest.raises(EntryError, match="Nothing is chosen"):
        checked_vehicle_content("rumour", {}, "km", TODAY)
