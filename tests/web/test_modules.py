"""The room of modules through the test client: a talk with the simulated vehicle, its locks, the finger on an output, chains."""

from __future__ import annotations

import io
import sqlite3
import time

import pytest

from pondrel.core.evidence.hazards import HAZARDS
from pondrel.core.talk.exchange import Exchange
from pondrel.demo.load import ROSTERS
from pondrel.store.entries import entries_of
from pondrel.store.jobs import add_job
from pondrel.store.rosters import add_roster, all_rosters
from pondrel.store.talks import add_exchanges, add_talk, exchanges_of, talk_row, talks_of
from pondrel.store.traces import traces_of
from pondrel.web.modules import live
from tests.odx_file import odx, pdx
from tests.served import roster_named, served

from .test_library import text_of

BUS_4, LIBRARY_2, CART = 2, 1, 9
FINGER = 1.5  # s: a busy machine may be late with a word; an output of this vehicle is held for 4 s at most


def until(true, seconds: float = 20.0):
    end = time.monotonic() + seconds
    while not (found := true()):
        assert time.monotonic() < end, "it did not come to that"
        time.sleep(0.02)
    return found


class Talk:
    """A talk through the client."""

    def __init__(self, client, vehicle: int, address: str, job: int | None = None):
        self.client = client
        answer = client.post(f"/modules/vehicle/{vehicle}", data={"address": address, "job": job or ""})
        assert answer.status_code == 302, text_of(answer)
        self.at = answer.headers["Location"]

    def state(self):
        return self.client.get(f"{self.at}/state").get_json()

    def do(self, what: str, **fields):
        """Touch a button, and wait until it is done."""
        before = self.state()["version"]
        answer = self.client.post(f"{self.at}/{what}", data=fields)
        assert answer.status_code in (200, 302), text_of(answer)
        if what != "safe":  # whatever is asked for begins with one change and ends with another
            until(lambda: (state := self.state())["version"] >= before + 2 and not state["busy"])
        return answer

    def page(self, module: str = "") -> str:
        return text_of(self.client.get(f"{self.at}?module={module}"))

    def end(self):
        self.client.post(f"{self.at}/end")
        until(lambda: self.state()["ended"])


@pytest.fixture
def kneeling():
    with served(roster_named("hop_16"), "kneeling_valves", ["Y2.open"], "ready") as own:
        yield own


def new_job(conn, vehicle: int) -> int:
    return add_job(conn, vehicle, "Kneels on one side only", person="Oda")


def kinds(conn, job: int) -> list[str]:
    return [entry.kind for entry in entries_of(conn, job)]


def test_a_talk_for_a_job_leaves_its_roll_call_codes_and_movements_in_the_record(client, conn, kneeling):
    job = new_job(conn, BUS_4)
    talk = Talk(client, BUS_4, kneeling.bus, job)
    talk.do("call")
    assert "All 3 answer." in talk.page()
    talk.do("codes", all="yes")
    page = talk.page("air")
    assert (
        "C1B22-13" in page and "Because of it the module keeps off: right vent valve" in page and "the right front does not kneel" in page
    )
    talk.do("data", module="air")
    assert "25.20 V" in talk.page("air") and "should be 22 to 30 V" in talk.page("air")
    entries = entries_of(conn, job)
    assert [entry.kind for entry in entries] == ["roll_call", "scan"]
    assert entries[0].text("answered") == "Gateway, Air module, Dash module" and "C1B22" in entries[1].text("codes")
    talk.end()
    row = talks_of(conn, 1, job_id=job)[0]
    said = exchanges_of(conn, row.id)
    assert row.lines == len(said) and {one.module for one in said} == {"gateway", "air", "dash"}
    kept = text_of(client.get(f"/modules/talk/{row.id}"))
    assert "1 code: C1B22-13 (present)" in kept and "3E 00 → 7E 00" in kept
    assert "This talk is over" in talk.page("air")


def test_what_was_said_is_on_the_disk_while_the_talk_goes_on(client, conn, kneeling):
    talk = Talk(client, BUS_4, kneeling.bus)
    talk.do("call")
    number = talks_of(conn, 1)[0].id
    until(lambda: {one.module for one in exchanges_of(conn, number)} == {"gateway", "air", "dash"})
    talk.end()


def hold(talk, thing="left_vent", command="open"):
    return talk.client.post(f"{talk.at}/hold", data={"module": "air", "thing": thing, "command": command})


