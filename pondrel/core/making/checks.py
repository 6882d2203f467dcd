"""What was probably not meant in a circuit that was made: every finding with its cure. A sheet is stored all the same."""

from __future__ import annotations

import re
from collections import defaultdict
from collections.abc import Callable, Iterator, Mapping
from dataclasses import dataclass

from ..base.conductor import largest_fuse, thinnest_for_fuse
from ..base.judgement import judged
from ..base.quantity import show
from ..circuit.sheet import Part, Sheet
from ..circuit.solve import OperatingPoint, solve

__all__ = ["Finding", "check_made"]

WIRE_DROP = judged("WIRE_DROP", 0.5, "V", "lost in one wire at its working current, from which on it is too thin")
FUSE_SHARE = judged("FUSE_SHARE", 1.0, "share", "of a fuse's rating that its circuit draws, from which on it is too small")
MUCH_MINUTES = judged("MUCH_MINUTES", 120.0, "min", "to get at a place, from which on one asks whether that is meant")
_SWITCHING = frozenset({"switch", "breaker"})  # symbols that let current through when they are closed
_LINE = _SWITCHING | {"wire", "contact", "splice", "fuse", "ground", "slip_ring"}
_PROTECTS = "fuse"  # symbol


@dataclass(frozen=True, slots=True)
class Finding:
    """Something that was probably not meant: the ``part`` or ``node`` that it is about, a sentence that says what, and its ``cure``."""

    part: str
    node: str
    says: str
    cure: str


@dataclass(frozen=True, slots=True)
class _Way:
    """What joins two nodes: an ``element`` of a part."""

    part: Part
    element: str

    @property
    def goes_on(self) -> bool:
        """Whether current comes out of it as it went in: a line, a switch, a relay's contact."""
        kind = self.part.kind
        return kind.symbol in _LINE or kind.shapes.get(self.element) == "switch"


class _Circuit:
    """A sheet with what the checks ask of it: who is joined to whom, and what flows in every state."""

    def __init__(self, sheet: Sheet):
        self.sheet = sheet
        self.points: Mapping[str, OperatingPoint] = {state: solve(sheet, state) for state in sheet.states}
        self.beside: dict[str, list[tuple[str, _Way]]] = defaultdict(list)  # by node: the nodes that a way leads to
        for part in sheet.parts.values():
            for way, one, other in _ways(sheet, part):
                self.beside[one].append((other, way))
                self.beside[other].append((one, way))

    def reached(self, start: str, without: str = "", along: Callable[[_Way], bool] = lambda way: True) -> set[str]:
        """The nodes that hang together with one, not by way of a part, and only along ways that are let."""
        seen, todo = {start}, [start]
        while todo:
            for node, way in self.beside[todo.pop()]:
                if node not in seen and way.part.name != without and along(way):
                    seen.add(node)
                    todo.append(node)
        return seen

    def amps(self, part: str) -> float:
        """The most that flows through a part's main path in any state."""
        return max((abs(point.currents.get(part, 0.0)) for point in self.points.values()), default=0.0)


def _ways(sheet: Sheet, part: Part) -> Iterator[tuple[_Way, str, str]]:
    for element in part.elements():
        if element.drawn:
            one, other = (sheet.node_of(part, pin) for pin in (element.a, element.b))
            if one != other:
                yield _Way(part, element.name), one, other


def check_made(sheet: Sheet) -> tuple[Finding, ...]:
    """All findings, in the order of the checks."""
    circuit = _Circuit(sheet)
    return tuple(finding for check in _CHECKS for finding in check(circuit))


def _in_the_air(circuit: _Circuit) -> Iterator[Finding]:
    sheet = circuit.sheet
    joined = circuit.reached(sheet.minus)
    for part in sheet.parts.values():
        nodes = set(part.pins.values())
        if not nodes & joined and not part.kind.posts:
            yield Finding(
                part.name,
                "",
                f"{part.called} hangs in the air: nothing joins it to the battery.",
                "Wire it to the circuit, or lift it out.",
            )


