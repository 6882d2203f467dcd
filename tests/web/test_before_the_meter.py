"""Before the meter comes out: complaint, codes, look, safety, plan and vehicle through the web, with what people get wrong."""

from __future__ import annotations

import io
import re

from PIL import Image

from pondrel.core.evidence.hazards import HAZARDS
from pondrel.store.entries import entries_of
from pondrel.store.vehicle_entries import ledger_of, vehicle_entries_of
from pondrel.store.vehicles import all_vehicles
from pondrel.web.jobs import codes

from .test_views import sheet_of, text_of

LIFT, GLASS, BARE, CART, GAUGES = 2, 3, 7, 9, 10


def kinds(conn, job: int) -> list[str]:
    return [e.kind for e in entries_of(conn, job) if e.stands]


def open_job(client, complaint: str, sheet: str = "") -> str:
    """The address of a new job on the old van, with a circuit where one is named."""
    vehicle = re.search(r'<option value="(\d+)"[^>]*>Old van', client.get("/jobs/new").text)[1]
    data = {"vehicle": vehicle, "complaint": complaint, "sheet": sheet_of(client, sheet) if sheet else ""}
    return re.match(r"/jobs/\d+", client.post("/jobs/new", data=data).headers["Location"])[0]


def number(job: str) -> int:
    return int(job.rsplit("/", 1)[1])


def test_a_job_opens_with_a_vehicle_and_a_complaint_and_asks_when_it_is_there(client):
    answer = client.post("/jobs/new", data={"new_vehicle": "Tow car", "complaint": "trailer lamps dark"})
    assert re.fullmatch(r"/jobs/\d+/complaint", answer.headers["Location"])
    job = answer.headers["Location"].removesuffix("/complaint")
    assert "Ask when it is there, and what was done before" in text_of(client.get(job))
    client.post(f"{job}/complaint", data={"often": "sometimes", "under": ["wet", "bumps"], "since": "May"})
    page = text_of(client.get(job))
    assert "Make it show itself: move one thing at a time, and watch" in page
    assert "comes and goes, when wet, over bumps, since May" in page
    assert "no reading counts for much before it is there" in page
    client.post(f"{job}/look/at", data={"place": "battery posts and clamps", "outcome": "fine"})
    for did, says in (("no change", "Make it show itself"), ("changed", "Looked: waits for a circuit to trace")):
        client.post(f"{job}/look/flexed", data={"moved": "each plug in turn", "did": did})
        assert says in text_of(client.get(job))
    refused = client.post(f"{job}/look/flexed", data={"moved": "", "did": "changed"})
    assert refused.status_code == 400 and "What was moved is missing" in text_of(refused)


def test_the_complaint_is_taken_by_every_circuit_and_told_anew_is_changed_there(client, conn):
    job = open_job(client, "needle dead", "Fuel and temperature gauge")
    client.post(f"{job}/complaint", data={"often": "sometimes", "under": ["wet"], "text": "in rain"})
    on_circuit = {(e.kind, e.text("outcome")) for e in entries_of(conn, number(job)) if e.stands and e.trace_id}
    assert on_circuit == {("when", "sometimes"), ("during", "wet")}
    client.post(f"{job}/complaint", data={"often": "always", "under": ["wet", "cold"]})
    on_circuit = {(e.kind, e.text("outcome")) for e in entries_of(conn, number(job)) if e.stands and e.trace_id}
    assert on_circuit == {("when", "always"), ("during", "wet"), ("during", "cold")}
    assert sum(e.kind == "complaint" and e.stands for e in entries_of(conn, number(job))) == 1
    client.post(f"{job}/traces", data={"sheet": sheet_of(client, "Step lights")})  # a circuit taken up later knows it as well
    assert sum(e.kind == "during" and e.stands for e in entries_of(conn, number(job))) == 4


def test_a_circuit_that_is_concluded_takes_nothing_more(client, conn):
    before = [e.id for e in entries_of(conn, 1) if e.trace_id]
    assert client.post("/jobs/1/complaint", data={"often": "sometimes", "under": ["hot"]}).status_code == 302
    assert [e.id for e in entries_of(conn, 1) if e.trace_id] == before


