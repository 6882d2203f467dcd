"""A capture by the phases of a start: what is kept of it, and that nothing else can be taken for one."""

from __future__ import annotations

import io
import json

import pytest

from pondrel.core.base.errors import CaptureError
from pondrel.core.power.capture import seen_in
from pondrel.core.power.guide.picture import phases_of
from pondrel.core.power.phased import MOST_POINTS, laid_as_text, laid_from, laid_in
from pondrel.core.wave import capture_from

from ...captures import as_csv, crank


def seen(**more):
    t, volts, _, _ = crank(**more)
    return seen_in(capture_from(io.BytesIO(as_csv(t, volts))))


def test_every_phase_has_its_figure_and_its_line():
    laid = laid_in(seen(charge=14.1), 212.0)
    assert laid.figures["rest"] == pytest.approx(12.6, abs=0.03) and laid.figures["idle"] == pytest.approx(14.1, abs=0.05)
    assert laid.figures["key on"] < laid.figures["rest"] - 0.04 and laid.figures["lowest"] < laid.figures["crank"] < 11.8
    assert laid.figures["rpm"] == 212.0 and list(laid.line) == ["rest", "key on", "crank", "idle"]
    for points in laid.line.values():
        assert points[0][0] == 0.0 and points[-1][0] <= 1.0 and len(points) <= MOST_POINTS
        assert all(low <= high for _, low, high in points)


def test_an_engine_that_does_not_start_has_no_phase_of_running():
    laid = laid_in(seen(starts=False))
    assert "idle" not in laid.figures and "idle" not in laid.line


def test_it_is_kept_as_a_text_and_read_again():
    laid = laid_in(seen())
    again = laid_from(laid_as_text(laid))
    assert again.figures == pytest.approx(laid.figures, abs=1e-3) and again.line["crank"][3] == pytest.approx(
        laid.line["crank"][3], abs=0.01
    )
    assert len(laid_as_text(laid)) < 20_000


@pytest.mark.parametrize(
    "text",
    [
        "", "[]", "null", "{", '{"figures": {"crank": "many"}, "line": {}}', '{"figures": {"crank": 1e99}, "line": {}}',
        '{"figures": {"crank": NaN}, "line": {}}', '{"figures": {"crank": true}, "line": {}}', '{"figures": {}, "line": {}}',
        '{"figures": {"crank": 10}, "line": {"crank": [[0, 1]]}}', '{"figures": {"crank": 10}, "line": {"crank": 7}}', "[" * 5000,
    ],
)  # fmt: skip
def test_what_is_no_capture_gets_one_sentence(text):
    with pytest.raises(CaptureError, match="take the capture in again"):
        laid_from(text)


def test_a_line_from_elsewhere_is_cut_to_what_fits():
    many = json.dumps({"figures": {"crank": 10.0}, "line": {"crank": [[0.1, 9, 10]] * 5000}})
    assert len(laid_from(many).line["crank"]) == 2 * MOST_POINTS


def test_a_capture_without_cranking_cannot_be_laid_out():
    t, volts, _, _ = crank()
    with pytest.raises(CaptureError, match="No cranking"):
        laid_in(seen_in(capture_from(io.BytesIO(as_csv(t[:1000], volts[:1000])))))


def test_what_a_meter_read_stands_beside_what_was_captured():
    phases = {phase.name: phase for phase in phases_of([], {"system": "12"}, laid_in(seen()))}
    assert phases["crank"].volts is None and phases["crank"].captured < 11.8 and phases["crank"].line
    assert phases["raised"].captured is None and phases["raised"].line == ()
    assert phases_of([], {"system": "24"})[0].least == pytest.approx(2 * phases["rest"].least)
