"""Start & charge in a real browser, at the simulated vehicle with a fault that the walker does not know: what is heard and seen comes from
the vehicle, every number from its meter on the wire, and what is named is held against what was hidden."""

from __future__ import annotations

import re
import threading
from contextlib import contextmanager

import pytest
from playwright.sync_api import expect

from pondrel.core.circuit.fault import parse_fault
from pondrel.core.circuit.read.sheet import parse_sheet
from pondrel.core.making.typical import made, typical_called
from pondrel.instruments.visa import close_all
from pondrel.standins.meter import Meter
from pondrel.standins.scpi import Scpi
from pondrel.standins.server import InstrumentServer
from pondrel.standins.world import World

from ..captures import as_csv, crank

MOST_STEPS = 25


class Walker:
    """A person at the vehicle who does what the page says."""

    def __init__(self, page, world):
        self.page, self.world, self.complaints = page, world, []
        page.on("console", lambda m: self.complaints.append(m.text) if m.type in ("error", "warning") else None)
        page.on("pageerror", lambda e: self.complaints.append(str(e)))

    def begin(self, way: str) -> None:
        self.page.goto("/power")
        self.page.get_by_label("Vehicle").select_option(index=1)
        self.page.locator(f"button[name=way][value={way}]").tap()
        expect(self.page.locator(".power-next h1")).to_be_visible()

    @property
    def heading(self) -> str:
        return self.page.locator(".power-next h1").inner_text()

    def word(self) -> str:
        """What is heard or seen at the step that the page asks for."""
        world, heading = self.world, self.heading
        if "heard" in heading:
            world.turn("start")
            says = " ".join(world.seen().values())
            turned = "turns normally" if "turns the engine" in says else "turns slowly" if "turns slowly" in says else ""
            return turned or ("one click" if "its plunger pulls in" in says else "nothing")
        if "charge lamp" in heading:
            world.turn("running" if "running" in heading else "key on")
            lamp = next(says for part, says in world.seen().items() if "lamp" in part)
            return "off" if lamp.startswith(("dark", "0 %", "glows at 0")) or re.match(r"0(\.\d)? ", lamp) else "on"
        sound = {
            "posts": "sound", "immobiliser": "out", "engine turned": "yes", "tap": "no change", "belt": "sound", "plug": "sound",
            "diodes": "one way only",
        }  # fmt: skip
        return sound[next(key for key in sound if key in heading.lower())]

    def walk(self) -> str:
        """Until something is found or nothing is left to ask; what the page says then."""
        for _ in range(MOST_STEPS):
            before = self.heading
            if before.startswith("First:"):  # what is put right is put right on the vehicle too
                self.world.mend()
                self.page.get_by_role("button", name="Done", exact=True).tap()
                expect(self.page.locator(".power-next h1")).not_to_have_text(before)
                continue
            if not before.startswith("Next:"):
                return before
            answers = self.page.locator(".power-form .answers button")
            if "where the volts go" in before:  # the vehicle knows no minutes: its first readings stand
                self.page.get_by_role("button", name="Cannot be done here").tap()
            elif answers.count():
                self.page.locator(f'.power-form button[value="{self.word()}"]').tap()
            elif self.page.locator("[data-live-of]").count():
                expect(self.page.locator(".live.held")).to_be_visible(timeout=15_000)
                self.page.locator("[data-live-take]").tap()
                expect(self.page.locator(".power-form input[name=value]")).not_to_have_value("")
                self.page.get_by_role("button", name="Enter", exact=True).last.tap()
            else:
                self.page.get_by_role("button", name="Cannot be done here").tap()
            expect(self.page.locator(".power-next h1")).not_to_have_text(before)
        raise AssertionError(f"no end after {MOST_STEPS} steps: {self.heading}")


@pytest.fixture
def at_the_vehicle(chromium, depot):
    @contextmanager
    def make(typical: str, fault: str):
        sheet = parse_sheet(made(typical_called(typical), {}))
        world = World(sheet, (parse_fault(sheet, fault),) if fault else ())
        with InstrumentServer(Scpi(Meter(world))) as server:
            threading.Thread(target=server.serve_forever, daemon=True).start()
            context = chromium.new_context(viewport={"width": 800, "height": 1100}, base_url=depot, has_touch=True)
            page = context.new_page()
            page.goto("/bench/meters")
            page.get_by_label("Name", exact=True).fill("Wired meter")
            page.get_by_label("Accuracy").fill("V 0.1% + 2")
            page.get_by_label("Where it is read").fill(server.address)
            page.get_by_role("button", name="Write it down").click()
            walker = Walker(page, world)
            try:
                yield walker
                assert walker.complaints == []
            finally:
                context.close()
                server.shutdown()
                close_all()

    return make


