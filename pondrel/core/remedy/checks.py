"""What besides the readings proves a repair, by what was repaired: the leak, the brakes, the codes, the charging, what must be taught.

Common practice without a source: the maker's instructions go before it.
"""

from __future__ import annotations

import re
from collections.abc import Callable
from dataclasses import dataclass

from ..base.written import EntryError, EntryField, EntryKind, Value

__all__ = ["CHECK", "CHECKS", "Check", "Facts", "checks_for"]


@dataclass(frozen=True, slots=True)
class Facts:
    """What a job knows that decides which checks it needs: how the part is ``built``, all ``words`` of complaint, circuit and repair, and
    whether ``codes`` were read out, and the ``way`` that was chosen (empty where nobody chose)."""

    built: str
    words: str
    codes: bool = False
    way: str = ""

    @property
    def on_a_board(self) -> bool:
        """Whether a board was mended: the unit stays the same one."""
        return self.way == "board_repair" or self.built == "component"


@dataclass(frozen=True, slots=True)
class Check:
    """One thing to be done and seen: its ``title``, what it means, what is ``wanted`` in words beside it, ``when`` it is needed, and
    whether it comes ``before_drive``."""

    name: str
    group: str
    title: str
    detail: str
    when: Callable[[Facts], bool]
    wanted: str = ""
    before_drive: bool = False


def _said(words: str) -> Callable[[Facts], bool]:
    find = re.compile(rf"\b(?:{words})", re.IGNORECASE)
    return lambda facts: find.search(facts.words) is not None


def _built(*names: str) -> Callable[[Facts], bool]:
    return lambda facts: facts.built in names


_BRAKES = _said(r"brak\w*\b(?! light)|abs\b")
_LEAKS = _said(r"leak\w*|hiss\w*|sinks?\b|air spring\w*|kneel\w*|vacuum|hydraulic\w*|purge|vapour|coolant|oil (?:cooler|line)|cylinder\w*")
_CHARGES = _said(r"charg\w*|battery (?:flat|sag)")
_CODED = _said(r"codes?\b|(?:engine|fault|warning|check) lamp")
_FLUIDS = _said(r"hydraulic\w*|coolant|brake fluid|oil\b|refrigerant")


def _codes(facts: Facts) -> bool:
    """Where codes were read out, or the complaint speaks of one."""
    return facts.codes or _CODED(facts)


CHECKS: tuple[Check, ...] = (
    Check("wiped", "Leak", "Wiped clean first, then no leak",
          "Old residue looks like a fresh leak: wipe it, run it, look again.", _LEAKS, "how long it was run"),
    Check("holds", "Leak", "Holds what it should", "Shut it off and watch: the drop against its limit.", _LEAKS, "bar and minutes"),
    Check("bled", "Fluids", "Filled to its mark and bled", "In the maker's order, the furthest first where nothing else is said.", _FLUIDS,
          "what and how much"),
    Check("pedal", "Brakes", "Firm pedal", "Standing, engine on and off, held for a minute.", _BRAKES, before_drive=True),
    Check("fluid", "Brakes", "Fluid at its mark", "And the cap back on.", _BRAKES, before_drive=True),
    Check("brakes_bled", "Brakes", "Bled, and no leak", "At every joint that was opened, under pressure.", _BRAKES, before_drive=True),
    Check("lamps_out", "Brakes", "Its lamps go out after a restart", "Off, a minute, on again.", _BRAKES),
    Check("saved", "Codes", "Codes saved before they were cleared", "With their freeze frames: the readiness tests start anew.",
          _codes),
    Check("cleared", "Codes", "Codes cleared", "A crash flag is not cleared from here.", _codes),
    # What the module's own test waits for: a code that stays away before it has run says nothing.
    Check("window_fuel", "Codes", "Fuel level as its own test wants it", "Many run only between a quarter and three quarters.",
          _codes, "the fuel level, or that its test does not ask for it"),
    Check("window_soak", "Codes", "Stood as long as its own test wants", "A night as a rule, where it begins cold.",
          _codes, "the hours it stood, or that its test does not ask for it"),
    Check("window_drive", "Codes", "Driven as its own test wants", "A code that stays away before its test has run says nothing.",
          _codes, "the speed and minutes driven"),
    Check("away", "Codes", "No code came back", "Read out again after that drive.", _codes),
    Check("trend", "Charging", "The volts climb and stay", "A flat battery pulls the first minutes down: note the minutes with the volts.",
          lambda facts: _CHARGES(facts) or facts.built in ("alternator", "stator", "battery"), "volts and minutes, idle and raised"),
    Check("taught", "Teaching", "Taught as its maker says", "Straight ahead, a slow drive, turns and a stop, in a safe place: whatever it "
          "asks for.", lambda facts: facts.built == "module" and not facts.on_a_board, "what it wanted, and what it answered"),
    Check("functions", "Functions", "Every function of the list again", "One by one with load: what worked before, and what did not.",
          lambda facts: facts.on_a_board),
    Check("restart", "Teaching", "Still so after a restart", "Key off, a minute, on again.", _built("module")),
)  # fmt: skip
DONE, FAILED = "done", "failed"


def checks_for(facts: Facts) -> tuple[Check, ...]:
    """The checks that a repair needs."""
    return tuple(check for check in CHECKS if check.when(facts))


_BEFORE = Check(
    "window", "Codes", "Its own test could run", "", lambda facts: False, "fuel level, hours it stood, speed and minutes driven"
)
_BY_NAME = {check.name: check for check in (*CHECKS, _BEFORE)}  # the last as records of 0.16 have it


def _checked(content: dict[str, Value]) -> dict[str, Value]:
    check = _BY_NAME[str(content["check"])]
    if check.wanted and not content["text"]:
        raise EntryError(f"{check.title}: write down {check.wanted}.")
    return content


CHECK = EntryKind(
    "checked",
    "Checked after it",
    (
        EntryField("check", "What was checked", choices=tuple(_BY_NAME)),
        EntryField("result", "What came of it", choices=(DONE, FAILED)),
        EntryField("text", "In a few words", required=False, longest=500),
    ),
    lambda c: f"{_BY_NAME[str(c['check'])].title}: {'yes' if c['result'] == DONE else 'no'}" + (f", {c['text']}" if c.get("text") else ""),
    _checked,
)
