"""The bench's screens through the test client."""

from __future__ import annotations

import io
import json
import re

import pytest
from markupsafe import escape

from pondrel.core.base.errors import PondrelError
from pondrel.core.bench import FAMILIES
from pondrel.core.power.registry import POWER
from pondrel.instruments.visa import Live, MeterError
from pondrel.store import bench
from pondrel.store.db import DATABASE, opened
from pondrel.store.entries import entries_of
from pondrel.web.shell import live

from .test_library import text_of

CLUTCH = {
    "title": "Horn coil",
    "r.ohms": "4.28",
    "c.ohms": "38",
    "limit": "ohms 3.40..3.70 @20C (maker: sheet 12)",
    "s.sort": "compressor clutch",
}


def kept(client, family="coil", **fields):
    answer = client.post(f"/bench/{family}/keep", data={**CLUTCH, **fields})
    assert answer.status_code == 302, text_of(answer)
    return answer.headers["Location"]


def test_every_family_has_a_page_that_is_two_touches_away(client):
    page = client.get("/bench").get_data(as_text=True)
    assert 'href="/bench"' in client.get("/").get_data(as_text=True)
    for name, family in FAMILIES.items():
        assert f'href="/bench/{name}"' in page
        shown = client.get(f"/bench/{name}")
        assert shown.status_code == 200 and all(text in text_of(shown).replace("&#39;", "'") for text in family.cautions)
    assert client.get("/bench/flux-capacitor").status_code == 404


@pytest.mark.parametrize(
    ("words", "title"), [("purge", "Purge, vent or boost valve"), ("injector", "Coil, solenoid"), ("zeppelin", "No check is called that")]
)
def test_a_check_is_found_by_what_people_call_the_part(client, words, title):
    assert title in text_of(client.get("/bench", query_string={"q": words}))


def test_what_is_typed_is_judged_and_nothing_is_kept(client, data_folder):
    before = len(bench.latest_checks(opened(data_folder / DATABASE), 99))
    answer = client.post("/bench/coil", data=CLUTCH, headers={"X-Fragment": "1"})
    page = text_of(answer)
    assert (
        "outside limits" in page
        and "4.28 Ω at 38 °C is 4.00 Ω at 20 °C, above 3.70 Ω" in page
        and "<html" not in answer.get_data(as_text=True)
    )
    assert len(bench.latest_checks(opened(data_folder / DATABASE), 99)) == before


@pytest.mark.parametrize(
    ("fields", "says"),
    [
        ({"r.ohms": "12V"}, "in volts, but a number of ohms"),
        ({"c.ohms": "-300"}, "no temperature that anything"),
        ({"limit": "ohms 5..3"}, "write the smaller number first"),
        ({"r.click": "maybe"}, "yes or no is"),
        ({"r.pull_in": "4k7"}, "more than any vehicle circuit gives"),
        ({"s.hot": "warm"}, "is no reading"),
    ],
)
def test_a_wrong_entry_gets_one_sentence_and_stays_in_its_field(client, fields, says):
    for address in ("/bench/coil", "/bench/coil/keep"):
        answer = client.post(address, data={**CLUTCH, **fields})
        page = answer.get_data(as_text=True).replace("&#39;", "'")
        assert answer.status_code in (200, 400) and says in page
        name, value = next(iter(fields.items()))
        assert name == "r.click" or (f'name="{name}"' in page and value in page)


def test_a_socket_that_is_none_and_rows_that_repeat_lose_nothing(client):
    assert client.get("/bench/socket?s.socket=iso").status_code == client.get("/bench/socket?s.socket=iso+1724").status_code == 200
    page = client.post("/bench/socket", data={"points": "pin;unloaded\n1;12.5\n1;3.1\nx;9"}).get_data(as_text=True)
    assert all(f'value="{text}"' in page for text in ("12.5", "3.1", "x", "9")) and "has no pin" in page


