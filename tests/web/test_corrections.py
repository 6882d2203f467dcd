"""A circuit that is drawn otherwise than it is on the vehicle: corrected from Trace, kept as this vehicle's own, offered to the library."""

from __future__ import annotations

import re

import pytest

from pondrel.store.db import DATABASE, opened
from pondrel.store.entries import entries_of
from pondrel.store.exchange import export_job, import_job
from pondrel.store.folder import prepared
from pondrel.store.traces import traces_of

from .test_library import sheet_id, text_of
from .test_making import parts, step

JOB = 2  # the tail-lift of the demo, with readings on it


@pytest.fixture
def conn(data_folder):
    with opened(data_folder / DATABASE) as connection:
        yield connection


def _corrected(client, *taken: tuple[str, str, str, dict[str, str]], why: str = "seen under the floor"):
    draft = client.post(f"/jobs/{JOB}/traces/1/correct").location
    for name, on, subject, given in taken:
        assert step(client, draft, name, on, subject, **given).status_code == 302
    return client.post(f"{draft}/correct", data={"why": why})


FUSE = ("put_in", "part", "W12", {"what": "fuse", "name": "F99"})
SECTION = ("change", "part", "W10", {"csa_mm2": "6"})


def test_the_trace_goes_by_the_corrected_drawing_and_the_record_says_what_why_and_who(client, conn):
    client.post("/who", data={"person": "Ilse"})
    before = traces_of(conn, JOB)[0]
    kept = _corrected(client, FUSE, SECTION)
    assert kept.status_code == 302 and f"/jobs/{JOB}/trace" in kept.location
    after = traces_of(conn, JOB)[0]
    assert after.sheet_id != before.sheet_id and after.begun_id == before.sheet_id
    entry = entries_of(conn, JOB)[-1]
    assert entry.kind == "corrected" and entry.content["why"] == "seen under the floor"
    assert "fuse F99 put into W12" in entry.text("says") and "W10: section 6" in entry.text("says")
    page = client.get(f"/jobs/{JOB}/trace?view=circuit").get_data(as_text=True)
    assert 'data-part="F99"' in page and "≠" in page and "own drawing" in text_of(client.get(f"/jobs/{JOB}/trace?view=circuit"))
    both = re.findall(r'href="(/sheets/drawn/[0-9a-f]+)"', client.get(f"/jobs/{JOB}").get_data(as_text=True))
    assert [client.get(address).location for address in both] == [f"/sheets/{before.sheet_id}", f"/sheets/{after.sheet_id}"]
    assert client.get("/sheets/drawn/nothing").status_code == 404
    assert "Drawing corrected" in text_of(client.get(f"/jobs/{JOB}")) and "seen under the floor" in text_of(client.get(f"/jobs/{JOB}"))


def test_the_readings_are_judged_by_the_corrected_drawing_and_by_the_first_again_when_it_is_struck_out(client, conn):
    def leads() -> str:
        return re.sub(r"\s+", " ", text_of(client.get(f"/jobs/{JOB}/trace")))

    first = leads()
    _corrected(client, ("put_in", "part", "W12", {"what": "fuse", "name": "F99"}))
    assert leads() != first
    entry = entries_of(conn, JOB)[-1]
    client.post(f"/jobs/{JOB}/entries/{entry.id}/strike", data={"reason": "it was another lift"})
    assert traces_of(conn, JOB)[0].sheet_id == traces_of(conn, JOB)[0].begun_id


def test_it_is_this_vehicles_own_and_no_sheet_of_the_library(client, conn):
    library = text_of(client.get("/sheets"))
    _corrected(client, FUSE)
    assert text_of(client.get("/sheets")).count("Tail-lift") == library.count("Tail-lift")
    lift = sheet_id(client, traces_of(conn, JOB)[0].title)
    vehicle = conn.execute("SELECT vehicle_id FROM job WHERE id = ?", (JOB,)).fetchone()[0]
    other = conn.execute("SELECT id FROM vehicle WHERE id <> ? ORDER BY id", (vehicle,)).fetchone()[0]
    for number, own in ((vehicle, True), (other, False)):
        opened_job = client.post("/jobs/new", data={"vehicle": str(number), "complaint": "it does it again", "sheet": str(lift)}).location
        job = int(re.search(r"/jobs/(\d+)", opened_job)[1])
        assert (traces_of(conn, job)[0].sheet_id == traces_of(conn, JOB)[0].sheet_id) == own


def test_the_library_takes_a_correction_by_one_touch(client, conn):
    _corrected(client, FUSE)
    lift = sheet_id(client, traces_of(conn, JOB)[0].title)
    page = client.get(f"/sheets/{lift}").get_data(as_text=True)
    assert "fuse F99 put into W12 (seen under the floor)" in text_of(client.get(f"/sheets/{lift}"))
    taken = re.search(rf"/sheets/{lift}/corrections/\d+/take", page)[0]
    draft = client.post(taken).location
    assert "F99" in parts(client, draft)
    assert "/sheets/" in client.post(f"{draft}/keep").location
    assert client.post(f"/sheets/{lift}/corrections/9999/take").status_code == 404


def test_what_is_no_correction_is_refused_with_a_sentence(client):
    nothing = _corrected(client)
    assert nothing.status_code == 400 and "Nothing is different yet" in text_of(nothing)
    # A place that a reading was taken at cannot be drawn away: the reading would say nothing any more.
    read_at = _corrected(client, ("lift_out", "part", "Y3", {}), why="not fitted")
    assert read_at.status_code == 400 and "cannot be read any more" in text_of(read_at)
    assert client.get(f"/jobs/{JOB}/trace").status_code == 200
    assert client.post("/jobs/999/traces/1/correct").status_code == 404


def test_a_corrected_job_can_be_exported_and_taken_up_elsewhere(client, conn, data_folder, tmp_path):
    _corrected(client, FUSE)
    text = export_job(conn, data_folder, JOB)
    elsewhere = tmp_path / "elsewhere"
    elsewhere.mkdir()
    there = opened(prepared(elsewhere) / DATABASE)
    job = import_job(there, elsewhere, text).job_id
    assert [e.kind for e in entries_of(there, job)].count("corrected") == 1
    assert there.execute("SELECT count(*) FROM own_drawing").fetchone()[0] == 1
    there.close()
