"""A sheet in the making: things that were asked about become parts, places and ways to reach them."""

from __future__ import annotations

import re
from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field
from typing import Any

from ..base.brief import quoted
from ..base.conductor import thinnest_for_fuse
from ..base.errors import MakingError
from .asked import Answers
from .loads import LOADS, load_params
from .reach import reached
from .sizes import NOT_KNOWN, length_of, load_of, rating_of, section_of
from .text import sheet_text

__all__ = ["MINUS", "PLUS", "Maker", "Two"]

PLUS, MINUS = "batt+", "batt-"
USUAL_METRES, USUAL_RATING = 3.0, 15.0
# One standard deviation, as a share, of a wire of which the length, the section or neither is known. Common practice, no source.
LENGTH_UNKNOWN, SECTION_UNKNOWN, BOTH_UNKNOWN = 0.6, 0.5, 0.8
SUPPLY_PER_12 = 12.6
_CODE = re.compile(r"(?P<code>[A-Z]{1,3}\d{1,3}[a-z]?)(?:\s+(?P<name>.+))?")
_PLUG = re.compile(r"(?P<plug>[A-Za-z]{1,3}\d{1,3}[a-z]?)\s*(?:[./: -]\s*|\s+pin\s+|\s*pin\s*)(?P<pin>\d{1,3})", re.IGNORECASE)
_UNTOLD = f"What was {NOT_KNOWN} is taken as usual, with a wide tolerance; it says so in the note of each part."


@dataclass(frozen=True, slots=True)
class Two:
    """A part of two ends in the making: its name on the sheet and its nodes."""

    part: str
    a: str
    b: str