@pytest.mark.parametrize("family", [*FAMILIES, *POWER])
@pytest.mark.parametrize("points", ["12.6", "1,2,3,4,5,6,7,8", ",,,", "\n\n,", ";", '"', "1\n2,3\n4"])
def test_a_table_with_too_few_or_too_many_cells_is_answered_and_stays_as_it_was_typed(client, family, points):
    answer = client.post(f"/bench/{family}", data={"points": points})
    assert answer.status_code in (200, 400)
    assert not FAMILIES.get(family, POWER.get(family)).columns or str(escape(points.strip())) in answer.get_data(as_text=True)


def test_a_check_is_kept_with_its_number_and_shown_with_others(client):
    first = kept(client, **{"r.ohms": "3.55", "c.ohms": "20", "vehicle": "2"})
    where = kept(client)
    page = text_of(client.get(where))
    assert "outside limits" in page and "One other lies around 3.55 Ω" in page and "Bus 4" in page
    assert "within limits" in text_of(client.get(first))
    assert "Horn coil" in text_of(client.get("/bench"))


def test_the_new_one_is_measured_in_one_touch_and_both_stand_side_by_side(client):
    where = kept(client, then="new")
    number = re.search(r"after=(\d+)", where)[1]
    form = client.get(where).get_data(as_text=True)
    assert "ohms 3.40..3.70 @20C (maker: sheet 12)" in form and 'value="4.28"' not in form and f'name="after" value="{number}"' in form
    page = text_of(client.get(kept(client, **{"r.ohms": "3.57", "c.ohms": "22", "after": number})))
    assert "The old one" in page and "The new one" in page and "outside limits" in page and "within limits" in page


def test_nothing_is_kept_where_nothing_was_read(client):
    answer = client.post("/bench/coil/keep", data={"title": "Nothing", "limit": "3..4"})
    assert answer.status_code == 400 and "Nothing was read yet" in text_of(answer)


def test_sent_twice_it_is_kept_once(client, data_folder):
    fields = {**CLUTCH, "key": "k" * 24}
    first = client.post("/bench/coil/keep", data=fields).headers["Location"]
    assert client.post("/bench/coil/keep", data=fields).headers["Location"] == first


def job_with(client, title):
    """A new job on a circuit."""
    sheet = re.search(rf'<option value="(\d+)"[^>]*>{title}', client.get("/jobs/new").get_data(as_text=True))[1]
    where = client.post("/jobs/new", data={"vehicle": "1", "complaint": "It does not come down", "sheet": sheet}).headers["Location"]
    return int(where.split("/")[2])


def test_a_check_becomes_evidence_for_its_part_on_the_circuit(client, data_folder):
    job = job_with(client, "Tail-lift pump and lowering valve")
    where = client.get(f"/bench/of/{job}/1/Y3").headers["Location"]
    assert "part=Y3" in where and "limit=" in where and "Lowering" in where
    fields = {
        "title": "Lowering valve",
        "job": str(job),
        "part": "Y3",
        "limit": "ohms 20..60",
        "r.ohms": "OL",
        "c.ohms": "",
        "r.click": "no",
    }
    check = kept(client, **fields)
    assert "lowering valve Y3" in text_of(client.get(check))
    answer = client.post(f"{check}/job", data={"job": str(job), "on": "1:Y3"})
    assert answer.status_code == 302 and answer.headers["Location"] == f"/jobs/{job}/trace"
    entries = entries_of(opened(data_folder / DATABASE), job)[-3:]
    assert [entry.kind for entry in entries] == ["bench", "reading", "tried"]
    assert (entries[1].text("unplugged"), entries[1].text("value"), entries[2].text("outcome")) == ("Y3 alone", "OL", "fails")
    suspects = client.get(f"/jobs/{job}/trace").get_data(as_text=True).partition('aria-label="Suspects"')[2]
    assert re.search(r"owering valve", text_of_html(suspects)[:400]), text_of_html(suspects)[:400]
    record = client.get(f"/jobs/{job}").get_data(as_text=True)
    assert "Checked by itself" in record and f'href="{check}">its numbers' in record


