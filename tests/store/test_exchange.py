"""A job as one file: it comes back whole, once, and a damaged or hostile file leaves nothing behind."""

from __future__ import annotations

import base64
import hashlib
import io
import json
import shutil
from pathlib import Path

import pytest
from PIL import Image

from pondrel.core.base.errors import PondrelError
from pondrel.core.job.exchange import ExchangeError, read_exchange, written_exchange
from pondrel.demo.load import load_demo
from pondrel.store.db import DATABASE, atomic, connect, opened
from pondrel.store.entries import add_entry, entries_of, strike_entry
from pondrel.store.exchange import NoJobError, export_job, import_job, job_record
from pondrel.store.files import file_path
from pondrel.store.vehicle_entries import ledger_of, vehicle_entries_of
from pondrel.store.vehicles import all_vehicles
from pondrel.web import create_app

DIM, LIFT, FLAT, WAITING, CART, GAUGES = 1, 2, 5, 6, 9, 10


@pytest.fixture
def conn(data_folder):
    own = connect(data_folder / DATABASE)
    yield own
    own.close()


@pytest.fixture
def other(tmp_path):
    folder = tmp_path / "other"
    folder.mkdir()
    own = opened(folder / DATABASE)
    yield own, folder
    own.close()


def record(conn, job_id: int) -> dict:
    """A job as it reads, without the numbers that another folder gives it."""
    found = job_record(conn, job_id)
    numbers = {entry["id"]: n for n, entry in enumerate(found["entries"])}
    for entry in found["entries"]:
        entry["basis"] = [numbers[basis] for basis in entry.get("basis", [])]
        del entry["id"]
    del found["job"]["number"]
    return found


@pytest.mark.parametrize("job_id", range(1, 11))
def test_every_job_of_the_demo_comes_back_as_it_was_and_only_once(conn, data_folder, other, job_id):
    there, folder = other
    text = export_job(conn, data_folder, job_id)
    found = import_job(there, folder, text)
    assert found.new and record(there, found.job_id) == record(conn, job_id)
    again = import_job(there, folder, text)
    assert (again.job_id, again.new, again.entries) == (found.job_id, False, 0)
    here = import_job(conn, data_folder, text)
    assert (here.job_id, here.new, here.entries) == (job_id, False, 0)
    vehicle = json.loads(text)["vehicle"]["name"]
    mine, theirs = (next(v.id for v in all_vehicles(c) if v.name == vehicle) for c in (conn, there))
    assert len(vehicle_entries_of(conn, mine)) == len(vehicle_entries_of(there, theirs))


def test_the_pages_of_an_imported_job_can_be_looked_at(conn, data_folder, other):
    there, folder = other
    jobs = [import_job(there, folder, export_job(conn, data_folder, n)).job_id for n in (DIM, LIFT, GAUGES)]
    client = create_app(folder).test_client()
    for job in jobs:
        for page in ("", "/trace", "/complaint", "/codes", "/look", "/visit"):
            assert client.get(f"/jobs/{job}{page}").status_code == 200
    picture = next(digest for e in entries_of(there, jobs[0]) for digest, _ in e.files)
    assert file_path(folder, picture).read_bytes() == file_path(data_folder, picture).read_bytes()


def test_what_was_added_and_struck_out_since_comes_with_the_next_export(conn, data_folder, other):
    there, folder = other
    job = import_job(there, folder, export_job(conn, data_folder, LIFT)).job_id
    with atomic(conn):
        add_entry(conn, LIFT, "note", {"text": "later"}, made_at="2026-11-26T08:00:00Z")
        first = next(e for e in entries_of(conn, LIFT) if e.kind == "reading")
        strike_entry(conn, LIFT, first.id, "wrong range", "Wim")
    text = export_job(conn, data_folder, LIFT)
    assert import_job(there, folder, text).entries == 1
    assert record(there, job) == record(conn, LIFT) and import_job(there, folder, text).entries == 0


def test_a_job_on_a_vehicle_of_the_same_name_and_another_number_gets_its_own(conn, data_folder, other):
    there, folder = other
    text = export_job(conn, data_folder, LIFT)
    import_job(there, folder, text)
    changed = json.loads(text)
    changed["vehicle"]["vin"] = "11111111111111111"
    import_job(there, folder, again(changed))
    assert sorted(v.name for v in all_vehicles(there)) == ["Library 2", "Library 2 (2)"]
    assert all(ledger_of(there, v.id) for v in all_vehicles(there))


def again(content: dict) -> str:
    """A file as somebody else could write it, its digest right."""
    return written_exchange({name: value for name, value in content.items() if name not in ("format", "digest")})