@dataclass
class Maker:
    """Gathers a sheet. ``answers`` are those to the things that its methods name by their keys."""

    answers: Answers
    title: str
    family: str
    system: float = 12.0
    note: str = ""
    caution: str = ""
    access: dict[str, dict[str, Any]] = field(default_factory=dict)
    places: dict[str, dict[str, Any]] = field(default_factory=dict)
    parts: dict[str, dict[str, Any]] = field(default_factory=dict)
    states: dict[str, dict[str, Any]] = field(default_factory=dict)
    limits: list[dict[str, Any]] = field(default_factory=list)
    seen: dict[str, dict[str, Any]] = field(default_factory=dict)
    fed_by: float = USUAL_RATING  # rating of the fuse that the next wires lie behind
    untold: bool = False

    def __post_init__(self) -> None:
        self.parts["BAT"] = {"kind": "battery", "pins": {"p": PLUS, "n": MINUS}, "label": "battery"}
        self.places[PLUS] = {"at": "battery plus post", "minutes": 1}

    # Names and places

    def code_of(self, thing: str, letter: str) -> tuple[str, str]:
        """A name on the sheet and a label for a thing: the code that its name begins with, or the next free one of a letter."""
        said = self.answers.said(thing, "name")
        match = _CODE.fullmatch(said)
        code, label = (match["code"], match["name"] or "") if match else ("", said)
        if code in self.parts:
            raise MakingError(f"Two parts are called {quoted(code)}: give one of them another code.")
        return code or self.next_code(letter), label

    def next_code(self, letter: str) -> str:
        """The first name of a letter and a number that no part has yet."""
        return next(name for n in range(1, 1000) if (name := f"{letter}{n}") not in self.parts and not self._plug_named(name))

    def _plug_named(self, name: str) -> bool:
        return any(part.startswith(f"{name}.") for part in self.parts)

    def behind(self, thing: str, label: str, question: str = "reach") -> str | None:
        """The access that a thing lies behind, entered where it is not yet; None for what lies open."""
        way = reached(self.answers.said(thing, question))
        if not way.minutes:
            return None
        name = re.sub(r"[^a-z0-9]+", "_", f"{way.way} {label}".lower()).strip("_")
        entry: dict[str, Any] = {"minutes": way.minutes, "note": f"{way.way}, to get at {label}"}
        self.access.setdefault(name, entry | ({"caution": way.caution} if way.caution else {}))
        return name

    def place(self, node: str, at: str, behind: str | None = None, **more: Any) -> None:
        """Make a node one that a probe can reach."""
        entry: dict[str, Any] = {"at": at, "minutes": 1}
        if behind:
            entry["behind"] = behind
        self.places.setdefault(node, entry | {key: value for key, value in more.items() if value})

    def add(self, name: str, kind: str, pins: Mapping[str, str], label: str = "", note: str = "", **params: Any) -> str:
        """Add a part; parameters that are None are left to what is usual of its kind."""
        entry: dict[str, Any] = {"kind": kind, "pins": dict(pins), **{key: value for key, value in params.items() if value is not None}}
        if label:
            entry["label"] = label
        if note:
            entry["note"] = note
            self.untold = True
        self.parts[name] = entry
        return name

    # Things

    def fuse(self, thing: str, a: str = PLUS, kind: str = "fuse") -> str:
        """A fuse fed from a node; the node behind it. The wires that follow lie behind it."""
        code, label = self.code_of(thing, "F")
        rating = rating_of(self.answers.said(thing, "rating"))
        self.fed_by = rating or USUAL_RATING
        out = f"{code.lower()}.out"
        note = "" if rating else f"rating {NOT_KNOWN}, {USUAL_RATING:g} A taken"
        self.add(code, kind, {"a": a, "b": out}, label, note, rating=self.fed_by)
        self.place(out, f"fuse box, load side of {code}", self.behind(thing, label or code))
        return out

    def wire(self, thing: str, a: str, b: str, label: str = "") -> None:
        """A wire between two nodes, in two halves where it passes a plug."""
        said = self.answers.said
        metres, section = length_of(said(thing, "length")), section_of(said(thing, "section"))
        note, tolerance = "", None
        if metres is None or section is None:
            what = "length and section" if metres is None and section is None else "length" if metres is None else "section"
            tolerance = {"length": LENGTH_UNKNOWN, "section": SECTION_UNKNOWN}.get(what, BOTH_UNKNOWN)
            taken = section if section is not None else thinnest_for_fuse(self.fed_by)
            note = f"{what} {NOT_KNOWN}, {metres or USUAL_METRES:g} m of {taken if isinstance(taken, str) else f'{taken:g} mm²'} taken"
            section = taken
        metres = metres or USUAL_METRES
        size = {"awg": section} if isinstance(section, str) else {"csa_mm2": section}
        colour = said(thing, "colour") or None
        ends = [(a, b)]
        if said(thing, "plug"):
            one, other = self._through_plug(thing)
            ends, metres = [(a, one), (other, b)], metres / 2
        for one, other in ends:
            self.add(
                self.next_code("W"), "wire", {"a": one, "b": other}, label, note, length_m=round(metres, 3), **size, tolerance=tolerance,
                colour=colour,
            )  # fmt: skip

    def _through_plug(self, thing: str) -> tuple[str, str]:
        """The two sides of the pin of a plug that a wire passes; pins of one plug are one part."""
        said = self.answers.said(thing, "plug")
        match = _PLUG.fullmatch(said)
        if match is None:
            raise MakingError(f"{quoted(said)} names no pin of a plug: write it as C3 pin 7.")
        plug, pin = match["plug"].upper(), str(int(match["pin"]))
        one, other = f"{plug.lower()}.{pin}", f"{plug.lower()}.{pin}m"
        part = self.parts.get(plug)
        if part is not None and part["kind"] != "plug":
            raise MakingError(f"{quoted(plug)} is a part already, and no plug: give the plug another code.")
        if part is not None and f"{pin}a" in part["pins"]:
            raise MakingError(f"Two wires are on {plug} pin {pin}: give one of them its own pin.")
        if part is None:
            self.add(plug, "plug", {}, f"plug {plug}")
        self.parts[plug]["pins"] |= {f"{pin}a": one, f"{pin}b": other}
        behind = self.behind(thing, f"plug {plug}", "plug_reach")
        for node, side in ((one, "feed side"), (other, "far side")):
            self.place(node, f"plug {plug} pin {pin}, {side}", behind, connector=plug, cavity=pin)
        return one, other

    def two(self, thing: str, letter: str, kind: str, ends: Sequence[str] = ("a", "b"), note: str = "", **params: Any) -> Two:
        """A part of two ends with a plug of its own, its pins numbered as was said."""
        code, label = self.code_of(thing, letter)
        said = self.answers.said(thing, "pins") if self.answers.asks(thing, "pins") else "1, 2"
        pins = [pin for pin in re.split(r"[\s,;/]+", said) if pin]
        if len(pins) != 2 or pins[0] == pins[1]:
            raise MakingError(f"{quoted(said)} does not name the two pins of {label or code}: write them as 1, 2.")
        nodes = [f"{code.lower()}.{pin}" for pin in pins]
        self.add(code, kind, dict(zip(ends, nodes, strict=True)), label, note, **params)
        behind = self.behind(thing, label or code)
        for node, pin in zip(nodes, pins, strict=True):
            self.place(node, f"{label or code} pin {pin}", behind, connector=code, cavity=pin)
        return Two(code, *nodes)

    def switch(self, thing: str, kind: str = "switch") -> Two:
        """A switch."""
        return self.two(thing, "S", kind)

    def load(self, thing: str, sort: str = "") -> Two:
        """What is fed, of a sort that was asked for or that is given; what can be seen of it is noted."""
        sort = sort or self.answers.said(thing, "sort")
        if self.answers.said(thing, "name") == "load":  # nobody named it: what it is says more
            self.answers.given[f"{thing}.name"] = sort
        kind, params, note = load_params(sort, load_of(self.answers.said(thing, "size")), self.system)
        made = self.two(thing, LOADS[sort].letter, kind, ("a", "b"), note, **params)
        if LOADS[sort].seen:
            self.see(made.part, LOADS[sort].seen)
        return made

    def ground(self, thing: str) -> str:
        """A ground point; the node that wires are bolted to."""
        code, label = self.code_of(thing, "G")
        node = code.lower()
        self.add(code, "ground", {"a": node, "b": MINUS}, label)
        self.place(node, label or f"ground {code}", self.behind(thing, label or code))
        return node

    def relay(self, thing: str, kind: str = "relay", **params: Any) -> dict[str, str]:
        """A relay; its terminals' nodes by their numbers, its name under ``part``."""
        code, label = self.code_of(thing, "K")
        size = load_of(self.answers.said(thing, "size"))
        if size is not None and size.ohms is None:
            size = size.at(self.system)
        usual = 85.0 if self.system < 18.0 else 320.0
        nodes = {terminal: f"{code.lower()}.{terminal}" for terminal in ("30", "87", "85", "86")}
        note = "" if size else f"ohms of the coil {NOT_KNOWN}, {usual:g} Ω taken"
        pulls = {} if self.system < 18.0 else {"pull_in": 16.0, "drop_out": 2.4}
        tolerance = None if size else 0.25
        self.add(code, kind, nodes, label, note, coil_ohms=size.ohms if size else usual, tolerance=tolerance, **pulls, **params)
        behind = self.behind(thing, label or code)
        for terminal, node in nodes.items():
            self.place(node, f"{label or code} terminal {terminal}", behind, connector=code, cavity=terminal)
        self.see(code, "clicks")
        return nodes | {"part": code}

    def module_pins(self, thing: str, pins: Mapping[str, str], letter: str = "N") -> dict[str, str]:
        """The nodes of a module's pins by what they are; ``pins`` say where each is in words. Its name under ``part``, its label under
        ``label``."""
        code, label = self.code_of(thing, letter)
        behind = self.behind(thing, label or code)
        nodes: dict[str, str] = {}
        for name, words in pins.items():
            number = self.answers.said(thing, f"pin_{name}")
            node = f"{code.lower()}.{number or name}".replace(" ", "_")
            if node in nodes.values():
                raise MakingError(f"Pin {number} of {label or code} is named twice: give {words} its own pin.")
            nodes[name] = node
            at = f"{label or code} pin {number}, {words}" if number else f"{label or code}, {words}"
            self.place(node, at, behind, connector=code if number else None, cavity=number)
        return nodes | {"part": code, "label": label or code}

    # What is done and seen

    def state(self, name: str, **positions: Any) -> None:
        """A state: positions of parts, and ``key``, ``engine``, ``note``, ``caution`` and the like."""
        self.states[name] = positions

    def see(self, part: str, what: str) -> None:
        """Note that something of a part can be seen or heard."""
        self.seen[self.parts[part].get("label") or part] = {"part": part, "sees": what}

    def limit(self, **entry: Any) -> None:
        """Add a limit."""
        self.limits.append(entry)

    def text(self) -> str:
        """The sheet's text."""
        self.places.setdefault(MINUS, {"at": "battery minus post", "minutes": 0.5})
        note = " ".join(filter(None, (self.note, _UNTOLD if self.untold else "")))
        return sheet_text(
            {
                "format": "pondrel-sheet/1",
                "title": self.title,
                "family": self.family,
                "note": note,
                "caution": self.caution,
                "supply": {"nominal": round(SUPPLY_PER_12 * self.system / 12.0, 1), "unit": "V"},
                "access": self.access,
                "places": self.places,
                "parts": self.parts,
                "states": self.states,
                "limits": self.limits,
                "observe": self.seen,
            }
        )