def test_what_the_customer_says_is_one_touch_and_can_be_said_otherwise(client, conn):
    job = open_job(client, "needle dead", "Fuel and temperature gauge")
    said = {"kind": "said", "subject": "fuel", "state": "warm and full", "outcome": "low"}
    assert client.post(f"{job}/complaint/said/1", data=said).status_code == 302
    client.post(f"{job}/complaint/said/1", data={**said, "outcome": "high"})
    stands = [e.text("outcome") for e in entries_of(conn, number(job)) if e.kind == "said" and e.stands]
    assert stands == ["high"]
    for wrong in ({**said, "outcome": "green"}, {**said, "subject": "horn"}, {**said, "kind": "reading"}, {}):
        refused = client.post(f"{job}/complaint/said/1", data=wrong)
        assert refused.status_code == 400 and 'role="alert"' in refused.text


def test_what_contradicts_the_complaint_is_asked_about_and_answered_by_a_touch(client, conn):
    job = open_job(client, "needle dead", "Fuel and temperature gauge")
    client.post(f"{job}/complaint/said/1", data={"kind": "said", "subject": "fuel", "state": "warm and full", "outcome": "low"})
    client.post(f"{job}/readings", data={"value": "warm and full see fuel normal"})
    page = client.get(f"{job}/trace").text
    assert "The complaint says that fuel is low; &#39;normal&#39; was entered: which is it?" in page
    strike = re.search(rf'action="({job}/readings/\d+/strike)"[^>]*>(?:(?!</form>).)*The customer was wrong', page, re.DOTALL)[1]
    assert client.post(strike, data={"reason": "looked at: it is otherwise"}).status_code == 302
    assert "which is it?" not in client.get(f"{job}/trace").text and "said" not in kinds(conn, number(job))


def test_a_part_renewed_in_vain_counts_on_the_circuit_and_stands_in_the_ledger(client, conn):
    job = open_job(client, "needle dead", "Fuel and temperature gauge")
    given = {"part": "tank sender", "name": "R1", "on": "2026-11-01", "how": "new", "months": "12"}
    refused = client.post(f"{job}/complaint/fitted", data=given)
    assert refused.status_code == 400 and "Say whether it helped" in text_of(refused) and 'value="tank sender"' in refused.text
    assert client.post(f"{job}/complaint/fitted", data={**given, "helped": "no"}).status_code == 302
    assert [(e.text("subject"), e.text("outcome")) for e in entries_of(conn, number(job)) if e.kind == "renewed"] == [("R1", "no help")]
    van = next(v.id for v in all_vehicles(conn) if v.name == "Old van")
    assert ledger_of(conn, van)[-1].part == "tank sender"
    page = text_of(client.get(f"{job}/conclude"))
    assert "renewed for this complaint, no help; fitted 1 Nov 2026, new; under warranty: " in page


def test_circuits_are_proposed_with_what_they_share_and_warned_of_where_they_are_for_another_vehicle(client):
    job = open_job(client, "fuel gauge stays at half")
    page = text_of(client.get(f"{job}/complaint"))
    assert "Fuel and temperature gauge on a pulsing regulator it has" in page and "Take it up" in page
    heater = text_of(client.get(f"{open_job(client, 'heater blower stops, heater breaker trips')}/complaint"))
    assert "This sheet is for a system of about 25.2 V, and this vehicle has 12 V." in heater
    taken = open_job(client, "blower", "Cabin heater")
    assert "has 12 V" in text_of(client.get(taken)) and "has 12 V" in text_of(client.get(f"{taken}/trace"))


