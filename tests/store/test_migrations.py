"""Databases of every version that ever shipped, opened with this one: nothing is lost, and every job is replayed to the same digits.

The fixtures in ``old`` were written by those versions themselves: their demo jobs and a few that are awkward. ``digits.json`` holds what
the jobs' readings came to when the model was last changed on purpose: 0.5.0 gave 0.4.0's digits, 0.6.0 takes vehicles for worn, 0.8.0
does not know how a lamp's current bends, 0.9.0 knows the shapes of slips, 0.18.0 has slopes and tears exact.
"""

from __future__ import annotations

import json
import sqlite3
from functools import cache
from pathlib import Path

import pytest

from pondrel.core.circuit.read.sheet import parse_sheet
from pondrel.core.evidence.registry import item_from, item_of
from pondrel.core.isolate import Workup, isolate
from pondrel.core.job.kinds import is_evidence
from pondrel.store import db
from pondrel.store.bay import page_of_jobs
from pondrel.store.conclusions import conclusions_of
from pondrel.store.entries import entries_of
from pondrel.store.sheets import get_sheet
from pondrel.store.traces import traces_of
from pondrel.web import create_app

OLD = Path(__file__).parent / "old"
VERSIONS = ("0.1", "0.2", "0.3", "0.4")
DIGITS = json.loads((OLD / "digits.json").read_text())


@pytest.fixture(params=VERSIONS)
def version(request) -> str:
    return request.param


@pytest.fixture
def before(version):
    """The database as that version left it."""
    conn = sqlite3.connect(":memory:")
    conn.executescript((OLD / f"{version}.sql").read_text())
    yield conn
    conn.close()


@pytest.fixture
def path(version, tmp_path) -> Path:
    file = tmp_path / db.DATABASE
    conn = sqlite3.connect(file)
    conn.executescript((OLD / f"{version}.sql").read_text())
    conn.close()
    return file


@pytest.fixture
def after(path):
    conn = db.opened(path)
    yield conn
    assert conn.execute("PRAGMA foreign_key_check").fetchall() == []
    conn.close()


def jobs(conn) -> list[int]:
    return [row[0] for row in conn.execute("SELECT id FROM job ORDER BY id")]


def test_every_reading_and_strike_is_an_entry_with_the_same_words_in_the_same_order(before, after):
    for job in jobs(before):
        was = before.execute(
            "SELECT state, red, black, typed, note, taken_at, strike.reason FROM reading "
            "LEFT JOIN strike ON strike.reading_id = reading.id WHERE job_id = ? ORDER BY reading.id",
            (job,),
        ).fetchall()
        now = [e for e in entries_of(after, job) if is_evidence(e.kind)]
        assert [
            (e.text("state"), e.text("red") or e.text("subject"), e.text("black"), e.text("value") or e.text("outcome"), e.text("note"))
            for e in now
        ] == [row[:5] for row in was]
        assert [(e.made_at, e.struck.reason if e.struck else None) for e in now] == [row[5:] for row in was]


def test_the_instrument_column_is_told_apart_into_kinds(before, after):
    was = before.execute("SELECT instrument FROM reading ORDER BY job_id, id").fetchall()
    told = [e for job in jobs(after) for e in entries_of(after, job) if is_evidence(e.kind)]
    now = [f"{e.kind} {e.text('instrument')}".removeprefix("reading ").strip() for e in told]
    assert now == [row[0] for row in was]


