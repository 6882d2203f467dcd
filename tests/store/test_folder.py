"""The data folder and its database when something is wrong with them: one sentence, nothing lost, nothing made in silence."""

from __future__ import annotations

import os
import shutil
import sqlite3
import subprocess
import sys
import time
from pathlib import Path

import pytest
from click.testing import CliRunner

from pondrel.cli import main
from pondrel.core.vehicle.facts import Facts
from pondrel.demo.load import load_demo
from pondrel.store.bay import page_of_jobs
from pondrel.store.conclusions import conclusions_of, standing_conclusion
from pondrel.store.db import BACKUPS, DATABASE, StoreError, atomic, build, connect, made_as, opened, sentence_of
from pondrel.store.folder import Busy, prepared, secret, used_alone, used_by_server
from pondrel.store.jobs import add_job
from pondrel.store.vehicles import add_vehicle, all_vehicles
from pondrel.web import create_app


def refusal(folder: Path) -> str:
    """What starting on a folder says, by command and by call alike."""
    with pytest.raises(StoreError) as caught:
        create_app(folder)
    said = CliRunner().invoke(main, ["serve", "--port", "1"], env={"PONDREL_DATA": str(folder)})
    assert said.exit_code == 1 and str(caught.value) in said.output and "Traceback" not in said.output
    return str(caught.value)


def test_an_empty_file_is_no_depot(tmp_path):
    (tmp_path / DATABASE).touch()
    assert "is an empty file, no database" in refusal(tmp_path)
    assert (tmp_path / DATABASE).stat().st_size == 0


def test_a_damaged_database_is_named_and_left_as_it_is(tmp_path, demo_folder):
    (tmp_path / DATABASE).write_bytes(b"not a database at all" * 500)
    assert "is damaged" in refusal(tmp_path)
    whole = (demo_folder / DATABASE).read_bytes()
    spoiled = whole[:4096] + bytes(len(whole) - 4096)
    (tmp_path / DATABASE).write_bytes(spoiled)
    assert "is damaged" in refusal(tmp_path)
    assert (tmp_path / DATABASE).read_bytes() == spoiled


def test_a_database_from_the_future_is_not_written_to(data_folder):
    conn = sqlite3.connect(data_folder / DATABASE)
    conn.execute("PRAGMA user_version = 4711")
    conn.close()
    before = (data_folder / DATABASE).read_bytes()
    assert "was written by a newer Pondrel (version 4711" in refusal(data_folder)
    assert (data_folder / DATABASE).read_bytes() == before


def test_an_older_database_is_copied_before_it_is_migrated(tmp_path):
    path = tmp_path / DATABASE
    old = sqlite3.connect(path)
    migrations = Path(sys.modules["pondrel.store.db"].__file__).parent / "migrations"
    for number, file in enumerate(sorted(migrations.glob("00[12]_*.sql")), 1):
        old.executescript(f"{file.read_text()};PRAGMA user_version = {number};")
    old.executescript(
        """
        INSERT INTO vehicle (name) VALUES ('Bus 9');
        INSERT INTO sheet (title, digest, text, added_at) VALUES ('no sheet any more', 'd', 'title: x', '2026-01-01T00:00:00Z');
        INSERT INTO job (vehicle_id, sheet_id, complaint, opened_at) VALUES (1, 1, 'dark', '2026-01-01T00:00:00Z');
        INSERT INTO conclusion (job_id, parts, says, probability, proved, reason, readings, concluded_at)
        VALUES (1, 'A', 'A', 0.9, 0, 'seen', '', '2026-01-02T00:00:00Z'), (1, 'B', 'B', 0.9, 0, 'seen', '', '2026-01-03T00:00:00Z');
        """
    )
    old.close()
    conn = opened(path)
    # Two conclusions of one job stood, as a race could leave them: the later one does now, and nothing is lost.
    earlier, later = conclusions_of(conn, 1)
    assert "two conclusions stood" in earlier.reopened and (later.says, later.reopened) == ("B", None)
    assert standing_conclusion(conn, 1, 1) == later.id
    conn.close()
    (copy,) = (tmp_path / BACKUPS).glob("*.sqlite")
    kept = sqlite3.connect(copy)
    assert kept.execute("PRAGMA user_version").fetchone()[0] == 2 and kept.execute("SELECT count(*) FROM conclusion").fetchone()[0] == 2
    kept.close()
    client = create_app(tmp_path).test_client()
    assert "cannot be read any more" in client.get("/sheets").get_data(as_text=True)
    assert client.get("/sheets/1").status_code == client.get("/jobs/1").status_code == client.get("/jobs/1/trace").status_code == 200


