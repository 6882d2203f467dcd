"""What a circuit that was made should do: one sentence for every load in the states that feed it and for every module that talks, to be
compared with the vehicle."""

from __future__ import annotations

from collections.abc import Iterator, Mapping
from dataclasses import dataclass

from ..base.quantity import show
from ..circuit.sheet import Part, Sheet
from ..circuit.sights import listener_of, talker_in
from ..circuit.solve import OperatingPoint, solve

__all__ = ["Line", "dry_run"]

LEAST_AMPS = 2e-5  # below which a load is as good as off
MOST_LINES = 60


@dataclass(frozen=True, slots=True)
class Line:
    """What a part does in a state: ``says`` a sentence with its numbers; ``works`` whether it is fed there."""

    state: str
    part: str
    says: str
    works: bool


def dry_run(sheet: Sheet) -> tuple[Line, ...]:
    """For every load the state in which it gets most, and for one that no state feeds a line that says so; for every module of a bus what
    is heard of it. A circuit that cannot be solved in a state says that instead."""
    points = {state: solve(sheet, state) for state in sheet.states}
    lines = []
    for part in sheet.parts.values():
        if part.kind.load is None or part.kind.name == "resistor":
            continue
        element = next((e for e in part.elements() if e.name == part.kind.load), None)
        if element is None:
            continue
        ends = [sheet.node_of(part, pin) for pin in (element.a, element.b)]
        fed = {state: _across(point, ends) for state, point in points.items()}
        state = max(fed, key=lambda name: abs(fed[name]))
        lines.append(_line(sheet, part, state, points[state], abs(fed[state])))
    return tuple([*lines, *_heard(sheet, points)][:MOST_LINES])


def _heard(sheet: Sheet, points: Mapping[str, OperatingPoint]) -> Iterator[Line]:
    """For every module of a bus the state in which it alone talks, and what whoever listens hears of it."""
    listener = listener_of(sheet)
    if listener is None:
        return
    for state, point in points.items():
        talker = talker_in(sheet, state)
        hears = next((sight for sight in point.sights.get(listener[1], ()) if sight.what == "hears"), None)
        if talker is not None and hears is not None:
            says = f"{sheet.parts[talker].called} talks: {sheet.parts[listener[1]].called} {hears.says}"
            yield Line(state, talker, says, hears.value > 1.0)


def _across(point: OperatingPoint, ends: list[str]) -> float:
    one, other = (point.nodes.get(node, 0.0) for node in ends)
    return one - other


def _line(sheet: Sheet, part: Part, state: str, point: OperatingPoint, volts: float) -> Line:
    name = part.name + (f".{part.kind.load}" if part.kind.load else "")
    amps = abs(point.currents.get(name, point.currents.get(part.name, 0.0)))
    does = ", ".join(sight.says for sight in point.sights.get(part.name, ()))
    if amps < LEAST_AMPS:
        return Line(state, part.name, f"{part.called} is fed in no state", False)
    text = f"{part.called} gets {show(volts, 'V')} and draws {show(amps, 'A')}"
    return Line(state, part.name, f"{text}{f': {does}' if does else ''}", True)
