"""A form is written once, however often it is sent, and whatever kills the server in between."""

from __future__ import annotations

import os
import random
import re
import threading
import time
import urllib.error
import urllib.parse
from concurrent.futures import ThreadPoolExecutor
from http.client import HTTPException

import pytest

from pondrel.store.db import DATABASE, StoreError, atomic, connect
from pondrel.store.entries import add_entry, entries_of
from pondrel.store.written import forget_old_keys, once
from pondrel.web import create_app

from ..server import Server, free_port

KEY = "a-key-made-when-drawn"


@pytest.fixture
def conn(data_folder):
    opened = connect(data_folder / DATABASE)
    yield opened
    opened.close()


def key_on(page: str, action: str) -> str:
    """The key of the form that goes to an address."""
    return re.search(rf'action="{re.escape(action)}".*?name="key" value="([^"]+)"', page, re.DOTALL)[1]


def test_a_key_answers_as_the_first_time_and_writes_once(conn):
    made = []

    def write() -> str:
        made.append(add_entry(conn, 4, "note", {"text": "x"}))
        return f"entry {made[-1]}"

    assert len({once(conn, KEY, write) for _ in range(10)}) == 1
    assert len(made) == 1 and len(entries_of(conn, 4)) == 1
    assert once(conn, "another-key-of-a-form", write) != once(conn, KEY, write)


def test_what_was_refused_is_not_remembered(conn):
    def refused() -> str:
        raise StoreError("The disk is full")

    with pytest.raises(StoreError):
        once(conn, KEY, refused)
    assert once(conn, KEY, lambda: "written") == "written"


def test_old_keys_are_let_go_and_young_ones_kept(conn):
    once(conn, KEY, lambda: "old")
    once(conn, "a-younger-key-of-one", lambda: "young")
    with atomic(conn):
        conn.execute("UPDATE written SET written_at = '2020-01-01T00:00:00Z' WHERE key = ?", (KEY,))
    forget_old_keys(conn)
    assert [row[0] for row in conn.execute("SELECT answer FROM written")] == ["young"]


@pytest.mark.parametrize(
    ("page", "action", "form"),
    [
        ("/jobs/new", "/jobs/new", {"vehicle": "1", "complaint": "horn silent", "sheet": "1"}),
        (
            "/jobs/4/trace",
            "/jobs/4/readings",
            {"state": "open", "instrument": "volts", "red": "g3", "black": "batt-", "value": "3.77"},
        ),
        ("/jobs/2/conclude", "/jobs/2/conclude", {"target": "K2", "reason": "certain"}),
        ("/jobs/1", "/jobs/1/reopen", {"reason": "came back"}),
        ("/jobs/1/remedy", "/jobs/1/remedy/choose", {"option": "clean:failed"}),
        ("/jobs/7", "/jobs/7/traces", {"sheet": "1"}),
    ],
)  # fmt: skip
def test_every_form_posted_ten_times_writes_once_and_answers_the_same(client, conn, page, action, form):
    form = {**form, "key": key_on(client.get(page).get_data(as_text=True), action)}
    before = conn.total_changes, [conn.execute(f"SELECT count(*) FROM {t}").fetchone()[0] for t in ("job", "entry", "strike", "trace")]
    answers = [client.post(action, data=form) for _ in range(10)]
    after = [conn.execute(f"SELECT count(*) FROM {t}").fetchone()[0] for t in ("job", "entry", "strike", "trace")]
    assert {(a.status_code, a.headers["Location"]) for a in answers} == {(302, answers[0].headers["Location"])}
    assert sum(after) - sum(before[1]) == (2 if action == "/jobs/new" else 1)  # a job comes with its trace


