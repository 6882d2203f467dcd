"""Renewing and resetting a module through the test client: in order, locked until safe, accepted by the module, refused where it must."""

from __future__ import annotations

import re

import pytest

from pondrel.core.evidence.hazards import HAZARDS
from pondrel.core.job.renewing import renewing_of
from pondrel.core.remedy.reset.allowed import STANDING
from pondrel.store.conclusions import add_conclusion
from pondrel.store.entries import entries_of
from pondrel.store.jobs import add_job
from pondrel.web.modules import renewing, teaching, waking
from tests.served import roster_named, served

from .test_library import text_of
from .test_modules import Talk, until

CAR, LIBRARY_2 = 6, 1
BRAKES = roster_named("ferrow").module("brakes")
YARD = BRAKES.renewal.steps["yard"]


@pytest.fixture
def job(conn):
    return add_job(conn, CAR, "Brake and skid lamp stay on", person="Oda")


class Renewal:
    """The page of a renewal, touched through the client."""

    def __init__(self, client, conn, job: int, module: str = "brakes"):
        self.client, self.conn, self.job = client, conn, job
        self.at = f"/modules/vehicle/{CAR}/renew/{module}?job={job}"
        self.module = roster_named("ferrow").module(module)

    def page(self) -> str:
        return text_of(self.client.get(self.at))

    def say(self, step: str, result: str = "done", text: str = "x"):
        return self.client.post(self.at, data={"step": step, "result": result, "text": text})

    def ask(self, step: str):
        return self.client.post(self.at.replace("?", "/ask?"), data={"step": step})

    def safe(self, step: str, text: str):
        return self.client.post(self.at.replace("?", "/safe?"), data={"step": step, "text": text})

    @property
    def standing(self):
        return renewing_of(self.module, entries_of(self.conn, self.job))

    @property
    def next(self) -> str:
        return self.standing.next.step.name if self.standing.next else ""

    def come_to(self, step: str) -> None:
        """Say all steps before one as done by hand."""
        words = {"right_part": "BT-4410-C", "straight": "0.4", "teach": "another tester: taught"}
        while self.next != step:
            name = self.next
            for caution in (HAZARDS["steering_brakes"].caution, *filter(None, (BRAKES.routines["teach"].caution, YARD.caution))):
                self.safe(name, caution)
            answer = self.say(name, text=words.get(name, "x"))
            assert answer.status_code == 302, text_of(answer)


def test_without_a_job_it_is_looked_at_and_nothing_is_written(client, conn):
    at = f"/modules/vehicle/{CAR}/renew/brakes"
    assert "Looked at without a job" in text_of(client.get(at))
    answer = client.post(at, data={"step": "old_read", "result": "done", "text": "x"})
    assert answer.status_code == 400 and "open a job for the vehicle" in text_of(answer)


@pytest.mark.parametrize(
    "path", ["/modules/vehicle/6/renew/nothing", "/modules/vehicle/99/renew/brakes", "/modules/vehicle/6/reset/nothing"]
)
def test_what_is_not_there_is_not_found(client, path):
    assert client.get(path).status_code == 404 and client.post(path).status_code == 404


def test_a_job_of_another_vehicle_is_no_job_here(client, conn):
    other = add_job(conn, LIBRARY_2, "Shelf lights hang", person="Oda")
    assert "Looked at without a job" in text_of(client.get(f"/modules/vehicle/{CAR}/renew/brakes?job={other}"))


def test_steps_by_hand_in_their_order(client, conn, job):
    own = Renewal(client, conn, job)
    assert own.next == "old_read"
    answer = own.say("fitted")
    assert answer.status_code == 400 and "Read the old one out first: that comes first" in text_of(answer)
    answer = own.say("old_read", text="")
    assert answer.status_code == 400 and "write down what it says" in text_of(answer)
    assert own.say("old_read", text="silent").status_code == 302
    answer = own.say("right_part", text="BT-4410-B")
    assert answer.status_code == 400 and "Do not fit it" in text_of(answer) and 'value="BT-4410-B"' in answer.get_data(as_text=True)
    own.say("right_part", text="bt4410d")
    own.say("kept", text="shelf 4")
    assert own.next == "fitted"
    answer = own.say("fitted")
    assert answer.status_code == 400 and "is locked until this is made safe: Steering or brakes" in text_of(answer)
    assert own.safe("fitted", "something else").status_code == 400
    own.safe("fitted", HAZARDS["steering_brakes"].caution)
    assert own.say("fitted", text="").status_code == 302 and own.next == "pedal"
    assert "Firm pedal" in own.page()


