"""Drawing a circuit through the test client: from a typical one, step by step, undone, kept, taken up by its job."""

from __future__ import annotations

import io
import re

import pytest

from pondrel.core.base.errors import PondrelError
from pondrel.store.db import DATABASE, opened
from pondrel.store.drafts import add_step, get_draft, open_drafts

from .test_library import sheet_id, text_of

TYPICAL = "/circuits/switched_load"


@pytest.fixture
def conn(data_folder):
    with opened(data_folder / DATABASE) as connection:
        yield connection


@pytest.fixture
def draft(client) -> str:
    """The address of a draft made from a typical circuit as it comes."""
    return client.post(TYPICAL, data={}).location


def step(client, draft: str, step_name: str, on: str = "sheet", subject: str = "", /, **given: str):
    return client.post(f"{draft}/step", data={"step": step_name, "on": on, "subject": subject, **given})


def parts(client, draft: str) -> set[str]:
    return set(re.findall(r'data-part="([^"]+)"', client.get(draft).get_data(as_text=True)))


def test_every_typical_circuit_can_be_chosen_asked_for_and_drawn(client):
    page = client.get("/circuits").get_data(as_text=True)
    names = re.findall(r'href="(/circuits/[a-z_]+)"', page)
    assert len(names) >= 14
    for name in names:
        assert client.get(name).status_code == 200
        assert client.get(f"{name}/drawing.svg").mimetype == "image/svg+xml"
        drawn = client.post(name, data={})
        assert drawn.status_code == 302 and client.get(drawn.location).status_code == 200
    assert client.get("/circuits/dragon").status_code == 404


def test_what_is_asked_follows_the_answers(client):
    assert "brake module" not in text_of(client.get("/circuits/bus"))
    assert "brake module" in text_of(client.get("/circuits/bus?bus.modules=3&circuit.modules=5"))
    fragment = client.get("/circuits/relay", query_string={"circuit.control": "a module, to ground"}, headers={"X-Fragment": "1"})
    assert "<html" not in fragment.get_data(as_text=True) and "control module" in text_of(fragment)


def test_a_wrong_answer_comes_back_with_its_sentence_and_everything_typed(client):
    answer = client.post(TYPICAL, data={"fuse.rating": "lots", "feed.length": "2 m", "circuit.title": "My lamp"})
    page = answer.get_data(as_text=True)
    assert answer.status_code == 400 and "is not understood: a fuse rating such as 10 A is wanted" in text_of(answer)
    assert 'value="lots"' in page and 'value="2 m"' in page and 'value="My lamp"' in page
    taken = client.post(TYPICAL, data={"fuse.name": "F1 a", "switch.name": "F1 b"})
    assert taken.status_code == 400 and "Two parts are called" in text_of(taken)


def test_a_step_redraws_undo_takes_it_back_and_redo_takes_it_again(client, draft):
    before = parts(client, draft)
    taken = step(client, draft, "put_in", "part", "W1", what="fuse", name="F9")
    assert taken.status_code == 302 and "part=F9" in taken.location
    assert parts(client, draft) - before == {"F9", "W4"}
    client.post(f"{draft}/undo")
    assert parts(client, draft) == before
    client.post(f"{draft}/redo")
    assert "F9" in parts(client, draft)
    client.post(f"{draft}/redo")  # there is nothing more to take again
    assert "F9" in parts(client, draft)
    for _ in range(5):
        client.post(f"{draft}/undo")
    assert parts(client, draft) == before


def test_after_an_undo_another_step_is_taken_from_there_and_the_first_is_kept(client, draft, conn):
    step(client, draft, "put_in", "part", "W1", what="fuse", name="F9")
    client.post(f"{draft}/undo")
    step(client, draft, "put_in", "part", "W2", what="splice", name="SP9")
    assert {"SP9"} <= parts(client, draft) and "F9" not in parts(client, draft)
    kept = [row["words"] for row in conn.execute("SELECT words FROM draft_step WHERE draft_id = 1 ORDER BY id")]
    assert kept == ["made from: Switched load", "fuse F9 put into W1", "splice SP9 put into W2"]


def test_a_step_that_cannot_be_taken_leaves_the_drawing_and_what_was_typed(client, draft):
    refused = step(client, draft, "change", "part", "F1", rating="-3", label="my label")
    page = refused.get_data(as_text=True)
    assert refused.status_code == 400 and "a positive number of amperes is wanted" in text_of(refused)
    assert 'value="-3"' in page and 'value="my label"' in page
    assert client.get(draft).status_code == 200
    for name, on, subject in (("fly", "sheet", ""), ("put_in", "part", "W99"), ("branch", "node", "nowhere"), ("state", "state", "never")):
        assert step(client, draft, name, on, subject).status_code in (302, 400)
    assert client.post(f"{draft}/step", data={}).status_code == 400


def test_the_same_form_sent_twice_is_one_step(client, draft, conn):
    for _ in range(2):
        step(client, draft, "branch", "node", "s1.2", sort="lamp", key="abcdefghijklmnopqrstuvwx")
    assert conn.execute("SELECT count(*) FROM draft_step WHERE draft_id = 1").fetchone()[0] == 2


