"""Unplugging one thing after the other while a signal is watched: which to open next, and what nothing changed at is cleared.

What can be opened is written a line each: its name, the minutes it takes, and behind a colon what goes off with it. The disturbance goes
away when what is opened holds the fault, and stays when it does not; it may also be in nothing that can be opened. Next is what tells
most by the minute: junctions in the middle first where they cost alike, a plug at hand before one behind a panel.
"""

from __future__ import annotations

import math
import re
from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass

from ..base.brief import quoted
from ..base.errors import ReadingError
from ..base.judgement import OWN_RULE, judged
from .moved import Change

__all__ = ["LONGEST_PLAN", "Opened", "Plan", "Standing", "opened_in", "plan_from", "standing", "written"]

MOST_THINGS, LONGEST_PLAN, LONGEST_NAME = 60, 4000, 60
USUAL_MINUTES = 3.0
ELSEWHERE = judged("ONE_BY_ONE_ELSEWHERE", 0.2, "share", "of disturbed lines whose fault is in nothing that can be opened", OWN_RULE)
WRONG = judged("ONE_BY_ONE_WRONG", 0.03, "share", "of openings at which what was seen was not what the opening did", OWN_RULE)
NAMED = 0.9
LIKELY = 0.5
CLEARED = 0.02
_MINUTES = re.compile(r"\s+(\d+(?:[.,]\d+)?)\s*min(?:utes)?\s*$")


@dataclass(frozen=True, slots=True)
class Thing:
    """Something that can be opened: its name, the minutes it takes, and the names of all that goes off with it, itself included."""

    name: str
    minutes: float
    off: frozenset[str]


@dataclass(frozen=True, slots=True)
class Plan:
    """All that can be opened, by name."""

    things: Mapping[str, Thing]

    def named(self, text: str) -> Thing | None:
        """The thing that a mark's words begin with; the longest name that fits, None for none."""
        low = text.lower()
        fitting = [thing for name, thing in self.things.items() if low == name.lower() or low.startswith(f"{name.lower()} ")]
        return max(fitting, key=lambda thing: len(thing.name), default=None)


@dataclass(frozen=True, slots=True)
class Opened:
    """Something that was opened, and whether the disturbance went away."""

    name: str
    changed: bool


@dataclass(frozen=True, slots=True)
class Standing:
    """How it stands: the share of each thing that holds the fault (``elsewhere`` for none of them), what is cleared, what to open next
    with its minutes (None where nothing tells any more), and a sentence."""

    shares: Mapping[str, float]
    elsewhere: float
    cleared: tuple[str, ...]
    next: Thing | None
    says: str


def plan_from(text: str) -> Plan:
    """What can be opened, from a line each: ``Junction at the sill 4 min: seat module, door module``. What stands behind a colon and has
    no line of its own is opened by its own plug. Raises ReadingError naming the line."""
    if len(text) > LONGEST_PLAN:
        raise ReadingError(f"This list has {len(text):,} characters, and {LONGEST_PLAN:,} are the most: leave out what is hard to reach.")
    minutes: dict[str, float] = {}
    behind: dict[str, list[str]] = {}
    for number, line in enumerate((line.strip() for line in text.splitlines()), 1):
        if not line:
            continue
        head, colon, rest = line.partition(":")
        match = _MINUTES.search(head)
        name = " ".join((head[: match.start()] if match else head).split())
        if not name or len(name) > LONGEST_NAME:
            raise ReadingError(f"Line {number} names nothing that can be opened: {quoted(line[:60])}.")
        if name in behind:
            raise ReadingError(f"Line {number} names {quoted(name)} a second time.")
        minutes[name] = float(match[1].replace(",", ".")) if match else USUAL_MINUTES
        behind[name] = [" ".join(part.split()) for part in rest.split(",") if part.strip()] if colon else []
    for own in list(behind.values()):
        for name in own:
            if name not in behind:
                behind[name], minutes[name] = [], USUAL_MINUTES
    if len(behind) > MOST_THINGS:
        raise ReadingError(f"There are {len(behind)} things in this list, and {MOST_THINGS} are the most.")
    if not behind:
        raise ReadingError("Nothing is listed: write what can be unplugged, one a line, such as 'Seat module 2 min'.")
    return Plan({name: Thing(name, max(minutes[name], 0.1), frozenset(_off(name, behind, ()))) for name in behind})


