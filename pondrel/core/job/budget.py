"""Minutes that the customer has authorised: what is spent of them, what the rest is likely to be good for, and when to ring."""

from __future__ import annotations

from collections.abc import Iterable, Sequence
from dataclasses import dataclass

from ..base.brief import quoted
from ..base.judgement import OWN_RULE, judged
from ..base.written import EntryError, EntryField, EntryKind, Value
from .entry import Entry, standing

__all__ = ["AUTHORISED", "Budget", "authorised_minutes", "budget_of"]

MOST_MINUTES = 6000
LIKELY_ENOUGH = judged("LIKELY_ENOUGH", 0.8, "share", "from this chance on the authorised minutes are taken to be enough", OWN_RULE)


def _checked(content: dict[str, Value]) -> dict[str, Value]:
    text = str(content["minutes"]).lower().removesuffix("minutes").removesuffix("min").strip()
    if not (text.isascii() and text.isdecimal() and 0 < len(text) <= 5 and 0 < int(text) <= MOST_MINUTES):
        raise EntryError(f"The minutes authorised must be a whole number from 1 to {MOST_MINUTES}, got {quoted(content['minutes'])}.")
    return content | {"minutes": str(int(text))}


AUTHORISED = EntryKind(
    "authorised",
    "Authorised",
    (EntryField("minutes", "The minutes authorised", longest=20), EntryField("who", "Who authorised them", required=False, longest=120)),
    lambda content: f"{content['minutes']} minutes for finding it" + (f", by {content['who']}" if content.get("who") else ""),
    _checked,
)


def authorised_minutes(entries: Iterable[Entry]) -> float | None:
    """The minutes that stand authorised, by the last entry that says so."""
    last = next(reversed(standing(entries, AUTHORISED.name)), None)
    return float(last.text("minutes")) if last else None


@dataclass(frozen=True, slots=True)
class Budget:
    """How a visit stands: minutes ``authorised`` (None where nobody has), reckoned to be ``spent``, and ``left``; the ``chance`` that the
    fault is found within those, and ``says`` when to ring."""

    authorised: float | None
    spent: float
    left: float
    chance: float
    says: str


def budget_of(authorised: float | None, spent: float, steps: Sequence[float], chance: float) -> Budget:
    """How it stands: ``steps`` are the minutes of the next ones in order, ``chance`` that what is left is enough."""
    if authorised is None:
        says = "Nobody has said how many minutes may be spent on finding it: ask before the first cover comes off."
        return Budget(None, spent, 0.0, 0.0, says)
    left = authorised - spent
    if left <= 0.0:
        return Budget(authorised, spent, 0.0, 0.0, "The authorised minutes are used up: ring the customer now.")
    gone, last = 0.0, 0
    for number, minutes in enumerate(steps, 1):
        if gone + minutes > left:
            break
        gone, last = gone + minutes, number
    if chance >= LIKELY_ENOUGH:
        says = "They are likely to be enough."
    elif last == len(steps):
        says = "They may not be enough: ring the customer when the last of these steps has not shown it."
    elif last == 0:
        says = "They are not enough for the next step: ring the customer before it."
    else:
        says = f"They may not be enough: ring the customer after step {last}, before step {last + 1}."
    return Budget(authorised, spent, left, chance, says)
