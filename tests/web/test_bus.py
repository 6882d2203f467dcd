"""The room of buses through the test client: logs taken in, databases, marks, comparison, and the way from a flag to the circuit."""

from __future__ import annotations

import gzip
import html
import io
import re
import threading
import time

import pytest

from pondrel.core.bus.formats.candump import CandumpReader
from pondrel.demo.buses import LOGS, SIGNALS
from pondrel.standins.bus import BusServer, Rhythm
from pondrel.store.buses import all_links, bus_marks_of, chosen_databases, latest_bus_logs
from pondrel.store.entries import entries_of
from pondrel.store.traces import traces_of
from pondrel.web.bus import desk, taking

from .test_library import text_of

CART = 17
HELD, DRIVES, SEAT = 2, 1, 3
LOG = "".join(f"({k / 100:.6f}) can0 100#{k % 3:02X}00000000000000\n" for k in range(400)).encode()


def taken(client, content=LOG, name="a.log", databases=(), **fields):
    files = [(io.BytesIO(own), title) for own, title in databases]
    return client.post("/bus", data={"log": (io.BytesIO(content), name), "says": "Key on", "databases": files, **fields})


def test_a_log_is_taken_in_with_its_database_and_told_of(client, conn):
    database = ((SIGNALS / "parcel-cart.dbc").read_bytes(), "cart.dbc")
    answer = taken(client, LOGS["cart_held"][2](), "mine.log.gz", [database])
    page = text_of(client.get(answer.headers["Location"]))
    assert "8 modules should, 7 do" in page and "Heater module alone is silent." in page and "Crash loop open" in page
    row = latest_bus_logs(conn, 1)[0]
    assert row.frames == 11331 and [own.name for own, _ in chosen_databases(conn, row.id)] == ["cart.dbc"]
    assert "Key on" in text_of(client.get("/bus"))


def test_a_log_without_a_database_says_so_and_takes_one_later(client, conn):
    address = taken(client).headers["Location"]
    page = text_of(client.get(address))
    assert "No signal database reads this log" in page and "unknown senders" in page.lower()
    dbc = (SIGNALS / "parcel-cart.dbc").read_bytes()
    answer = client.post(f"{address}/databases", data={"databases": (io.BytesIO(dbc), "later.dbc")})
    assert answer.status_code == 302 and "Battery manager" in text_of(client.get(address))
    known = chosen_databases(conn, latest_bus_logs(conn, 1)[0].id)[0][0]
    client.post(f"{address}/databases", data={"database": str(known.id), f"channel.{known.id}": "can7"})
    assert "has no channel can7" in text_of(
        client.post(f"{address}/databases", data={"database": str(known.id), f"channel.{known.id}": "can7"})
    )


@pytest.mark.parametrize(
    ("content", "name", "says"),
    [
        (b"", "a.log", "is empty"),
        (b"hello\n", "a.txt", "is no log that is known here"),
        (b"LOGG" + bytes(20), "a.blf", "cannot be read as BLF"),
        (b"\x1f\x8b" + bytes(30), "a.log.gz", "packed with gzip, but damaged"),
        (b"date Mon\nbase hex  timestamps absolute\n", "a.asc", "There are no frames in"),
        (b"time,id\n", "a.csv", "There are no frames in"),
    ],
)
def test_what_is_no_log_is_refused_in_a_sentence_and_nothing_is_kept(client, conn, content, name, says):
    before = latest_bus_logs(conn, 1)[0].id
    answer = taken(client, content, name)
    assert answer.status_code == 400 and says in text_of(answer) and "Key on" in answer.get_data(as_text=True)
    assert latest_bus_logs(conn, 1)[0].id == before


def test_a_wrong_database_is_refused_and_what_was_typed_stays(client, conn):
    answer = taken(client, databases=[(b"BO_ nonsense", "bad.dbc")])
    assert (
        answer.status_code == 400
        and "bad.dbc cannot be read as DBC" in text_of(answer)
        and 'value="Key on"' in answer.get_data(as_text=True)
    )


def test_a_large_log_is_read_apart_with_its_progress(client, conn, monkeypatch):
    monkeypatch.setattr(taking, "SMALL", 100)
    address = taken(client).headers["Location"]
    assert "/bus/coming/" in address
    for _ in range(1200):
        state = client.get(f"{address}/state").json
        if state["ended"]:
            break
        time.sleep(0.05)
    assert state["share"] == 1.0 and re.fullmatch(r"/bus/\d+", state["address"])
    monkeypatch.setattr(desk, "census_of", None)  # who talks was worked out with it, so that its page need not wait
    assert "unknown senders" in text_of(client.get(state["address"])).lower()
    assert client.get("/bus/coming/nothing").status_code == 302 and client.get("/bus/coming/nothing/state").status_code == 404