def test_a_step_that_fails_says_why_and_comes_again(client, conn, job):
    own = Renewal(client, conn, job)
    own.come_to("straight")
    assert own.say("straight", text="lots").status_code == 400
    own.say("straight", text="14")
    assert "Not accepted: Steering angle 14 °, should be -2 to 2 °, by another tester" in own.page() and own.next == "straight"
    own.say("straight", text="1,5")
    assert own.next == "teach"


def test_hostile_words_are_refused_in_a_sentence(client, conn, job):
    own = Renewal(client, conn, job)
    done = {"step": "old_read", "result": "done"}
    for data in ({"step": "x" * 5000}, done | {"result": "maybe"}, done | {"text": "x" * 5000}, done | {"text": "\x07"}, {}):
        answer = client.post(own.at, data=data)
        assert answer.status_code == 400 and "Traceback" not in text_of(answer)
    assert own.next == "old_read"


def test_the_module_tells_its_own_steps_and_the_proof_takes_them_up(client, conn, job, monkeypatch):
    monkeypatch.setattr(teaching, "REDRAWN_S", 0.05)
    own = Renewal(client, conn, job)
    with served(roster_named("ferrow")) as car:
        answer = own.ask("old_read")
        assert answer.status_code == 400 and "No talk is under way" in text_of(answer)
        talk = Talk(client, CAR, car.bus, job)

        def asked(step: str):
            before = talk.state()["version"]
            answer = own.ask(step)
            assert answer.status_code == 302, text_of(answer)
            until(lambda: (state := talk.state())["version"] >= before + 2 and not state["busy"])
            return talk.state()["error"]

        assert asked("old_read") == ""
        assert own.standing.step("old_read").text == "no code, part number BT-4410-B"
        assert "not one that fits" in asked("right_part")  # the old one is still in
        own.come_to("fitted")
        own.safe("fitted", HAZARDS["steering_brakes"].caution)
        own.say("fitted", text="")
        car.life.renew("brakes")
        own.come_to("straight")
        car.life.set("brakes.steering", "9")
        asked("straight")
        assert own.standing.step("straight").result == "failed"
        car.life.set("brakes.steering", "0.5")
        asked("straight")
        assert own.next == "teach"
        locked = asked("teach")
        assert "is locked until this is made safe: In a closed yard, belts on" in locked and own.next == "teach"
        own.safe("teach", BRAKES.routines["teach"].caution)
        assert asked("teach") == "" and own.next == "yard"
        own.safe("yard", YARD.caution)
        now = [500.0]
        car.life.clock = lambda: now[0]
        monkeypatch.setattr(teaching, "clock", lambda: now[0])

        def drive(name: str, seconds: float) -> None:
            assert own.ask("yard").status_code == 302
            car.life.drive(name)
            for _ in range(int(seconds / 0.4)):
                now[0] += 0.4
                count = len(car_talk.driving.moments)
                until(lambda count=count: car_talk.driving.over or len(car_talk.driving.moments) > count + 1)
                if car_talk.driving.over:
                    break
            car_talk.driving.stop = True
            until(lambda: car_talk.driving.over and not talk.state()["busy"])

        car_talk = client.application.extensions["module_lives"].known[talk.at.rsplit("/", 1)[1]]
        drive("fast", 8.0)
        assert "km/h is the most: begin again" in own.standing.step("yard").text
        drive("yard", 32.0)
        assert own.standing.step("yard").done, own.standing.step("yard").text
        assert asked("cleared") == ""
        own.say("restart")
        assert asked("no_code") == ""
        own.say("functions", text="all four, lamps out")
        assert own.next == "" and "renewed, taught and proved" in own.page()
        talk.end()
    lines = [(e.text("step"), e.text("result")) for e in entries_of(conn, job) if e.kind == "renewal"]
    assert lines.count(("yard", "done")) == 1 and ("yard", "failed") in lines and ("right_part", "failed") in lines


def test_a_sensitivity_is_set_touch_by_touch(client, conn, job):
    own = Renewal(client, conn, job, "trailer")
    for name in ("old_read", "right_part", "kept", "fitted", "pedal", "fluid", "brakes_bled"):
        own.safe(name, HAZARDS["steering_brakes"].caution)
        assert own.say(name, text="K 17").status_code == 302
    own.safe("level", own.module.renewal.steps["level"].caution)
    for _ in range(10):
        if own.next != "level":
            break
        at = own.standing.step("level").setting.next
        assert f"Set it to {at}" in own.page()
        own.say("level", "yes" if at >= 6 else "no", "")
    assert own.standing.step("level").text.endswith("It just triggers at 6, and not at 5.") and own.next == "cleared"