def text_of_html(html):
    return re.sub(r"\s+", " ", re.sub(r"<[^>]+>", " ", html))


def test_a_concluded_circuit_takes_no_check(client):
    check = kept(client)
    answer = client.post(f"{check}/job", data={"job": "6", "on": "1:Y1"})  # the demo's kneeling valves
    assert answer.status_code == 400 and "reopen it with a reason" in text_of(answer)
    assert client.post(f"{check}/job", data={"job": "x"}).status_code == 400


def test_limits_are_written_versioned_and_taken_off(client):
    given = {"family": "coil", "what": "Horn coil", "limit": "ohms 3.2..3.6 @20C (maker: book 4)", "note": "x"}
    assert client.post("/bench/limits", data=given).status_code == 302
    page = client.get("/bench/coil?title=Horn+coil").get_data(as_text=True)
    assert 'data-limit="ohms 3.2..3.6 @20C (maker: book 4)"' in page
    number = re.search(r'/bench/limits/(\d+)"[^>]*><b>Horn coil', client.get("/bench/limits?q=horn").get_data(as_text=True))[1]
    client.post("/bench/limits", data={**given, "number": number, "limit": "ohms 3.3..3.6"})
    assert "version 2" in text_of(client.get(f"/bench/limits/{number}"))
    client.post(f"/bench/limits/{number}/withdraw")
    assert "taken off the list" in text_of(client.get(f"/bench/limits/{number}"))
    assert "None holds these words" in text_of(client.get("/bench/limits?q=horn+coil"))
    assert client.get("/bench/limits/999").status_code == 404


@pytest.mark.parametrize("limit", ["", "ohms 5..3", "<b>", "ohms 3..4 @-400C"])
def test_a_limit_that_is_none_gets_a_sentence_and_stays(client, limit):
    answer = client.post("/bench/limits", data={"family": "coil", "what": "Horn", "limit": limit})
    assert answer.status_code == 400 and 'value="Horn"' in answer.get_data(as_text=True)
    assert client.post("/bench/limits", data={"family": "coils", "limit": "3..4"}).status_code == 400


@pytest.mark.parametrize("kind", ["csv", "json"])
def test_limits_go_out_and_come_in_again(client, kind):
    text = client.get(f"/bench/limits.{kind}").get_data()
    assert b"Roof unit clutch" in text
    taken = client.post("/bench/limits/file", data={"file": (io.BytesIO(text), f"l.{kind}")}, follow_redirects=True)
    assert "0 limits were written, 3 were there already" in text_of(taken)
    more = (
        text + b"diode,,forward 0.5..0.7,\n"
        if kind == "csv"
        else json.dumps([*json.loads(text), {"family": "diode", "limit": "forward 0.5..0.7"}]).encode()
    )
    assert "1 limits were written" in text_of(
        client.post("/bench/limits/file", data={"file": (io.BytesIO(more), "l")}, follow_redirects=True)
    )


@pytest.mark.parametrize(
    ("text", "says"),
    [
        (b"", "The file is empty"),
        (b"a,b\n1,2", "heads the columns"),
        (b"family,limit\ncoil,5..3", "Line 2"),
        (b'[{"family": "coil"}]', "Entry 1"),
        (b"{", "no JSON"),
        (b"\xff\xfe", "no text"),
    ],
)
def test_a_file_that_is_wrong_names_its_line(client, text, says):
    answer = client.post("/bench/limits/file", data={"file": (io.BytesIO(text), "x.csv")})
    assert answer.status_code == 400 and says in text_of(answer)
    assert client.post("/bench/limits/file").status_code == 400