def test_the_text_beside_the_drawing_is_a_step_and_a_bad_one_comes_back_with_its_flaws(client, draft, conn):
    text = get_draft(conn, 1).text
    bad = client.post(f"{draft}/text", data={"text": text.replace("rating: 10", "rating: -10")})
    assert bad.status_code == 400 and "parts.F1.rating" in text_of(bad) and "rating: -10" in bad.get_data(as_text=True)
    assert client.post(f"{draft}/text", data={"text": text.replace("rating: 10", "rating: 7.5")}).status_code == 302
    assert "rating: 7.5" in get_draft(conn, 1).text
    client.post(f"{draft}/undo")
    assert "rating: 10" in get_draft(conn, 1).text


def test_the_text_is_edited_beside_the_drawing_too(client, draft, conn):
    text = get_draft(conn, 1).text
    assert "The text beside it" in text_of(client.get(draft))
    beside = {"X-Fragment": "1"}
    bad = client.post(f"{draft}/text", data={"text": text.replace("rating: 10", "rating: none")}, headers=beside)
    page = bad.get_data(as_text=True)
    assert bad.status_code == 400 and "<html" not in page and "rating: none" in page and "parts.F1.rating" in text_of(bad)
    good = client.post(f"{draft}/text", data={"text": text.replace("label: load", "label: my lamp")}, headers=beside)
    assert good.status_code == 302


def test_what_was_probably_not_meant_and_what_it_should_do_stand_beside_the_drawing(client, draft):
    assert "Lamp gets 12.13 V and draws 1.76 A" in text_of(client.get(draft))
    step(client, draft, "change", "part", "F1", rating="1")
    page = text_of(client.get(draft))
    assert "Is this meant?" in page and "it blows" in page and "See whether rating and loads are as on the vehicle" in page


def test_a_draft_is_kept_once_as_a_sheet_and_then_begins_from_there(client, draft, conn):
    kept = client.post(f"{draft}/keep", data={"note": "drawn at the vehicle"})
    again = client.post(f"{draft}/keep")
    assert kept.location == again.location and "/sheets/" in kept.location
    assert "drawn at the vehicle" in text_of(client.get(kept.location))
    refused = step(client, draft, "put_in", "part", "W1", what="fuse")
    assert refused.status_code == 400 and "kept already" in text_of(refused)
    assert open_drafts(conn) == []


def test_a_draft_for_a_job_is_taken_up_by_it(client):
    address = client.post(TYPICAL, data={"job": "7", "circuit.title": "Rear lamp of the cart"}).location
    kept = client.post(f"{address}/keep")
    assert "/jobs/7/trace" in kept.location
    assert "Rear lamp of the cart" in text_of(client.get("/jobs/7"))
    assert client.get(kept.location, follow_redirects=True).status_code == 200


def test_a_sheet_of_the_library_is_changed_as_its_next_version_or_copied(client, conn):
    lights = sheet_id(client, "Step lights with a shared ground")
    draft = client.post(f"/sheets/{lights}/draw").location
    assert step(client, draft, "change", "part", "G3", label="stud behind the step").status_code == 302
    version = client.post(f"{draft}/keep").location
    assert "There is a newer version" in text_of(client.get(f"/sheets/{lights}"))
    assert "stud behind the step" in text_of(client.get(version))
    copy = client.post(f"/sheets/{lights}/draw", data={"as": "copy"}).location
    step(client, copy, "change", "part", "G3", label="another stud")
    assert client.post(f"{copy}/keep").location not in (version, f"/sheets/{lights}")
    stale = client.post(f"/sheets/{lights}/draw").location
    step(client, stale, "change", "part", "G3", label="too late")
    late = client.post(f"{stale}/keep")
    assert late.status_code == 400 and "newer version" in text_of(late)


def test_a_file_of_another_program_is_drawn_and_what_could_not_be_read_stands_beside_it(client):
    rows = b"from,to,section\nBAT+,F1:1,1.5\nF1:2,LA1:1,1.5\nLA1:2,GND,1.5\n???,x,1\n"
    draft = client.post("/circuits/file", data={"file": (io.BytesIO(rows), "list.csv"), "job": "7"}).location
    page = text_of(client.get(draft))
    assert "Not read from the file line 5:" in page and "is no end of a wire" in page and "Lamp LA1 gets" in page
    assert "/jobs/7/trace" in client.post(f"{draft}/keep").location
    for content, name, says in (
        (b"", "a.csv", "The file is empty"),
        (b"\xff\xfe\x00", "a.bin", "is no text"),
        (b"hello", "a.txt", "Nobody can tell"),
    ):
        refused = client.post("/circuits/file", data={"file": (io.BytesIO(content), name)})
        assert refused.status_code == 400 and says in text_of(refused)
    assert "No file is chosen" in text_of(client.post("/circuits/file", data={}))


def test_two_people_on_one_drawing_do_not_undo_each_other(client, draft, conn):
    seen = get_draft(conn, 1)
    step(client, draft, "branch", "node", "s1.2", sort="lamp")
    with pytest.raises(PondrelError, match="Somebody changed this circuit meanwhile"):
        add_step(conn, seen, seen.text, "mine")


@pytest.mark.parametrize("subject", ["../../etc", "<script>", "x" * 5000, "W1'; DROP TABLE draft; --", "\x07", ""])
def test_hostile_names_get_a_sentence_and_leave_the_drawing_within_reach(client, draft, subject):
    assert step(client, draft, "put_in", "part", subject, what="fuse").status_code == 400
    assert step(client, draft, "change", "part", "W1", label=subject, name=subject).status_code in (302, 400)
    assert step(client, draft, "plug", parts=f"W1, {subject}").status_code == 400
    assert client.get(draft, query_string={"part": subject, "node": subject, "in": subject}).status_code == 200
    assert client.get("/drafts/999999").status_code == 404
