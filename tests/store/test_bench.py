"""What the bench keeps: checks are written once, meters and limits have a newest version."""

from __future__ import annotations

import sqlite3

import pytest

from pondrel.core.meter.handheld import HANDHELDS, Accuracy, Handheld
from pondrel.store import db
from pondrel.store.bench import add_check, alike, check_of, checks_of_vehicle, latest_checks
from pondrel.store.meters import OwnMeter, all_meters, keep_meter, meter_named, own_meters
from pondrel.store.own_limits import add_limit, limits_for, own_limit, search_limits, versions_of, withdraw_limit


@pytest.fixture
def conn(tmp_path):
    opened = db.opened(tmp_path / "p.sqlite")
    yield opened
    opened.close()


def kept(conn, number, title="Clutch", unit="Ω"):
    return add_check(conn, "coil", title, {"reads": [["ohms", str(number)]]}, "within limits", "because", number, unit, person="Ida")


def test_a_check_comes_back_as_it_was_kept_and_cannot_be_changed(conn):
    number = kept(conn, 3.5)
    row = check_of(conn, number)
    assert (row.title, row.given["reads"], row.number, row.person) == ("Clutch", [["ohms", "3.5"]], 3.5, "Ida")
    for sql in ("UPDATE bench_check SET verdict = 'x'", "DELETE FROM bench_check"):
        with pytest.raises(sqlite3.IntegrityError):
            conn.execute(sql)
    assert check_of(conn, 99) is None


def test_others_of_the_same_sort_are_those_of_the_same_name_and_unit(conn):
    for number in (3.5, 3.6):
        kept(conn, number)
    kept(conn, 13.0, "Solenoid")
    kept(conn, 9.0, "Clutch", "V")
    kept(conn, None, "clutch")
    assert [row.number for row in alike(conn, "coil", "CLUTCH", "Ω")] == [3.6, 3.5]
    assert [row.title for row in latest_checks(conn, 2)] == ["clutch", "Clutch"] and checks_of_vehicle(conn, 1, 5) == []


def test_the_newest_row_of_a_meter_counts_and_a_removed_one_is_gone(conn):
    assert list(all_meters(conn)) == list(HANDHELDS)
    keep_meter(conn, OwnMeter(Handheld("Yellow", "", {"Ω": Accuracy(0.01, 3)}, (400.0,), 0.2, 2.0), "TCPIP0::x"))
    keep_meter(conn, OwnMeter(Handheld("Yellow", "better", {"Ω": Accuracy(0.001, 3)})))
    one = meter_named(conn, "Yellow")
    assert one.meter.accuracy["Ω"] == Accuracy(0.001, 3) and one.meter.words == "better" and one.address == ""
    assert next(iter(all_meters(conn))) == "Yellow" and len(own_meters(conn)) == 1
    keep_meter(conn, one, gone=True)
    assert meter_named(conn, "Yellow") is None


def test_a_limit_has_versions_and_leaves_the_list_without_being_lost(conn):
    first = add_limit(conn, "coil", "Clutch", "ohms 3..4")
    add_limit(conn, "coil", "", "ohms <=100")
    second = add_limit(conn, "coil", "Clutch", "ohms 3.1..3.9", number=first.number)
    assert second.version == 2 and own_limit(conn, first.number).line == "ohms 3.1..3.9"
    assert [one.line for one in limits_for(conn, "coil", "clutch")] == ["ohms 3.1..3.9", "ohms <=100"]
    assert [one.line for one in limits_for(conn, "coil", "Horn")] == ["ohms <=100"]
    withdraw_limit(conn, first.number)
    assert own_limit(conn, first.number) is None and len(versions_of(conn, first.number)) == 3
    with pytest.raises(sqlite3.IntegrityError):
        conn.execute("UPDATE own_limit SET line = 'x'")


def test_limits_are_searched_by_words_taken_as_they_stand(conn):
    add_limit(conn, "coil", "Clutch 100%", "ohms 3..4", "from the sheet")
    assert len(search_limits(conn, "clutch sheet")) == 1 and len(search_limits(conn, "100%")) == 1
    assert search_limits(conn, "%horn") == [] and search_limits(conn, "c_utch") == []
