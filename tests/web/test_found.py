"""What the Trace screen says once it is found: the part by name, and what comes next."""

from __future__ import annotations

from .test_views import reading


def test_when_a_part_is_proved_it_heads_the_panel_and_concluding_comes_next(client):
    for value, red in (("12.47", "batt+"), ("12.15", "la2.feed"), ("3.81", "la2.gnd"), ("3.76", "g3")):
        assert client.post("/jobs/4/readings", data=reading(value, red)).status_code == 302
    page = client.get("/jobs/4/trace").text
    panel = page[page.index('aria-label="Next test"') : page.index('aria-label="Suspects"')]
    assert "<h1>Found: Ground stud in the step well (G3)</h1>" in panel
    assert 'data-key="c"' in panel and page.count('data-key="c"') == 1
    assert panel.count(" go") == 1  # one Next on a page
