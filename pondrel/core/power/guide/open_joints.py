"""A joint that is all but open: the same piece to mend as one that only loses too much, yet everything behind it is dead, not slow.

Its outcomes hang together (no sound, no sag, no amperes), so it is a cause of its own beside the joint's, with the same target.
"""

from __future__ import annotations

from collections.abc import Iterable, Mapping
from dataclasses import replace

from .model import Cause, Step

__all__ = ["open_joint", "with_open_joints", "with_open_rows"]

SHARE = 0.2  # of a joint's weight that falls to its open state. Common practice, no source


def open_joint(name: str) -> str:
    """What the open state of a joint is called among the causes."""
    return f"{name}_open"


def with_open_joints(causes: Iterable[Cause], joints: Iterable[str]) -> tuple[Cause, ...]:
    """The causes, with the open state of each of the joints beside it."""
    wanted, found = set(joints), []
    for cause in causes:
        found.append(cause)
        if cause.name in wanted:
            found.append(replace(cause, name=open_joint(cause.name), weight=SHARE * cause.weight, target=cause.aim))
    return tuple(found)


def with_open_rows(step: Step, rows: Mapping[str, Mapping[str, float]], joints: Iterable[str]) -> Step:
    """A step with a row for each open joint: the one in ``rows``, else that of the joint itself."""
    own = {open_joint(name): rows.get(name) or step.given.get(name) for name in joints}
    return replace(step, given={**step.given, **{name: row for name, row in own.items() if row}})
