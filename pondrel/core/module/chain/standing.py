"""How the links of a chain stand by what is known: which hold, which does not, which wait, and the one silent partner behind several."""

from __future__ import annotations

import re
from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from enum import Enum

from ...base.brief import capitalized, listed, lowered, quoted
from .function import ChainError, Condition, Function

__all__ = ["Fact", "Link", "LinkState", "Standing", "fact_of", "number_said", "standing_of"]

_YES = ("yes", "true", "1", "holds", "on", "ok", "met")
_NO = ("no", "false", "0", "does not hold", "off", "unmet")
_UNKNOWN = ("", "?", "unknown", "not known", "-")
_NUMBER = re.compile(r"[-+]?\d+(?:[.,]\d+)?")


class LinkState(Enum):
    """How a link stands."""

    HOLDS = "holds"
    UNMET = "does not hold"
    WAITS = "waits"
    HIDDEN = "cannot be known"
    UNKNOWN = "not asked yet"


@dataclass(frozen=True, slots=True)
class Fact:
    """What is known of a condition: whether it ``holds``, and what was said or measured (``says``)."""

    holds: bool
    says: str = ""


@dataclass(frozen=True, slots=True)
class Link:
    """A condition with how it stands, what was said of it, and why it is so where that needs saying."""

    condition: Condition
    state: LinkState
    says: str = ""
    why: str = ""


@dataclass(frozen=True, slots=True)
class Standing:
    """All links of a function, the ``root``: the link that everything waits for (None where none is known to be unmet), and whether all
    hold."""

    function: Function
    links: tuple[Link, ...]
    root: Link | None
    silent: tuple[str, ...] = ()

    @property
    def complete(self) -> bool:
        """Whether every condition is known to hold."""
        return all(link.state is LinkState.HOLDS for link in self.links)

    def having(self, state: LinkState) -> tuple[Link, ...]:
        """The links that stand so."""
        return tuple(link for link in self.links if link.state is state)

    @property
    def counts(self) -> str:
        """``4 hold, 1 does not, 1 waits``."""
        words = (
            (LinkState.HOLDS, "holds", "hold"), (LinkState.UNMET, "does not", "do not"), (LinkState.WAITS, "waits", "wait"),
            (LinkState.HIDDEN, "cannot be known", "cannot be known"), (LinkState.UNKNOWN, "is not asked yet", "are not asked yet"),
        )  # fmt: skip
        found = ((len(self.having(state)), one, many) for state, one, many in words)
        return ", ".join(f"{count} {one if count == 1 else many}" for count, one, many in found if count)

    @property
    def says(self) -> str:
        """What it comes to, in a sentence or two."""
        what = f"{self.function.title[:1].lower()}{self.function.title[1:]}"
        if self.complete:
            return f"All conditions hold: {what} should work. If it does not, look behind the chain: the output itself, and its load."
        if self.root is None:
            return f"Nothing is known to be missing yet: ask the next link of {what}."
        hidden = [link for link in self.links if link.state is LinkState.HIDDEN and link is not self.root]
        root = self.root.condition
        if root.answers and hidden:
            return (
                f"{root.title} is silent, and that explains the whole: {listed([lowered(link.condition.title) for link in hidden])} "
                f"can only be known from it. Look at its supply, ground, wake line and plug before anything else."
            )
        others = [lowered(link.condition.title) for link in self.having(LinkState.UNMET) if link is not self.root]
        more = f" {capitalized(listed(others))} {'do' if len(others) > 1 else 'does'} not hold either." if others else ""
        was = f" ({self.root.says})" if self.root.says else ""
        return f"{root.title} should be {root.wants} and is not{was}: {what} waits for that.{more}"


def fact_of(condition: Condition, text: str) -> Fact | None:
    """What a typed answer or a module's word says of a condition; None where it says that nothing is known. Raises ChainError."""
    typed = " ".join(text.split())
    word = typed.lower()
    if word in _UNKNOWN:
        return None
    if condition.answers:
        if word in ("answers", "answered", *_YES):
            return Fact(True, "answers")
        if word in ("silent", "does not answer", *_NO):
            return Fact(False, "silent")
        raise ChainError(f"{condition.title} answers or is silent; {quoted(typed)} is neither.")
    number = number_said(word)
    if condition.least is not None or condition.most is not None:
        if number is not None:
            above = condition.least is None or number >= condition.least
            return Fact(above and (condition.most is None or number <= condition.most), typed)
    elif condition.says and word == condition.says.lower():
        return Fact(True, typed)
    if word in _YES or word == condition.wants.lower():
        return Fact(True, typed if word not in _YES else "")
    if word in _NO or word == f"not {condition.wants.lower()}":
        return Fact(False, typed if word not in _NO else "")
    if condition.says or condition.datum:
        return Fact(False, typed)  # another word than the one that is wanted
    raise ChainError(f"{condition.title}: say yes where it is {condition.wants}, no where it is not; {quoted(typed)} is neither.")


def number_said(text: str) -> float | None:
    """The number that what was said begins with: 2.1 of ``2,1 V``; None where it begins with none."""
    found = _NUMBER.match(text)
    return float(found[0].replace(",", ".")) if found else None


def standing_of(function: Function, facts: Mapping[str, Fact], silent: Sequence[str] = ()) -> Standing:
    """How the chain stands. ``facts`` by condition; ``silent`` are modules that did not answer: what only they tell cannot be known, unless
    a fact from elsewhere says it."""
    gone = {name.lower() for name in silent}
    gone |= {c.answers.lower() for c in function.conditions.values() if c.answers and c.name in facts and not facts[c.name].holds}
    links: dict[str, Link] = {}
    for name, condition in function.conditions.items():
        links[name] = _link(condition, facts.get(name), gone, links)
    found = tuple(links.values())
    return Standing(function, found, _root(found), tuple(sorted(gone)))


def _link(condition: Condition, fact: Fact | None, gone: set[str], before: Mapping[str, Link]) -> Link:
    if fact is not None:
        return Link(condition, LinkState.HOLDS if fact.holds else LinkState.UNMET, fact.says)
    if condition.answers.lower() in gone and condition.answers:
        return Link(condition, LinkState.UNMET, "silent")
    if condition.module.lower() in gone and condition.module:
        return Link(condition, LinkState.HIDDEN, "", f"{lowered(condition.teller or condition.module)} is silent")
    for name in condition.after:
        if name in before and before[name].state is not LinkState.HOLDS and before[name].state is not LinkState.UNKNOWN:
            return Link(condition, LinkState.WAITS, "", f"waits for: {lowered(before[name].condition.title)}")
    return Link(condition, LinkState.UNKNOWN)


def _root(links: Sequence[Link]) -> Link | None:
    """The unmet link that others hang on: a silent module before a condition, an earlier one before a later."""
    unmet = [link for link in links if link.state is LinkState.UNMET]
    if not unmet:
        return None
    hides = [link for link in unmet if link.condition.answers and any(o.condition.module == link.condition.answers for o in links)]
    return (hides or unmet)[0]
