"""The circuit sheet: YAML text to frozen dataclasses, with every error naming its place in the file.

Checking is driven by the registry of kinds, so a parameter is described once and checked, documented and put into the JSON
Schema from there.
"""

from __future__ import annotations

import difflib
import re
from collections.abc import Iterable, Mapping
from dataclasses import dataclass, field
from functools import cached_property
from typing import Any

from ruamel.yaml import YAML
from ruamel.yaml.error import MarkedYAMLError, YAMLError

from ..errors import FaultError, ReadingError, SheetError
from .kinds import KINDS
from .limit import Limit, limits_of
from .outcomes import Code, OutcomeTable, codes_of, tables_of
from .part import Dial, Element, Kind, Mode

__all__ = ["FORMAT", "Access", "Part", "Place", "Reader", "Sheet", "State", "near", "parse_sheet"]

FORMAT = "pondrel-sheet/1"
TOP_KEYS = (
    *("format", "title", "family", "note", "caution", "supply", "access", "places", "parts", "states"),
    *("limits", "observe", "codes", "tests"),
)
NAME = re.compile(r"[^\s,=*\x00-\x1f](?:[^,=\x00-\x1f]*[^\s,=\x00-\x1f])?")
DEFAULT_SUPPLY_VOLTS = 12.6
LEAST, MOST = 1e-15, 1e12  # sizes of numbers beyond which nothing on a vehicle lies


def dial_text(value: float) -> str:
    """The setting of a dial as a position: ``30``."""
    return f"{value:g}"


@dataclass(frozen=True, slots=True)
class Access:
    """Shared effort that opens the way to places behind it; done once. ``minutes`` of work."""

    name: str
    minutes: float
    note: str = ""
    caution: str = ""


@dataclass(frozen=True, slots=True)
class Place:
    """A point that a probe can reach: where it is, the minutes to probe it, and the access it lies behind."""

    name: str
    at: str = ""
    minutes: float = 1.0
    behind: str | None = None
    caution: str = ""


@dataclass(frozen=True)
class Part:
    """A part or joint: its kind, the node on each pin, and its parameters as given (defaults are the kind's)."""

    name: str
    kind: Kind
    pins: Mapping[str, str]
    params: Mapping[str, object]
    label: str = ""
    note: str = ""

    def elements(self, position: str | None = None) -> tuple[Element, ...]:
        """The part's electrical elements at a dial's setting, with pin names still unresolved."""
        if self.kind.dial is None:
            return self.kind.build(self.params, tuple(self.pins))
        return self.kind.build({**self.params, self.kind.dial.name: float(position or self.rest)}, tuple(self.pins))

    @cached_property
    def modes(self) -> tuple[Mode, ...]:
        """The ways in which this part can fail: those of its kind that concern an element it has."""
        mine = {element.name for element in self.elements()}
        return tuple(mode for mode in self.kind.modes if mode.effects[0][0] in mine)

    @property
    def rest(self) -> str:
        """Position where a state does not name one."""
        return dial_text(self.kind.dial.default) if self.kind.dial else self.kind.rest

    @property
    def title(self) -> str:
        """Name with its label, as shown to a person: ``G3 (ground stud, left rear)``."""
        return f"{self.name} ({self.label})" if self.label else self.name


@dataclass(frozen=True)
class State:
    """A state of key and switches: the position of each switching part. ``minutes`` are what it takes beyond turning a key: a second
    person at the pedal, an engine brought to temperature."""

    name: str
    positions: Mapping[str, str]
    note: str = ""
    caution: str = ""
    minutes: float = 0.0


