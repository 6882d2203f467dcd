"""Suspects, and what they come to as targets of a repair: a part, or a group of parts that nothing so far tells apart."""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from ...base.judgement import OWN_RULE, judged
from ...base.ties import in_order, ranks
from ..believe.belief import Belief

__all__ = ["Suspect", "Target", "chances", "likeliest_modes", "parted", "targets"]

# Evidence that makes one member of a group so many times likelier than another, beside what their priors say, has separated them, if it
# leaves the other no more than so much of the group.
SEPARATES = judged("SEPARATES", 10.0, "times", "evidence that makes one of a group so much likelier has parted it", OWN_RULE)
LEFT_OVER = judged("LEFT_OVER", 0.02, "share", "of a group that the others may still hold then", OWN_RULE)
# What explanations that accuse no one part are called.
_HEADINGS = {"two": "Two faults", "touching": "Two wires that touch", "diagram": "Not as drawn", "undrawn": "Not on the sheet"}
# Explanations by which one part is at fault; by a diagram that is wrong here and by what is on no sheet none is.
_ONE = ("single", "sometimes", "loaded")


@dataclass(frozen=True, slots=True)
class Suspect:
    """An explanation with its probability. ``kind`` is ``single`` for one lasting fault of the sheet (``number`` in the workup,
    ``severity`` (median, 5 %, 95 %) in ohms), or that of a `Beyond`; ``part`` None accuses no part. ``silent`` and ``beside`` are those
    of a `Beyond`."""

    number: int
    part: str | None
    mode: str | None
    words: str
    probability: float
    prior: float
    severity: tuple[float, float, float] | None
    kind: str = "single"
    parts: tuple[str, ...] = ()
    silent: bool = False
    beside: str = ""

    @property
    def heading(self) -> str:
        """What an explanation is called that accuses no one part, empty for one that does."""
        return _HEADINGS.get(self.kind, "")


@dataclass(frozen=True, slots=True)
class Target:
    """What would be repaired: ``members`` that stand for one another, none for nothing on this sheet; the chance that one of them, and
    nothing else, is at fault."""

    members: tuple[str, ...]
    probability: float


def likeliest_modes(belief: Belief, parts: Sequence[str]) -> dict[str, str]:
    """By part the mode in which it most likely failed, by the readings and as a single fault that lasts."""
    found: dict[str, tuple[float, str]] = {}
    for hypothesis, probability in zip(belief.workup.hypotheses.items, belief.probability.tolist(), strict=True):
        name, mode = hypothesis.part, hypothesis.mode
        if name in parts and mode and name and probability > found.get(name, (0.0, ""))[0]:
            found[name] = (probability, mode)
    return {name: mode for name, (_, mode) in found.items()}


def chances(suspects: Sequence[Suspect], names: Sequence[str]) -> dict[str | None, float]:
    """P(part is at fault) of every named part, None for nothing on this sheet; in descending order. A fault of two, or two
    wires that touch, count for both."""
    total: dict[str | None, float] = dict.fromkeys((None, *names), 0.0)
    for suspect in suspects:
        if suspect.kind in (*_ONE, "two", "touching"):
            for part in suspect.parts or (None,):
                total[part] += suspect.probability
    return in_order(total)


def targets(suspects: Sequence[Suspect], names: Sequence[str], groups: Sequence[tuple[str, ...]]) -> tuple[Target, ...]:
    """Every part in one target, with the chance that it alone is at fault, the likeliest first: with the explanations of other kinds they
    add up to one. Of groups that share a part the likelier one keeps it, and the others fall apart."""
    alone = chances([s for s in suspects if s.kind in _ONE], names)

    def chance(members: tuple[str, ...]) -> float:
        return sum(alone[part] for part in members)

    taken: set[str] = set()
    kept = []
    for group in in_order({group: chance(group) for group in groups}):
        if taken.isdisjoint(group):
            taken |= set(group)
            kept.append(group)
    found = [Target(group, min(chance(group), 1.0)) for group in kept]
    found += [Target((name,) if name else (), min(p, 1.0)) for name, p in alone.items() if name not in taken]
    place = ranks([target.probability for target in found])
    return tuple(found[i] for i in np.argsort(place, kind="stable"))


def parted(belief: Belief, groups: Sequence[tuple[str, ...]], certain: float) -> tuple[tuple[str, ...], ...]:
    """The groups without those members that the evidence has separated from the likeliest one; what is alone then is no group.

    A group that is ``certain`` stays whole where none of its members is so by itself.
    """
    if not belief.items:
        return tuple(groups)
    now = belief.parts()
    before: dict[str | None, float] = {}
    for item, p in zip(belief.workup.hypotheses.items, belief.workup.hypotheses.prior, strict=True):
        before[item.part] = before.get(item.part, 0.0) + float(p)
    divided = []
    for group in groups:
        told = {part: math.log(max(now[part], 1e-300)) - math.log(before[part]) for part in group}
        first = max(group, key=lambda part: now[part])
        whole = sum(now[part] for part in group)
        near = {part for part in group if told[first] - told[part] < math.log(SEPARATES) or now[part] > LEFT_OVER * whole}
        left = tuple(part for part in group if part in near)
        rest = sum(now[part] for part in left)
        divided.append(group if rest < certain <= whole else left)
    return tuple(group for group in divided if len(group) > 1)
