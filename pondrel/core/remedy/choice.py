"""What was chosen, what the customer said to it, and what is known of the other parts of a set."""

from __future__ import annotations

from ..base.written import Content, EntryError, EntryField, EntryKind, Value
from .options import SETS
from .registry import WAYS

__all__ = ["AGREED", "CHOICE", "MEMBER", "MEMBER_STATES"]

MEMBER_STATES = ("good", "worse", "failed too")


def _chosen(content: Content) -> str:
    return f"{content['says']}" + (f": {content['reason']}" if content.get("reason") else "")


def _known(content: dict[str, Value]) -> dict[str, Value]:
    way = WAYS[str(content["way"])]
    if not way.cures and not content["reason"]:
        raise EntryError("This is no repair: say why it is chosen all the same. The record will show it.")
    return content


CHOICE = EntryKind(
    "choice",
    "Chosen",
    (
        EntryField("way", "The way", choices=tuple(WAYS)),
        EntryField("which", "Which of them", choices=tuple(SETS)),
        EntryField("says", "What was chosen", longest=300),
        EntryField("reason", "The reason", required=False, longest=500),
        EntryField("minutes", "The minutes reckoned", required=False, type=float),
        EntryField("today", "What it costs today", required=False, type=float),
        EntryField("average", "What it comes to", required=False, type=float),
        EntryField("low", "What it comes to at the least", required=False, type=float),
        EntryField("high", "What it comes to at the most", required=False, type=float),
        EntryField("years", "The years counted", required=False, type=float),
        EntryField("currency", "The currency", required=False, longest=6),
    ),
    _chosen,
    _known,
)


def _agreed(content: dict[str, Value]) -> dict[str, Value]:
    if content["agrees"] == "no" and not content["said"]:
        raise EntryError("What the customer said is missing: write why it is not wanted.")
    return content


AGREED = EntryKind(
    "agreed",
    "The customer's word",
    (
        EntryField("agrees", "Whether the customer agrees", choices=("yes", "no")),
        EntryField("who", "Who said so", longest=120),
        EntryField("said", "What was said", required=False, longest=1000),
        EntryField("limits", "The limits that were told", required=False, longest=1000),
    ),
    lambda c: (
        (f"{c['who']} agrees" if c["agrees"] == "yes" else f"{c['who']} does not want it")
        + (f": {c['said']}" if c.get("said") else "")
        + (f". Told of its limits: {c['limits']}" if c.get("limits") else "")
    ),
    _agreed,
)

MEMBER = EntryKind(
    "member",
    "One of the set",
    (
        EntryField("name", "Which one", longest=120),
        EntryField("state", "How it is", choices=MEMBER_STATES),
        EntryField("text", "What was read or seen", required=False, longest=300),
    ),
    lambda c: f"{c['name']}: {c['state']}" + (f", {c['text']}" if c.get("text") else ""),
)
