"""A circuit drawn by touch alone in a real browser, on an upright screen: from the job, within a counted number of touches, and a hidden
fault isolated on what was drawn."""

from __future__ import annotations

import re

import pytest
from playwright.sync_api import expect

from benchmarks.circuits import text_of_size
from pondrel.core.circuit.fault import parse_fault
from pondrel.core.circuit.measure import measure
from pondrel.core.circuit.read.sheet import parse_sheet
from pondrel.core.evidence.asked import Measurement
from pondrel.core.evidence.registry import item_from
from pondrel.core.isolate import Workup, isolate
from pondrel.store.db import DATABASE, atomic, opened
from pondrel.store.drafts import add_draft

JOB = 7  # of the demo: it has no circuit yet
MOST_TOUCHES, MOST_READINGS = 7, 16


class Thumb:
    """A finger that counts its touches."""

    def __init__(self, page):
        self.page, self.touches, self.refused = page, 0, False

    def tap(self, locator) -> None:
        locator.first.scroll_into_view_if_needed()
        locator.first.tap()
        self.touches += 1

    def button(self, name: str) -> None:
        self.tap(self.page.get_by_role("button", name=re.compile(f"^{re.escape(name)}", re.I)))

    def link(self, name: str) -> None:
        self.tap(self.page.get_by_role("link", name=re.compile(name)))

    def pick(self, answer: str) -> None:
        said = re.compile(f"^{re.escape(answer)}$")
        self.tap(self.page.locator("label.pick", has_text=said).or_(self.page.locator("button[data-offer]", has_text=said)))

    def part(self, name: str) -> None:
        self.tap(self.page.locator(f".draft-scroll [data-part='{name}']"))
        expect(self.page.locator(".touched h2 .code")).to_have_text(name)

    def place(self, node: str) -> None:
        self.tap(self.page.locator(f".draft-scroll [data-place='{node}']"))
        expect(self.page.locator(".touched h2 .code")).to_have_text(node)


@pytest.fixture
def thumb(chromium, depot):
    """The demo's bare job on an upright screen with a finger."""
    context = chromium.new_context(viewport={"width": 800, "height": 1100}, has_touch=True, base_url=depot)
    page = context.new_page()
    complaints: list[str] = []
    page.on("console", lambda m: complaints.append(m.text) if m.type in ("error", "warning") else None)
    page.on("pageerror", lambda e: complaints.append(str(e)))
    page.goto(f"/jobs/{JOB}/complaint")
    made = Thumb(page)
    yield made
    assert [says for says in complaints if "400" not in says or not made.refused] == []
    context.close()


# By the number of the outline of work: the typical circuit, the answers touched, what is put into a wire by touch, and a hidden fault.
DRAWN = {
    1: ("pedal", [], ("W4", "Plug pin"), "W5.high_resistance=900"),
    3: ("alternator", [], ("W1", "Plug pin"), "G1.high_resistance=0.2"),
    6: ("relay", ["a switch in its feed"], ("W2", "Fuse"), "W3.high_resistance=1.2"),
    7: ("stator", [], ("W1", "Plug pin"), "F1.open"),
    8: ("module_valve", ["to ground"], ("W4", "Plug pin"), "Y1.open"),
    9: ("starter", ["a relay with a timer inside"], ("W2", "Plug pin"), "S1.stuck_open"),
    11: ("starter", ["a plain relay"], ("W4", "Plug pin"), "G2.high_resistance=0.05"),
    12: ("valves", ["from plus, they return through the case"], ("W3", "Plug pin"), "Y2.open"),
    13: ("module_valve", ["to ground"], ("W3", "Splice"), "W3.open"),
    14: ("valves", ["to ground, on a common feed"], ("W5", "Plug pin"), "Y1.shorted=5"),
    15: ("trailer", [], ("W1", "Switch"), "G1.high_resistance=1.5"),
    17: ("interlock", ["4"], ("W2", "Plug pin"), "S2.stuck_open"),
    18: ("gauges", ["pulsing, with a heated strip"], ("W2", "Plug pin"), "G3.high_resistance=40"),
    19: ("bus", ["5"], ("W3", "Plug pin"), "W4.open"),
    20: ("module_valve", ["from plus, the valve returns through its case"], ("W3", "Plug pin"), "Y1.open"),
}  # fmt: skip


