"""The screens through the test client: the job from beginning to end, and every way to get it wrong."""

from __future__ import annotations

import re

import pytest

from pondrel.core.job.stages import ASIDE, DONE, GO_ON, WAITS
from pondrel.store.bay import page_of_jobs
from pondrel.store.db import DATABASE, connect
from pondrel.web import create_app


def reading(value: str, red: str = "g3", state: str = "open", **more: str) -> dict[str, str]:
    return {"state": state, "instrument": "volts", "red": red, "black": "batt-", "value": value, **more}


def sheet_of(client, title: str) -> str:
    """The id of a sheet of the Library by how its title begins."""
    cards = client.get("/sheets").get_data(as_text=True)
    return re.search(r'/sheets/(\d+)">(?:(?!</a>).)*<b>' + re.escape(title), cards, re.DOTALL)[1]


def text_of(response) -> str:
    return re.sub(r"\s+", " ", re.sub(r"<[^>]+>", " ", response.get_data(as_text=True)))


def test_the_bay_lists_the_demo_jobs_with_what_they_wait_for(client):
    page = text_of(client.get("/"))
    assert "Waits for a look, or the first reading" in page
    assert "Waits for the next reading" in page
    assert "Found: waits for the repair" in page
    assert page.lower().count("concluded") == page.count("Found: waits to be concluded") == 2  # what leaks and the stator, on guided ways
    assert "ground stud in the step well (G3)" in page


def test_every_job_of_the_bay_can_be_gone_on_with(client):
    pages = [client.get(address).get_data(as_text=True) for address in ("/", "/?page=2")]
    links = {link for page in pages for link in re.findall(r'class="job-link" href="([^"]+)"', page)}
    assert len(links) == 21
    for link in links:  # a job on a guided way has no circuit
        assert client.get(link, follow_redirects=True).status_code == 200, link


def test_the_demo_has_a_job_at_every_stage_and_one_without_a_circuit(data_folder):
    rows = page_of_jobs(connect(data_folder / DATABASE), 30)
    assert {row.stage for row in rows} == {"Complaint", "Look", "Trace", "Remedy", "Proof", "Report"}
    assert {row.party for row in rows} == {GO_ON, WAITS, ASIDE, DONE}
    assert any(row.waits_for.startswith("make it show itself") for row in rows)
    done = next(row for row in rows if row.party == DONE)
    assert done.stages == "dpdddd" and done.found == "alternator bracket (G1)"


def test_a_job_that_waits_goes_on_with_a_reason_and_one_handed_over_asks_for_nothing(client):
    page = client.get("/jobs/6").get_data(as_text=True)
    assert "Go on with it" in page and "Choose the repair" not in page
    lift = re.search(r'action="(/jobs/6/entries/\d+/strike)"', page)[1]
    assert client.post(lift, data={"reason": "valve came on Monday"}).status_code == 302
    page = client.get("/jobs/6").get_data(as_text=True)
    assert "Go on with the repair" in page and "Go on with it" not in page
    assert "waits no longer" in page and "valve came on Monday" in page
    over = client.get("/jobs/5").get_data(as_text=True)
    asked = over[over.index('aria-label="Next"') :].partition("</section>")[0]
    assert "To the Bay" in asked and "To the report" in asked and "button go" not in asked


def test_an_empty_bay_invites_the_first_job(tmp_path):
    page = text_of(create_app(tmp_path).test_client().get("/"))
    assert "No job yet" in page


@pytest.mark.parametrize(
    "path",
    [
        "/jobs/new",
        "/jobs/1",
        "/jobs/2",
        "/jobs/1/trace",
        "/jobs/2/trace",
        "/jobs/3/trace?state=off&load=R2",
        "/jobs/3/conclude",
        "/sheets",
        "/sheets/2?state=ready",
    ],
)
def test_every_page_is_there(client, path):
    assert client.get(path).status_code == 200


@pytest.mark.parametrize("path", ["/jobs/99", "/jobs/99/trace", "/jobs/99/conclude", "/sheets/99", "/nothing"])
def test_what_is_not_there_says_so(client, path):
    response = client.get(path)
    assert response.status_code == 404
    assert "nothing at this address" in text_of(response)


def test_nonsense_in_the_address_draws_the_usual(client):
    assert client.get("/jobs/2/trace?state=flying&load=none").status_code == 200
    assert client.get("/sheets/1?state=flying").status_code == 200


def test_a_job_from_complaint_to_conclusion(client):
    made = client.post("/jobs/new", data={"new_vehicle": "Bus 7", "complaint": "dim lamps", "sheet": "2"})
    sheet = sheet_of(client, "Step lights")
    made = client.post("/jobs/new", data={"vehicle": "1", "complaint": "dim lamps", "sheet": sheet, "conditions": "wet", "person": "Oda"})
    job = made.headers["Location"].removesuffix("/trace")
    for value, red in (("12.47", "batt+"), ("12.15", "la2.feed"), ("3.81", "la2.gnd"), ("3.76", "g3")):
        assert client.post(f"{job}/readings", data=reading(value, red)).status_code == 302
    page = text_of(client.get(f"{job}/trace"))
    assert "Ground stud in the step well (G3) at over 99 %, proved by reading 4" in page
    assert client.post(f"{job}/conclude", data={"target": "G3"}).status_code == 302
    record = text_of(client.get(job))
    assert "Ground stud in the step well (G3)" in record
    assert "proved by the readings marked in the record" in record
    assert "wet" in record


def test_concluding_without_proof_needs_a_reason_and_says_why(client):
    refused = client.post("/jobs/2/conclude", data={"target": "K2"})
    assert refused.status_code == 400
    assert "give the reason: the record will show it" in text_of(refused)
    assert client.post("/jobs/2/conclude", data={"target": "K2", "reason": "contactor swapped, lift rises"}).status_code == 302
    assert "concluded without proof: contactor swapped, lift rises" in text_of(client.get("/jobs/2"))


