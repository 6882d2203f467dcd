"""Start & charge through the test client: choosing, answering, taking back, what is known, finding, handing over, reading again."""

from __future__ import annotations

import io
import re

import pytest

from pondrel.core.power.guide import WAYS
from pondrel.store.db import DATABASE, opened
from pondrel.store.entries import entries_of
from pondrel.store.traces import traces_of

from ..captures import as_csv, crank
from .test_library import text_of

CLICKS, LAMPS, DRAINS, SNOW = 11, 12, 13, 14
SLOW = (("heard", "turns slowly"), ("lamp", "out"), ("posts", "sound"), ("rest", "12.58"), ("battery", "10.40"))
STRAP = (*SLOW, ("ground_drop", "1.22"), ("strap", "1.05"))


@pytest.fixture
def conn(data_folder):
    return opened(data_folder / DATABASE)


def begun(client, way="start", **more):
    answer = client.post("/power", data={"way": way, "vehicle": "1", "complaint": "Turns like treacle", **more})
    assert answer.status_code == 302, text_of(answer)
    return answer.headers["Location"]


def answered(client, address, *answers):
    for step, value in answers:
        answer = client.post(address, data={"step": step, "value": value})
        assert answer.status_code == 302, text_of(answer)
    return text_of(client.get(address))


def job_of(address):
    return int(re.search(r"/power/(\d+)/", address)[1])


def test_every_way_and_every_check_is_two_touches_away(client):
    page = client.get("/power").get_data(as_text=True)
    assert 'href="/power"' in client.get("/").get_data(as_text=True)
    for name, way in WAYS.items():
        assert f'value="{name}"' in page and way.title in page
    for family in ("battery", "crank", "charge", "draw", "belt", "health", "stator"):
        assert f'href="/bench/{family}"' in page and client.get(f"/bench/{family}").status_code == 200


def test_a_way_begins_with_a_job_of_the_vehicle_and_its_words(client):
    address = begun(client)
    page = text_of(client.get(address))
    assert "Turns like treacle" in page and "Next: what is heard" in page
    assert "Starter clicks" in text_of(client.get(begun(client, complaint="")))


@pytest.mark.parametrize(
    ("data", "says"),
    [({"vehicle": ""}, "No vehicle is chosen"), ({"vehicle": "999"}, "No vehicle is chosen"), ({"way": "fly"}, "Nothing is chosen")],
)
def test_what_is_missing_to_begin_is_said(client, data, says):
    answer = client.post("/power", data={"way": "start", "vehicle": "1", "complaint": "treacle", **data})
    assert answer.status_code == 400 and says in text_of(answer) and "treacle" in answer.get_data(as_text=True)


def test_answers_lead_to_the_one_joint_and_it_is_written_down(client, conn):
    address = begun(client)
    page = answered(client, address, *STRAP[:-1])
    assert "Next: across the engine strap" in page and "1.22 V" in page and "ground side loses 1.22 V, 0.3 V at most" in page
    page = answered(client, address, STRAP[-1])
    assert "The engine strap loses it." in page and "Proved" in page
    assert client.post(f"{address}/conclude").status_code == 302
    job = job_of(address)
    found = [entry for entry in entries_of(conn, job) if entry.kind == "conclusion"]
    assert found[0].text("says") == "The engine strap loses it" and found[0].content["proved"] is True
    assert "waits for the repair" in text_of(client.get(f"/jobs/{job}"))
    twice = client.post(f"{address}/conclude")
    assert twice.status_code == 400 and "concluded already" in text_of(twice)


def test_the_bay_says_that_a_way_has_found_its_cause_and_waits_to_be_concluded(client, conn):
    address = begun(client)
    answered(client, address, *STRAP[:-1])
    row = "SELECT waits_for, outlook FROM bay WHERE job_id = ?"
    assert tuple(conn.execute(row, (job_of(address),)).fetchone()) == ("waits for the next step of start and charge", "")
    answered(client, address, STRAP[-1])
    waits, outlook = conn.execute(row, (job_of(address),)).fetchone()
    assert waits == "found: waits to be concluded" and "strap" in outlook.lower()


