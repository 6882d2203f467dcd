"""What follows once a part is named, through the web: remedy, refit, proof and report, with what people get wrong."""

from __future__ import annotations

import html
import io
import json
import re

from pondrel.core.job.kinds import title_of
from pondrel.store.conclusions import add_conclusion
from pondrel.store.db import atomic
from pondrel.store.entries import add_entry, entries_of
from pondrel.store.vehicle_entries import ledger_of, vehicle_entries_of

from .test_views import sheet_of, text_of

DIM, LIFT, KNEEL = 1, 2, 6
HOSTILE = "<script>alert(1)</script> {{ 7*7 }} \"'><img src=x onerror=1> مرحبا 🔧 " + "A" * 200


def kinds(conn, job: int) -> list[str]:
    return [e.kind for e in entries_of(conn, job) if e.stands]


def posted(client, address: str, says: str = "", **data) -> str:
    """The page that follows a post that is taken, or the page of one that is refused with a sentence."""
    answer = client.post(address, data=data)
    if says:
        page = text_of(answer)
        assert answer.status_code == 400 and says in page, page[:2000]
        return page
    assert answer.status_code == 302, text_of(answer)[:2000]
    return answer.headers["Location"]


def chosen(client, job: int, way: str = "clean:failed", **data) -> str:
    remedy = f"/jobs/{job}/remedy"
    posted(client, f"{remedy}/choose", option=way, **data)
    return remedy


def repaired(client, job: int = DIM, minutes: str = "31") -> str:
    """A job that is mended, its page of proof."""
    remedy = chosen(client, job)
    posted(client, f"{remedy}/agreed", agrees="yes", who="Jonne", said="go on")
    posted(client, f"{remedy}/done", text="Stud cleaned", minutes=minutes, paid="37.97")
    return f"/jobs/{job}/proof"


def again_fields(client, proof: str) -> list[str]:
    return re.findall(r'name="(r\d+)"', client.get(proof).get_data(as_text=True))


def proved(client, job: int = DIM) -> str:
    """A job that is proved, its page of the report."""
    proof = repaired(client, job)
    posted(client, f"{proof}/again", **dict(zip(again_fields(client, proof), ("12.44", "0.10", "0.02"), strict=True)))
    posted(client, f"{proof}/tried", good="1")
    assert posted(client, proof) == f"/jobs/{job}/report"
    return f"/jobs/{job}/report"


def test_before_something_is_found_there_is_nothing_to_mend_prove_or_choose(client):
    assert "Nothing is found yet" in text_of(client.get(f"/jobs/{LIFT}/remedy"))
    assert "Nothing is repaired yet" in text_of(client.get(f"/jobs/{LIFT}/proof"))
    assert "Not proved yet" in text_of(client.get(f"/jobs/{LIFT}/report"))
    posted(client, f"/jobs/{LIFT}/remedy/choose", "No way is chosen", option="new:failed")
    posted(client, f"/jobs/{DIM}/proof", "Nothing was repaired yet")
    posted(client, f"/jobs/{DIM}/proof/tried", "Nothing was repaired yet", good="3")


def test_a_way_is_reckoned_once_it_has_a_price_and_chosen_as_it_is_reckoned(client, conn):
    remedy = f"/jobs/{KNEEL}/remedy"
    assert "needs its price" in text_of(client.get(remedy))
    posted(client, f"{remedy}/choose", "its price is missing", option="unit:failed")
    posted(client, f"{remedy}/offer", "must be an amount", way="unit", price="a lot", pick="unit:failed")
    typed = client.post(f"{remedy}/offer", data={"way": "unit", "price": "a lot", "pick": "unit:failed"})
    assert 'value="a lot"' in typed.get_data(as_text=True)
    posted(client, f"{remedy}/offer", way="new", price="118", months="24", source="Hollin Parts")
    posted(client, f"{remedy}/rates", currency="CHF", hourly="100", day="0")
    page = text_of(client.get(remedy))
    assert "100 CHF an hour" in page and "New: the pair" in page and "1 time in" in page
    chosen(client, KNEEL, "new:pair")
    entry = [e for e in entries_of(conn, KNEEL) if e.kind == "choice"][-1]
    assert entry.content["currency"] == "CHF" and entry.content["today"] <= entry.content["low"] <= entry.content["high"]
    assert f"{round(entry.content['today'])} CHF" in page


