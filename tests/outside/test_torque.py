"""Torque units against NIST SP 811:2008, appendix B.8 (pound-force foot 1.355818 N·m, pound-force inch 0.1129848 N·m), and against the
exact definitions behind it: the pound 0.45359237 kg and the inch 0.0254 m (international yard and pound agreement, 1959), standard gravity
9.80665 m/s² (ISO 80000-3)."""

from __future__ import annotations

import pytest

from pondrel.core.base.torque import torque_from

POUND_FORCE = 0.45359237 * 9.80665


@pytest.mark.parametrize(
    ("typed", "newton_metres"),
    [
        ("1 lbf·ft", 12 * 0.0254 * POUND_FORCE), ("1 lbf·in", 0.0254 * POUND_FORCE), ("62 in-lb", 62 * 0.0254 * POUND_FORCE),
        ("10 ft lbs", 120 * 0.0254 * POUND_FORCE), ("88 lb-in", 88 * 0.0254 * POUND_FORCE), ("9,5 Nm", 9.5), ("7 N·m", 7.0),
    ],
)  # fmt: skip
def test_a_torque_in_any_unit_is_what_its_definition_says(typed, newton_metres):
    assert torque_from(typed).newton_metres == pytest.approx(newton_metres, rel=5e-7)  # seven figures, as published


def test_one_newton_metre_is_what_tables_have():
    one = torque_from("1 Nm")
    assert one.in_unit("lbf·in") == pytest.approx(8.850746, rel=1e-6) and one.in_unit("lbf·ft") == pytest.approx(0.7375621, rel=1e-6)
