"""The proof of a repair: the readings that condemned taken again, the function tried as often as the complaint wants it, and what else has
to be seen; and what of that is still missing."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, fields

from ..base.conditions import Conditions, Units
from ..base.judgement import OWN_RULE, judged
from ..base.written import Content, EntryError, EntryField, EntryKind, Value
from ..check import Verdict
from ..check.laws import SAME_C, SAME_SHARE, SAME_SPEED
from ..remedy.again import Cured, Retaken
from ..remedy.checks import CHECK, DONE, FAILED, Check
from ..remedy.registry import WAYS
from ..remedy.tries import ENOUGH, Rate, cured_chance, rate_of, tries_needed
from ..remedy.way import Way
from ..renewal.plan import RESTART
from .codes import codes_of
from .complaint import told_of
from .entry import Entry, standing
from .refit import function_list
from .remedy import remedy_of
from .renewing import RENEWAL_STEP, taught_by

__all__ = ["PROOF", "PROOF_KINDS", "RETAKEN", "TRIED", "Pair", "Proving", "Seen", "Tries", "differing", "proving_of", "supply_differs"]

MOST_TRIES = 1000
SUPPLY_ALIKE = judged("SUPPLY_ALIKE", 0.05, "share", "by which the supply may differ between a reading and the same taken again", OWN_RULE)
STILL_THERE = 0.5  # chance of a cure below which readings taken again speak for the old fault

RETAKEN = EntryKind(
    "retaken",
    "Read again",
    (
        EntryField("of", "Which reading", longest=20),
        EntryField("value", "The number", longest=120),
        EntryField("title", "What was read", required=False, longest=500),
    ),
    lambda c: " ".join(filter(None, (str(c.get("title") or ""), str(c["value"])))),
)


def _count(text: str, what: str) -> int:
    if not (text.isascii() and text.isdecimal() and len(text) < 6 and int(text) <= MOST_TRIES):
        raise EntryError(f"{what} must be a whole number from 0 to {MOST_TRIES}, got '{text[:20]}'.")
    return int(text)


def _tried(content: dict[str, Value]) -> dict[str, Value]:
    good, bad = _count(str(content["good"] or "0"), "The good tries"), _count(str(content["bad"] or "0"), "The bad tries")
    if not good + bad:
        raise EntryError("Nothing was tried yet: write how often it worked, and how often it did not.")
    if bad and not content["text"]:
        raise EntryError("It failed again: write what it did, so that the search can go on from there.")
    return content | {"good": str(good), "bad": str(bad)}


TRIED = EntryKind(
    "tries",
    "Function tried",
    (
        EntryField("good", "The good tries", required=False, longest=10),
        EntryField("bad", "The bad tries", required=False, longest=10),
        EntryField("text", "How it was tried", required=False, longest=500),
    ),
    lambda c: f"{c['good']} good, {c['bad']} bad" + (f", {c['text']}" if c.get("text") else ""),
    _tried,
)


def _works(content: Content) -> str:
    found = {"yes": "works as it should", "no": "does not work yet"}[str(content.get("works"))]
    found = f"{found}: {content.get('text')}" if content.get("text") else found
    return f"{found}. With things still missing: {content['reason']}" if content.get("reason") else found


PROOF = EntryKind(
    "proof",
    "Proof",
    (
        EntryField("works", "Whether it works", choices=("yes", "no")),
        EntryField("text", "What was tried or read again", required=False),
        EntryField("reason", "The reason", required=False, longest=500),
    ),
    _works,
)
PROOF_KINDS = (RETAKEN, TRIED, CHECK, PROOF)


@dataclass(frozen=True, slots=True)
class Pair:
    """A reading that the conclusion stands on, before and after: ``entry`` is its line, ``again`` the line of the same taken again (None
    where it was not), ``before`` and ``after`` what they come to, ``differs`` what was not the same on both days."""

    entry: Entry
    again: Entry | None
    title: str
    before: Retaken | None
    after: Retaken | None
    differs: str = ""


NO_REPAIR = Rate(1.0, 1.0, "it is no repair")


@dataclass(frozen=True, slots=True)
class Tries:
    """The function tried: ``good`` and ``bad``, how many good ones are ``needed``, the chance of a cure by them, and what that rests on."""

    good: int
    bad: int
    needed: int
    chance: float
    rate: Rate

    @property
    def enough(self) -> bool:
        """Whether it was tried often enough, and worked every time."""
        return not self.bad and self.chance >= ENOUGH - 1e-12

    @property
    def left(self) -> int:
        """Good tries that are still wanted."""
        return max(self.needed - self.good, 0)


@dataclass(frozen=True, slots=True)
class Seen:
    """What one of the checks came to, in somebody's words or by the record itself."""

    result: str
    text: str
    person: str = ""


