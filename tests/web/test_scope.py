"""The scope's screens through the test client: taking captures, looking at stretches, marks, verdicts, and what is refused."""

from __future__ import annotations

import io
import re
import time

import numpy as np
import pytest

from pondrel.core.scope import PATTERNS
from pondrel.instruments.scope import Acquired
from pondrel.instruments.visa import MeterError
from pondrel.store.captures import judged_of, latest_captures, marks_of
from pondrel.store.entries import add_entry, entries_of
from pondrel.web.scope import live, taking

from ..data_lines import can_bits, differential, sampled
from .test_library import text_of

T = np.arange(10_000) / 500.0


def csv_of(share=0.6, period=2.0):
    volts = np.where((T / period + 1e-9) % 1.0 < share, 12.4, 0.02)
    return ("time [s],out [V]\n" + "".join(f"{t:.3f},{v:.2f}\n" for t, v in zip(T, volts, strict=True))).encode()


def taken(client, content=None, name="a.csv", **fields):
    content = csv_of() if content is None else content
    answer = client.post("/scope", data={"capture": (io.BytesIO(content), name), "says": "Regulator output", **fields})
    assert answer.status_code == 302, text_of(answer)
    return answer.headers["Location"]


def sent(client, address, **fields):
    return client.post(address, data=fields)


def test_a_capture_is_taken_in_and_shown_with_what_is_measured(client, conn):
    address = taken(client)
    page = text_of(client.get(address))
    assert "Regulator output" in page and "7.45 V" in page and "60 %" in page and "not judged yet" in page.lower()
    assert "cycle average" in page  # the standard's term
    assert latest_captures(conn, 1)[0].count == 10_000


def test_two_channels_that_pulse_alike_show_their_phase(client):
    on = lambda k: 5 if k % 100 < 40 else 0  # noqa: E731
    rows = "".join(f"{k / 1000:.3f},{on(k)},{on(k - 25)}\n" for k in range(2000))
    page = text_of(client.get(taken(client, ("t [s],feed [V],back [V]\n" + rows).encode())))
    assert "Back rises after feed" in page and "90°, 25.0 ms" in page


@pytest.mark.parametrize(
    ("content", "says"),
    [(b"hello\n" * 40, "no numbers"), (b"", "empty"), (b"a,b\n1,2\n", "lines of numbers"), (b"PK\x03\x04zip", "cannot be read")],
)
def test_what_is_no_capture_is_refused_in_a_sentence_and_nothing_is_kept(client, conn, content, says):
    before = len(latest_captures(conn, 99))
    answer = client.post("/scope", data={"capture": (io.BytesIO(content), "a.csv"), "says": "What I typed"})
    page = answer.get_data(as_text=True)
    assert answer.status_code == 400 and says in page and 'value="What I typed"' in page
    assert len(latest_captures(conn, 99)) == before
    assert "No file is chosen" in text_of(client.post("/scope", data={}))


def test_the_volts_at_full_scale_make_a_wav_measurable_and_wrong_ones_are_refused(client):
    import wave

    out = io.BytesIO()
    with wave.open(out, "wb") as file:
        file.setparams((1, 2, 1000, 0, "NONE", ""))
        file.writeframes((np.sin(np.arange(4000) / 9.0) * 16_000).astype("<i2").tobytes())
    page = text_of(client.get(taken(client, out.getvalue(), "a.wav", full_scale="20")))
    assert "9.77 V" in page
    answer = client.post("/scope", data={"capture": (io.BytesIO(out.getvalue()), "a.wav"), "full_scale": "-3"})
    assert answer.status_code == 400 and "above nought" in text_of(answer)


def test_a_stretch_is_served_in_as_many_columns_as_are_asked_for(client):
    address = taken(client)
    whole = client.get(f"{address}/view", query_string={"columns": 200}).json
    assert len(whole["channels"][0]["least"]) == 200 and max(whole["channels"][0]["most"]) == pytest.approx(12.4)
    part = client.get(f"{address}/view", query_string={"from": 1.0, "to": 1.1, "columns": 200}).json
    assert part["from"] == pytest.approx(1.0, abs=0.01) and part["channels"][0]["most"] is None and len(part["channels"][0]["least"]) >= 50
    for odd in ({"from": "x", "to": "nan", "columns": "-5"}, {"from": 1e300, "to": -1e300, "columns": 1e12}, {"columns": "inf"}):
        assert client.get(f"{address}/view", query_string=odd).status_code == 200
    between = client.get(f"{address}/between", query_string={"from": 2.0, "to": 4.0}).json
    assert between["channels"][0]["mean"] == pytest.approx(0.6 * 12.4 + 0.4 * 0.02, rel=1e-3)
    assert client.get("/scope/999/view").status_code == 404


