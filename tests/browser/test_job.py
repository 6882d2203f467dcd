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


def write(page, kind: str, text: str) -> None:
    page.get_by_role("radio", name=kind, exact=True).check()
    page.get_by_label("In a few words").fill(text)
    page.get_by_role("button", name="Write down", exact=True).tap()


def next_step(page):
    return page.get_by_role("region", name="Next")


def test_what_was_found_is_repaired_proved_and_handed_over(tablet):
    page = tablet.page
    tablet.open(f"/jobs/{FOUND}")
    expect(next_step(page)).to_contain_text("Found: waits for the repair")
    next_step(page).get_by_role("link", name="Choose the repair").tap()
    page.get_by_role("button", name="Choose: Clean and tighten").tap()
    page.get_by_label("Who", exact=True).fill("Jonne")
    page.get_by_role("button", name="Agrees").tap()
    expect(page.locator(".gate.met", has_text="The customer agrees")).to_be_visible()
    page.get_by_role("link", name="Fit it step by step").tap()
    for name, text in (("Bare metal", ""), ("Tightened", "80 in-lb")):
        step = page.locator(".fit-steps .gate", has_text=name)
        if text:
            step.get_by_role("textbox").fill(text)
        step.get_by_role("button", name="Done").tap()
        expect(page.locator(".fit-steps .gate.met", has_text=name)).to_be_visible()
    page.get_by_role("link", name="To the repair").tap()
    page.get_by_role("button", name="It is done").tap()
    page.get_by_role("link", name="Prove it").tap()
    expect(page.locator(".pair-again input")).to_have_count(3)
    for field, number in zip(page.locator(".pair-again input").all(), ("12.44", "0.10", "2.9"), strict=True):
        field.fill(number)
    page.get_by_role("button", name="Enter what was read").tap()
    expect(next_step_of_proof(page)).to_contain_text("It is not cured")
    page.locator(".pair-again input").nth(2).fill("0.02")
    page.get_by_role("button", name="Enter what was read").tap()
    page.get_by_role("button", name="It worked").tap()
    expect(next_step_of_proof(page)).to_contain_text("It holds")
    page.get_by_role("button", name="Write it down as the proof").tap()
    paper = page.get_by_role("article", name="The customer's page")
    expect(paper).to_contain_text("Ground stud in the step well: corroded or painted over.")
    expect(paper).to_contain_text("3.76 V was read where at most 100 mV belongs.")
    page.get_by_label("To whom").fill("to the driver")
    page.get_by_role("button", name="Hand it over").tap()
    expect(next_step(page)).to_contain_text("Handed over")
    told = page.locator(".story li b").all_inner_texts()
    assert told[-4:] == ["Read again", "Function tried", "Proof", "Handed over"]
    next_step(page).get_by_role("link", name="To the Bay").tap()
    expect(page.locator(".job", has_text="All three door lamps dim")).to_contain_text("Handed over")


def next_step_of_proof(page):
    return page.get_by_role("region", name="The proof")


def test_fasteners_are_set_by_touch_and_drawn_in_the_order_of_tightening(tablet):
    page = tablet.page
    tablet.open(f"/jobs/{FOUND}/remedy")
    page.get_by_role("button", name="Choose: Clean and tighten").tap()
    page.get_by_role("link", name="Fit it step by step").tap()
    card = page.locator("svg.card-new")
    box = card.bounding_box()
    for x, y in ((0.1, 0.1), (0.9, 0.1), (0.9, 0.9), (0.1, 0.9)):
        card.tap(position={"x": box["width"] * x, "y": box["height"] * y})
    page.get_by_label("length and size of 1").fill("M6×25")
    page.get_by_label("seized, stripped? of 3").fill("seized")
    page.get_by_label("What they hold").fill("Step plate")
    page.get_by_label("Torque with its unit").fill("9")
    page.get_by_role("button", name="Keep the card").tap()
    expect(page.get_by_role("alert")).to_contain_text("A torque needs its unit")
    assert page.get_by_label("What they hold").input_value() == "Step plate"
    # What was touched and typed is still there.
    expect(page.locator("svg.card-new .fastener")).to_have_count(4)
    assert page.get_by_label("length and size of 1").input_value() == "M6×25"
    assert page.get_by_label("seized, stripped? of 3").input_value() == "seized"
    page.get_by_label("Torque with its unit").fill("9 Nm")
    page.get_by_role("button", name="Keep the card").tap()
    kept = page.get_by_role("region", name="Card", exact=True)
    expect(kept).to_contain_text("9.0 N·m (80 lbf·in, 6.6 lbf·ft)")
    places = kept.locator("svg .fastener circle").evaluate_all("all => all.map(c => [c.cx.baseVal.value, c.cy.baseVal.value])")
    assert [(x > 200, y > 140) for x, y in places] == [(False, False), (True, True), (True, False), (False, True)]


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
    write(page, "Note", "x" * 2001)
    expect(page.get_by_role("alert")).to_contain_text("2,001 characters long; at most 2,000 fit")
    expect(page.get_by_label("In a few words")).to_have_value("x" * 2001)
    expect(page.get_by_role("radio", name="Note")).to_be_checked()


def test_a_photo_goes_with_what_was_written_and_can_be_marked(tablet, tmp_path):
    page = tablet.page
    photo = tmp_path / "stud.png"
    photo.write_bytes(DOT)
    tablet.open(f"/jobs/{FOUND}")
    page.get_by_label("Photos and papers").set_input_files(photo)
    write(page, "Note", "the stud")
    page.get_by_role("link", name="stud.png").tap()
    # A touch before the script has taken the page up would be lost.
    page.wait_for_function("() => [...document.querySelectorAll('[x-data]')].every((own) => own._x_dataStack)")
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