STARTER = [
    ("G1.high_resistance=0.02", "The engine strap loses it."),
    ("M1.contact_high_resistance=0.03", "The solenoid contacts lose it."),
    ("K1.coil_open", "control line does not switch the starter"),
    ("M1.pull_open", "starter's solenoid does not switch through"),
    ("C3.high_resistance=0.03", "Dirty or loose clamps: since that was put right all is well."),
    ("", "It starts: nothing is wrong now."),
]
CHARGING = [
    ("W1.high_resistance=0.06", "output cable or its link loses it"),
    ("G1.high_resistance=0.05", "alternator's ground loses it"),
    ("GEN1.open", "The alternator itself does not charge."),
    ("", "it charges as it should"),
]


@pytest.mark.parametrize(("fault", "named"), STARTER)
def test_a_starter_s_hidden_fault_is_named_from_ears_and_the_meter_alone(at_the_vehicle, fault, named):
    with at_the_vehicle("starter", fault) as walker:
        walker.begin("start")
        assert named in walker.walk()


STATOR = [
    ("GEN1.v_shorted=0.06", "A phase of the stator is burnt or open."),
    ("GEN1.w_short_to_ground=0.3", "stator leads to ground"),
    ("W1.high_resistance=0.3", "way from the regulator to plus loses it"),
    ("", "charges as it should"),
]


@pytest.mark.parametrize(("fault", "named"), STATOR)
def test_a_magnet_generator_s_hidden_fault_is_named_by_volts_ac_and_ohms(at_the_vehicle, fault, named):
    with at_the_vehicle("stator", fault) as walker:
        walker.begin("magnet")
        assert named in walker.walk()


@pytest.mark.parametrize(("fault", "named"), CHARGING)
def test_a_charging_circuit_s_hidden_fault_is_named(at_the_vehicle, fault, named):
    with at_the_vehicle("alternator", fault) as walker:
        walker.begin("charge")
        assert named in walker.walk()


def test_the_whole_way_from_the_complaint_to_the_proof(at_the_vehicle):
    with at_the_vehicle("starter", "G1.high_resistance=0.02") as walker:
        page = walker.page
        walker.begin("start")
        walker.walk()
        page.get_by_role("button", name="Write it down as found").tap()
        expect(page).to_have_url(re.compile(r"/jobs/\d+$"))
        job = re.search(r"/jobs/(\d+)", page.url)[1]
        walker.world.mend()
        page.goto(f"/jobs/{job}/remedy")
        page.get_by_role("button", name=re.compile("^Choose: ")).tap()
        page.get_by_label("Why, with things still open").fill("asked on the telephone")
        page.get_by_role("button", name="It is done").tap()
        page.get_by_role("link", name="Prove it").tap()
        page.get_by_role("button", name="It worked").tap()
        page.get_by_role("link", name="Read the same points").tap()
        for name, text in (("ground_drop", "0.14"), ("strap", "0.06")):
            page.locator(f"input[name={name}]").fill(text)
        page.get_by_role("button", name="Enter what was read again").tap()
        expect(page.locator("main")).to_contain_text("Proof:")
        page.get_by_role("link", name="On with the proof").tap()
        page.get_by_role("button", name="Write it down as the proof").tap()
        expect(page).to_have_url(re.compile(r"/jobs/\d+/report$"))
        page.goto(f"/jobs/{job}")
        expect(page.locator("main")).to_contain_text("Lost on the ground side")


def test_a_number_is_told_while_it_is_typed_and_a_wrong_one_is_kept(chromium, depot):
    page = chromium.new_page(viewport={"width": 1280, "height": 800}, base_url=depot)
    page.goto("/power/12/charge")
    page.locator('.power-form button[value="sound"]').click()
    field = page.locator(".power-form input[name=value]")
    expect(field).to_be_visible()
    field.fill("0.9")
    expect(page.locator("[x-ref=preview]")).to_contain_text("limits")
    field.fill("ninety")
    field.press("Enter")
    expect(page.locator("#reading-error")).to_contain_text("is no reading")
    expect(field).to_have_value("ninety")
    page.close()