def test_codes_are_read_noted_cleared_and_read_again(client, conn):
    job = open_job(client, "lamp is on")
    refused = client.post(f"{job}/codes/clear", data={"known": "yes"})
    assert refused.status_code == 400 and "Read the codes out first" in text_of(refused)
    client.post(f"{job}/codes", data={"codes": "engine:\nP0201-13 stored\nU0140-87 history", "text": "key on"})
    page = text_of(client.get(f"{job}/codes"))
    assert "P0201-13 stored engine Powertrain: fuel and air metering, injectors (defined by the standard): circuit open." in page
    client.post(f"{job}/codes/note", data={"code": "U0140-87", "self_made": "yes", "why": "plug off"})
    assert "Kept apart: plug off" in text_of(client.get(f"{job}/codes"))
    refused = client.post(f"{job}/codes/clear", data={})
    assert "Say first that you know what clearing loses" in text_of(refused)
    assert client.post(f"{job}/codes/clear", data={"known": "yes"}).status_code == 302
    assert client.post(f"{job}/codes/clear", data={"known": "yes"}).status_code == 400  # nothing was read since
    client.post(f"{job}/codes", data={"codes": "P0201-13"})
    page = text_of(client.get(f"{job}/codes"))
    assert "It came back after clearing." in page and "It did not come back after clearing." in page
    assert kinds(conn, number(job)) == ["scan", "code_note", "cleared", "scan"]
    client.post(f"{job}/codes", data={"none": "yes", "codes": "left in the field"})
    assert "no codes" in text_of(client.get(job))


def test_a_crash_flag_is_not_cleared_from_here(client):
    job = open_job(client, "does not energise")
    client.post(f"{job}/codes", data={"codes": "B1A23 stored crash output stage locked"})
    refused = client.post(f"{job}/codes/clear", data={"known": "yes"})
    assert refused.status_code == 400 and "B1A23 tells of a crash. A crash flag is not cleared from here" in text_of(refused)


def test_codes_come_from_a_file_too_and_what_is_none_is_told(client, monkeypatch):
    monkeypatch.setattr(codes, "MOST_FILE_BYTES", 100_000)
    job = open_job(client, "lamp is on")

    def send(content: bytes, name: str = "codes.csv", codes: str = "typed and kept"):
        data = {"codes": codes, "file": (io.BytesIO(content), name)}
        return client.post(f"{job}/codes", data=data, content_type="multipart/form-data")

    assert send("code,status\nP0201,stored\n".encode("utf-8-sig"), codes="").status_code == 302
    for content, says in (
        (b"\xff\xfe\x00", "is no text"),
        (b"x" * 100_001, "codes are a short text"),
        (b"nothing", "No fault code is in it"),
    ):
        refused = send(content)
        assert refused.status_code == 400 and says in text_of(refused) and "typed and kept" in refused.text


def test_a_thousand_codes_get_one_sentence_and_stay_where_they_were_pasted(client):
    job = open_job(client, "all lamps on")
    pasted = "\n".join(f"P{n:04X} stored" for n in range(0x3E8))
    refused = client.post(f"{job}/codes", data={"codes": pasted})
    assert refused.status_code == 400 and "1,000 codes are too many" in text_of(refused) and pasted[:200] in refused.text


def test_a_roll_call_offers_the_modules_that_the_vehicle_is_known_to_have(client):
    job = open_job(client, "does nothing")
    client.post(f"{job}/codes/call", data={"answered": "engine, dash", "silent": "lift box"})
    page = client.get(f"{job}/codes").text
    assert "lift box is silent: its supply" in page and re.findall(r"<legend>([^<]+)</legend>", page) == [
        "Units for everybody here",
        "engine",
        "dash",
        "lift box",
    ]
    client.post(f"{job}/codes/call", data={"module 0": "answers", "module 2": "silent", "silent": "ramp"})
    assert "lift box and ramp are silent" in client.get(f"{job}/codes").text
    assert client.post(f"{job}/codes/call", data={"module 0": "silent", "answered": "engine"}).status_code == 400


def test_a_workshop_s_cause_lists_stand_before_those_that_ship(client):
    assert client.post("/causes", data={"origin": "our yard", "codes": "P02XX,mice,the plug"}).status_code == 302
    job = open_job(client, "lamp is on")
    client.post(f"{job}/codes", data={"codes": "P0201"})
    page = text_of(client.get(f"{job}/codes"))
    assert "mice the plug In the order in which it is worth looking; our yard." in page
    refused = client.post("/causes", data={"origin": "", "codes": "P02XX,mice"})
    assert refused.status_code == 400 and "P02XX,mice" in refused.text and "Say whose lists" in text_of(refused)