def test_the_years_and_the_school_change_what_it_comes_to(client):
    remedy = f"/jobs/{KNEEL}/remedy"
    posted(client, f"{remedy}/offer", way="new", price="118")
    bars = {q: re.findall(r"(\d+) € on average", client.get(f"{remedy}?{q}").get_data(as_text=True)) for q in
            ("years=1", "years=3", "years=5", "school=set", "years=99&school=x&part=-1&pick=%00")}  # fmt: skip
    assert [int(bars[f"years={n}"][0]) for n in (1, 3, 5)] == sorted(int(bars[f"years={n}"][0]) for n in (1, 3, 5))
    assert bars["school=set"] != bars["years=3"] == bars["years=99&school=x&part=-1&pick=%00"]


def test_gates_are_met_one_by_one_and_what_is_left_needs_a_reason(client, conn):
    remedy = f"/jobs/{KNEEL}/remedy"
    posted(client, f"{remedy}/offer", way="new", price="118")
    chosen(client, KNEEL, "new:failed")
    posted(client, f"{remedy}/done", "Still open before it is fitted", text="valve renewed")
    posted(client, f"{remedy}/gate", "part number is missing", gate="fits", result="done")
    posted(client, f"{remedy}/gate", "what was read is missing", gate="measured", result="done")
    posted(client, f"{remedy}/gate", "nothing that can be ticked", gate="proved", result="done")
    posted(client, f"{remedy}/gate", gate="fits", result="done", text="9W-118")
    posted(client, f"{remedy}/gate", gate="measured", result="done", text="28.1 Ω")
    found = posted(client, f"{remedy}/gate", gate="mimic:a melted or loose plug", result="found", text="plug brown")
    assert "Mend that first" in text_of(client.get(found))
    posted(client, f"{remedy}/done", "Still open before it is fitted", text="valve renewed")
    posted(client, f"{remedy}/gate", gate="mimic:a melted or loose plug", result="not found")
    posted(client, f"{remedy}/done", text="valve renewed", reason="supply looked at by the driver")
    assert "Begun with things left open: supply looked at by the driver" in text_of(client.get(f"/jobs/{KNEEL}"))
    assert [line.part for line in ledger_of(conn, 2) if line.job_id == KNEEL] == ["left vent valve"]


def test_a_repair_is_made_safe_where_it_waits_though_its_circuit_is_concluded(client, conn):
    remedy = f"/jobs/{KNEEL}/remedy"

    def waits() -> list[str]:
        gate = re.search(r"<b>Made safe</b>.*?</li>", client.get(remedy).text, re.S)[0]
        return [html.unescape(text) for text in re.findall(r'name="text" value="([^"]*)"', gate)]

    cautions = waits()
    assert [text.partition(":")[0] for text in cautions] == ["Air springs", "Work underneath"]
    look = text_of(client.get(f"/jobs/{KNEEL}/look"))
    assert all(text.partition(":")[0] in look for text in cautions) and "Airbag" not in look  # 16 seats are no airbag
    for text in cautions:
        assert posted(client, f"/jobs/{KNEEL}/look/safe", text=text, back=f"{remedy}?years=5") == f"{remedy}?years=5"
    assert waits() == [] and kinds(conn, KNEEL).count("caution") == 3  # one was read while it was traced


def test_what_was_found_on_no_circuit_is_made_safe_by_what_it_is(client):
    posted(client, "/jobs/7/remedy/found", called="Burnt stator", reason="smells, and one phase is dead")
    assert "Take the battery off before you open this" in text_of(client.get("/jobs/7/remedy"))


def test_what_cannot_mend_an_open_winding_is_shut_and_cannot_be_chosen(client):
    page = text_of(client.get(f"/jobs/{KNEEL}/remedy"))
    assert "Left vent valve: winding open" in page and page.count("It does not mend this: winding open.") == 1
    assert "Rebuild it here, Clean and free it, Set its gap or play Not offered." in page
    posted(
        client,
        f"/jobs/{KNEEL}/remedy/choose",
        "Rebuild it here is not offered. It does not mend this: winding open.",
        option="rebuild:failed",
        reason="cheaper",
    )


def test_a_new_one_that_is_outside_the_limits_of_its_circuit_is_not_fitted(client, conn):
    gate = f"/jobs/{KNEEL}/remedy/gate"
    posted(client, gate, "begins with no number", gate="measured", result="done", text="clicks")
    posted(client, gate, gate="measured", result="done", text="3.5 @20C")
    page = text_of(client.get(f"/jobs/{KNEEL}/remedy"))
    assert "The new one is outside limits by 31.5 Ω" in page and kinds(conn, KNEEL)[-1] == "gate"  # what was read is kept
    posted(client, gate, gate="measured", result="done", text="38.2 @20C")
    assert "Send it back" not in text_of(client.get(f"/jobs/{KNEEL}/remedy"))