def test_it_is_judged_kept_and_what_was_typed_comes_back(client, conn):
    address = taken(client)
    form = {"pattern": "bimetal_regulator", "s.gauge": "magnetic", "s.volts": "5", "s.supply": "12.6", "channel": "1"}
    page = text_of(client.get(sent(client, f"{address}/judge", **form).headers["Location"]))
    assert "outside limits" in page and "The gauges get 7.4" in page and 'value="12.6"' in client.get(address).get_data(as_text=True)
    capture = latest_captures(conn, 1)[0].id
    assert judged_of(conn, [capture])[capture].given["sets"] == {"supply": "12.6"}
    refused = sent(client, f"{address}/judge", **{**form, "s.supply": "many"})
    assert refused.status_code == 400 and "&#39;many&#39; is no reading" in refused.get_data(as_text=True)
    assert sent(client, f"{address}/judge", pattern="zeppelin").status_code == 400
    limited = sent(client, f"{address}/judge", **{**form, "limits": "average 7..8 V (maker: sheet 1)"})
    assert "within limits" in text_of(client.get(limited.headers["Location"]))


def test_after_a_refusal_what_it_is_can_still_be_chosen(client):
    """The page then stands at the refused form's own address, where nothing can be asked for."""
    address = taken(client)
    refused = sent(client, f"{address}/mark", at="later", says="Seat moved", channel="1")
    assert refused.status_code == 400
    (form,) = re.findall(r'<form method="get"[^>]*class="scope-choose">', refused.text)
    assert f'action="{address}"' in form and client.get(address, query_string={"as": "hall"}).status_code == 200


def test_every_pattern_has_its_page(client):
    address = taken(client)
    for name, pattern in PATTERNS.items():
        page = text_of(client.get(address, query_string={"as": name}))
        assert pattern.clip in page.replace("&#39;", "'")


def test_marks_tell_what_changed_and_are_struck(client, conn):
    volts = np.where(T < 10.0, (T / 2.0 + 1e-9) % 1.0 < 0.6, (T / 2.0 + 1e-9) % 1.0 < 0.4) * 12.4
    content = ("time [s],out [V]\n" + "".join(f"{t:.3f},{v:.2f}\n" for t, v in zip(T, volts, strict=True))).encode()
    address = taken(client, content)
    assert sent(client, f"{address}/mark", at="5,0", says="Loom flexed").status_code == 302
    assert sent(client, f"{address}/mark", at="10", says="", other="case pressed").status_code == 302
    page = text_of(client.get(address))
    assert "no change" in page and "average 7.44 V → 4.96 V" in page
    for fields, says in (
        ({"at": "soon", "says": "x"}, "is no time"),
        ({"at": "500", "says": "x"}, "not within this capture"),
        ({"at": "5"}, "Say what was moved"),
        ({"at": "nan", "says": "x"}, "not within"),
    ):
        answer = sent(client, f"{address}/mark", **fields)
        assert answer.status_code == 400 and says in text_of(answer)
    capture = latest_captures(conn, 1)[0].id
    first = marks_of(conn, capture)[0]
    assert sent(client, f"{address}/marks/{first.id}/strike").status_code == 302
    assert [mark.says for mark in marks_of(conn, capture)] == ["case pressed"]


def test_two_captures_are_laid_over_each_other_with_the_difference_in_words(client):
    before = taken(client)
    after = taken(client, csv_of(0.4, 1.5), says="After")
    other = before.rpartition("/")[2]
    page = text_of(client.get(after, query_string={"with": other}))
    assert "Share of time on 60 % → 40 %." in page and "One pulse every 2.00 s → 1.50 s." in page
    alike = text_of(client.get(taken(client), query_string={"with": other, "align": "start"}))
    assert "They are alike" in alike
    assert client.get(after, query_string={"with": "999"}).status_code == client.get(after, query_string={"with": "x"}).status_code == 200