def test_what_is_cleaned_between_readings_makes_them_before_and_can_be_read_again(client, conn):
    job = open_job(client, "lamps dim", "Step lights")
    client.post(f"{job}/readings", data={"value": "open volts la2.gnd 3.81"})
    back = f"{job}/trace"
    done = client.post(f"{job}/done", data={"trace": "1", "part": "G3", "deed": "cleaned", "back": back})
    assert done.headers["Location"] == back
    page = client.get(back)
    assert "0 standing" in text_of(page) and "above: after, below: before" in text_of(page) and "Read it again" in page.text
    assert "over 99 %" not in text_of(page)
    client.post(f"{job}/done", data={"trace": "1", "part": "C12", "deed": "reseated"})
    assert "nobody will know which of them did it" in text_of(client.get(f"{job}/look"))
    client.post(f"{job}/readings", data={"value": "open volts la2.gnd 0.02"})
    assert "1 standing" in text_of(client.get(back)) and kinds(conn, number(job)) == ["reading", "action", "action", "reading"]
    refused = client.post(f"{job}/done", data={"trace": "1", "part": "G3", "back": back})
    assert refused.status_code == 400 and "What was done is missing" in text_of(refused)


def test_a_hazard_locks_its_step_until_it_is_made_safe_and_again_when_it_is_back(client):
    job = open_job(client, "left front does not kneel", "Kneeling valves")
    springs = HAZARDS["air_springs"].caution
    page = client.get(f"{job}/look")
    assert "Make it safe first" in page.text and springs.split(":")[0] in page.text and "Local codes" in page.text
    form = {"state": "slow", "instrument": "volts", "red": "y1.1", "black": "batt-", "value": "24.1"}
    kneel = {**form, "state": "kneel left"}
    assert client.post(f"{job}/readings", data=kneel).status_code == 400
    client.post(f"{job}/look/safe", data={"text": springs})
    client.post(f"{job}/cautions", data={**kneel, "caution": "The left front sinks - nobody under or beside it"})
    assert client.post(f"{job}/readings", data=kneel).status_code == 302
    assert "made safe" in text_of(client.get(f"{job}/look"))
    client.post(f"{job}/look/safe", data={"text": springs, "unsafe": "yes"})
    assert client.post(f"{job}/readings", data={**kneel, "value": "24.2"}).status_code == 400
    refused = client.post(f"{job}/look/safe", data={"text": "Mind the cat"})
    assert refused.status_code == 400 and "none of this job" in text_of(refused)


def test_codes_that_were_typed_wrong_and_a_deed_that_was_none_are_struck_out(client, conn):
    job = open_job(client, "left front does not kneel", "Kneeling valves")
    client.post(f"{job}/codes", data={"codes": "air module:\nC0091 stored"})
    client.post(f"{job}/done", data={"trace": "1", "part": "Y1", "deed": "renewed"})
    assert "C0091" in text_of(client.get(f"{job}/codes"))
    for strike in re.findall(r'action="(/jobs/\d+/entries/\d+/strike)"', client.get(job).text):
        assert client.post(strike, data={"reason": "another vehicle"}).status_code == 302
    assert "Not read out yet" in text_of(client.get(f"{job}/codes")) and kinds(conn, number(job)) == []


def test_a_look_counts_on_its_circuit_with_words_and_a_photo(client, conn):
    job = open_job(client, "lamps dim", "Step lights")
    out = io.BytesIO()
    Image.new("RGB", (30, 20)).save(out, "JPEG")
    data = {"kind": "look", "subject": "G3", "outcome": "corroded", "note": "green", "files": (io.BytesIO(out.getvalue()), "stud.jpg")}
    assert client.post(f"{job}/look/at/1", data=data, content_type="multipart/form-data").status_code == 302
    (entry,) = [e for e in entries_of(conn, number(job)) if e.kind == "look"]
    digest, name = entry.files[0]
    assert (entry.text("note"), name) == ("green", "stud.jpg")
    photo = f"{job}/photos/{digest}"
    assert photo in client.get(job).text and client.get(photo).status_code == 200
    assert client.post(photo, data={"marks": '[[0.5, 0.5, "crust <b>"]]'}).status_code == 302
    assert "crust &lt;b&gt;" in client.get(photo).text and "1: crust &lt;b&gt;" in client.get(job).text
    refused = client.post(photo, data={"marks": '[[5, 5, "x"]]'})
    assert refused.status_code == 400 and "beside the photo" in text_of(refused)
    assert client.get(f"/jobs/{LIFT}/photos/{digest}").status_code == 404  # another job's
    for wrong in (
        {"kind": "look", "subject": "G3", "outcome": "sad"},
        {"kind": "reading"},
        {"kind": "look", "subject": "X9", "outcome": "wet"},
    ):
        assert client.post(f"{job}/look/at/1", data=wrong).status_code == 400