def test_what_a_repair_cost_does_not_change_because_it_was_done(client):
    remedy = f"/jobs/{KNEEL}/remedy"

    def told() -> tuple[str, str]:
        page = text_of(client.get(remedy))
        return re.search(r"Chosen: New .*? Before it is fitted", page)[0].partition(" New: what is known")[0], page

    before, _ = told()
    posted(client, f"{remedy}/done", text="Valve renewed", minutes="50", reason="the rest was seen to before")
    after, page = told()
    assert after.removesuffix(" Before it is fitted") == before and "by warranty" not in page
    assert "Under warranty" not in page and "as old as the vehicle failed" in page


def test_the_customer_may_say_no_and_another_way_wants_a_reason_no_word(client, conn):
    remedy = chosen(client, DIM)
    posted(client, f"{remedy}/agreed", "What the customer said is missing", agrees="no", who="Jonne")
    posted(client, f"{remedy}/agreed", "Who said so is missing", agrees="yes")
    posted(client, f"{remedy}/agreed", agrees="no", who="Jonne", said="only for now")
    posted(client, f"{remedy}/choose", "This is no repair", option="bypass:failed")
    chosen(client, DIM, "bypass:failed", reason="until the spare is there")
    posted(client, f"{remedy}/agreed", agrees="yes", who="Jonne")
    word = [e for e in entries_of(conn, DIM) if e.kind == "agreed"][-1]
    assert "fuse stays in line" in word.text("limits")
    assert [e.text("agrees") for e in entries_of(conn, DIM) if e.kind == "agreed"] == ["no", "yes"]


def test_the_job_is_walked_from_found_to_a_report_with_the_same_numbers(client, conn):
    report = proved(client)
    page = text_of(client.get(report))
    for told in (
        "All three door lamps dim",
        "3.76 V was read where at most 100 mV belongs",
        "3.76 V",
        "0.02 V",
        "outside limits",
        "within limits",
        "Stud cleaned",
        "31 minutes, 37.97 €",
        "Tried once afterwards, good then",
        "did not help; it stays in",
    ):
        assert told in page, told
    assert [e.text("text") for e in entries_of(conn, DIM) if e.kind == "proof"] == ["3 of 3 readings as they should be, tried once, good"]
    assert [line.helped for line in ledger_of(conn, 2) if line.job_id == DIM and line.name == "G3"] == ["yes"]
    posted(client, f"{report}/handed", text="to the driver")
    assert "Handed over" in text_of(client.get(report))


def test_a_proof_with_things_missing_needs_a_reason_and_against_a_number_there_is_none(client):
    proof = repaired(client)
    posted(client, proof, "Still missing: 3 of 3 readings again")
    fields = again_fields(client, proof)
    posted(client, f"{proof}/again", "is no reading", **{fields[0]: "a bit"})
    posted(client, f"{proof}/again", "Nothing was typed")
    posted(client, f"{proof}/again", "none that is proved by", r99999="12")
    posted(client, f"{proof}/again", **{fields[2]: "2.9"})
    posted(client, proof, "It is not cured", reason="it looks fine")
    posted(client, f"{proof}/again", **{fields[2]: "0.02"})
    posted(client, proof, reason="the bus had to leave")
    assert "With things still missing: the bus had to leave (missing: 2 of 3 readings again" in text_of(client.get(f"/jobs/{DIM}"))


def test_a_failed_proof_goes_back_to_the_trace_with_everything_kept(client, conn):
    proof = repaired(client)
    fields = again_fields(client, proof)
    posted(client, f"{proof}/again", **dict(zip(fields, ("12.44", "3.70", "0.02"), strict=True)))
    assert "It is not cured" in text_of(client.get(proof))
    before = len(entries_of(conn, DIM))
    assert posted(client, f"{proof}/reopen") == f"/jobs/{DIM}/trace"
    entries = entries_of(conn, DIM)
    assert all(e.stands or e.kind in ("conclusion", "fitted") for e in entries) and len(entries) > before
    again = [e for e in entries if e.text("note") == "taken again after the repair"]
    assert [e.text("value") for e in again] == ["12.44", "3.70", "0.02"] and {e.kind for e in again} == {"reading"}
    assert ("renewed", "G3", "no help") in {(e.kind, e.text("subject"), e.text("outcome")) for e in entries if e.stands}
    page = text_of(client.get(f"/jobs/{DIM}/trace"))
    assert "wire" in page.lower() and "3.70" in page
    assert "Nothing is found yet" in text_of(client.get(f"/jobs/{DIM}/remedy"))
    assert [line.helped for line in ledger_of(conn, 2) if line.job_id == DIM and line.name == "G3"] == ["no"]


