"""Files of the record: kept by what they hold, told by how they begin."""

from __future__ import annotations

import io

import pytest
from PIL import Image

from pondrel.store.db import DATABASE, connect
from pondrel.store.entries import entries_of
from pondrel.store.files import MOST_BYTES, FileError, file_path, get_file, keep_file, media_of, ready_file
from pondrel.store.photos import tidied_photo


def picture(**how) -> bytes:
    """A small PNG, tidied as it would be kept."""
    out = io.BytesIO()
    Image.new("RGB", (8, 6), "#406080").save(out, "PNG", **how)
    return tidied_photo(out.getvalue(), "image/png")


PNG = picture()


@pytest.fixture
def conn(data_folder):
    opened = connect(data_folder / DATABASE)
    yield opened
    opened.close()


def test_the_same_content_is_kept_once_under_its_digest(conn, data_folder):
    first, again = keep_file(conn, data_folder, ready_file(PNG)), keep_file(conn, data_folder, ready_file(PNG))
    assert first == again == get_file(conn, first.digest)
    path = file_path(data_folder, first.digest)
    assert path.read_bytes() == PNG and path.stat().st_mode & 0o777 == 0o600
    assert [p.name for p in path.parent.iterdir()] == [first.digest]


@pytest.mark.parametrize(
    ("content", "media"),
    [
        (PNG, "image/png"),
        (b"\xff\xd8\xff\xe0", "image/jpeg"),
        (b"RIFF\x00\x00\x00\x00WAVEfmt ", "audio/wav"),
        (b"%PDF-1.7", "application/pdf"),
        ("Zeit;Volt\n0,1;12,4 Ω\n".encode(), "text/plain"),
        (("ä" * 5000).encode(), "text/plain"),
        (b"<svg onload=alert(1)>", "text/plain"),  # shown as text, never as a page
        (b"MZ\x90\x00", ""),
        (b"\x7fELF\x02", ""),
        (b"\x00\x01\x02", ""),
    ],
)
def test_a_file_is_what_it_begins_as(content, media):
    assert media_of(content) == media


def test_what_is_too_large_empty_or_a_program_is_refused_in_a_sentence(conn, data_folder):
    for content, says in ((b"", "is empty"), (b"MZ\x90\x00", "not kept"), (b"x" * (MOST_BYTES + 1), "at most 24 MB")):
        with pytest.raises(FileError, match=says):
            ready_file(content)
    before = {path for path in (data_folder / "files").rglob("*") if path.is_file()}
    with pytest.raises(FileError):
        keep_file(conn, data_folder, ready_file(b"MZ\x90\x00"))
    assert {path for path in (data_folder / "files").rglob("*") if path.is_file()} == before


def test_a_picture_belongs_to_its_entry_and_is_served_as_what_it_is(client, conn):
    form = {
        "kind": "note",
        "text": "green crust",
        "files": [(io.BytesIO(PNG), "../../stud <1>.png"), (io.BytesIO(b"a;b\n1;2\n"), "log.csv")],
    }
    assert client.post("/jobs/1/entries", data=form, content_type="multipart/form-data").status_code == 302
    (entry,) = (e for e in entries_of(conn, 1) if e.kind == "note")
    (picture, name), (log, _) = entry.files
    assert name == "../../stud <1>.png"  # a name is a name: nothing is stored under it
    page = client.get("/jobs/1").get_data(as_text=True)
    assert f"/files/{picture}" in page and "stud &lt;1&gt;.png" in page
    with client.get(f"/files/{picture}") as answer:
        assert (answer.data, answer.mimetype) == (PNG, "image/png") and "sandbox" in answer.headers["Content-Security-Policy"]
        assert answer.headers["X-Content-Type-Options"] == "nosniff"
    with client.get(f"/files/{log}") as answer:
        assert "attachment" in answer.headers["Content-Disposition"]


def test_a_photo_is_tidied_before_the_database_is_held(client, conn, monkeypatch):
    tried = []

    def slow(content: bytes, media: str) -> bytes:
        conn.execute("PRAGMA busy_timeout = 0")
        conn.execute("BEGIN IMMEDIATE")  # somebody else writes meanwhile
        conn.execute("ROLLBACK")
        tried.append(media)
        return content

    monkeypatch.setattr("pondrel.store.files.tidied_photo", slow)
    for address, form in (("/jobs/1/entries", {"kind": "note", "text": "x"}), ("/jobs/7/look/at", {"place": "posts", "outcome": "fine"})):
        form["files"] = (io.BytesIO(PNG), "stud.png")
        assert client.post(address, data=form, content_type="multipart/form-data").status_code == 302
    assert tried == ["image/png", "image/png"]


@pytest.mark.parametrize("digest", ["0" * 64, "..", "%2e%2e%2fpondrel.sqlite", "x" * 3000])
def test_no_other_file_is_served(client, digest):
    assert client.get(f"/files/{digest}").status_code == 404


def test_a_refused_file_leaves_no_entry_and_keeps_what_was_typed(client, conn):
    form = {"kind": "note", "text": "long words typed", "files": (io.BytesIO(b"MZ\x90\x00"), "x.exe")}
    answer = client.post("/jobs/1/entries", data=form, content_type="multipart/form-data")
    assert answer.status_code == 400 and "long words typed" in answer.get_data(as_text=True)
    assert not any(e.kind == "note" for e in entries_of(conn, 1))
