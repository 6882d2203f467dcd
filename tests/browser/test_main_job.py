"""The main job in a real browser: from the empty Bay to a concluded job, by keyboard, the vehicle simulated by the solver."""

from __future__ import annotations

import re

import pytest
from playwright.sync_api import expect

from pondrel.core.circuit.fault import parse_fault
from pondrel.core.circuit.measure import measure
from pondrel.core.circuit.read.sheet import parse_sheet
from pondrel.core.vehicle.facts import Facts
from pondrel.demo.load import SHEETS
from pondrel.store.db import DATABASE, atomic, opened
from pondrel.store.jobs import add_job
from pondrel.store.sheets import add_sheet
from pondrel.store.traces import add_trace
from pondrel.store.vehicles import add_vehicle

from ..server import Server
from ..web.test_shell import chain
from .conftest import Bench


def test_from_the_empty_bay_to_a_concluded_job(chromium, tmp_path):
    """Every number typed is what a meter would show at the leads the screen proposes."""
    text = re.sub(r"(?ms)^observe:.*", "", (SHEETS / "step_lights.yaml").read_text())  # numbers only: what is seen has its own test
    conn = opened(tmp_path / DATABASE)
    with atomic(conn):
        add_sheet(conn, text)
    conn.close()
    sheet = parse_sheet(text)
    fault = (parse_fault(sheet, "G3.high_resistance=1.6"),)
    server = Server(tmp_path)
    context = chromium.new_context(viewport={"width": 1280, "height": 800})
    bench = Bench(context.new_page(), server.base)
    page = bench.page

    bench.open("/")
    expect(page.get_by_role("heading", name="No job yet")).to_be_visible()
    page.keyboard.press("n")
    page.get_by_label("or a new vehicle").fill("Bus 12")
    page.get_by_label("Complaint").fill("All door lamps dim")
    page.get_by_label("Circuit sheet").select_option(label="Step lights with a shared ground")
    page.get_by_role("button", name="Open the job").click()
    expect(page.get_by_role("region", name="Ladder")).to_be_visible()

    for _ in range(12):
        if page.locator(".standing.ready").count():
            break
        state, instrument, red, black = bench.test_leads()
        bench.type_reading(f"{measure(sheet, state, instrument, red, black, fault).measured.value:.2f}")
    expect(page.locator(".standing.ready")).to_contain_text(re.compile("Ground stud in the step well \\(G3\\) at .*9 %, proved by reading"))

    page.keyboard.press("Escape")
    page.keyboard.press("c")
    expect(page.get_by_role("heading", name="What is faulty?")).to_be_visible()
    page.get_by_role("button", name="Conclude", exact=True).click()
    expect(page.locator(".found-big")).to_have_text("Ground stud in the step well (G3)")
    record = page.url

    assert bench.complaints == []
    context.close()
    server.kill()

    # after a restart it is all still there
    server = Server(tmp_path)
    context = chromium.new_context(viewport={"width": 1280, "height": 800})
    bench = Bench(context.new_page(), server.base)
    bench.open(re.sub(r"^https?://[^/]+", "", record))
    expect(bench.page.get_by_role("region", name="What happened")).to_contain_text("then led ground stud in the step well, over 99 %")
    expect(bench.page.locator(".story .basis")).not_to_have_count(0)
    bench.page.keyboard.press("b")
    expect(bench.page.locator(".job")).to_contain_text("Found: waits for the repair")
    assert bench.complaints == []
    context.close()
    server.kill()


def test_a_bad_number_says_why_and_stays_in_the_field(bench):
    bench.open("/jobs/2/trace")
    bench.page.keyboard.type("12..4")
    bench.page.keyboard.press("Enter")
    expect(bench.page.get_by_role("alert")).to_contain_text("'12..4' is no reading")
    expect(bench.value).to_have_value("12..4")
    bench.complaints = [c for c in bench.complaints if "422" not in c]  # the browser reports the refusal itself


def test_a_touched_rung_takes_red_and_touched_again_black(bench):
    """Its own test follows at once: heading, minutes, what it would show."""
    bench.open("/jobs/3/trace?take=1")
    rung = bench.page.get_by_role("region", name="Ladder").get_by_role("link", name="Glass tab, feed side")
    rung.click()
    expect(rung.locator(".lead")).to_have_text("red")
    assert bench.test_leads()[1:] == ("volts", "tab.feed", "batt-")
    expect(bench.page.get_by_role("heading", name="Your own: volts")).to_be_visible()
    rung.focus()
    bench.page.keyboard.press("Enter")
    expect(rung.locator(".lead")).to_have_text("black")
    assert bench.test_leads()[2:] == ("batt-", "tab.feed")
    expect(rung).to_be_focused()
    bench.page.locator("[data-place='batt+']").click()
    expect(bench.page.get_by_role("heading", name="Your own: volts")).to_be_visible()
    expect(bench.page.locator("select[name=red]")).to_have_value("batt+")
    assert bench.test_leads()[2:] == ("batt+", "tab.feed")