def test_a_job_that_is_not_cured_without_numbers_wants_to_know_what_shows_it(client):
    proof = repaired(client)
    posted(client, f"{proof}/reopen", "A reason is missing")
    posted(client, f"{proof}/tried", "write what it did", bad="1")
    posted(client, f"{proof}/tried", bad="1", text="dim again over the kerb")
    assert "it failed again in 1 of 1 tries" in text_of(client.get(proof)).lower()
    posted(client, proof, "It is not cured")


def test_nothing_is_tried_on_the_road_before_the_brakes_are_seen_to(client, conn):
    proof = repaired(client)
    add_entry(conn, DIM, "complaint", {"often": "always", "text": "the brake lamp as well"})
    assert "Standing only until these are seen to" in text_of(client.get(proof))
    posted(client, f"{proof}/tried", "Not before these are seen to: firm pedal", good="1")
    for check in ("pedal", "fluid", "brakes_bled"):
        posted(client, f"{proof}/check", check=check, result="done")
    posted(client, f"{proof}/tried", good="1")
    posted(client, f"{proof}/check", "none of the checks", check="taught", result="done")


def test_steps_cards_and_what_came_off(client, conn):
    refit = f"/jobs/{DIM}/refit"
    assert "Nothing is chosen yet" in text_of(client.get(refit))
    remedy = chosen(client, DIM)
    page = text_of(client.get(refit))
    assert "Bare metal, both faces" in page and "Closed again" in page
    posted(client, f"{refit}/step", "A torque needs its unit", step="tight", text="9")
    posted(client, f"{refit}/step", step="tight", text="80 in-lb")
    assert "80 lbf·in (9.0 N·m, 6.7 lbf·ft)" in text_of(client.get(refit))
    posted(client, f"{refit}/step", "none of the steps", step="nonsense")
    posted(client, f"{refit}/came-off", what="step plate")
    assert "not back on: step plate" in text_of(client.get(remedy))
    posted(client, f"{refit}/step", step="back:step plate")
    assert "not back on" not in text_of(client.get(remedy))
    posted(client, f"{refit}/card", "The card is empty", title="Plate", fasteners="[]")
    posted(client, f"{refit}/card", "This photo is none", title="Plate", fasteners='[[0.1,0.1,"M6",""]]', photo="0" * 64)
    drawn = '[[0.1,0.1,"M6×25","seized"],[0.9,0.9,"M6×25",""]]'
    refused = client.post(f"{refit}/card", data={"title": "Plate", "fasteners": drawn, "torque": "9"})
    kept = json.loads(html.unescape(re.search(r"data-kept='([^']+)'", refused.get_data(as_text=True))[1]))
    assert refused.status_code == 400 and kept == json.loads(drawn)
    posted(client, f"{refit}/card", title="Plate", fasteners='[[0.1,0.1,"M6×25","seized"],[0.9,0.9,"M6×25",""]]', torque="9 Nm")
    page = text_of(client.get(refit))
    assert "Plate" in page and "9.0 N·m (80 lbf·in, 6.6 lbf·ft)" in page
    notes = [e.text("text") for e in vehicle_entries_of(conn, 2) if e.kind == "note"]
    assert any("Fasteners of Plate: 1 (seized)" in note for note in notes)


