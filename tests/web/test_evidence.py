"""Evidence through the web: lines, answers, previews, undo, plans, two moments side by side; nothing typed is lost."""

from __future__ import annotations

import re
from concurrent.futures import ThreadPoolExecutor

import pytest

from pondrel.core.evidence.hazards import HAZARDS
from pondrel.web.shell import workups

from .test_views import reading, sheet_of, text_of


def standing(client, job=2):
    return int(re.search(r"(\d+) standing", text_of(client.get(f"/jobs/{job}/trace")))[1])


@pytest.mark.parametrize(
    ("line", "logged"),
    [
        ("wiggle K2 → dropped", "wiggle"),
        ("raise volts k2.30 12.1", "12.1"),
        ("lower see pump stopped", "stopped"),
        ("good volts f21.out 12.5", "good side volts"),
        ("history K2 new", "replaced"),
        ("skip k2.86", "not here"),
    ],
)
def test_a_line_is_written_down_as_what_it_means(client, line, logged):
    before = standing(client)
    answer = client.post(
        "/jobs/2/readings", data={"state": "raise", "instrument": "volts", "red": "batt+", "black": "batt-", "value": line}
    )
    assert answer.status_code == 302
    assert standing(client) == before + 1
    assert logged in text_of(client.get("/jobs/2/trace"))


def test_an_answer_s_button_is_the_value(client):
    data = {"state": "raise", "instrument": "see", "red": "contactor", "black": "", "value": "", "answer": "silent"}
    assert client.post("/jobs/2/readings", data=data).status_code == 302
    assert "contactor" in text_of(client.get("/jobs/2/trace"))


@pytest.mark.parametrize(
    ("value", "sentence"),
    [
        ("12.4", "12.4 is a number, but the question is contactor: silent or clicks?"),
        ("12..4", "'12..4' is no reading"),
        ("wobbly", "'wobbly' begins no line"),
        ("wiggle Q9 changed", "'Q9' is nothing on this sheet that can be wiggled"),
    ],
)
def test_a_wrong_answer_keeps_what_was_typed(client, value, sentence):
    data = {"state": "raise", "instrument": "see", "red": "contactor", "black": "", "value": value}
    answer = client.post("/jobs/2/readings", data=data)
    assert answer.status_code == 400
    assert sentence in text_of(answer).replace("&#39;", "'")
    assert f'value="{value}"' in answer.get_data(as_text=True)


def test_a_preview_says_what_would_happen_and_writes_nothing(client):
    before = standing(client)
    page = text_of(client.get("/jobs/2/preview", query_string={"state": "raise", "instrument": "volts", "value": "raise volts k2.87 0.02"}))
    assert "That would clear the pump ground strap" in page and "would lead with" in page
    assert standing(client) == before


def test_enter_finds_what_the_preview_has_worked_out(cold_client, monkeypatch):
    """Ranking, advice and the descent are there already; a value that nobody asked about is worked out on Enter."""
    made = []
    for name in ("isolate", "descent", "update"):
        real = getattr(workups, name)
        monkeypatch.setattr(workups, name, lambda *given, name=name, real=real: made.append(name) or real(*given))
    data = {"state": "raise", "instrument": "volts", "red": "k2.87", "black": "batt-", "value": "0.02"}
    cold_client.get("/jobs/2/preview", query_string=data)
    assert {"isolate", "descent"} <= set(made)
    made.clear()
    first = cold_client.post("/jobs/2/readings", data=data, headers={"X-Fragment": "1"})
    assert first.status_code == 200 and made == []
    cold_client.post("/jobs/2/readings", data=data | {"red": "k2.30", "value": "12.3"}, headers={"X-Fragment": "1"})
    assert "isolate" in made


def test_a_preview_goes_on_with_a_half_typed_line(client):
    page = client.get("/jobs/2/preview", query_string={"state": "raise", "instrument": "volts", "value": "wiggle K"}).get_data(as_text=True)
    assert 'data-line="wiggle K2"' in page
    assert "would make it" not in page


def undo(client):
    """Undo what the page calls the last entry."""
    named = re.search(r'name="entry" value="(\d+)"', client.get("/jobs/2/trace").get_data(as_text=True))
    return client.post("/jobs/2/undo", data={"entry": named[1] if named else ""})


def test_undo_strikes_the_last_out_and_keeps_it_in_sight(client):
    before = standing(client)
    assert undo(client).status_code == 302
    assert standing(client) == before - 1
    assert "struck out: undone" in text_of(client.get("/jobs/2/trace"))
    while standing(client):
        undo(client)
    assert "nothing to undo" in text_of(client.post("/jobs/2/undo"))


