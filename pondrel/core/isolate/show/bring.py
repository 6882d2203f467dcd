"""What a visit needs: tools and hands for its steps, small supplies for what is suspected, and what is ordered only after proof."""

from __future__ import annotations

from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass

from ...circuit.sheet import Sheet
from ...evidence.asked import Measurement, Question
from ..conclude.suspects import Target

__all__ = ["Bring", "bring"]

WORTH_BRINGING = 0.05  # chance from which on a part's supplies are brought
# Common practice, no source.
_TOOLS: Mapping[str, str] = {
    "volts": "multimeter", "ohms": "multimeter, leads zeroed", "continuity": "multimeter", "lowz": "meter with low-impedance volts",
    "ac": "multimeter with AC volts", "amps": "ammeter with its fuse whole", "clamp": "current clamp", "scope": "scope", "top": "scope",
    "base": "scope",
    "lamp": "test lamp", "load": "substitute load that the circuit can carry",
}  # fmt: skip
_SUPPLIES: Mapping[str, str] = {
    "ground": "wire brush, contact grease", "contact": "contact cleaner, spare pins", "plug": "contact cleaner, spare pins",
    "wire": "wire of its section, splices, heat-shrink", "splice": "splices, heat-shrink",
}  # fmt: skip


@dataclass(frozen=True, slots=True)
class Bring:
    """What to bring: ``tools``, small ``supplies``, how many ``people``, and the parts that are ordered ``after_proof`` only."""

    tools: tuple[str, ...]
    supplies: tuple[str, ...]
    people: int
    after_proof: tuple[str, ...]


def bring(sheet: Sheet, tests: Sequence[Measurement | Question], targets: Iterable[Target]) -> Bring:
    """What the steps of a visit and the leading suspects ask for."""
    tools = dict.fromkeys(_TOOLS[test.instrument] for test in tests if test.instrument in _TOOLS)
    people = max((sheet.states[test.state].people for test in tests if test.state in sheet.states), default=1)
    supplies: dict[str, None] = {}
    ordered: dict[str, None] = {}
    for target in targets:
        for name in target.members if target.probability >= WORTH_BRINGING else ():
            part = sheet.parts[name]
            if part.kind.name == "fuse":
                rating = part.params.get("rating")
                supplies.setdefault(
                    f"a fuse of {rating:g} A, put in only when its cause is found" if isinstance(rating, (int, float)) else "a fuse"
                )
            elif part.kind.name in _SUPPLIES:
                supplies.setdefault(_SUPPLIES[part.kind.name])
            else:
                ordered.setdefault(part.called)
    zeroed = _TOOLS["ohms"] in tools  # one and the same meter
    return Bring(tuple(t for t in tools if not (zeroed and t == _TOOLS["volts"])), tuple(supplies), people, tuple(ordered))