def test_a_report_is_made_kept_and_known_again_to_the_byte(client, conn):
    report = proved(client)
    address = posted(client, report, sheet="customer", on="readings,price")
    with client.get(address) as answer:
        pdf, media = answer.data, answer.mimetype
    assert pdf.startswith(b"%PDF-") and media == "application/pdf"
    seal = re.search(r"/report/(.{8})\.pdf", address)[1]
    assert seal in text_of(client.get(report)) and f"seal {seal}" in text_of(client.get(f"/jobs/{DIM}"))
    same = client.post("/seal", data={"file": (io.BytesIO(pdf), "report.pdf")}, content_type="multipart/form-data")
    assert "Unchanged" in text_of(same)
    other = client.post("/seal", data={"file": (io.BytesIO(pdf + b" "), "report.pdf")}, content_type="multipart/form-data")
    assert "Not as it was made here" in text_of(other)
    assert "What it said" in text_of(client.get(f"/seal?seal={seal.lower().replace('-', ' ')}"))
    assert "Nothing was made here" in text_of(client.get("/seal?seal=0000000"))
    assert "seven signs" in text_of(client.get("/seal?seal=zz"))
    assert client.post("/seal").status_code == 400
    assert client.get(f"/jobs/{DIM}/report/000-0000.pdf").status_code == 404


def test_what_is_left_off_the_page_is_off_it_and_changes_the_seal(client):
    report = proved(client)
    whole, bare = client.get(report).get_data(as_text=True), client.get(f"{report}?on=").get_data(as_text=True)
    seals = [re.search(r'class="paper-seal">([^<]+)', page)[1] for page in (whole, bare)]
    assert seals[0] != seals[1] and "37.97" in whole and "37.97" not in bare and "3.76" not in bare
    assert "No part that was found faulty is under warranty" in text_of(client.get(f"{report}?on=claim"))


def test_the_html_holds_everything_and_fetches_nothing(client):
    report = proved(client)
    for address in (f"{report}.html", f"{report}.html?sheet=full"):
        answer = client.get(address)
        text = answer.get_data(as_text=True)
        assert "attachment" in answer.headers["Content-Disposition"] and "sandbox" in answer.headers["Content-Security-Policy"]
        assert not re.search(r'(?:src|href)="(?!data:)', text) and "url(data:" in text and "<script" not in text


def test_hostile_text_in_every_field_stays_text(client, conn):
    """Every kind of entry with text fields that hold markup; the sheets say it as it is and nothing of it becomes an element."""
    job, report = DIM, proved(client)
    for kind, content in {
        "note": {"text": HOSTILE}, "remedy": {"text": HOSTILE, "part": HOSTILE[:60], "reason": HOSTILE}, "advice": {"text": HOSTILE[:290]},
        "agreed": {"agrees": "yes", "who": HOSTILE[:100], "said": HOSTILE}, "complaint": {"text": HOSTILE, "before": HOSTILE},
        "card": {"title": HOSTILE[:70], "fasteners": '[[0.5,0.5,"<b>","\\"><i>"]]'}, "came_off": {"what": HOSTILE[:70]},
        "function": {"name": HOSTILE[:70], "when": "after", "works": "yes", "text": HOSTILE[:190]},
        "proof": {"works": "yes", "text": HOSTILE},
        "tries": {"good": "1", "text": HOSTILE}, "member": {"name": HOSTILE[:110], "state": "good", "text": HOSTILE[:290]},
    }.items():  # fmt: skip
        add_entry(conn, job, kind, content, person='<u>"Oda"</u>')
        assert title_of(kind) != kind
    for address in (report, f"{report}/record", f"{report}.html", f"{report}.html?sheet=full", f"/jobs/{job}/proof", f"/jobs/{job}/remedy",
                    f"/jobs/{job}/refit", f"/jobs/{job}"):  # fmt: skip
        answer = client.get(address)
        text = answer.get_data(as_text=True)
        assert answer.status_code == 200 and "<script>alert" not in text and "<u>" not in text
        assert "<img src=x" not in text and "&lt;script&gt;" in text
    for sheet in ("customer", "full"):
        with client.get(posted(client, report, sheet=sheet, on="readings,price,claim")) as pdf:
            assert pdf.data.startswith(b"%PDF-")


def test_an_unknown_job_or_address_is_no_page(client):
    for address in ("/jobs/999/remedy", "/jobs/999/proof", "/jobs/999/report", "/jobs/999/refit", "/jobs/999/report.html"):
        assert client.get(address).status_code == 404


def test_minutes_that_a_repair_took_here_are_counted_in_the_next_one(client, conn):
    before = text_of(client.get(f"/jobs/{DIM}/remedy"))
    assert "times the minutes here" not in before
    repaired(client, minutes="90")
    other = client.post(
        "/jobs/new", data={"vehicle": "2", "complaint": "lamps dim again", "sheet": sheet_of(client, "Step lights")}
    ).headers["Location"]
    job = int(re.search(r"/jobs/(\d+)", other)[1])
    trace = conn.execute("SELECT id FROM trace WHERE job_id = ?", (job,)).fetchone()[0]
    with atomic(conn):
        add_conclusion(conn, job, trace, ["G3"], "G3", 0.99, True, "", [], "Oda")
    page = text_of(client.get(f"/jobs/{job}/remedy"))
    assert "times the minutes here (1 job)" in page
    assert "It came back." in text_of(client.get(f"/jobs/{job}"))


