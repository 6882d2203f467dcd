"""The report as PDF, read by another program: the same figures as on the screen, fonts inside, structure tagged, nothing active."""

from __future__ import annotations

import io
import re
import time
from pathlib import Path
from xml.etree import ElementTree as ET

import pytest
from pypdf import PdfReader

from pondrel import demo
from pondrel.core.circuit.read.sheet import parse_sheet
from pondrel.store.db import atomic
from pondrel.store.entries import add_entry
from pondrel.web.report.customer import ON_THE_PAGE
from pondrel.web.report.document import DocumentError
from pondrel.web.report.drawing import drawn_circuit
from pondrel.web.report.made import CUSTOMER, FULL, PLAN, ready_pdf

from .test_after_found import proved
from .test_views import text_of

DIM = 1
DEMO_SHEETS = {file.stem: file.read_text() for file in sorted(Path(demo.__file__).parent.glob("sheets/*.yaml"))}
MARKUP = "<script>alert(1)</script> {{ 7*7 }} \"'><img src=x onerror=1>"
EVERYTHING = frozenset(ON_THE_PAGE)


def made(client, job: int, sheet: str) -> PdfReader:
    from pondrel.web.jobs.docket import record_of
    from pondrel.web.shell.database import get_db

    with client.application.test_request_context():
        return PdfReader(io.BytesIO(ready_pdf(record_of(get_db(), job), sheet, EVERYTHING).pdf.content))


def words(reader: PdfReader) -> str:
    return re.sub(r"\s+", " ", " ".join(page.extract_text() for page in reader.pages))


def test_the_pdf_says_what_the_screen_says(client):
    report = proved(client)
    pdf, screen = words(made(client, DIM, CUSTOMER)), text_of(client.get(f"{report}?on={','.join(EVERYTHING)}"))
    for told in ("All three door lamps dim", "3.76 V", "0.02 V", "12.44 V", "outside limits", "within limits", "37.97 €", "Job 1",
                 "Tried once afterwards, good then."):  # fmt: skip
        assert told in pdf and told in screen, told
    seal = re.search(r'class="paper-seal">([^<]+)', client.get(f"{report}?on={','.join(EVERYTHING)}").get_data(as_text=True))[1]
    assert seal in pdf


@pytest.mark.parametrize("sheet", [CUSTOMER, FULL, PLAN])
def test_fonts_are_inside_and_the_structure_is_tagged(client, sheet):
    proved(client)
    reader = made(client, DIM, sheet)
    root = reader.trailer["/Root"]
    assert root["/MarkInfo"]["/Marked"] and "/StructTreeRoot" in root and root["/Lang"] == "en"
    assert reader.metadata.title.startswith("Job 1: All three door lamps dim")
    fonts = {}
    for page in reader.pages:
        for font in page["/Resources"]["/Font"].values():
            own = font.get_object()
            own = own["/DescendantFonts"][0].get_object() if "/DescendantFonts" in own else own
            fonts[own["/BaseFont"]] = own["/FontDescriptor"]
    assert fonts and all({"/FontFile", "/FontFile2", "/FontFile3"} & set(descriptor) for descriptor in fonts.values())
    assert any("Atkinson" in name for name in fonts)


def test_the_customer_s_page_is_one_page_and_no_link_or_script_is_in_it(client):
    proved(client)
    reader = made(client, DIM, CUSTOMER)
    assert len(reader.pages) == 1
    for page in reader.pages:
        assert "/Annots" not in page
    assert "/OpenAction" not in reader.trailer["/Root"] and "/Names" not in reader.trailer["/Root"]


def test_hostile_text_is_printed_as_text(client, conn):
    proved(client)
    add_entry(conn, DIM, "advice", {"text": MARKUP})
    add_entry(conn, DIM, "note", {"text": MARKUP + '<img src="file:///etc/passwd"><a href="http://example.org">x</a>'})
    assert "<script>alert(1)</script>" in words(made(client, DIM, CUSTOMER))
    full = made(client, DIM, FULL)
    assert "file:///etc/passwd" in words(full) and all("/Annots" not in page for page in full.pages)


