"""The library's screens through the test client."""

from __future__ import annotations

import io
import re

import pytest

from pondrel.web.library import views

from ..circuits import STEP_LIGHT
from .test_views import sheet_of


def text_of(response) -> str:
    return re.sub(r"\s+", " ", re.sub(r"<[^>]+>", " ", response.get_data(as_text=True)))


def sheet_id(client, title: str) -> int:
    return int(sheet_of(client, title))


def rated(text: str, amps: int) -> str:
    return re.sub(r"rating: \d+", f"rating: {amps}", text, count=1)


@pytest.fixture
def lights(client) -> str:
    return f"/sheets/{sheet_id(client, 'Step lights with a shared ground')}"


def test_every_demo_sheet_is_listed_and_can_be_looked_at_in_every_state(client, demo_sheets):
    page = text_of(client.get("/sheets"))
    for sheet in demo_sheets.values():
        assert sheet.title in page
        for state in sheet.states:
            shown = client.get(f"/sheets/{sheet_id(client, sheet.title)}", query_string={"state": state})
            assert shown.status_code == 200, (sheet.title, state)


def test_a_search_finds_by_any_word_of_the_text(client):
    page = text_of(client.get("/sheets?q=K5+glass"))
    assert "1 of 16 sheets" in page and "Heated rear glass" in page
    assert "Tail-lift" not in page
    assert "No sheet holds all of these words" in text_of(client.get("/sheets?q=zeppelin"))
    assert "Two-wire bus" in text_of(client.get("/sheets?family=buses"))


def test_what_if_shows_each_place_sound_and_then(client, lights):
    page = text_of(client.get(f"{lights}?state=open&fault=G3.high_resistance&value=2.5"))
    assert re.search(r"Ground stud G3, ring terminal g3 .*? 6\.3 mV 4\.19 V", page)
    assert "bright → dim" in page
    assert "4.19 V ✗ outside" in page
    sound = text_of(client.get(f"{lights}?state=open"))
    assert "outside" not in sound
    assert "g3: 6.3 mV when sound" in text_of(client.get(f"{lights}?state=open"))
    assert "g3: 4.19 V" in page and "when sound" not in page


def test_what_if_with_nonsense_says_why_and_shows_the_sound_circuit(client, lights):
    page = text_of(client.get(f"{lights}?state=open&fault=G3.melted"))
    assert "does not fail as &#39;melted&#39;" in page or "does not fail as 'melted'" in page
    page = text_of(client.get(f"{lights}?state=open&fault=G3.high_resistance&value=lots"))
    assert "is in ohms" in page and "12.58 V" in page
    assert client.get(f"{lights}?fault=X.open").status_code == 200


def test_a_fragment_is_the_middle_of_the_page_alone(client, lights):
    part = client.get(f"{lights}?state=open", headers={"X-Fragment": "1"}).get_data(as_text=True)
    assert "<html" not in part and "Path diagram" in part


def test_a_sheet_comes_down_as_it_went_up(client):
    made = client.post("/sheets/new", data={"file": (io.BytesIO(STEP_LIGHT.encode()), "light.yaml"), "text": ""})
    assert made.status_code == 302
    answer = client.get(f"{made.location}/text")
    assert answer.get_data(as_text=True) == STEP_LIGHT
    assert 'filename="step-light-rear-door.yaml"' in answer.headers["Content-Disposition"]


def test_a_new_version_replaces_the_old_and_jobs_keep_theirs(client, lights):
    text = client.get(f"{lights}/text").get_data(as_text=True)
    made = client.post(f"{lights}/edit", data={"text": rated(text, 15), "note": "as fitted"})
    assert made.status_code == 302
    newer = text_of(client.get(made.location))
    assert "version 2" in newer and "as fitted" in newer
    assert "There is a newer version" in text_of(client.get(lights))
    changes = text_of(client.get(f"{made.location}/diff"))
    assert re.search(r"− F9: .*rating: \d+", changes) and re.search(r"\+ F9: .*rating: 15", changes)
    assert client.get("/jobs/4/trace").status_code == 200
    assert "16 sheets" not in text_of(client.get("/sheets"))  # the list counts only when it is narrowed
    assert len(re.findall("Step lights with a shared ground", client.get("/sheets").get_data(as_text=True))) == 1
    late = client.post(f"{lights}/edit", data={"text": rated(text, 20)})
    assert late.status_code == 400 and "saved a newer version" in text_of(late)
    assert "rating: 20" in late.get_data(as_text=True)  # nothing typed is lost