@dataclass(frozen=True)
class Sheet:
    """A circuit under test. ``minus`` is the node of battery minus, the zero of every voltage."""

    title: str
    supply_volts: float
    access: Mapping[str, Access]
    places: Mapping[str, Place]
    parts: Mapping[str, Part]
    states: Mapping[str, State]
    minus: str
    plus: str
    family: str = ""
    note: str = ""
    caution: str = ""
    limits: tuple[Limit, ...] = ()
    observe: Mapping[str, Any] = field(default_factory=dict)
    codes: Mapping[str, Code] = field(default_factory=dict)
    tables: Mapping[str, OutcomeTable] = field(default_factory=dict)

    def nodes(self) -> tuple[str, ...]:
        """Every node that a pin names, in order of first mention."""
        return tuple(dict.fromkeys(node for part in self.parts.values() for node in part.pins.values()))

    @cached_property
    def dials(self) -> tuple[str, ...]:
        """Names of the parts that a state sets to a number."""
        return tuple(name for name, part in self.parts.items() if part.kind.dial)

    def position(self, state: str | None, part_name: str) -> str:
        """The position that a state has a part in; its rest without a state."""
        part = self.parts[part_name]
        return part.rest if state is None else self.state(state).positions.get(part_name, part.rest)

    def part(self, name: str) -> Part:
        """The part of that name; raises FaultError naming near ones."""
        if name not in self.parts:
            raise FaultError(f"No part {name!r} on this sheet{near(name, self.parts)}.")
        return self.parts[name]

    def state(self, name: str) -> State:
        """The state of that name; raises ReadingError naming those there are."""
        if name not in self.states:
            raise ReadingError(f"{name!r} is no state of this sheet: {', '.join(self.states)} {'is' if len(self.states) == 1 else 'are'}.")
        return self.states[name]

    def probe(self, name: str) -> str:
        """The node that a probe at ``name`` touches: a place, or any node, since a reading already taken cannot be untaken.

        Empty means battery minus. Raises ReadingError naming near ones.
        """
        if not name:
            return self.minus
        if name in self.places or name in self.nodes():
            return name
        raise ReadingError(f"{name!r} is no place on this sheet{near(name, [*self.places, *self.nodes()])}.")


def near(name: str, names: Iterable[str]) -> str:
    """``; near it: …`` or ``; there are …``: the end of a sentence that says that a name is not known."""
    known = list(dict.fromkeys(names))
    close = difflib.get_close_matches(name, known, n=3, cutoff=0.5)
    return f"; near it: {', '.join(close)}" if close else f"; there are {', '.join(known[:12])}{' …' if len(known) > 12 else ''}"


class Reader:
    """Collects flaws while reading, so that a sheet's errors come all at once."""

    def __init__(self) -> None:
        self.flaws: list[tuple[str, str]] = []
        self.named: frozenset[str] = frozenset()  # parts that the sheet names, good or not: one flaw in a part is not told twice

    def flaw(self, path: str, text: str) -> None:
        self.flaws.append((path, text))

    def mapping(self, value: Any, path: str, what: str) -> dict[str, Any]:
        if value is None:
            return {}
        if not isinstance(value, dict):
            self.flaw(path, f"must be {what}, got {value!r}")
            return {}
        return {str(key): item for key, item in value.items()}

    def keys(self, given: Mapping[str, Any], allowed: Iterable[str], path: str) -> None:
        known = list(allowed)
        for key in given:
            if key not in known:
                # {at: pin 1, cab side} reads as a key "cab side" with nothing behind it
                comma = " (a text that holds a comma needs quotes)" if given[key] is None and " " in key else ""
                self.flaw(f"{path}.{key}" if path else key, f"unknown key{comma}; {_listed(known)}")

    def text(self, value: Any, path: str) -> str:
        if value is None:
            return ""
        if isinstance(value, (dict, list, bool)):
            self.flaw(path, f"must be text, got {value!r}")
            return ""
        return str(value)

    def number(self, value: Any, path: str, wanted: str, least: str) -> float | None:
        good = isinstance(value, (int, float)) and not isinstance(value, bool) and (value == 0 or LEAST <= abs(value) <= MOST)
        if not good or (least == "positive" and value <= 0) or (least == "zero" and value < 0):
            self.flaw(path, f"must be {wanted}, got {value!r}")
            return None
        return float(value)


