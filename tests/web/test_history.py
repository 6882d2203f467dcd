"""What was seen before, and what proved jobs teach, through the web."""

from __future__ import annotations

import re

import pytest

from pondrel.core.job.alike import likeness, words_in
from pondrel.core.job.conclusion import modes_in
from pondrel.core.learn import LEAST_JOBS
from pondrel.store.bay import refresh_job
from pondrel.store.conclusions import add_conclusion
from pondrel.store.db import atomic
from pondrel.store.entries import add_entry, entries_of
from pondrel.store.jobs import add_job
from pondrel.store.traces import add_trace

from .test_views import sheet_of, text_of

DIM, BUS_4, LIGHTS = 1, 2, "Step lights with a shared ground"


OPENED = "2026-11-01T08:00:00Z"


def proved_jobs(
    conn, count: int, part: str = "G3", opened: str = OPENED, vehicle: int = BUS_4, works: str = "yes", mode: str = ""
) -> list[int]:
    """So many jobs on the step lights that found a part and proved it, before the demo's own was opened."""
    sheet = conn.execute("SELECT id FROM sheet WHERE title = ? ORDER BY id LIMIT 1", (LIGHTS,)).fetchone()[0]
    made = []
    with atomic(conn):
        for _ in range(count):
            job = add_job(conn, vehicle, "Lamps at the door are dim", opened_at=opened)
            trace = add_trace(conn, job, sheet, "Oda", opened)
            add_conclusion(conn, job, trace, [part], part, 0.99, True, "", [], "Oda", opened, {part: mode} if mode else None)
            add_entry(conn, job, "remedy", {"text": "cleaned"}, made_at=opened)
            add_entry(conn, job, "proof", {"works": works}, made_at=opened)
            refresh_job(conn, job)
            made.append(job)
    return made


def shares(client, job: int = 4) -> dict[str, float]:
    """The suspects of a job without a reading by their names' beginning."""
    page = client.get(f"/jobs/{job}/trace").get_data(as_text=True)
    found = re.findall(r'suspect-name"><b>([^<]+)</b>.*?suspect-share">\s*(\d+) %', page, re.DOTALL)
    return {name: float(share) for name, share in found}


def test_a_part_that_is_lived_with_teaches_nothing(client, conn):
    made, before = proved_jobs(conn, 14), shares(client)
    assert "of 14 such jobs here" in text_of(client.get("/jobs/4/trace"))
    with atomic(conn):
        for job in made[:4]:
            around = {"way": "bypass", "which": "failed", "says": "G3: bypassed", "reason": "until spring"}
            add_entry(conn, job, "choice", around, made_at=OPENED)
        mended = {"way": "clean", "which": "failed", "says": "G3: cleaned", "reason": "after all"}
        add_entry(conn, made[0], "choice", mended, made_at=OPENED)  # what was chosen last counts
    assert "of 11 such jobs here, 11 were it" in text_of(client.get("/jobs/4/trace")) and shares(client) != before


def test_proved_jobs_make_a_part_likelier_are_told_and_can_be_left_out(client, conn):
    before = shares(client)
    proved_jobs(conn, 14)
    page = text_of(client.get("/jobs/4/trace"))
    assert "of 14 such jobs here, 14 were it" in page
    after = shares(client)
    assert after["Ground stud in the step well"] > 1.5 * before["Ground stud in the step well"]
    assert "14 jobs proved so far" in text_of(client.get("/history")) or "15 jobs proved so far" in text_of(client.get("/history"))
    assert client.post("/history/learning", data={"learning": "off"}).status_code == 302
    assert shares(client) == before and "such jobs here" not in text_of(client.get("/jobs/4/trace"))
    assert client.post("/history/learning", data={"learning": "perhaps"}).status_code == 400
    client.post("/history/learning", data={"learning": "on"})
    assert shares(client) == after


@pytest.mark.parametrize(
    ("count", "more"),
    [(LEAST_JOBS - 2, {}), (14, {"opened": "2027-01-01T08:00:00Z"}), (14, {"works": "no"})],
    ids=["too few", "proved after this job was opened", "not cured"],
)
def test_what_does_not_count_changes_nothing(client, conn, count, more):
    before = shares(client)
    proved_jobs(conn, count, **more)
    assert shares(client) == before