@pytest.mark.parametrize(
    ("step", "value", "says"),
    [
        ("rest", "abc", "is no reading"), ("rest", "", "Nothing was typed"), ("heard", "boom", "no answer to"),
        ("nonsense", "1", "no step"),
        ("rest", "12.6 @x", "no condition"), ("rest", "9" * 300, "characters long"), ("rest", "12\x00", "no screen can show"),
    ],
)  # fmt: skip
def test_an_answer_that_cannot_be_is_refused_in_one_sentence_and_nothing_typed_is_lost(client, conn, step, value, says):
    address = begun(client)
    client.post(address, data={"step": "heard", "value": "turns slowly"})
    before = len(entries_of(conn, job_of(address)))
    answer = client.post(address, data={"step": step, "value": value})
    assert answer.status_code == 400 and says in text_of(answer)
    assert len(entries_of(conn, job_of(address))) == before and client.get(address).status_code == 200
    if step == "rest" and value == "abc":
        assert 'value="abc"' in answer.get_data(as_text=True)


def test_the_last_answer_is_taken_back_and_stays_in_the_record(client, conn):
    address = begun(client)
    answered(client, address, *SLOW)
    assert client.post(f"{address}/back").status_code == 302
    struck = [entry for entry in entries_of(conn, job_of(address)) if entry.struck]
    assert struck[0].text("step") == "battery" and "Next: battery while cranking" in text_of(client.get(address))
    empty = begun(client)
    refused = client.post(f"{empty}/back")
    assert refused.status_code == 400 and "nothing to take back" in text_of(refused)


def test_what_cannot_be_done_here_is_left_out(client):
    address = begun(client)
    answered(client, address, *SLOW)
    client.post(address, data={"step": "ground_drop", "skip": "1"})
    page = text_of(client.get(address))
    assert "cannot be done here" in page and "Next: lost on the ground side" not in page


def test_what_is_at_hand_and_what_is_known_change_the_steps(client):
    address = begun(client)
    answered(client, address, ("heard", "turns slowly"))
    assert client.post(f"{address}/known", data={"hand": "tester"}).status_code == 302
    assert "What the tester says" in text_of(client.get(address))
    assert client.post(f"{address}/known", data={"reach": "under the manifold"}).status_code == 302
    assert "95 min to get at the starter" in text_of(client.get(address))
    assert client.post(f"{address}/known", data={"system": "24"}).status_code == 302
    page = answered(client, address, ("rest", "25.1"))
    assert "24.80 V to 26.40 V" in page
    for data, says in (
        ({"hand": "crane"}, "Nothing of that name"),
        ({"system": "36"}, "no answer to"),
        ({"usual_amps": "x"}, "no reading"),
    ):
        refused = client.post(f"{address}/known", data=data)
        assert refused.status_code == 400 and says in text_of(refused)


def test_a_vehicle_of_24_v_needs_nothing_said(client, conn):
    conn.execute("UPDATE vehicle SET volts = 24 WHERE id = 2")
    conn.commit()
    address = begun(client, vehicle="2")
    assert "24.80 V to 26.40 V" in answered(client, address, ("heard", "turns slowly"), ("rest", "25.1"))


def test_dirty_posts_come_first_and_what_was_read_before_is_history(client):
    address = begun(client)
    page = answered(client, address, ("heard", "one click"), ("posts", "loose or green"))
    assert "First: Clean posts and clamps" in page and "Minus off first" in page
    client.post(address, data={"step": "clean_posts", "answer": "done"})
    page = text_of(client.get(address))
    assert "before it was put right" in page and "Next: what is heard" in page


def test_a_typed_number_is_told_before_it_is_entered(client, conn):
    address = begun(client)
    answered(client, address, *SLOW)
    before = len(entries_of(conn, job_of(address)))
    says = text_of(client.get(f"{address}/look", query_string={"step": "ground_drop", "value": "1.22"}))
    assert "outside limits" in says and "Then: across the engine strap" in says
    assert "no reading" in text_of(client.get(f"{address}/look", query_string={"step": "ground_drop", "value": "x"}))
    assert text_of(client.get(f"{address}/look", query_string={"step": "none", "value": "1"})).strip() == ""
    assert len(entries_of(conn, job_of(address))) == before


def test_the_trend_notes_its_minutes_by_itself(client, conn):
    address = begun(client, way="charge")
    answered(client, address, ("lamp_key", "on"), ("lamp_running", "off"), ("rest", "11.80"), ("raised", "12.60 @1min"), ("trend", "13.10"))
    last = [entry for entry in entries_of(conn, job_of(address)) if entry.kind == "power"][-1]
    assert re.fullmatch(r"13\.10 @\d+min", last.text("value"))