def test_the_plan_of_the_visit_says_how_long_and_when_to_ring(client):
    page = text_of(client.get(f"/jobs/{LIFT}/visit"))
    assert re.search(r"About \d+ min to find it, mostly (under )?\d+ min to \d+ min", page)
    assert "45 min authorised" in page and "The chance to find it within them: " in page and "only after proof" in page
    client.post(f"/jobs/{LIFT}/visit/authorised", data={"minutes": "2", "who": "the librarian"})
    assert "ring the customer" in text_of(client.get(f"/jobs/{LIFT}/visit"))
    refused = client.post(f"/jobs/{LIFT}/visit/authorised", data={"minutes": "half a day", "who": "Ida"})
    assert refused.status_code == 400 and "whole number" in text_of(refused) and 'value="half a day"' in refused.text
    assert (
        client.post(f"/jobs/{LIFT}/readings", data={"value": "seized lift_box an hour more", "back": f"/jobs/{LIFT}/visit"})
        .headers["Location"]
        .endswith("/visit")
    )
    assert "5 min, an hour more" in text_of(client.get(f"/jobs/{LIFT}/visit"))
    assert "no circuit to plan on" in text_of(client.get(f"/jobs/{CART}/visit"))


def test_conditions_are_asked_for_where_a_limit_hangs_on_them_and_go_with_the_number(client, conn):
    job = open_job(client, "slow", "Kneeling valves")
    ohms = "?instrument=ohms&in=ready&red=y1.1&black=y1.2"
    page = client.get(f"{job}/trace{ohms}").text
    assert 'name="at celsius"' in page and 'name="at rpm"' not in page
    assert 'name="at celsius"' not in client.get(f"{job}/trace?instrument=volts&in=ready&red=y1.1&black=batt-").text
    form = {"state": "ready", "instrument": "ohms", "red": "y1.1", "black": "y1.2", "value": "45", "at celsius": "70", "at minutes": ""}
    assert client.post(f"{job}/readings", data=form).status_code == 302
    assert [e.text("value") for e in entries_of(conn, number(job)) if e.kind == "reading"] == ["45 @70°C"]
    assert "37.6 Ω @20°C" in text_of(client.get(job))
    refused = client.post(f"{job}/readings", data={**form, "at celsius": "warm"})
    assert refused.status_code == 400 and "is no condition" in text_of(refused)
    for minutes, value in (("0", "24.2"), ("10", "25.1")):
        volts = {"state": "ready", "instrument": "volts", "red": "batt+", "black": "batt-", "value": value, "at minutes": minutes}
        assert client.post(f"{job}/readings", data=volts).status_code == 302
    assert "in 10 min" in text_of(client.get(f"{job}/trace"))