def test_how_a_part_failed_here_is_told_and_leads_among_its_modes(client, conn):
    proved_jobs(conn, 14, mode="open")
    assert "of 14 such jobs here, 14 were it, mostly loose or broken off" in text_of(client.get("/jobs/4/trace"))
    page = text_of(client.get("/history"))
    assert re.search(r"Ground stud in the step well.{0,8} mostly loose or broken off", page)
    assert "loose or broken off" in text_of(client.get("/jobs/4/trace")).partition("Suspects")[2][:600]


def test_a_conclusion_keeps_how_its_part_failed(client, conn):
    made = client.post("/jobs/new", data={"vehicle": "1", "complaint": "dim lamps", "sheet": sheet_of(client, "Step lights")})
    job = made.headers["Location"].removesuffix("/trace")
    for line in ("open volts batt+ 12.47", "open volts la2.feed 12.15", "open volts la2.gnd 3.81", "open volts g3 3.76"):
        assert client.post(f"{job}/readings", data={"value": line}).status_code == 302
    assert client.post(f"{job}/conclude", data={"target": "G3"}).status_code == 302
    kept = next(e for e in entries_of(conn, int(job.rpartition("/")[2])) if e.kind == "conclusion")
    assert modes_in(kept.content) == {"G3": "high_resistance"}


def test_a_job_is_never_taught_by_its_own_conclusion(client, conn):
    proved_jobs(conn, 6)
    before = text_of(client.get(f"/jobs/{DIM}/trace"))
    add_entry(conn, DIM, "remedy", {"text": "cleaned"}, made_at="2026-11-20T09:00:00Z")
    add_entry(conn, DIM, "proof", {"works": "yes"}, made_at="2026-11-20T09:10:00Z")
    assert "of 6 such jobs here, 6 were it" in before and "of 7 such jobs" not in text_of(client.get(f"/jobs/{DIM}/trace"))


def test_the_same_part_on_the_same_vehicle_came_back(client, conn):
    first = proved_jobs(conn, 1)[0]
    page = client.get(f"/jobs/{DIM}").get_data(as_text=True)
    assert f"/jobs/{first}" not in page  # it has a higher number: it is no earlier job
    second = proved_jobs(conn, 1)[0]
    text = text_of(client.get(f"/jobs/{second}"))
    assert "Seen before" in text and "It came back." in text and "the same part, the same complaint, this vehicle" in text
    elsewhere = text_of(client.get(f"/jobs/{proved_jobs(conn, 1, vehicle=1)[0]}"))
    assert "the same part, the same complaint" in elsewhere and "It came back." not in elsewhere
    other = proved_jobs(conn, 1, part="LA2", vehicle=3)[0]
    assert "It came back." not in text_of(client.get(f"/jobs/{other}")) and "the same complaint" in text_of(client.get(f"/jobs/{other}"))


@pytest.mark.parametrize("words", ["%", "_", "\\", "'", '"', "<script>", "x" * 5000, "a b c d e f g h i j k l", "%00", "🔧", "(", "*"])
def test_whatever_is_looked_for_a_page_comes(client, words):
    answer = client.get("/history", query_string={"q": words})
    assert answer.status_code == 200 and "<script>" not in answer.get_data(as_text=True)


def test_jobs_are_found_by_words_of_complaint_vehicle_finding_and_repair(client):
    assert "Battery flat after a day of short rounds" in text_of(client.get("/history?q=bracket+yard+bare"))
    assert "No job holds all of these words" in text_of(client.get("/history?q=bracket+zeppelin"))
    assert "Left front does not kneel" not in text_of(client.get("/history?q=100%25"))


def test_complaints_are_alike_by_what_they_speak_of():
    assert likeness(words_in("All three door lamps dim"), words_in("Lamps at the door are dim")) == 1.0
    assert likeness(words_in("Lamps at the door are dim"), words_in("Tail-lift does not rise, lowers normally")) == 0.0
    assert likeness(words_in("Rear glass clears slowly"), words_in("Battery flat after a day")) == 0.0
