"""The library in a real browser: what-if without leaving the page, and the editor's live checking."""

from __future__ import annotations

import re

import pytest
from playwright.sync_api import expect


def open_sheet(bench, title: str) -> None:
    bench.open("/sheets")
    bench.page.get_by_role("link", name=re.compile(title)).click()
    expect(bench.page.get_by_role("heading", name="Path diagram")).to_be_visible()
    bench.page.wait_for_load_state("load")


def test_what_if_by_choosing_a_fault_and_its_size(bench):
    open_sheet(bench, "Step lights")
    page = bench.page
    reads = page.get_by_role("region", name="Readings")
    page.get_by_label("What if").select_option("G3.high_resistance")
    expect(reads.get_by_role("columnheader", name="then")).to_be_visible()
    page.get_by_label("of ohms").fill("2.5")
    page.keyboard.press("Enter")
    expect(reads).to_contain_text("4.19 V")
    expect(page).to_have_url(re.compile(r"fault=G3\.high_resistance.*value=2\.5"))
    page.get_by_role("link", name="shut", exact=True).click()
    expect(reads).not_to_contain_text("4.19 V")
    expect(page.get_by_label("What if")).to_have_value("G3.high_resistance")


def test_a_fault_of_the_list_is_tried_by_a_click(bench):
    open_sheet(bench, "Wheelchair ramp")
    bench.page.get_by_role("link", name="locked: draws its stall current").click()
    expect(bench.page.get_by_label("What if")).to_have_value("M3.locked")
    expect(bench.page.locator(".seen-panel")).to_contain_text("stands still")


def test_flaws_stand_beside_their_lines_while_one_types(bench):
    open_sheet(bench, "Heated rear glass")
    page = bench.page
    page.keyboard.press("e")
    editor = page.get_by_label("Sheet text")
    text = editor.input_value()
    editor.fill(text.replace("rating: 25", "rating: lots"))
    expect(page.get_by_text("must be a positive number of amperes, got 'lots'")).to_be_visible()
    expect(page.locator("b[data-count]")).to_have_text("1 flaw")
    page.get_by_role("link", name=re.compile("parts.F14.rating")).click()
    line = editor.evaluate("(t) => t.value.slice(t.selectionStart, t.selectionEnd)")
    assert "rating: lots" in line
    editor.fill(text.replace("rating: 25", "rating: 30"))
    expect(page.locator("b[data-count]")).to_have_text("Good as it is")
    page.get_by_label("What changed").fill("30 A as fitted")
    editor.press("Control+s")
    expect(page.get_by_text("Stored as the newest version")).to_be_visible()
    page.get_by_role("link", name="Changes").click()
    expect(page.locator("tr.come")).to_contain_text("rating: 30")


def test_the_search_has_a_key(bench):
    bench.open("/sheets")
    bench.page.keyboard.press("/")
    bench.page.keyboard.type("thermistor")
    bench.page.keyboard.press("Enter")
    expect(bench.page.get_by_text("2 of 16 sheets")).to_be_visible()


@pytest.mark.parametrize(("width", "height"), [(1280, 800), (820, 1180), (600, 960)])
@pytest.mark.parametrize("path", ["/sheets", "/sheets/5", "/sheets/5/edit", "/sheets/new"])
def test_no_page_of_the_library_hangs_out_of_the_screen(bench, path, width, height):
    bench.page.set_viewport_size({"width": width, "height": height})
    bench.open(path)
    assert bench.page.evaluate("document.documentElement.scrollWidth") <= width
