"""A load in place of a part, in a job's record: whether the code stays away with it and returns without it, and what that proves."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

from ..base.brief import lowered
from ..base.written import Content, EntryField, EntryKind
from .entry import Entry, standing

__all__ = ["PART_OPEN", "SUBSTITUTED", "Substitution", "substitution_of"]

PART_OPEN, CIRCUIT, COMES_AND_GOES, OPEN_STILL = "the part", "wiring or driver", "comes and goes", ""


def _reads(content: Content) -> str:
    how = f"{content['load']} in place of {content['part']}" if content.get("load") else f"{content['part']} back in its place"
    return f"{how}: {content['code']} {'is there' if content['there'] == 'yes' else 'stays away'}"


SUBSTITUTED = EntryKind(
    "substituted",
    "Substitute load",
    (
        EntryField("module", "The module", longest=60),
        EntryField("code", "The code", longest=20),
        EntryField("part", "The part", longest=120),
        EntryField("load", "The load in its place", required=False, longest=60),
        EntryField("there", "Whether the code is there", choices=("yes", "no")),
    ),
    _reads,
)


@dataclass(frozen=True, slots=True)
class Substitution:
    """How it stands: the last word with the load and with the part itself (None: not tried), what that proves (empty while it proves
    nothing), and what it ``says``."""

    with_load: bool | None
    with_part: bool | None
    proves: str
    says: str

    def line_for(self, part: str) -> str:
        """What it proves as a line of evidence on a circuit that has the part by that name; empty while it proves nothing there."""
        word = {PART_OPEN: "gone", CIRCUIT: "no change"}.get(self.proves, "")
        return f"swap {part} {word}" if word else ""


def substitution_of(entries: Sequence[Entry], module: str, code: str, part: str) -> Substitution:
    """What the tries of one code come to. ``module`` is its title, ``part`` what the part is called."""
    own = [e for e in standing(entries, SUBSTITUTED.name) if (e.text("module"), e.text("code")) == (module, code)]
    last = {
        loaded: next((e.text("there") == "yes" for e in reversed(own) if bool(e.text("load")) is loaded), None) for loaded in (True, False)
    }
    return Substitution(last[True], last[False], *_proved(last[True], last[False], lowered(part), code))


def _proved(with_load: bool | None, with_part: bool | None, part: str, code: str) -> tuple[str, str]:
    if with_load is None and with_part is None:
        return OPEN_STILL, f"Codes cleared, the load in place of {part}: does {code} stay away?"
    if with_load:
        return CIRCUIT, f"{code} is there with a load that the module takes for a sound part: {part} is not it. Wiring, plug or driver."
    if with_load is None:
        return OPEN_STILL, f"{code} is there with {part}. Now the load in its place."
    if with_part is None:
        return OPEN_STILL, f"{code} stays away with the load. Now {part} back on, codes cleared once more: does it return?"
    if with_part:
        return (
            PART_OPEN,
            f"{code} stays away with the load and returns with {part}: wiring and driver are good, {part} or its own pins are open.",
        )
    return (
        COMES_AND_GOES,
        f"{code} stays away with both: a contact that was moved, at the plug of {part}. It comes and goes: look at its pins.",
    )
