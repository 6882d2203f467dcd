"""Wires that may have chafed through to each other: the pairs that a meter can tell apart.

Wires, joints and fuses that follow each other without anything between are one run to every meter, so a touch is one of two runs. A run
that ends at battery plus or minus is left out: touching those is a short to plus or to ground, which wires have as faults of their own.
"""

from __future__ import annotations

import math
from dataclasses import dataclass
from itertools import combinations

from ...circuit.fault import mode_of
from ...circuit.part import Effect, Law, Span
from ...circuit.sheet import Part, Sheet

__all__ = ["Touch", "joins_runs", "wires_that_may_touch"]


@dataclass(frozen=True, slots=True)
class Touch:
    """Two ``wires`` that may touch, the ``nodes`` that are joined then, and the ``words`` for it."""

    wires: tuple[str, str]
    nodes: tuple[str, str]
    words: str


def wires_that_may_touch(sheet: Sheet) -> tuple[Touch, ...]:
    """A touch of every two runs of wire."""
    touches = []
    for one, other in combinations(_with_wires(sheet, _runs(sheet)).values(), 2):
        first, second = one[0], other[0]
        words = f"{_named(one)} and {_named(other)} touch: chafed through to each other"
        touches.append(Touch((first.name, second.name), (first.pins["b"], second.pins["b"]), words))
    return tuple(touches)


def joins_runs(sheet: Sheet, part: str, mode: str) -> bool:
    """Whether a fault joins two runs of wire, as their touching does."""
    failing, run_of = mode_of(sheet, part, mode), _runs(sheet)
    wired, entry = _with_wires(sheet, run_of), sheet.parts[part]
    touched = {name for name, effect in failing.effects if effect is not Effect.OPEN}
    ends = [{run_of.get(sheet.node_of(entry, pin), "") for pin in (e.a, e.b)} for e in entry.elements() if e.name in touched]
    shunts = failing.severity is None or failing.severity.span is not Span.SERIES
    return shunts and any(runs <= set(wired) for runs in ends)


def _with_wires(sheet: Sheet, run_of: dict[str, str]) -> dict[str, list[Part]]:
    """The runs that have wires and are neither plus nor minus, with those."""
    runs: dict[str, list[Part]] = {}
    for part in sheet.parts.values():
        if part.kind.symbol == "wire":
            run = run_of[part.pins["b"]]
            if run not in (run_of.get(sheet.plus), run_of.get(sheet.minus)):
                runs.setdefault(run, []).append(part)
    return runs


def _runs(sheet: Sheet) -> dict[str, str]:
    """Of every node one that stands for its run: all that wires and joints connect."""
    stands_for: dict[str, str] = {node: node for node in sheet.nodes()}

    def first_of(node: str) -> str:
        while stands_for[node] != node:
            node = stands_for[node]
        return node

    for part in sheet.parts.values():
        if part.kind.joint or part.kind.symbol == "wire":
            for element in part.elements():
                if element.law is Law.OHMIC and element.contact is None and math.isfinite(element.ohms):
                    one, other = (sheet.node_of(part, pin) for pin in (element.a, element.b))
                    for node in (one, other):  # a splice has a point of its own
                        stands_for.setdefault(node, node)
                    stands_for[first_of(one)] = first_of(other)
    return {node: first_of(node) for node in stands_for}


def _named(run: list[Part]) -> str:
    """A run by its wires."""
    names = [wire.name for wire in run]
    return names[0] if len(names) == 1 else f"{', '.join(names[:-1])} or {names[-1]}"