# Taking its supply away.


@pytest.fixture
def hanging(conn):
    return add_job(conn, LIBRARY_2, "Shelf lights hang now and then", person="Oda")


def reset(client, job: int, off: str = "20", works: str = "yes", module: str = "shelf", vehicle: int = LIBRARY_2, **more):
    at = f"/modules/vehicle/{vehicle}/reset/{module}?job={job}"
    return client.post(at, data={"off": off, "woke": "3" if works == "yes" else "", "works": works, **more})


def standing_safe(client, job: int, module: str = "shelf", vehicle: int = LIBRARY_2) -> None:
    client.post(f"/modules/vehicle/{vehicle}/reset/{module}/safe?job={job}", data={"text": STANDING})


def test_a_try_waits_until_it_stands_and_then_is_a_line(client, conn, hanging):
    at = f"/modules/vehicle/{LIBRARY_2}/reset/shelf?job={hanging}"
    assert "It stands: key off" in text_of(client.get(at))
    answer = reset(client, hanging)
    assert answer.status_code == 400 and "locked until this is made safe" in text_of(answer)
    standing_safe(client, hanging)
    answer = reset(client, hanging, "soon")
    assert (
        answer.status_code == 400
        and "must be seconds from 1 to 3600" in text_of(answer)
        and 'value="soon"' in answer.get_data(as_text=True)
    )
    for off, works in (("5", "no"), ("20", "yes"), ("20", "yes"), ("20", "yes")):
        assert reset(client, hanging, off, works).status_code == 302
    page = text_of(client.get(at))
    assert "It helped in 3 of 4 tries." in page and "cures nothing" in page and "20 s are enough" in page
    client.post(f"/modules/vehicle/{LIBRARY_2}/reset/shelf/hung?job={hanging}", data={"text": "on the ferry"})
    assert [e.kind for e in entries_of(conn, hanging)] == ["caution", *["reset"] * 4, "hung"]


def test_beside_the_real_repair_it_is_a_way_with_its_tries_and_its_limits(client, conn, hanging):
    add_conclusion(conn, hanging, None, ["shelf light module"], "shelf light module", None, False, "seen hanging", [], "Oda")
    page = lambda: text_of(client.get(f"/jobs/{hanging}/remedy?pick=power_cycle:failed"))  # noqa: E731
    assert "It wakes it, and not by luck" in page() and "3 good tries of a time that is enough" in page()
    standing_safe(client, hanging)
    for _ in range(3):
        reset(client, hanging)
    assert "20 s off wakes it" in page()
    client.post(f"/jobs/{hanging}/remedy/choose", data={"option": "power_cycle:failed", "reason": "the new one is months away"})
    client.post(f"/jobs/{hanging}/remedy/agreed", data={"agrees": "yes", "who": "the librarian", "said": ""})
    agreed = next(e for e in entries_of(conn, hanging) if e.kind == "agreed")
    assert "The fuse stays in line" in agreed.text("limits") and "By tries here: 20 s off wakes it." in agreed.text("limits")


@pytest.mark.parametrize("module", ["brakes", "lock"])
def test_what_acts_while_the_vehicle_can_move_is_refused_as_a_habit_everywhere(client, conn, job, module):
    page = text_of(client.get(f"/modules/vehicle/{CAR}/reset/{module}?job={job}"))
    assert "a switch in its supply is never a way to live with it" in page and "A switch to restart it" not in page
    title = roster_named("ferrow").module(module).title
    add_conclusion(conn, job, None, [title], title, None, False, "seen hanging", [], "Oda")
    remedy = text_of(client.get(f"/jobs/{job}/remedy"))
    assert "What acts while the vehicle can move is never switched off by hand" in remedy


def test_a_try_standing_at_a_lock_wants_its_own_caution_too(client, conn, job):
    standing_safe(client, job, "lock", CAR)
    answer = reset(client, job, module="lock", vehicle=CAR)
    assert answer.status_code == 400 and "Steering or brakes" in text_of(answer)


