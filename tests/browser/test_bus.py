"""Buses in a real browser on an upright tablet: from the log to the flag, from the flag to the pin, and to the fuse."""

from __future__ import annotations

import re

import pytest
from playwright.sync_api import expect

from pondrel.demo.buses import LOGS, SIGNALS

from .conftest import Bench

CART = 17


@pytest.fixture
def tablet(chromium, depot):
    """A page on an upright tablet."""
    context = chromium.new_context(viewport={"width": 800, "height": 1100}, has_touch=True)
    held = Bench(context.new_page(), depot)
    held.page.set_default_timeout(60_000)
    yield held
    assert held.complaints == []
    context.close()


@pytest.mark.slow
def test_from_the_job_to_its_log_to_the_flag_to_the_fuse(tablet):
    page = tablet.page
    tablet.open(f"/jobs/{CART}")
    page.get_by_role("link", name="its log").tap()
    expect(page.get_by_role("region", name="Who talks")).to_contain_text("Heater module alone is silent")
    walk = page.get_by_role("region", name="From the flag to the pin")
    expect(walk).to_contain_text("Volts at interlock fuse F14, load side")
    walk.get_by_role("button", name=re.compile("^Measure there")).tap()
    expect(page).to_have_url(re.compile(rf"/jobs/{CART}/trace"))
    expect(page.get_by_role("region", name="Next test")).to_contain_text("F14")
    tablet.open("/bus/2?follow=BatteryState.CrashLoopOpen")
    expect(page.get_by_role("region", name="From the flag to the pin")).to_contain_text("interlock fuse")
    expect(page.get_by_role("link", name="Trace 1 entry")).to_be_visible()


@pytest.mark.slow
def test_a_log_and_its_database_are_taken_in_by_touch_and_a_signal_is_plotted(tablet, tmp_path):
    page = tablet.page
    log = tmp_path / "cart.log.gz"
    log.write_bytes(LOGS["cart_drives"][2]())
    tablet.open("/bus")
    page.get_by_label(re.compile("^The file")).set_input_files(log)
    page.get_by_label(re.compile("^What it is of")).fill("Round the yard")
    page.get_by_label(re.compile("^Or another database")).set_input_files(SIGNALS / "parcel-cart.dbc")
    page.get_by_role("button", name="Open it").tap()
    expect(page.get_by_role("region", name="Who talks")).to_contain_text("8 modules should, 8 do")
    page.get_by_label("Find by words").fill("low volts")
    page.get_by_role("button", name="Find").tap()
    with page.expect_response(lambda answer: "/signals" in answer.url and answer.ok):
        page.get_by_role("link", name="Plot Low volts").tap()
    canvas = page.locator("canvas.bus-plot")
    page.wait_for_load_state()
    with page.expect_response(lambda answer: "/signals" in answer.url and answer.ok):
        page.get_by_role("button", name="Closer").tap()
    canvas.tap(position={"x": 300, "y": 120})
    expect(page.get_by_label("At which second")).not_to_have_value("")
    page.get_by_role("button", name="Key on", exact=True).tap()
    expect(page.get_by_role("region", name="What differs")).to_be_visible()
