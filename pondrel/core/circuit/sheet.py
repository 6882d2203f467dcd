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

from ..brief import listed, quoted
from ..errors import FaultError, ReadingError, SheetError
from .kinds import KINDS, kinds_meant
from .limit import Limit, limits_of
from .outcomes import Code, OutcomeTable, codes_of, tables_of
from .part import Dial, Element, Kind, Mode
from .plain import load_plain

__all__ = [
    "FORMAT", "LONGEST_NAME", "MOST_OF_EACH", "MOST_STATES", "Access", "Part", "Place", "Reader", "Sheet", "State", "near", "parse_sheet",
]  # fmt: skip

FORMAT = "pondrel-sheet/1"
TOP_KEYS = (
    *("format", "title", "family", "note", "caution", "supply", "access", "places", "parts", "states"),
    *("limits", "observe", "codes", "tests"),
)
NAME = re.compile(r"[^\s,=*\x00-\x1f](?:[^,=\x00-\x1f]*[^\s,=\x00-\x1f])?")
DEFAULT_SUPPLY_VOLTS = 12.6
LEAST, MOST = 1e-15, 1e12  # sizes of numbers beyond which nothing on a vehicle lies
# What a sheet may hold: far beyond what one complaint needs, and little enough to be checked and drawn at once.
MOST_OF_EACH = 400  # parts, places, limits and other entries under one heading
MOST_STATES = 40
LONGEST_NAME, LONGEST_TITLE, LONGEST_TEXT = 60, 200, 1000  # characters
MOST_FLAWS = 60  # told at once; who mends those sees the others


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

    @cached_property
    def rests_unpowered(self) -> bool:
        """Whether it does nothing once the battery is off, whatever a state sets it to: a module's output, a source."""
        worked = [e for e in self.elements() if e.contact is not None and e.contact.positions]
        return bool(worked) and all(e.rests_unpowered for e in worked)

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

    @cached_property
    def resting(self) -> Mapping[str, str]:
        """For each state the first one that is the same circuit once the battery is off: what needs power rests then, however it is set."""
        worked = [part for part in self.parts.values() if (part.kind.positions or part.kind.dial) and not part.rests_unpowered]
        first: dict[tuple[str, ...], str] = {}
        return {state: first.setdefault(tuple(self.position(state, part.name) for part in worked), state) for state in self.states}

    def position(self, state: str | None, part_name: str) -> str:
        """The position that a state has a part in; its rest without a state."""
        part = self.parts[part_name]
        return part.rest if state is None else self.state(state).positions.get(part_name, part.rest)

    def part(self, name: str) -> Part:
        """The part of that name; raises FaultError naming near ones."""
        if name not in self.parts:
            raise FaultError(f"No part {quoted(name)} on this sheet{near(name, self.parts)}.")
        return self.parts[name]

    def state(self, name: str) -> State:
        """The state of that name; raises ReadingError naming those there are."""
        if name not in self.states:
            verb = "is" if len(self.states) == 1 else "are"
            raise ReadingError(f"{quoted(name)} is no state of this sheet: {listed(self.states)} {verb}.")
        return self.states[name]

    def probe(self, name: str) -> str:
        """The node that a probe at ``name`` touches: a place, or any node, since a reading already taken cannot be untaken.

        Empty means battery minus. Raises ReadingError naming near ones.
        """
        if not name:
            return self.minus
        if name in self.places or name in self.nodes():
            return name
        raise ReadingError(f"{quoted(name)} is no place on this sheet{near(name, [*self.places, *self.nodes()])}.")


def near(name: str, names: Iterable[str]) -> str:
    """``; near it: …``, ``; there are …`` or ``; there are none``: the end of a sentence that says that a name is not known."""
    known = list(dict.fromkeys(names))
    if not known:
        return "; there are none"
    close = difflib.get_close_matches(name[: 2 * LONGEST_NAME], known, n=3, cutoff=0.5)
    return f"; near it: {', '.join(close)}" if close else f"; there are {listed(known)}"