def written(things: Iterable[tuple[str, float | None, Sequence[str]]]) -> str:
    """A list that `plan_from` reads, from names with their minutes (None for the usual ones) and what goes off with each."""
    lines: dict[str, str] = {}
    for name, minutes, off in things:
        plain = _plain(name)
        if plain and plain not in lines and len(lines) < MOST_THINGS:
            head = f"{plain} {minutes:g} min" if minutes is not None else plain
            lines[plain] = f"{head}: {', '.join(map(_plain, off))}" if off else head
    return "\n".join(lines.values())


def _plain(name: str) -> str:
    return " ".join(name.replace(":", " ").replace(",", " ").split())[:LONGEST_NAME].strip()


def _off(name: str, behind: Mapping[str, Sequence[str]], above: tuple[str, ...]) -> set[str]:
    if name in above:
        raise ReadingError(f"{quoted(name)} stands behind itself: one of both lines is wrong.")
    found = {name}
    for other in behind[name]:
        found |= _off(other, behind, (*above, name))
    return found


def opened_in(plan: Plan, changes: Sequence[Change]) -> list[Opened]:
    """What was opened by the marks that name it, and what came of each; marks of which nobody can tell do not count."""
    found = []
    for change in changes:
        thing = plan.named(change.mark.says)
        if thing is not None and not change.unclear:
            found.append(Opened(thing.name, change.changed))
    return found


def standing(plan: Plan, opened: Sequence[Opened]) -> Standing:
    """How it stands after what was opened."""
    share = (1.0 - ELSEWHERE) / len(plan.things)
    weights = dict.fromkeys(plan.things, share)
    elsewhere = ELSEWHERE
    done = set()
    for one in opened:
        thing = plan.things.get(one.name)
        if thing is None:
            continue
        done.add(one.name)
        for name in weights:
            inside = name in thing.off
            weights[name] *= (1.0 - WRONG) if inside == one.changed else WRONG
        elsewhere *= WRONG if one.changed else (1.0 - WRONG)
    total = sum(weights.values()) + elsewhere
    shares = {name: weight / total for name, weight in weights.items()}
    elsewhere /= total
    cleared = tuple(name for name, own in shares.items() if own < CLEARED * share / (1.0 - ELSEWHERE) * len(plan.things) and done)
    following = _next(plan, shares, elsewhere, done)
    return Standing(shares, elsewhere, cleared, following, _says(shares, elsewhere, following, bool(done)))


def _next(plan: Plan, shares: Mapping[str, float], elsewhere: float, done: set[str]) -> Thing | None:
    if max((*shares.values(), elsewhere)) > NAMED:
        return None
    best: tuple[float, Thing] | None = None
    for thing in plan.things.values():
        if thing.name in done:
            continue
        inside = sum(shares[name] for name in thing.off)
        told = _bits(inside * (1.0 - WRONG) + (1.0 - inside) * WRONG) - _bits(WRONG)
        worth = told / thing.minutes
        if told > 0.01 and (best is None or worth > best[0] * (1.0 + 1e-9)):
            best = (worth, thing)
    return best[1] if best is not None else None


def _bits(chance: float) -> float:
    return -sum(p * math.log2(p) for p in (chance, 1.0 - chance) if p > 0.0)


def _says(shares: Mapping[str, float], elsewhere: float, following: Thing | None, begun: bool) -> str:
    name = max(shares, key=lambda key: shares[key])
    if shares[name] > NAMED:
        return f"It is {name}, or the stub to it: with it off the disturbance is gone."
    if elsewhere > NAMED:
        return "It is in none of these: look at the wires between them, where things move."
    if following is None and shares[name] > LIKELY:
        return f"Most likely it is {name}, or the wire to it: all behind it is cleared."
    if following is None:
        return "Nothing that is left tells more: look at the wires between what is not cleared."
    begins = "Open next" if begun else "Open first"
    return f"{begins}: {following.name}, {following.minutes:g} min."