def make_safe(talk, thing="left_vent"):
    page = talk.page("air")
    for text in ("Air springs: pull the fuse of the pump", "The left front sinks"):
        whole = next(part for part in page.split("\n") if text in part)
        start = whole.index(text)
        caution = next(c for c in cautions() if c.startswith(text) and c in whole[start : start + 300])
        talk.do("safe", module="air", thing=thing, text=caution)


def cautions() -> list[str]:
    return [HAZARDS["air_springs"].caution, roster_named("hop_16").modules["air"].outputs["left_vent"].caution]


def test_an_output_is_locked_moves_under_a_finger_and_goes_back_when_the_finger_is_gone(client, conn, kneeling, monkeypatch):
    monkeypatch.setattr(live, "FINGER_S", FINGER)
    job = new_job(conn, BUS_4)
    talk = Talk(client, BUS_4, kneeling.bus, job)
    assert "Hold: open" not in talk.page("air").split("Right vent valve")[0]
    hold(talk)
    until(lambda: "locked until this is made safe" in talk.state()["error"])
    assert kneeling.world.driven.get("N7.5") is None
    make_safe(talk)
    assert [kind for kind in kinds(conn, job) if kind == "caution"] == ["caution", "caution"]
    assert "Hold: open" in talk.page("air")
    assert hold(talk).status_code == 200
    until(lambda: kneeling.world.driven.get("N7.5") == "on")
    began = time.monotonic()
    while time.monotonic() - began < 1.4 * FINGER:
        assert client.post(f"{talk.at}/keep").get_json() == {"held": True}
        time.sleep(0.1)
    assert kneeling.world.driven["N7.5"] == "on"
    until(lambda: "N7.5" not in kneeling.world.driven)  # the page is gone: no word more
    state = until(lambda: (found := talk.state()["held"])["ended"] and found)
    assert state["why"] == "Nobody held it any more." and "should move by 20 mm within 3 s" in state["came"]
    until(lambda: "moved" in kinds(conn, job))
    talk.end()


def test_letting_go_the_longest_time_and_the_end_of_the_talk_all_give_it_back(client, kneeling):
    talk = Talk(client, BUS_4, kneeling.bus)
    make_safe(talk)

    def until_back(does) -> str:
        hold(talk)
        until(lambda: kneeling.world.driven.get("N7.5") == "on")
        does()
        until(lambda: "N7.5" not in kneeling.world.driven)
        return until(lambda: (found := talk.state()["held"])["ended"] and found)["why"]

    assert until_back(lambda: client.post(f"{talk.at}/let-go")) == "It was let go."

    def for_ever():
        while "N7.5" in kneeling.world.driven:
            client.post(f"{talk.at}/keep")
            time.sleep(0.1)

    assert until_back(for_ever) == "Its 4 s were over."
    assert until_back(lambda: client.post(f"{talk.at}/end")) == "The talk was ended."
    assert hold(talk).status_code == 400


def test_whoever_presses_again_while_it_goes_back_waits_for_it(client, kneeling):
    talk = Talk(client, BUS_4, kneeling.bus)
    make_safe(talk)
    assert hold(talk).status_code == 200
    until(lambda: kneeling.world.driven.get("N7.5") == "on")
    client.post(f"{talk.at}/let-go")
    assert hold(talk).status_code == 200  # at once
    until(lambda: client.post(f"{talk.at}/keep") and talk.state()["held"]["commanded"])
    client.post(f"{talk.at}/let-go")
    until(lambda: talk.state()["held"]["ended"])
    talk.end()


@pytest.mark.parametrize(("heard", "says"), [("yes", "valve, feed and line do their work"), ("no", "counts more than the sound")])
def test_after_an_output_moved_it_is_asked_whether_it_was_heard(client, conn, kneeling, monkeypatch, heard, says):
    monkeypatch.setattr(live, "FINGER_S", 20.0)
    job = new_job(conn, BUS_4)
    talk = Talk(client, BUS_4, kneeling.bus, job)
    client.post(f"{talk.at}/heard", data={"module": "air", "heard": heard})
    assert "hold an output first" in talk.page("air")
    make_safe(talk)
    hold(talk)
    until(lambda: client.post(f"{talk.at}/keep") and (v := talk.state()["held"]["values"]) and v[-1][1] < -16.0)
    client.post(f"{talk.at}/let-go")
    until(lambda: talk.state()["held"]["ended"])
    assert "Was it heard: air hisses at the left front?" in talk.page("air")
    client.post(f"{talk.at}/heard", data={"module": "air", "heard": heard})
    page = talk.page("air")
    assert says in page and "Was it heard" not in page
    assert any(says in e.text("text") for e in entries_of(conn, job) if e.kind == "moved")
    assert "Trace it: Kneeling valves at the front axle" in page
    assert client.post(f"{talk.at}/trace").headers["Location"] == f"/jobs/{job}/trace"
    seen = entries_of(conn, job)[-1]
    assert (seen.kind, seen.text("subject"), seen.text("outcome")) == ("see", "left valve", "moves") and says in seen.text("note")
    talk.end()


