"""What the screens say of what was found: the part by name and what comes next, verdicts in the record, answers by touch."""

from __future__ import annotations

from .test_views import reading, text_of


def test_when_a_part_is_proved_it_heads_the_panel_and_concluding_comes_next(client):
    for value, red in (("12.47", "batt+"), ("12.15", "la2.feed"), ("3.81", "la2.gnd"), ("3.76", "g3")):
        assert client.post("/jobs/4/readings", data=reading(value, red)).status_code == 302
    page = client.get("/jobs/4/trace").text
    panel = page[page.index('aria-label="Next test"') : page.index('aria-label="Suspects"')]
    assert "<h1>Found: Ground stud in the step well (G3)</h1>" in panel
    assert 'data-key="c"' in panel and page.count('data-key="c"') == 1
    assert panel.count(" go") == 1  # one Next on a page


def test_the_record_says_what_the_limits_say_of_each_reading(client):
    record = text_of(client.get("/jobs/1"))
    assert "outside limits by 3.66 V at most 100 mV" in record and "within limits by 550 mV at least 11.60 V" in record


def test_a_touched_answer_counts_whatever_stands_in_the_field(client):
    form = {"state": "raise", "instrument": "see", "red": "contactor", "black": "", "answer": "clicks", "value": "12.4 half typed"}
    assert client.post("/jobs/2/readings", data=form).status_code == 302
    assert "Contactor look, raise clicks" in text_of(client.get("/jobs/2/trace"))