def test_a_damaged_file_is_refused_in_one_sentence_and_leaves_nothing(conn, data_folder, other):
    there, folder = other
    text = export_job(conn, data_folder, DIM)
    damaged = [
        (text[: len(text) // 2], "cut off"),
        (text.replace("dim", "dam", 1), "damaged"),
        ("", "cut off"),
        ("[]", "no exported job"),
        ("{}", "no exported job"),
        ('{"format": "pondrel-job/2"}', "this Pondrel reads pondrel-job/1"),
        ("[" * 100_000, "cut off"),
        (text.replace('"base64": "', '"base64": "!', 1), "damaged"),
    ]
    for bad, says in damaged:
        with pytest.raises(ExchangeError, match=says):
            import_job(there, folder, bad)
    assert all_vehicles(there) == [] and there.execute("SELECT count(*) FROM entry").fetchone()[0] == 0


@pytest.mark.parametrize(
    ("change", "says"),
    [
        (lambda c: c.pop("entries"), "damaged"),
        (lambda c: c["entries"][0].update(kind="rumour"), "no kind of entry"),
        (lambda c: c["entries"][0].update(made_at="yesterday"), "A time in the file"),
        (lambda c: c["entries"][0].update(made_at="2026-19-20T08:12:00Z"), "months go from 1 to 12"),
        (lambda c: c["entries"][0].update(person="x" * 81), "A name in the file"),
        (lambda c: c["entries"][0].update(content={"text": 1, "evil": 2}), "no place in"),
        (lambda c: c["entries"][0].update(trace=7), "belongs to a circuit that is not in it"),
        (lambda c: c["entries"][0].update(number=True), "damaged"),
        (lambda c: c["job"].update(complaint=" "), "no complaint"),
        (lambda c: c["job"].update(complaint="x\x00"), "no screen can show"),
        (lambda c: c["sheets"][0].update(text="format: nothing"), "not the one that it says"),
        (lambda c: c["files"][0].update(base64="AAAA"), "not the one that it says"),
        (lambda c: c.update(files=[]), "not in the file"),
        (lambda c: c["vehicle"].update(name=""), "has no name"),
        (lambda c: c["vehicle"].update(volts=13), "12, 24, 48 V"),
        (lambda c: c["vehicle_entries"][0].update(content={"reads": "far"}), "must be a number|must be yes or no"),
    ],
)
def test_a_file_that_is_whole_but_holds_what_cannot_be_leaves_nothing(conn, data_folder, other, change, says):
    there, folder = other
    content = json.loads(export_job(conn, data_folder, DIM))
    change(content)
    with pytest.raises(PondrelError, match=says):
        import_job(there, folder, again(content))
    assert all_vehicles(there) == [] and there.execute("SELECT count(*) FROM entry").fetchone()[0] == 0


def test_a_photo_that_comes_from_elsewhere_loses_where_it_was_taken(conn, data_folder, other):
    there, folder = other
    exif = Image.Exif()
    exif[0x010F] = "Camera"
    out = io.BytesIO()
    Image.new("RGB", (9, 9)).save(out, "JPEG", exif=exif)
    content = json.loads(export_job(conn, data_folder, DIM))
    digest = hashlib.sha256(out.getvalue()).hexdigest()
    old = content["files"][0]["digest"]
    content["files"][0] = {"digest": digest, "media": "image/jpeg", "base64": base64.b64encode(out.getvalue()).decode()}
    for entry in content["entries"]:
        entry["files"] = [{**file, "digest": digest} if file["digest"] == old else file for file in entry["files"]]
    job = import_job(there, folder, again(content)).job_id
    (kept,) = [digest for e in entries_of(there, job) for digest, _ in e.files]
    assert kept != digest and b"Camera" not in file_path(folder, kept).read_bytes()


def test_a_job_that_is_not_there_and_a_file_that_is_gone_are_told(conn, data_folder):
    with pytest.raises(NoJobError, match="no job 99"):
        export_job(conn, data_folder, 99)
    shutil.rmtree(data_folder / "files")
    with pytest.raises(ExchangeError, match="is missing in the data folder"):
        export_job(conn, data_folder, DIM)


def test_the_digest_does_not_hang_on_spacing_or_order(conn, data_folder):
    content = json.loads(export_job(conn, data_folder, CART))
    turned = json.dumps(dict(reversed(content.items())), indent=7)
    assert read_exchange(turned) == content


def test_the_demo_is_made_the_same_each_time(tmp_path):
    def texts(folder: Path) -> list[dict]:
        load_demo(folder)
        own = connect(folder / DATABASE)
        found = [json.loads(export_job(own, folder, n)) for n in (DIM, FLAT, GAUGES)]
        own.close()
        return [{name: value for name, value in one.items() if name not in ("exported_at", "digest")} for one in found]

    assert texts(tmp_path / "a") == texts(tmp_path / "b")
