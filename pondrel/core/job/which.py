"""Which circuit a complaint is about: proposed from the words, codes and modules that it shares with the sheets.

A word counts the more the fewer sheets have it, and by where it stands: in the title or in what can be seen of the circuit, in the name of
a part, in a note. Words are compared without their endings.
"""

from __future__ import annotations

import json
import math
import re
from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass

from ..base.judgement import OWN_RULE, judged
from ..circuit.sheet import Sheet

__all__ = ["Phrase", "Proposed", "kept_phrases", "phrases_kept", "phrases_of", "proposed_circuits"]

LEAST_SCORE = judged("LEAST_SCORE", 1.9, "weight", "what a sheet's words must share with the complaint for it to be proposed", OWN_RULE)
_WEIGHTS: Mapping[str, float] = {
    "title": 1.6,
    "seen": 1.4,
    "code": 6.0,
    "module": 3.0,
    "part": 1.0,
    "family": 0.7,
    "note": 0.6,
    "place": 0.5,
}
_MOST_PROPOSED = 5
_AS_IF = 4.0  # sheets that are reckoned with besides, so that in a library of one a word counts, too
_WORD = re.compile(r"[a-z][a-z0-9]{2,}")
_ENDINGS = ("ing", "ers", "er", "ed", "es", "s", "ly")
_COMMON_WORDS = """
the and for with not does did has have had was were are that this when then than from into only but all any its his her they them there here
out off over under after before also still since sometimes always never once left right front rear side upper lower new old one two three
both first last back again comes goes come go runs run works work working nothing very too slowly circuit module engine side full half
four five six seven eight nine ten
low high output input code turn turns needs need need second year plug small year more less than must will can cannot nobody somebody
"""
_COMMON = frozenset(_COMMON_WORDS.split())
# What people say for what a sheet calls otherwise. Common practice, no source.
_ALSO: Mapping[str, tuple[str, ...]] = {
    "flat": ("charging",), "drain": ("charging",), "discharged": ("charging",), "revs": ("charging",),
    "sags": ("charging",), "crank": ("starter",), "light": ("lamp",),
    "lamp": ("light",), "fan": ("blower",), "blower": ("fan",), "horn": ("bleeper",), "bleeper": ("horn",), "defrost": ("glass",),
    "demister": ("glass",), "clears": ("glass",), "needle": ("gauge",),
}  # fmt: skip


@dataclass(frozen=True, slots=True)
class Phrase:
    """What a sheet says of itself: ``where`` is a key of the weights, ``text`` what stands there."""

    where: str
    text: str


@dataclass(frozen=True, slots=True)
class Proposed:
    """A circuit that may be meant: the key it was handed in under, how well it fits (0 to 1, the best is 1), and the phrases of the sheet
    that the complaint shares words with, the weightiest first."""

    key: int
    share: float
    because: tuple[str, ...]


def phrases_of(sheet: Sheet) -> tuple[Phrase, ...]:
    """What a sheet says of itself in words."""
    found = [Phrase("title", sheet.title), Phrase("family", sheet.family), Phrase("note", sheet.note)]
    found += [Phrase("seen", f"{name} {entry.get('note', '')}".strip()) for name, entry in sheet.observe.items()]
    found += [Phrase("code", f"{name} {code.meaning}".strip()) for name, code in sheet.codes.items()]
    found += [Phrase("module" if part.kind.name == "module" else "part", part.label) for part in sheet.parts.values()]
    found += [Phrase("place", f"{access.name.replace('_', ' ')} {access.note}") for access in sheet.access.values()]
    return tuple(dict.fromkeys(phrase for phrase in found if phrase.text))


def phrases_kept(phrases: Iterable[Phrase]) -> str:
    """Phrases as they are kept beside a sheet."""
    return json.dumps([[phrase.where, phrase.text] for phrase in phrases], ensure_ascii=False)


def kept_phrases(text: str) -> tuple[Phrase, ...]:
    """The phrases that were kept; none from an empty text."""
    return tuple(Phrase(where, words) for where, words in json.loads(text or "[]"))


def _stem(word: str) -> str:
    for ending in _ENDINGS:
        if word.endswith(ending) and len(word) - len(ending) >= 3:
            word = word[: -len(ending)]
            break
    return word.removesuffix("e") if len(word) > 4 else word  # gauge and gauges are one


def _stems(text: str) -> dict[str, str]:
    """By stem the word that it is taken from."""
    return {_stem(word): word for word in _WORD.findall(text.lower().replace("-", " ")) if word not in _COMMON}


# A lamp that tells of a code is no lamp that is complained of.
_TELLTALE = re.compile(r"\b(?:engine|check|fault|warning|service|malfunction)(?: engine)? (?:lamp|light)\b", re.IGNORECASE)


def _said(text: str) -> frozenset[str]:
    """The stems of what was told, and of what a sheet may call it otherwise."""
    own = _stems(_TELLTALE.sub(" ", text))
    return frozenset((*own, *(_stem(other) for word in own.values() for other in _ALSO.get(word, _ALSO.get(_stem(word), ())))))


def proposed_circuits(
    sheets: Mapping[int, Sequence[Phrase]], complaint: str, codes: Iterable[str] = (), modules: Iterable[str] = ()
) -> tuple[Proposed, ...]:
    """The circuits that may be meant, best first, at most five; ``complaint`` is all that was told, ``codes`` are fault codes without their
    failure types, ``modules`` those that are silent or told a code."""
    said, called = _said(complaint), _said(" ".join(modules))
    wanted = {code.lower() for code in codes}
    own = {key: [(phrase, _stems(phrase.text)) for phrase in phrases] for key, phrases in sheets.items()}
    having: dict[str, int] = {}
    for phrases in own.values():
        for stem in frozenset().union(*(stems for _, stems in phrases)):
            having[stem] = having.get(stem, 0) + 1
    rarity = {stem: math.log((_AS_IF + len(own)) / count) for stem, count in having.items()}
    scored = []
    for key, phrases in own.items():
        best: dict[str, float] = {}
        because: dict[str, float] = {}
        for phrase, stems in phrases:
            weight = _WEIGHTS[phrase.where]
            shared = frozenset(stems) & (called if phrase.where == "module" else said)
            gain = sum(weight * rarity[stem] for stem in shared)
            if phrase.where == "code" and phrase.text.lower().split()[0] in wanted:
                gain, shared = weight, frozenset((phrase.text,))  # a code is itself, not its words
            if gain > 0.0:
                told = phrase.text if phrase.where not in ("note", "place") else " ".join(stems[stem] for stem in stems if stem in shared)
                because[told] = max(because.get(told, 0.0), gain)
                for stem in shared:
                    best[stem] = max(best.get(stem, 0.0), weight * rarity.get(stem, 1.0))
        score = sum(best.values())
        if score >= LEAST_SCORE:
            scored.append((score, key, tuple(sorted(because, key=lambda text: (-because[text], text)))))
    scored.sort(key=lambda one: (-one[0], one[1]))
    top = scored[0][0] if scored else 1.0
    return tuple(Proposed(key, score / top, because[:3]) for score, key, because in scored[:_MOST_PROPOSED] if score >= top / 4)
