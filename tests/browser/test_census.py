"""The census of screens: every address that can be asked for, on both sizes, by day and by night, with the demo's data and with a circuit
of 60 parts. A new screen is in it as soon as it has an address: the first test fails until it says where it is to be looked at.
"""

from __future__ import annotations

import gzip
import hashlib
import shutil
import threading
from pathlib import Path

import pytest
import waitress

from benchmarks.circuits import text_of_size
from pondrel.cli.server import SERVER
from pondrel.core.making.typical import TYPICALS, made
from pondrel.core.talk.exchange import Exchange
from pondrel.demo.pictures import PICTURES
from pondrel.store.db import DATABASE, atomic, opened
from pondrel.store.drafts import add_draft
from pondrel.store.jobs import add_job
from pondrel.store.photos import tidied_photo
from pondrel.store.rosters import all_rosters
from pondrel.store.sheets import add_sheet, get_sheet
from pondrel.store.talks import add_exchanges, add_talk
from pondrel.store.traces import add_trace
from pondrel.web import create_app

HERE = Path(__file__).parent
AXE = gzip.decompress((HERE / "vendor" / "axe.min.js.gz").read_bytes()).decode()
LOOK = (HERE / "census.js").read_text()
SIZES = {"wide": {"width": 1280, "height": 800}, "upright": {"width": 800, "height": 1100}}
LEAST_TARGET = 40  # pixels
MOST_BYTES = 200_000  # of a page without pictures