@dataclass(frozen=True, slots=True)
class Proving:
    """How the proof stands: pairs of readings, the tries, the checks with what came of them, and the chance by the readings that what was
    found is gone (None where none were taken again). Where it is lived with, nothing ``cures``: it is only shown that the way round works,
    and the readings and checks of a repair are none of its."""

    pairs: tuple[Pair, ...]
    tries: Tries
    checks: tuple[tuple[Check, Seen | None], ...]
    cured: float | None
    proof: Entry | None
    repaired: Entry | None
    cures: bool = True

    @property
    def works(self) -> bool:
        """Whether the proof is written down, and it works."""
        return self.proof is not None and self.proof.text("works") == "yes"

    @property
    def sure(self) -> float:
        """How likely it is that the right part was mended, by a proof that is written down; 0 without one."""
        return max(ENOUGH, self.tries.chance) if self.works and self.cures else 0.0

    @property
    def failed(self) -> tuple[str, ...]:
        """What speaks against a cure."""
        found = [f"{pair.title} is outside limits" for pair in self.pairs if pair.after and pair.after.verdict is Verdict.OUTSIDE]
        if self.cured is not None and self.cured < STILL_THERE:
            found.append("the readings fit the old fault better than a sound circuit")
        if self.tries.bad:
            how = "it failed again" if self.cures else "the way round did not work"
            found.append(f"{how} in {self.tries.bad} of {self.tries.bad + self.tries.good} tries")
        found += [f"{check.title.lower()}: no" for check, seen in self.checks if seen is not None and seen.result == FAILED]
        return tuple(found)

    @property
    def missing(self) -> tuple[str, ...]:
        """What the proof lacks."""
        again = sum(pair.after is None for pair in self.pairs)
        unlike = [pair for pair in self.pairs if pair.after is not None and pair.differs]
        unclear = [p for p in self.pairs if p.after and p.after.verdict in (Verdict.TOO_CLOSE, Verdict.NOT_COMPARABLE)]
        found = [f"{again} of {len(self.pairs)} readings again"] if again else []
        found += [f"the same conditions at {pair.title}: {pair.differs}" for pair in unlike]
        found += [f"a clear number at {pair.title}" for pair in unclear]
        found += [_tries_wanted(self.tries)] if not self.tries.enough else []
        found += [check.title[0].lower() + check.title[1:] for check, seen in self.checks if seen is None]
        return tuple(found)

    @property
    def held(self) -> tuple[str, ...]:
        """What has to be seen to before it is driven."""
        return tuple(check.title for check, seen in self.checks if check.before_drive and (seen is None or seen.result != DONE))

    @property
    def holds(self) -> bool:
        """Whether all of it is there, and nothing speaks against it."""
        return not self.missing and not self.failed

    @property
    def says(self) -> str:
        """The proof in a sentence."""
        told = []
        if self.pairs:
            same = sum(pair.after is not None and pair.after.verdict is Verdict.WITHIN for pair in self.pairs)
            told.append(f"{same} of {len(self.pairs)} readings as they should be")
        if not self.cures:
            told.append("no repair: it is lived with")
        if self.tries.good:
            told.append(f"tried {self.tries.good} times, good every time" if self.tries.good > 1 else "tried once, good")
        done = sum(seen is not None and seen.result == DONE for _, seen in self.checks)
        told += [f"{done} of {len(self.checks)} checks"] if self.checks else []
        return ", ".join(told)


def _tries_wanted(tries: Tries) -> str:
    more = " more" if tries.good else ""
    count = f"{tries.left}{more} good {'try' if tries.left == 1 else 'tries'}"
    return f"{count} in a row ({tries.rate.says})" if tries.left else "good tries in a row"


def proving_of(entries: Sequence[Entry], pairs: Sequence[Pair], checks: Sequence[Check], after: Cured | None = None) -> Proving:
    """How the proof of the last repair stands."""
    repaired = next(reversed(standing(entries, "remedy")), None)
    since = repaired.id if repaired else 0
    late = [entry for entry in standing(entries) if entry.id > since]
    told = told_of(entries)
    rate = rate_of(told.often if told else "", told.tries if told else None)
    tried = [entry for entry in late if entry.kind == TRIED.name]
    bad_at = max((i for i, entry in enumerate(tried) if int(entry.text("bad"))), default=-1)
    good, bad = sum(int(e.text("good")) for e in tried[bad_at + 1 :]), sum(int(e.text("bad")) for e in tried)
    done = {e.text("check"): Seen(e.text("result"), e.text("text"), e.person) for e in late if e.kind == CHECK.name}
    proof = next((e for e in reversed(late) if e.kind == PROOF.name), None)
    lived_with = _lived_with(entries)
    if lived_with is not None:
        needed = 1 if lived_with.tried else 0
        return Proving((), Tries(good, bad, needed, float(good >= needed), NO_REPAIR), (), None, proof, repaired, cures=False)
    return Proving(
        tuple(pairs),
        Tries(good, bad, tries_needed(rate), cured_chance(rate, good), rate),
        tuple((check, _seen(check.name, entries, since, done.get(check.name))) for check in checks),
        after.chance if after and after.readings else None,
        proof,
        repaired,
    )