def test_undo_sent_twice_takes_one_entry_back(client, conn):
    page = client.get("/jobs/3/trace").get_data(as_text=True)
    entry = re.search(r'name="entry" value="(\d+)"', page)[1]
    for _ in range(3):
        assert client.post("/jobs/3/undo", data={"entry": entry, "key": key_on(page, "/jobs/3/undo")}).status_code == 302
    assert [e.id for e in entries_of(conn, 3) if e.struck and e.struck.reason == "undone"] == [int(entry)]


def test_a_reading_sent_again_after_the_job_was_concluded_is_answered_as_before(client, conn):
    """The answer got lost, somebody concluded, and the browser sends the same form once more."""
    form = {"state": "open", "instrument": "volts", "red": "g3", "black": "batt-", "value": "3.77"}
    form["key"] = key_on(client.get("/jobs/4/trace").get_data(as_text=True), "/jobs/4/readings")
    assert client.post("/jobs/4/readings", data=form).status_code == 302
    assert client.post("/jobs/4/conclude", data={"target": "G3", "reason": "seen"}).status_code == 302
    assert client.post("/jobs/4/readings", data=form).status_code == 302
    assert len([e for e in entries_of(conn, 4) if e.kind == "reading"]) == 1


def test_a_form_sent_by_many_at_once_is_written_once(data_folder, conn):
    app = create_app(data_folder)
    app.config.update(WTF_CSRF_ENABLED=False)
    barrier = threading.Barrier(5)

    def post(number: int) -> int:
        barrier.wait(timeout=30)
        return app.test_client().post("/jobs/4/entries", data={"kind": "note", "text": f"sent {number}", "key": KEY}).status_code

    with ThreadPoolExecutor(5) as pool:
        assert set(pool.map(post, range(5))) == {302}
    assert len(entries_of(conn, 4)) == 1


def test_every_form_that_writes_carries_a_key(client):
    """Every page with forms: each that posts has a key of its own."""
    for path in ("/", "/jobs/new", "/jobs/1", "/jobs/2/trace", "/jobs/2/trace?view=plan", "/jobs/2/conclude", "/sheets/new", "/sheets/1"):
        page = client.get(path).get_data(as_text=True)
        forms = re.findall(r'<form method="post".*?</form>', page, re.DOTALL)
        keys = [re.search(r'name="key" value="([\w-]{16,})"', form) for form in forms]
        assert forms and all(keys) and len({key[1] for key in keys}) == len(keys), path


@pytest.mark.slow
def test_kills_during_posts_lose_nothing_confirmed_and_write_nothing_twice(data_folder, conn):
    """Somebody writes notes, each sent until it is answered; the server is killed at some moment of every one. PONDREL_KILLS says how
    often."""
    port, rng = free_port(), random.Random(3)
    kills = sent = 0
    server = Server(data_folder, port)
    try:
        while kills < int(os.environ.get("PONDREL_KILLS", "8")):
            page = server.get("/jobs/4")
            token = re.search(r'name="csrf_token" value="([^"]+)"', page)[1]
            form = {"csrf_token": token, "key": key_on(page, "/jobs/4/entries"), "kind": "note", "text": f"note {sent}"}
            body = urllib.parse.urlencode(form).encode()
            killer = threading.Timer(rng.uniform(0.0, 0.012), server.kill)
            killer.start()
            answered = False
            while not answered:
                try:
                    with server.opener.open(f"{server.base}/jobs/4/entries", body, timeout=20) as answer:
                        answered = answer.status == 200
                except (urllib.error.URLError, OSError, HTTPException):
                    killer.join()
                    kills += 1
                    jar = server.opener
                    server = Server(data_folder, port)
                    server.opener = jar
            killer.join()
            if server.process.poll() is not None:
                kills += 1
                jar = server.opener
                server = Server(data_folder, port)
                server.opener = jar
            sent += 1
    finally:
        time.sleep(0.05)
        server.kill()
    notes = [e.text("text") for e in entries_of(conn, 4) if e.kind == "note"]
    assert notes == [f"note {n}" for n in range(sent)]
    assert conn.execute("PRAGMA integrity_check").fetchone()[0] == "ok"