def test_a_place_of_the_whole_circuit_is_touched_as_a_rung_is(bench):
    bench.open("/jobs/3/trace?view=circuit")
    bench.page.locator("a.place[data-place='k5.87'] .target").click()
    expect(bench.page.locator("select[name=red]")).to_have_value("k5.87")
    expect(bench.page.locator("a.place.red")).to_have_attribute("data-place", "k5.87")


def test_a_rung_keeps_the_keys_while_it_is_drawn_anew(bench):
    bench.open("/jobs/3/trace?take=1")
    held: list = []
    bench.page.route("**/trace?*instrument*", lambda route: held.append(route))
    other = bench.page.get_by_role("link", name="Tailgate ground G5")
    with bench.page.expect_response("**/trace?*instrument*") as drawn:
        bench.page.get_by_role("link", name="Glass tab, feed side").click()
        other.focus()
        held.pop().continue_()
    drawn.value.finished()
    expect(bench.page.locator("select[name=red]")).to_have_value("tab.feed")
    expect(other).to_be_focused()


def test_a_digit_key_takes_another_proposal_once_the_field_is_left(bench):
    bench.open("/jobs/2/trace")
    first = bench.test_leads()
    bench.page.get_by_role("heading", name="Suspects").click()
    bench.page.evaluate("document.activeElement.blur()")
    bench.page.keyboard.press("2")
    expect(bench.page.locator("[data-take='1']")).to_be_attached()  # the first is now one of the others
    assert bench.test_leads() != first


def test_the_state_key_redraws_without_leaving_the_page(bench):
    bench.open("/jobs/2/trace")
    axis = bench.page.locator(".ladder-axis")
    drawn = axis.inner_text()
    bench.page.keyboard.press("Escape")
    bench.page.keyboard.press("s")
    expect(axis).not_to_have_text(drawn)


def test_striking_out_by_keyboard(bench):
    bench.open("/jobs/2/trace")
    bench.page.keyboard.press("Escape")
    bench.page.keyboard.press("u")
    bench.page.keyboard.type("wrong place")
    bench.page.keyboard.press("Enter")
    expect(bench.page.get_by_text("struck out: wrong place")).to_be_visible()
    expect(bench.page.get_by_text("7 standing")).to_be_visible()


def test_the_keys_are_listed_and_the_night_is_kept(bench):
    bench.open("/")
    bench.page.keyboard.press("?")
    expect(bench.page.get_by_role("dialog", name="Keys")).to_be_visible()
    bench.page.keyboard.press("Escape")
    bench.page.keyboard.press("d")
    expect(bench.page.locator("html")).to_have_attribute("data-light", "night")
    bench.page.reload()
    expect(bench.page.locator("html")).to_have_attribute("data-light", "night")


def test_a_server_that_is_gone_loses_nothing_typed(bench):
    bench.open("/jobs/4/trace")
    bench.page.route("**/readings", lambda route: route.abort())
    bench.page.keyboard.type("3.7")
    bench.page.keyboard.press("Enter")
    expect(bench.page.get_by_role("alert")).to_contain_text("the reading is not written yet")
    expect(bench.value).to_have_value("3.7")
    bench.complaints = [c for c in bench.complaints if "ERR_FAILED" not in c]


@pytest.mark.parametrize(("width", "height"), [(1280, 800), (820, 1180), (600, 960)])
@pytest.mark.parametrize("path", ["/", "/jobs/new", "/jobs/1", "/jobs/2/trace", "/jobs/3/conclude", "/sheets/1"])
def test_nothing_hangs_out_of_the_screen(bench, path, width, height):
    bench.page.set_viewport_size({"width": width, "height": height})
    bench.open(path)
    assert bench.page.evaluate("document.documentElement.scrollWidth") <= width


