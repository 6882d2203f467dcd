"""A module's supply taken away, in a job's record: each try, each time that it hung again, and what all of it comes to."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

from ..base.brief import quoted
from ..base.dates import elapsed_days
from ..base.judgement import OWN_RULE, judged
from ..base.written import Content, EntryError, EntryField, EntryKind, Value
from ..remedy.gates import DONE, TITLES, Gate, Met
from ..remedy.reset.holding import Holding, Span, holding_of
from ..remedy.reset.off_time import OffTime, ResetTry, off_time_of
from .entry import Entry, standing

__all__ = ["HUNG", "RESET", "RESET_KINDS", "Resets", "resets_gate", "resets_of", "seconds_typed"]

TRIES = judged("RESET_TRIES", 3.0, "tries", "of a time that is enough that have to help before it is a way to live with it", OWN_RULE)
LEAST_OFF_S, MOST_OFF_S, MOST_WAKE_S = 1.0, 3600.0, 600.0
HOPELESS = 0.8  # the chance that nothing of the kind helps, from which on that is said


def seconds_typed(what: str, text: str, least: float, most: float) -> float:
    """Seconds as they are typed: ``20``, ``2,5 s``. Raises EntryError naming ``what``."""
    bare = text.strip().removesuffix("s").strip().replace(",", ".")
    try:
        value = float(bare) if len(bare) < 12 else float("nan")
    except ValueError:
        value = float("nan")
    if not least <= value <= most:
        raise EntryError(f"{what} must be seconds from {least:g} to {most:g}, such as 20, got {quoted(text.strip())}.")
    return value


def _tried(content: dict[str, Value]) -> dict[str, Value]:
    off = seconds_typed("The time without supply", str(content["off"]), LEAST_OFF_S, MOST_OFF_S)
    woke = str(content["woke"])
    if woke:
        woke = f"{seconds_typed('The time until it answers', woke, 0.0, MOST_WAKE_S):g}"
    return content | {"off": f"{off:g}", "woke": woke}


def _reads(content: Content) -> str:
    came = "works again" if content["works"] == "yes" else "does not work"
    woke = f", awake after {content['woke']} s" if content.get("woke") else ""
    return f"{content['module']}, {content['off']} s off: {came}{woke}" + (f". {content['text']}" if content.get("text") else "")


RESET = EntryKind(
    "reset",
    "Supply taken away",
    (
        EntryField("module", "The module", longest=60),
        EntryField("off", "The seconds without supply", longest=20),
        EntryField("woke", "The seconds until it answered", required=False, longest=20),
        EntryField("works", "Whether it works again", choices=("yes", "no")),
        EntryField("text", "How, and what was seen", required=False, longest=300),
    ),
    _reads,
    _tried,
)
HUNG = EntryKind(
    "hung",
    "It hung again",
    (EntryField("module", "The module", longest=60), EntryField("text", "What was seen", required=False, longest=300)),
    lambda c: str(c["module"]) + (f": {c['text']}" if c.get("text") else ""),
)
RESET_KINDS = (RESET, HUNG)


@dataclass(frozen=True, slots=True)
class Resets:
    """What resets of one module come to: the tries with their entries, how long it must be off, for how long it helps."""

    module: str
    entries: tuple[Entry, ...]
    off: OffTime
    holding: Holding

    @property
    def known(self) -> bool:
        """Whether a time is known that wakes it, and not by luck."""
        return self.off.enough is not None and self.off.good >= TRIES

    @property
    def says(self) -> str:
        """What the tries come to, in a few sentences; never that two good ones are a cure."""
        if not self.entries:
            return "Nothing was tried yet."
        helped = sum(one.works for one in self.off.tries)
        told = f"It helped in {helped} of {len(self.off.tries)} tries."
        if self.off.never >= HOPELESS:
            told += " Taking its supply away does not wake it: look at its supply, ground, wake line and plug, and at the module itself."
        elif self.off.enough is not None:
            wakes = f", and {self.off.wakes_s:g} s to wake" if self.off.wakes_s is not None else ""
            told += f" {self.off.enough:g} s without supply are enough{wakes}."
        if helped and not self.holding.cured:
            told += " That wakes it and cures nothing: whatever made it hang is still there."
        return told

    @property
    def brief(self) -> str:
        """As a way to live with it, in a few words."""
        told = f"{self.off.enough:g} s off wakes it" if self.off.enough is not None else "no time is known that wakes it"
        often = "" if self.holding.cured else _often_in_words(self.holding.times_a_year)
        return f"{told}, needed {often}" if often else told


def _often_in_words(a_year: float | None) -> str:
    """How often it hangs, as a person says it; empty where nobody knows."""
    if a_year is None:
        return ""
    if a_year > 1.5 * 365.25:
        return f"about {min(a_year / 365.25, 99.0):.0f} times a day"
    if a_year >= 1.5:
        return f"about {a_year:.0f} times a year"
    return "about once a year" if a_year >= 0.75 else "less than once a year"


def resets_of(entries: Sequence[Entry], module: str, now: str, said_s: float = 0.0) -> Resets:
    """What the record says of one module's resets, by its title; all modules where that is empty."""
    own = [e for e in standing(entries, RESET.name, HUNG.name) if not module or e.text("module") == module]
    tried = tuple(e for e in own if e.kind == RESET.name)
    tries = [ResetTry(float(e.text("off")), float(e.text("woke")) if e.text("woke") else None, e.text("works") == "yes") for e in tried]
    return Resets(module, tried, off_time_of(tries, said_s), holding_of(_spans(own, now)))


def _spans(entries: Sequence[Entry], now: str) -> list[Span]:
    """From each reset that helped to the next time that it hung, or to now. Another reset without a word of hanging between tells that it
    was tried again, and not that it hung."""
    found, since = [], ""
    for entry in entries:
        if entry.kind == HUNG.name and since:
            found.append(Span(max(elapsed_days(since, entry.made_at), 0.0), True))
            since = ""
        elif entry.kind == RESET.name and entry.text("works") == "yes" and not since:
            since = entry.made_at
    return [*found, Span(max(elapsed_days(since, now), 0.0), False)] if since else found


def resets_gate(entries: Sequence[Entry], now: str, said: Met | None) -> Gate:
    """What has to be seen to before a switch in a module's supply is a way to live with it: that it wakes it, and not by luck. Met by the
    tries that are written down, or by what somebody ``said`` of tries elsewhere."""
    found = resets_of(entries, "", now)
    met = Met(DONE, found.brief, "", "") if found.known else said
    wanted = f"{TRIES:g} good tries of a time that is enough, written down at its module"
    return Gate("reset_tried", TITLES["reset_tried"], wanted, met, words="seconds off, and how often it woke")