class Reader:
    """Collects flaws while reading, so that a sheet's errors come all at once."""

    def __init__(self) -> None:
        self.flaws: list[tuple[str, str]] = []
        self.untold = 0  # flaws beyond those told
        self.named: frozenset[str] = frozenset()  # parts that the sheet names, good or not: one flaw in a part is not told twice

    def flaw(self, path: str, text: str) -> None:
        if len(self.flaws) < MOST_FLAWS:
            self.flaws.append((path if len(path) <= 2 * LONGEST_NAME else f"{path[: 2 * LONGEST_NAME]}…", text))
        else:
            self.untold += 1

    @property
    def count(self) -> int:
        """How many flaws there are so far."""
        return len(self.flaws) + self.untold

    @property
    def told(self) -> tuple[tuple[str, str], ...]:
        """The flaws; of very many the first, and a last line that counts the others."""
        more = (("", f"has {self.untold} more flaws: mend these first"),) if self.untold else ()
        return (*self.flaws, *more)

    def near(self, name: str, names: Iterable[str]) -> str:
        """As `near`, as long as it will be told."""
        return near(name, names) if len(self.flaws) < MOST_FLAWS else ""

    def mapping(self, value: Any, path: str, what: str, most: int = MOST_OF_EACH) -> dict[str, Any]:
        if value is None:
            return {}
        if not isinstance(value, dict):
            self.flaw(path, f"must be {what}, got {quoted(value)}")
            return {}
        if len(value) > most:
            self.flaw(path, f"holds {len(value)} entries; at most {most} fit on one sheet: split the circuit")
            return {}
        made = {str(key): item for key, item in value.items()}
        if len(made) < len(value):
            self.flaw(path, "holds one name twice, once as a number and once as a text")
        return made

    def named_mapping(self, value: Any, path: str, what: str, most: int = MOST_OF_EACH) -> dict[str, Any]:
        """As `mapping`, of things that the keys name: a name is neither empty nor longer than ``LONGEST_NAME``."""
        made = self.mapping(value, path, what, most)
        for name in [n for n in made if not n.strip() or len(n) > LONGEST_NAME]:
            self.flaw(f"{path}.{name}", f"a name has 1 to {LONGEST_NAME} characters, got {len(name)}: {quoted(name)}")
            del made[name]
        return made

    def keys(self, given: Mapping[str, Any], allowed: Iterable[str], path: str) -> None:
        known = list(allowed)
        for key in given:
            if key not in known:
                # {at: pin 1, cab side} reads as a key "cab side" with nothing behind it
                comma = " (a text that holds a comma needs quotes)" if given[key] is None and " " in key else ""
                self.flaw(f"{path}.{key}" if path else key, f"unknown key{comma}; {_listed(known)}")

    def text(self, value: Any, path: str, longest: int = LONGEST_TEXT) -> str:
        if value is None:
            return ""
        if isinstance(value, (dict, list, bool)):
            self.flaw(path, f"must be text, got {quoted(value)}")
            return ""
        if isinstance(value, str) and len(value) > longest:
            self.flaw(path, f"is {len(value):,} characters long; at most {longest:,} fit")
            return ""
        return str(value)

    def number(self, value: Any, path: str, wanted: str, least: str) -> float | None:
        good = isinstance(value, (int, float)) and not isinstance(value, bool) and (value == 0 or LEAST <= abs(value) <= MOST)
        if not good or (least == "positive" and value <= 0) or (least == "zero" and value < 0):
            self.flaw(path, f"must be {wanted}, got {quoted(value)}")
            return None
        return float(value)


def _listed(names: Iterable[str]) -> str:
    known = list(names)
    return f"allowed: {listed(known, 30)}" if known else "none is allowed here"


def parse_sheet(text: str) -> Sheet:
    """Read a sheet from YAML text. Raises SheetError with every flaw found, each with its path and what would be right."""
    raw = load_plain(text)
    if not isinstance(raw, dict):
        raise SheetError((("", f"must be a mapping that starts with 'format: {FORMAT}', got {type(raw).__name__}"),))
    return _read(raw)