def test_without_script_the_job_goes_on_by_plain_forms(chromium, depot):
    context = chromium.new_context(java_script_enabled=False)
    page = context.new_page()
    page.goto(f"{depot}/jobs/3/trace")
    page.locator("form[data-reading] input[name=value]").fill("on volts f14.out 12.38")
    page.get_by_role("button", name="Enter").click()
    expect(page.get_by_text("4 standing")).to_be_visible()
    page.goto(f"{depot}/jobs/4/trace")
    page.locator("button[name=answer]").first.click()
    expect(page.get_by_text("1 standing")).to_be_visible()
    page.goto(f"{depot}/jobs/3/trace")
    for lead in ("red", "black"):  # a rung is a link, and so is another branch, the whole circuit, another state
        page.get_by_role("link", name="Tailgate ground G5").click()
        expect(page.locator(f".rung.{lead} .rung-name")).to_contain_text("Tailgate ground G5")
    page.get_by_role("link", name="Whole circuit").click()
    expect(page.get_by_role("region", name="Whole circuit")).to_be_visible()
    page.locator(".states > summary").click()
    page.get_by_role("link", name="off", exact=True).click()
    expect(page.locator(".states > summary")).to_have_text("off")
    expect(page.get_by_role("group", name="Number pad")).to_have_count(0)  # it could not do anything
    context.close()


def test_one_touch_answers_what_was_asked(bench):
    """The proposed look is answered by a button big enough for a thumb; it is written down with its state."""
    bench.page.set_viewport_size({"width": 820, "height": 1180})
    with bench.page.expect_request("**/preview?*"):  # what each answer would mean is worked out while the person looks
        bench.open("/jobs/4/trace")
    answer = bench.page.get_by_role("group", name="What is seen").get_by_role("button").first
    assert answer.bounding_box()["height"] >= 44
    answer.click()
    expect(bench.page.get_by_text("1 standing")).to_be_visible()
    expect(bench.page.locator(".log li").first).to_contain_text("look, open")


def test_a_line_is_completed_previewed_entered_and_undone(bench):
    bench.open("/jobs/2/trace")
    bench.page.keyboard.type("raise wiggle K2 ch")  # a line may start with any letter
    expect(bench.value).to_have_value("raise wiggle K2 ch")
    bench.value.fill("")
    bench.page.keyboard.type("wiggle K2 ch")
    bench.page.get_by_role("button", name="wiggle K2 changed").click()
    preview = bench.page.locator(".would")
    expect(preview).to_contain_text("Pump contactor would lead with")
    expect(bench.page.get_by_text("8 standing")).to_be_visible()  # nothing is written yet
    bench.page.keyboard.press("Enter")
    expect(bench.page.get_by_text("9 standing")).to_be_visible()
    expect(bench.page.locator(".assumed")).to_contain_text("come and go")
    bench.page.keyboard.press("Escape")
    bench.page.keyboard.press("z")
    expect(bench.page.get_by_text("8 standing")).to_be_visible()
    expect(bench.page.get_by_text("struck out: undone")).to_be_visible()


def test_why_and_plan_are_a_key_away(bench):
    bench.open("/jobs/3/trace?view=circuit")
    bench.page.keyboard.press("Escape")
    bench.page.keyboard.press("v")
    expect(bench.page.get_by_role("region", name="Why")).to_contain_text("ruled out by")
    bench.page.keyboard.press("Escape")
    bench.page.keyboard.press("v")
    plan = bench.page.get_by_role("region", name="Plan")
    expect(plan).to_contain_text("Volts at fuse box, load side of F14")
    expect(plan.locator(".plan-outcomes > li").first).to_be_in_viewport()
    assert plan.locator(".plan-outcomes .plan-outcomes > li").count() >= 2  # what comes after the next test
    expect(plan).to_contain_text("from the fuse: along the current to ground")
    plan.get_by_role("row", name="half-split").get_by_role("button", name="Work by it").click()
    expect(plan.get_by_role("row", name="half-split")).to_contain_text("in use")
    expect(bench.page.locator(".next-head")).to_contain_text("half-split")


def test_two_moments_are_compared(bench):
    bench.open("/jobs/3/trace")
    bench.page.locator(".log-line > summary").last.click()
    bench.page.get_by_role("link", name="Compare with how it stood then").last.click()
    expect(bench.page.get_by_role("region", name="Suspects")).to_contain_text("beside how it stood after reading 1")
    expect(bench.page.locator(".suspect-share small").first).to_contain_text("%")