def test_what_was_moved_is_watched_afterwards_whether_it_stays(client, conn, monkeypatch):
    monkeypatch.setattr(live, "FINGER_S", 20.0)
    with served(roster_named("reader_75"), "wired_roof_bow", [], "unlatched") as own:
        job = add_job(conn, LIBRARY_2, "The roof sinks again", person="Oda")
        talk = Talk(client, LIBRARY_2, own.bus, job)
        for text in (HAZARDS["pinch"].caution, own.life.roster.module("roof").output("pump").caution):
            talk.do("safe", module="roof", thing="pump", text=text)
        client.post(f"{talk.at}/hold", data={"module": "roof", "thing": "pump", "command": "run"})
        until(lambda: client.post(f"{talk.at}/keep") and (v := talk.state()["held"]["values"]) and (v[-1][1] or 0.0) > 70.0)
        client.post(f"{talk.at}/let-go")
        until(lambda: "It stays" in talk.page("roof"))  # it loses 2 bar a second, and 20 in 4 s are right
        told = until(lambda: [e.text("text") for e in entries_of(conn, job) if e.kind == "moved"][1:])
        assert told[-1].startswith("Roof pump, after run: It stays: ") and "at most 20 bar are right" in told[-1]
        talk.end()


def test_one_output_at_a_time(client, kneeling):
    talk = Talk(client, BUS_4, kneeling.bus)
    make_safe(talk)
    hold(talk)
    second = hold(talk, "right_vent")
    assert second.status_code == 400 and "One output at a time" in second.get_json()["error"]
    client.post(f"{talk.at}/let-go")
    talk.end()


def test_a_caution_of_something_else_makes_nothing_safe(client, kneeling):
    talk = Talk(client, BUS_4, kneeling.bus)
    talk.do("safe", module="air", thing="left_vent", text="It will be all right")
    assert "This caution is not of this output" in talk.state()["error"]
    hold(talk)
    until(lambda: "locked" in talk.state()["error"])
    talk.end()


def test_codes_are_cleared_once_the_loss_is_known_and_what_is_wrong_comes_back(client, conn, kneeling):
    job = new_job(conn, BUS_4)
    talk = Talk(client, BUS_4, kneeling.bus, job)
    talk.do("clear", module="air")
    assert "Say first that you know what clearing loses" in talk.state()["error"] and "cleared" not in kinds(conn, job)
    talk.do("clear", module="air", known="yes")
    assert kinds(conn, job)[-2:] == ["cleared", "scan"] and "C1B22-13" in talk.page("air")
    kneeling.world.mend()
    talk.do("clear", module="air", known="yes")
    assert "It has no code." in talk.page("air")
    talk.end()


def test_a_code_leads_to_its_circuit_with_the_code_as_first_evidence(client, conn, kneeling):
    job = new_job(conn, BUS_4)
    talk = Talk(client, BUS_4, kneeling.bus, job)
    talk.do("codes", module="air")
    address = f"/modules/vehicle/{BUS_4}/code/air/C1B22-13/trace?job={job}"
    assert address.replace("&", "&amp;") in client.get(f"{talk.at}?module=air").get_data(as_text=True)
    answer = client.post(address)
    assert answer.headers["Location"].startswith(f"/jobs/{job}/trace") and len(traces_of(conn, job)) == 1
    seen = next(e for e in entries_of(conn, job) if e.kind == "see")
    assert (seen.text("subject"), seen.text("outcome"), seen.text("state")) == ("module right", "open", "kneel right")
    assert "as air module says: C1B22-13" in seen.text("note")
    assert client.get(answer.headers["Location"]).status_code == 200
    talk.end()


@pytest.mark.parametrize(
    ("address", "says"),
    [
        ("socketcand://127.0.0.1:1/can0", "Nobody listens at 127.0.0.1 port 1"),
        ("", "Say where the modules are reached"),
        ("x" * 400, "The address is 400 characters long"),
        ("kline:/dev/none", "cannot be reached"),
        ("javascript:alert(1)", "is no interface"),
    ],
)
def test_where_nobody_is_reached_it_is_said_and_what_was_typed_stays(client, address, says):
    answer = client.post(f"/modules/vehicle/{BUS_4}", data={"address": address})
    assert answer.status_code == 400 and says in text_of(answer)
    assert not address or address[:20] in text_of(answer) or address[:20] in answer.get_data(as_text=True)


