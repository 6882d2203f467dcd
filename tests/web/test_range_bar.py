"""The range bar: a number stands on the side of its limit that the verdict says, and the strip is as wide as the meter's doubt."""

from __future__ import annotations

import math

import pytest

from pondrel.core.check import Limit, judge
from pondrel.web.shell.range_bar import range_bar


def inside(bar) -> bool:
    """Whether the number stands in the box."""
    return bar.allowed.x <= bar.number.x <= bar.allowed.x + bar.allowed.wide


@pytest.mark.parametrize(
    ("limit", "value", "verdict"),
    [
        (Limit("Ω", 35.0, 41.0), 38.0, "within limits"),
        (Limit("Ω", 35.0, 41.0), 28.0, "outside limits"),
        (Limit("V", most=0.2), 0.11, "within limits"),
        (Limit("V", most=0.2), 3.76, "outside limits"),
        (Limit("V", least=11.6), 12.15, "within limits"),
        (Limit("V", least=11.6), -0.4, "outside limits"),
    ],
)
def test_the_number_stands_where_its_verdict_says(limit, value, verdict):
    found = judge(limit, value, 0.01)
    bar = range_bar(found)
    assert found.verdict == verdict and inside(bar) == (verdict == "within limits")
    assert len(bar.edges) == len(bar.strips) == 1 + (math.isfinite(limit.least) and math.isfinite(limit.most))
    drawn = [bar.number.x, bar.allowed.x, bar.allowed.x + bar.allowed.wide, *(edge.x for edge in bar.edges)]
    assert all(0 <= x <= 100 for x in drawn)
    assert bar.says.endswith(verdict)


def test_the_strip_reaches_as_far_as_the_meter_cannot_decide():
    sharp, blunt = (range_bar(judge(Limit("V", 11.5, 14.7), 13.0, u)) for u in (0.01, 0.2))
    assert blunt.strips[0].wide > 10 * sharp.strips[0].wide > 0
    for strip, edge in zip(blunt.strips, blunt.edges, strict=True):
        assert strip.x + strip.wide / 2 == pytest.approx(edge.x, abs=0.2)


def test_what_is_over_range_or_cannot_be_compared_has_no_bar():
    assert range_bar(judge(Limit("Ω", 35.0, 41.0), math.inf, 0.0)) is None
    assert range_bar(judge(Limit("Ω"), 3.0, 0.1)) is None