def test_another_place_or_instrument_shows_what_belongs_to_that_test(bench):
    """Place, access, minutes, caution, limit and expected readings follow the fields at once, and a number already typed stays."""
    bench.open("/jobs/3/trace?take=1")
    page, panel = bench.page, bench.page.get_by_role("region", name="Next test")
    bench.value.fill("0.1")
    page.get_by_text("Another test").click()
    page.locator("select[name=red]").select_option("k5.30")
    page.locator("select[name=black]").select_option("k5.87")
    expect(panel.get_by_role("heading", name="Your own: volts")).to_be_visible()
    expect(panel).to_contain_text("relay socket K5 terminal 30")
    expect(panel).to_contain_text("side cover of the dash, two clips (5 min)")
    expect(panel).to_contain_text("Limit here: at most 100 mV")
    expect(bench.value).to_have_value("0.1")
    page.locator("select[name=red]").select_option("tab.feed")
    expect(panel).to_contain_text("The heater tracks tear easily")
    page.locator("select[name=instrument]").select_option("ohms")
    expect(panel).to_contain_text("Disconnect the battery")
    page.locator("select[name=black]").select_option("tab.feed")
    expect(page.get_by_role("alert")).to_contain_text("Red and black are both on tab.feed")


def test_keys_go_on_working_after_a_key(bench):
    bench.open("/jobs/3/trace")
    page = bench.page
    page.keyboard.press("Escape")
    for key, there in (("v", "Whole circuit"), ("v", "Why"), ("v", "Plan"), ("v", "Ladder")):
        page.keyboard.press(key)
        expect(page.get_by_role("region", name=there)).to_be_visible()
    page.keyboard.press("2")
    expect(page.locator("[data-take='2']")).to_have_count(0)  # it is the one that is asked for
    page.keyboard.press("3")
    expect(page.locator("[data-take='3']")).to_have_count(0)
    drawn = page.locator(".ladder-axis").inner_text()
    page.keyboard.press("s")
    expect(page.locator(".ladder-axis")).not_to_have_text(drawn)
    expect(bench.value).to_have_value("")
    page.keyboard.press("r")
    expect(bench.value).to_be_focused()


def test_a_place_touched_during_a_look_is_measured_and_joins_a_line_that_is_begun(bench):
    bench.open("/jobs/4/trace")
    place = bench.page.get_by_role("link", name="Ground stud G3")
    bench.value.fill("wiggle")
    place.click()
    expect(bench.value).to_have_value("wiggle g3 ")
    bench.value.fill("12.1")
    place.click()
    expect(bench.page.get_by_role("heading", name="Your own: volts")).to_be_visible()
    expect(bench.value).to_have_value("12.1")
    assert bench.test_leads() == ("open", "volts", "g3", "batt-")


def test_what_cannot_be_done_here_is_a_touch(bench):
    bench.open("/jobs/3/trace?take=1")
    bench.value.fill("9.5")
    bench.page.get_by_text("I cannot do this here").click()
    touch = bench.page.get_by_role("group", name="Cannot do this here").get_by_role("button").first
    touch.click()
    expect(bench.page.locator(".log li").first).to_contain_text("not here")
    expect(bench.value).to_have_value("9.5")  # it answers another question


def test_a_number_far_out_is_asked_back_and_written_when_it_is_entered_again(bench):
    bench.open("/jobs/3/trace?take=1")
    before = bench.page.get_by_text("3 standing")
    bench.value.fill("480")
    expect(bench.page.locator(".hint")).to_contain_text("far outside what can be there")
    bench.page.keyboard.press("Enter")
    expect(bench.page.get_by_role("alert")).to_contain_text("Enter it again to keep it as it is")
    expect(before).to_be_visible()
    bench.page.keyboard.press("Enter")
    expect(bench.page.get_by_text("4 standing")).to_be_visible()
    # The ladder's axis is the circuit's: the slip is drawn at its edge.
    highest = max(int(text.split()[0]) for text in bench.page.locator(".axis text").all_text_contents())
    assert highest <= 16
    bench.complaints = [c for c in bench.complaints if "422" not in c]


def test_the_bay_says_which_job_is_found(bench):
    bench.open("/jobs/4/trace")
    for line in ("open volts batt+ 12.47", "open volts la2.feed 12.15", "open volts la2.gnd 3.81", "open volts g3 3.76"):
        bench.value.fill(line)
        bench.page.keyboard.press("Enter")
        expect(bench.value).to_have_value("")
    expect(bench.page.locator(".standing.ready")).to_be_visible()
    bench.page.keyboard.press("Escape")
    bench.page.keyboard.press("b")
    job = bench.page.locator(".job", has_text="No light at the door at all")
    expect(job).to_contain_text("Found: waits to be concluded")
    expect(job).to_contain_text("Ground stud in the step well (G3) at over 99 %, proved by")


