"""A capture's picture that needs no script: what stands where, and names that are no markup."""

from __future__ import annotations

import io
import re
from xml.etree import ElementTree as ET

import numpy as np
import pytest

from pondrel.store.prepared import opened, prepare
from pondrel.web.scope.picture import HEIGHT, LEFT, RIGHT, WIDTH, picture_of


def drawn(tmp_path, values, name="out", marks=()):
    packed = io.BytesIO()
    np.savez(packed, **{name: values}, rate=100.0)
    prepare(packed, tmp_path / "ready")
    return ET.fromstring(picture_of(opened(tmp_path / "ready"), 0, marks))


def texts(picture):
    return [one.text for one in picture if one.tag.endswith("text")]


def places(picture):
    return [(float(x), float(y)) for x, y in re.findall(r"([\d.]+) ([\d.]+)", picture[0].get("d"))]


@pytest.mark.parametrize("count", [200, 100_000])
def test_a_step_is_drawn_where_it_lies_whether_by_samples_or_by_columns(tmp_path, count):
    picture = drawn(tmp_path, np.where(np.arange(count) < count // 4, 0.0, 12.0))
    middle = LEFT + 0.25 * (WIDTH - LEFT - RIGHT)
    low = max(y for _, y in places(picture))
    assert max(x for x, y in places(picture) if y == low) == pytest.approx(middle, abs=6.0)
    assert all(LEFT - 1 <= x <= WIDTH and 0 <= y <= HEIGHT for x, y in places(picture))


def test_its_levels_its_length_and_its_marks_are_written(tmp_path):
    found = texts(drawn(tmp_path, np.sin(np.arange(1000) / 30.0) * 10.0, "out_v", [(4.0, "A")]))
    assert found == ["-10.00 V", "0.00 V", "10.00 V", "0", "10.0 s", "A"]


def test_nought_close_to_an_end_has_no_label_of_its_own_and_a_steady_level_one(tmp_path):
    own = np.where(np.arange(500) % 50 < 25, 12.0, -0.03)
    assert texts(drawn(tmp_path / "a", own, "out_v"))[:2] == ["-30 mV", "12.00 V"]
    assert texts(drawn(tmp_path / "b", np.full(500, 5.0), "out_v"))[:2] == ["5.00 V", "0"]


def test_a_channel_s_name_is_no_markup(tmp_path):
    picture = drawn(tmp_path, np.arange(100.0), '"><script>')
    assert '"><script>' in picture.get("aria-label") and not [one for one in picture.iter() if "script" in one.tag]