def test_a_vehicle_that_nobody_knows_has_no_page_and_a_talk_that_is_none_neither(client):
    assert client.get("/modules/vehicle/99").status_code == 404
    for address in ("/modules/vehicle/999", "/modules/live/none", "/modules/talk/999", "/modules/roster/999", "/modules/live/none/state"):
        assert client.get(address).status_code == 404
    assert client.get(f"/modules/vehicle/{BUS_4}/function/none").status_code == 404


def test_rosters_are_taken_in_shown_and_given_back(client, conn):
    text = (ROSTERS / "hop_16.yaml").read_text().replace("Hop 16, chassis", "Hop 20, chassis").replace("model: Hop 16", "model: Hop 20")
    answer = client.post("/modules/roster", data={"roster": (io.BytesIO(text.encode()), "hop.yaml")})
    address = answer.headers["Location"]
    page = text_of(client.get(address))
    assert "Community bus Hop 20, chassis modules" in page and "switches off: left vent valve" in page
    assert client.get(f"{address}/file").get_data(as_text=True) == text
    again = client.post("/modules/roster", data={"roster": (io.BytesIO(text.encode()), "hop.yaml")})
    assert again.headers["Location"] == address  # the same text is the one that is there
    changed = text.replace("driver's locker", "rear locker")
    newer = client.post("/modules/roster", data={"roster": (io.BytesIO(changed.encode()), "hop.yaml")}).headers["Location"]
    assert newer != address and [row.id for row in all_rosters(conn) if "Hop 20" in row.title] == [int(newer.rpartition("/")[2])]


@pytest.mark.parametrize(
    ("content", "says"),
    [
        (b"", "must be a mapping"), (b"\xff\xfe", "is no text"), (b"format: pondrel-sheet/1", "must be pondrel-modules/1"),
        (b"format: pondrel-modules/1\ntitle: T\nmodules: {a: {asks: 1, answers: 1}}", "must differ"),
        (b"{" * 50, "a key must be a plain name"),
    ],
)  # fmt: skip
def test_a_file_that_is_no_roster_is_refused_with_a_sentence(client, content, says):
    answer = client.post("/modules/roster", data={"roster": (io.BytesIO(content), "odd.yaml")})
    assert answer.status_code == 400 and says in text_of(answer)
    assert "No file is chosen" in text_of(client.post("/modules/roster", data={}))


def test_the_chain_takes_what_the_modules_say_and_leads_to_the_circuit_of_the_silent_partner(client, conn):
    job = add_job(conn, LIBRARY_2, "The roof does nothing but blink", person="Oda")
    with served(roster_named("reader_75"), "wired_roof_bow", ["F31.open"], "unlatched") as own:
        chain = f"/modules/vehicle/{LIBRARY_2}/function/roof?job={job}"
        assert "7 are not asked yet" in text_of(client.get(chain)) and "ask the module that knows supply" in text_of(client.get(chain))
        talk = Talk(client, LIBRARY_2, own.bus, job)
        talk.do("links", function="roof")
        page = text_of(client.get(chain))
        assert "Bow module is silent, and that explains the whole" in page and "5 hold, 1 does not, 1 cannot be known" in page
        assert "It hangs on Folding roof of the reading bus, bow module and latch" in page
        answer = client.post(f"/modules/vehicle/{LIBRARY_2}/function/roof/trace?job={job}")
        assert answer.headers["Location"].startswith(f"/jobs/{job}/trace")
        seen = [(e.text("state"), e.text("subject"), e.text("outcome")) for e in entries_of(conn, job)[-2:]]
        assert seen == [("latched", "bow module answers", "silent"), ("latched", "roof module answers", "answers")]
        talk.end()


def test_what_somebody_sees_of_a_link_is_a_line_of_the_record_and_can_be_taken_back(client, conn):
    job = add_job(conn, CART, "It will not go into drive", person="Oda")
    chain = f"/modules/vehicle/{CART}/function/drive?job={job}"
    client.post(chain, data={"condition": "flap", "word": "no"})
    assert "Charge flap should be shut and is not: drive waits for that." in text_of(client.get(chain))
    line = entries_of(conn, job)[-1]
    assert (line.kind, line.text("title"), line.text("word")) == ("link", "Drive: Charge flap", "no")
    client.post(chain, data={"condition": "flap", "word": "?"})
    assert "7 are not asked yet" in text_of(client.get(chain))
    refused = client.post(chain, data={"condition": "lid", "word": "no"})
    assert refused.status_code == 400 and "no condition" in text_of(refused)
    assert "Charge flap" in text_of(client.get(f"/jobs/{job}"))