def test_concluding_on_another_part_than_the_proved_one_needs_a_reason(client):
    assert client.post("/jobs/3/conclude", data={"target": "R1"}).status_code == 400


@pytest.mark.parametrize("target", ["", "X9", "G3\nX9"])
def test_a_conclusion_on_nothing_is_refused(client, target):
    assert "Nothing is chosen" in text_of(client.post("/jobs/3/conclude", data={"target": target, "reason": "x"}))


def test_a_concluded_job_takes_no_readings_until_it_is_reopened(client):
    assert client.post("/jobs/1/readings", data=reading("1.0")).status_code == 400
    assert client.post("/jobs/1/conclude", data={"target": "G3", "reason": "again"}).status_code == 400
    assert client.post("/jobs/1/reopen", data={"reason": "came back after rain"}).status_code == 302
    assert client.post("/jobs/1/readings", data=reading("1.0")).status_code == 302
    assert re.search(r"reopened, \d+ \w+ [\d:]+: came back after rain", text_of(client.get("/jobs/1")))


@pytest.mark.parametrize(
    ("data", "sentence"),
    [
        (reading("twelve"), "is no reading"),
        (reading(""), "Nothing was typed"),
        (reading("12", red="moon"), "'moon' is no place on this sheet"),
        (reading("12", state="flying"), "'flying' is no state of this sheet"),
        (reading("12", red="batt-"), "Red and black are both on batt-"),
        ({**reading("12"), "instrument": "lux"}, "'lux' is no instrument"),
        ({}, "is no instrument"),
    ],
)
def test_a_bad_reading_keeps_what_was_typed_and_says_one_sentence(client, data, sentence):
    response = client.post("/jobs/4/readings", data=data)
    assert response.status_code == 400
    assert sentence in text_of(response).replace("&#39;", "'")
    if data.get("value"):
        assert f'value="{data["value"]}"' in response.get_data(as_text=True)
    assert "0 standing" in text_of(response)


def test_a_fragment_answers_with_the_trace_alone(client):
    good = client.post("/jobs/4/readings", data=reading("3.7"), headers={"X-Fragment": "1"})
    assert good.status_code == 200
    assert "<html" not in good.get_data(as_text=True)
    assert "1 standing" in text_of(good)
    assert client.post("/jobs/4/readings", data=reading("x"), headers={"X-Fragment": "1"}).status_code == 422


def test_striking_out_takes_a_reading_out_of_the_reckoning_and_keeps_it_in_sight(client):
    client.post("/jobs/4/readings", data=reading("9.9"))
    number = re.search(r"/jobs/4/readings/(\d+)/strike", client.get("/jobs/4/trace").get_data(as_text=True))[1]
    assert client.post(f"/jobs/4/readings/{number}/strike", data={"reason": ""}).status_code == 400
    assert client.post(f"/jobs/4/readings/{number}/strike", data={"reason": "wrong range"}).status_code == 302
    page = text_of(client.get("/jobs/4/trace"))
    assert "0 standing" in page
    assert "struck out: wrong range" in page
    assert client.post(f"/jobs/4/readings/{number}/strike", data={"reason": "again"}).status_code == 400
    assert client.post(f"/jobs/2/readings/{number}/strike", data={"reason": "other job"}).status_code == 400


@pytest.mark.parametrize(
    ("data", "sentence"),
    [
        ({"vehicle": "1", "sheet": "1"}, "The complaint is missing"),
        ({"vehicle": "1", "complaint": "dark", "sheet": "x"}, "No circuit sheet is chosen"),
        ({"vehicle": "1", "complaint": "dark", "sheet": "99"}, "No circuit sheet is chosen"),
        ({"vehicle": "x", "complaint": "dark", "sheet": "1"}, "No vehicle is chosen"),
        ({"new_vehicle": "Bus 4", "complaint": "dark", "sheet": "1"}, "There is a vehicle 'Bus 4' already"),
    ],
)
def test_a_bad_new_job_keeps_what_was_typed(client, data, sentence):
    response = client.post("/jobs/new", data={**data, "mileage": "hot & wet <b>"})
    assert response.status_code == 400
    page = response.get_data(as_text=True)
    assert sentence in text_of(response).replace("&#39;", "'")
    assert "hot &amp; wet &lt;b&gt;" in page


def test_what_people_type_is_escaped_everywhere(client):
    evil = "<script>alert(1)</script>"
    made = client.post("/jobs/new", data={"new_vehicle": evil, "complaint": evil, "conditions": evil, "person": evil, "sheet": "3"})
    job = made.headers["Location"].removesuffix("/trace")
    client.post(f"{job}/readings", data={**reading("1.1", "k2.87", "raise"), "note": evil})
    for path in ("/", job, f"{job}/trace", f"{job}/conclude"):
        page = client.get(path).get_data(as_text=True)
        assert evil not in page
        assert "&lt;script&gt;" in page


def test_the_replay_tells_who_led_after_each_reading(client):
    page = text_of(client.get("/jobs/1"))
    assert re.search(
        r"Reading \d+ Volts at ground stud G3, ring terminal, open .* 3\.76 V Oda then led ground stud in the step well, over 99 %", page
    )


def test_the_trace_shows_cautions_with_the_step(client):
    client.post("/jobs/2/readings", data=reading("12.4", "k2.85", "raise"))
    assert "Prop the platform" in text_of(client.get("/jobs/2/trace"))


def test_the_schema_is_served(client):
    response = client.get("/schema/pondrel-sheet-1.json")
    assert response.get_json()["title"] == "Pondrel circuit sheet"
