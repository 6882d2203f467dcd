"""Two people at one job at the same moment."""

from __future__ import annotations

import re
from concurrent.futures import ThreadPoolExecutor
from threading import Barrier

import pytest

from pondrel.store.conclusions import conclusions_of
from pondrel.store.db import DATABASE, connect
from pondrel.store.entries import entries_of
from pondrel.web import create_app

TOGETHER = 4


@pytest.fixture
def clients(data_folder):
    app = create_app(data_folder)
    app.config.update(WTF_CSRF_ENABLED=False)
    return [app.test_client() for _ in range(TOGETHER)]


def at_once(clients, path: str, forms) -> list[int]:
    """Statuses of the same address posted to by everybody at the same moment."""
    barrier = Barrier(len(clients))

    def post(client, form):
        barrier.wait(timeout=30)
        return client.post(path, data=form).status_code

    with ThreadPoolExecutor(len(clients)) as pool:
        return sorted(pool.map(post, clients, forms))


@pytest.mark.parametrize("turn", range(3))
def test_of_conclusions_drawn_at_once_one_stands(clients, data_folder, turn):
    clients[0].get("/jobs/2/conclude")
    forms = [{"target": target, "reason": "certain"} for target in ("K2", "F40", "G7", "W20")]
    assert at_once(clients, "/jobs/2/conclude", forms) == [302, *[400] * (TOGETHER - 1)]
    conn = connect(data_folder / DATABASE)
    assert len([c for c in conclusions_of(conn, 2) if c.reopened is None]) == 1
    conn.close()


def test_one_entry_undone_by_several_is_undone_once_and_nothing_else_is(clients, data_folder):
    named = re.search(r'name="entry" value="(\d+)"', clients[0].get("/jobs/3/trace").get_data(as_text=True))[1]
    assert at_once(clients, "/jobs/3/undo", [{"entry": named}] * TOGETHER) == [302, *[400] * (TOGETHER - 1)]
    conn = connect(data_folder / DATABASE)
    struck = [e.id for e in entries_of(conn, 3) if e.struck and e.struck.reason == "undone"]
    conn.close()
    assert struck == [int(named)]


def test_no_reading_slips_into_a_job_that_was_just_concluded(clients, data_folder):
    assert clients[0].post("/jobs/2/conclude", data={"target": "K2", "reason": "certain"}).status_code == 302
    form = {"state": "raise", "instrument": "volts", "red": "k2.30", "black": "batt-", "value": "12.4"}
    assert at_once(clients, "/jobs/2/readings", [form] * TOGETHER) == [400] * TOGETHER


def test_a_conclusion_stands_only_on_the_readings_that_it_was_drawn_from(clients, data_folder, monkeypatch):
    """Somebody enters a reading between the look at the page and the write."""
    from pondrel.web.trace import views

    real = views.mattering
    turn = iter((4711, 4712, 4713, 4714))
    monkeypatch.setattr(views, "mattering", lambda entries, trace: (*real(entries, trace), next(turn)))
    answer = clients[0].post("/jobs/2/conclude", data={"target": "K2", "reason": "certain"})
    assert answer.status_code == 400 and "in the meantime" in answer.get_data(as_text=True)
