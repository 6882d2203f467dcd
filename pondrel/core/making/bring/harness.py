"""A harness as WireViz describes it (an open format, YAML): connectors, cables, and the connections through them.

The plugs at the harness's ends lead nowhere in such a file: their pins are places, and what hangs there is put in on the drawing. Pins that
are labelled as feed or ground are wired to the battery.
"""

from __future__ import annotations

import re
from collections.abc import Mapping
from typing import Any

from ...base.brief import quoted
from ...base.errors import MakingError, SheetTextError
from ...circuit.read.plain import Plain, load_plain
from ..sizes import length_of, section_of
from .brought import MINUS, PLUS, Brought, Gathered, cleaned, node_name

__all__ = ["FORMAT", "bring", "fits"]

FORMAT = "a WireViz harness (YAML)"
_RANGE = re.compile(r"(\d+)\s*-\s*(\d+)")
_FEEDS = frozenset({"+", "+12v", "12v", "vbat", "bat", "batt", "b+", "30", "kl30", "vcc", "+24v", "24v"})
_GROUNDS = frozenset({"-", "gnd", "ground", "0v", "31", "kl31", "earth", "b-"})
MOST_WIRES = 99  # of one cable
USUAL_METRES, USUAL_SECTION, WIDE = 1.0, 0.5, 0.6


def fits(name: str, text: str) -> bool:
    """Whether a file is such a harness: it names cables and connections, and is no sheet."""
    keys = set(re.findall(r"(?m)^([a-z_]+):", text[:200_000]))
    return {"connections"} <= keys and bool({"cables", "connectors"} & keys) and "format" not in keys


def bring(name: str, text: str) -> Brought:
    """Read a harness. Raises MakingError where it is no YAML or has no connections."""
    cleaned(text)
    try:
        plain = load_plain(text)
    except SheetTextError as error:
        path, says = error.flaws[0]
        raise MakingError(f"{f'{path.capitalize()}: i' if path else 'I'}t {says}.") from error
    root = plain.value
    if not isinstance(root, dict) or not isinstance(root.get("connections"), list):
        raise MakingError("This harness has no list of connections: without it nobody knows which wire goes where.")
    title = str((root.get("metadata") or {}).get("title") or name.rpartition(".")[0].replace("_", " ") or "Harness")
    return _Harness(plain, root, title).read()


