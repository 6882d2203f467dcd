"""The database: migrations, append-only entries, strikes, conclusions."""

from __future__ import annotations

import sqlite3

import pytest

from pondrel.core.base.errors import PondrelError, SheetError
from pondrel.core.job.changes import mattering
from pondrel.core.vehicle.facts import Facts
from pondrel.store import db
from pondrel.store.bay import Wanted, keep_outlook, page_of_jobs, refresh_all, refresh_job
from pondrel.store.conclusions import add_conclusion, conclusions_of, is_concluded
from pondrel.store.corrections import add_correction, corrections_of
from pondrel.store.entries import add_entry, entries_of, strike_entry
from pondrel.store.jobs import add_job, get_job
from pondrel.store.sheets import add_sheet, get_sheet, replaced_by, sheet_cards, sheet_titles, versions_of
from pondrel.store.traces import add_trace, traces_of
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
    """A job with one circuit taken up; its trace has the same number."""
    with db.atomic(conn):
        number = add_job(conn, add_vehicle(conn, Facts("Bus 9")), "dark", "cold mornings", "Oda")
        assert add_trace(conn, number, add_sheet(conn, STEP_LIGHT)) == number
        return number


def read(conn, job: int, value: str, red: str = "g1") -> int:
    content = {"state": "lit", "instrument": "volts", "red": red, "black": "batt-", "value": value, "note": ""}
    return add_entry(conn, job, "reading", content, trace_id=job)


def conclude(conn, job: int, *parts: str, proved: bool = True, reason: str = "", basis=()) -> int:
    return add_conclusion(conn, job, job, parts, " or ".join(parts), 0.99, proved, reason, basis)


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
            read(conn, job, "1.1")
            raise RuntimeError("in between")

    with pytest.raises(RuntimeError):
        half_done()
    assert entries_of(conn, job) == ()


@pytest.mark.parametrize("table", ["entry", "strike", "trace", "conclusion_part", "conclusion_basis"])
@pytest.mark.parametrize("statement", ["UPDATE {} SET rowid = rowid", "DELETE FROM {}"])
def test_the_database_itself_refuses_to_change_the_record(conn, job, table, statement):
    first, second = read(conn, job, "1.1"), read(conn, job, "1.2")
    strike_entry(conn, job, first, "misread")
    conclude(conn, job, "G1", basis=(second,))
    column = {"conclusion_part": "part", "conclusion_basis": "basis_id"}.get(table)
    with pytest.raises(sqlite3.IntegrityError, match="never"):
        conn.execute(statement.format(table).replace("rowid", column) if column else statement.format(table))


def test_an_entry_cannot_be_put_in_the_place_of_another(conn, job):
    first = read(conn, job, "1.1")
    with pytest.raises(sqlite3.IntegrityError, match="never replaced"):
        conn.execute("INSERT OR REPLACE INTO entry (id, job_id, kind, content, made_at) VALUES (?, ?, 'note', '{}', 'now')", (first, job))
    assert entries_of(conn, job)[0].text("value") == "1.1"


def test_a_struck_entry_stays_with_its_reason_and_who_and_is_struck_once(conn, job):
    reading = read(conn, job, "1.1")
    assert strike_entry(conn, job, reading, "wrong place", "Oda")
    assert not strike_entry(conn, job, reading, "again")
    assert not strike_entry(conn, job + 1, reading, "another job's")
    kept = entries_of(conn, job)[0]
    assert (kept.text("value"), kept.struck.reason, kept.struck.person) == ("1.1", "wrong place", "Oda")
    assert mattering(entries_of(conn, job), job) == ()


def test_the_record_is_read_in_the_order_in_which_it_was_written(conn, job):
    for text in ("1", "2"):
        read(conn, job, text)
    add_entry(conn, job, "note", {"text": "grease in the plug"}, person="Wim")
    read(conn, job, "3")
    assert [(e.kind, e.text("value") or e.text("text")) for e in entries_of(conn, job)] == [
        ("reading", "1"), ("reading", "2"), ("note", "grease in the plug"), ("reading", "3"),
    ]  # fmt: skip


