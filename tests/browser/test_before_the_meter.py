"""Before the meter comes out, by touch on an upright tablet: what was typed survives leaving, and nothing is asked twice."""

from __future__ import annotations

import re

import pytest
from playwright.sync_api import expect

from .conftest import Bench

REFUSED = re.compile("responded with a status of 4(00|22)")
BARE, GAUGES = 7, 10


@pytest.fixture
def tablet(chromium, depot):
    """A page on an upright tablet."""
    context = chromium.new_context(viewport={"width": 800, "height": 1100}, has_touch=True)
    held = Bench(context.new_page(), depot)
    yield held
    assert [text for text in held.complaints if not REFUSED.search(text)] == []
    context.close()


def test_what_was_typed_survives_going_to_another_page_and_back(tablet):
    page = tablet.page
    tablet.open("/jobs/new")
    page.get_by_label("or a new vehicle").fill("Tow car")
    page.get_by_label("Complaint").fill("Trailer lamps flicker & die")
    page.get_by_role("link", name="Bay", exact=True).tap()
    tablet.open("/jobs/new")
    expect(page.get_by_label("Complaint")).to_have_value("Trailer lamps flicker & die")
    expect(page.get_by_label("or a new vehicle")).to_have_value("Tow car")
    expect(page.get_by_text("Not written down yet: this is what you typed before.")).to_be_visible()
    page.get_by_label("or a new vehicle").fill("Bus 4")  # taken: refused, and still there after leaving once more
    page.get_by_role("button", name="Open the job").tap()
    expect(page.get_by_role("alert")).to_contain_text("There is a vehicle 'Bus 4' already")
    tablet.open("/jobs/new")
    expect(page.get_by_label("or a new vehicle")).to_have_value("Bus 4")
    page.get_by_label("or a new vehicle").fill("Tow car")
    page.get_by_role("button", name="Open the job").tap()
    expect(page.get_by_role("region", name="When is it there?")).to_be_visible()
    tablet.open("/jobs/new")  # written down: nothing of it is left
    expect(page.get_by_label("Complaint")).to_have_value("")
    expect(page.get_by_text("Not written down yet")).to_be_hidden()


def test_a_draft_can_be_dropped_and_touches_are_kept_like_words(tablet):
    page = tablet.page
    tablet.open(f"/jobs/{BARE}/complaint")
    page.get_by_text("comes and goes").tap()
    page.get_by_text("when wet").tap()
    page.get_by_text("some minutes after the start").tap()
    page.get_by_label("How many minutes after the start").fill("12")
    tablet.open(f"/jobs/{BARE}")
    tablet.open(f"/jobs/{BARE}/complaint")
    for name in ("comes and goes", "when wet"):
        expect(page.get_by_label(name)).to_be_checked()
    expect(page.get_by_label("How many minutes after the start")).to_have_value("12")
    page.get_by_role("button", name="Start afresh").first.tap()
    expect(page.get_by_label("when wet")).not_to_be_checked()


def test_a_job_goes_from_its_complaint_to_the_first_reading_by_touch(tablet):
    page = tablet.page
    tablet.open("/jobs/new")
    page.locator("select[name=vehicle]").select_option(label="Old van – Maurevik Pilot 1987, MW 118")
    page.get_by_label("Complaint").fill("fuel gauge low, temperature gauge too")
    page.get_by_label("Mileage today").fill("89 000")
    page.get_by_role("button", name="Open the job").tap()
    page.get_by_text("always there").tap()
    page.get_by_label("Since when").fill("the weekend")
    page.get_by_role("button", name="Write it down").first.tap()
    offered = page.locator(".offered").first
    expect(offered).to_contain_text("Fuel and temperature gauge on a pulsing regulator")
    offered.get_by_role("button", name="Take it up").tap()
    expect(page.get_by_role("region", name="Next test")).to_be_visible()
    page.get_by_role("navigation", name="Where the job stands").get_by_role("link", name="Complaint").tap()
    fuel = page.locator(".said-row", has_text="Fuel").locator("form", has_text="warm and full")
    fuel.get_by_role("button", name="low").tap()
    expect(
        page.locator(".said-row", has_text="Fuel").locator("form", has_text="warm and full").get_by_role("button", name="low")
    ).to_have_attribute("aria-pressed", "true")
    page.get_by_role("navigation", name="Where the job stands").get_by_role("link", name="Look").tap()
    strap = page.locator(".look-row", has_text="Tank ground strap")
    strap.get_by_role("button", name="corroded").tap()
    expect(page.locator(".look-row", has_text="Tank ground strap").get_by_role("button", name="corroded")).to_have_attribute(
        "aria-pressed", "true"
    )
    page.get_by_label("Which part").fill("G31")
    page.get_by_role("button", name="cleaned").tap()
    expect(page.get_by_role("region", name="Done to it")).to_contain_text("G31: cleaned")
    page.get_by_role("navigation", name="Where the job stands").get_by_role("link", name="Trace").tap()
    log = page.get_by_role("region", name="Readings")
    expect(log).to_contain_text("above: after, below: before")
    tablet.value.fill("warm and full see fuel low")
    page.get_by_role("button", name="Enter").first.tap()
    expect(log).to_contain_text("look, warm and full")


def test_readings_over_time_carry_their_minutes(tablet):
    page = tablet.page
    tablet.open(f"/jobs/{GAUGES}/trace?instrument=volts&in=warm+and+full&red=batt%2B&black=batt-")
    page.get_by_role("button", name="Take it over time").tap()
    expect(page.get_by_role("button", name=re.compile(r"Over time: 0:\d\d, touch to stop"))).to_be_visible()
    tablet.value.fill("12.2")
    page.get_by_role("button", name="Enter").first.tap()
    expect(page.get_by_role("region", name="Readings")).to_contain_text("@0min")


def test_a_number_that_was_typed_and_not_entered_is_there_when_one_comes_back(tablet):
    page = tablet.page
    tablet.open("/jobs/3/trace")
    tablet.value.fill("12.3")
    page.get_by_role("navigation", name="Where the job stands").get_by_role("link", name="Look").tap()
    expect(page.get_by_role("heading", name="Look", exact=True)).to_be_attached()
    tablet.open("/jobs/3/trace")
    expect(tablet.value).to_have_value("12.3")
    page.get_by_role("button", name="Enter").first.tap()
    expect(page.get_by_role("region", name="Readings")).to_contain_text("12.3")
    expect(tablet.value).to_have_value("")
    tablet.open("/jobs/3/trace")
    expect(tablet.value).to_have_value("")


def test_what_contradicts_the_complaint_is_one_touch_away_from_right(tablet):
    page = tablet.page
    tablet.open("/jobs/2/trace")
    tablet.value.fill("raise see contactor clicks")
    page.get_by_role("button", name="Enter").first.tap()
    asked = page.get_by_role("region", name="Which is it?")
    expect(asked).to_contain_text("The complaint says that contactor is silent; 'clicks' was entered: which is it?")
    asked.get_by_role("button", name="I looked wrongly").tap()
    expect(asked).to_have_count(0)