def test_undo_takes_back_what_its_page_called_the_last_and_nothing_later(client):
    """Two people at one job: the one who undoes does not strike out what the other has just entered."""
    named = re.search(r'name="entry" value="(\d+)"', client.get("/jobs/2/trace").get_data(as_text=True))[1]
    client.post("/jobs/2/readings", data=reading("12.1", "k2.85", "raise"))
    before = standing(client)
    assert client.post("/jobs/2/undo", data={"entry": named}).status_code == 302
    assert standing(client) == before - 1
    page = client.get("/jobs/2/trace").get_data(as_text=True)
    assert "12.1 V" in page and re.search(r'name="entry" value="(\d+)"', page)[1] != named
    again = client.post("/jobs/2/undo", data={"entry": named})
    assert again.status_code == 400 and "struck out already" in text_of(again)
    assert standing(client) == before - 1
    assert client.post("/jobs/3/undo", data={"entry": named}).status_code == 400  # another job's


def test_undo_waits_for_a_concluded_job_to_be_reopened(client):
    assert "concluded" in text_of(client.post("/jobs/1/undo"))


def test_why_sets_every_reading_beside_every_suspect(client):
    page = text_of(client.get("/jobs/1/trace?view=why"))
    assert "ruled out by" in page
    assert page.count("✕ no") >= 4 and "σ" not in page  # in plain words
    assert "Nothing has been measured" in text_of(client.get("/jobs/4/trace?view=why"))


def test_the_plan_names_tests_outcomes_and_orders(client):
    page = text_of(client.get("/jobs/3/trace?view=plan"))
    for words in ("best value", "from the fuse", "from the part", "half-split", "module first", "expected"):
        assert words in page
    assert "Order of attack" not in text_of(client.get("/jobs/1/trace?view=plan"))  # concluded: nothing is planned


def test_two_moments_stand_side_by_side(client):
    page = text_of(client.get("/jobs/3/trace?since=1"))
    assert "how it stood after reading 1" in page
    assert "▸" in page
    assert "how it stood after" not in text_of(client.get("/jobs/3/trace?since=99"))


def test_another_proposal_can_be_taken_by_its_address(client):
    first, second = (text_of(client.get(f"/jobs/3/trace?take={n}")) for n in (1, 2))
    assert first.split("Or instead")[0] != second.split("Or instead")[0]
    assert text_of(client.get("/jobs/3/trace?take=77")) == first


def test_readings_that_do_not_go_together_are_said_so(client):
    for red, value in (("batt+", "4.1"), ("f9.out", "17.3"), ("la2.feed", "8.8"), ("g3", "15.2")):
        client.post("/jobs/4/readings", data=reading(value, red=red))
    page = text_of(client.get("/jobs/4/trace"))
    assert "do not go together" in page


def test_a_person_may_work_by_another_order_of_attack_and_go_back(client):
    chosen = client.post("/jobs/3/order", data={"order": "fuse"}, headers={"X-Fragment": "1", "Referer": "/"})
    assert chosen.status_code == 200
    page = client.get("/jobs/3/trace").get_data(as_text=True)
    assert "min, from the fuse</span>" in page
    plan = client.get("/jobs/3/trace?view=plan").get_data(as_text=True)
    assert plan.count("in use") == 1 and 'value="best"' in plan and 'value="fuse"' not in plan
    assert client.post("/jobs/3/order", data={"order": "best"}).status_code == 302
    assert "from the fuse</small>" not in client.get("/jobs/3/trace").get_data(as_text=True)


def test_an_order_of_attack_that_does_not_exist_is_refused(client):
    answer = client.post("/jobs/3/order", data={"order": "random"})
    assert answer.status_code == 400
    assert "choose best, fuse, part, half, module" in text_of(answer)


def test_many_screens_of_one_sheet_at_once_do_not_get_in_each_other_s_way(client):
    """A sheet's tables are filled as they are asked for: by one at a time."""
    lines = ["raise volts k2.30 12.1", "raise volts k2.85 0.02", "raise volts c7.out 12.2", "lower volts y3.gnd 0.4"]
    urls = [f"/jobs/2/preview?value={line}&state=raise&instrument=volts&red=batt%2B&black=batt-" for line in lines]
    urls += [f"/jobs/2/trace?view={view}&state={state}" for view in ("why", "plan", "descent") for state in ("raise", "lower", "rest")]
    app = client.application
    with ThreadPoolExecutor(6) as pool:
        codes = list(pool.map(lambda url: app.test_client().get(url).status_code, urls))
    assert codes == [200] * len(urls)