def test_a_talk_hears_when_it_falls_silent_and_when_it_wakes(client, conn, hanging):
    with served(roster_named("reader_75")) as bus:
        talk = Talk(client, LIBRARY_2, bus.bus, hanging)
        standing_safe(client, hanging)
        at = f"/modules/vehicle/{LIBRARY_2}/reset/shelf/listen?job={hanging}"
        assert client.post(at).status_code == 302
        until(lambda: (talk.state()["waking"] or {}).get("says") == "It still answers.")
        bus.life.set("shelf.supply_off", "1")
        until(lambda: talk.state()["waking"]["silent"] is not None)
        bus.life.set("shelf.supply_off", "0")
        until(lambda: talk.state()["waking"]["awake"] is not None)
        waking = talk.state()["waking"]
        assert waking["module"] == "shelf" and waking["awake"] - waking["silent"] > 3.0 - 0.5  # it takes its 3 s to wake
        talk.end()
    assert client.post(at).status_code == 302  # nobody listens any more, and nothing breaks


# A load in place of a part.


@pytest.mark.parametrize(
    ("fault", "with_load", "with_part", "says"),
    [("YD.open", "no", "yes", "It is the part"), ("W84.open", "yes", "yes", "It is wiring or driver")],
)
def test_a_load_parts_the_valve_from_its_wire(client, conn, fault, with_load, with_part, says):
    van = 3
    job = add_job(conn, van, "Fifth and sixth gear are missing", person="Oda")
    at = f"/modules/vehicle/{van}/load/gearbox/P0765-13?job={job}"
    with served(roster_named("carrall"), "wired_van_gearbox", [fault], "key on") as own:
        page = text_of(client.get(at))
        assert "take this one , draws 0.82 A" in page and "lamp of 21 W too much for the driver" in page
        answer = client.post(at.replace("?", "/read?"), data={"with": "load", "load": "15 Ω"})
        assert answer.status_code == 400 and "No talk is under way" in text_of(answer)
        talk = Talk(client, van, own.bus, job)

        def read(**fields):
            before = talk.state()["version"]
            answer = client.post(at.replace("?", "/read?"), data=fields)
            assert answer.status_code == 302, text_of(answer)
            until(lambda: (state := talk.state())["version"] >= before + 2 and not state["busy"])
            assert talk.state()["error"] == ""

        refused = client.post(at, data={"with": "load", "load": "lamp of 21 W", "there": "no"})
        assert refused.status_code == 400 and "too much for the driver" in text_of(refused)
        own.world.substitute("YD", 15.0)
        read(**{"with": "load", "load": "15 Ω"})
        own.world.substitute("YD", 0.0)
        read(**{"with": "part"})
        talk.end()
    told = [(e.text("load"), e.text("there")) for e in entries_of(conn, job) if e.kind == "substituted"]
    assert told == [("15 Ω", with_load), ("", with_part)]
    assert says in text_of(client.get(at))


def test_a_code_without_a_driver_on_a_circuit_says_so(client):
    assert "no load can be worked out" in text_of(client.get(f"/modules/vehicle/{CAR}/load/brakes/C1A10-96"))
    assert client.get(f"/modules/vehicle/{CAR}/load/brakes/P0001").status_code == 404


def test_listening_ends_where_no_page_waits_for_it(client, hanging, monkeypatch):
    monkeypatch.setattr(waking, "WATCHED_S", 0.3)
    with served(roster_named("reader_75")) as bus:
        talk = Talk(client, LIBRARY_2, bus.bus, hanging)
        live = client.application.extensions["module_lives"].known[talk.at.rsplit("/", 1)[1]]
        client.post(f"/modules/vehicle/{LIBRARY_2}/reset/shelf/listen?job={hanging}")
        until(lambda: live.waking.over and not live.busy)
        assert live.waking.awake_at is None
        talk.end()


def test_an_answer_that_comes_while_the_page_is_made_is_seen_at_its_next_look(client, job, monkeypatch):
    record_asked = renewing.job_asked
    with served(roster_named("ferrow")) as car:
        talk = Talk(client, CAR, car.bus, job)
        before = talk.state()["version"]

        def answered_meanwhile(vehicle_id: int):
            found = record_asked(vehicle_id)
            client.application.extensions["module_lives"].known[talk.at.rpartition("/")[2]].version += 1
            return found

        monkeypatch.setattr(renewing, "job_asked", answered_meanwhile)
        page = client.get(f"/modules/vehicle/{CAR}/renew/brakes?job={job}").get_data(as_text=True)
        shown = re.search(r'data-version="\s*(\d+)"', page)
        assert shown and int(shown[1]) == before < talk.state()["version"]
        talk.end()
