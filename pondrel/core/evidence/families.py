"""Faults by what can be seen and felt of them: at a joint, in a path that should not be, elsewhere."""

from __future__ import annotations

from collections.abc import Mapping

from ..base.judgement import judged
from ..circuit.part import Effect, Mode, Span
from .sort import World, parts_at

__all__ = ["families", "here", "likelier"]

_WHERE = (("JOINT", "a joint"), ("CHAFED", "a chafed path"), ("ELSE", "anything else"))


def families(world: World) -> list[int]:
    """Of each fault: 0 a joint or break, 1 a path that should not be, 2 anything else."""
    found = []
    for cause in world.causes:
        part = world.sheet.parts.get(cause.part or "")
        mode = next((m for m in part.modes if m.name == cause.mode), None) if part else None
        found.append(2 if mode is None or part is None else _family(mode, part.kind.joint))
    return found


def _family(mode: Mode, joint: bool) -> int:
    if (mode.severity and mode.severity.span is Span.SHUNT) or any(effect is Effect.APPEARS for _, effect in mode.effects):
        return 1
    series = mode.severity is not None and mode.severity.span is Span.SERIES
    return 0 if series or (joint and mode.effects[0][1] is Effect.OPEN) else 2


def here(world: World, subject: str) -> list[bool]:
    """Of each fault whether its part is one that a subject means."""
    parts = set(parts_at(world.sheet, subject))
    return [cause.part in parts for cause in world.causes]


def likelier(sort: str, ratios: Mapping[str, tuple[float, float, float]]) -> Mapping[str, tuple[float, ...]]:
    """By finding: how many times likelier it is where the fault is of each family there, entered as numbers of judgement."""
    return {
        word: tuple(
            judged(f"{sort}_{word.upper()}_{name}", ratio, "times", f"'{word}' is so much likelier where the fault is in {at} there")
            for (name, at), ratio in zip(_WHERE, of, strict=True)
        )
        for word, of in ratios.items()
    }