def test_a_step_that_wants_its_caution_read_first_waits_for_that(client):
    """The caution stands where the step is, with a button; until it was pressed nothing is entered there, and what was typed stays."""
    sheet = sheet_of(client, "Kneeling valves")
    job = client.post("/jobs/new", data={"vehicle": "1", "complaint": "left front does not kneel", "sheet": sheet}).headers["Location"]
    form = {"state": "kneel left", "instrument": "volts", "red": "y1.1", "black": "batt-", "value": "24.1"}
    refused = client.post(job.replace("/trace", "/readings"), data=form)
    page = refused.get_data(as_text=True)
    assert refused.status_code == 400 and "First read this, and say so" in text_of(refused)
    assert 'value="24.1"' in page and "I have read this" in page and page.count("data-acknowledge") == 2
    springs = HAZARDS["air_springs"].caution  # a hazard of such work, and what the sheet says of this state
    for caution in (springs, "The left front sinks - nobody under or beside it"):
        read = client.post(job.replace("/trace", "/cautions"), data={**form, "caution": caution})
    page = read.get_data(as_text=True)
    assert 'value="24.1"' in page and "data-acknowledge" not in page  # what was typed stays, with the leads it was typed for
    assert re.search(r'name="red">.*?<option value="y1.1" selected>', page, re.DOTALL)
    assert client.post(job.replace("/trace", "/readings"), data=form).status_code == 302
    assert "Made safe" in text_of(client.get(job.removesuffix("/trace")))
    assert client.post(job.replace("/trace", "/cautions"), data={"caution": "Mind the cat"}).status_code == 400


def test_what_is_never_done_is_refused_with_its_reason(client):
    sheet = sheet_of(client, "Fuel and temperature gauge")
    job = client.post("/jobs/new", data={"vehicle": "1", "complaint": "needle dead", "sheet": sheet}).headers["Location"]
    refused = client.post(
        job.replace("/trace", "/readings"), data={"state": "off", "instrument": "lamp", "red": "tank", "black": "batt-", "value": "3"}
    )
    assert refused.status_code == 400 and "Never at tank: no test lamp. Petrol vapour" in text_of(refused)


def test_a_line_about_another_step_than_the_one_asked_for_shows_its_own_caution(client):
    sheet = sheet_of(client, "Kneeling valves")
    job = client.post("/jobs/new", data={"vehicle": "1", "complaint": "front does not kneel", "sheet": sheet}).headers["Location"]
    form = {"state": "kneel right", "instrument": "see", "red": "right valve", "black": "", "value": "kneel left left valve still"}
    page = client.post(job.replace("/trace", "/readings"), data=form).get_data(as_text=True)
    springs = HAZARDS["air_springs"].caution
    assert client.post(job.replace("/trace", "/cautions"), data={**form, "caution": springs}).status_code == 200
    page = client.post(job.replace("/trace", "/readings"), data=form).get_data(as_text=True)
    locks = re.findall(r'name="caution" value="([^"]+)"', page)
    assert sorted(text.partition(" sinks")[0] for text in locks) == ["The left front", "The right front"]
    assert client.post(job.replace("/trace", "/cautions"), data={**form, "caution": locks[1]}).status_code == 200
    refused = client.post(job.replace("/trace", "/readings"), data=form)  # that was the other one
    assert (refused.status_code == 302) == locks[1].startswith("The left front")


def test_a_reading_s_limit_is_told_with_its_conditions(client):
    sheet = sheet_of(client, "Kneeling valves")
    job = client.post("/jobs/new", data={"vehicle": "1", "complaint": "slow", "sheet": sheet}).headers["Location"]
    for value in ("45", "45 @70C"):
        form = {"state": "ready", "instrument": "ohms", "red": "y1.1", "black": "y1.2", "value": value}
        assert client.post(job.replace("/trace", "/readings"), data=form).status_code == 302
    page = text_of(client.get(job))
    assert "Within limits by 2.61 Ω, 37.6 Ω @20°C: 35.0 Ω to 41.0 Ω @20°C (valve data sheet (demo))" in page
    assert "Not comparable: 35.0 Ω to 41.0 Ω @20°C (valve data sheet (demo)); note @20°C beside the number" in page
    assert "Not comparable 3 of 4 not tested" in text_of(client.get(job.replace("/trace", "/conclude")))
    units = {"temperature": "°F", "pressure": "inHg", "width": "in", "back": job}
    assert client.post("/workshop", data=units).headers["Location"] == job
    page = text_of(client.get(job))
    assert (
        "37.6 Ω @68°F: 35.0 Ω to 41.0 Ω @68°F" in page and "note @68°F beside the number" in page and "°C" not in page.split("Readings")[1]
    )


@pytest.mark.parametrize("bad", [{"temperature": "K"}, {"pressure": ""}, {"width": "ell"}])
def test_a_unit_that_nobody_knows_is_refused_and_nothing_is_settled(client, bad):
    refused = client.post("/workshop", data={"temperature": "°F", "pressure": "bar", "width": "in", **bad})
    assert refused.status_code == 400 and "No unit of" in text_of(refused)
    assert "<option selected>°C</option>" in client.get("/").get_data(as_text=True)


