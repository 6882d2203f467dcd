"""From what a driver notices back to the code: which codes of a vehicle's modules would take just that away.

Read the other way round than a code list: a fifth and a sixth gear and the lock-up that are missing point to one output. Words are compared
by their beginnings; of two codes that explain the same words, the one that says less besides goes first.
"""

from __future__ import annotations

import re
from dataclasses import dataclass

from ..base.brief import lowered
from .roster import Module, ModuleCode, Roster

__all__ = ["Behind", "codes_behind"]

_WORD = re.compile(r"[a-zäöüß]+|\d+")
_SAYS_NOTHING = frozenset(
    (
        *("the", "a", "an", "is", "are", "and", "or", "of", "to", "not", "no", "it", "its", "at", "on", "in", "does", "do", "will", "with"),
        *("for", "because", "only", "than", "too", "missing", "gone", "dead", "none", "nothing", "anything", "any", "more", "there", "has"),
    )
)
# Gears are written in figures or in words.
_FIGURES = {"1": "first", "2": "second", "3": "third", "4": "fourth", "5": "fifth", "6": "sixth", "7": "seventh", "8": "eighth"}
_SPOKEN = {
    "one": "first", "two": "second", "three": "third", "four": "fourth", "five": "fifth", "six": "sixth", "seven": "seventh",
    "eight": "eighth", "gears": "gear", "lockup": "lock",
}  # fmt: skip
_SHORTEST = 4  # letters that a beginning needs to stand for a longer word


@dataclass(frozen=True, slots=True)
class Behind:
    """A code that would explain what is missing: of which module, which of the said words it explains, and which it leaves."""

    module: Module
    code: ModuleCode
    explains: tuple[str, ...]
    leaves: tuple[str, ...]
    says_more: int

    @property
    def takes_away(self) -> str:
        """What the module then switches off, in words."""
        return ", ".join(lowered(self.module.outputs[name].title) for name in self.code.takes_away)


def words_of(text: str) -> tuple[str, ...]:
    """The words of a text that tell something, each once."""
    found = (_FIGURES.get(word, _SPOKEN.get(word, word)) for word in _WORD.findall(text.lower()))
    return tuple(dict.fromkeys(word for word in found if word not in _SAYS_NOTHING))


def _same(one: str, other: str) -> bool:
    short, long = sorted((one, other), key=len)
    return short == long or (len(short) >= _SHORTEST and long.startswith(short))


def codes_behind(roster: Roster, missing: str, most: int = 6) -> tuple[Behind, ...]:
    """The codes whose words share most with what is said to be missing, the best first; none that shares nothing."""
    said = words_of(missing)
    found = []
    for module in roster.modules.values():
        for code in module.codes.values():
            titles = " ".join(module.outputs[name].title for name in code.takes_away)
            own = words_of(f"{code.felt} {code.substitutes} {titles}")
            explains = tuple(word for word in said if any(_same(word, other) for other in own))
            if explains:
                left = tuple(word for word in said if word not in explains)
                more = sum(not any(_same(word, other) for word in said) for other in own)
                found.append(Behind(module, code, explains, left, more))
    best = max((len(one.explains) for one in found), default=0)
    good = [one for one in found if 2 * len(one.explains) > best]  # what explains but a word of several is behind something else
    return tuple(sorted(good, key=lambda one: (-len(one.explains), one.says_more))[:most])