def test_without_a_job_what_is_seen_stands_in_the_address(client):
    answer = client.post(f"/modules/vehicle/{CART}/function/drive", data={"condition": "brake", "word": "no"})
    assert "f.brake=no" in answer.headers["Location"]
    page = text_of(client.get(answer.headers["Location"]))
    assert "Brake pedal should be pressed and is not" in page
    again = client.post(answer.headers["Location"], data={"condition": "key", "word": "yes"})
    assert "f.brake=no" in again.headers["Location"] and "f.key=yes" in again.headers["Location"]
    assert client.get(f"/modules/vehicle/{CART}/function/drive?f.brake=12;drop&f.none=yes").status_code == 200


def test_what_was_said_is_never_changed_and_never_deleted(conn):
    roster = add_roster(conn, (ROSTERS / "hop_16.yaml").read_text())
    talk = add_talk(conn, BUS_4, None, roster, "virtual:x")
    add_exchanges(conn, talk, [Exchange(0.1, "air", b"\x3e\x00", b"\x7e\x00", 0.01), Exchange(0.2, "", b"", b"", 0.0, "made safe")])
    assert talk_row(conn, talk).lines == 2 and [one.fault for one in exchanges_of(conn, talk, 1, 1)] == ["made safe"]
    for words in ("UPDATE exchange SET fault = 'x'", "DELETE FROM exchange", "UPDATE talk SET person = 'x'", "DELETE FROM roster"):
        with pytest.raises(sqlite3.IntegrityError, match="never"):
            conn.execute(words)


def test_what_the_driver_misses_leads_to_a_code_and_what_several_outputs_hang_on_is_said(client, conn):
    number = next(row.id for row in all_rosters(conn) if "Carrall" in row.title)
    page = text_of(client.get(f"/modules/roster/{number}?missing=fifth+and+sixth+gear"))
    assert "P0765-13 Shift valve D circuit open , gearbox module" in page.replace("  ", " ")
    assert "stop together when one of these is open:" in page and "gearbox fuse" in page
    assert "No code of these modules takes that away." in text_of(client.get(f"/modules/roster/{number}?missing=the+radio"))
    assert client.get(f"/modules/roster/{number}?missing=" + "x" * 5000).status_code == 200


def test_a_number_that_was_typed_is_the_first_reading_of_the_circuit(client, conn):
    job = add_job(conn, CART, "It will not go into drive", person="Oda")
    chain = f"/modules/vehicle/{CART}/function/drive?job={job}"
    for link, word in {"key": "yes", "manager": "yes", "loop": "2.1 V"}.items():
        client.post(chain, data={"condition": link, "word": word})
    assert "Crash loop should be closed and is not (2.1 V)" in text_of(client.get(chain))
    answer = client.post(f"/modules/vehicle/{CART}/function/drive/trace?job={job}")
    assert answer.headers["Location"].startswith(f"/jobs/{job}/trace")
    seen = entries_of(conn, job)[-1]
    assert (seen.kind, seen.text("red"), seen.text("value"), seen.text("state")) == ("reading", "n1.loop", "2.1", "key on")


def test_a_roster_is_taken_in_from_a_package_for_a_vehicle(client, conn):
    sent = {"roster": (io.BytesIO(pdx()), "ramp.pdx"), "vehicle": str(BUS_4)}
    answer = client.post("/modules/roster", data=sent)
    assert answer.status_code == 302, text_of(answer)
    assert "Ramp module" in text_of(client.get(answer.headers["Location"]))
    assert all_rosters(conn)[0].roster.fits
    refused = client.post("/modules/roster", data={"roster": (io.BytesIO(odx(ids=False).encode()), "ramp.odx-d")})
    assert refused.status_code == 400 and "does not say on which CAN identifiers" in text_of(refused)


def test_without_a_talk_a_chain_takes_the_last_roll_call_of_its_job(client, conn):
    page = text_of(client.get(f"/modules/vehicle/{LIBRARY_2}/function/roof?job=18"))  # the demo's: the bow module was silent there
    assert "Bow module is silent, and that explains the whole" in page and "It hangs on Folding roof" in page and "Next: " in page, page
    answer = client.post(f"/modules/vehicle/{LIBRARY_2}/function/roof/trace?job=18")
    assert answer.status_code == 302 and "/jobs/18/trace" in answer.headers["Location"]
    other = add_job(conn, LIBRARY_2, "The roof rattles", person="Oda")
    assert "Nothing is known to be missing yet" in text_of(client.get(f"/modules/vehicle/{LIBRARY_2}/function/roof?job={other}"))
