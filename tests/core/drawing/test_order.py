"""The order of chains: what is computed for all places of one chain at once is what counting gives for each."""

from __future__ import annotations

import numpy as np
import pytest

from pondrel.core.drawing.order import CROSSING, REACH, _Meetings, chains_of, ordered
from pondrel.core.drawing.wiring import Wiring


def _counted(meetings: _Meetings, order: np.ndarray) -> tuple[float, int]:
    """Crossings and the length of all bars, one chain and one bar at a time."""
    place = np.argsort(order)
    crossed, length = 0.0, 0
    for vertex, members in enumerate(meetings.member):
        own = place[members]
        crossed += sum(meetings.away[vertex, n] for n in range(len(order)) if own.min() < place[n] < own.max())
        length += own.max() - own.min()
    return crossed, length


@pytest.mark.parametrize("name", ["two_wire_bus", "engine_sensors", "ramp_motor"])
def test_what_every_place_of_a_chain_costs_is_what_counting_it_gives(demo_sheets, name):
    wiring = Wiring(demo_sheets[name])
    chains = chains_of(wiring)
    meetings, dice = _Meetings(wiring, chains), np.random.default_rng(4)
    for _ in range(12):
        order = np.concatenate(([0], 1 + dice.permutation(len(chains) - 1)))
        chain = int(dice.integers(1, len(chains)))
        rest = order[order != chain]
        for place, cost in enumerate(meetings.costs_of_taking(chain, rest), 1):
            crossed, length = _counted(meetings, np.insert(rest, place, chain))
            assert cost == pytest.approx(CROSSING * crossed + REACH * length)


def test_every_chain_stays_and_the_source_comes_first(demo_sheets):
    for sheet in demo_sheets.values():
        wiring = Wiring(sheet)
        chains = chains_of(wiring)
        order = ordered(wiring, chains)
        assert order[0] is chains[0] and order[0].stretches == (wiring.source,)
        assert {id(chain) for chain in order} == {id(chain) for chain in chains}
