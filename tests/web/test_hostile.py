"""Whatever is asked of the application is answered in a sentence: no 500, no bare page, nothing cut in silence, nothing typed lost."""

from __future__ import annotations

import html
import random
import re
import socket
import time

import pytest

from pondrel.core.evidence.line import LONGEST_LINE
from pondrel.core.isolate.extent import MOST_PARTS, MOST_READINGS, TooMuchError, check_sheet
from pondrel.store.db import DATABASE, atomic, connect
from pondrel.store.entries import add_entry
from pondrel.store.jobs import add_job
from pondrel.store.sheets import add_sheet
from pondrel.store.traces import add_trace
from pondrel.web import MOST_BYTES, create_app
from pondrel.web.shell.guard import names_for

from ..circuits import STEP_LIGHT
from ..server import Server
from .test_views import reading, text_of

MANY = "9" * 5000
HUGE = 2**63 - 1


def says(response) -> str:
    return html.unescape(text_of(response))


@pytest.mark.parametrize(
    "path",
    [
        f"/jobs/{HUGE}", f"/jobs/{HUGE + 1}/trace", f"/jobs/{MANY}", f"/sheets/{HUGE}", f"/sheets/{MANY}/edit", "/jobs/0", "/jobs/-1",
        "/jobs/٣", "/jobs/1/../..", "/%00", "/jobs/1%00/trace",
    ],
)  # fmt: skip
def test_an_address_that_can_be_nothing_says_so(client, path):
    answer = client.get(path)
    assert answer.status_code == 404 and "nothing at this address" in says(answer)


@pytest.mark.parametrize(
    "query",
    [
        f"take={MANY}", f"since={MANY}", f"take={MANY}&since=-1", "take=-1", "take=٣", "since=²", "state=%00", "load=%ff",
        "view=x" * 500, "instrument=volts", "instrument=test&red=nothing", "instrument=amps&red=batt%2B&black=g3&in=open",
        "instrument=see&red=front&in=open",
        "instrument=lux&red=a&black=b", f"instrument=volts&in={MANY}&red={MANY}&black=", "instrument=skip&red=batt%2B",
        "instrument=when",
    ],
)  # fmt: skip
def test_whatever_stands_behind_the_question_mark_a_page_comes(client, query):
    assert client.get(f"/jobs/3/trace?{query}").status_code == 200
    assert client.get(f"/?page={MANY}&{query}").status_code == client.get(f"/sheets?q={query}&family=%00").status_code == 200
    assert client.get(f"/sheets/2?fault={query}&value={MANY}&state={query}").status_code == 200
    assert client.get(f"/jobs/3/preview?value={query}&{query}").status_code == 200


@pytest.mark.parametrize(
    ("form", "sentence"),
    [
        ({**reading("12"), "instrument": "test"}, "'test'"),
        ({**reading("12"), "instrument": "code"}, "'code'"),
        ({**reading("12"), "instrument": "see", "red": "moon"}, "nothing that can be seen"),
        ({**reading("12"), "instrument": "when"}, "is a number, but the question is"),
        (reading("0e99"), "no number that a meter shows"),
        (reading("1e-99"), "no number that a meter shows"),
        (reading("9" * 200), "is no reading"),
        (reading("is " * 3000), f"at most {LONGEST_LINE}"),
        (reading(" " * 50_000 + "wiggle" + " " * 50_000 + "moon changed"), "nothing on this sheet that can be wiggled"),
        (reading("x" * 100_000), f"at most {LONGEST_LINE}"),
        ({**reading("3.7"), "note": "n" * 2001}, "The note is 2,001 characters long"),
        ({**reading("3.7"), "note": "bell \x07"}, "holds a character that no screen can show (U+0007)"),
        ({**reading("3.7"), "state": "s" * 3000}, "The state is 3,000 characters long"),
    ],
)
def test_a_hostile_entry_gets_one_sentence_and_writes_nothing(client, form, sentence):
    answer = client.post("/jobs/4/readings", data=form)
    assert answer.status_code == 400 and sentence in says(answer)
    assert "0 standing" in says(client.get("/jobs/4/trace"))