def _listed(names: Iterable[str]) -> str:
    known = list(names)
    return f"allowed: {', '.join(known)}" if known else "none is allowed here"


def parse_sheet(text: str) -> Sheet:
    """Read a sheet from YAML text. Raises SheetError with every flaw found, each with its path and what would be right."""
    yaml = YAML(typ="safe", pure=True)
    try:
        raw = yaml.load(text)
    except MarkedYAMLError as error:
        mark = error.problem_mark or error.context_mark
        line = f"line {mark.line + 1}" if mark else ""
        problem = re.sub(r"\s+", " ", str(error.problem or error.context or "cannot be read"))
        raise SheetError(((line, f"is not YAML: {problem}"),)) from None
    except (YAMLError, ValueError, RecursionError) as error:
        raise SheetError((("", f"is not YAML: {str(error).splitlines()[0]}"),)) from None
    if not isinstance(raw, dict):
        raise SheetError((("", f"must be a mapping that starts with 'format: {FORMAT}', got {type(raw).__name__}"),))
    return _read(raw)


def _read(raw: dict[Any, Any]) -> Sheet:
    reader = Reader()
    top = {str(key): value for key, value in raw.items()}
    reader.keys(top, TOP_KEYS, "")
    if top.get("format") != FORMAT:
        reader.flaw("format", f"must be {FORMAT}, got {top.get('format')!r}")
    title = reader.text(top.get("title"), "title")
    if not title:
        reader.flaw("title", "must say in a few words what circuit this is")
    supply = _supply(reader, top.get("supply"))
    access = _access(reader, top.get("access"))
    parts = _parts(reader, top.get("parts"), supply)
    posts = [[part.pins.get(pin, "") for pin in part.kind.posts] for part in parts.values() if part.kind.posts]
    if not posts and not reader.flaws:
        reader.flaw("parts", "must hold a battery or bench_supply: its minus pin is the zero of every voltage")
    plus, minus = posts[0] if posts else ("", "")
    places = _places(reader, top.get("places"), access, parts, minus)
    states = _states(reader, top.get("states"), parts)
    observe = reader.mapping(top.get("observe"), "observe", "a mapping of observations")
    _observe(reader, observe)
    limits = limits_of(reader, top.get("limits"), parts, states)
    codes = codes_of(reader, top.get("codes"), parts, states)
    tables = tables_of(reader, top.get("tests"), parts, states, access)
    if reader.flaws:
        raise SheetError(tuple(reader.flaws))
    return Sheet(
        title=title, supply_volts=supply, access=access, places=places, parts=parts, states=states, minus=minus, plus=plus,
        family=reader.text(top.get("family"), "family"), note=reader.text(top.get("note"), "note"),
        caution=reader.text(top.get("caution"), "caution"),
        limits=limits, observe=observe, codes=codes, tables=tables,
    )  # fmt: skip


def _supply(reader: Reader, value: Any) -> float:
    given = reader.mapping(value, "supply", "a mapping such as {nominal: 12.6, unit: V}")
    reader.keys(given, ("nominal", "unit"), "supply")
    if given.get("unit", "V") != "V":
        reader.flaw("supply.unit", f"must be V, got {given['unit']!r}")
    if "nominal" not in given:
        return DEFAULT_SUPPLY_VOLTS
    return reader.number(given["nominal"], "supply.nominal", "a positive number of volts", "positive") or DEFAULT_SUPPLY_VOLTS


def _access(reader: Reader, value: Any) -> dict[str, Access]:
    made = {}
    for name, item in reader.mapping(value, "access", "a mapping of names to {minutes, note}").items():
        path = f"access.{name}"
        given = reader.mapping(item, path, "a mapping such as {minutes: 6, note: four trim screws}")
        reader.keys(given, ("minutes", "note", "caution"), path)
        minutes = reader.number(given.get("minutes"), f"{path}.minutes", "zero or a positive number of minutes", "zero")
        made[name] = Access(name, minutes or 0.0, reader.text(given.get("note"), path), reader.text(given.get("caution"), path))
    return made