def test_a_vehicle_has_facts_a_ledger_notes_and_mileages(client, conn):
    page = client.get("/vehicles").text
    address = re.search(r'href="(/vehicles/\d+)"><b>Library 2', page)[1]
    page = text_of(client.get(address))
    for words in (
        "Tarnbolt Reader 75 2016",
        "9T2RDR754G1004410",
        "204 310 km",
        "UP button",
        "Crates block",
        "W10 runs over",
        "Tail-lift does",
    ):
        assert words in page
    vehicle = int(address.rsplit("/", 1)[1])
    given = {"name": "Library 2", "vin": "9T2RDR751G1004410", "volts": "24", "plate": "<script>1</script>", "unit": "km", "year": "2016"}
    assert client.post(f"{address}/edit", data=given).status_code == 302
    page = client.get(address).text
    assert "would be 4 where one is used" in page and "<script>1" not in page and "&lt;script&gt;1" in page
    assert conn.execute("SELECT count(*) FROM vehicle_before WHERE vehicle_id = ?", (vehicle,)).fetchone()[0] == 1
    refused = client.post(f"{address}/edit", data={**given, "name": "Bus 4"})
    assert refused.status_code == 400 and "There is a vehicle &#39;Bus 4&#39; already" in refused.text
    refused = client.post(f"{address}/mileages", data={"reads": "190 000"})
    assert refused.status_code == 400 and "the instrument was changed" in text_of(refused) and 'value="190 000"' in refused.text
    assert client.post(f"{address}/mileages", data={"reads": "190 000", "renewed": "yes"}).status_code == 302
    client.post(f"{address}/notes", data={"text": "mind the dog"})
    note = next(e for e in vehicle_entries_of(conn, vehicle) if e.text("text") == "mind the dog")
    assert client.post(f"{address}/entries/{note.id}/strike", data={"reason": ""}).status_code == 400
    assert client.post(f"{address}/entries/{note.id}/strike", data={"reason": "no dog"}).status_code == 302
    assert "no dog" in client.get(address).text and client.get("/vehicles/999").status_code == 404


def test_a_new_vehicle_is_written_down_and_a_job_opened_on_it(client):
    refused = client.post("/vehicles/new", data={"name": "Tow car", "vin": "12345", "plate": "MW 77"})
    assert refused.status_code == 400 and "has 5 characters" in text_of(refused) and 'value="MW 77"' in refused.text
    address = client.post("/vehicles/new", data={"name": "Tow car", "plate": "MW 77", "volts": "12"}).headers["Location"]
    page = client.get(address).text
    form = re.search(r'href="(/jobs/new\?vehicle=\d+)"', page)[1]
    assert re.search(r'<option value="\d+" selected>Tow car', client.get(form).text)


def test_what_was_written_is_told_to_the_browser_so_that_its_draft_can_go(client):
    page = client.get("/jobs/new").text
    key = re.search(r'name="key" value="([^"]+)"', page)[1]
    assert f'data-written="{key}"' not in page
    client.post("/jobs/new", data={"vehicle": "1", "complaint": "x", "key": key})
    assert key in re.search(r'data-written="([^"]*)"', client.get("/").text)[1].split()
    refused = re.search(r'name="key" value="([^"]+)"', client.get("/jobs/new").text)[1]
    client.post("/jobs/new", data={"vehicle": "", "complaint": "y", "key": refused})
    assert refused not in client.get("/").text


def test_what_the_complaint_says_of_when_it_is_there_is_ticked_until_something_is_written_down(client):
    client.post("/jobs/new", data={"new_vehicle": "Tow car", "complaint": "Now and then dark when it rains, since Monday"})
    page = client.get("/jobs/22/complaint").get_data(as_text=True)
    assert "own words" in page and 'value="Monday"' in page
    assert re.findall(r'name="(?:often|under)" value="(\w+)" checked', page) == ["sometimes", "wet"]
    client.post("/jobs/22/complaint", data={"often": "always", "under": ["cold"]})
    page = client.get("/jobs/22/complaint").get_data(as_text=True)
    assert re.findall(r'name="(?:often|under)" value="(\w+)" checked', page) == ["always", "cold"]
    assert "own words" not in page and 'value="Monday"' not in page


def test_blinks_that_were_touched_along_are_counted(client):
    job = open_job(client, "lamp blinks")
    told = client.get(f"{job}/codes/blinks?at=0-1.4,2-3.5,4.1-4.5,5-5.4").get_json()
    assert told == {"code": "flash 2-2", "says": "flash 2-2: 2 long, 2 short."}
    assert client.get(f"{job}/codes/blinks?at=what").get_json()["code"] == ""
    assert client.get("/jobs/999/codes/blinks?at=0-1").status_code == 404