DIM, LIFT, GLASS, DARK, FLAT, WAITING, BARE, CART, GAUGES = 1, 2, 3, 4, 5, 6, 7, 9, 10
CLICKS, LAMPS, DRAINS, SNOW, SEAT, NEEDLES, HELD = 11, 12, 13, 14, 15, 16, 17
ROOF, GEARS, BRAKES, SHELVES, WIDE = 18, 19, 20, 21, 22
# The demo's drawn picture of a ground stud, as it is kept.
PHOTO = hashlib.sha256(tidied_photo(PICTURES["ground_stud"](), "image/jpeg")).hexdigest()
SCREENS = {
    "bay.show": ["/", "/?q=zeppelin", "/?party=0", "/?page=9"],
    "jobs.new": ["/jobs/new"],
    "jobs.show": [f"/jobs/{n}" for n in (DIM, GLASS, FLAT, WAITING, BARE, CART, GAUGES)],
    "complaint.show": [f"/jobs/{n}/complaint" for n in (LIFT, DARK, BARE, GAUGES, FLAT)],
    "codes.show": [f"/jobs/{n}/codes" for n in (FLAT, BARE, CART)],
    "codes.causes": ["/causes"],
    "look.show": [f"/jobs/{n}/look" for n in (LIFT, WAITING, BARE, CART, GAUGES, WIDE)],
    "visit.show": [f"/jobs/{n}/visit" for n in (LIFT, GAUGES, CART, WIDE)],
    "photos.show": [f"/jobs/1/photos/{PHOTO}"],
    "vehicles.index": ["/vehicles"],
    "vehicles.show": ["/vehicles/1", "/vehicles/2", "/vehicles/3"],
    "vehicles.new": ["/vehicles/new"],
    "vehicles.edit": ["/vehicles/1/edit"],
    "trace.show": [
        *(f"/jobs/{n}/trace" for n in (DIM, LIFT, GLASS, DARK, GAUGES, WIDE)),
        *(f"/jobs/{GLASS}/trace?view={view}" for view in ("circuit", "why", "plan")),
        f"/jobs/{WIDE}/trace?view=circuit",
        f"/jobs/{GLASS}/trace?since=1",
        f"/jobs/{GLASS}/trace?instrument=ohms&in=off&red=k5.86&black=k5.85&unplugged=K5",
        f"/jobs/{LIFT}/trace?instrument=volts&in=raise&red=batt%2B&black=batt%2B",
    ],
    "trace.conclude_form": [f"/jobs/{GLASS}/conclude", f"/jobs/{DARK}/conclude"],
    "sheets.index": ["/sheets", "/sheets?q=zeppelin"],
    "sheets.show": ["/sheets/7?state=kneel+left&fault=Y1.open", "/sheets/5", "/sheets/12", "/sheets/14"],
    "sheets.new": ["/sheets/new"],
    "sheets.edit": ["/sheets/6/edit"],
    "sheets.diff": ["/sheets/6/diff"],
    "typical.choose": ["/circuits", f"/circuits?job={BARE}"],
    "typical.show": ["/circuits/relay", "/circuits/bus?bus.modules=8", "/circuits/starter"],
    "drafts.show": [
        "/drafts/1", "/drafts/1?part=W2", "/drafts/1?node=s1.2", "/drafts/1?state=on", "/drafts/2?part=PED", "/drafts/3", "/drafts/4",
    ],
    "wires.show": ["/wires", "/wires?lost=0.42&through=8+A&load=lamp", "/wires?length=4+m&current=10+A", "/wires?length=far&lost=x"],
    "drafts.text": ["/drafts/1/text"],
    "captures_taken.index": ["/scope", f"/scope?job={NEEDLES}"],
    "scope.show": ["/scope/1", "/scope/2?as=pwm_valve", "/scope/3?with=2", "/scope/3?with=2&align=start",
                   "/scope/4", "/scope/4?as=data_line"],
    "scope_live.begin": ["/scope/live"],
    "scope.bits": ["/scope/4/bits", "/scope/1/bits"],
    "logs_taken.index": ["/bus", f"/bus?job={HELD}"],
    "bus.show": ["/bus/1", "/bus/2", "/bus/2?with=1", "/bus/3?mark=1", "/bus/2?q=loop", "/bus/2?follow=sender+HeaterModule",
                 "/bus/2?plot=can0|BatteryState|CrashLoopOpen&plot=can0|BodyState|LowVolts"],
    "bus_live.begin": ["/bus/live", f"/bus/live?job={HELD}"],
    "bus_follow.choose": ["/bus/2/follow?key=BatteryState.CrashLoopOpen&sheet=12", "/bus/2/follow?key=sender+HeaterModule"],
    "modules.index": ["/modules"],
    "modules.roster": ["/modules/roster/1?missing=fifth+gear", "/modules/roster/4"],
    "modules.talk": ["/modules/talk/1"],
    "module_talk.vehicle": ["/modules/vehicle/2", f"/modules/vehicle/1?job={LIFT}"],
    "module_renewal.show": ["/modules/vehicle/6/renew/brakes", f"/modules/vehicle/6/renew/brakes?job={BRAKES}"],
    "module_reset.show": [f"/modules/vehicle/1/reset/shelf?job={SHELVES}", "/modules/vehicle/6/reset/brakes"],
    "module_load.show": [
        f"/modules/vehicle/3/load/gearbox/P0765-13?job={GEARS}",
        "/modules/vehicle/3/load/gearbox/P0765-13",
        "/modules/vehicle/6/load/brakes/C1A10-96?job=11",
    ],
    "module_chain.show": [f"/modules/vehicle/1/function/roof?job={LIFT}", f"/modules/vehicle/1/function/roof?job={ROOF}",
                           "/modules/vehicle/1/function/roof?f.latch=no",
                           "/modules/vehicle/9/function/drive?f.loop=no&f.key=yes"],
    "bench.choose": ["/bench", "/bench?q=injector", "/bench?q=zeppelin"],
    "bench.show": ["/bench/coil", "/bench/stator", "/bench/pedal", "/bench/capacitor", "/bench/socket", "/bench/hold",
                   "/bench/coil?after=5", "/bench/battery", "/bench/draw", "/bench/health"],
    "bench_checks.show": ["/bench/checks/5", "/bench/checks/6", "/bench/checks/7", "/bench/checks/5?job=2"],
    "bench_limits.show": ["/bench/limits", "/bench/limits?q=coil"],
    "bench_limits.versions": ["/bench/limits/1"],
    "bench_meters.show": ["/bench/meters", "/bench/meters?change=Yellow+meter"],
    "power.choose": ["/power", f"/power?job={CLICKS}"],
    "power.show": [
        *(f"/power/{n}/{way}" for n, way in ((CLICKS, "start"), (LAMPS, "charge"), (DRAINS, "drain"), (SNOW, "magnet"), (BARE, "start"))),
    ],
    "power.after": [f"/power/{LAMPS}/charge/after", f"/power/{BARE}/start/after"],
    "captures.show": ["/power/capture"],
    "remedy.show": [f"/jobs/{DIM}/remedy", f"/jobs/{WAITING}/remedy?years=5&school=set", f"/jobs/{FLAT}/remedy", f"/jobs/{LIFT}/remedy"],
    "refit.show": [f"/jobs/{FLAT}/refit", f"/jobs/{WAITING}/refit", f"/jobs/{DIM}/refit"],
    "proof.show": [f"/jobs/{FLAT}/proof", f"/jobs/{LIFT}/proof"],
    "report.show": [f"/jobs/{FLAT}/report", f"/jobs/{DIM}/report?on=readings,claim"],
    "report.record": [f"/jobs/{FLAT}/report/record"],
    "report.plan": [f"/jobs/{DIM}/report/plan", "/jobs/2/report/plan"],
    "history.show": ["/history", "/history?q=lamps", "/history?q=zeppelin"],
    "report.seal": ["/seal", "/seal?seal=0000000"],
    "nowhere": ["/nothing-here"],
}  # fmt: skip
NO_SCREENS = {
    "static",
    "scope.blinks",
    "jobs.file",
    "sheets.download",
    "sheets.drawing",
    "sheets.schema",
    "typical.drawing",
    "sheets.bundle",
    "sheets.drawn",
    "trace.preview",
    "power.look",
    "bench.of_part",
    "bench_limits.file",
    "live.read",
    "captures_taken.coming",
    "logs_taken.coming",
    "logs_taken.state",
    "bus.signals",
    "bus.file",
    "bus_live.show",
    "bus_live.state",
    "codes.blinks",
    "modules.roster_file",
    "modules.ask",
    "module_talk.show",
    "module_talk.state",
    "module_chain.ask",
    "captures_taken.state",
    "scope.view",
    "scope_laid.courses",
    "scope_live.show",
    "scope_live.look",
    "scope.between",
    "scope.file",
    "report.made",
    "report.as_html",
}  # files, pictures, a page's part
WORKED_AT_A_DESK = {"sheets.edit", "sheets.new", "sheets.diff", "drafts.text"}  # not in the main flow: no thumbs
ADDRESSES = [(endpoint, path) for endpoint, paths in SCREENS.items() for path in paths]


