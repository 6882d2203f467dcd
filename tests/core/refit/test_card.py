"""Fastener cards: sizes, order and what is refused."""

from __future__ import annotations

import json
import math

import pytest
from hypothesis import given
from hypothesis import strategies as st

from pondrel.core.base.errors import PondrelError
from pondrel.core.base.written import EntryError
from pondrel.core.refit.card import CARD, MOST_FASTENERS, card_from, crisscross

SHARE = st.floats(0.0, 1.0)


def ring(count: int) -> list[tuple[float, float]]:
    return [(0.5 + 0.4 * math.cos(2 * math.pi * k / count), 0.5 + 0.4 * math.sin(2 * math.pi * k / count)) for k in range(count)]


@given(st.lists(st.tuples(SHARE, SHARE), max_size=MOST_FASTENERS))
def test_every_fastener_is_tightened_once(places):
    assert sorted(crisscross(places)) == list(range(len(places)))


@pytest.mark.parametrize("count", [4, 6, 8, 12])
def test_round_a_ring_every_second_step_goes_straight_across(count):
    places = ring(count)
    order = crisscross(places)
    for first, second in zip(order[::2], order[1::2], strict=True):
        assert math.dist(places[first], places[second]) == pytest.approx(0.8)


def test_a_long_cover_is_tightened_from_its_middle_outwards():
    places = [(x / 6, y) for x in range(7) for y in (0.4, 0.6)]
    order = crisscross(places)
    off = [round(abs(places[i][0] - 0.5), 9) for i in order]
    assert off == sorted(off)


def card(rows, **more) -> dict:
    return {"title": "Cover", "photo": "", "fasteners": rows if isinstance(rows, str) else json.dumps(rows), "torque": "", **more}


def test_a_card_tells_what_goes_where_and_what_was_seized():
    kept = CARD.check(card([[0.1, 0.1, " M6×25 ", ""], [0.9, 0.9, "M6×40", "stripped"], [0.9, 0.1, "M6×25", ""]], torque="62 in-lb"))
    found = card_from(kept)
    assert found.sizes == (("M6×25", (1, 3)), ("M6×40", (2,))) and found.bad == ((2, "stripped"),)
    assert found.torque.newton_metres == pytest.approx(7.005, abs=0.001)
    assert CARD.reads(kept) == "Cover: 2 × M6×25, 1 × M6×40, 62 lbf·in (7.0 N·m, 5.2 lbf·ft); 2: stripped"


@pytest.mark.parametrize(
    ("rows", "says"),
    [
        ("", "empty"), ("[]", "empty"), ("{", "cannot be read"), ("[1]", "cannot be read"), ("[[2,0,\"\",\"\"]]", "beside the card"),
        ('[[NaN,0,"",""]]', "beside the card"), ('[[0,0,"' + "x" * 41 + '",""]]', "too long"), ('[[1e999,0,"",""]]', "beside the card"),
        ("[" * 5000, "cannot be read"), (json.dumps([[0.5, 0.5, "", ""]] * 41), "too many"),
    ],
)  # fmt: skip
def test_a_card_that_is_none_is_refused_in_a_sentence(rows, says):
    with pytest.raises(EntryError, match=says):
        CARD.check(card(rows))


@pytest.mark.parametrize("torque", ["9", "Nm", "9 kg", "0 Nm", "1e3 Nm", "9999 ft-lb", "9 Nm; rm"])
def test_a_torque_without_its_unit_is_refused(torque):
    with pytest.raises(PondrelError):
        CARD.check(card([[0.5, 0.5, "", ""]], torque=torque))