def test_the_captures_of_a_job_are_in_the_full_record_drawn_with_their_marks(client, conn):
    rows = "".join(f"{k / 100:.2f},{12 if k % 100 < 60 else 0}\n" for k in range(2000))
    sent = {"capture": (io.BytesIO(f"t [s],out [V]\n{rows}".encode()), "a.csv"), "says": "Regulator <b>output</b>", "job": str(DIM)}
    address = client.post("/scope", data=sent).headers["Location"]
    client.post(f"{address}/judge", data={"pattern": "bimetal_regulator", "channel": "1"})
    client.post(f"{address}/mark", data={"at": "8", "says": "Plug pulled", "channel": "1"})
    text = words(made(client, DIM, FULL))
    assert "Capture: Regulator <b>output</b>" in text and "a.csv: 2000 samples in 20.0 s of out." in text
    assert "Outside limits. The gauges get" in text and "A, 8 s: Plug pulled: no change." in text and "12.00 V" in text


@pytest.mark.slow
def test_a_record_of_a_thousand_lines_is_printed_whole(client, conn):
    """Ten seconds were measured; what grows with the square of the lines would take minutes."""
    proved(client)
    with atomic(conn):
        for number in range(1000):
            add_entry(conn, DIM, "note", {"text": f"line {number} of many " + "and more words " * 8})
    begun = time.process_time()
    text = words(made(client, DIM, FULL))
    assert "line 0 of many" in text and "line 999 of many" in text
    assert time.process_time() - begun < 120.0


def test_where_another_pdf_is_being_made_one_is_told_to_wait(client, monkeypatch):
    from pondrel.web.report import document

    report = proved(client)
    monkeypatch.setattr(document, "WAIT_SECONDS", 0.05)
    with document._ONE_AT_A_TIME:
        answer = client.post(report, data={"sheet": "customer"})
    assert answer.status_code == 400 and "Another PDF is being made" in text_of(answer)
    assert issubclass(DocumentError, Exception)


def test_the_plan_is_what_is_left_from_finding_it_to_proving_it(client):
    finding = words(made(client, 2, PLAN))
    assert "To find it: Tail-lift pump and lowering valve" in finding and "reckoned, not promised" in finding and "Bring:" in finding
    assert "To fit it" not in finding and "To prove it" not in finding
    mending = words(made(client, DIM, PLAN))
    assert "Ground stud in the step well: Clean and tighten, not chosen yet." in mending and "Bare metal, both faces" in mending
    assert "Read again: Volts at ground stud" in mending and "3.76 V before; it should be" in mending and "To find it" not in mending
    proved(client)
    done = words(made(client, DIM, PLAN))
    assert "Nothing is planned" in done and "To prove it" not in done


def test_the_circuit_is_drawn_in_the_record_as_it_stands(client):
    page = client.get(f"/jobs/{DIM}/report/record").get_data(as_text=True)
    drawings = re.findall(r'<svg[^>]*class="paper-circuit".*?</svg>', page, re.DOTALL)
    assert drawings and not re.search(r"<use|<style|\sclass=\"(?!paper-circuit)|\sstyle=", "".join(drawings))
    pdf = words(made(client, DIM, FULL))
    for told in ("Step light", "G3", "Ground stud"):
        assert any(told in one for one in drawings) and told in pdf


@pytest.mark.parametrize("name", list(DEMO_SHEETS))
def test_every_drawing_is_whole_on_its_own_and_hostile_names_stay_text(client, name):
    """Nothing in it hangs on styles or symbols of the page, and a part's name is text whatever it holds."""
    text = re.sub(r"(kind: battery.*label: )([A-Za-z ]+)", r"""\1'<b>"x"</b> & \2'""", DEMO_SHEETS[name], count=1)
    with client.application.test_request_context():
        sheet = parse_sheet(text)
        strips = drawn_circuit(sheet)
    drawn = [ET.fromstring(strip) for strip in strips]
    every = [element for strip in drawn for element in strip.iter()]
    assert drawn and {element.tag.partition("}")[2] for element in every} <= {"svg", "g", "path", "rect", "circle", "text", "tspan", "line"}
    words = "".join("".join(strip.itertext()) for strip in drawn)
    assert "<b>" in words
    for part in sheet.parts.values():
        if part.kind.symbol != "wire" and part.kind.modes:  # a logger that is plugged on is not drawn
            assert part.name in words, part.name
    assert all(element.get("fill") or element.get("stroke") for element in every if element.tag.endswith("path"))
