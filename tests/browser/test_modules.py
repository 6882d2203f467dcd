"""Modules in a real browser: a roll call, the silent partner in a chain, and an output that moves only while a finger or a key is on it."""

from __future__ import annotations

import re
import time

import pytest
from playwright.sync_api import expect

from tests.served import roster_named, served

from .conftest import Bench
from .test_census import AXE, LEAST_TARGET, LOOK, findings

LIBRARY_2, BUS_4 = 1, 2
CAR, CAR_JOB = 6, 11
ROOF_JOB, KNEEL_JOB = 2, 6


@pytest.fixture(params=["wide", "upright"])
def held(request, chromium, depot):
    """A page of either size."""
    size = {"wide": {"width": 1280, "height": 800}, "upright": {"width": 800, "height": 1100}}[request.param]
    context = chromium.new_context(viewport=size, has_touch=request.param == "upright")
    own = Bench(context.new_page(), depot)
    own.page.set_default_timeout(60_000)
    yield own
    assert own.complaints == []
    context.close()


def begin(held, vehicle: int, job: int, address: str) -> None:
    held.open(f"/modules/vehicle/{vehicle}?job={job}")
    held.page.get_by_label(re.compile("^Where they are reached")).fill(address)
    held.page.get_by_role("button", name="Begin to talk").click()
    expect(held.page.get_by_role("heading", name="Who answers")).to_be_visible()


def taken_up(page) -> None:
    """Wait until the script has the page: a touch before that is nobody's."""
    page.wait_for_function("() => [...document.querySelectorAll('[x-data]')].every((own) => own._x_dataStack)")


def until(true) -> None:
    end = time.monotonic() + 30
    while not true():
        assert time.monotonic() < end, "it did not come to that"
        time.sleep(0.02)


@pytest.mark.slow
def test_from_the_roll_call_to_the_silent_partner_to_its_circuit(held):
    page = held.page
    with served(roster_named("reader_75"), "wired_roof_bow", ["F31.open"], "unlatched") as own:
        begin(held, LIBRARY_2, ROOF_JOB, own.bus)
        page.get_by_role("button", name="Call all").click()
        expect(page.get_by_role("region", name="Roll call")).to_contain_text("Bow module is silent: its supply, its ground")
        held.open(f"/modules/vehicle/{LIBRARY_2}/function/roof?job={ROOF_JOB}")
        page.get_by_role("button", name="Ask the modules").click()
        expect(page.locator("[data-busy]")).to_be_hidden()
        held.open(f"/modules/vehicle/{LIBRARY_2}/function/roof?job={ROOF_JOB}")
        expect(page.get_by_role("region", name="The chain")).to_contain_text("Bow module is silent, and that explains the whole")
        page.get_by_role("button", name="Trace this circuit").click()
        expect(page).to_have_url(re.compile(rf"/jobs/{ROOF_JOB}/trace"))
        expect(page.get_by_role("region", name="Next test")).to_be_visible()


@pytest.mark.slow
def test_an_output_moves_as_long_as_it_is_held_by_finger_or_key_and_no_longer(held, monkeypatch):
    monkeypatch.setattr("pondrel.web.modules.live.FINGER_S", 2.5)  # a busy machine may be late with a word
    page = held.page
    with served(roster_named("hop_16"), "kneeling_valves", ["Y2.open"], "ready") as own:
        begin(held, BUS_4, KNEEL_JOB, own.bus)
        page.get_by_role("button", name="Read all codes").click()
        page.get_by_role("link", name=re.compile("^Air module")).click()
        air = page.get_by_role("region", name="Air module", exact=True)
        expect(air).to_contain_text("C1B22-13")
        air.get_by_role("button", name="Read").nth(1).click()
        expect(air).to_contain_text("25.20 V")
        page.evaluate(AXE)
        assert findings(page, "axe.run()") == [] and page.evaluate(LOOK, LEAST_TARGET) == []
        left = page.get_by_role("region", name="Left vent valve")
        expect(left.get_by_role("button", name="Hold: open")).to_have_count(0)
        page.get_by_role("button", name="Done and read").first.click()
        left.get_by_role("button", name="Read", exact=True).click()
        button = left.get_by_role("button", name="Hold: open")
        expect(button).to_be_visible()
        taken_up(page)
        button.scroll_into_view_if_needed()
        box = button.bounding_box()
        told = left.locator("[data-held]")
        for _ in range(3):  # a machine that stands still for longer than the finger's word gives the output back by itself
            page.mouse.move(box["x"] + 20, box["y"] + 20)
            page.mouse.down()
            until(lambda: own.world.driven.get("N7.5") == "on")
            expect(told).to_contain_text("mm")
            page.mouse.up()
            until(lambda: "N7.5" not in own.world.driven)
            expect(told).to_contain_text(re.compile("It was let go|Nobody held it"))
            if "It was let go." in told.inner_text():
                break
        expect(told).to_contain_text("It was let go.")
        button.focus()
        page.keyboard.down(" ")
        until(lambda: own.world.driven.get("N7.5") == "on")
        page.keyboard.up(" ")
        until(lambda: "N7.5" not in own.world.driven)
        expect(left.locator("[data-held]")).to_contain_text("It was let go.")
        button.focus()
        page.keyboard.down(" ")
        until(lambda: own.world.driven.get("N7.5") == "on")
        held.open("/")  # the page is left with the key down
        until(lambda: "N7.5" not in own.world.driven)