@pytest.mark.parametrize(
    ("field", "length", "sentence"),
    [
        ("complaint", 2001, "The complaint is 2,001 characters long; at most 2,000 fit"),
        ("new_vehicle", 81, "The vehicle's name is 81 characters long; at most 80 fit"),
        ("person", 81, "The name of who has the job is 81 characters long"),
    ],
)
def test_a_text_beyond_its_limit_is_refused_and_kept(client, field, length, sentence):
    form = {"new_vehicle": "Bus 9", "complaint": "dark", "sheet": "1", field: "y" * length}
    answer = client.post("/jobs/new", data=form)
    assert answer.status_code == 400 and sentence in says(answer)
    assert "y" * length in answer.get_data(as_text=True)
    assert client.post("/jobs/new", data={**form, field: "y" * (length - 1)}).status_code == 302


@pytest.mark.parametrize("path", ["/jobs/2/readings/1/strike", "/jobs/1/reopen"])
def test_a_reason_beyond_its_limit_is_refused(client, path):
    answer = client.post(path, data={"reason": "r" * 501})
    assert answer.status_code == 400 and "The reason is 501 characters long" in says(answer)


def test_a_sheet_beyond_its_limit_is_refused_and_kept(client):
    text = STEP_LIGHT + "# " + "z" * 400_000
    answer = client.post("/sheets/new", data={"text": text, "note": "why"})
    assert answer.status_code == 400 and "a sheet has at most 200,000" in says(answer)
    assert "z" * 400_000 in answer.get_data(as_text=True)
    noted = client.post("/sheets/new", data={"text": STEP_LIGHT, "note": "n" * 301})
    assert noted.status_code == 400 and "at most 300 fit" in says(noted)


def test_a_request_beyond_all_limits_gets_a_page_of_its_own(client):
    answer = client.post("/jobs/new", data={"complaint": "w" * (MOST_BYTES + 1)})
    assert answer.status_code == 413 and "At most 32 MB are taken at once" in says(answer) and "Pondrel" in says(answer)


@pytest.mark.parametrize(("method", "path"), [("get", "/jobs/2/undo"), ("delete", "/jobs/1"), ("put", "/"), ("patch", "/sheets/1/edit")])
def test_another_method_gets_a_page_of_its_own(client, method, path):
    answer = getattr(client, method)(path)
    assert answer.status_code == 405 and "go back to the page and use its buttons" in says(answer)


BOMB = "a: &a [x,x,x,x,x,x,x,x,x]\n" + "\n".join(
    f"{name}: &{name} [{','.join([f'*{before}'] * 9)}]" for before, name in zip("abcdefgh", "bcdefghi", strict=True)
)


@pytest.mark.parametrize(
    "text",
    [BOMB, "title: !!bool abc", "!!omap [a: 1]", "access: {? [a] : 1}", "limits: [{what: {a: 1}}]", "[" * 3000, 'title: "\\ud800"', "\x00"],
)
def test_a_hostile_sheet_is_named_wrong_and_slows_nobody(client, text):
    answer = client.post("/sheets/check", data={"text": text})
    assert answer.status_code == 200 and answer.get_json()["flaws"]
    assert client.post("/sheets/new", data={"text": text}).status_code == 400
    assert client.get("/sheets").status_code == 200


LOCKING = (("g3", "7.12"), ("la2.feed", "11.30"), ("la2.gnd", "6.89"), ("la2.feed", "8.65"), ("la2.gnd", "5.90"), ("la2.gnd", "8.73"),
           ("la2.feed", "10.54"))  # fmt: skip


def test_contradictory_readings_are_said_to_be_so_on_every_page(client):
    for red, value in LOCKING:
        assert client.post("/jobs/4/readings", data=reading(value, red)).status_code == 302
    assert "do not go together" in says(client.get("/jobs/4/trace"))
    for path in ("", "/conclude", "/trace?view=why", "/trace?view=plan", "/preview?value=3&instrument=volts"):
        assert client.get(f"/jobs/4{path}").status_code == 200