def _fed_and_grounded(circuit: _Circuit) -> Iterator[Finding]:
    sheet = circuit.sheet
    joined = circuit.reached(sheet.minus)
    for part in sheet.parts.values():
        if part.kind.load != "" or len(part.pins) != 2:
            continue
        one, other = part.pins.values()
        if not {one, other} & joined:
            continue
        ends = [circuit.reached(node, part.name) for node in (one, other)]
        if not any(sheet.minus in end for end in ends) or (sheet.minus not in ends[0] and sheet.plus not in ends[0]):
            node = one if not {sheet.minus, sheet.plus} & ends[0] else other
            yield Finding(
                part.name, node, f"{part.called} has no way on from {node}.", "Branch a wire off there to a ground or to its feed."
            )
        elif not {sheet.minus, sheet.plus} & ends[1]:
            yield Finding(part.name, other, f"{part.called} has no way to ground from {other}.", "Branch a wire off there to a ground.")


def _fuse_too_small(circuit: _Circuit) -> Iterator[Finding]:
    for part in _fuses(circuit):
        amps, rating = circuit.amps(part.name), float(str(part.params["rating"]))
        if amps > FUSE_SHARE * rating:
            says = f"{part.called} is rated {rating:g} A and its circuit draws {show(amps, 'A')}: it blows."
            yield Finding(part.name, "", says, "See whether rating and loads are as on the vehicle.")


def _fuse_too_big(circuit: _Circuit) -> Iterator[Finding]:
    for fuse in _fuses(circuit):
        rating = float(str(fuse.params["rating"]))
        wires = [circuit.sheet.parts[name] for name in sorted(_behind(circuit, fuse))]
        sections = [(section, wire) for wire in wires if (section := _section(wire)) is not None and largest_fuse(section) < rating]
        if not sections:
            continue
        section, wire = min(sections, key=lambda pair: pair[0])
        says = (
            f"{fuse.called}, {rating:g} A, is too big for {wire.called} behind it: {section:g} mm² takes {largest_fuse(section):g} A "
            f"by common practice. In a short the wire burns and not the fuse."
        )
        cure = f"{largest_fuse(section):g} A, or {thinnest_for_fuse(rating):g} mm²; the maker's own figure goes before."
        yield Finding(fuse.name, "", says, cure)


def _behind(circuit: _Circuit, fuse: Part) -> set[str]:
    """The parts of the line that only this fuse protects: those behind it, up to the next fuse."""
    sheet = circuit.sheet

    def onwards(way: _Way) -> bool:
        return way.goes_on and way.part.kind.symbol != _PROTECTS

    far = [end for end in (fuse.pins["a"], fuse.pins["b"]) if sheet.plus not in circuit.reached(end, fuse.name, onwards)]
    if len(far) != 1:
        return set()
    nodes = circuit.reached(far[0], fuse.name, lambda way: onwards(way) and sheet.minus not in way.part.pins.values())
    return {way.part.name for node in nodes for _, way in circuit.beside[node] if way.part.kind.name == "wire"}


def _fuses(circuit: _Circuit) -> Iterator[Part]:
    yield from (part for part in circuit.sheet.parts.values() if part.kind.symbol == _PROTECTS and "rating" in part.params)


def _section(wire: Part) -> float | None:
    section = wire.params.get("csa_mm2")
    return section if isinstance(section, float) and "section" not in wire.note else None


def _does_not_pull(circuit: _Circuit) -> Iterator[Finding]:
    for part in circuit.sheet.parts.values():
        best, seen = -1.0, ""
        for point in circuit.points.values():
            for sight in point.sights.get(part.name, ()):
                if sight.what in ("moves", "clicks") and sight.value > best:
                    best, seen = sight.value, sight.says
        fed = any(
            abs(point.currents.get(f"{part.name}.coil", point.currents.get(part.name, 0.0))) > 0.01 for point in circuit.points.values()
        )
        if 0.0 <= best < (1.0 if part.kind.load == "" else 0.5) and fed:
            yield Finding(
                part.name, "", f"{part.called} does not pull in in any state: it {seen}.", "See its ohms, its pull-in and the line to it."
            )


