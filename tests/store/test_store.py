"""The database: migrations, append-only readings, strikes, conclusions."""

from __future__ import annotations

import sqlite3

import pytest

from pondrel.core.base.errors import PondrelError, SheetError
from pondrel.store import db
from pondrel.store.conclusions import add_conclusion, conclusions_of, reopen
from pondrel.store.corrections import add_correction, corrections_of
from pondrel.store.jobs import add_job, get_job, keep_outlook, page_of_jobs
from pondrel.store.readings import add_reading, readings_of, strike_reading
from pondrel.store.sheets import add_sheet, get_sheet, replaced_by, sheet_cards, sheet_titles, versions_of
from pondrel.store.vehicles import add_vehicle, all_vehicles

from ..circuits import RELAY_PUMP, STEP_LIGHT


@pytest.fixture
def conn(tmp_path):
    opened = db.opened(tmp_path / "t.sqlite")
    yield opened
    assert opened.execute("PRAGMA foreign_key_check").fetchall() == []
    opened.close()


@pytest.fixture
def job(conn) -> int:
    with db.atomic(conn):
        return add_job(conn, add_vehicle(conn, "Bus 9"), add_sheet(conn, STEP_LIGHT), "dark", "cold mornings", "Oda")


def test_connections_are_safe_by_default(conn):
    assert conn.execute("PRAGMA journal_mode").fetchone()[0] == "wal"
    assert conn.execute("PRAGMA foreign_keys").fetchone()[0] == 1
    assert conn.execute("PRAGMA synchronous").fetchone()[0] == 2  # FULL


def test_migrating_twice_changes_nothing(conn):
    version = conn.execute("PRAGMA user_version").fetchone()[0]
    assert version >= 1
    assert db.migrate(conn) == version


def test_a_failing_migration_leaves_nothing_behind(tmp_path, monkeypatch):
    (tmp_path / "001_bad.sql").write_text("CREATE TABLE half (x);\nCREATE TABLE half (x);")
    monkeypatch.setattr(db, "_MIGRATIONS", tmp_path)
    (tmp_path / "bad.sqlite").touch()
    opened = db.connect(tmp_path / "bad.sqlite")
    with pytest.raises(sqlite3.OperationalError):
        db.migrate(opened)
    assert opened.execute("SELECT count(*) FROM sqlite_master").fetchone()[0] == 0
    assert opened.execute("PRAGMA user_version").fetchone()[0] == 0
    opened.close()


def test_an_error_inside_a_transaction_takes_all_of_it_back(conn, job):
    def half_done():
        with db.atomic(conn):
            add_reading(conn, job, "lit", "volts", "g1", "batt-", "1.1")
            raise RuntimeError("in between")

    with pytest.raises(RuntimeError):
        half_done()
    assert readings_of(conn, job) == []


@pytest.mark.parametrize("table", ["reading", "strike", "conclusion"])
@pytest.mark.parametrize("statement", ["UPDATE {} SET id = id", "DELETE FROM {}"])
def test_the_database_itself_refuses_to_change_the_record(conn, job, table, statement):
    reading = add_reading(conn, job, "lit", "volts", "g1", "batt-", "1.1")
    strike_reading(conn, job, reading, "misread")
    add_conclusion(conn, job, ("G1",), "G1", 0.99, True, "", (reading,))
    with pytest.raises(sqlite3.IntegrityError, match="never"):
        conn.execute(statement.format(table))


def test_a_struck_reading_stays_with_its_reason_and_is_struck_once(conn, job):
    reading = add_reading(conn, job, "lit", "volts", "g1", "batt-", "1.1")
    assert strike_reading(conn, job, reading, "wrong place")
    assert not strike_reading(conn, job, reading, "again")
    assert not strike_reading(conn, job + 1, reading, "another job's")
    kept = readings_of(conn, job)[0]
    assert (kept.typed, kept.struck) == ("1.1", "wrong place")


def test_readings_come_in_the_order_they_were_taken(conn, job):
    for text in ("1", "2", "3"):
        add_reading(conn, job, "lit", "volts", "g1", "batt-", text)
    assert [r.typed for r in readings_of(conn, job)] == ["1", "2", "3"]