def test_a_capture_of_a_job_is_in_its_record_with_its_verdict(client, conn):
    job = int(client.post("/jobs/new", data={"vehicle": "1", "complaint": "Needles tick"}).headers["Location"].split("/")[2])
    address = taken(client, job=str(job))
    sent(client, f"{address}/judge", pattern="bimetal_regulator", channel="1")
    texts = [entry.text("text") for entry in entries_of(conn, job) if entry.kind == "capture"]
    assert texts[0].startswith("Regulator output: 20 s") and "outside limits. The gauges get" in texts[1]
    page = text_of(client.get(f"/jobs/{job}"))
    assert page.count("on the scope") == 2 and f'href="{address}"' in client.get(f"/jobs/{job}").text
    add_entry(conn, job, "capture", {"text": "From another workshop", "capture": address.rpartition("/")[2]})
    assert text_of(client.get(f"/jobs/{job}")).count("on the scope") == 2
    assert "Captures of this job" in text_of(client.get("/scope", query_string={"job": job}))
    with client.get(f"{address}/file") as answer:
        assert answer.data == csv_of()


def test_a_data_line_is_read_to_its_frames(client):
    bits = [1] * 20 + [bit for k in range(30) for bit in can_bits(0x321, bytes([k] * 4))] + [1] * 20
    high, low = differential(sampled(bits, 250e3, 2.5e6), 0.01)
    out = io.BytesIO()
    np.savez(out, CAN_H=high, CAN_L=low, rate=2.5e6)
    address = taken(client, out.getvalue(), "bus.npz")
    page = text_of(client.get(f"{address}/bits"))
    assert "30 frames, no errors" in page and "321" in page and "1d 1d 1d 1d" in page
    assert "The line is as it should be." in page
    assert client.get(f"{address}/bits", query_string={"high": "zeppelin"}).status_code == 200


def test_a_large_file_is_read_apart_with_its_progress_and_can_be_called_off(client, conn, monkeypatch):
    monkeypatch.setattr(taking, "SMALL", 1000)
    address = taken(client, says="Long one")
    assert "/scope/coming/" in address
    for _ in range(200):
        state = client.get(f"{address}/state").json
        if state["ended"]:
            break
        time.sleep(0.1)
    assert state["address"] and not state["error"] and state["share"] == 1.0
    assert client.get(address).headers["Location"] == state["address"] and "Long one" in text_of(client.get(state["address"]))
    bad = taken(client, b"hello\n" * 400, says="None")
    for _ in range(200):
        state = client.get(f"{bad}/state").json
        if state["ended"]:
            break
        time.sleep(0.1)
    assert "no numbers in this file" in state["error"] and "no numbers" in text_of(client.get(bad))
    before = len(latest_captures(conn, 99))
    off = taken(client, says="Called off")
    assert client.post(f"{off}/off").status_code == 302
    for _ in range(200):
        if client.get(f"{off}/state").json["ended"]:
            break
        time.sleep(0.1)
    assert len(latest_captures(conn, 99)) == before
    assert client.get("/scope/coming/nothing").status_code == 302 and client.get("/scope/coming/nothing/state").status_code == 404


def test_what_was_made_ready_may_be_lost_and_is_made_anew(client, data_folder):
    import shutil

    address = taken(client)
    client.application.extensions["scope"].open.clear()
    shutil.rmtree(data_folder / "captures")
    assert "7.45 V" in text_of(client.get(address))


def test_a_capture_may_be_larger_than_other_forms(client):
    assert client.application.config["LARGER_FORMS"]["captures_taken.take"] > 500_000_000


class Wire:
    """A scope in place of one on the wire: a level that falls at a second of its own clock."""

    def __init__(self, falls=4.0):
        self.now, self.falls, self.broken = 0.0, falls, False

    def acquire(self, address, seconds, points, leads):
        if self.broken:
            raise MeterError("The meter does not answer: is it switched on, and its cable in? What was read before is kept.")
        self.now += 0.5
        times = self.now - seconds + np.arange(points) * seconds / points
        noise = np.random.default_rng(int(self.now * 10)).normal(0.0, 0.01, points)
        return Acquired(np.where(times < self.falls, 5.0, 3.0)[None, :] + noise, float(times[0]), seconds / points, "Bench scope")