def _parts(reader: Reader, value: Any, supply: float) -> dict[str, Part]:
    given = reader.mapping(value, "parts", "a mapping of names to parts")
    reader.named = frozenset(given)
    if not given:
        reader.flaw("parts", "must name at least a battery and what it feeds")
    made: dict[str, Part] = {}
    for name, item in given.items():
        part = _part(reader, name, item, supply)
        if part:
            made[name] = part
    return made


def _part(reader: Reader, name: str, item: Any, supply: float) -> Part | None:
    path = f"parts.{name}"
    if not NAME.fullmatch(name):
        reader.flaw(path, f"a name holds no comma, no = and does not start with *, got {name!r}")
    given = reader.mapping(item, path, "a mapping with kind and pins")
    kind = KINDS.get(str(given.get("kind")))
    if kind is None:
        if item is None or isinstance(item, dict):
            close = difflib.get_close_matches(str(given.get("kind")), KINDS, n=1)
            wanted = f"did you mean {close[0]}?" if close else f"there are {', '.join(KINDS)}"
            reader.flaw(f"{path}.kind", f"must be a kind of part, got {given.get('kind')!r}; {wanted}")
        return None
    reader.keys(given, ("kind", "pins", "label", "note", *(p.name for p in kind.params)), path)
    flaws_before = len(reader.flaws)
    pins = _pins(reader, kind, given.get("pins"), f"{path}.pins")
    params: dict[str, object] = {}
    for param in kind.params:
        if given.get(param.name) is None:
            if param.required:
                reader.flaw(f"{path}.{param.name}", f"is missing: must be {param.wanted}")
            continue
        raw = given[param.name]
        if param.choices:
            if str(raw) not in param.choices:
                reader.flaw(f"{path}.{param.name}", f"must be {param.wanted}, got {raw!r}")
            else:
                params[param.name] = str(raw)
        else:
            number = reader.number(raw, f"{path}.{param.name}", param.wanted, param.least)
            if number is not None:
                params[param.name] = number
    # Only a part whose entries are each right is asked whether they go together.
    if len(reader.flaws) == flaws_before:
        if kind.needs and not any(all(n in params for n in group) for group in kind.needs):
            reader.flaw(path, f"a {kind.name} needs {' or '.join(' with '.join(group) for group in kind.needs)}")
        problem = kind.check(params) or kind.check_pins(params, tuple(pins))
        if problem:
            reader.flaw(path, problem)
    if kind.supply_param and kind.supply_param not in params:
        params[kind.supply_param] = supply
    return Part(name, kind, pins, params, reader.text(given.get("label"), f"{path}.label"), reader.text(given.get("note"), f"{path}.note"))


def _pins(reader: Reader, kind: Kind, value: Any, path: str) -> dict[str, str]:
    allowed = (*kind.pins, *kind.optional_pins)
    given = reader.mapping(value, path, f"a mapping of {', '.join(kind.pins)} to nodes")
    reader.keys(given, allowed, path)
    pins: dict[str, str] = {}
    for pin in allowed:
        if pin in given:
            node = given[pin]
            if isinstance(node, (dict, list, bool)) or node is None or not NAME.fullmatch(str(node)):
                reader.flaw(f"{path}.{pin}", f"must be the name of a node, got {node!r}")
            pins[pin] = str(node)
        elif pin in kind.pins:
            reader.flaw(f"{path}.{pin}", "is missing: every pin needs a node")
    joined = [pins[pin] for pin in kind.pins if pin in pins]
    if len(kind.pins) == 2 and len(joined) == 2 and joined[0] == joined[1]:
        reader.flaw(path, f"both pins are on {joined[0]!r}: the part would be bridged by its own wiring")
    return pins


