"""Headers, CSRF, and that no page carries a script or style of its own."""

from __future__ import annotations

import re

import pytest

from pondrel.web import POLICY, create_app

PAGES = ["/", "/jobs/new", "/jobs/1", "/jobs/2/trace", "/jobs/3/conclude", "/sheets", "/sheets/1", "/nothing"]


@pytest.fixture
def strict(data_folder):
    app = create_app(data_folder)
    app.config["TESTING"] = True
    return app.test_client()


def test_the_policy_allows_nothing_inline_and_nothing_from_elsewhere():
    assert "unsafe" not in POLICY
    assert "default-src 'none'" in POLICY
    assert not re.search(r"https?:|\*|data:", POLICY)


@pytest.mark.parametrize("path", PAGES)
def test_every_answer_carries_the_policy(strict, path):
    headers = strict.get(path).headers
    assert headers["Content-Security-Policy"] == POLICY
    assert headers["X-Content-Type-Options"] == "nosniff"


@pytest.mark.parametrize("path", PAGES)
def test_no_page_has_inline_script_style_or_foreign_address(strict, path):
    page = strict.get(path).get_data(as_text=True)
    assert not re.search(r"<script(?![^>]*\bsrc=)", page)
    assert not re.search(r"\sstyle=|<style|\son[a-z]+=", page)
    assert not re.search(r'(?:src|href|action)="(?:https?:)?//', page)


@pytest.mark.parametrize(
    "path",
    [
        "/jobs/new",
        "/jobs/4/readings",
        "/jobs/3/conclude",
        "/jobs/1/reopen",
        "/jobs/2/readings/1/strike",
        "/jobs/1/entries",
        "/jobs/1/traces",
        "/who",
    ],
)
def test_a_post_without_its_token_is_refused(strict, path):
    response = strict.post(path, data={"state": "open", "instrument": "volts", "red": "g3", "black": "batt-", "value": "1.1"})
    assert response.status_code == 400
    assert "safety token" in response.get_data(as_text=True)


@pytest.mark.parametrize("path", ["/jobs/1/reopen", "/jobs/2/readings/1/strike", "/jobs/4/readings"])
def test_nothing_is_changed_by_a_get(strict, path):
    assert strict.get(path).status_code == 405


def test_a_failure_inside_shows_a_sentence_and_no_trace(data_folder, monkeypatch):
    app = create_app(data_folder)
    app.config["PROPAGATE_EXCEPTIONS"] = False
    monkeypatch.setattr("pondrel.web.jobs.bay.page_of_jobs", lambda *given: 1 / 0)
    response = app.test_client().get("/")
    assert response.status_code == 500
    assert "Traceback" not in response.get_data(as_text=True)
    assert "what was confirmed before is kept" in response.get_data(as_text=True)


def test_the_signing_key_is_kept_and_private(data_folder):
    create_app(data_folder)
    first = (data_folder / "secret").read_bytes()
    create_app(data_folder)
    assert (data_folder / "secret").read_bytes() == first
    assert (data_folder / "secret").stat().st_mode & 0o077 == 0