def test_a_reading_with_a_plug_off_is_written_down_with_it(client):
    data = {"state": "raise", "instrument": "ohms", "red": "k2.85", "black": "batt-", "value": "64", "unplugged": "Y3"}
    assert client.post("/jobs/2/readings", data=data).status_code == 302
    assert "without Y3" in text_of(client.get("/jobs/2/trace"))
    answer = client.post("/jobs/2/readings", data={**data, "unplugged": "Y9"})
    assert answer.status_code == 400
    assert "'Y9' cannot be unplugged" in text_of(answer).replace("&#39;", "'")
    assert 'value="64"' in answer.get_data(as_text=True)


def test_the_far_end_of_a_clamped_wire_stays_in_the_form_though_no_probe_reaches_it(client):
    page = client.get("/jobs/2/trace?instrument=clamp&in=raise&red=w12.in&black=k2.85").get_data(as_text=True)
    assert "<option selected>w12.in</option>" in page


def test_what_is_unplugged_is_crossed_out_in_the_circuit_and_nothing_else(client):
    crossed = [
        client.get(f"/jobs/2/trace?view=circuit&instrument=ohms&in=raise&red=k2.86&black=batt-{off}").text.count('class="parted"')
        for off in ("", "&unplugged=Y3", "&unplugged=K2,+Y3")
    ]
    assert crossed == [0, 1, 3]  # the contactor has a coil and a contact


@pytest.fixture
def valves(client):
    """A new job on the kneeling valves, whose sheet draws connectors; its number."""
    form = {"new_vehicle": "Yard bus", "complaint": "does not kneel", "person": "Rike", "sheet": "7"}
    return int(re.search(r"/jobs/(\d+)/", client.post("/jobs/new", data=form).headers["Location"])[1])


@pytest.mark.parametrize(("off", "face", "first"), [("", "wire", "6"), ("N7", "mating", "1")])
def test_a_test_draws_the_face_of_its_connector_as_it_is_seen(client, valves, off, face, first):
    own = {"instrument": "ohms", "in": "parked", "red": "n7.5", "black": "n7.31", "unplugged": off}
    page = client.get(f"/jobs/{valves}/trace", query_string=own).get_data(as_text=True)
    assert f"N7 cavity 5, {face} side, yellow/blue" in page and f"Seen on the {face} side" in page
    drawn = re.search(r'<figure class="face">.*?</figure>', page, re.S)[0]
    assert re.findall(r"<text[^>]*>([^<]+)</text>", drawn)[0] == first  # mirrored or not
    assert 'class="cavity red"' in drawn and 'class="cavity black"' in drawn and "red on cavity 5, black on cavity 31" in drawn


def test_readings_over_time_are_one_event_in_the_log(client, valves):
    for line in ("ready volts batt+ 24.2 at 0 min", "ready volts batt+ 27.4 at 10 min"):
        assert client.post(f"/jobs/{valves}/readings", data={"state": "ready", "instrument": "volts", "value": line}).status_code == 302
    page = text_of(client.get(f"/jobs/{valves}/trace"))
    assert "rose from 24.20 V to 27.40 V in 10 min; the last number counts." in page
    assert "@10min" in page and "do not go together" not in page


def test_explanations_that_accuse_no_one_part_have_a_line_of_their_own(client):
    """A bus whose two lines are one: besides modules and plugs its wires may touch."""
    sheet = sheet_of(client, "Two-wire bus")
    job = client.post("/jobs/new", data={"vehicle": "1", "complaint": "nothing answers", "sheet": sheet}).headers["Location"]
    lines = (
        "recessive volts diag.high 2.51", "dash dominant volts diag.high diag.low 0.02", "asleep ohms diag.high diag.low 0.4",
        "asleep ohms rear.high rear.low 0.5",
    )  # fmt: skip
    for line in lines:
        data = {"state": "", "instrument": "volts", "red": "", "black": "", "value": line}
        assert client.post(job.replace("/trace", "/readings"), data=data).status_code == 302, line
    page = client.get(job)
    assert page.status_code == 200 and "Two wires that touch" in text_of(page)
    rows = re.findall(r'class="suspect-share">\s*([^<]+)<', page.get_data(as_text=True))
    shares = [0.0 if "under" in row else 100.0 if "over" in row else float(row.split()[0]) for row in rows]
    assert len(shares) > 4 and shares == sorted(shares, reverse=True)  # among the parts, by its share


def test_what_would_contradict_the_complaint_can_be_looked_at_before_it_is_entered(client):
    asked = {"state": "raise", "instrument": "volts", "value": "raise see contactor clicks"}
    page = text_of(client.get("/jobs/2/preview", query_string=asked))
    assert "could not be worked out" not in page and "raise see contactor clicks" in page