def _read(raw: dict[Any, Any]) -> Sheet:
    reader = Reader()
    top = {str(key): value for key, value in raw.items()}
    reader.keys(top, TOP_KEYS, "")
    if top.get("format") != FORMAT:
        reader.flaw("format", f"must be {FORMAT}, got {quoted(top.get('format'))}")
    before = reader.count
    title = reader.text(top.get("title"), "title", LONGEST_TITLE)
    if not title and reader.count == before:
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
    observe = reader.named_mapping(top.get("observe"), "observe", "a mapping of observations")
    _observe(reader, observe)
    limits = limits_of(reader, top.get("limits"), parts, states)
    codes = codes_of(reader, top.get("codes"), parts, states)
    tables = tables_of(reader, top.get("tests"), parts, states, access)
    if reader.flaws:
        raise SheetError(reader.told)
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
        reader.flaw("supply.unit", f"must be V, got {quoted(given['unit'])}")
    if "nominal" not in given:
        return DEFAULT_SUPPLY_VOLTS
    return reader.number(given["nominal"], "supply.nominal", "a positive number of volts", "positive") or DEFAULT_SUPPLY_VOLTS


def _access(reader: Reader, value: Any) -> dict[str, Access]:
    made = {}
    for name, item in reader.named_mapping(value, "access", "a mapping of names to {minutes, note}").items():
        path = f"access.{name}"
        given = reader.mapping(item, path, "a mapping such as {minutes: 6, note: four trim screws}")
        reader.keys(given, ("minutes", "note", "caution"), path)
        minutes = reader.number(given.get("minutes"), f"{path}.minutes", "zero or a positive number of minutes", "zero")
        made[name] = Access(name, minutes or 0.0, reader.text(given.get("note"), path), reader.text(given.get("caution"), path))
    return made


def _parts(reader: Reader, value: Any, supply: float) -> dict[str, Part]:
    given = reader.named_mapping(value, "parts", "a mapping of names to parts")
    reader.named = frozenset(given)
    if not given and not value:
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
        reader.flaw(path, f"a name holds no comma, no = and does not start with *, got {quoted(name)}")
    given = reader.mapping(item, path, "a mapping with kind and pins")
    kind = KINDS.get(str(given.get("kind")))
    if kind is None:
        if item is None or isinstance(item, dict):
            meant = kinds_meant(str(given.get("kind"))) if given.get("kind") is not None else ()
            wanted = f"did you mean {' or '.join(meant)}?" if meant else f"there are {', '.join(KINDS)}"
            reader.flaw(f"{path}.kind", f"must be a kind of part, got {quoted(given.get('kind'))}; {wanted}")
        return None
    reader.keys(given, ("kind", "pins", "label", "note", *(p.name for p in kind.params)), path)
    before = reader.count
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
                reader.flaw(f"{path}.{param.name}", f"must be {param.wanted}, got {quoted(raw)}")
            else:
                params[param.name] = str(raw)
        else:
            number = reader.number(raw, f"{path}.{param.name}", param.wanted, param.least)
            if number is not None:
                params[param.name] = number
    # Only a part whose entries are each right is asked whether they go together.
    if reader.count == before:
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
            if isinstance(node, (dict, list, bool)) or node is None or len(str(node)) > LONGEST_NAME or not NAME.fullmatch(str(node)):
                reader.flaw(f"{path}.{pin}", f"must be the name of a node, of at most {LONGEST_NAME} characters, got {quoted(node)}")
                continue
            pins[pin] = str(node)
        elif pin in kind.pins:
            reader.flaw(f"{path}.{pin}", "is missing: every pin needs a node")
    joined = [pins[pin] for pin in kind.pins if pin in pins]
    if len(kind.pins) == 2 and len(joined) == 2 and joined[0] == joined[1]:
        reader.flaw(path, f"both pins are on {quoted(joined[0])}: the part would be bridged by its own wiring")
    return pins