def test_the_same_sheet_is_stored_once_and_a_changed_one_anew(conn):
    first = add_sheet(conn, STEP_LIGHT)
    assert add_sheet(conn, STEP_LIGHT) == first
    assert add_sheet(conn, STEP_LIGHT.replace("watts: 10", "watts: 5")) != first
    assert get_sheet(conn, first).text == STEP_LIGHT
    assert len(sheet_titles(conn)) == 2


def test_what_is_no_sheet_is_not_stored(conn):
    with pytest.raises(SheetError):
        add_sheet(conn, "title: nothing")
    assert sheet_titles(conn) == []


def test_a_conclusion_needs_proof_or_a_reason(conn, job):
    with pytest.raises(sqlite3.IntegrityError):
        add_conclusion(conn, job, ("G1",), "G1", 0.5, False, "", ())
    add_conclusion(conn, job, ("G1",), "G1", 0.5, False, "seen with my own eyes", ())


def test_of_the_conclusions_of_a_job_one_stands_whatever_the_program_does(conn, job):
    add_conclusion(conn, job, ("G1",), "G1", 0.99, True, "", ())
    with pytest.raises(PondrelError, match="concluded already"):
        add_conclusion(conn, job, ("W1",), "W1", 0.99, True, "", ())
    with pytest.raises(sqlite3.IntegrityError):
        conn.execute("INSERT INTO standing_conclusion (job_id, conclusion_id) VALUES (?, 77)", (job,))
    assert reopen(conn, job, "came back")
    add_conclusion(conn, job, ("W1",), "W1", 0.99, True, "", ())
    assert [c.says for c in conclusions_of(conn, job) if c.reopened is None] == ["W1"]


def test_reopening_keeps_the_old_conclusion(conn, job):
    add_conclusion(conn, job, ("G1", "W1"), "G1 or W1", 0.97, True, "", (1, 2))
    assert reopen(conn, job, "came back")
    assert not reopen(conn, job, "twice")
    old = conclusions_of(conn, job)[0]
    assert (old.parts, old.readings, old.reopened) == (("G1", "W1"), (1, 2), "came back")


def test_the_bay_lists_open_jobs_first_and_counts_standing_readings(conn, job):
    other = add_job(conn, add_vehicle(conn, "Van"), add_sheet(conn, RELAY_PUMP), "does not run")
    reading = add_reading(conn, other, "run", "volts", "k.87", "b-", "0")
    add_reading(conn, other, "run", "volts", "k.86", "b-", "12.4")
    strike_reading(conn, other, reading, "misread")
    add_conclusion(conn, job, ("G1",), "G1", 0.99, True, "", ())
    rows = page_of_jobs(conn, 10)
    assert [(r.vehicle, r.readings, r.concluded) for r in rows] == [("Van", 1, None), ("Bus 9", 0, "G1")]


def test_the_bay_comes_in_pages_that_hold_every_job_once(conn, job):
    sheet, vehicle = 1, 1
    for n in range(25):
        made = add_job(conn, vehicle, sheet, f"complaint {n}", opened_at=f"2026-01-{n + 1:02d}T00:00:00Z")
        if n % 3 == 0:
            add_conclusion(conn, made, ("G1",), "G1", 0.99, True, "", ())
    pages = [page_of_jobs(conn, 10, skipped) for skipped in (0, 10, 20, 30)]
    rows = [row for page in pages for row in page]
    assert [len(page) for page in pages] == [10, 10, 6, 0]
    assert len({row.id for row in rows}) == 26
    assert [row.concluded is not None for row in rows] == sorted(row.concluded is not None for row in rows)
    opened = [row.opened_at for row in rows if row.concluded is None]
    assert opened == sorted(opened, reverse=True)
    reopen(conn, next(row.id for row in rows if row.concluded), "came back")
    assert sum(row.concluded is None for row in page_of_jobs(conn, 50)) == 18


