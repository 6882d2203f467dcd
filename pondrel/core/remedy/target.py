"""What is to be mended: the part that was named, what lies before it, and those of its set that aged together with it."""

from __future__ import annotations

import re
from collections.abc import Iterable, Mapping
from dataclasses import dataclass

from ..base.conditions import Conditions
from ..base.dates import days_between
from ..base.judgement import OWN_RULE, judged
from ..check import Limit, around
from ..circuit.sheet import Access, Part, Sheet
from ..vehicle.ledger import Fitted, Warranty, fitted_in_words, fitted_to, lately, warranty_of
from ..vehicle.mileage import Mileage
from .builds import BUILDS, Build, build_in_words
from .failing import UNKNOWN, Failure, failure_of
from .safety import safety_function

__all__ = ["Found", "Member", "Target", "member_in_words", "members_on", "pair_of", "target_in_words", "target_on"]

DAYS_A_YEAR = 365.25
CLOSING = judged("CLOSING_SHARE", 1.0, "times", "what was opened takes to be closed, of the minutes that it took to open", OWN_RULE)
DRAWN_SHARE = judged("DRAWN_SHARE", 0.1, "share", "of its ohms that a part may be off by where its sheet gives no limit", OWN_RULE)
MOST_MEMBERS = 24


@dataclass(frozen=True, slots=True)
class Member:
    """One of a set: its ``name`` on the circuit (or as it was written down), what it is ``called``, how old it is in years (None where
    nobody knows), what its ``state`` is (``failed``, ``good``, ``worse`` or empty), its line of the parts ledger with what is left of
    its warranty, and minutes of ``access`` of its own that nobody has opened yet and of what must be closed again."""

    name: str
    called: str
    years: float | None
    state: str = ""
    fitted: Fitted | None = None
    warranty: Warranty | None = None
    lately: bool = False
    on_sheet: str = ""

    @property
    def failed(self) -> bool:
        """Whether it is what is to be mended."""
        return self.state == "failed"

    @property
    def spared(self) -> bool:
        """Whether it is left alone though its set is renewed: under warranty, or fitted lately."""
        return not self.failed and (self.lately or bool(self.warranty and self.warranty.stands))


@dataclass(frozen=True, slots=True)
class Found:
    """How a target was found: how likely it is the part, whether that was ``proved``, the minutes that the search took, and whether
    the chance is ``reckoned`` (else taken, because no number stands behind it)."""

    chance: float
    proved: bool
    search_minutes: float = 0.0
    reckoned: bool = True


@dataclass(frozen=True, slots=True)
class Target:
    """What is to be mended: how it is built, how it was ``found``, the ``safety`` function that hangs on it (empty for none), its set, the
    accesses that it lies ``behind`` with those that are ``gained`` already, how it failed, the ``limits`` of its own ohms, and whether
    those are of ``copper`` and change with warmth."""

    name: str
    called: str
    build: Build
    found: Found
    safety: str
    members: tuple[Member, ...]
    behind: tuple[Access, ...] = ()
    gained: frozenset[str] = frozenset()
    failure: Failure = UNKNOWN
    limits: tuple[Limit, ...] = ()
    copper: bool = False

    @property
    def opening(self) -> float:
        """Minutes to lay it open, from a closed vehicle."""
        return sum(access.minutes for access in self.behind)

    @property
    def saved(self) -> float:
        """Minutes of that which are spent already."""
        return sum(access.minutes for access in self.behind if access.name in self.gained)

    @property
    def closing(self) -> float:
        """Minutes to close it all again."""
        return CLOSING * self.opening

    @property
    def failed(self) -> Member:
        """The member that failed."""
        return next(member for member in self.members if member.failed)