def test_the_readings_go_on_in_trace_on_the_typical_circuit(client, conn):
    address = begun(client)
    answered(client, address, *STRAP)
    answer = client.post(f"{address}/trace")
    assert answer.status_code == 302 and "/trace" in answer.headers["Location"]
    trace = traces_of(conn, job_of(address))[0]
    own = [entry for entry in entries_of(conn, job_of(address)) if entry.trace_id == trace.id and entry.text("red")]
    assert {(e.text("red"), e.text("black"), e.text("value")) for e in own} >= {
        ("block", "body.engine", "1.05"),
        ("batt+", "batt-", "10.40"),
    }
    page = text_of(client.get(answer.headers["Location"]))
    assert "strap" in page
    again = client.post(f"{address}/trace")
    assert again.status_code == 400 and "traced in this job already" in text_of(again)


def mended(client, job: int, text: str) -> None:
    answer = client.post(f"/jobs/{job}/remedy/done", data={"text": text, "reason": "nothing to order"})
    assert answer.status_code == 302, text_of(answer)


def test_the_same_points_are_read_again_and_prove_the_repair(client, conn):
    address = begun(client)
    answered(client, address, *STRAP)
    client.post(f"{address}/conclude")
    mended(client, job_of(address), "strap cleaned")
    page = text_of(client.get(f"{address}/after"))
    assert "Across the engine strap" in page and "1.05 V" in page
    proof = f"/jobs/{job_of(address)}/proof"
    client.post(f"{proof}/tried", data={"good": "1"})
    assert client.post(f"{address}/after", data={"strap": "0.90", "ground_drop": "0.12"}).status_code == 302
    refused = client.post(proof)
    assert refused.status_code == 400 and "the same points of the guided way again" in text_of(refused)
    client.post(f"{address}/after", data={"strap": "0.03"})
    page = text_of(client.get(f"{address}/after"))
    assert "−1.02 V" in page and "Proof:" in page
    assert client.post(proof).status_code == 302
    report = text_of(client.get(f"/jobs/{job_of(address)}/report"))
    assert "Across the engine strap" in report and "1.05 V" in report and "30 mV" in report  # before and after, on the customer's page
    proof = [entry for entry in entries_of(conn, job_of(address)) if entry.kind == "proof"]
    assert proof[0].content["works"] == "yes" and "1.05 V before, 0.03 V now" in proof[0].text("text")


def test_after_the_repair_the_job_leads_to_the_same_points(client):
    address = begun(client)
    answered(client, address, *STRAP)
    job = job_of(address)
    client.post(f"{address}/conclude")
    assert f"{address}/after" not in client.get(f"/jobs/{job}").get_data(as_text=True)
    assert "Engine strap: the engine strap loses it" in text_of(client.get(f"/jobs/{job}/remedy"))
    mended(client, job, "Strap cleaned")
    assert f'href="/jobs/{job}/proof"' in client.get(f"/jobs/{job}").get_data(as_text=True)
    assert f'href="{address}/after"' in client.get(f"/jobs/{job}/proof").get_data(as_text=True)


def test_conditions_that_differ_between_before_and_after_are_said(client):
    address = begun(client)
    answered(client, address, ("heard", "turns slowly"), ("rest", "12.60 @20C"))
    client.post(f"{address}/after", data={"rest": "12.62 @2C"})
    assert "conditions differ: @20°C before, @2°C now" in text_of(client.get(f"{address}/after"))
    bad = client.post(f"{address}/after", data={"rest": "warm"})
    assert bad.status_code == 400 and "no reading" in text_of(bad) and 'value="warm"' in bad.get_data(as_text=True)


def test_a_capture_is_judged_on_its_page(client):
    t, volts, _, _ = crank()
    answer = client.post(
        "/power/capture", data={"capture": (io.BytesIO(as_csv(t, volts)), "start.csv"), "cylinders": "4", "school": "13.5-14.7"}
    )
    page = text_of(answer)
    assert answer.status_code == 200 and "start.csv" in page and "key on" in page and "compressions a second" in page
    for content, says in ((b"", "empty"), (b"words\nonly\n", "no numbers"), (b"1\n" * 99, "one column")):
        refused = client.post("/power/capture", data={"capture": (io.BytesIO(content), "bad.csv")})
        assert refused.status_code == 400 and says in text_of(refused)
    assert "No file is chosen" in text_of(client.post("/power/capture", data={}))


