"""A job's own page in a real browser: from found to handed over on an upright tablet, what is touched twice, photos, cautions."""

from __future__ import annotations

import base64
import re

import pytest
from playwright.sync_api import expect

from .conftest import Bench

REFUSED = re.compile("responded with a status of 4(00|22)")  # what the browser itself says of a form that is refused
FOUND, LIFT, WAITING, WITHOUT_CIRCUIT, CART = 1, 2, 6, 7, 9
DOT = base64.b64decode("iVBORw0KGgoAAAANSUhEUgAAAAEAAAABCAYAAAAfFcSJAAAADUlEQVR42mNk+M9QDwADhgGAWjR9awAAAABJRU5ErkJggg==")


@pytest.fixture
def tablet(chromium, depot):
    """A page on an upright tablet."""
    context = chromium.new_context(viewport={"width": 800, "height": 1100}, has_touch=True)
    held = Bench(context.new_page(), depot)
    yield held
    assert [text for text in held.complaints if not REFUSED.search(text)] == []
    context.close()


def write(page, kind: str, text: str, works: str = "") -> None:
    page.get_by_role("radio", name=kind, exact=True).check()
    if works:
        page.get_by_role("radio", name=works).check()
    page.get_by_label("In a few words").fill(text)
    page.get_by_role("button", name="Write down", exact=True).tap()


def next_step(page):
    return page.get_by_role("region", name="Next")


def test_what_was_found_is_repaired_proved_and_handed_over(tablet):
    page = tablet.page
    tablet.open(f"/jobs/{FOUND}")
    expect(next_step(page)).to_contain_text("Found: waits for the repair")
    next_step(page).get_by_role("link", name="Write down the repair").tap()
    expect(page.get_by_role("radio", name="Repaired")).to_be_checked()  # what comes next is chosen already
    write(page, "Repaired", "stud cleaned")
    expect(next_step(page)).to_contain_text("Repaired: waits for the proof")
    write(page, "Proof", "still dim", works="not yet")
    expect(next_step(page)).to_contain_text("Repaired, does not work yet: go on looking")
    write(page, "Repaired", "new ring terminal")
    write(page, "Proof", "0.02 V at the stud", works="it works as it should")
    expect(next_step(page)).to_contain_text("Proved: waits to be handed over")
    write(page, "Handed over", "to the driver")
    expect(next_step(page)).to_contain_text("Handed over")
    told = page.locator(".story li b").all_inner_texts()
    assert told[-6:] == ["Found", "Repaired", "Proof", "Repaired", "Proof", "Handed over"]
    next_step(page).get_by_role("link", name="To the Bay").tap()
    expect(page.locator(".job", has_text="All three door lamps dim")).to_contain_text("Handed over")


def test_two_touches_a_reload_and_a_step_back_write_once(tablet):
    page = tablet.page
    tablet.open(f"/jobs/{LIFT}")
    page.get_by_label("In a few words").fill("driver says it clicked last week")
    page.get_by_role("button", name="Write down", exact=True).dblclick()
    said = page.locator(".story li", has_text="clicked last week")
    expect(said).to_have_count(1)
    page.reload()
    page.go_back()
    expect(page.get_by_label("In a few words")).to_have_value("")  # drawn anew: a touch here cannot send it again
    tablet.open(f"/jobs/{LIFT}")
    expect(said).to_have_count(1)


def test_what_is_refused_stays_where_it_was_typed(tablet):
    page = tablet.page
    tablet.open(f"/jobs/{FOUND}")
    write(page, "Repaired", "x" * 2001)
    expect(page.get_by_role("alert")).to_contain_text("2,001 characters long; at most 2,000 fit")
    expect(page.get_by_label("In a few words")).to_have_value("x" * 2001)
    expect(page.get_by_role("radio", name="Repaired")).to_be_checked()


def test_a_photo_goes_with_what_was_written_and_can_be_marked(tablet, tmp_path):
    page = tablet.page
    photo = tmp_path / "stud.png"
    photo.write_bytes(DOT)
    tablet.open(f"/jobs/{FOUND}")
    page.get_by_label("Photos and papers").set_input_files(photo)
    write(page, "Note", "the stud")
    page.get_by_role("link", name="stud.png").tap()
    page.locator("svg.photo").tap()
    page.get_by_label("What is at mark 1").fill("crust under the ring")
    page.get_by_role("button", name="Keep the marks").tap()
    expect(page.get_by_role("region", name="Marks").get_by_label("What is at mark 1")).to_have_value("crust under the ring")
    page.get_by_role("link", name="To the record").tap()
    expect(page.locator(".story li", has_text="1: crust under the ring")).to_have_count(1)


def test_a_file_that_is_none_of_those_kept_is_refused_in_a_sentence(tablet, tmp_path):
    page = tablet.page
    odd = tmp_path / "photo.png"
    odd.write_bytes(b"MZ\x90\x00" + bytes(64))
    tablet.open(f"/jobs/{FOUND}")
    page.get_by_label("Photos and papers").set_input_files(odd)
    write(page, "Note", "the stud")
    expect(page.get_by_role("alert")).to_be_visible()
    expect(page.get_by_label("In a few words")).to_have_value("the stud")


def test_a_job_without_a_circuit_takes_one_up(tablet):
    page = tablet.page
    tablet.open("/")
    page.get_by_text("Reversing bleeper silent").tap()
    expect(next_step(page)).to_contain_text("Ask when it is there, and what was done before")
    page.get_by_label("Circuit sheet").select_option(label="Reading-room light with delayed switch-off")
    page.get_by_role("button", name="Take up").tap()
    expect(page.get_by_role("region", name="Ladder")).to_be_visible()
    tablet.open(f"/jobs/{WITHOUT_CIRCUIT}")
    expect(next_step(page).get_by_role("link", name="Straight to the meter")).to_be_visible()


def test_what_waits_goes_on_when_it_is_said_why(tablet):
    page = tablet.page
    tablet.open(f"/jobs/{WAITING}")
    page.get_by_label("What has changed").fill("valve is here")
    page.get_by_role("button", name="Go on with it").tap()
    expect(next_step(page)).to_contain_text("Found: waits for the repair")


def test_a_caution_that_locks_holds_the_field_until_it_is_read(tablet):
    page = tablet.page
    tablet.open("/jobs/new")
    page.get_by_label("or a new vehicle").fill("Bus 9")
    page.get_by_label("Complaint").fill("left front stays up")
    page.get_by_label("Circuit sheet").select_option(label="Kneeling valves at the front axle")
    page.get_by_role("button", name="Open the job").tap()
    tablet.value.fill("kneel left left valve still")
    page.get_by_role("button", name="Enter").tap()
    expect(page.get_by_role("alert")).to_contain_text("First read this, and say so")
    for says in ("The left front sinks", "Air springs: pull the fuse of the pump"):
        caution = page.locator(".steps li", has_text=says).get_by_role("button", name="I have read this")
        caution.first.tap()
        expect(caution).to_have_count(0)
    expect(tablet.value).to_have_value("kneel left left valve still")
    page.get_by_role("button", name="Enter").tap()
    expect(page.get_by_role("region", name="Readings")).to_contain_text("Left valve")
