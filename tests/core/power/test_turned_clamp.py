"""A clamp hung the other way round shows a minus: it is the same current."""

from __future__ import annotations

import pytest

from pondrel.core.power.guide import Answer, position_of, way_called

from ..bench.cases import judged, verdicts

TURNED = [
    ("draw", ("amps=-0.580@67min",), {}, {"amps": "outside limits"}),
    ("crank", ("battery=10.90", "supply_drop=0.20", "ground_drop=0.10", "amps=-600"), {}, {"amps": "outside limits"}),
    (
        "crank",
        ("battery=10.90", "supply_drop=0.20", "ground_drop=0.10", "amps=-150"),
        {},
        {"amps": "within limits", "battery": "within limits"},
    ),
    ("charge", ("raised=13.20", "loaded=12.90", "amps=-68.0"), {"rated": "70"}, {"amps": "within limits"}),
    ("battery", ("rest=12.65@25C", "load=10.10@21C", "load_amps=-300", "cca=600"), {"standard": "sae"}, {"load": "within limits"}),
]


@pytest.mark.parametrize(("family", "reads", "settings", "says"), TURNED)
def test_the_minus_of_a_turned_clamp_changes_no_verdict(family, reads, settings, says):
    turned = judged(family, *reads, **settings)
    assert says.items() <= verdicts(turned).items()
    right = judged(family, *(read.replace("=-", "=") for read in reads), **settings)
    assert verdicts(right) == verdicts(turned) and right.verdict is turned.verdict and right.service == turned.service


def test_a_night_by_a_turned_clamp_is_the_same_night():
    night = "minutes,amps\n0,-0.9\n30,-0.9\n60,-0.9\n90,-0.9"
    assert judged("draw", points=night).service == judged("draw", points=night.replace("-", "")).service
    assert str(judged("draw", points=night).verdict) == "outside limits"


@pytest.mark.parametrize("amps", ["180", "620", "12"])
def test_a_guided_way_takes_a_turned_clamp_for_what_it_shows(amps):
    way = way_called("start")
    right, turned = (position_of(way, [Answer("heard", "turns slowly"), Answer("amps", text)]) for text in (amps, f"-{amps}"))
    assert right.chances == turned.chances and right.chances != position_of(way, [Answer("heard", "turns slowly")]).chances