def laid(client, address, content=None, name="start.csv", **more):
    if content is None:
        t, volts, _, _ = crank()
        content = as_csv(t, volts)
    return client.post(f"{address}/capture", data={"capture": (io.BytesIO(content), name), **more})


def test_a_capture_is_laid_on_the_volts_and_answers_what_a_meter_would_have_read(client, conn):
    address = begun(client)
    assert laid(client, address, cylinders="4").status_code == 302
    html = client.get(address).get_data(as_text=True)
    assert html.count("volts-capture") == 4 and "start.csv" in html and "compressions a second" in html
    answered(client, address, ("heard", "turns slowly"), ("lamp", "out"), ("posts", "sound"))
    offered = re.search(r'name="answer" value="(12\.\d\d)"', client.get(address).get_data(as_text=True))
    page = answered(client, address, ("rest", offered[1]))
    assert "Take 11" in page and "from the capture" in page
    assert [entry.kind for entry in entries_of(conn, job_of(address))].count("power_capture") == 1


def test_a_capture_from_before_the_posts_were_cleaned_answers_nothing_any_more(client):
    address = begun(client)
    laid(client, address)
    before = (("heard", "turns slowly"), ("lamp", "out"), ("rest", "12.58"))
    answered(client, address, *before, ("posts", "loose or green"))
    page = answered(client, address, ("clean_posts", "done"), ("heard", "turns slowly"), ("posts", "sound"))
    assert "Next: battery while cranking" in page and "from the capture" not in page and "start.csv" in page


@pytest.mark.parametrize(
    ("content", "more", "says"),
    [
        (b"", {}, "empty"),
        (b"words\nonly\n", {}, "no numbers"),
        ("".join(f"{n / 100},12.60\n" for n in range(400)).encode(), {}, "No cranking"),
        (None, {"cylinders": "many"}, "many"),
    ],
)
def test_a_capture_that_cannot_be_laid_on_says_so_and_the_way_stays(client, conn, content, more, says):
    address = begun(client)
    refused = laid(client, address, content, **more)
    assert refused.status_code == 400 and says in text_of(refused) and "Next: what is heard" in text_of(refused)
    assert "power_capture" not in [entry.kind for entry in entries_of(conn, job_of(address))]
    assert "No file is chosen" in text_of(client.post(f"{address}/capture", data={}))


def test_a_complaint_leads_to_its_way_from_every_page_of_the_job(client):
    opened_at = client.post("/jobs/new", data={"new_vehicle": "Tug 4", "complaint": "Lamps brighten with the revs"}).headers["Location"]
    job = re.search(r"/jobs/(\d+)", opened_at)[1]
    for page in (opened_at, f"/jobs/{job}"):
        assert f'href="/power/{job}/charge"' in client.get(page).get_data(as_text=True)
    assert "It does not charge: magnets" in text_of(client.get(opened_at))
    client.post(f"/jobs/{job}/complaint", data={"often": "always"})
    assert "first step of start and charge" in text_of(client.get("/"))
    other = client.post("/jobs/new", data={"new_vehicle": "Tug 5", "complaint": "Horn is silent"}).headers["Location"]
    assert "Step by step" not in text_of(client.get(other))


def test_that_a_vehicle_has_no_sense_wire_is_an_answer(client):
    address = begun(client, "charge")
    client.post(f"{address}/known", data={"reach": "in the open"})
    page = answered(client, address, ("lamp_key", "on"), ("lamp_running", "off"), ("rest", "12.60"), ("raised", "15.9"), ("belt", "sound"),
                    ("loaded", "15.6"))  # fmt: skip
    assert "Next: sense wire" in page and "It has none" in page and "Cannot be done here" not in page
    client.post(address, data={"step": "sense", "skip": "1"})
    assert "has none" in text_of(client.get(address)) and "cannot be done here" not in text_of(client.get(address)).split("Keys")[0]