def _wire_too_thin(circuit: _Circuit) -> Iterator[Finding]:
    for part in circuit.sheet.parts.values():
        if part.kind.name != "wire" or "not known" in part.note:
            continue
        lost, state = max(
            ((abs(point.nodes[part.pins["a"]] - point.nodes[part.pins["b"]]), name) for name, point in circuit.points.items()),
            default=(0.0, ""),
        )
        if lost > WIRE_DROP and circuit.points[state].currents.get(part.name, 0.0) != 0.0:
            amps = abs(circuit.points[state].currents[part.name])
            says = f"{part.called} loses {show(lost, 'V')} at {show(amps, 'A')} in {state}: it is too thin or too long for that."
            yield Finding(part.name, "", says, "See its length and section.")


def _out_of_reach(circuit: _Circuit) -> Iterator[Finding]:
    sheet = circuit.sheet
    for part in sheet.parts.values():
        if part.kind.load is not None and not any(node in sheet.places for node in part.pins.values()):
            yield Finding(part.name, "", f"Nobody can put a probe to {part.called}.", "Touch one of its ends and say how it is reached.")
    for name, access in sheet.access.items():
        if access.minutes > MUCH_MINUTES:
            yield Finding(
                "", "", f"It takes {access.minutes:g} minutes to get behind {name.replace('_', ' ')}.", "See whether that is meant."
            )


def _one_point_two_names(circuit: _Circuit) -> Iterator[Finding]:
    sheet = circuit.sheet
    by_name: dict[str, list[str]] = defaultdict(list)
    for node in sheet.nodes():
        by_name[re.sub(r"[^a-z0-9+]", "", node.lower().replace("-", "minus"))].append(node)
    for same in by_name.values():
        if len(same) > 1:
            yield Finding("", same[1], f"{' and '.join(same[:2])} look like two names for one point.", "Wire them together, or rename one.")
    by_cavity: dict[tuple[str, str, str], list[str]] = defaultdict(list)
    for place in sheet.places.values():
        if place.connector and place.cavity:
            by_cavity[place.connector, place.cavity, place.at].append(place.name)
    for (connector, cavity, _), same in by_cavity.items():
        if len(same) > 1:
            yield Finding("", same[1], f"{' and '.join(same[:2])} are both {connector} pin {cavity}.", "Say on which side each of them is.")


def _states_that_cannot_be(circuit: _Circuit) -> Iterator[Finding]:
    sheet = circuit.sheet
    generators = [part for part in sheet.parts.values() if part.kind.positions[:2] == ("stopped", "running")]
    for state in sheet.states.values():
        for part in generators:
            turns = sheet.position(state.name, part.name) == "running"
            if state.engine and turns != (state.engine == "running"):
                how = "runs" if state.engine == "running" else "stands"
                says = f"In {state.name} the engine {how} and {part.called} {'runs' if turns else 'stands'}: both turn together."
                yield Finding(
                    part.name, "", says, f"Set {part.name} to {'running' if state.engine == 'running' else 'stopped'} in {state.name}."
                )
        if state.engine == "running" and state.key == "off":
            yield Finding("", "", f"In {state.name} the engine runs with the key off.", "Set the key to on.")
        driven = [part for part in sheet.parts.values() if part.rests_unpowered and sheet.position(state.name, part.name) != part.rest]
        if state.battery == "off" and driven:
            called = driven[0].called
            yield Finding(
                driven[0].name, "", f"In {state.name} the battery is off, so {called} does nothing.", "Take it out of that state."
            )


_CHECKS = (
    _in_the_air, _fed_and_grounded, _fuse_too_small, _fuse_too_big, _does_not_pull, _wire_too_thin, _out_of_reach, _one_point_two_names,
    _states_that_cannot_be,
)  # fmt: skip