def _lived_with(entries: Sequence[Entry]) -> Way | None:
    """The way that was chosen where it is no repair."""
    choice = remedy_of(entries).choice
    way = WAYS.get(choice.text("way")) if choice else None
    return way if way is not None and not way.cures else None


def _seen(check: str, entries: Sequence[Entry], since: int, told: Seen | None) -> Seen | None:
    """What came of a check since the repair: in somebody's words, unless the record itself speaks against it."""
    found = _by_record(check, entries, since)
    return found if found is not None and (told is None or found.result == FAILED) else told


def _by_record(check: str, entries: Sequence[Entry], since: int) -> Seen | None:
    """What the record's own codes and functions say to a check that asks for them; None where they say nothing. Codes that were cleared
    before the repair, while it was looked for, do not count."""
    if check == "functions":
        return _functions(entries)
    if check == "taught":
        taught = taught_by(entries, since)
        return Seen(DONE, f"step by step, {taught.text('module')}", taught.person) if taught else None
    if check == "restart":
        again = next((e for e in standing(entries, RENEWAL_STEP.name) if e.id > since and e.text("step") == RESTART), None)
        return Seen(again.text("result"), again.text("text"), again.person) if again else None
    scans, cleared = standing(entries, "scan"), [entry for entry in standing(entries, "cleared") if entry.id > since]
    last = cleared[-1].id if cleared else 0
    after = [scan for scan in scans if scan.id > last]
    if check == "saved" and scans and (not cleared or scans[0].id < cleared[0].id):
        return Seen(DONE, "read out and kept here")
    if check == "cleared" and last:
        return Seen(DONE, cleared[-1].text("text"), cleared[-1].person)
    if check == "away" and last and after:
        left = [found.code.name for found in codes_of(entries).codes if found.is_back]
        return Seen(FAILED, ", ".join(left)) if left else Seen(DONE, "read out after it", after[-1].person)
    return None


def _functions(entries: Sequence[Entry]) -> Seen | None:
    tried = {name: after for name, (_, after) in function_list(entries).items()}
    failing = [name for name, after in tried.items() if after is not None and after.text("works") == "no"]
    if failing:
        return Seen(FAILED, ", ".join(failing))
    whole = [after for after in tried.values() if after is not None]
    return Seen(DONE, f"{len(whole)} of {len(tried)} work", whole[-1].person) if whole and len(whole) == len(tried) else None


_SAME: Mapping[str, tuple[str, float, float]] = {  # what it is called, how near is the same: a difference, a share
    "celsius": ("temperature", SAME_C, 0.0),
    "volts": ("supply", 0.0, SAME_SHARE),
    "rpm": ("engine speed", 0.0, SAME_SPEED),
    "kilopascals": ("pressure", 0.0, SAME_SHARE),
    "millimetres": ("width", 0.0, SAME_SHARE),
    "minutes": ("minutes", 1.0, 0.1),
}


def differing(before: Conditions, after: Conditions, units: Units | None = None) -> str:
    """What was noted beside a reading and is not the same beside the one taken again; empty where all is.

    >>> differing(Conditions(celsius=70.0), Conditions())
    'temperature not noted (it was 70°C)'
    """
    found = []
    for field in fields(Conditions):
        if field.name not in _SAME or not before.says(field.name):
            continue
        called, apart, share = _SAME[field.name]
        was, now = getattr(before, field.name), getattr(after, field.name)
        shown = _shown(field.name, was, units)
        if now is None:
            found.append(f"{called} not noted (it was {shown})")
        elif abs(now - was) > apart + share * abs(was):
            found.append(f"{called} {_shown(field.name, now, units)}, before {shown}")
    return "; ".join(found)


def supply_differs(before: float, after: float) -> str:
    """What is to be said where the supply was another one when a reading was taken again; empty where it was much the same.

    >>> supply_differs(12.5, 11.4)
    'supply 11.40 V, before 12.50 V'
    """
    if not before or abs(after - before) <= SUPPLY_ALIKE * abs(before):
        return ""
    return f"supply {after:.2f} V, before {before:.2f} V"


def _shown(name: str, value: float, units: Units | None) -> str:
    return Conditions(**{name: value}).shown(units).removeprefix("@")  # type: ignore[arg-type]
