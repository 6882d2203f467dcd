"""Where a diagram that is too wide is cut into strips: between columns, where the fewest bars go across."""

from __future__ import annotations

from collections.abc import Sequence

from .order import Chain

__all__ = ["cuts_of"]

BOX_COST = 8.0  # of cutting through a box, in bars
STRIP_COST = 0.6  # of another strip


def cuts_of(
    chains: Sequence[Chain], columns: Sequence[int], most: int, rails: frozenset[str], boxes: frozenset[str]
) -> list[int]:  # fmt: skip
    """The columns that begin a new strip, so that none is wider than ``most``; 0 for no limit. What feeds the sheet does not count, which
    stands in the first column. The ``rails`` are cut at no cost."""
    width = max(columns) + 1
    if most < 1 or width <= most + 1:
        return []
    spans: dict[str, tuple[int, int]] = {}
    for chain, column in zip(chains, columns, strict=True):
        for vertex in chain.ends:
            low, high = spans.get(vertex, (column, column))
            spans[vertex] = min(low, column), max(high, column)
    weight = {vertex: 0.0 if vertex in rails else BOX_COST if vertex in boxes else 1.0 for vertex in spans}
    cost = [STRIP_COST + sum(weight[v] for v, (low, high) in spans.items() if low < cut <= high) for cut in range(width)]
    # The cheapest way to the end from every column that a strip may begin with.
    least: list[tuple[float, int]] = [(0.0, width)] * (width + 1)
    for begin in reversed(range(width)):
        ends = range(begin + 1, min(begin + most, width) + 1) if begin else range(2, most + 2)
        ways = [(least[end][0] + (cost[end] if end < width else 0.0), end) for end in ends]
        least[begin] = min(ways, key=lambda way: (way[0], -way[1]))
    cuts, at = [], least[0][1]
    while at < width:
        cuts.append(at)
        at = least[at][1]
    return cuts