def _places(reader: Reader, value: Any, access: Mapping[str, Access], parts: Mapping[str, Part], minus: str) -> dict[str, Place]:
    nodes = {node for part in parts.values() for node in part.pins.values()}
    made: dict[str, Place] = {}
    for name, item in reader.mapping(value, "places", "a mapping of nodes to {at, minutes, behind}").items():
        path = f"places.{name}"
        given = reader.mapping(item, path, "a mapping such as {at: fuse box, minutes: 1}")
        reader.keys(given, ("at", "minutes", "behind", "note", "caution"), path)
        if nodes and name not in nodes:
            reader.flaw(path, f"no part has a pin on this node{near(name, sorted(nodes))}")
        minutes: float | None = 1.0
        if "minutes" in given:
            minutes = reader.number(given["minutes"], f"{path}.minutes", "zero or a positive number of minutes", "zero")
        behind = given.get("behind")
        if behind is not None and str(behind) not in access:
            reader.flaw(f"{path}.behind", f"no access of that name, got {behind!r}; {_listed(access)}")
        text = {key: reader.text(given.get(key), f"{path}.{key}") for key in ("at", "caution")}
        made[name] = Place(name, text["at"], 1.0 if minutes is None else minutes, None if behind is None else str(behind), text["caution"])
    if not made:
        reader.flaw("places", "must name at least one node that a probe can reach")
    # The black lead needs a home: battery minus can be probed on every vehicle.
    if minus and minus not in made:
        made[minus] = Place(minus, "battery minus post", 0.5)
    return made


def _states(reader: Reader, value: Any, parts: Mapping[str, Part]) -> dict[str, State]:
    made = {}
    for name, item in reader.mapping(value, "states", "a mapping of states to switch positions").items():
        path = f"states.{name}"
        given = reader.mapping(item, path, "a mapping such as {S1: closed}")
        positions = {}
        for part_name, position in given.items():
            if part_name in ("note", "caution", "minutes"):
                continue
            part = parts.get(part_name)
            if part is None and part_name in reader.named:
                continue
            if part is None:
                reader.flaw(f"{path}.{part_name}", f"no part of that name{near(part_name, parts)}")
            elif part.kind.dial:
                setting = _setting(reader, part.kind.dial, position, f"{path}.{part_name}")
                if setting is not None:
                    positions[part_name] = setting
            elif not part.kind.positions:
                text = f"a {part.kind.name} has no positions: only switches, outputs and sensors are set by a state"
                reader.flaw(f"{path}.{part_name}", text)
            elif str(position) not in part.kind.positions:
                reader.flaw(f"{path}.{part_name}", f"must be {' or '.join(part.kind.positions)}, got {position!r}")
            else:
                positions[part_name] = str(position)
        minutes = reader.number(given.get("minutes", 0.0), f"{path}.minutes", "zero or a positive number of minutes", "zero")
        texts = (reader.text(given.get("note"), path), reader.text(given.get("caution"), path))
        made[name] = State(name, positions, *texts, minutes or 0.0)
    if not made:
        reader.flaw("states", "must name at least one state, such as 'on: {S1: closed}', or 'on: {}' where there is no switch")
    return made


def _setting(reader: Reader, dial: Dial, value: Any, path: str) -> str | None:
    number = reader.number(value, path, f"a number of {dial.unit}", "any")
    if number is None:
        return None
    if not dial.least <= number <= dial.most:
        reader.flaw(path, f"must be from {dial.least:g} to {dial.most:g} {dial.unit}, got {value!r}")
        return None
    return dial_text(number)


def _observe(reader: Reader, given: Mapping[str, Any]) -> None:
    for name, item in given.items():
        path = f"observe.{name}"
        entry = reader.mapping(item, path, "a mapping such as {part: LA1, sees: brightness}")
        reader.keys(entry, ("part", "sees", "note"), path)
        if str(entry.get("part")) not in reader.named:
            reader.flaw(f"{path}.part", f"no part of that name, got {entry.get('part')!r}")
        if not isinstance(entry.get("sees"), str):
            reader.flaw(f"{path}.sees", f"must say what is seen, such as brightness, got {entry.get('sees')!r}")
