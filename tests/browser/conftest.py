"""A real server and a real headless Chromium."""

from __future__ import annotations

import logging
import shutil
import threading
from pathlib import Path

import pytest
import waitress
from playwright.sync_api import expect, sync_playwright

from pondrel.cli.server import SERVER
from pondrel.web import create_app

FLAGS = ["--no-sandbox", "--disable-gpu", "--disable-background-networking", "--disable-component-update", "--disable-sync"]
expect.set_options(timeout=30_000)  # what comes late on a busy machine has come; what does not come at all still fails


@pytest.fixture(scope="session")
def chromium():
    """Debian's Chromium."""
    path = shutil.which("chromium")
    if path is None:
        pytest.skip("chromium is not installed; make test installs it")
    with sync_playwright() as playwright:
        browser = playwright.chromium.launch(executable_path=path, args=FLAGS)
        yield browser
        browser.close()


@pytest.fixture
def depot_folder(demo_folder, tmp_path) -> Path:
    """A demo depot of its own."""
    return Path(shutil.copytree(demo_folder, tmp_path / "depot"))


@pytest.fixture
def depot(chromium, depot_folder, prepared, caplog):
    """Address of the application over a demo depot of its own, served as `pondrel serve` does; nothing it logs as failed goes unseen."""
    app = create_app(depot_folder)
    app.extensions["workups"] = prepared
    server = waitress.create_server(app, host="127.0.0.1", port=0, **SERVER)
    thread = threading.Thread(target=server.run, daemon=True)
    with caplog.at_level(logging.WARNING):
        thread.start()
        yield f"http://127.0.0.1:{server.effective_port}"
        for context in chromium.contexts:  # of a test that failed: its page would go on asking for live readings
            context.close()
        server.close()
        thread.join(timeout=10)
    assert [record.getMessage() for record in caplog.records if record.name.startswith("pondrel")] == []


class Bench:
    """What a person does, by role and label; every message of the console and every refused load counts as a failure."""

    def __init__(self, page, base: str):
        self.page, self.base, self.complaints = page, base, []
        page.on("console", lambda m: self.complaints.append(m.text) if m.type in ("error", "warning") else None)
        page.on("pageerror", lambda e: self.complaints.append(str(e)))

    def open(self, path: str) -> None:
        self.page.goto(self.base + path)

    def type_reading(self, text: str) -> None:
        before = self.page.get_by_role("region", name="Readings").inner_text()
        self.page.keyboard.type(text)
        self.page.keyboard.press("Enter")
        self.page.wait_for_function("before => document.querySelector('.log-panel').innerText !== before", arg=before)

    @property
    def value(self):
        """The field for a number or a line."""
        return self.page.locator("form[data-reading] input[name=value]")

    def test_leads(self) -> tuple[str, str, str, str]:
        """State, instrument, red and black as the form has them."""
        form = self.page.locator("form[data-reading]")
        return tuple(form.locator(f"[name={name}]").input_value() for name in ("state", "instrument", "red", "black"))


@pytest.fixture
def bench(chromium, depot):
    """A page at 1280x800."""
    context = chromium.new_context(viewport={"width": 1280, "height": 800})
    made = Bench(context.new_page(), depot)
    yield made
    assert made.complaints == []
    context.close()