def test_a_flawed_text_is_not_stored_and_comes_back_with_its_flaws(client, lights):
    text = client.get(f"{lights}/text").get_data(as_text=True).replace("kind: lamp", "kind: lamb", 1)
    answer = client.post(f"{lights}/edit", data={"text": text, "note": "why"})
    assert answer.status_code == 400
    page = text_of(answer)
    assert "One flaw is named beside the text" in page and "did you mean lamp?" in page
    assert "kind: lamb" in answer.get_data(as_text=True) and 'value="why"' in answer.get_data(as_text=True)


def test_the_check_answers_with_lines(client):
    answer = client.post("/sheets/check", data={"text": STEP_LIGHT.replace("rating: 10", "rating: x")}).get_json()
    (flaw,) = answer["flaws"]
    assert flaw["path"] == "parts.F4.rating"
    assert STEP_LIGHT.splitlines()[flaw["line"] - 1].lstrip().startswith("F4:")
    assert client.post("/sheets/check", data={"text": STEP_LIGHT}).get_json() == {"flaws": [], "remarks": []}


def test_a_file_that_is_no_text_is_refused(client):
    answer = client.post("/sheets/new", data={"file": (io.BytesIO(b"\xff\xfe\x00"), "x.yaml"), "text": "kept"})
    assert answer.status_code == 400
    assert "'x.yaml' is not UTF-8 text" in text_of(answer).replace("&#39;", "'") and "kept" in answer.get_data(as_text=True)


def test_corrections_stay_with_the_sheet_through_its_versions(client, lights):
    found = {"says": "C12 pins <2> and 3 swapped", "vehicle": "2", "part": "C12.3", "person": "Oda"}
    answer = client.post(f"{lights}/corrections", data=found)
    assert answer.status_code == 302
    page = client.get(lights).get_data(as_text=True)
    assert "C12 pins &lt;2&gt; and 3 swapped" in page
    text = client.get(f"{lights}/text").get_data(as_text=True)
    made = client.post(f"{lights}/edit", data={"text": rated(text, 15)})
    assert "pins &lt;2&gt; and 3 swapped" in client.get(made.location).get_data(as_text=True)
    empty = client.post(f"{lights}/corrections", data={"says": "  "})
    assert empty.status_code == 400 and "Nothing is written" in text_of(empty)


@pytest.mark.parametrize("path", ["/sheets/99/edit", "/sheets/99/diff", "/sheets/99/text"])
def test_sheets_that_are_not_there_say_so(client, path):
    assert client.get(path).status_code == 404


def test_of_very_many_faults_those_are_listed_that_change_most(client, lights, monkeypatch):
    monkeypatch.setattr(views, "MOST_EFFECTS", 6)
    page = client.get(f"{lights}?state=open").text
    assert page.count('data-draw="fault"') == 6
    pairs = re.findall(r'</small></td><td class="num">([\d.]+) (m?)V</td><td class="num">([\d.]+) (m?)V</td>', page)
    volts = [abs(float(a) * (1e-3 if b else 1.0) - float(c) * (1e-3 if d else 1.0)) for a, b, c, d in pairs]
    assert len(volts) == 6 and min(volts) > 11.0  # each takes nearly the whole supply away
    assert re.search(r"These change most here; \d+ others can be tried under What if", page)


def test_sheets_are_found_by_a_plug_pin_a_folder_and_a_vehicle(client):
    assert "Kneeling valves" in text_of(client.get("/sheets?q=N7+pin+31")) and "1 of 16 sheets" in text_of(
        client.get("/sheets?q=N7+pin+31")
    )
    assert "No sheet holds" in text_of(client.get("/sheets?q=N7+pin+99"))
    page = text_of(client.get("/sheets"))
    assert "Buses 2" in page
    vehicle = text_of(client.get("/sheets?vehicle=1"))
    assert "of 16 sheets" in vehicle and vehicle.count("parts,") < page.count("parts,")


def test_all_sheets_go_along_as_one_file_and_come_back_where_they_are_missing(client):
    taken = client.get("/sheets/bundle")
    assert taken.mimetype == "application/zip"
    again = client.post("/sheets/bundle", data={"file": (io.BytesIO(taken.data), "sheets.zip")}, follow_redirects=True)
    assert "0 taken up, 16 were here already." in text_of(again)
    refused = client.post("/sheets/bundle", data={"file": (io.BytesIO(b"hello"), "sheets.zip")})
    assert refused.status_code == 400 and "no ZIP file" in text_of(refused)
    assert client.post("/sheets/bundle", data={}).status_code == 400