def _places(reader: Reader, value: Any, access: Mapping[str, Access], parts: Mapping[str, Part], minus: str) -> dict[str, Place]:
    nodes = {node for part in parts.values() for node in part.pins.values()}
    made: dict[str, Place] = {}
    for name, item in reader.named_mapping(value, "places", "a mapping of nodes to {at, minutes, behind}").items():
        path = f"places.{name}"
        given = reader.mapping(item, path, "a mapping such as {at: fuse box, minutes: 1}")
        reader.keys(given, ("at", "minutes", "behind", "note", "caution"), path)
        if nodes and name not in nodes:
            reader.flaw(path, f"no part has a pin on this node{reader.near(name, sorted(nodes))}")
        minutes: float | None = 1.0
        if "minutes" in given:
            minutes = reader.number(given["minutes"], f"{path}.minutes", "zero or a positive number of minutes", "zero")
        behind = given.get("behind")
        if behind is not None and str(behind) not in access:
            reader.flaw(f"{path}.behind", f"no access of that name, got {quoted(behind)}; {_listed(access)}")
        text = {key: reader.text(given.get(key), f"{path}.{key}") for key in ("at", "caution")}
        made[name] = Place(name, text["at"], 1.0 if minutes is None else minutes, None if behind is None else str(behind), text["caution"])
    if not made and not value:
        reader.flaw("places", "must name at least one node that a probe can reach")
    # The black lead needs a home: battery minus can be probed on every vehicle.
    if minus and minus not in made:
        made[minus] = Place(minus, "battery minus post", 0.5)
    return made


def _states(reader: Reader, value: Any, parts: Mapping[str, Part]) -> dict[str, State]:
    made = {}
    for name, item in reader.named_mapping(value, "states", "a mapping of states to switch positions", MOST_STATES).items():
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
                reader.flaw(f"{path}.{part_name}", f"no part of that name{reader.near(part_name, parts)}")
            elif part.kind.dial:
                setting = _setting(reader, part.kind.dial, position, f"{path}.{part_name}")
                if setting is not None:
                    positions[part_name] = setting
            elif not part.kind.positions:
                text = f"a {part.kind.name} has no positions: only switches, outputs and sensors are set by a state"
                reader.flaw(f"{path}.{part_name}", text)
            elif str(position) not in part.kind.positions:
                reader.flaw(f"{path}.{part_name}", f"must be {' or '.join(part.kind.positions)}, got {quoted(position)}")
            else:
                positions[part_name] = str(position)
        minutes = reader.number(given.get("minutes", 0.0), f"{path}.minutes", "zero or a positive number of minutes", "zero")
        texts = (reader.text(given.get("note"), path), reader.text(given.get("caution"), path))
        made[name] = State(name, positions, *texts, minutes or 0.0)
    if not made and not value:
        reader.flaw("states", "must name at least one state, such as 'on: {S1: closed}', or 'on: {}' where there is no switch")
    return made


def _setting(reader: Reader, dial: Dial, value: Any, path: str) -> str | None:
    number = reader.number(value, path, f"a number of {dial.unit}", "any")
    if number is None:
        return None
    if not dial.least <= number <= dial.most:
        reader.flaw(path, f"must be from {dial.least:g} to {dial.most:g} {dial.unit}, got {quoted(value)}")
        return None
    return dial_text(number)


def _observe(reader: Reader, given: Mapping[str, Any]) -> None:
    for name, item in given.items():
        path = f"observe.{name}"
        entry = reader.mapping(item, path, "a mapping such as {part: LA1, sees: brightness}")
        reader.keys(entry, ("part", "sees", "note"), path)
        if str(entry.get("part")) not in reader.named:
            reader.flaw(f"{path}.part", f"no part of that name, got {quoted(entry.get('part'))}")
        if not isinstance(entry.get("sees"), str):
            reader.flaw(f"{path}.sees", f"must say what is seen, such as brightness, got {quoted(entry.get('sees'))}")