def test_conclusions_keep_their_parts_their_basis_and_their_last_digit(before, after):
    worked_out = "worked_out" if "worked_out" in [row[1] for row in before.execute("PRAGMA table_info(conclusion)")] else "1"
    for job in jobs(before):
        readings = [row[0] for row in before.execute("SELECT id FROM reading WHERE job_id = ? ORDER BY id", (job,))]
        entries = [e.id for e in entries_of(after, job) if is_evidence(e.kind)]
        place = dict(zip(readings, entries, strict=True))
        was = before.execute(
            f"""
            SELECT parts, says, iif({worked_out}, probability, NULL), proved, conclusion.reason, readings, concluded_at, reopening.reason
            FROM conclusion LEFT JOIN reopening ON reopening.conclusion_id = conclusion.id WHERE job_id = ? ORDER BY conclusion.id
            """,
            (job,),
        ).fetchall()
        now = conclusions_of(after, job)
        assert [("\n".join(c.parts), c.says, c.probability, c.proved, c.reason, c.concluded_at, c.reopened) for c in now] == [
            (*row[:3], bool(row[3]), row[4], *row[6:]) for row in was
        ]
        assert [c.basis for c in now] == [tuple(place[int(n)] for n in row[5].split()) for row in was]
        assert all(basis < c.id for c in now for basis in c.basis)  # what it stands on was written before it


@cache
def workup_of(text: str) -> Workup:
    """A sheet prepared once: the versions share their demo sheets."""
    return Workup(parse_sheet(text))


def test_every_job_is_replayed_to_the_same_digits(before, after, version):
    """Exactly what the old columns give, and what they came to before, to within a billionth (another machine's rounding)."""
    for job, told in DIGITS[version].items():
        (trace,) = traces_of(after, int(job))
        workup = workup_of(get_sheet(after, trace.sheet_id).text)
        sheet = workup.sheet
        stands = [e for e in entries_of(after, int(job)) if is_evidence(e.kind) and e.stands]
        items = tuple(item_from(sheet, e.kind, {name: e.text(name) for name in e.content}) for e in stands)
        rows = before.execute(
            "SELECT state, instrument, red, black, typed, note FROM reading WHERE job_id = ? "
            "AND NOT EXISTS (SELECT 1 FROM strike WHERE strike.reading_id = reading.id) ORDER BY id",
            (int(job),),
        )
        assert items == tuple(item_of(sheet, *row) for row in rows)
        found = isolate(workup, items)
        assert found.standing.says == told["says"]
        assert {" ".join(t.members): t.probability for t in found.targets[:6]} == pytest.approx(told["targets"], rel=1e-9, abs=1e-15)


def test_vehicles_jobs_and_sheets_are_all_there(before, after):
    for table, columns in (
        ("vehicle", "id, name, make, model, year, plate, note"),
        ("sheet", "id, title, digest, text"),
        ("job", "id, vehicle_id, complaint, conditions, person"),
    ):
        sql = f"SELECT {columns} FROM {table} ORDER BY id"
        assert [tuple(row) for row in after.execute(sql)] == before.execute(sql).fetchall()
    sheet_of = dict(before.execute("SELECT id, sheet_id FROM job").fetchall())
    assert {job: traces_of(after, job)[0].sheet_id for job in jobs(after)} == sheet_of


def test_the_old_database_is_kept_beside_it(path, version):
    db.opened(path).close()
    (copy,) = (path.parent / "backups").glob("*.sqlite")
    kept = sqlite3.connect(copy)
    assert kept.execute("SELECT count(*) FROM reading").fetchone()[0] > 0
    kept.close()


def test_every_page_of_every_old_job_answers(path, prepared):
    app = create_app(path.parent)
    app.extensions["workups"] = prepared
    client = app.test_client()
    page = client.get("/").get_data(as_text=True)
    assert "found: waits for the repair" in page.lower() and "concluded" not in page.lower()
    conn = db.connect(path)
    numbers = [row.id for row in page_of_jobs(conn, 50)]
    conn.close()
    for job in numbers:
        assert client.get(f"/jobs/{job}").status_code == 200
        assert client.get(f"/jobs/{job}/trace").status_code == 200