@pytest.fixture
def wire(monkeypatch):
    own = Wire()
    clock = iter(np.arange(0.0, 1e6, 0.5))
    monkeypatch.setattr(live, "acquire", own.acquire)
    monkeypatch.setattr(live, "places_of", lambda address: ((), ()))
    monkeypatch.setattr(live.time, "monotonic", lambda: float(next(clock)))
    return own


def watched(client):
    answer = client.post("/scope/live", data={"address": "TCPIP0::127.0.0.1::5025::SOCKET", "says": "Feed at the plug", "speed": "slow"})
    assert answer.status_code == 302, text_of(answer)
    return answer.headers["Location"]


def test_a_scope_is_watched_marked_by_one_touch_and_kept_with_its_marks(client, conn, wire):
    address = watched(client)
    assert "Feed at the plug" in text_of(client.get(address))
    for _ in range(6):
        client.get(f"{address}/look")
    assert sent(client, f"{address}/mark", says="Seat moved").status_code == 302
    for _ in range(6):
        seen = client.get(f"{address}/look", query_string={"columns": 100}).json
    assert seen["says"] == "" and len(seen["channels"][0]["least"]) == 100
    (mark,) = seen["marks"]
    assert mark["what"] == "Seat moved" and mark["hit"] and mark["says"] == "average 5.00 V → 3.00 V"
    kept = client.post(f"{address}/keep", data={"key": ""}).headers["Location"]
    page = text_of(client.get(kept))
    assert "Seat moved" in page and "average 5.00 V → 3.00 V" in page and "Feed at the plug" in page
    assert latest_captures(conn, 1)[0].step == pytest.approx(1 / 500)
    assert client.get(address).status_code == 404  # it is watched no longer


def test_a_scope_that_falls_silent_says_so_and_keeps_what_there_was(client, wire):
    address = watched(client)
    for _ in range(4):
        client.get(f"{address}/look")
    wire.broken = True
    seen = client.get(f"{address}/look").json
    assert "does not answer" in seen["says"] and seen["channels"]
    refused = client.post("/scope/live", data={"address": "TCPIP0::127.0.0.1::5025::SOCKET", "says": "My words", "speed": "slow"})
    assert refused.status_code == 400 and 'value="My words"' in refused.get_data(as_text=True)


def test_the_form_for_watching_asks_for_an_address(client):
    assert "The scope's address" in text_of(client.get("/scope/live")).replace("&#39;", "'")
    looked = client.post("/scope/live", data={"address": "moon", "says": "My words", "job": "16", "look": "1"}).get_data(as_text=True)
    assert 'name="job" value="16"' in looked and 'value="My words"' in looked and "no address of a scope" in looked
    refused = client.post("/scope/live", data={"address": "moon"})
    assert refused.status_code == 400 and "no address of a scope" in text_of(refused)
    assert client.get("/scope/live/nothing").status_code == 404


GAUGES = "Fuel and temperature gauge on a pulsing regulator"


@pytest.fixture
def on_gauges(client):
    """A job with the gauges' circuit taken up, and a capture of its regulator that gives 7.4 V on the average."""
    job = int(client.post("/jobs/new", data={"vehicle": "1", "complaint": "Needles stand too high"}).headers["Location"].split("/")[2])
    page = client.get(f"/jobs/{job}").get_data(as_text=True)
    sheet = re.search(rf'<option value="(\d+)">{GAUGES}', page)[1]
    assert client.post(f"/jobs/{job}/traces", data={"sheet": sheet}).status_code == 302
    return job, taken(client, csv_of(0.6, 2.3), job=str(job))


LAID = {"trace": "1", "state": "warm and full", "red": "ivr.out", "black": "batt-", "channel": "1"}


