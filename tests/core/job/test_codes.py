"""Codes of a job: what the record says of unplugging and mileage, and when they may be cleared."""

from __future__ import annotations

import pytest

from pondrel.core.base.errors import PondrelError
from pondrel.core.evidence.told import Told
from pondrel.core.job.codes import check_clearing, codes_of, scan_content
from pondrel.core.job.entry import Entry
from pondrel.core.job.reproduce import flexes
from pondrel.core.module.read_out import codes_from_text
from pondrel.core.vehicle.mileage import Mileage


def record(*lines: tuple[str, dict]) -> list[Entry]:
    return [Entry(n, 1, None, kind, content, "", "") for n, (kind, content) in enumerate(lines, 1)]


def scan(text: str) -> tuple[str, dict]:
    return "scan", scan_content(codes_from_text(text).codes)


OFF = ("action", {"part": "C2", "deed": "unplugged and put back"})


def test_a_code_set_at_the_mileage_of_today_after_something_was_unplugged_is_kept_apart():
    entries = record(OFF, scan("P0113 odo=148220\nP0201 odo=148100\nP0301 odo=92100mi"))
    apart = codes_of(entries, Mileage(148_220, "km")).self_made
    assert [one.code.name for one in apart] == ["P0113", "P0301"]  # 92 100 miles are 148 221 km
    assert codes_of(entries).self_made == () and codes_of(record(scan("P0113 odo=148220")), Mileage(148_220, "km")).self_made == ()
    assert codes_of(record(OFF, scan("P0113 odo=lots")), Mileage(1, "km")).self_made == ()


def test_a_reading_with_something_unplugged_counts_as_well():
    entries = record(scan("P0201"), ("reading", {"instrument": "ohms", "unplugged": "Y1"}), scan("P0201\nP0113"))
    (made,) = codes_of(entries).self_made
    assert made.code.name == "P0113" and made.self_made == "first read after Y1 was unplugged"


def test_codes_are_cleared_only_after_they_were_read_and_kept():
    for entries in (record(), record(scan("P0201"), ("cleared", {"text": ""}))):
        with pytest.raises(PondrelError, match="Read the codes out first"):
            check_clearing(entries, True)
    check_clearing(record(scan("P0201")), True)
    check_clearing(record(("cleared", {"text": ""}), scan("P0201")), True)
    with pytest.raises(PondrelError, match="tells of a crash"):
        check_clearing(record(scan("B1A23 crash output locked")), True)


def test_what_is_moved_without_a_circuit_begins_with_what_was_told():
    done = record(
        ("flexed", {"moved": "the seat", "did": "no change"}),
        ("flexed", {"moved": "the seat", "did": "changed"}),
        ("flexed", {"moved": "the horn ring", "did": "no change"}),
    )
    found = flexes(Told(often="sometimes", under=("seat",)), done)
    assert found[0] == ("the seat", "changed", 2) and found[-1] == ("the horn ring", "no change", 1)
    assert ("each plug in turn", "", 0) in found and len({place for place, _, _ in found}) == len(found)
