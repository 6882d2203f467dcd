"""A circuit sheet from YAML text, with every error naming its place in the file.

Checking is driven by the registry of kinds, so a parameter is described once and checked, documented and put into the JSON
Schema from there.
"""

from __future__ import annotations

import re
from collections.abc import Mapping
from typing import Any

from ...base.brief import quoted
from ...base.errors import SheetError
from ..connector import Connector
from ..kinds import KINDS, kinds_meant
from ..part import Dial, Kind
from ..safety import ACTS
from ..sheet import Access, Part, Place, Sheet, State, dial_text
from .connectors import PIN_KEYS, connectors_of, pin_of
from .fits import fits_of
from .limits import limits_of
from .plain import Plain, load_plain
from .reader import LONGEST_NAME, Reader, allowed
from .tables import codes_of, tables_of

__all__ = ["FORMAT", "MOST_STATES", "parse_sheet", "read_sheet"]

FORMAT = "pondrel-sheet/1"
TOP_KEYS = (
    *("format", "title", "family", "note", "fits", "caution", "acknowledge", "supply", "access", "places", "parts", "states"),
    *("connectors", "limits", "observe", "codes", "tests"),
)
NAME = re.compile(r"[^\s,=*\x00-\x1f](?:[^,=\x00-\x1f]*[^\s,=\x00-\x1f])?")
DEFAULT_SUPPLY_VOLTS = 12.6
MOST_STATES = 40
# What a state may mean for a person, with the words for it; a part of such a name is that part.
MEANINGS: Mapping[str, tuple[str, ...]] = {
    "battery": ("on", "off"), "key": ("off", "on", "start"), "engine": ("stopped", "running"), "people": (),
}  # fmt: skip
MOST_PEOPLE = 4
LONGEST_TITLE = 200  # characters


def parse_sheet(text: str) -> Sheet:
    """Read a sheet from YAML text. Raises SheetError with every flaw found, each with its path and what would be right."""
    return read_sheet(load_plain(text))


