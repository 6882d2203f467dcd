"""Takes the pictures of docs/screenshots: each main view of a fresh demo depot, at 1280x800, and one of two views on an
upright tablet.

`python -m tools.screenshots [NAME ...]` takes all of them, or those named.
"""

from __future__ import annotations

import base64
import shutil
import sys
import tempfile
from collections.abc import Callable
from pathlib import Path

from playwright.sync_api import Browser, Page, sync_playwright

from pondrel.demo.load import load_demo
from tests.server import Server

TARGET = Path(__file__).parents[1] / "docs" / "screenshots"
SIZE, UPRIGHT = {"width": 1280, "height": 800}, {"width": 800, "height": 1100}
SETTLED, PATIENCE = 700, 120_000  # milliseconds: for fonts and what is fetched after the page; until it is there
# The demo's jobs and sheets by their place in its depot.
LIFT, GLASS, FLAT, WAITING, GAUGES, CLICKS, BRAKES = 2, 3, 5, 6, 10, 11, 20
VALVES_SHEET, CLUTCH_CHECK = 7, 5
DRIVE_LINKS = ("key", "flap", "brake", "pedal", "manager")

Step = Callable[[Page], None]


def _nothing(page: Page) -> None:
    pass


def _a_number(page: Page) -> None:
    page.locator("input[name=value]").fill("12.3")


def _drawn(page: Page) -> None:
    page.get_by_role("button", name="Draw it").first.click()
    page.locator(".draft-scroll [data-part='W2']").click()
    page.get_by_role("button", name="Plug pin").click()
    page.wait_for_url("**part=C1**")


def _a_hot_clutch(page: Page) -> None:
    for name, text in {"r.ohms": "4.28", "c.ohms": "38", "r.pull_in": "8.90", "c.twin": "20", "r.twin": "3.58"}.items():
        page.locator(f"[name='{name}']").fill(text)
    page.locator(".bench-verdict .slab.outside").wait_for()


VIEWS: dict[str, tuple[str, Step]] = {
    "bay": ("/", _nothing),
    "job": (f"/jobs/{FLAT}", _nothing),
    "trace": (f"/jobs/{GLASS}/trace", _a_number),
    "chain": ("/modules/vehicle/9/function/drive?" + "&".join(f"f.{link}=yes" for link in DRIVE_LINKS) + "&f.loop=2.1+V", _nothing),
    "renew": (f"/modules/vehicle/6/renew/brakes?job={BRAKES}", _nothing),
    "remedy": (f"/jobs/{WAITING}/remedy", _nothing),
    "proof": (f"/jobs/{FLAT}/proof", _nothing),
    "complaint": (f"/jobs/{GAUGES}/complaint", _nothing),
    "look": (f"/jobs/{GAUGES}/look", _nothing),
    "report": (f"/jobs/{FLAT}/report", _nothing),
    "vehicle": ("/vehicles/1", _nothing),
    "start-charge": (f"/power/{CLICKS}/start", _nothing),
    "library": ("/sheets", _nothing),
    "sheet": (f"/sheets/{VALVES_SHEET}?state=kneel+left&fault=Y1.open", _nothing),
    "bench": (f"/bench/coil?after={CLUTCH_CHECK}", _a_hot_clutch),
    "scope": ("/scope/1", _nothing),
    "bus": ("/bus/2", _nothing),
    "draw": ("/circuits/relay", _drawn),
}


# What stands side by side in the picture of the upright tablet.
HELD_UPRIGHT = ("/", f"/jobs/{GLASS}/trace")
SIDE_BY_SIDE = """<style>body {{ margin: 0; height: 800px; display: flex; gap: 12px; justify-content: center; background: #777 }}
img {{ height: 800px }}</style>{pictures}"""


def _upright(browser: Browser, base: str) -> None:
    """Two views as they are on an upright tablet, in one picture."""
    pictures = []
    for path in HELD_UPRIGHT:
        page = browser.new_context(viewport=UPRIGHT, has_touch=True).new_page()
        page.set_default_timeout(PATIENCE)
        page.goto(base + path)
        page.wait_for_load_state("networkidle")
        if page.locator("input[name=value]").count():
            _a_number(page)
        page.wait_for_timeout(SETTLED)
        pictures.append(f'<img src="data:image/png;base64,{base64.b64encode(page.screenshot()).decode()}">')
        page.context.close()
    page = browser.new_context(viewport=SIZE).new_page()
    page.set_content(SIDE_BY_SIDE.format(pictures="".join(pictures)))
    page.screenshot(path=TARGET / "upright.png")
    page.context.close()


def main(names: list[str]) -> None:
    """Take the pictures named, or all."""
    unknown = [name for name in names if name not in (*VIEWS, "upright")]
    if unknown:
        sys.exit(f"{unknown[0]} is no view: {', '.join(VIEWS)} and upright are.")
    chromium = shutil.which("chromium") or sys.exit("Chromium is missing: install it with 'apt-get install chromium'.")
    with tempfile.TemporaryDirectory() as folder:
        load_demo(Path(folder))
        server = Server(folder)
        try:
            with sync_playwright() as playwright:
                browser = playwright.chromium.launch(executable_path=chromium, args=["--no-sandbox", "--disable-gpu"])
                for name in names or ("upright", *VIEWS):
                    if name == "upright":
                        _upright(browser, server.base)
                        continue
                    path, step = VIEWS[name]
                    page = browser.new_context(viewport=SIZE).new_page()
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