def test_another_supply_on_the_second_day_is_said_and_wants_the_same_again(client):
    proof = repaired(client)
    fields = again_fields(client, proof)
    posted(client, f"{proof}/again", **dict(zip(fields, ("11.40", "0.09", "0.02"), strict=True)))
    assert "Not the same: supply 11.40 V, before 12.47 V" in text_of(client.get(proof))
    posted(client, f"{proof}/tried", good="1")
    posted(client, proof, "the same conditions at Volts at ground stud")
    posted(client, f"{proof}/again", **{fields[0]: "12.44"})
    posted(client, proof)


def test_a_part_that_stands_on_no_circuit_is_named_by_a_bench_check_or_with_a_reason(client, conn):
    remedy, bare = "/jobs/7/remedy", 7
    posted(client, f"{remedy}/found", "The part is missing", called="")
    posted(client, f"{remedy}/found", "What shows it is missing", called="Bleeper")
    coil = conn.execute("SELECT id FROM bench_check WHERE verdict = 'outside limits' AND family = 'coil'").fetchone()[0]
    client.post(f"/bench/checks/{coil}/job", data={"job": str(bare)})
    check = next(e.id for e in entries_of(conn, bare) if e.kind == "bench")
    posted(client, f"{remedy}/found", called="Roof unit clutch", check=str(check))
    page = text_of(client.get(remedy))
    assert "Roof unit clutch" in page and "Proved by the readings" in page and "The whole unit it sits in" in page
    posted(client, f"{remedy}/found", "Something is found already", called="Fuse", reason="burnt")
    posted(client, f"{remedy}/withdraw", "A reason is missing")
    posted(client, f"{remedy}/withdraw", reason="it was read with bad clips")
    assert "Nothing is found yet" in text_of(client.get(remedy))
    posted(client, f"{remedy}/found", called="Capacitor of the board", reason="burst")
    page = text_of(client.get(remedy))
    assert "Concluded without proof: burst." in page and "What killed it: heat?" in page
    posted(client, f"{remedy}/offer", way="new", price="1.20")
    chosen(client, bare, "new:failed")
    refit = f"/jobs/{bare}/refit"
    assert "The old unit kept" in text_of(client.get(refit))
    posted(client, f"{refit}/step", "No part of the board is listed", step="value")
    old = {"name": "C12", "sort": "electrolytic", "printed": "470 µF 25 V 105 °C", "use": "timing", "wrong": "bulged"}
    posted(client, f"{refit}/component", "holds no capacitance", **{**old, "printed": "blue, 25 V"})
    posted(client, f"{refit}/component", **old)
    assert "470 µF (the same), 25 V or more, 105 °C or more" in text_of(client.get(refit))
    posted(client, f"{refit}/step", "C12: what is printed on the new one", step="value")
    posted(client, f"{refit}/component", **old, new="470 µF 16 V 105 °C")
    posted(client, f"{refit}/step", "It bears fewer volts", step="value")
    posted(client, f"{refit}/component", **old, new="470 µF 35 V 105 °C")
    posted(client, f"{refit}/step", step="value")
    posted(client, f"{refit}/function", name="bleeps in reverse", when="before", works="no")
    posted(client, f"{remedy}/gate", "What was found is missing", gate="killed:heat", result="found")
    posted(client, f"{remedy}/gate", gate="killed:heat", result="found", text="the heater duct blows on it; turned away")
    posted(client, f"{remedy}/done", text="Capacitor renewed", reason="asked on the telephone")
    posted(client, f"/jobs/{bare}/proof/tried", good="1")
    posted(client, f"/jobs/{bare}/proof", "every function of the list again")
    posted(client, f"{refit}/function", name="bleeps in reverse", when="after", works="yes")
    posted(client, f"/jobs/{bare}/proof")
    page = text_of(client.get(f"/jobs/{bare}/report"))
    assert "Capacitor of the board." in page and "C12 on its board renewed: 470 µF 35 V 105 °C." in page
    assert "Functions tried one by one: 1 of 1 work." in page
    assert "Why it failed: heat. The heater duct blows on it; turned away." in page


