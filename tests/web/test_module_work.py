"""A job's page and the Bay go on with what asking the modules led to, and go to where that is."""

from __future__ import annotations

from pondrel.core.job.codes import scan_content
from pondrel.core.module.fault_code import FaultCode
from pondrel.demo.load import ROSTERS
from pondrel.store.bay import page_of_jobs, refresh_all
from pondrel.store.entries import add_entry, entries_of
from pondrel.store.jobs import add_job
from pondrel.store.rosters import add_roster, all_rosters
from pondrel.store.traces import traces_of
from tests.served import roster_named, served

from .test_library import text_of
from .test_modules import Talk

LIBRARY_2, VAN, LORRY, CART = 1, 3, 4, 9
ROOF_JOB, RENEWAL_JOB, RESET_JOB = 18, 20, 21


def in_the_bay(conn, job: int) -> str:
    return next(row.waits_for for row in page_of_jobs(conn, 100) if row.id == job)


def next_of(client, job: int) -> str:
    page = client.get(f"/jobs/{job}").get_data(as_text=True)
    return page[page.index('aria-label="Next"') : page.index('class="job-columns"')]


def test_a_silent_module_leads_from_the_job_to_the_chain_that_it_stops(client, conn):
    found = next_of(client, ROOF_JOB)
    assert "Bow module is silent, and the roof waits for it: go to its circuit" in found
    assert f'href="/modules/vehicle/{LIBRARY_2}/function/roof?job={ROOF_JOB}"' in found
    assert in_the_bay(conn, ROOF_JOB) == "bow module is silent, and the roof waits for it: go to its circuit"


def test_a_renewal_under_way_leads_from_the_job_to_its_step_with_the_proof_beside_it(client):
    found = next_of(client, RENEWAL_JOB)
    assert "steering straight ahead was not accepted" in found and "/renew/brakes?job=20" in found and "/proof" in found


def test_a_module_that_hangs_leads_from_the_job_to_its_tries(client):
    assert f"/reset/shelf?job={RESET_JOB}" in next_of(client, RESET_JOB)


def test_a_link_that_was_looked_at_moves_the_job_and_its_line_in_the_bay(client, conn):
    job = add_job(conn, CART, "It will not go into drive", person="Oda")
    assert "Ask when it is there" in next_of(client, job)
    client.post(f"/modules/vehicle/{CART}/function/drive?job={job}", data={"condition": "flap", "word": "no"})
    assert "Charge flap is not shut, and drive waits for that" in next_of(client, job)
    assert in_the_bay(conn, job).startswith("charge flap is not shut")


def test_without_a_roster_for_the_vehicle_a_roll_call_leads_nowhere_by_itself(client, conn):
    job = add_job(conn, 3, "Half of it is dark", person="Oda")
    add_entry(conn, job, "roll_call", {"answered": "Door module", "silent": "Bow module"}, person="Oda")
    assert "silent: look" not in next_of(client, job)


def test_a_newer_roster_moves_the_jobs_that_asked_modules(conn):
    text = (ROSTERS / "reader_75.yaml").read_text().replace("name: The roof", "name: The canopy")
    add_roster(conn, text)
    assert refresh_all(conn) >= 3
    assert "the canopy waits for it" in in_the_bay(conn, ROOF_JOB)


def test_what_the_modules_told_a_job_stands_at_its_vehicle_without_a_talk(client):
    page = text_of(client.get(f"/modules/vehicle/{LIBRARY_2}?job={ROOF_JOB}"))
    assert "Who answered, as this job has it" in page and "Bow module is silent: its supply" in page
    assert "U0182-87 present No word from the bow module" in page and "2 hold, 1 does not, 1 cannot be known" in page
    without = text_of(client.get(f"/modules/vehicle/{LIBRARY_2}"))
    assert "Who should answer" in without and "U0182-87" not in without


def test_a_code_that_the_job_has_leads_to_its_circuit_without_a_talk(client, conn):
    job = add_job(conn, VAN, "Fifth is missing", person="Oda")
    codes = [
        FaultCode("P0765", "13", "stored", "Gearbox module", "Shift valve D circuit open"),
        FaultCode("P0750", "13", "stored", "Gearbox module", "Shift valve A circuit open"),
    ]
    add_entry(conn, job, "scan", scan_content(codes), person="Oda")
    add_entry(conn, job, "code_note", {"code": "P0750-13", "self_made": True, "text": "its plug was off"}, person="Oda")
    page = client.get(f"/modules/vehicle/{VAN}?job={job}").get_data(as_text=True)
    address = f"/modules/vehicle/{VAN}/code/gearbox/P0765-13/trace?job={job}"
    assert address in page and "P0750-13" not in page  # the work itself made that one
    assert client.post(address).headers["Location"] == f"/jobs/{job}/trace"
    seen = entries_of(conn, job)[-1]
    assert (seen.kind, seen.text("note")) == ("see", "as gearbox module says: P0765-13, Shift valve D circuit open")
    assert client.post(address).headers["Location"] == f"/jobs/{job}/trace"
    assert len(traces_of(conn, job)) == 1 and entries_of(conn, job)[-1].id == seen.id  # once is enough


