"""The scope in a real browser on an upright tablet: a capture comes at once, its circuit behind it, and its numbers become readings."""

from __future__ import annotations

import re

import pytest
from playwright.sync_api import expect

from .conftest import Bench

NEEDLES, GAUGES = 16, "Fuel and temperature gauge on a pulsing regulator"


@pytest.fixture
def tablet(chromium, depot):
    """A page on an upright tablet."""
    context = chromium.new_context(viewport={"width": 800, "height": 1100}, has_touch=True)
    held = Bench(context.new_page(), depot)
    yield held
    assert held.complaints == []
    context.close()


@pytest.mark.slow
def test_a_capture_is_laid_on_its_circuit_and_read_into_it(tablet):
    page = tablet.page
    page.set_default_timeout(30_000)
    tablet.open(f"/jobs/{NEEDLES}")
    page.locator("select[name=sheet]").select_option(label=GAUGES)
    page.get_by_role("button", name="Take up", exact=True).tap()
    expect(page).to_have_url(re.compile(r"/trace"))
    tablet.open(f"/jobs/{NEEDLES}")
    page.get_by_role("link", name="on the scope").tap()
    circuit = page.get_by_role("region", name="On the circuit")
    circuit.get_by_label("Red on").select_option(label="regulator output tag")
    circuit.get_by_label("State").select_option("warm and full")
    circuit.get_by_role("button", name="Lay it there").tap()
    # The capture is there before what takes seconds, and that takes its place by itself, with its tabs.
    expect(circuit.get_by_text("does not fit").first).to_be_visible(timeout=60_000)
    tabs = page.get_by_role("group", name="What the circuit would draw").get_by_role("button")
    expect(tabs.first).to_have_text("As it should be")
    case = tabs.filter(has_text="Regulator case")
    expect(case).to_have_attribute("aria-pressed", "true")  # it comes nearest
    with page.expect_response(lambda answer: "/on-circuit/courses" in answer.url):
        page.get_by_role("button", name="Closer").tap()
    case.tap()
    expect(case).to_have_attribute("aria-pressed", "false")
    circuit.get_by_role("button", name="These as readings").tap()
    expect(page).to_have_url(re.compile(rf"/jobs/{NEEDLES}/trace"))
    expect(page.get_by_text("upper level of the capture").first).to_be_attached()
