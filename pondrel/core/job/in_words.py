"""What the complaint's own words already say: when it is there, so that nobody is asked for it again, and which guided way it calls for.

It is a proposal: a person sees it ticked and writes it down or takes it off. Common practice of speech, no source.
"""

from __future__ import annotations

import re
from collections.abc import Mapping

from ..evidence.told import CIRCUMSTANCES
from ..power.guide import WAYS

__all__ = ["told_in_words", "ways_in_words"]

_WHEN = r"\b(?:when|whenever|if|while|once|as|after|every time)\b(?: [a-z]+){0,5}? "  # how a person begins to say when
_WORDS: Mapping[str, str] = {
    "cold": _WHEN + r"cold\b(?! air| water)|\bcold (?:mornings?|starts?|engine|weather|days?|nights?)"
    r"|\bin the cold\b|\bin (?:the )?frost\b",
    "hot": _WHEN + r"(?:hot|warm|warmed up)\b(?! air| water)|\bhot (?:engine|weather|days?)|\bin the heat\b",
    "wet": _WHEN + r"(?:wet|rains?|raining|damp|wash|washed|washing)\b|\bin (?:the )?(?:wet|rain|damp)\b"
    r"|\b(?:wet|rainy) (?:days?|weather)",
    "bumps": r"\bbumps?\b|\bpotholes?\b|\bkerbs?\b|\bcobbles\b|\brough (?:roads?|ground)",
    "load": r"\b(?:under|with) (?:a |full |heavy ){0,2}load\b|" + _WHEN + r"(?:loaded|full load)\b",
    "speed": r"\bat (?:high |full |road )?speed\b|" + _WHEN + r"(?:driving|driven) fast\b",
    "standing": r"\bafter (?:[a-z]+ ){0,3}(?:standing|stop|night|weekend)\b|\bovernight\b|\bleft standing\b",
    "start": r"\bminutes? after (?:the |a )?start",
    "seat": _WHEN + r"seat (?:is |was )?(?:moved|shifted|slid)|\bmoving the seat\b",
    "door": _WHEN + r"(?:door|tailgate|hatch) (?:is |was )?(?:opened|closed|moved|shut|slammed)"
    r"|\b(?:opening|closing) the (?:door|tailgate|hatch)\b",
    "tilt": r"\btilt(?:ed|ing)\b",
    "steering": r"\bsteering (?:wheel )?(?:is |was )?turned\b|\bturning the (?:steering|wheel)|" + _WHEN + r"(?:steering|steered)\b",
}  # fmt: skip
_OFTEN: Mapping[str, str] = {
    "sometimes": r"\b(?:sometimes|now and then|now and again|at times|from time to time|occasionally|intermittent(?:ly)?)\b"
    r"|\bcomes and goes\b|\bevery so often\b",
    "always": r"\b(?:always|every time|all the time|permanently|constantly)\b",
}
_SINCE = re.compile(r"\bsince ([^.,;!?\n]{2,60})", re.IGNORECASE)
_CLAUSE = re.compile(r"[.,;:!?\n]+|\bbut\b")
# A clause that tells of what is as it should be, or of when the fault is not there.
_WELL = re.compile(r"\b(?:fine|normal|normally|well|ok|okay|never|as always)\b|\bnot (?:when|if|while|in|at|over|under|after)\b")


def _clauses(text: str) -> list[str]:
    """What is told in a text of what is not as it should be, clause by clause."""
    return [clause for clause in _CLAUSE.split(text.lower()) if not _WELL.search(clause)]


def ways_in_words(text: str) -> tuple[str, ...]:
    """The guided ways that ``text`` calls for, by name, the one that it says most of first."""
    clauses = _clauses(text)
    said = {name: sum(any(re.search(pattern, clause) for clause in clauses) for pattern in way.said) for name, way in WAYS.items()}
    return tuple(sorted((name for name, count in said.items() if count), key=lambda name: -said[name]))


def told_in_words(text: str) -> dict[str, str]:
    """The fields of a complaint, named as those of its entry, that ``text`` answers: ``often``, ``under``, ``since``; none empty."""
    clauses = _clauses(text)

    def has(pattern: str) -> bool:
        return any(re.search(pattern, clause) for clause in clauses)

    since = _SINCE.search(text)
    found = {
        "often": next((name for name, pattern in _OFTEN.items() if has(pattern)), ""),
        "under": ",".join(name for name in CIRCUMSTANCES if has(_WORDS[name])),
        "since": since[1].strip() if since else "",
    }
    return {name: value for name, value in found.items() if value}
