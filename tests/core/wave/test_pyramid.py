"""What is drawn of a capture holds every peak, at any zoom, and no more columns than are asked for."""

from __future__ import annotations

import numpy as np
import pytest

from pondrel.core.wave import Capture, Channel
from pondrel.core.wave.pyramid import BLOCK, drawn, pyramid_of

R = np.random.default_rng(4)


def capture(count: int, gain: float = 1.0):
    values = R.normal(0.0, 1.0, count)
    values[count // 3] = 40.0
    values[count // 2] = -40.0
    return Capture((Channel("a", "V", values / gain, gain),), 1e-3)


@pytest.mark.parametrize("count", [17, 1000, 64 * 700, 200_003])
@pytest.mark.parametrize("gain", [1.0, -0.5])
def test_peaks_are_in_the_picture_whatever_the_length_and_the_sign(count, gain):
    own = capture(count, gain)
    found = drawn(own, own.channels[0], pyramid_of(own, own.channels[0]), 0, count, 500)
    assert len(found.least) == len(found.most) <= 1000
    assert found.most.max() == pytest.approx(40.0, rel=1e-5) and found.least.min() == pytest.approx(-40.0, rel=1e-5)


@pytest.mark.parametrize(("first", "last"), [(0, 200_003), (1234, 150_001), (66_000, 66_900), (199_000, 200_003), (5, 7), (-50, 10**9)])
def test_each_column_covers_its_samples(first, last):
    own = capture(200_003)
    values = own.channels[0].values(0, own.count)
    found = drawn(own, own.channels[0], pyramid_of(own, own.channels[0]), first, last, 300)
    begin, end = max(first, 0), min(last, own.count)
    assert found.first <= begin and found.first + len(found.least) * found.every >= end - 1e-6
    for k in R.integers(0, len(found.least), 20):
        a, b = found.first + k * found.every, found.first + (k + 1) * found.every
        edge = BLOCK if found.every > 4 * BLOCK else 1  # columns begin at whole samples, or blocks
        inside = values[int(np.ceil(a)) + edge : max(int(b) - edge, int(np.ceil(a)) + edge + 1)]
        wide = values[max(int(a) - BLOCK, 0) : int(np.ceil(b)) + BLOCK]
        assert found.every < 4 or (found.least[k] <= inside.min() + 1e-5 and found.most[k] >= inside.max() - 1e-5)
        assert found.least[k] >= wide.min() - 1e-5 and found.most[k] <= wide.max() + 1e-5
