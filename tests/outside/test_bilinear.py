"""The bilinear theorem: in a linear network every response is a bilinear function (a + b·R)/(c + d·R) of one resistance.

Source: H. W. Bode, "Network Analysis and Feedback Amplifier Design" (1945), chapter on the bilinear theorem (from memory). A bilinear
function leaves the cross-ratio of four points as it is, which needs none of its coefficients.
"""

from __future__ import annotations

import numpy as np
import pytest
from hypothesis import given, settings

from pondrel.core.isolate.predict.workup import Workup

from ..circuits import resistor_networks


def cross_ratio(a, b, c, d):
    return (a - c) * (b - d) / ((b - c) * (a - d))


@settings(max_examples=25, deadline=None)
@given(resistor_networks(most=6))
def test_every_predicted_number_is_bilinear_in_the_severity(sheet):
    workup = Workup(sheet)
    curves = workup.curves
    tests = workup.on_offer
    prediction = workup.predict(tests)
    volts = [i for i, t in enumerate(tests) if t.instrument == "volts"]
    checked = 0
    for start, length, grid in zip(curves.start, curves.length, curves.grid, strict=True):
        if length < 4 or curves.fuses[start]:
            continue
        for i in volts:
            curve = prediction.value[start : start + length, i]
            # Four severities a fifth of the curve's height apart, wherever it is steep.
            heights = np.linspace(curve.min(), curve.max(), 6)[1:-1]
            rows = np.unique([int(np.abs(curve - height).argmin()) for height in heights])
            if len(rows) < 4 or np.abs(np.diff(curve[rows])).min() < 1e-3:
                continue
            assert cross_ratio(*curve[rows]) == pytest.approx(cross_ratio(*np.exp(grid[rows])), rel=1e-4)
            checked += 1
    assert checked or all(np.ptp(prediction.value[:, i]) < 1.0 for i in volts) or not volts