def test_a_part_that_was_renewed_for_this_complaint_before_is_claimed_and_not_put_down_as_done(client, conn):
    fitted = {"part": "reversing bleeper", "on": "2026-03", "how": "new", "source": "Hollin Parts", "months": "24", "helped": "yes"}
    posted(client, "/jobs/7/complaint/fitted", **fitted)
    said = text_of(client.get("/jobs/7/complaint"))
    assert "Reversing bleeper new, Mar 2026, from Hollin Parts: it helped for a while" in said
    posted(client, "/jobs/7/remedy/found", called="Reversing bleeper", reason="silent on 12 V of its own")
    page = text_of(client.get("/jobs/7/remedy"))
    assert "Under warranty" in page and "the part by warranty" in page
    posted(client, "/jobs/7/remedy/choose", option="new:failed")
    posted(client, "/jobs/7/remedy/done", text="Bleeper renewed", reason="asked on the telephone")
    report = text_of(client.get("/jobs/7/report?on=readings,price,claim"))
    assert "reversing bleeper, new, fitted Mar 2026, from Hollin Parts" in report and "Under warranty" in report
    assert "months warranty" not in report  # nobody promised any for the one that is in now
    assert report.count("Reversing bleeper: new") == 1  # what went in now, and not what was in before


def test_a_way_round_is_tried_and_not_called_a_cure_and_another_is_chosen_where_it_fails(client, conn):
    job = "/jobs/7"
    posted(client, f"{job}/remedy/found", called="Bleeper control unit", reason="wakes after ten seconds without its fuse, 6 of 6")
    posted(client, f"{job}/remedy/choose", "say why it is chosen", option="power_cycle:failed")
    posted(client, f"{job}/remedy/choose", option="power_cycle:failed", reason="the new one comes in spring")
    posted(client, f"{job}/remedy/agreed", agrees="yes", who="Jonne", said="knows that it forgets its settings")
    posted(client, f"{job}/remedy/done", "It wakes it, and not by luck", text="Switch fitted, the fuse in line")
    posted(client, f"{job}/remedy/gate", "how many seconds off", gate="reset_tried", result="done", text="often")
    posted(client, f"{job}/remedy/gate", gate="reset_tried", result="done", text="10 s off, 6 of 6")
    posted(client, f"{job}/remedy/done", text="Switch fitted, the fuse in line")
    page = text_of(client.get(f"{job}/proof"))
    assert "not that the fault is gone" in page and "Taught as its maker says" not in page and "sure that it is cured" not in page
    posted(client, f"{job}/proof/tried", bad="1", text="stayed dark")
    assert "Choose another way" in text_of(client.get(f"{job}/proof"))
    posted(client, f"{job}/proof", "the way round did not work in 1 of 1 tries")
    assert posted(client, f"{job}/proof/reopen") == f"{job}/remedy"
    page = text_of(client.get(f"{job}/remedy"))
    assert "Bleeper control unit" in page and "Ways to mend it" in page  # the part still stands, its way does not
    posted(client, f"{job}/remedy/choose", option="power_cycle:failed", reason="with the longer pause")
    posted(client, f"{job}/remedy/agreed", agrees="yes", who="Jonne", said="go on")
    posted(client, f"{job}/remedy/done", text="Pause of half a minute shown")
    posted(client, f"{job}/proof/tried", good="1", text="30 s off")
    assert posted(client, f"{job}/proof") == f"{job}/report"
    report = text_of(client.get(f"{job}/report"))
    assert "Agreed by Jonne: go on." in report and "The fault is still there" in report
    assert "This is no repair." in report and "cured" not in report.partition("Put it on the page")[0]


def test_a_part_condemned_on_the_bench_is_told_the_customer_in_the_words_of_the_bench(client, conn):
    told = {"r.ohms": "3.95", "c.ohms": "24", "r.pull_in": "8.4", "s.sort": "compressor clutch", "s.nominal": "3.6", "s.gap": "0.7"}
    kept = posted(client, "/bench/coil/keep", job="7", title="Roof clutch", **told, **{"s.gap_read": "0.5"})
    assert 'href="/jobs/7">To its job' in client.get(kept).text
    assert posted(client, f"{kept}/job", job="7") == "/jobs/7/remedy"
    check = next(e.id for e in entries_of(conn, 7) if e.kind == "bench")
    posted(client, "/jobs/7/remedy/found", called="Roof clutch", check=str(check))
    page = text_of(client.get("/jobs/7/remedy"))
    assert "Set its gap or play" in page and "does not mend" not in page  # its winding is sound
    report = text_of(client.get("/jobs/7/report"))
    assert "At 80 °C it needs" in report and "was read where" not in report