def target_on(
    sheet: Sheet, part: Part, found: Found, members: tuple[Member, ...], gained: Iterable[str], about: str, mode: str = ""
) -> Target:
    """A part of a circuit; ``about`` is what else is known of what the circuit does (the complaint), ``mode`` that in which it failed."""
    places = [sheet.places[node] for node in part.pins.values() if node in sheet.places]
    behind = {place.behind: sheet.access[place.behind] for place in places if place.behind}
    safety = safety_function(sheet.title, part.called, part.kind.name.replace("_", " "), about)
    build = BUILDS[part.kind.built]
    failure = failure_of(part, mode)
    limits = tuple(own.limit for own in sheet.limits if own.what == "ohms" and own.of == part.name) or _as_drawn(part)
    return Target(
        part.name, part.called, build, found, safety, members, tuple(behind.values()), frozenset(gained), failure, limits, part.copper
    )  # fmt: skip


def _as_drawn(part: Part) -> tuple[Limit, ...]:
    """The ohms that a part is drawn with, give or take, where its sheet says nothing of what they may be."""
    ohms, give = part.params.get("ohms"), part.params.get("tolerance")
    if not isinstance(ohms, (int, float)):
        return ()
    share = max(float(give) if isinstance(give, (int, float)) else 0.0, DRAWN_SHARE)
    return (around(float(ohms), 100.0 * share, "Ω", "as drawn", conditions=Conditions(celsius=20.0)),)


def target_in_words(called: str, found: Found, members: tuple[Member, ...], about: str, built: str = "") -> Target:
    """A part that stands on no circuit: what it is follows from its name, unless it is known how it is ``built``."""
    build = BUILDS[built] if built else build_in_words(called)
    return Target(called, called, build, found, safety_function(called, about), members)


def member_in_words(
    called: str, state: str = "", ledger: Iterable[Fitted] = (), born: str = "", today: str = "", now: Mileage | None = None
) -> Member:
    """One that stands on no circuit, with what the ledger says of a part that is called so."""
    return _member(called, called, "", fitted_in_words(called, ledger), born, today, now, state)


def members_on(
    sheet: Sheet, part: Part, ledger: Iterable[Fitted], born: str, today: str, now: Mileage | None, states: Mapping[str, str]
) -> tuple[Member, ...]:
    """The set that a part of a circuit belongs to, itself first: those of the same kind with the same numbers, where such things age
    together. ``born`` is the year of the vehicle, empty where nobody knows; ``states`` what was written down of the others."""
    build = BUILDS[part.kind.built]
    twins = [one for one in sheet.parts.values() if one.kind is part.kind and one.params == part.params] if build.ages else [part]
    state = {**states, part.name: "failed"}
    ordered = sorted(twins, key=lambda one: one.name != part.name)[:MOST_MEMBERS]
    fitted = fitted_to({one.name: one for one in ordered}, ledger)
    return tuple(_member(p.name, p.called, p.name, fitted.get(p.name), born, today, now, state.get(p.name, "")) for p in ordered)


def _member(
    name: str, called: str, on_sheet: str, line: Fitted | None, born: str, today: str, now: Mileage | None, state: str
) -> Member:  # fmt: skip
    since = line.on if line else born
    years = max(days_between(since, today) / DAYS_A_YEAR, 0.0) if since else None
    warranty = warranty_of(line, today, now) if line else None
    return Member(name, called, years, state, line, warranty, bool(line and lately(line, today)), on_sheet)


_SIDES = (("left", "right"), ("right", "left"), ("front", "rear"), ("rear", "front"), ("upper", "lower"), ("lower", "upper"))


def pair_of(members: tuple[Member, ...]) -> Member | None:
    """The other one of the failed one's pair: the same words with left for right, or else front for rear; None where there is none."""
    failed = next(member for member in members if member.failed)
    for here, there in _SIDES:
        wanted = re.sub(rf"\b{here}\b", there, failed.called, flags=re.IGNORECASE)
        found = next((m for m in members if m is not failed and m.called.lower() == wanted.lower() and wanted != failed.called), None)
        if found:
            return found
    others = [member for member in members if member is not failed]
    return others[0] if len(others) == 1 else None