def read_sheet(plain: Plain) -> Sheet:
    """A sheet of what its text holds. Raises SheetError as ``parse_sheet`` does."""
    raw = plain.value
    if not isinstance(raw, dict):
        raise SheetError((("", f"must be a mapping that starts with 'format: {FORMAT}', got {type(raw).__name__}"),))
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
    connectors = connectors_of(reader, top.get("connectors"))
    places = _places(reader, top.get("places"), access, parts, minus, connectors)
    states = _states(reader, top.get("states"), parts)
    observe = reader.named_mapping(top.get("observe"), "observe", "a mapping of observations")
    _observe(reader, observe)
    limits = limits_of(reader, top.get("limits"), parts, states)
    codes = codes_of(reader, top.get("codes"), parts, states)
    fits = fits_of(reader, top.get("fits"), "fits")
    tables = tables_of(reader, top.get("tests"), parts, states, access)
    if reader.flaws:
        raise SheetError(reader.told)
    return Sheet(
        title=title, supply_volts=supply, access=access, places=places, parts=parts, states=states, minus=minus, plus=plus,
        family=reader.text(top.get("family"), "family"), note=reader.text(top.get("note"), "note"),
        caution=reader.text(top.get("caution"), "caution"),
        acknowledge=reader.flag(top, "acknowledge", ""),
        fits=fits, limits=limits, observe=observe, codes=codes, tables=tables, connectors=connectors,
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
    access = {}
    for name, item in reader.named_mapping(value, "access", "a mapping of names to {minutes, note}").items():
        path = f"access.{name}"
        given = reader.mapping(item, path, "a mapping such as {minutes: 6, note: four trim screws}")
        reader.keys(given, ("minutes", "note", "caution", "acknowledge"), path)
        minutes = reader.number(given.get("minutes"), f"{path}.minutes", "zero or a positive number of minutes", "zero")
        access[name] = Access(
            name,
            minutes or 0.0,
            reader.text(given.get("note"), path),
            reader.text(given.get("caution"), path),
            reader.flag(given, "acknowledge", path),
        )
    return access


def _parts(reader: Reader, value: Any, supply: float) -> dict[str, Part]:
    given = reader.named_mapping(value, "parts", "a mapping of names to parts")
    reader.named = frozenset(given)
    if not given and not value:
        reader.flaw("parts", "must name at least a battery and what it feeds")
    parts: dict[str, Part] = {}
    for name, item in given.items():
        part = _part(reader, name, item, supply)
        if part:
            parts[name] = part
    return parts


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
    if kind.sized is not None and isinstance(given.get("pins"), dict):
        kind = kind.sized(tuple(str(pin) for pin in given["pins"]))
    reader.keys(given, ("kind", "pins", "label", "note", "colour", "never", "because", *(p.name for p in kind.params)), path)
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
    label, note, colour = (reader.text(given.get(key), f"{path}.{key}") for key in ("label", "note", "colour"))
    return Part(name, kind, pins, params, label, note, _never(reader, given, path), colour)


def _never(reader: Reader, given: Mapping[str, Any], path: str) -> dict[str, str]:
    """What is never done there: a list of acts, and why."""
    acts = given.get("never")
    because = reader.text(given.get("because"), f"{path}.because")
    if acts is None:
        if because:
            reader.flaw(f"{path}.because", "gives the reason for nothing: say with never what is not done here")
        return {}
    if not isinstance(acts, list) or not all(act in ACTS for act in acts):
        reader.flaw(f"{path}.never", f"must be a list of {', '.join(ACTS)}, got {quoted(acts)}")
        return {}
    if not because:
        reader.flaw(f"{path}.because", "is missing: who reads 'never' wants to know why")
    return dict.fromkeys(acts, because)


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


def _places(
    reader: Reader, value: Any, access: Mapping[str, Access], parts: Mapping[str, Part], minus: str, connectors: Mapping[str, Connector]
) -> dict[str, Place]:
    nodes = {node for part in parts.values() for node in part.pins.values()}
    places: dict[str, Place] = {}
    for name, item in reader.named_mapping(value, "places", "a mapping of nodes to {at, minutes, behind}").items():
        path = f"places.{name}"
        given = reader.mapping(item, path, "a mapping such as {at: fuse box, minutes: 1}")
        reader.keys(given, ("at", "minutes", "behind", "note", "caution", "acknowledge", "never", "because", *PIN_KEYS), path)
        if nodes and name not in nodes:
            reader.flaw(path, f"no part has a pin on this node{reader.near(name, sorted(nodes))}")
        minutes: float | None = 1.0
        if "minutes" in given:
            minutes = reader.number(given["minutes"], f"{path}.minutes", "zero or a positive number of minutes", "zero")
        behind = given.get("behind")
        if behind is not None and str(behind) not in access:
            reader.flaw(f"{path}.behind", f"no access of that name, got {quoted(behind)}; {allowed(access)}")
        text = {key: reader.text(given.get(key), f"{path}.{key}") for key in ("at", "caution")}
        pin = pin_of(reader, given, path, connectors)
        more = (text["caution"], reader.flag(given, "acknowledge", path), _never(reader, given, path), *pin)
        places[name] = Place(name, text["at"], 1.0 if minutes is None else minutes, None if behind is None else str(behind), *more)
    if not places and not value:
        reader.flaw("places", "must name at least one node that a probe can reach")
    # The black lead needs a home: battery minus can be probed on every vehicle.
    if minus and minus not in places:
        places[minus] = Place(minus, "battery minus post", 0.5)
    return places


def _states(reader: Reader, value: Any, parts: Mapping[str, Part]) -> dict[str, State]:
    states = {}
    for name, item in reader.named_mapping(value, "states", "a mapping of states to switch positions", MOST_STATES).items():
        path = f"states.{name}"
        given = reader.mapping(item, path, "a mapping such as {S1: closed}")
        positions = {}
        for part_name, position in given.items():
            part = parts.get(part_name)
            if part_name in ("note", "caution", "minutes", "acknowledge") or (part is None and part_name in MEANINGS):
                continue
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
        meaning = _meaning(reader, {key: given[key] for key in MEANINGS if key in given and key not in parts}, path)
        states[name] = State(name, positions, *texts, minutes or 0.0, reader.flag(given, "acknowledge", path), **meaning)
    if not states and not value:
        reader.flaw("states", "must name at least one state, such as 'on: {S1: closed}', or 'on: {}' where there is no switch")
    return states


def _meaning(reader: Reader, given: Mapping[str, Any], path: str) -> dict[str, Any]:
    """What a state means for a person: battery, key, engine, and how many people hold it."""
    found: dict[str, Any] = {}
    for name, words in MEANINGS.items():
        value = given.get(name)
        said = {True: "on", False: "off"}.get(value, str(value)) if isinstance(value, bool) else str(value)  # YAML reads on as true
        if value is None or name == "people":
            continue
        if said not in words:
            reader.flaw(f"{path}.{name}", f"must be {' or '.join(words)}, got {quoted(value)}")
        else:
            found[name] = said
    people = given.get("people", 1)
    if isinstance(people, bool) or not isinstance(people, int) or not 1 <= people <= MOST_PEOPLE:
        reader.flaw(f"{path}.people", f"must be a number of people from 1 to {MOST_PEOPLE}, got {quoted(people)}")
        return found
    return {**found, "people": people}


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