def test_from_the_flag_to_the_circuit_with_what_the_bus_says_as_evidence(client, conn):
    page = text_of(client.get(f"/bus/{HELD}"))
    assert "Crash loop of the parcel cart, 12 V side" in page and "Volts at interlock fuse F14, load side" in page
    assert "High-voltage plugs and cables stay with qualified people" in page
    form = {"key": "BatteryState.CrashLoopOpen", "sheet": "12", "line": "key on code crash loop open set"}
    answer = client.post(f"/bus/{HELD}/follow/measure", data=form)
    assert answer.headers["Location"].endswith(f"/jobs/{CART}/trace")
    trace = traces_of(conn, CART)[-1]
    own = [entry for entry in entries_of(conn, CART) if entry.trace_id == trace.id]
    assert [entry.kind for entry in own] == ["code"] and "as the bus says" in own[0].text("note")
    assert "interlock fuse F14, load side" in text_of(client.get(answer.headers["Location"]))
    client.post(f"/bus/{HELD}/follow/measure", data=form)  # it says nothing new
    assert len([entry for entry in entries_of(conn, CART) if entry.trace_id == trace.id]) == 1


def test_a_silent_module_leads_to_its_own_circuit_and_the_link_is_kept(client, conn):
    page = text_of(client.get(f"/bus/{HELD}?follow=sender+HeaterModule"))
    assert "Heater module is silent" in page and "Heater module of the parcel cart, supply and wake" in page and "by its words" in page
    form = {"key": "sender HeaterModule", "sheet": "13", "line": "key on see heater module answers silent"}
    assert client.post(f"/bus/{HELD}/follow/measure", data=form).status_code == 302
    assert all_links(conn)["", "HeaterModule"].sheet_id == 13
    assert "by its words" not in text_of(client.get(f"/bus/{HELD}?follow=sender+HeaterModule"))


def test_a_link_is_chosen_checked_and_taken_back(client, conn):
    page = text_of(client.get(f"/bus/{HELD}/follow?key=BodyState.HeaterModuleMissing&sheet=12"))
    assert "Crash loop open: set, key on" in page and "Heater module missing" in page
    bad = client.post(
        f"/bus/{HELD}/follow/link", data={"key": "BodyState.HeaterModuleMissing", "sheet": "12", "line": "away volts nowhere 3"}
    )
    assert bad.status_code == 400 and "nowhere" in text_of(bad)
    assert client.post(f"/bus/{HELD}/follow/link", data={"key": "a.b", "sheet": "999", "line": "x"}).status_code == 400
    good = {"key": "BodyState.HeaterModuleMissing", "sheet": "13", "line": "key on see heater module answers silent"}
    assert client.post(f"/bus/{HELD}/follow/link", data=good).status_code == 302
    assert all_links(conn)["BodyState", "HeaterModuleMissing"].line == good["line"]
    client.post(f"/bus/{HELD}/follow/link", data={**good, "line": ""})
    assert ("BodyState", "HeaterModuleMissing") not in all_links(conn)


def test_a_log_of_no_job_says_where_to_go(client):
    address = taken(client, LOGS["cart_held"][2](), "x.log.gz", [((SIGNALS / "parcel-cart.dbc").read_bytes(), "c.dbc")]).headers["Location"]
    assert "belongs to no job" in text_of(client.get(address))
    form = {"key": "BatteryState.CrashLoopOpen", "sheet": "12", "line": "key on code crash loop open set"}
    answer = client.post(f"{address}/follow/measure", data=form)
    assert answer.status_code == 400 and "belongs to no job" in text_of(answer)


def test_a_bus_that_is_down_leads_to_its_wires(client, conn):
    page = text_of(client.get(f"/bus/{SEAT}"))
    assert "nobody is heard any more: that is the bus itself" in page and "Two-wire bus between door, ramp and dash module" in page
    lines = "\n".join(f"{who} dominant see logger nothing" for who in ("dash", "door", "ramp"))
    answer = client.post(f"/bus/{SEAT}/follow/measure", data={"key": "the bus", "sheet": "11", "line": lines})
    assert answer.status_code == 302
    kinds = [entry.kind for entry in entries_of(conn, 15) if entry.trace_id is not None]
    assert kinds == ["see"] * 3
    assert "chafed through to ground" in text_of(client.get(answer.headers["Location"]))


def drawing_of(client, log):
    page = client.get(f"/bus/{log}").get_data(as_text=True)
    found = re.search(r'class="bus-plan [^"]*"[^>]*aria-label="([^"]*)"', page)
    return html.unescape(found[1]) if found else ""


