"""What has to be seen to before a repair: proof, safety, what killed the old part, what outside looks just like it, the right version, the
new part measured first, and the customer's word. Each is met by the record itself, or by somebody who says so."""

from __future__ import annotations

import re
from collections.abc import Iterable, Mapping
from dataclasses import dataclass

from ..base.written import Content, EntryError, EntryField, EntryKind, Value
from ..check import spelled
from .new_one import wrong_with
from .options import Option
from .target import Target

__all__ = ["DONE", "FOUND", "GATE", "KILLED", "NOT_FOUND", "TITLES", "Gate", "Met", "gates_for", "looked_for", "open_gates"]

DONE, FOUND, NOT_FOUND = "done", "found", "not found"
_HOW = {
    "overload": "current against the rating, what else hangs on it",
    "overvoltage": "charging volts at 2000 a minute, spikes when a coil lets go",
    "heat": "melted plastic, a bad joint beside it, airflow",
    "water": "green pins, tracks, a torn seal",
    "chafe": "the wire along edges, hinges and rails",
    "jammed mechanics": "turn it by hand, ice, grit, a bent linkage",
}
KILLED, MIMIC = "killed:", "mimic:"


@dataclass(frozen=True, slots=True)
class Met:
    """How somebody met a gate: the ``result``, in their words, who and when."""

    result: str
    text: str
    person: str
    at: str
    entry_id: int = 0


@dataclass(frozen=True, slots=True)
class Gate:
    """Something to be seen to: its ``title``, what that means, how it was ``met`` (None while it is open), and what it takes: a tick, a
    tick with ``words`` (which begin with a number where it is ``numbered``), or that something was looked for and found or not. What was
    written may be what ``stops`` it. An ``own`` gate is met by the record and by nobody's word."""

    name: str
    title: str
    detail: str = ""
    met: Met | None = None
    looks: bool = False
    words: str = ""
    own: bool = False
    stops: str = ""
    numbered: bool = False

    @property
    def open(self) -> bool:
        """Whether it is still to be seen to."""
        return self.met is None or bool(self.stops)


def _checked(content: dict[str, Value]) -> dict[str, Value]:
    name, text = str(content["gate"]), str(content["text"])
    looks = name.startswith((KILLED, MIMIC))
    if looks and content["result"] == DONE:
        raise EntryError("Say whether it was found or not found.")
    if not looks and content["result"] != DONE:
        raise EntryError("This is done or it is not: nothing is looked for here.")
    if content["result"] == FOUND and not text:
        raise EntryError("What was found is missing: write it down in a few words, with what was done about it.")
    if name == "fits" and not text:
        raise EntryError("The part number is missing: write what stands on the new part, and what it was checked against.")
    if name == "reset_tried" and not re.search(r"\d", text):
        raise EntryError("How it was tried is missing: write how many seconds off, and how often it woke.")
    return content


def _reads(content: Content) -> str:
    name = str(content["gate"])
    what = name.partition(":")[2] or TITLES.get(name, name)
    words = {DONE: what, FOUND: f"{what}: found", NOT_FOUND: f"{what}: looked for and not found"}[str(content["result"])]
    return f"{words}. {content['text']}" if content.get("text") else words


TITLES = {
    "proved": "Fault proved",
    "safe": "Made safe",
    "fits": "The right version for this vehicle",
    "measured": "The new one measured first",
    "agreed": "The customer agrees",
    "reset_tried": "It wakes it, and not by luck",
}
GATE = EntryKind(
    "gate",
    "Seen to",
    (
        EntryField("gate", "What was seen to", longest=80),
        EntryField("result", "What came of it", choices=(DONE, FOUND, NOT_FOUND)),
        EntryField("text", "In a few words", required=False, longest=500),
    ),
    _reads,
    _checked,
)


_THE_SAME_ONE = ("free", "adjust", "rebuild", "board_repair")  # what goes back in is what came out


def looked_for(target: Target, option: Option) -> bool:
    """Whether a new part goes in, so that what killed the old one matters."""
    return option.way.priced and option.way.cures


def gates_for(
    target: Target, option: Option, met: Mapping[str, Met], unsafe: Iterable[str], agreed: Met | None, unproved: str = ""
) -> tuple[Gate, ...]:
    """What has to be seen to before an option is carried out. ``met`` is what somebody has said, by gate; ``unsafe`` the cautions that are
    still to be acknowledged; ``agreed`` the customer's word; ``unproved`` the reason for which it was concluded without proof."""
    proved = Met(DONE, "by the readings it stands on", "", "") if target.found.proved else Met(DONE, unproved, "", "") if unproved else None
    cautions = tuple(unsafe)
    found = [
        Gate("proved", "Fault proved" if target.found.proved else "Concluded without proof" if unproved else "Fault proved",
             "at the part itself" if target.found.proved else unproved, proved, own=True),
        Gate("safe", "Made safe", ", ".join(cautions) if cautions else "nothing here waits for it",
             None if cautions else Met(DONE, "", "", ""), own=True),
    ]  # fmt: skip
    if looked_for(target, option):
        for name in target.build.mimicked:
            gate = Gate(MIMIC + name, f"Rule out {name}", "it looks just like a dead part", met.get(MIMIC + name), looks=True)
            stops = "Mend that first: it may be all that is wrong." if gate.met and gate.met.result == FOUND else ""
            found.append(Gate(gate.name, gate.title, gate.detail, gate.met, looks=True, stops=stops))
        found += [
            Gate(KILLED + name, f"What killed it: {name}?", _HOW[name], met.get(KILLED + name), looks=True) for name in target.build.died_of
        ]
        if option.way.name not in _THE_SAME_ONE:
            found.append(Gate("fits", TITLES["fits"], "its number against the vehicle's papers", met.get("fits"), words="the part number"))
    if option.way.measured and option.way.cures:
        each = "it" if option.count == 1 else f"each of the {option.count}"
        told = f": {' and '.join(spelled(limit) for limit in target.limits)}" if target.limits else ""
        one = met.get("measured")
        wrong = wrong_with(one.text, target.limits, target.copper) if one and target.limits else ""
        found.append(Gate("measured", "Measure the new one first", f"{each} against the limit, before it is fitted{told}", one,
                          words="what was read", stops=wrong, numbered=bool(target.limits)))  # fmt: skip
    asks = "to the way and the price" if option.way.cures else "to living with it, and knows its limits"
    found.append(Gate("agreed", TITLES["agreed"], asks, agreed, own=True))
    return tuple(found)


def open_gates(gates: Iterable[Gate]) -> tuple[Gate, ...]:
    """Those still to be seen to."""
    return tuple(gate for gate in gates if gate.open)