@pytest.mark.parametrize(
    "what", ["pondrel.web.shell.workups.isolate", "pondrel.web.shell.workups.update", "pondrel.web.trace.page.findings_of"]
)
def test_whatever_fails_in_the_reckoning_the_log_undo_and_strike_stay_within_reach(cold_client, monkeypatch, what):
    def fails(*given, **more):
        raise ValueError("zero-size array")

    cold_client.post("/jobs/4/readings", data=reading("7.12"))
    monkeypatch.setattr(what, fails)
    page = cold_client.get("/jobs/4/trace")
    assert page.status_code == 200 and "7.12" in says(page)
    if "could not work this out" in says(page):
        assert "zero-size" not in says(page)
        assert cold_client.get("/jobs/4/conclude").status_code == 200
    assert (
        cold_client.get("/jobs/4").status_code
        == cold_client.get("/jobs/4/preview?value=3&state=open&instrument=volts&red=g3").status_code
        == 200
    )
    assert cold_client.post("/jobs/4/readings", data=reading("8.1"), headers={"X-Fragment": "1"}).status_code == 200  # written all the same
    page = cold_client.get("/jobs/4/trace").get_data(as_text=True)
    last = re.search(r'name="entry" value="(\d+)"', page)[1]
    assert cold_client.post("/jobs/4/undo", data={"entry": last}).status_code == 302
    first = re.findall(r"/jobs/4/readings/(\d+)/strike", page)[-1]
    assert cold_client.post(f"/jobs/4/readings/{first}/strike", data={"reason": "misread"}).status_code == 302
    monkeypatch.undo()
    assert "0 standing" in says(cold_client.get("/jobs/4/trace"))


def test_a_job_that_cannot_be_worked_out_can_be_concluded_with_a_reason(cold_client, monkeypatch):
    monkeypatch.setattr("pondrel.web.shell.workups.isolate", lambda *given: 1 / 0)
    monkeypatch.setattr("pondrel.web.shell.workups.update", lambda *given: 1 / 0)
    cold_client.post("/jobs/4/readings", data=reading("7.12"))
    assert "/jobs/4/conclude" in cold_client.get("/jobs/4/trace").get_data(as_text=True)
    form = cold_client.get("/jobs/4/conclude").get_data(as_text=True)
    assert 'value="G3"' in form and "%" not in text_of(cold_client.get("/jobs/4/conclude"))
    refused = cold_client.post("/jobs/4/conclude", data={"target": "G3", "reason": " "})
    assert refused.status_code == 400 and "give the reason" in says(refused)
    assert cold_client.post("/jobs/4/conclude", data={"reason": "seen"}).status_code == 400  # nothing chosen
    assert cold_client.post("/jobs/4/conclude", data={"target": "G3", "reason": "the stud was off"}).status_code == 302
    record = says(cold_client.get("/jobs/4"))
    assert "not worked out; concluded without proof: the stud was off" in record and "under 1 %" not in record
    assert cold_client.get("/jobs/4/trace").status_code == cold_client.get("/").status_code == 200
    monkeypatch.undo()
    assert "not worked out; concluded" in says(cold_client.get("/jobs/4"))


def with_readings(data_folder, job: int, rows) -> None:
    conn = connect(data_folder / DATABASE)
    with atomic(conn):
        for row in rows:
            content = dict(zip(("state", "instrument", "red", "black", "value"), row, strict=True))
            add_entry(conn, job, "reading", content, trace_id=job)
    conn.close()