def test_a_meter_is_written_down_chosen_and_removed(client):
    given = {"name": "Red meter", "accuracy": "Ω 0.1% + 1", "ranges": "400 4k", "leads": "0.2", "thermometer": "1"}
    assert client.post("/bench/meters", data=given).status_code == 302
    page = client.get("/bench/meters?change=Red+meter").get_data(as_text=True)
    assert "400 4k" in page and "Ω 0.1% + 1" in page
    judged = text_of(client.post("/bench/coil", data={**CLUTCH, "meter": "Red meter", "r.ohms": "OL(400)"}))
    assert "4.00 kΩ range" in judged
    client.post("/bench/meters/remove", data={"name": "Red meter"})
    assert "Red meter" not in text_of(client.get("/bench/meters"))


@pytest.mark.parametrize(
    ("field", "text"),
    [("name", ""), ("accuracy", "good"), ("accuracy", "Ω 90% + 2"), ("ranges", "many"), ("leads", "OL"), ("thermometer", "-3")],
)
def test_a_meter_that_cannot_be_gets_a_sentence(client, field, text):
    answer = client.post("/bench/meters", data={"name": "Red meter", "accuracy": "Ω 1% + 2", field: text})
    assert answer.status_code == 400 and 'role="alert"' in answer.get_data(as_text=True)


@pytest.fixture
def wired(client):
    client.post("/bench/meters", data={"name": "Wired", "accuracy": "Ω 0.1% + 1", "address": "TCPIP0::127.0.0.1::1::SOCKET"})
    return client


def test_without_a_meter_on_the_wire_there_is_no_number(client):
    assert client.get("/live?unit=V").status_code == 204
    assert client.get("/live?unit=V&meter=Yellow+meter").status_code == 204


def test_a_live_number_is_held_when_it_has_come_to_rest(wired, monkeypatch):
    numbers = iter([11.0, 12.0, 12.39, 12.40, 12.40, 12.40, 12.41])
    monkeypatch.setattr(live, "read_live", lambda *given: Live(next(numbers), "V", False, None, "x"))
    told = [wired.get("/live?unit=V").get_json() for _ in range(7)]
    assert [one["steady"] for one in told] == [False, False, False, False, False, True, True]
    assert told[-1]["typed"] == "12.410" and told[-1]["shown"] == "12.41 V"
    # Another place is another series.
    monkeypatch.setattr(live, "read_live", lambda *given: Live(12.41, "V", False, None, "x"))
    assert wired.get("/live?unit=V&red=a").get_json()["steady"] is False


def test_over_range_is_typed_with_its_range_and_refused_for_volts(wired, monkeypatch):
    monkeypatch.setattr(live, "read_live", lambda *given: Live(9.9e37, "Ω", True, 400.0, "x"))
    assert wired.get("/live?unit=Ω").get_json()["typed"] == "OL(400.00)"
    monkeypatch.setattr(live, "read_live", lambda *given: Live(9.9e37, "V", True, 1.0, "x"))
    assert "Over range" in wired.get("/live?unit=V").get_json()["says"]


def test_trouble_on_the_wire_is_a_sentence_and_the_page_stands(wired, monkeypatch):
    def trouble(*given):
        raise MeterError("The meter does not answer: is it switched on, and its cable in?")

    monkeypatch.setattr(live, "read_live", trouble)
    assert wired.get("/live?unit=V").get_json()["says"].startswith("The meter does not answer")
    assert issubclass(MeterError, PondrelError) and wired.get("/bench/coil").status_code == 200


def test_the_trace_screen_has_a_live_strip_only_where_a_meter_is_on_the_wire(client, wired, data_folder):
    page = client.get("/jobs/4/trace?instrument=volts&in=open&red=la1.feed&black=batt-").get_data(as_text=True)
    assert "data-live=" in page
    client.post("/bench/meters/remove", data={"name": "Wired"})
    assert "data-live=" not in client.get("/jobs/4/trace?instrument=volts&in=open&red=la1.feed&black=batt-").get_data(as_text=True)


def test_a_vehicle_s_page_lists_what_was_checked_on_it(client):
    page = text_of(client.get("/vehicles/1"))
    assert "Parts checked by themselves" in page and "Roof unit clutch" in page and "4.00 Ω" in page
    assert "Parts checked by themselves" not in text_of(client.get("/vehicles/6"))