def test_folder_database_and_key_are_for_their_owner_alone(tmp_path):
    folder = tmp_path / "deep" / "data"
    create_app(folder)
    modes = {path.name: path.stat().st_mode & 0o777 for path in (folder, folder / DATABASE, folder / "secret")}
    assert modes == {"data": 0o700, DATABASE: 0o600, "secret": 0o600}
    (folder / "secret").chmod(0o644)
    folder.chmod(0o755)
    prepared(folder)
    assert (folder.stat().st_mode & 0o777, (folder / "secret").stat().st_mode & 0o777) == (0o700, 0o600)


def test_a_folder_of_somebody_else_s_things_keeps_its_rights(tmp_path):
    (tmp_path / "letter.txt").write_text("mine")
    tmp_path.chmod(0o755)
    prepared(tmp_path)
    assert tmp_path.stat().st_mode & 0o777 == 0o755


def test_what_is_no_folder_is_named(tmp_path):
    (tmp_path / "file").write_text("x")
    assert "cannot be used" in refusal(tmp_path / "file")


@pytest.mark.parametrize("content", [b"", b"short"])
def test_a_key_that_is_none_is_made_anew(tmp_path, content):
    folder = prepared(tmp_path)
    (folder / "secret").write_bytes(content)
    made = secret(folder)
    assert len(made) == 32 and secret(folder) == made
    assert create_app(folder).test_client().get("/jobs/new").status_code == 200


@pytest.mark.parametrize(
    ("error", "words"),
    [
        ("database is locked", "busy with another write"),
        ("attempt to write a readonly database", "may not be written to"),
        ("database or disk is full", "disk is full"),
        ("database disk image is malformed", "is damaged"),
        ("unable to open database file", "cannot be opened"),
        ("something else", "does not answer as it should"),
    ],
)
def test_what_sqlite_says_is_told_in_a_sentence(error, words):
    assert words in sentence_of(sqlite3.OperationalError(error))


def test_a_write_that_is_refused_says_so_and_keeps_what_was_typed(client, data_folder, monkeypatch):
    """A full disk, made of a database that may not grow by a page."""
    conn = connect(data_folder / DATABASE)
    pages = conn.execute("PRAGMA page_count").fetchone()[0]
    conn.close()
    real = sys.modules["pondrel.web.shell.database"].connect

    def small(path):
        made = real(path)
        made.execute(f"PRAGMA max_page_count = {pages}")
        return made

    monkeypatch.setattr("pondrel.web.shell.database.connect", small)
    form = {"new_vehicle": "Bus 77", "complaint": "dark " * 390, "sheet": "1"}
    page = ""
    for n in range(40):
        answer = client.post("/jobs/new", data={**form, "new_vehicle": f"Bus {n + 100}"})
        page = answer.get_data(as_text=True)
        if answer.status_code == 400:
            break
    assert "The disk is full" in page and "dark dark" in page
    reading = {"state": "open", "instrument": "volts", "red": "g3", "black": "batt-", "value": "3.77", "note": "n" * 1900}
    for _ in range(40):
        answer = client.post("/jobs/4/readings", data=reading)
        if answer.status_code == 400:
            break
    page = answer.get_data(as_text=True)
    assert "The disk is full" in page and 'value="3.77"' in page


