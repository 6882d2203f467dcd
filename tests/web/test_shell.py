"""The shell: rooms that register themselves, and what the ladder is drawn from."""

from __future__ import annotations

import re
from pathlib import Path

import pytest
from flask import Blueprint

from pondrel import web
from pondrel.core.circuit.read.sheet import parse_sheet
from pondrel.core.circuit.solve import solve
from pondrel.core.isolate import Workup, descent, isolate, ladder
from pondrel.web import create_app
from pondrel.web.shell.ladder import Fold, ladder_figure
from pondrel.web.shell.rooms import Room, Stop, add_room, add_stop

from ..circuits import reading_of


def bar_of(page: str) -> list[tuple[str, str]]:
    """The rooms of a page's bar: key and name."""
    bar = re.search(r'aria-label="Rooms">(.*?)</nav>', page, re.DOTALL)[1]
    return re.findall(r'data-key="(.)"[^>]*>([^<]+)</a>', bar)


ROOMS = [("b", "Bay"), ("k", "Bench"), ("y", "Start &amp; charge"), ("o", "Scope"), ("m", "Bus"), ("g", "Modules"), ("w", "Wires")]
ROOMS += [("l", "Library")]


def test_a_room_that_registers_itself_stands_in_the_bar_and_in_the_list_of_keys(data_folder):
    assert bar_of(create_app(data_folder).test_client().get("/").text) == ROOMS
    app = create_app(data_folder)
    cellar = Blueprint("cellar", __name__)
    cellar.add_url_rule("/cellar", "show", lambda: "")
    app.register_blueprint(cellar)
    add_room(app, Room("Cellar", "cellar.show", "x", 25, ("cellar",), "there 1 to 9 choose a shelf"))
    page = app.test_client().get("/").text
    assert bar_of(page) == [*ROOMS[:2], ("x", "Cellar"), *ROOMS[2:]]
    assert "Cellar; there 1 to 9 choose a shelf" in page
    with pytest.raises(ValueError, match="The key x is another room's"):
        add_room(app, Room("Bus", "bench.show", "x", 30, ("bus",)))


def test_no_page_has_a_key_of_its_own_that_leads_to_a_room():
    templates = "".join(one.read_text() for one in (Path(web.__file__).parent / "templates").rglob("*.html"))
    of_pages = set(re.findall(r'<kbd>(.)</kbd>|data-key="(.)"', templates))
    assert not {key for pair in of_pages for key in pair if key} & {key for key, _ in ROOMS}


def test_the_room_of_a_page_is_marked(client):
    for path, room in (("/", "Bay"), ("/jobs/3/trace", "Bay"), ("/sheets/2", "Library")):
        assert re.findall(r'aria-current="page">([^<]+)</a>', client.get(path).text) == [room]


def test_a_stage_of_the_strip_leads_where_its_feature_says(data_folder):
    app = create_app(data_folder)
    add_stop(app, Stop("Report", lambda record: f"/report-of-{record.job.id}"))
    strip = re.search(r'aria-label="Where the job stands">(.*?)</nav>', app.test_client().get("/jobs/3/trace").text, re.DOTALL)[1]
    assert 'href="/report-of-3"' in strip and 'href="/jobs/3/trace"' in strip


def chain(count: int) -> str:
    """A lamp behind so many wires in a row, each of which ends where a probe reaches it."""
    wires = "\n".join(f"  W{i}: {{kind: wire, pins: {{a: n{i}, b: n{i + 1}}}, length_m: 1, csa_mm2: 1.5}}" for i in range(count))
    places = "\n".join(f"  n{i}: {{at: joint {i}, minutes: 1}}" for i in range(count + 1))
    return f"""format: pondrel-sheet/1
title: A long way
supply: {{nominal: 12.6, unit: V}}
places:
{places}
  b-: {{at: battery minus, minutes: 1}}
parts:
  BAT: {{kind: battery, pins: {{p: n0, n: b-}}}}
{wires}
  LA: {{kind: lamp, pins: {{a: n{count}, b: b-}}, volts: 12, watts: 10}}
states:
  "on": {{}}
"""


def drawn(count: int, *readings: tuple[str, str], red: str = ""):
    """The figure of a chain's ladder after readings (place, number)."""
    sheet = parse_sheet(chain(count))
    found = isolate(Workup(sheet), tuple(reading_of(sheet, "on", "volts", place, "", value) for place, value in readings))
    path = next(p for p in found.belief.workup.paths if p.load == "LA")
    return ladder_figure(sheet, ladder(sheet, found, descent(found.belief, path, "on", found.targets[0])), solve(sheet, "on"), red, "b-")


def test_what_is_cleared_folds_in_a_long_ladder_only_and_never_the_leads():
    short = drawn(6, ("n0", "12.5"), ("n6", "12.2"))
    assert short.size == "" and not any(isinstance(step, Fold) for step in short.steps)
    long = drawn(14, ("n0", "12.5"), ("n7", "12.3"), ("n14", "6.0"), red="n3")
    folds = [step for step in long.steps if isinstance(step, Fold)]
    assert long.size == "tall" and folds
    shown = {rung.name for rung in long.steps if not isinstance(rung, Fold)}
    assert {"n0", "n3", "n7", "n14", "b-"} <= shown
    hidden = [rung for fold in folds for rung in fold.rungs]
    assert not any(rung.read or rung.lead or rung.shade for rung in hidden)
    assert sum(fold.parts for fold in folds) == sum(not rung.name for rung in hidden)


def test_positions_are_shares_of_the_plot_and_a_slip_is_drawn_at_its_edge():
    figure = drawn(4, ("n0", "12.5"), ("n2", "125"))
    numbers = [float(n) for rung in figure.steps for n in re.findall(r"-?[\d.]+", rung.figure.band + rung.figure.should)]
    assert all(0 <= n <= 100 for n in numbers)
    slip = next(rung for rung in figure.steps if rung.name == "n2")
    assert slip.figure.beyond == "right" and slip.figure.dot <= 100 and slip.read == "125.00 V"
    assert figure.ticks[0].text == "0" and figure.ticks[-1].text.endswith(" V")


def test_a_bracket_goes_from_the_rung_below_one_reading_to_the_rung_above_the_next():
    figure = drawn(4, ("n0", "12.50"), ("n2", "12.47"))
    assert [(rung.name or rung.code or rung.title, rung.bracket) for rung in figure.steps if rung.bracket] == [
        ("Wire W0", "first"), ("n1", "inside"), ("Wire W1", "last"),
    ]  # fmt: skip
    assert [rung.lost for rung in figure.steps if rung.lost[0]] == [("30 mV lost", "as it should be")]
    (odd,) = [rung for rung in drawn(4, ("n0", "12.50"), ("n2", "12.20")).steps if rung.lost[0]]
    assert odd.odd and odd.lost == ("0.30 V lost", "should be 0.03")
    (risen,) = [rung for rung in drawn(4, ("n0", "12.20"), ("n2", "12.50")).steps if rung.lost[0]]
    assert risen.lost[0] == "0.30 V gained"