@pytest.mark.slow
def test_seconds_without_supply_are_touched_along_and_the_module_is_heard_to_wake(held):
    page = held.page
    with served(roster_named("reader_75")) as own:
        begin(held, LIBRARY_2, ROOF_JOB, own.bus)
        held.open(f"/modules/vehicle/{LIBRARY_2}/reset/shelf?job={ROOF_JOB}")
        while page.get_by_role("button", name="Done and read").count():
            page.get_by_role("button", name="Done and read").first.click()
        taken_up(page)
        page.get_by_role("button", name="Supply is off").click()
        own.life.set("shelf.supply_off", "1")
        expect(page.locator(".reset-says")).to_contain_text("s more.")
        page.wait_for_timeout(2500)
        page.get_by_role("button", name="Supply is on again").click()
        own.life.set("shelf.supply_off", "0")
        expect(page.locator(".reset-says")).to_have_text("It answers again. Does it work, too? Say so below.")
        assert 2.0 < float(page.locator("[name=off]").input_value()) < 30.0
        assert 2.0 < float(page.locator("[name=woke]").input_value()) < 30.0  # it takes 3 s to wake
        page.get_by_role("button", name="It works again").click()
        expect(page.get_by_text("It helped in 1 of 1 tries.")).to_be_visible()
        assert page.evaluate(LOOK, LEAST_TARGET) == []


@pytest.mark.slow
def test_a_brake_module_is_renewed_and_taught_by_touch(held):
    page = held.page
    with served(roster_named("ferrow")) as own:
        begin(held, CAR, CAR_JOB, own.bus)
        held.open(f"/modules/vehicle/{CAR}/renew/brakes?job={CAR_JOB}")
        head = page.locator(".renew-next h2")
        page.get_by_role("button", name="Read it out now").click()
        expect(head).to_have_text("Next: The right version")
        page.get_by_label("The number on the new one").fill("BT-4410-B")
        page.get_by_role("button", name="Check it").click()
        expect(page.get_by_role("alert")).to_contain_text("Do not fit it.")
        held.complaints.clear()  # a refused form is answered with 400
        page.get_by_label("The number on the new one").fill("BT-4410-C")
        page.get_by_role("button", name="Check it").click()
        page.get_by_label("Where it lies").fill("shelf 4")
        page.get_by_role("button", name="Done", exact=True).click()
        expect(head).to_have_text("Next: The new one is in")
        page.get_by_role("button", name="Done and read").click()
        page.get_by_role("button", name="Done", exact=True).click()
        own.life.renew("brakes")
        for after in ("Fluid at its mark", "Bled, and no leak", "Coded for this chassis"):
            page.get_by_role("button", name="Yes").click()
            expect(head).to_have_text(f"Next: {after}")
        assert "maker's authority" in page.locator(".renew-next").inner_text()
        page.get_by_label("Who did it, and when").fill("Hollin Parts, on the phone")
        page.get_by_role("button", name="Done", exact=True).click()
        page.get_by_role("button", name="Read it").click()
        expect(head).to_have_text("Next: Teach steering and wheel sensors")
        page.get_by_role("button", name="Done and read").click()
        page.get_by_role("button", name="Run it").click()
        expect(head).to_have_text("Next: Slow drive in a closed yard")
        page.get_by_role("button", name="Done and read").click()
        page.get_by_role("button", name="Begin the drive").click()
        own.life.drive("yard")
        expect(page.locator(".renew-parts")).to_contain_text("turns to the left 1 of 1")
        assert page.evaluate(LOOK, LEAST_TARGET) == []
        expect(head).to_have_text("Next: Its codes cleared")