def test_a_magnet_generator_is_read_in_volts_ac(client):
    address = begun(client, "magnet")
    page = answered(client, address, ("rest", "12.55"), ("raised", "12.6"), ("plug", "sound"), ("ac_ab", "22.4"))
    assert "22.4 V~" in page


def test_the_depot_s_own_jobs_stand_where_their_readings_put_them(client):
    assert "before it was put right" in text_of(client.get(f"/power/{CLICKS}/start"))
    assert "12.96 V after 6 min" in text_of(client.get(f"/power/{LAMPS}/charge"))
    assert "Something does not sleep." in text_of(client.get(f"/power/{DRAINS}/drain"))
    assert "A phase of the stator is burnt or open." in text_of(client.get(f"/power/{SNOW}/magnet"))


def test_a_way_or_job_that_is_none_is_nothing_at_that_address(client):
    for address in ("/power/11/fly", "/power/999/start", "/power/11/fly/after"):
        assert client.get(address).status_code == 404
    assert client.post("/power/11/fly", data={"step": "heard"}).status_code == 404


def test_an_entry_from_elsewhere_that_cannot_be_read_does_not_lock_the_page(client, conn):
    address = begun(client)
    conn.execute(
        "INSERT INTO entry (job_id, kind, content, person, made_at) VALUES (?, 'power', ?, '', '2026-11-27T08:00:00Z')",
        (job_of(address), '{"way": "start", "step": "rest", "value": "rubbish", "skipped": false}'),
    )
    conn.commit()
    page = client.get(address)
    assert page.status_code == 200 and "cannot be read" in text_of(page)
    assert client.post(f"{address}/back").status_code == 302 and "Next: what is heard" in text_of(client.get(address))


def test_a_two_minute_check_is_set_beside_the_vehicle_s_last_one(client):
    fields = {"vehicle": "1", "r.rest": "12.40", "c.rest": "4", "r.crank": "9.10", "c.crank": "4", "r.charge": "14.1"}
    page = text_of(client.post("/bench/health", data=fields))
    assert "Since 23 Nov 09:40:" in page and "640 mV less than then" in page
    assert "Since" not in text_of(client.post("/bench/health", data={**fields, "vehicle": "3"}))
    kept = client.post("/bench/health/keep", data=fields).headers["Location"]
    assert "640 mV less than then" in text_of(client.get(kept))


@pytest.mark.parametrize(("battery", "stator"), [("tester", "balance"), ("load test", "idle volts"), ("tester", "idle volts")])
def test_house_rules_of_battery_and_stator_keep_apart_on_every_way(client, battery, stator):
    """Both ask by what it is judged: the rule of one once went to the other, and no way could be opened any more."""
    client.post("/power/house", data={"charging": "13.5-14.7", "battery": battery, "stator": stator})
    for way in WAYS:
        address = begun(client, way)
        assert "cannot be read" not in text_of(client.get(address)) and "Next:" in text_of(client.get(address))
    address = begun(client, "magnet")
    answered(client, address, ("plug", "sound"), ("ac_ab", "14"), ("ac_bc", "14.2"), ("ac_ca", "13.9"))
    assert ("20.00 V to 35.00 V" in text_of(client.get(address))) == (stator == "idle volts")


def test_house_rules_are_settled_once_and_hold_everywhere_until_somebody_says_otherwise(client, conn):
    low = {"r.raised": "13.25"}
    assert "outside limits" in text_of(client.post("/bench/charge", data=low))
    settled = client.post("/power/house", data={"charging": "13.0-14.5", "battery": "tester", "stator": "balance"})
    assert settled.status_code == 302
    page = text_of(client.post("/bench/charge", data=low))
    assert "within limits" in page and "The school of 13.5 to 14.7 V would not" in page.replace("the school", "The school")
    assert "outside limits" in text_of(client.post("/bench/charge", data={**low, "s.school": "13.5-14.7"}))
    address = begun(client, way="charge")
    assert "13–14.5" in text_of(client.get(address))
    kept = client.post("/bench/charge/keep", data=low).headers["Location"]
    client.post("/power/house", data={"charging": "13.5-14.7", "battery": "load test", "stator": "idle volts"})
    assert "within limits" in text_of(client.get(kept))  # what was kept stays as it was judged
    refused = client.post("/power/house", data={"charging": "12-16", "battery": "tester", "stator": "balance"})
    assert refused.status_code == 400 and "no way to settle this" in text_of(refused)