def test_a_locked_database_answers_in_a_sentence(client, data_folder, monkeypatch):
    monkeypatch.setattr("pondrel.store.db._WAIT_SECONDS", 0.05)
    other = connect(data_folder / DATABASE)
    other.execute("BEGIN IMMEDIATE")
    answer = client.post("/jobs/new", data={"vehicle": "1", "complaint": "dark", "sheet": "1"})
    assert answer.status_code == 400 and "busy with another write" in answer.get_data(as_text=True)
    assert client.get("/jobs/4/trace").status_code == 200  # reading goes on
    other.rollback()
    other.close()


def test_a_database_that_vanishes_leaves_a_sentence(client, data_folder):
    shutil.move(data_folder / DATABASE, data_folder / "elsewhere")
    answer = client.get("/")
    assert answer.status_code == 503 and "cannot be opened" in answer.get_data(as_text=True)
    assert not (data_folder / DATABASE).exists()  # and no empty depot in its place


def test_a_database_is_made_whole_or_not_at_all(tmp_path):
    path = tmp_path / DATABASE

    def fails(conn):
        add_vehicle(conn, Facts("Bus 9"))
        raise RuntimeError("in between")

    with pytest.raises(RuntimeError):
        build(path, fails)
    assert list(tmp_path.iterdir()) == []
    assert build(path) and not build(path)


def test_a_demo_that_is_killed_in_the_making_leaves_no_empty_depot(tmp_path):
    env = {**os.environ, "PONDREL_DATA": str(tmp_path)}
    command = [sys.executable, "-m", "pondrel", "demo"]
    for wait in (0.6, 1.0, 1.4):
        first = subprocess.Popen(command, env=env, stdout=subprocess.DEVNULL)
        time.sleep(wait)
        first.kill()
        first.wait(timeout=20)
        if (tmp_path / DATABASE).exists():
            break
    subprocess.run(command, env=env, check=True, stdout=subprocess.DEVNULL)
    conn = connect(tmp_path / DATABASE)
    assert len(page_of_jobs(conn, 30)) == 21 and made_as(conn) == "demo"
    conn.close()
    assert [p.name for p in tmp_path.iterdir() if ".new" in p.name] == []


@pytest.mark.usefixtures("small_depot")
def test_a_reset_keeps_a_copy_of_what_was_entered(data_folder):
    conn = connect(data_folder / DATABASE)
    with atomic(conn):
        add_job(conn, add_vehicle(conn, Facts("Bus 99")), "entered by hand")
    conn.close()
    assert "is kept as" in load_demo(data_folder, reset=True)
    (copy,) = (data_folder / BACKUPS).glob("*.sqlite")
    kept = sqlite3.connect(copy)
    assert kept.execute("SELECT count(*) FROM vehicle WHERE name = 'Bus 99'").fetchone()[0] == 1
    kept.close()
    conn = connect(data_folder / DATABASE)
    assert "Bus 99" not in [v.name for v in all_vehicles(conn)]
    conn.close()


def test_a_reset_never_touches_real_work(tmp_path):
    create_app(tmp_path)
    with pytest.raises(StoreError, match="was not made as a demo"):
        load_demo(tmp_path, reset=True)
    assert (tmp_path / DATABASE).exists()


@pytest.mark.usefixtures("small_depot")
def test_a_reset_waits_for_the_server_to_stop(data_folder):
    with used_by_server(data_folder), used_by_server(data_folder):
        with pytest.raises(Busy, match="stop it first"):
            load_demo(data_folder, reset=True)
        said = CliRunner().invoke(main, ["demo", "--reset"], env={"PONDREL_DATA": str(data_folder)})
        assert said.exit_code == 1 and "stop it first" in said.output
    with used_alone(data_folder), pytest.raises(Busy, match="being reset"), used_by_server(data_folder):
        pass
    assert "is kept as" in load_demo(data_folder, reset=True)


@pytest.mark.usefixtures("small_depot")
def test_the_demo_has_a_folder_of_its_own(tmp_path, monkeypatch):
    monkeypatch.chdir(tmp_path)
    monkeypatch.delenv("PONDREL_DATA", raising=False)
    assert CliRunner().invoke(main, ["demo"]).exit_code == 0
    assert (tmp_path / "demo-data" / DATABASE).exists() and not (tmp_path / "data").exists()