@pytest.mark.parametrize(
    ("kind", "content", "says"),
    [
        ("note", {"text": " "}, "is missing"),
        ("note", {"text": "x", "colour": "red"}, "has no place"),
        ("note", {"text": "x" * 2001}, "at most 2,000"),
        ("proof", {"works": "perhaps"}, "not one of yes, no"),
        ("song", {"text": "x"}, "no kind of entry"),
        ("conclusion", {"says": "G1", "proved": "of course", "faulty": True}, "must be yes or no"),
    ],
)
def test_an_entry_is_of_its_kind_or_not_written(conn, job, kind, content, says):
    with pytest.raises(PondrelError, match=says):
        add_entry(conn, job, kind, content)
    assert entries_of(conn, job) == ()


def test_an_entry_belongs_to_a_trace_of_its_own_job_or_to_none(conn, job):
    other = add_job(conn, 1, "bright")
    with pytest.raises(sqlite3.IntegrityError):
        add_entry(conn, other, "note", {"text": "x"}, trace_id=job)
    add_entry(conn, other, "note", {"text": "x"})


def test_a_job_has_no_circuit_one_or_several(conn, job):
    assert [t.number for t in traces_of(conn, job)] == [1]
    add_trace(conn, job, add_sheet(conn, RELAY_PUMP))
    assert [(t.number, t.title) for t in traces_of(conn, job)] == [(1, "Step light, rear door"), (2, "Pump on a relay")]
    assert traces_of(conn, add_job(conn, 1, "bright")) == ()


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
        conclude(conn, job, "G1", proved=False)
    conclude(conn, job, "G1", proved=False, reason="seen with my own eyes")


def test_of_the_conclusions_on_a_circuit_one_stands_whatever_the_program_does(conn, job):
    first = conclude(conn, job, "G1")
    with pytest.raises(PondrelError, match="concluded already"):
        conclude(conn, job, "W1")
    with pytest.raises(sqlite3.IntegrityError):
        conn.execute("INSERT INTO conclusion_standing (job_id, trace_id, entry_id) VALUES (?, ?, 77)", (job, job))
    second = add_trace(conn, job, add_sheet(conn, RELAY_PUMP))
    add_conclusion(conn, job, second, (), "Nothing on this sheet is wrong", 0.99, True, "", ())
    assert strike_entry(conn, job, first, "came back") and not is_concluded(conn, job, job) and is_concluded(conn, job, second)
    conclude(conn, job, "W1")
    assert [c.says for c in conclusions_of(conn, job) if c.reopened is None] == ["Nothing on this sheet is wrong", "W1"]


def test_reopening_keeps_the_old_conclusion_its_parts_and_its_basis(conn, job):
    basis = (read(conn, job, "1"), read(conn, job, "2"))
    number = conclude(conn, job, "G1", "W1", basis=basis)
    assert strike_entry(conn, job, number, "came back")
    old = conclusions_of(conn, job)[0]
    assert (old.parts, old.basis, old.reopened, old.probability) == (("G1", "W1"), basis, "came back", 0.99)


def test_the_bay_tells_whose_move_it_is_and_what_each_job_waits_for(conn, job):
    other = add_job(conn, add_vehicle(conn, Facts("Van")), "does not run")
    read(conn, job, "3.9")
    refresh_all(conn)
    assert {r.vehicle: r.waits_for for r in page_of_jobs(conn, 10)} == {
        "Bus 9": "waits for the next reading", "Van": "ask when it is there, and what was done before",
    }  # fmt: skip
    conclude(conn, job, "G1")
    add_entry(conn, other, "waits", {"for": "a part", "text": "pump"})
    refresh_all(conn)
    rows = page_of_jobs(conn, 10)
    assert [(r.vehicle, r.party, r.stage, r.waits_for) for r in rows] == [
        ("Bus 9", 0, "Remedy", "found: waits for the repair"), ("Van", 1, "Complaint", "waits for a part: pump"),
    ]  # fmt: skip