@pytest.mark.slow
@pytest.mark.parametrize("outline", DRAWN)
def test_the_circuit_of_an_outline_is_drawn_by_touch_and_isolates_its_fault(thumb, data_of, outline):
    typical, answers, (wire, what), hidden = DRAWN[outline]
    page = thumb.page
    thumb.link("^Draw the circuit")
    thumb.tap(page.locator(f"a.card-link[href^='/circuits/{typical}?']"))
    for answer in answers:
        thumb.pick(answer)
    thumb.button("Draw it")
    thumb.part(wire)
    thumb.button(what)
    expect(page.locator(".touched h2 .code")).not_to_have_text(wire)
    thumb.button("Keep it and trace")
    expect(page).to_have_url(re.compile(f"/jobs/{JOB}/trace"), timeout=60_000)
    assert thumb.touches <= MOST_TOUCHES
    sheet = parse_sheet(data_of(page))
    _isolated(sheet, hidden)


@pytest.fixture
def data_of(depot_folder):
    """The text of the sheet that was stored last."""

    def text(page) -> str:
        conn = opened(depot_folder / DATABASE)
        found = conn.execute("SELECT text FROM sheet ORDER BY id DESC LIMIT 1").fetchone()[0]
        conn.close()
        return str(found)

    return text


def _isolated(sheet, hidden: str) -> None:
    """Readings as the screen proposes them, each what a meter would show with the fault, until its part leads."""
    fault, items = parse_fault(sheet, hidden), []
    workup = Workup(sheet)
    for _ in range(MOST_READINGS):
        found = isolate(workup, tuple(items))
        if found.parts.get(fault.part, 0.0) > 0.9:
            return
        test = next((a.test for a in found.next if isinstance(a.test, Measurement)), None)
        if test is None:
            break
        shown = measure(sheet, test.state, test.instrument, test.red, test.black, (fault,), without=test.without)
        content = {"state": test.state, "instrument": test.instrument, "red": test.red, "black": test.black, "value": shown.text}
        if test.without:
            content["unplugged"] = ", ".join(test.without)
        items.append(item_from(sheet, "reading", content))
    named = sorted(found.parts.items(), key=lambda pair: -pair[1])[:4]
    group = next((target for target in found.targets if fault.part in str(target)), None)
    assert found.parts.get(fault.part, 0.0) > 0.5 or group is not None, (hidden, named)


def test_steps_are_taken_undone_and_taken_again_by_touch_and_by_key(thumb):
    page = thumb.page
    page.goto("/circuits/switched_load")
    thumb.button("Draw it")
    thumb.part("W1")
    thumb.button("Fuse")
    expect(page.locator(".touched h2 .code")).to_have_text("F2")
    page.get_by_label("Rated current, A").fill("5")
    thumb.button("Set")
    thumb.place("s1.2")
    thumb.button("Lamp")
    expect(page.locator(".touched h2 .code")).to_have_text("LA2")
    thumb.button("Undo")
    expect(page.locator("[data-part='LA2']")).to_have_count(0)
    expect(page.locator("[data-part='F2']")).to_have_count(1)
    page.keyboard.press("r")
    expect(page.locator("[data-part='LA2']")).to_have_count(1)
    page.keyboard.press("u")
    expect(page.locator("[data-part='LA2']")).to_have_count(0)
    page.keyboard.press("u")
    page.reload()  # what was drawn is kept, step by step
    expect(page.locator("[data-part='LA2']")).to_have_count(0)


