"""What a person sees, hears and feels of a part, as one of a few words; and how likely each word is if the circuit is in a given way.

The circuit predicts a number (light, speed, watts); people say "dim". Between two words lies a boundary that nobody draws sharply: the
chance of a word rises over it as a normal distribution does. Boundaries and their blur: common practice, no source.
"""

from __future__ import annotations

import math
from collections.abc import Mapping
from dataclasses import dataclass

import numpy as np

from ..base.arrays import Floats
from ..base.judgement import judged
from ..base.special import ndtr
from .operate import Points
from .part import Seen
from .sheet import Sheet

__all__ = ["HEARD_FOR_SURE", "SEEN", "listener_of", "sight_of", "sight_values", "talker_in", "word_chances"]

MISTAKEN = judged("MISTAKEN", 0.04, "share", "observations that are simply wrong")
# Of what a receiver decides at, how much every one takes for a message: 0.9 V between two lines for 0.7 V (ISO 11898-2, from memory).
HEARD_FOR_SURE = 0.9 / 0.7
HEAT = "heat"  # a joint's own warmth
_LEAST = 1e-4


@dataclass(frozen=True, slots=True)
class _Scale:
    """Boundaries between words, and their blur as a share; ``relative`` to what the sound circuit does in the same state."""

    bounds: tuple[float, ...]
    blur: tuple[float, ...]
    relative: bool


# By what is seen: the words from least to most, each with other words for it.
SEEN: Mapping[str, Mapping[str, tuple[str, ...]]] = {
    "brightness": {
        "dark": ("off", "out", "dead"), "dim": ("weak", "glows", "faint"), "normal": ("lit", "on", "fine", "ok"),
        "bright": ("too bright", "brighter"),
    },
    "runs": {
        "stopped": ("still", "dead", "stands still", "does not run"), "slow": ("slowly", "weak", "labours"),
        "normal": ("runs", "fine", "ok", "on"), "fast": ("too fast", "races"),
    },
    "moves": {"still": ("silent", "dead", "does not move", "no"), "moves": ("clicks", "pulls in", "opens", "yes", "ok")},
    "clicks": {"silent": ("still", "no", "dead", "does not click"), "clicks": ("click", "pulls in", "yes", "ok")},
    "sounds": {"silent": ("dead", "off"), "weak": ("croaks", "faint"), "normal": ("sounds", "ok", "on")},
    "indicates": {"low": ("zero", "empty", "nothing"), "normal": ("right", "ok", "fine"), "high": ("full", "off the scale", "too high")},
    "heats": {"cold": ("off", "dead", "nothing"), "weak": ("lukewarm", "slow"), "normal": ("warm", "ok", "hot")},
    "answers": {"silent": ("dead", "no", "does not answer", "nothing"), "answers": ("yes", "ok", "alive", "there")},
    "hears": {"nothing": ("silent", "not heard", "no"), "heard": ("yes", "talks", "hears it")},
    "diagnosis": {"nothing": ("ok", "none", "fine"), "short": ("overload", "shut down"), "open": ("open load",)},
    "code": {"nothing": ("none", "clear", "ok"), "low": ("circuit low",), "high": ("circuit high", "open")},
    "ripple": {"missing": ("pulses missing", "gaps", "uneven"), "even": ("ok", "fine", "steady")},
    HEAT: {"cold": ("cool", "fine"), "warm": (), "hot": ("burning", "smokes")},
}  # fmt: skip
# How a colleague would ask for it.
ASKED: Mapping[str, str] = {
    "brightness": "How does it shine", "runs": "How does it run", "moves": "Does it move", "clicks": "Does it click",
    "sounds": "How does it sound", "indicates": "What does it show", "heats": "Does it get warm", "answers": "Does it answer",
    "diagnosis": "What does the module report of it", "code": "Which code is set for this circuit",
    "ripple": "How even is the ripple", "hears": "Is the module that talks heard there", HEAT: "Does it get hot",
}  # fmt: skip
_SCALES = {
    "brightness": _Scale((0.006, 0.62, 1.45), (0.8, 0.3, 0.2), True),
    "runs": _Scale((0.2, 0.82, 1.15), (0.3, 0.08, 0.06), True),
    "moves": _Scale((1.0,), (0.15,), False),
    "clicks": _Scale((0.5,), (0.1,), False),
    "answers": _Scale((0.5,), (0.1,), False),
    "hears": _Scale((1.0,), (0.15,), False),
    "sounds": _Scale((0.45, 0.82), (0.15, 0.1), True),
    "indicates": _Scale((0.85, 1.15), (0.06, 0.06), True),
    "heats": _Scale((0.03, 0.75), (0.6, 0.15), True),
    "diagnosis": _Scale((0.5, 1.5), (0.01, 0.01), False),
    "code": _Scale((0.5, 1.5), (0.01, 0.01), False),
    "ripple": _Scale((0.5,), (0.1,), False),
    HEAT: _Scale((1.0, 8.0), (0.5, 0.4), False),
}


