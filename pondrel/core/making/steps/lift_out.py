"""Lift a part out: a joint closes behind it, a load goes with what leads to nothing else."""

from __future__ import annotations

from ...base.errors import MakingError
from ..document import Document
from .common import LINE, is_line
from .step import Given, Outcome, Step

__all__ = ["STEPS"]

_IN_LINE = LINE | {"switch", "breaker"}  # symbols that a line goes on through


def _lift(document: Document, name: str, given: Given) -> Outcome:
    kind, pins = document.kind(name), document.pins(name)
    if kind.posts and sum(bool(document.kind(str(n)).posts) for n in document.parts) == 1:
        raise MakingError("The battery stays: every voltage is counted from it.")
    label = document.called(name)
    if kind.symbol in _IN_LINE and len(pins) == 2:
        _close(document, name)
    elif kind.name == "plug":
        ends = list(pins.values())
        document.remove_part(name)
        for one, other in zip(ends[::2], ends[1::2], strict=True):
            _join(document, one, other)
    else:
        document.remove_part(name)
        _prune(document, set(pins.values()))
    document.tidy()
    return Outcome(f"{label} lifted out")


def _close(document: Document, name: str) -> None:
    """Take a part out of its line, whose two ends become one."""
    one, other = document.pins(name).values()
    document.remove_part(name)
    _join(document, one, other)


def _join(document: Document, one: str, other: str) -> None:
    """Make one node of two; battery minus and plus keep their names, and so does what more hangs on."""
    kept = {document.before.plus, document.before.minus}
    if {one, other} <= kept:
        raise MakingError("Without it battery plus and minus would be one: lift out what it feeds instead.")
    if other in kept or (one not in kept and len(document.at(other)) > len(document.at(one))):
        one, other = other, one
    # A part between the two is bridged by now: it goes too.
    for part, _ in document.at(other):
        nodes = set(document.pins(part).values())
        if nodes == {one, other}:
            document.remove_part(part)
    if document.at(other):
        document.rename_node(other, one)


def _prune(document: Document, loose: set[str]) -> None:
    """Take off the lines that lead to nothing any more."""
    kept = {document.before.plus, document.before.minus}
    todo = sorted(loose - kept)
    while todo:
        node = todo.pop()
        hanging = document.at(node)
        if node in kept or len(hanging) != 1:
            continue
        part = hanging[0][0]
        if is_line(document, part):
            ends = set(document.pins(part).values()) - {node}
            document.remove_part(part)
            todo += sorted(ends)


STEPS = (Step("lift_out", "Lift out", "part", _lift),)
