"""Lift a part out: a joint closes behind it, a load goes with what leads to nothing else."""

from __future__ import annotations

from ...base.brief import listed
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
    bridged: list[str] = []
    if kind.symbol in _IN_LINE and len(pins) == 2:
        one, other = pins.values()
        document.remove_part(name)
        bridged += _join(document, one, other)
    elif kind.name == "plug":
        document.remove_part(name)
        for pin in [pin for pin in pins if pin.endswith("a")]:
            bridged += _join(document, pins[pin], pins[f"{pin[:-1]}b"])
    else:
        document.remove_part(name)
        _prune(document, set(pins.values()))
    document.tidy()
    return Outcome(f"{label} lifted out{f', and {listed(bridged)} that lay beside it' if bridged else ''}")


def _join(document: Document, one: str, other: str) -> list[str]:
    """Make one node of two, with the parts that lay between them and are bridged now taken off; returns those. Battery minus and plus keep
    their names, and so does what more hangs on."""
    kept = {document.before.plus, document.before.minus}
    if {one, other} <= kept:
        raise MakingError("Without it battery plus and minus would be one: lift out what it feeds instead.")
    if other in kept or (one not in kept and len(document.at(other)) > len(document.at(one))):
        one, other = other, one
    bridged = [part for part, _ in document.at(other) if set(document.pins(part).values()) == {one, other}]
    for part in bridged:
        document.remove_part(part)
    if document.at(other):
        document.rename_node(other, one)
    return bridged


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
