"""Takes the pictures of docs/screenshots: each main view of a fresh demo depot, at 1280x800, some at 800x1100 as well.

`python -m tools.screenshots [NAME ...]` takes all of them, or those named.
"""

from __future__ import annotations

import shutil
import sys
import tempfile
from collections.abc import Callable
from pathlib import Path

from playwright.sync_api import Page, sync_playwright

from pondrel.demo.load import load_demo
from tests.server import Server

TARGET = Path(__file__).parents[1] / "docs" / "screenshots"
SIZE, UPRIGHT = {"width": 1280, "height": 800}, {"width": 800, "height": 1100}
SETTLED, PATIENCE = 700, 120_000  # milliseconds: for fonts and what is fetched after the page; until it is there
# The demo's jobs and sheets by their place in its depot.
DIM, LIFT, GLASS, DARK, FLAT = 1, 2, 3, 4, 5
GLASS_SHEET, VALVES_SHEET = 6, 7

Step = Callable[[Page], None]


def _nothing(page: Page) -> None:
    pass


def _night(page: Page) -> None:
    page.keyboard.press("d")


def _a_number(page: Page) -> None:
    page.locator("input[name=value]").fill("12.3")


def _half_a_line(page: Page) -> None:
    page.locator("input[name=value]").fill("raise wiggle K2 ch")


def _retype(page: Page, *changes: tuple[str, str]) -> None:
    field = page.locator("textarea[name=text]")
    text = field.input_value()
    for old, new in changes:
        assert old in text, f"{old} is not in the sheet any more"
        text = text.replace(old, new)
    field.fill(text)


def _two_flaws(page: Page) -> None:
    _retype(page, ("rating: 25", "rating: thirty"), ("R1: {kind: resistor", "R1: {kind: resistr"))
    page.locator("textarea[name=text]").evaluate("field => { field.scrollTop = 300 }")


def _another_version(page: Page) -> None:
    _retype(page, ("rating: 25", "rating: 30"), ("b: k5.30}, length_m: 1.2, csa_mm2: 4", "b: k5.30}, length_m: 1.2, csa_mm2: 6"))
    page.locator("input[name=note]").fill("as fitted on the yard van")
    page.get_by_role("button", name="Store").click()
    page.wait_for_load_state("networkidle")
    page.goto(page.url.split("?")[0] + "/diff")


VIEWS: dict[str, tuple[str, Step]] = {
    "bay": ("/", _nothing),
    "bay-upright": ("/", _nothing),
    "job": (f"/jobs/{FLAT}", _nothing),
    "trace": (f"/jobs/{GLASS}/trace", _a_number),
    "trace-upright": (f"/jobs/{GLASS}/trace", _a_number),
    "circuit": (f"/jobs/{LIFT}/trace?view=circuit", _nothing),
    "trace-night": (f"/jobs/{GLASS}/trace", _night),
    "why": (f"/jobs/{DIM}/trace?view=why", _nothing),
    "plan": (f"/jobs/{DARK}/trace?view=plan", _nothing),
    "line": (f"/jobs/{LIFT}/trace", _half_a_line),
    "conclude": (f"/jobs/{GLASS}/conclude", _nothing),
    "new-job": ("/jobs/new", _nothing),
    "library": ("/sheets", _nothing),
    "sheet": (f"/sheets/{VALVES_SHEET}?state=kneel+left&fault=Y1.open", _nothing),
    "edit": (f"/sheets/{GLASS_SHEET}/edit", _two_flaws),
    # The last one, since it stores a version.
    "changes": (f"/sheets/{GLASS_SHEET}/edit", _another_version),
}


def main(names: list[str]) -> None:
    """Take the pictures named, or all."""
    unknown = [name for name in names if name not in VIEWS]
    if unknown:
        sys.exit(f"{unknown[0]} is no view: {', '.join(VIEWS)} are.")
    chromium = shutil.which("chromium") or sys.exit("Chromium is missing: install it with 'apt-get install chromium'.")
    with tempfile.TemporaryDirectory() as folder:
        load_demo(Path(folder))
        server = Server(folder)
        try:
            with sync_playwright() as playwright:
                browser = playwright.chromium.launch(executable_path=chromium, args=["--no-sandbox", "--disable-gpu"])
                for name in names or VIEWS:
                    path, step = VIEWS[name]
                    page = browser.new_context(viewport=UPRIGHT if name.endswith("-upright") else SIZE).new_page()
                    page.set_default_timeout(PATIENCE)
                    page.goto(server.base + path)
                    page.wait_for_load_state("networkidle")
                    step(page)
                    page.wait_for_timeout(SETTLED)
                    page.screenshot(path=TARGET / f"{name}.png")
                    page.context.close()
        finally:
            server.kill()


if __name__ == "__main__":
    main(sys.argv[1:])