def test_without_a_script_the_way_is_walked_all_the_same(chromium, depot):
    context = chromium.new_context(viewport={"width": 1280, "height": 800}, base_url=depot, java_script_enabled=False)
    page = context.new_page()
    page.goto("/power")
    page.get_by_label("Vehicle").select_option(index=1)
    page.get_by_role("button", name="It does not start").click()
    page.get_by_role("button", name="turns slowly").click()
    page.locator(".power-form input[name=value]").fill("12.58")
    page.get_by_role("button", name="Enter", exact=True).last.click()
    expect(page.locator(".power-steps")).to_contain_text("12.58 V")
    context.close()


def test_a_capture_is_judged_by_touch(chromium, depot, tmp_path):
    t, volts, _, _ = crank()
    file = tmp_path / "crank.csv"
    file.write_bytes(as_csv(t, volts))
    page = chromium.new_page(viewport={"width": 800, "height": 1100}, base_url=depot)
    page.goto("/power/capture")
    page.locator("input[name=capture]").set_input_files(file)
    page.get_by_role("button", name="Judge it").click()
    expect(page.locator("main")).to_contain_text("compressions a second")
    expect(page.locator(".chart")).to_be_visible()
    page.close()


@pytest.mark.parametrize(
    ("typical", "fault", "way", "told"),
    [
        ("starter", "M1.contact_high_resistance=0.03", "start", "The solenoid contacts lose it."),
        ("alternator", "GEN1.open", "charge", "The alternator itself does not charge."),
        ("stator", "GEN1.v_shorted=0.06", "magnet", "A phase of the stator is burnt or open."),
    ],
)
def test_what_was_found_on_a_way_is_priced_gated_fitted_and_printed(at_the_vehicle, typical, fault, way, told):
    """From the vehicle's fault to a PDF, every gate looked at on the way."""
    with at_the_vehicle(typical, fault) as walker:
        page = walker.page
        walker.begin(way)
        walker.walk()
        page.get_by_role("button", name="Write it down as found").tap()
        expect(page).to_have_url(re.compile(r"/jobs/\d+$"))
        job = re.search(r"/jobs/(\d+)", page.url)[1]
        walker.world.mend()
        page.goto(f"/jobs/{job}/remedy?pick=new:failed")
        page.get_by_label("Price of one").fill("240")
        page.get_by_role("button", name="Write it down").tap()
        expect(page.get_by_role("button", name="Choose: New", exact=True)).to_be_enabled()
        page.get_by_role("button", name="Choose: New", exact=True).tap()
        expect(page.locator(".panel-head h2", has_text="Chosen: New")).to_be_visible()
        page.get_by_label("Who", exact=True).fill("the driver")
        page.get_by_role("button", name="Agrees").tap()
        expect(page.locator(".gate.met", has_text="The customer agrees")).to_be_visible()
        for name in page.locator(".gate", has=page.get_by_text("I looked")).locator("b").all_inner_texts():
            gate = page.locator(".gate", has_text=name).filter(has=page.locator("summary", has_text="I looked"))
            gate.get_by_text("I looked").tap()
            gate.get_by_role("button", name="Not found").tap()
            expect(page.locator(".gate.met", has_text=name)).to_be_visible()
        for name, text in (("The right version", "9W-240"), ("Measure the new one", "as the limit has it")):
            gate = page.locator(".gate", has_text=name)
            gate.get_by_role("textbox").fill(text)
            gate.get_by_role("button", name="Done").tap()
            expect(page.locator(".gate.met", has_text=name)).to_be_visible()
        reason = page.get_by_label("Why, with things still open")
        if reason.count():
            reason.fill("nothing left that could hurt")
        page.get_by_role("button", name="It is done").tap()
        page.get_by_role("link", name="Prove it").tap()
        page.get_by_role("button", name="It worked").tap()
        expect(page.locator(".lead-text", has_text="1 good of 1")).to_be_visible()
        page.get_by_label("Why", exact=True).fill("the vehicle was needed on the road")
        page.get_by_role("button", name="Write it down", exact=True).last.tap()
        paper = page.get_by_role("article", name="The customer's page")
        expect(paper).to_contain_text(told.removesuffix("."))
        with page.expect_response(re.compile(r"\.pdf$")) as made:
            page.get_by_role("button", name="Make the PDF").tap()
        assert made.value.headers["content-type"] == "application/pdf"