def test_a_wrong_value_keeps_what_was_typed_beside_its_sentence(thumb):
    page = thumb.page
    page.goto("/circuits/switched_load")
    thumb.button("Draw it")
    thumb.part("F1")
    page.get_by_label("Rated current, A").fill("lots")
    thumb.refused = True  # the browser says so in its console
    thumb.button("Set")
    expect(page.get_by_role("alert")).to_contain_text("a positive number of amperes is wanted")
    expect(page.get_by_label("Rated current, A")).to_have_value("lots")


def test_answers_are_touched_into_their_fields_and_change_what_else_is_asked(thumb):
    page = thumb.page
    page.goto("/circuits/shared_ground")
    thumb.pick("12 V")
    thumb.tap(page.locator("button.chip[data-for='circuit.lamps']", has_text=re.compile("^5$")))
    expect(page.locator("details.thing", has_text="Fog lamp fuse")).to_have_count(1)
    thumb.tap(page.locator("details.thing summary", has_text="Tail lamp fuse"))
    thumb.tap(page.locator("button.chip[data-for='fuse1.rating']", has_text="7.5 A"))
    expect(page.locator("input[name='fuse1.rating']")).to_have_value("7.5 A")
    expect(page.locator("details.thing summary", has_text="Tail lamp fuse")).to_contain_text("7.5 A")
    thumb.button("Draw it")
    expect(page.locator("[data-part='LA5']")).to_have_count(1)


def test_whoever_types_on_while_the_questions_are_asked_anew_loses_nothing(thumb):
    page = thumb.page
    page.goto("/circuits/shared_ground")
    page.get_by_label("Name of the circuit").fill("Tail of the yard van")
    thumb.tap(page.locator("details.thing summary", has_text="Tail lamp fuse"))
    page.locator("input[name='fuse1.rating']").fill("")
    page.locator("input[name='fuse1.rating']").press_sequentially("12.5 A and more", delay=40)  # the answer of the server comes in between
    expect(page.locator("input[name='fuse1.rating']")).to_have_value("12.5 A and more")
    thumb.tap(page.locator("button.chip[data-for='circuit.lamps']", has_text=re.compile("^4$")))
    expect(page.locator("details.thing", has_text="Reversing lamp fuse")).to_have_count(1)
    expect(page.locator("input[name='fuse1.rating']")).to_have_value("12.5 A and more")
    expect(page.get_by_label("Name of the circuit")).to_have_value("Tail of the yard van")


@pytest.mark.parametrize("width", [1280, 800])
def test_sixty_parts_are_drawn_without_one_thing_over_another(chromium, depot, depot_folder, width):
    """As the browser lays it out: no name, symbol or box lies over another of its kind or over one of the others."""
    conn = opened(depot_folder / DATABASE)
    with atomic(conn):
        draft = add_draft(conn, text_of_size(60), "sixty parts")
    conn.close()
    context = chromium.new_context(viewport={"width": width, "height": 1100}, base_url=depot)
    page = context.new_page()
    page.goto(f"/drafts/{draft}")
    page.wait_for_function("document.fonts.ready.then(() => true)")
    over = page.evaluate("""() => {
      const out = [];
      for (const svg of document.querySelectorAll("svg.diagram")) {
        const found = [...svg.querySelectorAll("text.part-name, .block:not(.flat), use")];
        const things = found.map((el) => ({el, box: el.getBoundingClientRect()}));
        for (let i = 0; i < things.length; i++) for (let j = i + 1; j < things.length; j++) {
          const [a, b] = [things[i], things[j]];
          if (a.el.parentElement === b.el.parentElement) continue;
          const w = Math.min(a.box.right, b.box.right) - Math.max(a.box.left, b.box.left);
          const h = Math.min(a.box.bottom, b.box.bottom) - Math.max(a.box.top, b.box.top);
          if (w > 2 && h > 2) out.push(`${a.el.textContent || a.el.outerHTML} | ${b.el.textContent || b.el.outerHTML}`);
        }
      }
      return out;
    }""")
    context.close()
    assert over == []
