"""How parts are built, as far as mending goes: how long such a thing lasts, how long the work at it takes, and how people speak of it.

Lives and minutes are common practice without a source: the workshop's own minutes and prices go before them, and so does its record.
"""

from __future__ import annotations

import re
from collections.abc import Mapping
from dataclasses import dataclass

from ..base.judgement import judged
from .life import Life

__all__ = ["BUILDS", "Build", "build_in_words"]

WEARS, SUDDEN = 2.5, 1.3  # shapes: what wears out with use, and what fails at almost any age


@dataclass(frozen=True, slots=True)
class Build:
    """A way of being built: how long half of such parts last and how they wear, the ``minutes`` of work at one once it is laid open, and
    patterns of what it is called in small letters. ``ages`` with others of its kind: then a whole set is worth a thought. What ``died_of``
    something must have that looked for before a new one goes in; ``mimicked`` by faults outside, those are excluded first."""

    name: str
    words: str
    years: float
    shape: float
    minutes: float
    said: str = ""
    ages: bool = False
    died_of: tuple[str, ...] = ()
    mimicked: tuple[str, ...] = ()

    @property
    def life(self) -> Life:
        """The life of a new one."""
        return Life(self.years, self.shape)


def _build(
    name: str, words: str, years: float, shape: float, minutes: float, said: str = "", ages: bool = False,
    died_of: tuple[str, ...] = (), mimicked: tuple[str, ...] = (),
) -> Build:  # fmt: skip
    judged(f"LASTS_{name.upper()}", years, "years", f"half of all of them last so long: {words}")
    judged(f"WORK_{name.upper()}", minutes, "min", f"work at one that is laid open: {words}")
    return Build(name, words, years, shape, minutes, said, ages, died_of, mimicked)


_OVERLOAD, _OVERVOLTAGE, _HEAT = "overload", "overvoltage", "heat"
_WATER, _CHAFE, _JAMMED = "water", "chafe", "jammed mechanics"
_OUTSIDE = ("a weak supply or ground under load", "a melted or loose plug", "a jammed flap or linkage", "a silent gateway or partner")

BUILDS: Mapping[str, Build] = {
    build.name: build
    for build in (
        _build("joint", "a joint", 15, SUDDEN, 20, r"ground|stud|joint|splice|terminals?\b|clamps?|connector|plug|pin\b|cables? at"),
        _build("wire", "a wire", 30, SUDDEN, 30, r"wire|cable|harness|lead\b"),
        _build("fuse", "a fuse", 40, SUDDEN, 3, r"fuse|fusible", died_of=(_OVERLOAD, _CHAFE, _JAMMED, _WATER)),
        _build("switch", "a switch", 14, WEARS, 20, r"switch|button|breaker"),
        _build("relay", "a relay", 14, WEARS, 6, r"relay|contactor"),
        _build("coil", "a coil or valve", 11, WEARS, 35, r"coil|valve|solenoid|clutch|injector", ages=True, mimicked=_OUTSIDE[:2]),
        _build("lamp", "a lamp", 4, WEARS, 10, r"lamp|bulb|light", ages=True),
        _build("motor", "a motor", 12, WEARS, 45, r"motor|starter|pump|fan|wiper", died_of=(_OVERLOAD, _JAMMED, _WATER, _HEAT)),
        _build("alternator", "an alternator", 10, WEARS, 60, r"alternator|generator|brushes|charging unit",
               died_of=(_OVERLOAD, _WATER, _HEAT)),
        _build("stator", "a stator", 10, WEARS, 120, r"stator|phase", died_of=(_OVERLOAD, _HEAT, _CHAFE, _WATER)),
        _build("battery", "a battery", 6, WEARS, 15, r"battery", died_of=(_OVERVOLTAGE, _HEAT)),
        _build("sensor", "a sensor", 12, SUDDEN, 20, r"sensor|sender|tank unit|pedal|pick.?up|probe"),
        _build("gauge", "a gauge", 18, SUDDEN, 40, r"gauge|instrument|rev counter"),
        _build("module", "a control module", 18, SUDDEN, 25, r"module|unit\b|computer|controller|radio|receiver|amplifier|display",
               died_of=(_OVERVOLTAGE, _WATER, _HEAT, _OVERLOAD), mimicked=_OUTSIDE),
        _build("board", "a board or electronic unit", 15, SUDDEN, 30, r"board|regulator|rectifier|electronic",
               died_of=(_OVERVOLTAGE, _HEAT, _WATER), mimicked=_OUTSIDE[:2]),
        _build("component", "a component on a board", 14, SUDDEN, 40, r"capacitor|diode|transistor|resistor",
               died_of=(_HEAT, _OVERVOLTAGE)),
        _build("part", "a part", 12, WEARS, 25),
    )
}  # fmt: skip
_ELSE = BUILDS["part"]
_PREPOSITION = re.compile(r"\b(?:of|in|on|at|for|from|behind|under)\b")


def build_in_words(text: str) -> Build:
    """What a part that stands on no circuit is likely to be, by how it is called: the word that stands last counts, a *starter relay* is a
    relay; and what stands before a preposition, a *capacitor of the board* is a capacitor."""
    return _named(_PREPOSITION.split(text.lower(), maxsplit=1)[0]) or _named(text.lower()) or _ELSE


def _named(low: str) -> Build | None:
    found = [(match.end(), build) for build in BUILDS.values() if build.said for match in re.finditer(rf"\b(?:{build.said})", low)]
    return max(found, key=lambda pair: pair[0])[1] if found else None