def test_what_a_job_comes_to_is_told_while_its_readings_stand_as_they_did(conn, job):
    first = add_reading(conn, job, "lit", "volts", "g1", "batt-", "3.9")
    keep_outlook(conn, job, (first,), True, "G1 at over 99 %")
    assert page_of_jobs(conn, 1)[0].outlook == "G1 at over 99 %"
    second = add_reading(conn, job, "lit", "volts", "g1", "batt-", "0.1")
    assert page_of_jobs(conn, 1)[0].outlook == ""
    keep_outlook(conn, job, (first, second), False, "no part stands accused")
    assert page_of_jobs(conn, 1)[0].outlook == ""  # not ready
    strike_reading(conn, job, second, "misread")
    keep_outlook(conn, job, (first,), True, "G1 at over 99 %")
    assert page_of_jobs(conn, 1)[0].outlook == "G1 at over 99 %"
    strike_reading(conn, job, first, "misread")
    assert page_of_jobs(conn, 1)[0].outlook == ""
    assert conn.execute("PRAGMA synchronous").fetchone()[0] == 2  # what is written next is on the disk again


def test_vehicles_have_names_of_their_own(conn):
    add_vehicle(conn, "Bus 9", "Quessel", "Hop", "2019")
    assert all_vehicles(conn)[0].described == "Quessel Hop 2019"
    for name in ("Bus 9", ""):
        with pytest.raises(sqlite3.IntegrityError):
            add_vehicle(conn, name)


def test_a_job_needs_an_existing_vehicle_and_sheet(conn):
    with pytest.raises(sqlite3.IntegrityError):
        add_job(conn, 99, 99, "dark")
    assert get_job(conn, 99) is None


def test_a_new_version_takes_the_old_one_s_place_and_the_old_one_stays(conn):
    text = STEP_LIGHT
    with db.atomic(conn):
        first = add_sheet(conn, text)
        second = add_sheet(conn, text.replace("rating: 10", "rating: 15"), first, "fuse as fitted")
    assert [number for number, _ in sheet_titles(conn)] == [second]
    assert replaced_by(conn, first) == second and replaced_by(conn, second) is None
    assert [s.id for s in versions_of(conn, first)] == [s.id for s in versions_of(conn, second)] == [second, first]
    assert get_sheet(conn, first).text == text
    with pytest.raises(PondrelError, match="saved a newer version"), db.atomic(conn):
        add_sheet(conn, text.replace("rating: 10", "rating: 20"), first)
    with pytest.raises(PondrelError, match="stored already"), db.atomic(conn):
        add_sheet(conn, text, second)


def test_sheets_are_found_by_words_and_family(conn):
    with db.atomic(conn):
        add_sheet(conn, STEP_LIGHT.replace("title: Step light, rear door", "title: Step light\nfamily: lighting"))
        add_sheet(conn, RELAY_PUMP)
    assert [s.title for s in sheet_cards(conn, "RELAY pump")] == ["Pump on a relay"]
    assert [s.title for s in sheet_cards(conn, "", "lighting")] == ["Step light"]
    assert sheet_cards(conn, "k.87 la1") == []
    assert len(sheet_cards(conn, "%")) == 0  # a wildcard is a character like any other


def test_corrections_are_kept_with_who_and_when_and_never_changed(conn):
    with db.atomic(conn):
        sheet = add_sheet(conn, STEP_LIGHT)
        vehicle = add_vehicle(conn, "Bus 9")
        add_correction(conn, sheet, vehicle, "C2.1", "pins 1 and 2 are swapped", "Oda")
        add_correction(conn, sheet, None, "", "the fuse is a 15", "")
    found = corrections_of(conn, [sheet])
    assert [(c.vehicle, c.part, c.says, c.person) for c in found] == [
        ("", "", "the fuse is a 15", ""),
        ("Bus 9", "C2.1", "pins 1 and 2 are swapped", "Oda"),
    ]
    for sql in ("UPDATE correction SET says = 'x'", "DELETE FROM correction"):
        with pytest.raises(sqlite3.IntegrityError):
            conn.execute(sql)