@pytest.mark.slow
def test_a_capture_is_laid_on_its_circuit_and_its_numbers_become_readings(client, conn, on_gauges):
    job, address = on_gauges
    assert "Where was it taken?" in text_of(client.get(address))
    assert sent(client, f"{address}/on-circuit", **LAID).status_code == 302
    first = client.get(address).get_data(as_text=True)  # it comes at once; what takes seconds comes behind it
    assert "Working out what the circuit would draw" in first and "circuit=1" in re.search(r'data-pending="([^"]+)"', first)[1]
    page = text_of(client.get(f"{address}?circuit=1"))
    assert "data-pending" not in client.get(address).get_data(as_text=True)  # once worked out it is there
    assert "out: regulator output tag to battery minus post, warm and full" in page
    assert "As it should be does not fit" in page and "These as readings" in page
    courses = client.get(f"{address}/on-circuit/courses", query_string={"from": 2.0, "to": 6.0, "columns": 200}).json["courses"]
    assert courses[0]["sound"] and len(courses[0]["values"]) == 400 and max(courses[0]["values"]) == pytest.approx(12.6, abs=0.2)
    assert np.mean(courses[0]["values"]) == pytest.approx(5.0, rel=0.3) and len(courses) > 1
    assert sent(client, f"{address}/on-circuit/reading").status_code == 302
    read = {entry.text("instrument"): entry for entry in entries_of(conn, job) if entry.kind == "reading"}
    assert {name: float(entry.text("value")) for name, entry in read.items()} == {
        "scope": pytest.approx(7.44, abs=0.03), "top": pytest.approx(12.4, abs=0.03), "base": pytest.approx(0.0, abs=0.03),
    }  # fmt: skip
    assert read["top"].text("red") == "ivr.out" and "upper level of the capture" in read["top"].text("note")
    trace = text_of(client.get(f"/jobs/{job}/trace"))
    assert "Regulator case on the panel" in trace
    # Once it is read, the poor ground leads, and what it would draw fits what was captured.
    again = text_of(client.get(f"{address}?circuit=1"))
    assert re.search(r"Regulator case on the panel: corroded or painted over \d+ % fits what was captured", again), again[-1500:]
    assert "These are readings of the circuit." in again and "These as readings" not in again
    twice = sent(client, f"{address}/on-circuit/reading")
    assert twice.status_code == 400 and "readings of the circuit already" in text_of(twice)


def test_what_can_be_unplugged_begins_with_what_the_circuit_has(client, on_gauges):
    _, address = on_gauges
    assert "Begin with what the circuit has" in text_of(client.get(address))
    sent(client, f"{address}/on-circuit", **LAID)
    page = client.get(f"{address}?list=1").get_data(as_text=True)
    assert "fuel gauge 13 min: C20, tank sender" in page
    text = re.search(r"<textarea[^>]*>([^<]*)</textarea>", page[page.index('name="things"') - 60 :])[1]
    assert sent(client, f"{address}/things", things=text).status_code == 302
    assert "Begin with what" not in text_of(client.get(address))
    loose = taken(client)
    assert "Begin with what" not in text_of(client.get(loose)) and client.get(f"{loose}?list=1").status_code == 200


@pytest.mark.slow
def test_after_the_repair_another_capture_proves_it(client, conn, on_gauges):
    job, address = on_gauges
    sent(client, f"{address}/on-circuit", **LAID)
    sent(client, f"{address}/on-circuit/reading")
    assert client.post(f"/jobs/{job}/conclude", data={"target": "G30", "reason": "1.3 V from its case to the battery"}).status_code == 302
    assert "This circuit is concluded." in text_of(client.get(f"{address}?circuit=1"))
    assert "reopen it" in text_of(sent(client, f"{address}/on-circuit/reading"))
    way = re.search(r'name="option" value="(clean:[^"]+)"', client.get(f"/jobs/{job}/remedy").get_data(as_text=True))[1]
    for step, fields in (
        ("choose", {"option": way}),
        ("agreed", {"agrees": "yes", "who": "Jonne", "said": "go on"}),
        ("done", {"text": "Case cleaned", "minutes": "10", "reason": "battery is off"}),
    ):
        answer = client.post(f"/jobs/{job}/remedy/{step}", data=fields)
        assert answer.status_code == 302, re.findall("[^.]*error[^.]*", text_of(answer)) or text_of(answer)[:900]
    assert "or by another capture" in text_of(client.get(f"/jobs/{job}/proof"))
    after = taken(client, csv_of(0.4, 1.6), job=str(job))
    sent(client, f"{after}/on-circuit", **LAID)
    page = client.get(f"{after}?circuit=1").get_data(as_text=True)
    assert "The same once more, for the proof" in page
    fields = dict(re.findall(r'name="(capture|r\d+)" value="([^"]+)"', page))
    assert len(fields) == 4  # average, both levels, and which capture it is
    assert client.post(f"/jobs/{job}/proof/again", data=fields).headers["Location"].endswith("/proof")
    retaken = {entry.text("of"): entry.text("value") for entry in entries_of(conn, job) if entry.kind == "retaken"}
    read = {entry.id: entry.text("instrument") for entry in entries_of(conn, job) if entry.kind == "reading"}
    of = {read[int(number)]: float(value) for number, value in retaken.items()}
    assert of["scope"] == pytest.approx(4.96, abs=0.03)
    proof = text_of(client.get(f"/jobs/{job}/proof"))
    assert re.search(r"before 7\.4\d V outside limits after 4\.9\d V within limits", proof) and "Still missing: 1 good try" in proof