def test_what_is_written_makes_the_bay_look_anew(conn, job):
    assert refresh_all(conn) == 1 and refresh_all(conn) == 0
    number = read(conn, job, "1")
    assert refresh_all(conn) == 1
    strike_entry(conn, job, number, "misread")
    assert refresh_all(conn) == 1
    add_trace(conn, job, add_sheet(conn, RELAY_PUMP))
    assert refresh_all(conn) == 1


def test_the_bay_comes_in_pages_that_hold_every_job_once(conn, job):
    for n in range(25):
        other = add_job(conn, 1, f"complaint {n}", opened_at=f"2026-01-{n + 1:02d}T00:00:00Z")
        if n % 3 == 0:
            add_entry(conn, other, "report", {"text": ""})
    refresh_all(conn)
    pages = [page_of_jobs(conn, 10, skipped) for skipped in (0, 10, 20, 30)]
    rows = [row for page in pages for row in page]
    assert [len(page) for page in pages] == [10, 10, 6, 0]
    assert len({row.id for row in rows}) == 26
    assert [row.party for row in rows] == sorted(row.party for row in rows)
    opened = [row.opened_at for row in rows if row.party == 0]
    assert len(opened) == 17 and opened == sorted(opened, reverse=True)


def test_jobs_are_found_by_party_person_vehicle_and_words(conn, job):
    van = add_vehicle(conn, Facts("Van", plate="MW 1"))
    for person, complaint in (("Oda", "horn silent"), ("Wim", "Horn croaks")):
        add_job(conn, van, complaint, person=person)
    refresh_all(conn)

    def found(**wanted):
        return sorted(row.complaint for row in page_of_jobs(conn, 10, wanted=Wanted(**wanted)))

    assert found(person="Oda") == ["dark", "horn silent"]
    assert found(vehicle_id=van) == ["Horn croaks", "horn silent"]
    assert found(words=("HORN", "mw")) == ["Horn croaks", "horn silent"] and found(words=("horn", "bus")) == []
    assert found(parties=(1, 2)) == [] and found(words=("%",)) == []


def test_what_a_trace_comes_to_is_told_while_its_evidence_stands_as_it_did(conn, job):
    def told() -> tuple[str, str]:
        refresh_job(conn, job)
        row = page_of_jobs(conn, 1)[0]
        return row.outlook, row.waits_for

    first = read(conn, job, "3.9")
    keep_outlook(conn, job, job, (first,), True, "G1 at over 99 %")
    assert told() == ("G1 at over 99 %", "found: waits to be concluded")
    second = read(conn, job, "0.1")
    assert told() == ("", "waits for the next reading")
    keep_outlook(conn, job, job, (first, second), False, "no part stands accused")
    assert told() == ("no part stands accused", "waits for the next reading")
    strike_entry(conn, job, second, "misread")
    assert told()[0] == ""
    keep_outlook(conn, job, job, (first,), True, "G1 at over 99 %")
    strike_entry(conn, job, first, "misread")
    assert told()[0] == ""
    assert conn.execute("PRAGMA synchronous").fetchone()[0] == 2  # what is written next is on the disk again


def test_vehicles_have_names_of_their_own(conn):
    add_vehicle(conn, Facts("Bus 9", "Quessel", "Hop", "2019"))
    assert all_vehicles(conn)[0].described == "Quessel Hop 2019"
    with pytest.raises(PondrelError, match="There is a vehicle 'Bus 9' already"):
        add_vehicle(conn, Facts("Bus 9"))
    with pytest.raises(sqlite3.IntegrityError):
        add_vehicle(conn, Facts(""))


def test_a_job_needs_an_existing_vehicle_and_a_trace_an_existing_sheet(conn, job):
    with pytest.raises(sqlite3.IntegrityError):
        add_job(conn, 99, "dark")
    with pytest.raises(sqlite3.IntegrityError):
        add_trace(conn, job, 99)
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
        vehicle = add_vehicle(conn, Facts("Bus 9"))
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