class _Harness:
    """A harness being read."""

    def __init__(self, plain: Plain, root: Mapping[str, Any], title: str):
        self.plain, self.root = plain, root
        self.gathered = Gathered(title, "brought in", "Made from a harness drawing; what hangs on its plugs is not in it.")
        self.connectors = _mapping(root.get("connectors"))
        self.cables = {**_mapping(root.get("cables")), **_mapping(root.get("wires"))}
        self.wired: dict[tuple[str, str], int] = {}  # how often a connector's pin has a wire

    def read(self) -> Brought:
        for number, chain in enumerate(self.root["connections"], 1):
            line = self.plain.line(f"connections.{number}")
            try:
                self._chain(chain)
            except MakingError as error:
                self.gathered.miss(line, str(error))
        for name in self.cables:
            if not any(part.startswith(f"{name}.") or part == name for part in self.gathered.parts):
                self.gathered.miss(self.plain.line(f"cables.{name}"), f"Cable {name} is in no connection: it is left out.")
        self._plugs()
        return self.gathered.done()

    def _chain(self, chain: Any) -> None:
        """One set of connections: connector, cable, connector, ... with as many pins each."""
        if not isinstance(chain, list) or len(chain) < 2:
            raise MakingError("A set of connections is a list such as [X1: [1, 2], W1: [1, 2], X2: [1, 2]].")
        rows = [self._stop(stop) for stop in chain if not _is_arrow(stop)]
        wide = max(len(pins) for _, pins in rows)
        rows = [(name, pins * wide if len(pins) == 1 else pins) for name, pins in rows]
        if any(len(pins) != wide for _, pins in rows):
            raise MakingError(f"The pins do not match in number: {', '.join(f'{name} has {len(pins)}' for name, pins in rows)}.")
        for at, (name, pins) in enumerate(rows):
            if name not in self.cables:
                continue
            before, after = rows[at - 1] if at else None, rows[at + 1] if at + 1 < len(rows) else None
            for n, core in enumerate(pins):
                ends = [self._node(end[0], end[1][n]) if end else node_name(f"{name.lower()}.{core}.open") for end in (before, after)]
                self._wire(name, core, ends)

    def _stop(self, stop: Any) -> tuple[str, list[str]]:
        if isinstance(stop, Mapping) and len(stop) == 1:
            name, pins = next(iter(stop.items()))
            return str(name).partition(".")[0], _pins(pins)
        if isinstance(stop, (str, int)):
            return str(stop).partition(".")[0], ["1"]
        raise MakingError(f"{quoted(stop)} is no connector or cable with its pins.")

    def _node(self, name: str, pin: str) -> str:
        """The node of a connector's pin, by its number where the file has a label for it."""
        connector = _mapping(self.connectors.get(name))
        labels, numbers = [str(x) for x in connector.get("pinlabels") or []], [str(x) for x in connector.get("pins") or []]
        if pin in labels and pin not in numbers:
            pin = numbers[labels.index(pin)] if labels.index(pin) < len(numbers) else str(labels.index(pin) + 1)
        node = node_name(f"{name.lower()}.{pin}")
        number = numbers.index(pin) if pin in numbers else int(pin) - 1 if pin.isdecimal() else -1
        label = labels[number] if 0 <= number < len(labels) else ""
        self.wired[name, pin] = self.wired.get((name, pin), 0) + 1
        self.gathered.place(node, " ".join(filter(None, (name, f"pin {pin}", label))), connector=name[:40], cavity=pin[:20])
        end = PLUS if label.lower() in _FEEDS else MINUS if label.lower() in _GROUNDS else ""
        joint = f"{name}.{pin}"
        if end and name in self.connectors and node_name(joint) not in self.gathered.parts:
            self.gathered.add(joint, "contact", {"a": node, "b": end}, label=f"{name} pin {pin}, {label}")
        return node

    def _wire(self, cable: str, core: str, nodes: list[str]) -> None:
        given = _mapping(self.cables.get(cable))
        if nodes[0] == nodes[1]:
            raise MakingError(f"Core {core} of {cable} has both ends on one pin.")
        metres, section = _length(given.get("length"), given.get("length_unit")), _section(given.get("gauge"), given.get("gauge_unit"))
        unknown = " and ".join(filter(None, ("length" if metres is None else "", "section" if section is None else "")))
        size: dict[str, Any] = {"awg": section} if isinstance(section, str) else {"csa_mm2": section or USUAL_SECTION}
        colours = given.get("colors") or ([given["color"]] if given.get("color") else [])
        number = int(core) - 1 if core.isdecimal() else -1
        colour = str(colours[number % len(colours)]) if isinstance(colours, list) and colours and number >= 0 else ""
        self.gathered.add(
            f"{cable}.{core}" if given.get("wirecount", 2) != 1 else cable, "wire", {"a": nodes[0], "b": nodes[1]},
            length_m=round(metres or USUAL_METRES, 4), **size, tolerance=WIDE if unknown else None, colour=colour[:20],
            label=f"core {core} of {cable}", note=f"{unknown} not known, what is usual taken" if unknown else "",
        )  # fmt: skip

    def _plugs(self) -> None:
        """Connectors that nothing names are told."""
        named = {name for name, _ in self.wired}
        for name in self.connectors:
            if str(name) not in named:
                self.gathered.miss(self.plain.line(f"connectors.{name}"), f"Connector {name} is in no connection: it is left out.")


def _mapping(value: Any) -> dict[str, Any]:
    return {str(key): under for key, under in value.items()} if isinstance(value, Mapping) else {}


def _is_arrow(stop: Any) -> bool:
    return isinstance(stop, str) and bool(re.fullmatch(r"<?[-=]+>?", stop.strip()))


def _pins(said: Any) -> list[str]:
    """Pins as they are written: ``3``, ``[1, 2]``, ``1-4``, labels."""
    found: list[str] = []
    for one in said if isinstance(said, list) else [said]:
        match = _RANGE.fullmatch(str(one).strip())
        if match:
            first, last = int(match[1][:5]), int(match[2][:5])
            if abs(last - first) >= MOST_WIRES:
                raise MakingError(f"{quoted(one)} names too many pins at once: {MOST_WIRES} at most.")
            found += [str(n) for n in (range(first, last + 1) if first <= last else range(first, last - 1, -1))]
        elif isinstance(one, (str, int)):
            found.append(str(one))
        else:
            raise MakingError(f"{quoted(one)} is no pin.")
    if not found:
        raise MakingError("A connector stands there without pins.")
    return found


def _length(said: Any, unit: Any) -> float | None:
    return None if said is None else length_of(f"{said} {unit or ''}".strip())


def _section(said: Any, unit: Any) -> float | str | None:
    return None if said is None else section_of(f"{said} {unit or ''}".strip().replace("mm2", "mm²"))