def test_a_reading_that_can_no_longer_be_read_is_named_and_can_be_struck(client, data_folder):
    with_readings(data_folder, 4, [("open", "volts", "g3", "batt-", "0e99"), ("open", "volts", "moon", "batt-", "1")])
    page = client.get("/jobs/4/trace")
    assert "Reading 1 cannot be read any more" in says(page) and "Strike it out to go on" in says(page)
    number = re.findall(r"/jobs/4/readings/(\d+)/strike", page.get_data(as_text=True))[-1]
    client.post(f"/jobs/4/readings/{number}/strike", data={"reason": "no number"})
    assert "Reading 1 cannot be read any more: 'moon'" in says(client.get("/jobs/4/trace"))


def test_more_readings_than_are_weighed_at_once_are_kept_and_said_to_be_too_many(client, data_folder):
    with_readings(data_folder, 4, [("open", "volts", "g3", "batt-", "3.7")] * (MOST_READINGS + 1))
    page = says(client.get("/jobs/4/trace"))
    assert f"{MOST_READINGS + 1} readings stand; at most {MOST_READINGS} are weighed together" in page
    assert f"{MOST_READINGS + 1} standing" in page and "are weighed together" in says(client.get("/jobs/4"))


def large_sheet(parts: int) -> str:
    rows = "".join(f"  R{n}: {{kind: resistor, pins: {{a: n{n}, b: n{n + 1}}}, ohms: 1}}\n" for n in range(parts - 1))
    ends = f"  BAT: {{kind: battery, pins: {{p: n0, n: n{parts - 1}}}}}\n"
    return f"format: pondrel-sheet/1\ntitle: Many\nplaces: {{n0: {{}}, n5: {{}}}}\nparts:\n{ends}{rows}states: {{a: {{}}}}\n"


def test_a_circuit_with_more_parts_than_are_ranked_at_once_is_kept_and_says_so(client, data_folder):
    conn = connect(data_folder / DATABASE)
    with atomic(conn):
        job = add_job(conn, 1, "dark")
        add_trace(conn, job, add_sheet(conn, large_sheet(MOST_PARTS + 1)))
    conn.close()
    page = client.get(f"/jobs/{job}/trace")
    assert f"This circuit has {MOST_PARTS + 1} parts" in says(page)
    form = {"state": "a", "instrument": "volts", "red": "n5", "black": "", "value": "11"}
    assert client.post(f"/jobs/{job}/readings", data=form).status_code == 302
    assert "1 standing" in says(client.get(f"/jobs/{job}/trace"))
    assert client.get("/sheets").status_code == 200


def test_places_and_states_count_towards_what_is_worked_out_at_once(demo_sheets):
    from dataclasses import replace

    sheet = demo_sheets["tail_lift"]
    check_sheet(sheet)
    many = {f"s{n}": next(iter(sheet.states.values())) for n in range(1000)}
    with pytest.raises(TooMuchError, match="their product may be at most"):
        check_sheet(replace(sheet, states=many))


def test_work_that_takes_too_long_is_stopped_and_goes_on_from_there(cold_client, monkeypatch):
    monkeypatch.setattr("pondrel.web.shell.workups.BUDGET_SECONDS", 0.0)
    assert "took longer than 0 s and was stopped" in says(cold_client.get("/jobs/3/trace"))
    assert cold_client.get("/").status_code == cold_client.get("/sheets").status_code == 200
    monkeypatch.undo()
    assert "Suspects" in says(cold_client.get("/jobs/3/trace"))


def test_a_circuit_that_somebody_else_is_working_out_holds_up_no_other(client, monkeypatch):
    from pondrel.web.shell import workups as module

    monkeypatch.setattr(module, "WAIT_SECONDS", 0.05)
    client.get("/jobs/3/trace")
    prepared = list(client.application.extensions["workups"]._sheets.values())[-1]
    prepared.busy.acquire()
    try:
        assert "being worked out for somebody else" in says(client.get("/jobs/3/trace"))
        assert "Suspects" in says(client.get("/jobs/2/trace"))
    finally:
        prepared.busy.release()