def test_a_code_without_a_circuit_or_a_job_or_a_sheet_in_the_library_is_refused_with_a_sentence(client, conn):
    job = add_job(conn, VAN, "Fifth is missing", person="Oda")
    assert client.post(f"/modules/vehicle/{VAN}/code/gearbox/P9999/trace?job={job}").status_code == 404
    assert client.post(f"/modules/vehicle/{VAN}/code/nobody/P0765-13/trace?job={job}").status_code == 404
    alone = client.post(f"/modules/vehicle/{VAN}/code/gearbox/P0765-13/trace")
    assert alone.status_code == 400 and "open a job for the vehicle" in text_of(alone)
    text = (ROSTERS / "carrall.yaml").read_text().replace("Shift valves of the yard van gearbox", "Shift valves of nobody")
    add_roster(conn, text)
    lost = client.post(f"/modules/vehicle/{VAN}/code/gearbox/P0765-13/trace?job={job}")
    assert lost.status_code == 400 and "the library has none of that title" in text_of(lost)


def test_what_a_load_in_place_of_the_part_proves_is_evidence_on_the_circuit(client, conn):
    job = add_job(conn, VAN, "Fifth is missing", person="Oda")
    valve = FaultCode("P0765", "13", "present", "Gearbox module", "Shift valve D circuit open")
    add_entry(conn, job, "scan", scan_content([valve]), person="Oda")
    load = f"/modules/vehicle/{VAN}/load/gearbox/P0765-13"
    early = client.post(f"{load}/trace?job={job}")
    assert early.status_code == 400 and "It proves nothing yet" in text_of(early)
    client.post(f"{load}?job={job}", data={"with": "load", "load": "15 Ω", "there": "no"})
    client.post(f"{load}?job={job}", data={"with": "part", "there": "yes"})
    page = text_of(client.get(f"{load}?job={job}"))
    assert "It is the part" in page and "Name it on its circuit" in page
    assert client.post(f"{load}/trace?job={job}").headers["Location"] == f"/jobs/{job}/trace"
    seen = [(e.kind, e.text("subject"), e.text("outcome")) for e in entries_of(conn, job) if e.trace_id is not None]
    assert seen[0] == ("see", "gearbox module on D", "open") and seen[-1] == ("swap", "YD", "gone")
    assert ("see", "gearbox module on A", "nothing") in seen
    found = text_of(client.get(f"/jobs/{job}/trace"))
    assert "Shift valve D" in found and "9" in found


def test_a_load_that_clears_the_part_sends_the_search_on_to_its_circuit(client, conn):
    job = add_job(conn, VAN, "Fifth is missing", person="Oda")
    load = f"/modules/vehicle/{VAN}/load/gearbox/P0765-13"
    client.post(f"{load}?job={job}", data={"with": "load", "load": "15 Ω", "there": "yes"})
    assert "Trace on with it" in text_of(client.get(f"{load}?job={job}"))
    client.post(f"{load}/trace?job={job}")
    last = entries_of(conn, job)[-1]
    assert (last.kind, last.text("subject"), last.text("outcome")) == ("swap", "YD", "no change")


def test_a_vehicle_that_no_roster_describes_is_asked_by_what_the_law_has_it_answer(client, conn):
    assert "Any other vehicle" in text_of(client.get("/modules"))
    answer = client.get(f"/modules/ask?vehicle={LORRY}")
    assert answer.headers["Location"] == f"/modules/vehicle/{LORRY}"
    assert client.get("/modules/ask?vehicle=none").headers["Location"] == "/modules"
    job = add_job(conn, LORRY, "It stutters uphill", person="Oda")
    with served(roster_named("carrall"), "wired_van_gearbox") as own:  # its gearbox is there and refuses the emission services
        talk = Talk(client, LORRY, own.bus, job)
        assert "Module 7EA" not in talk.page()  # nobody is said to be there before anybody answered
        talk.do("call")
        page = talk.page("obd7e8").partition("What was said")[0]
        assert "Both answer." in page and "Engine module" in page and "Module 7EA" not in page and "silent" not in page
        talk.do("data", module="obd7e8")
        page = talk.page("obd7e8")
        assert "Coolant" in page and "21 °C" in page and "Purge valve" not in page
        talk.do("codes", all="yes")
        assert "It has no code." in talk.page("obd7e8")
        assert "It does not know this service." in talk.page("obd7e9") and "It has no code." not in talk.page("obd7e9")
        talk.end()
    call, scan = entries_of(conn, job)[-2:]
    assert (call.kind, call.text("answered"), call.text("silent")) == ("roll_call", "Engine module, Gearbox module", "")
    assert (scan.kind, scan.text("text")) == ("scan", "by Pondrel from Engine module")
    after = text_of(client.get(f"/modules/vehicle/{LORRY}?job={job}"))
    assert "Who answered, as this job has it" in after and "Module 7EA" not in after


def test_the_roster_of_any_vehicle_lists_once_what_each_may_tell(client, conn):
    number = next(row.id for row in all_rosters(conn) if row.roster.by_calling)
    page = text_of(client.get(f"/modules/roster/{number}"))
    assert page.count("Fuel pressure") == 1 and "found by calling" in page and "Engine module (29 bits)" in page
    other = next(row.id for row in all_rosters(conn) if "Reader" in row.title)
    assert "Supply at the bow module" in text_of(client.get(f"/modules/roster/{other}"))


def test_nobody_who_answers_is_a_sentence_and_not_a_line_of_the_record(client, conn):
    job = add_job(conn, LORRY, "It stutters uphill", person="Oda")
    with served(roster_named("reader_75")) as own:
        talk = Talk(client, LORRY, own.bus, job)
        talk.do("call")
        assert "Nobody answers: is the ignition on" in talk.page()
        talk.end()
    assert not [entry for entry in entries_of(conn, job) if entry.kind == "roll_call"]