def _whats(sheet: Sheet, part_name: str) -> tuple[str, ...]:
    part = sheet.parts[part_name]
    zeros = {element.name: 0.0 for element in part.elements()}
    shown = part.kind.shows(Seen(part.params, part.rest, zeros, zeros, dict.fromkeys(zeros, False)))
    return tuple(sight.what for sight in shown if sight.what in SEEN) + ((HEAT,) if part.kind.joint else ())


def sight_of(sheet: Sheet, subject: str) -> tuple[str, str, str] | None:
    """Of an observation of the sheet, or of a part: the part, what the circuit computes of it, and which words (a key of SEEN) a person has
    for that; None where there is nothing to see."""
    if subject in sheet.parts:
        found = _whats(sheet, subject)
        return (subject, found[0], found[0]) if found else None
    entry = sheet.observe.get(subject)
    if entry is None:
        return None
    part, wanted = str(entry["part"]), str(entry["sees"])
    found = _whats(sheet, part)
    if not found:
        return None
    what = next((own for own in found if own.startswith(wanted)), found[0])
    # A pump drawn as a plain load runs all the same.
    return part, what, wanted if wanted in _SCALES and _SCALES[what].relative and _SCALES[wanted].relative else what


def talker_in(sheet: Sheet, state: str) -> str | None:
    """The one module of a bus that talks in a state; None where none or several do."""
    talking = [name for name in sheet.parts if sheet.position(state, name) == "dominant"]
    return talking[0] if len(talking) == 1 else None


def listener_of(sheet: Sheet) -> tuple[str, str] | None:
    """What the sheet has looked at to hear who talks on a bus: what that is called, and its part; None where it has nothing."""
    seen = ((name, sight_of(sheet, name)) for name in sheet.observe)
    return next(((name, own[0]) for name, own in seen if own is not None and own[1] == "hears"), None)


def sight_values(points: Points, state: str, part_name: str, what: str) -> Floats:
    """(M,) the number behind what is seen of a part, for every row."""
    network = points.network
    part = network.sheet.parts[part_name]
    own = [(name, i) for i, (owner, name) in enumerate(network.keys) if owner == part_name]
    columns = np.array([i for _, i in own])
    volts, amps, conducts = points.volts_across(columns), points.amps_through(columns), points.lets_through(columns)
    if what == HEAT:
        heat: Floats = np.abs(volts * amps).max(axis=1)
        return heat
    names = [name for name, _ in own]
    position = network.sheet.position(state, part_name)
    values = np.zeros(len(volts))
    for row, (v, a, c) in enumerate(zip(volts.tolist(), amps.tolist(), conducts.tolist(), strict=True)):
        seen = Seen(part.params, position, *(dict(zip(names, each, strict=True)) for each in (v, a, c)))
        values[row] = next((sight.value for sight in part.kind.shows(seen) if sight.what == what), 0.0)
    # Both ways of reporting an open circuit are one to the person who reads it.
    return np.minimum(values, 2.0) if what == "diagnosis" else values


def word_chances(what: str, values: Floats, sound: float) -> Floats:
    """(M, words) the chance that a person says each word of SEEN; ``sound`` is the number of the sound circuit in the same state."""
    scale = _SCALES[what]
    base = sound if scale.relative and sound > 0.02 else 1.0
    logs = np.log(np.maximum(np.abs(values) / base, _LEAST))
    reached = [ndtr((logs - math.log(bound)) / blur) for bound, blur in zip(scale.bounds, scale.blur, strict=True)]
    above = np.stack([np.ones_like(logs), *np.minimum.accumulate(reached, axis=0), np.zeros_like(logs)], axis=1)
    chances = above[:, :-1] - above[:, 1:]
    mistaken: Floats = chances * (1.0 - MISTAKEN) + MISTAKEN / chances.shape[1]
    return mistaken