def test_a_database_of_0_10_keeps_every_line_and_gains_room_for_what_comes_before_the_meter(tmp_path):
    file = tmp_path / db.DATABASE
    old = sqlite3.connect(file)
    old.executescript((OLD / "0.10.sql").read_text())
    kept = {
        table: old.execute(f"SELECT * FROM {table} ORDER BY 1, 2").fetchall()
        for table in ("job", "trace", "entry", "strike", "conclusion_part", "conclusion_basis", "correction", "sheet")
    }
    names = old.execute("SELECT id, name, plate, note FROM vehicle ORDER BY id").fetchall()
    old.close()
    conn = db.opened(file)
    for table, rows in kept.items():
        assert [tuple(row) for row in conn.execute(f"SELECT * FROM {table} ORDER BY 1, 2")] == rows
    facts = conn.execute("SELECT id, name, plate, note, vin, volts, unit, options FROM vehicle ORDER BY id").fetchall()
    assert [tuple(row) for row in facts] == [(*name, "", None, "km", "") for name in names]
    conn.close()
    client = create_app(tmp_path).test_client()
    for job in range(1, 9):
        assert all(client.get(f"/jobs/{job}{page}").status_code == 200 for page in ("", "/complaint", "/look", "/codes", "/visit"))
    assert "Step lights with a shared ground" in client.get("/jobs/4/complaint").text  # sheets tell their words anew


def test_a_database_of_0_11_keeps_every_line_and_gains_drafts_and_own_drawings(tmp_path):
    file = tmp_path / db.DATABASE
    old = sqlite3.connect(file)
    old.executescript((OLD / "0.11.sql").read_text())
    kept = {
        table: old.execute(f"SELECT * FROM {table} ORDER BY 1, 2").fetchall()
        for table in ("job", "trace", "entry", "strike", "correction", "sheet", "vehicle", "vehicle_entry")
    }
    old.close()
    assert len(kept["trace"]) > 5
    conn = db.opened(file)
    for table, rows in kept.items():
        assert [tuple(row) for row in conn.execute(f"SELECT * FROM {table} ORDER BY 1, 2")] == rows
    for job in sorted({row[1] for row in kept["trace"]}):
        assert all(trace.sheet_id == trace.begun_id for trace in traces_of(conn, job))
    conn.close()
    client = create_app(tmp_path).test_client()
    assert client.get("/sheets").status_code == client.get("/circuits").status_code == 200
    assert client.get("/jobs/2/trace?view=circuit").status_code == 200


def test_a_database_of_0_12_keeps_every_line_and_gains_the_bench(tmp_path):
    file = tmp_path / db.DATABASE
    old = sqlite3.connect(file)
    old.executescript((OLD / "0.12.sql").read_text())
    tables = ("job", "trace", "entry", "strike", "correction", "sheet", "vehicle", "vehicle_entry", "draft", "draft_step", "own_drawing")
    kept = {table: old.execute(f"SELECT * FROM {table} ORDER BY 1, 2").fetchall() for table in tables}
    old.close()
    conn = db.opened(file)
    for table, rows in kept.items():
        assert [tuple(row) for row in conn.execute(f"SELECT * FROM {table} ORDER BY 1, 2")] == rows
    assert all(conn.execute(f"SELECT count(*) FROM {table}").fetchone()[0] == 0 for table in ("bench_check", "meter", "own_limit"))
    conn.close()
    client = create_app(tmp_path).test_client()
    assert client.get("/bench").status_code == client.get("/bench/coil").status_code == client.get("/jobs/2/trace").status_code == 200


def test_a_database_of_0_13_keeps_every_line_and_gains_house_rules(tmp_path):
    file = tmp_path / db.DATABASE
    old = sqlite3.connect(file)
    old.executescript((OLD / "0.13.sql").read_text())
    tables = ("job", "trace", "entry", "strike", "sheet", "vehicle", "vehicle_entry", "bench_check", "meter", "own_limit")
    kept = {table: old.execute(f"SELECT * FROM {table} ORDER BY 1, 2").fetchall() for table in tables}
    old.close()
    conn = db.opened(file)
    for table, rows in kept.items():
        assert [tuple(row) for row in conn.execute(f"SELECT * FROM {table} ORDER BY 1, 2")] == rows
    assert conn.execute("SELECT count(*) FROM house_rule").fetchone()[0] == 0
    conn.close()
    client = create_app(tmp_path).test_client()
    for address in ("/power", "/power/2/start", "/bench/checks/5", "/bench/battery", "/jobs/2"):
        assert client.get(address).status_code == 200, address
