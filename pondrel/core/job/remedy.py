"""What a job's record says of the remedy: prices, what is known of the set, what was seen to, what was chosen, and the customer's word."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass

from ..base.written import EntryError, EntryField, EntryKind
from ..remedy.choice import AGREED, CHOICE, MEMBER
from ..remedy.gates import DONE, GATE, Gate, Met, gates_for, open_gates
from ..remedy.offer import OFFER, Offer, offers_from
from ..remedy.options import Option
from ..remedy.target import Target
from .entry import Entry, standing

__all__ = ["REMEDY", "REMEDY_KINDS", "Remedy", "held_back", "remedy_of"]


REMEDY = EntryKind(
    "remedy",
    "Repaired",
    (
        EntryField("text", "What was done to mend it"),
        EntryField("part", "The part", required=False),
        EntryField("minutes", "The minutes it took", required=False, longest=10),
        EntryField("paid", "What it cost", required=False, longest=20),
        EntryField("reason", "The reason", required=False, longest=500),
    ),
    lambda c: str(c["text"]) + (f". Begun with things left open: {c['reason']}" if c.get("reason") else ""),
)
REMEDY_KINDS = (OFFER, MEMBER, CHOICE, AGREED, GATE, REMEDY)


@dataclass(frozen=True, slots=True)
class Remedy:
    """What the record says since the last conclusion: prices by way, what is known of others of the set by name, what was ``met`` by gate,
    the ``choice`` that stands and the ``customer``'s last word to it (None for none), and everything that the customer ``said``."""

    offers: Mapping[str, Offer]
    states: Mapping[str, str]
    others: tuple[str, ...]
    met: Mapping[str, Met]
    choice: Entry | None
    customer: Entry | None
    said: tuple[Entry, ...]
    unproved: str

    @property
    def agreed(self) -> Met | None:
        """The customer's yes to what is chosen."""
        word = self.customer
        if word is None or word.text("agrees") != "yes":
            return None
        return Met(DONE, word.text("said"), word.text("who"), word.made_at, word.id)

    @property
    def declined(self) -> bool:
        """Whether the customer does not want what is chosen."""
        return self.customer is not None and self.customer.text("agrees") == "no"

    def chosen(self, options: Sequence[Option]) -> Option | None:
        """The option that is chosen, as it is reckoned now."""
        if self.choice is None:
            return None
        key = f"{self.choice.text('way')}:{self.choice.text('which')}"
        return next((option for option in options if option.key == key), None)

    def gates(self, target: Target, option: Option, unsafe: Sequence[str]) -> tuple[Gate, ...]:
        """What has to be seen to before the option is carried out."""
        return gates_for(target, option, self.met, unsafe, self.agreed, self.unproved)


def remedy_of(entries: Sequence[Entry]) -> Remedy:
    """What stands in the record. Prices and what is known of a set last; what was seen to, chosen and said counts since the conclusion."""
    concluded = next((e for e in reversed(standing(entries, "conclusion")) if e.content.get("faulty")), None)
    since = concluded.id if concluded else 0
    late = [entry for entry in standing(entries) if entry.id > since]
    choice = next((e for e in reversed(late) if e.kind == CHOICE.name), None)
    words = [e for e in late if e.kind == AGREED.name]
    met = {e.text("gate"): Met(e.text("result"), e.text("text"), e.person, e.made_at, e.id) for e in late if e.kind == GATE.name}
    members = standing(entries, MEMBER.name)
    return Remedy(
        offers_from(entry.content for entry in standing(entries, OFFER.name)),
        {entry.text("name"): entry.text("state") for entry in members},
        tuple(dict.fromkeys(entry.text("name") for entry in members)),
        met,
        choice,
        next((e for e in reversed(words) if choice is not None and e.id > choice.id), None),
        tuple(words),
        concluded.text("reason") if concluded else "",
    )


def held_back(gates: Sequence[Gate], reason: str) -> None:
    """Raise EntryError naming what is still open, unless there is a reason to go on all the same."""
    missing = open_gates(gates)
    if missing and not reason:
        names = ", ".join(gate.title.rstrip("?") for gate in missing[:4]) + (" and more" if len(missing) > 4 else "")
        raise EntryError(f"Still open before it is fitted: {names}. See to it, or give the reason for going on all the same.")