def test_where_it_was_taken_is_refused_where_it_cannot_be(client, on_gauges):
    job, address = on_gauges
    for change, says in (
        ({"red": "moon"}, "no place on this sheet"),
        ({"black": "ivr.out"}, "two different places"),
        ({"state": "flying"}, "no state"),
    ):
        answer = sent(client, f"{address}/on-circuit", **{**LAID, **change})
        assert answer.status_code == 400 and says in text_of(answer), text_of(answer)[:300]
    assert sent(client, f"{address}/on-circuit", **{**LAID, "trace": "9"}).status_code == 404
    assert "Say first where" in text_of(sent(client, f"{address}/on-circuit/reading"))
    amps = taken(client, csv_of().replace(b"out [V]", b"clamp [A]"), job=str(job))
    assert "'clamp' is in A: only volts" in text_of(sent(client, f"{amps}/on-circuit", **LAID)).replace("&#39;", "'")
    loose = taken(client)
    assert "circuit of its job" in text_of(sent(client, f"{loose}/on-circuit", **LAID))
    assert client.get(f"{loose}/on-circuit/courses").status_code == 404


def test_what_can_be_unplugged_is_opened_one_after_the_other(client, wire):
    address = watched(client)
    plan = "Junction at the sill 4 min: seat module, left door\nJunction behind the dash 6 min: radio, display"
    assert sent(client, f"{address}/things", things=plan).status_code == 302
    page = text_of(client.get(f"{address}?circuit=1"))
    assert "Junction at the sill off" in page and "radio off" in page
    for _ in range(6):
        seen = client.get(f"{address}/look").json
    assert seen["plan"]["next"] == "Junction at the sill" and not seen["plan"]["cleared"]
    sent(client, f"{address}/mark", says="Junction at the sill off")
    for _ in range(6):
        seen = client.get(f"{address}/look").json
    # The level fell at that mark: it is behind that junction.
    assert seen["marks"][0]["hit"] and set(seen["plan"]["cleared"]) == {"Junction behind the dash", "radio", "display"}
    kept = client.post(f"{address}/keep", data={"key": ""}).headers["Location"]
    page = text_of(client.get(kept))
    assert "Cleared: Junction behind the dash, radio, display." in page and "Open next: seat module, 3 min." in page
    assert sent(client, f"{kept}/things", things="a: b\nb: a").status_code == 400
    assert sent(client, f"{kept}/things", things="seat module 2 min").status_code == 302


def test_a_list_that_cannot_be_comes_back_as_it_was_typed(client, wire):
    address = watched(client)
    answer = sent(client, f"{address}/things", things="a\na")
    assert answer.status_code == 400 and "a second time" in text_of(answer) and ">a\na</textarea>" in answer.get_data(as_text=True)


def test_a_timers_contact_has_its_delay_behind_its_trigger(client):
    rows = "".join(f"{t:.3f},{12.4 if t > 2.0 else 0.02:.2f},{12.3 if t > 8.5 else 0.01:.2f}\n" for t in T)
    page = text_of(client.get(taken(client, ("time [s],trigger [V],contact [V]\n" + rows).encode())))
    assert "contact rises after trigger rises 6.50 s" in page


def test_what_blinks_on_a_channel_is_told_as_a_code_or_why_it_is_none(client):
    told = client.get("/scope/1/blinks?channel=1").get_json()
    assert set(told) == {"code", "says"} and told["says"]
    assert "is no channel of this capture" in client.get("/scope/1/blinks?channel=99").get_json()["says"]
    assert client.get("/scope/999/blinks").status_code == 404