def test_sheets_that_are_too_large_together_make_room_for_one_another(cold_client, monkeypatch):
    from pondrel.web.shell import workups as module

    monkeypatch.setattr(module, "MOST_BYTES", 1)
    monkeypatch.setattr(module, "WEIGH_SECONDS", 0.0)
    for job in (2, 3, 4, 2):
        assert "Suspects" in says(cold_client.get(f"/jobs/{job}/trace"))
    kept = cold_client.application.extensions["workups"]._sheets
    assert len(kept) == 1


@pytest.mark.parametrize("host", ["evil.example", "127.0.0.1.evil.example", "localhost.evil", "", "[::2]", "10.0.0.9:8765"])
def test_a_name_that_is_not_the_server_s_is_refused(client, host):
    answer = client.get("/", headers={"Host": host})
    assert answer.status_code == 400 and "does not answer under this name" in answer.get_data(as_text=True)


@pytest.mark.parametrize("host", ["localhost", "127.0.0.1:8765", "[::1]:8765", "LOCALHOST:1"])
def test_loopback_names_are_answered(client, host):
    assert client.get("/", headers={"Host": host}).status_code == 200


def test_more_names_are_allowed_on_purpose(data_folder):
    own = create_app(data_folder, names_for("192.168.7.7", ["depot.local"])).test_client()
    assert [own.get("/", headers={"Host": h}).status_code for h in ("192.168.7.7:8765", "depot.local", "localhost", "other.local")] == [
        200, 200, 200, 400,
    ]  # fmt: skip
    assert names_for("0.0.0.0") == names_for("127.0.0.1") == ("localhost", "127.0.0.1", "::1")
    assert "fd00::1" in names_for("[fd00::1]")


@pytest.mark.parametrize("origin", ["http://evil.example", "null", "https://localhost", "http://localhost:9"])
def test_a_post_from_another_page_writes_nothing(client, origin):
    answer = client.post("/jobs/4/readings", data=reading("3.7"), headers={"Origin": origin})
    assert answer.status_code == 403 and "nothing was written" in says(answer)
    assert "0 standing" in says(client.get("/jobs/4/trace"))


def test_a_post_from_its_own_page_is_taken(client):
    assert client.post("/jobs/4/readings", data=reading("3.7"), headers={"Origin": "http://localhost"}).status_code == 302


def test_half_sent_requests_hold_up_nobody_and_are_let_go(data_folder):
    server = Server(data_folder)
    host, port = server.base.removeprefix("http://").split(":")
    halves = []
    try:
        for n in range(150):
            half = socket.create_connection((host, int(port)), timeout=5)
            half.sendall(b"POST /jobs/4/readings HTTP/1.1\r\nHost: localhost\r\nContent-Length: 99\r\n" + b"\r\nstate=" * (n % 2))
            halves.append(half)
        assert "Bay" in server.get("/")
        end, left = time.monotonic() + 30.0, list(halves)
        while left and time.monotonic() < end:  # the server's own time-out lets them go
            time.sleep(0.5)
            left = [half for half in left if not closed(half)]
        assert not left
        assert "Bay" in server.get("/")
    finally:
        for half in halves:
            half.close()
        server.kill()


def closed(half: socket.socket) -> bool:
    half.setblocking(False)
    try:
        return half.recv(1) == b""
    except BlockingIOError:
        return False
    except OSError:
        return True


def test_random_forms_and_addresses_never_end_in_a_trace(client):
    """Words of the application in the wrong places, by chance."""
    rng = random.Random(9)
    words = ["", "0", "1", "-1", MANY, "\x00", *"open volts g3 batt- 12.4 OL test see front dim (nothing) G3".split()]  # noqa: SIM905
    names = "state instrument red black value note answer skip sure target reason entry order view since".split()  # noqa: SIM905
    paths = [*(f"/jobs/4/{what}" for what in ("readings", "undo", "order", "conclude", "reopen")), "/jobs/new", "/sheets/1/corrections"]
    for _ in range(60):
        form = {name: rng.choice(words) for name in rng.sample(names, rng.randint(0, len(names)))}
        assert client.post(rng.choice(paths), data=form).status_code in (200, 302, 400, 404, 422)