def test_several_tries_that_are_refused_come_back_in_their_own_form(client):
    proof = repaired(client)
    page = client.post(f"{proof}/tried", data={"several": "yes", "good": "a lot", "text": "over the kerb"}).get_data(as_text=True)
    several = page[page.index('name="several"') :]
    assert 'value="a lot"' in several and 'value="over the kerb"' in several and 'value="over the kerb"' not in page[: -len(several)]
    page = client.post(f"{proof}/tried", data={"bad": "1"}).get_data(as_text=True)
    assert 'name="bad" inputmode="numeric" value=""' in page  # a refused single try does not slip into several


def test_a_reading_taken_twice_is_taken_again_once(client):
    sheet = sheet_of(client, "Step lights")
    made = client.post("/jobs/new", data={"vehicle": "1", "complaint": "dim lamps", "sheet": sheet})
    job = made.headers["Location"].removesuffix("/trace")
    for line in ("open volts batt+ 12.47", "open volts la2.gnd 3.81", "open volts g3 3.70", "open volts g3 3.76"):
        assert client.post(f"{job}/readings", data={"value": line}).status_code == 302
    posted(client, f"{job}/conclude", target="G3", reason="seen")
    proof = repaired(client, int(job.rpartition("/")[2]))
    page = text_of(client.get(proof))
    assert len(again_fields(client, proof)) == 3 and "3.76 V" in page and "3.70 V" not in page


def test_a_part_condemned_on_the_bench_is_proved_by_measuring_the_one_that_is_in_now(client):
    job = client.post("/jobs/new", data={"new_vehicle": "Parcel lorry", "complaint": "revs too high on the flat"}).headers["Location"]
    number = int(re.search(r"/jobs/(\d+)", job)[1])
    coil = {"title": "Lock-up solenoid", "s.sort": "lock-up solenoid", "s.nominal": "13", "c.ohms": "20", "job": str(number)}
    kept = client.post("/bench/coil/keep", data={**coil, "r.ohms": "27.4", "r.click": "no"}).headers["Location"]
    old = kept.rpartition("/")[2]
    assert posted(client, f"{kept}/job", job=str(number)) == f"/jobs/{number}/remedy"  # nothing else is found: it may be the part
    page = client.get(f"/jobs/{number}/remedy").get_data(as_text=True)
    assert 'value="Lock-up solenoid"' in page and "selected" in page
    check = re.search(r'<option value="(\d+)" selected>Lock-up', page)[1]
    remedy = f"/jobs/{number}/remedy"
    posted(client, f"{remedy}/found", "That check was of the Lock-up solenoid", called="Main fuse", check=check)
    posted(client, f"{remedy}/found", called="Main fuse", check=check, reason="blown")
    assert "Concluded without proof: blown" in text_of(client.get(remedy))
    posted(client, f"{remedy}/withdraw", reason="it was the solenoid")
    posted(client, f"{remedy}/found", called="Lock-up solenoid", check=check)
    posted(client, f"{remedy}/offer", way="new", price="64")
    chosen(client, number, "new:failed")
    assert f"after={old}" in client.get(remedy).get_data(as_text=True)
    posted(client, f"{remedy}/done", text="Solenoid renewed", reason="asked on the telephone")
    proof = f"/jobs/{number}/proof"
    posted(client, f"{proof}/tried", good="1")
    posted(client, proof, "Lock-up solenoid, the one that is in now, measured as before")
    client.post("/bench/coil/keep", data={**coil, "after": old, "r.ohms": "29.0", "r.click": "yes"})
    posted(client, proof, "Lock-up solenoid, the one that is in now, is outside limits")
    client.post("/bench/coil/keep", data={**coil, "after": old, "r.ohms": "12.9", "r.click": "yes"})
    page = text_of(client.get(remedy))
    assert "done : within limits. 12.9 Ω" in page
    posted(client, proof)
    report = text_of(client.get(f"/jobs/{number}/report"))
    assert "27.4 Ω" in report and "12.9 Ω" in report
    assert "It clicks when it is powered: before no, with the one that is in now yes." in report