@pytest.fixture(scope="module")
def depot(demo_folder, tmp_path_factory, prepared):
    """Address of a demo depot with a circuit of 60 parts besides, and a job on it with some readings."""
    folder = Path(shutil.copytree(demo_folder, tmp_path_factory.mktemp("census") / "depot"))
    conn = opened(folder / DATABASE)
    with atomic(conn):
        sheet = add_sheet(conn, text_of_size(60))
        job = add_job(conn, 1, "Half of the rear lamps and one heater are dead, the others work as they always did")
        add_trace(conn, job, sheet)
        add_draft(conn, made(TYPICALS["switched_load"], {}), "made")
        for number in (5, 11, sheet):
            stored = get_sheet(conn, number)
            add_draft(conn, stored.text, "from the library", "", stored.id)
        talk = add_talk(conn, 2, LIFT, all_rosters(conn)[0].id, "socketcand://127.0.0.1:29536/can0", "Oda")
        add_exchanges(
            conn, talk, [Exchange(0.1, "air", b"\x3e\x00", b"\x7e\x00", 0.01), Exchange(0.4, "air", b"\x22\xd9\x99", b"", 1, "none")]
        )
    conn.close()
    app = create_app(folder)
    app.config["WTF_CSRF_ENABLED"] = False
    app.extensions["workups"] = prepared
    client = app.test_client()
    assert job == WIDE
    for line in ("work volts b+ 12.48", "work volts k1.87 12.31", "work volts p1m 4.2"):
        sent = client.post(f"/jobs/{job}/readings", data={"state": "work", "instrument": "volts", "red": "", "black": "", "value": line})
        assert sent.status_code == 302
    server = waitress.create_server(app, host="127.0.0.1", port=0, **SERVER)
    thread = threading.Thread(target=server.run, daemon=True)
    thread.start()
    yield f"http://127.0.0.1:{server.effective_port}"
    server.close()
    thread.join(timeout=10)


def test_every_address_is_in_the_census(data_folder):
    rules = create_app(data_folder).url_map.iter_rules()
    assert {rule.endpoint for rule in rules if "GET" in rule.methods} == (set(SCREENS) | NO_SCREENS) - {"nowhere"}


@pytest.fixture(scope="module", params=SIZES)
def screen(request, chromium, depot):
    """A page of one size, with a finger on the upright one, and what its console says."""
    context = chromium.new_context(viewport=SIZES[request.param], has_touch=request.param == "upright", base_url=depot)
    page = context.new_page()
    page.set_default_timeout(60_000)
    page.complaints = []
    page.on("console", lambda m: page.complaints.append(m.text) if m.type in ("error", "warning") else None)
    page.on("pageerror", lambda e: page.complaints.append(str(e)))
    yield page
    context.close()


@pytest.mark.slow
@pytest.mark.parametrize(("endpoint", "path"), ADDRESSES, ids=[path for _, path in ADDRESSES])
def test_the_screen_is_fit_for_its_user(screen, endpoint, path):
    """Nothing in the console, nothing cut or sticking out, nothing too small to touch or to read, nothing that the checker finds."""
    screen.complaints.clear()
    answer = screen.goto(path)
    assert answer.status == (404 if endpoint == "nowhere" else 200)
    assert len(answer.body()) < MOST_BYTES
    screen.wait_for_function("document.fonts.ready.then(() => true)")
    screen.evaluate("document.documentElement.dataset.light = 'day'")
    assert screen.evaluate(LOOK, 0 if endpoint in WORKED_AT_A_DESK else LEAST_TARGET) == []
    screen.evaluate(AXE)
    assert findings(screen, "axe.run()") == []
    screen.evaluate("document.documentElement.dataset.light = 'night'")
    assert findings(screen, "axe.run({ runOnly: ['color-contrast'] })") == []
    assert [text for text in screen.complaints if "404" not in text or endpoint != "nowhere"] == []


def findings(page, run: str) -> list[str]:
    """What the checker finds, each with the first places."""
    found = page.evaluate(run)["violations"]
    return [f"{rule['id']}: {[node['html'][:160] for node in rule['nodes'][:3]]}" for rule in found]