def test_what_is_typed_while_the_server_works_is_the_next_entry(bench):
    """A slow answer: the next line is typed and entered before it is there, and neither is lost."""
    bench.open("/jobs/3/trace?take=1")

    def late(route):
        bench.page.wait_for_timeout(600)
        route.continue_()

    bench.page.route("**/readings", late, times=1)
    bench.value.fill("on volts f14.out 12.38")
    bench.page.keyboard.press("Enter")
    bench.value.fill("on volts k5.30 12.33")
    bench.page.keyboard.press("Enter")
    expect(bench.page.get_by_text("5 standing")).to_be_visible()
    expect(bench.page.locator(".log li").first).to_contain_text("Relay socket K5 terminal 30")
    expect(bench.value).to_have_value("")


def test_a_touched_part_is_unplugged_for_a_test_of_one_s_own(bench):
    bench.open("/jobs/2/trace?view=circuit&instrument=ohms&in=raise&red=k2.85&black=batt-")
    part = bench.page.locator("[data-unplug=K2]").first
    part.click()
    field = bench.page.get_by_label("Unplugged")
    expect(field).to_have_value("K2")
    expect(bench.page.get_by_text("Key off, then unplug pump contactor (K2)")).to_be_visible()
    bench.page.keyboard.press("Escape")
    bench.value.fill("OL")
    bench.page.keyboard.press("Enter")
    expect(bench.page.get_by_role("region", name="Readings")).to_contain_text("without K2")


def test_focus_is_never_taken_from_what_has_it(bench):
    bench.open("/jobs/3/trace")
    bench.page.keyboard.press("Escape")
    library = bench.page.get_by_role("link", name="Library")
    library.focus()
    drawn = bench.page.locator(".ladder-axis > span").first.inner_text()
    bench.page.keyboard.press("s")
    expect(bench.page.locator(".ladder-axis > span").first).not_to_have_text(drawn)
    expect(library).to_be_focused()
    strike = bench.page.locator(".log-line > summary").first
    strike.focus()
    bench.page.keyboard.press("s")
    expect(bench.page.locator(".ladder-axis > span").first).to_have_text(drawn)
    expect(strike).to_be_focused()


def test_a_long_ladder_scrolls_by_itself_and_keeps_the_leads_in_view(chromium, tmp_path):
    conn = opened(tmp_path / DATABASE)
    with atomic(conn):
        add_trace(conn, add_job(conn, add_vehicle(conn, Facts("Long lorry")), "Lamp dim"), add_sheet(conn, chain(30)))
    conn.close()
    server = Server(tmp_path)
    for height in (800, 1100):
        context = chromium.new_context(viewport={"width": 1280 if height == 800 else 800, "height": height})
        bench = Bench(context.new_page(), server.base)
        for place, other in (("n4", "b-"), ("n28", "n29"), ("n2", "n3")):
            bench.open(f"/jobs/1/trace?instrument=volts&in=on&red={place}&black={other}&load=LA")
            expect(bench.page.locator(".rung.red")).to_be_in_viewport(ratio=1)
        expect(bench.page.locator(".rung.black")).to_be_in_viewport(ratio=1)  # the two that stand close together, both
        assert bench.page.evaluate("document.querySelector('.ladder').scrollHeight > document.querySelector('.ladder').clientHeight")
        assert bench.complaints == []
        context.close()
    server.kill()


def test_the_pad_writes_what_the_field_holds_and_no_keyboard_covers_the_circuit(chromium, depot):
    context = chromium.new_context(viewport={"width": 800, "height": 1100}, has_touch=True)
    bench = Bench(context.new_page(), depot)
    bench.open("/jobs/3/trace?take=1")
    pad = bench.page.get_by_role("group", name="Number pad")
    expect(bench.value).to_have_attribute("inputmode", "none")
    for key in ("1", "2", "point", "3", "back", "4", "minus"):
        pad.get_by_role("button", name=key, exact=True).tap()
    expect(bench.value).to_have_value("-12.4")
    expect(bench.page.locator(".would, .hint")).to_be_visible()  # what it would mean, before Enter
    pad.get_by_role("button", name="minus").tap()
    pad.get_by_role("button", name="Enter").tap()
    expect(bench.page.get_by_text("4 standing")).to_be_visible()
    expect(bench.value).to_have_attribute("inputmode", "none")
    pad.get_by_role("button", name="words").tap()
    expect(bench.value).to_have_attribute("inputmode", "text")
    # Circuit, suspects and test are in one view: the page itself does not scroll.
    assert bench.page.evaluate("document.documentElement.scrollHeight <= innerHeight")
    for name in ("Ladder", "Suspects", "Readings"):
        expect(bench.page.get_by_role("region", name=name)).to_be_in_viewport(ratio=0.99)
    assert bench.complaints == []
    context.close()