def test_the_bus_is_drawn_with_who_talks_and_where_the_fault_is_likely(client):
    says = drawing_of(client, SEAT)
    assert says.startswith("Two-wire bus between door, ramp and dash module: Dash module stopped, Door module stopped, Ramp module stopped")
    shares = [int(number) for number in re.findall(r"(\d+) %", says)]
    assert "body plug" in says and 25 < sum(shares) <= 100
    cart = drawing_of(client, HELD)
    assert cart.startswith("Two-wire bus of the parcel cart: Dash talks, Body module talks, Heater module silent, Drive controller talks")
    assert "Steering assist late" in cart and "suspected" not in cart  # one that is silent alone has a circuit of its own, followed apart


def test_the_drawing_of_a_sound_bus_accuses_nobody(client):
    lines = gzip.decompress(LOGS["body_chafed"][2]()).decode().splitlines()
    calm = lines[: len(lines) // 3]
    address = taken(client, "\n".join(calm).encode(), "calm.log", [((SIGNALS / "hop-body.dbc").read_bytes(), "b.dbc")]).headers["Location"]
    says = drawing_of(client, address.rpartition("/")[2])
    assert says.endswith("Dash module talks, Door module talks, Ramp module talks")


def test_a_warning_is_said_to_be_one_and_is_followed_last(client):
    text = """VERSION ""
BU_: Pump Roof
BO_ 256 PumpState: 8 Pump
 SG_ PumpWarning : 0|1@1+ (1,0) [0|1] "" Roof
BO_ 768 RoofState: 8 Roof
 SG_ RoofPlace : 0|8@1+ (1,0) [0|100] "%" Pump
BA_DEF_ BO_ "GenMsgCycleTime" INT 0 10000;
BA_DEF_DEF_ "GenMsgCycleTime" 0;
BA_ "GenMsgCycleTime" BO_ 256 10;
BA_ "GenMsgCycleTime" BO_ 768 50;
"""
    content = LOG.replace(b"100#00", b"100#01")
    page = text_of(client.get(taken(client, content, "w.log", [(text.encode(), "w.dbc")]).headers["Location"]))
    assert "Pump warning" in page and "only warns" in page and "Roof alone is silent" in page and "From the silence to the pin" in page


def test_two_logs_beside_each_other(client):
    page = text_of(client.get(f"/bus/{HELD}?with={DRIVES}"))
    assert "What differs from Key on and off the yard" in page
    assert page.index("HeaterState does not come any more") < page.index("Contactors closed")
    assert client.get(f"/bus/{HELD}?with=999").status_code == 200 and client.get(f"/bus/{HELD}?with={HELD}").status_code == 200


def test_marks_say_what_changed_at_them(client, conn):
    page = text_of(client.get(f"/bus/{SEAT}?mark=1"))
    assert "What differs behind the mark" in page and "Door message missing" in page
    answer = client.post(f"/bus/{SEAT}/mark", data={"at": "5,5", "says": "Key on"})
    assert answer.status_code == 302 and len(bus_marks_of(conn, SEAT)) == 4
    assert "Nothing differs" in text_of(client.get(answer.headers["Location"]))
    own = next(mark for mark in bus_marks_of(conn, SEAT) if mark.at == 5.5)
    client.post(f"/bus/{SEAT}/marks/{own.id}/strike")
    assert len(bus_marks_of(conn, SEAT)) == 3


@pytest.mark.parametrize(
    ("given", "says"),
    [
        ({"at": "far", "says": "Key on"}, "is no time"),
        ({"at": "99", "says": "x"}, "not within this log"),
        ({"at": "1"}, "Say what was done"),
        ({"at": "nan", "says": "x"}, "not within this log"),
    ],
)  # fmt: skip
def test_a_mark_that_cannot_be_is_refused(client, given, says):
    answer = client.post(f"/bus/{SEAT}/mark", data=given)
    assert answer.status_code == 400 and says in text_of(answer)


def test_signals_are_found_by_words_and_given_as_they_held(client):
    page = text_of(client.get(f"/bus/{HELD}?q=loop"))
    assert "Crash loop open" in page and "Pack volts" not in page.split("Signals")[1].split("Marks")[0]
    key = "can0|SteeringState|AssistVolts"
    data = client.get(f"/bus/{HELD}/signals", query_string={"signal": key, "columns": 80}).json
    own = data["channels"][0]
    assert own["name"] == "Assist volts" and own["unit"] == "V" and len(own["least"]) == 80
    assert own["most"][10] == pytest.approx(12.4) and own["least"][70] == pytest.approx(11.6)
    near = client.get(f"/bus/{HELD}/signals", query_string={"signal": key, "from": "16.9", "to": "17.1", "columns": 10}).json
    assert near["channels"][0]["least"][0] == pytest.approx(12.4) and near["channels"][0]["most"][-1] == pytest.approx(11.6)
    for wrong in ("nothing", "can0|SteeringState|Nothing", "can9|SteeringState|AssistVolts", "||"):
        assert client.get(f"/bus/{HELD}/signals", query_string={"signal": wrong}).status_code == 404
    assert client.get(f"/bus/{HELD}/signals?from=nan&to=inf&columns=-3").status_code == 200


def test_what_was_read_is_made_again_where_it_is_gone(client, data_folder):
    for path in (data_folder / "buses").rglob("time.bin"):
        path.unlink()
    for path in (data_folder / "buses").rglob("about.json"):
        path.unlink()
    assert client.get(f"/bus/{HELD}").status_code == 200


def test_the_record_of_a_job_leads_to_its_log_and_back(client):
    assert f'href="/bus/{HELD}"' in client.get(f"/jobs/{CART}").get_data(as_text=True)
    own = client.get(f"/bus/{HELD}/file")
    assert gzip.decompress(own.data).startswith(b"(1795000000")
    own.close()
    assert client.get("/bus/999").status_code == 404 and client.get("/bus/999/follow").status_code == 404


@pytest.mark.parametrize(
    "address",
    [
        "/bus/2?follow=sender+Nobody", "/bus/2?follow=%00", "/bus/2?mark=x", "/bus/2?q=%25%27%22", "/bus/2?plot=a&plot=b|c|d",
        "/bus/2/follow?key=&sheet=x", "/bus/2/follow?key=sender+&sheet=13", "/bus?job=x",
    ],
)  # fmt: skip
def test_odd_addresses_are_answered(client, address):
    assert client.get(address).status_code == 200


@pytest.fixture
def on_the_wire():
    """A bus that says the cart's log again, and the form's fields that reach it."""
    with BusServer(Rhythm(CandumpReader().piece(LOG))) as server:
        threading.Thread(target=server.serve_forever, daemon=True).start()
        yield {"interface": "socketcand", "channel": "can0", "bit_rate": "500000", "host": "127.0.0.1", "port": str(server.port)}
        server.shutdown()


def ended(client, address):
    for _ in range(1200):
        state = client.get(f"{address}/state").json
        if state["ended"]:
            return state
        time.sleep(0.05)
    raise AssertionError(state)


def test_a_bus_is_recorded_with_a_mark_and_kept_in_its_job(client, conn, on_the_wire):
    given = {**on_the_wire, "seconds": "300", "says": "Live", "job": str(CART)}
    address = client.post("/bus/live", data=given).headers["Location"]
    page = client.get(address).get_data(as_text=True)
    assert "Recording: Live" in page and "Seat moved" in page
    while not client.get(f"{address}/state").json["says"].endswith(" messages"):
        time.sleep(0.05)
    client.post(f"{address}/mark", data={"says": "Seat moved"})
    client.post(f"{address}/enough")
    state = ended(client, address)
    assert state["error"] == "" and client.get(address).status_code == 302
    row = latest_bus_logs(conn, 1)[0]
    assert row.job_id == CART and row.frames > 0 and state["address"] == f"/bus/{row.id}"
    assert [mark.says for mark in bus_marks_of(conn, row.id)] == ["Seat moved"]
    assert f'value="{on_the_wire["port"]}"' in client.get("/bus/live").get_data(as_text=True)  # it is remembered


def test_a_recording_that_is_called_off_keeps_nothing(client, conn, on_the_wire):
    before = latest_bus_logs(conn, 1)[0].id
    address = client.post("/bus/live", data={**on_the_wire, "seconds": "300"}).headers["Location"]
    client.post(f"{address}/off")
    assert ended(client, address)["address"] == ""
    time.sleep(0.4)
    assert latest_bus_logs(conn, 1)[0].id == before
    assert client.get("/bus/live/nothing").status_code == 404


@pytest.mark.parametrize(
    ("wrong", "says"),
    [
        ({"port": "1"}, "Nobody listens at 127.0.0.1 port 1"),
        ({"port": "many"}, "A port is a whole number"),
        ({"seconds": "0"}, "Record for 1 to 600 seconds"),
        ({"seconds": "nan"}, "Record for 1 to 600 seconds"),
        ({"channel": ""}, "Say which channel"),
        ({"interface": "telepathy"}, "is no interface that is known here"),
    ],
)
def test_what_cannot_be_recorded_is_said_and_the_form_keeps_what_was_typed(client, wrong, says):
    given = {"interface": "socketcand", "channel": "can0", "host": "127.0.0.1", "port": "1", "seconds": "5", "says": "Typed", **wrong}
    answer = client.post("/bus/live", data=given)
    assert answer.status_code == 400 and says in text_of(answer) and 'value="Typed"' in answer.get_data(as_text=True)
