"""What is known of a way on this job: price, minutes, days, warranty, as somebody wrote it down."""

from __future__ import annotations

from collections.abc import Iterable, Mapping
from dataclasses import dataclass

from ..base.brief import quoted
from ..base.errors import PondrelError
from ..base.written import Content, EntryError, EntryField, EntryKind, Value
from .money import amount_from
from .registry import WAYS

__all__ = ["OFFER", "Offer", "offers_from"]

_MOST_MINUTES, _MOST_DAYS, _MOST_MONTHS = 3000, 365, 240


@dataclass(frozen=True, slots=True)
class Offer:
    """A way's own numbers, None for what nobody wrote: the price of each piece, minutes of work at each, what comes ``once`` (programming,
    fluids, gaskets), days until it is there, months of warranty, and from whom it comes."""

    way: str
    price: float | None = None
    minutes: float | None = None
    once: float | None = None
    days: float | None = None
    months: float | None = None
    source: str = ""


def _whole(what: str, text: str, most: int) -> float | None:
    if not text:
        return None
    if not (text.isascii() and text.isdecimal() and len(text) <= 5 and int(text) <= most):
        raise EntryError(f"{what} must be a whole number up to {most}, got {quoted(text)}.")
    return float(text)


def offer_from(content: Content) -> Offer:
    """What an entry says. Raises PondrelError with one sentence."""
    text = {name: str(content.get(name) or "") for name in ("way", "price", "minutes", "once", "days", "months", "source")}
    return Offer(
        text["way"],
        amount_from("The price", text["price"]),
        _whole("The minutes of work", text["minutes"], _MOST_MINUTES),
        amount_from("What comes once", text["once"]),
        _whole("The days until it is there", text["days"], _MOST_DAYS),
        _whole("The months of warranty", text["months"], _MOST_MONTHS),
        text["source"],
    )


def _checked(content: dict[str, Value]) -> dict[str, Value]:
    offer = offer_from(content)
    if offer == Offer(offer.way):
        raise EntryError("Nothing is filled in: write at least the price, the minutes or the days.")
    return content


def _reads(content: Content) -> str:
    words = [WAYS[str(content["way"])].title]
    units = {"price": "{} each", "once": "{} once", "minutes": "{} min of work", "days": "{} days until it is there",
             "months": "{} months warranty", "source": "from {}"}  # fmt: skip
    return ", ".join([*words, *(said.format(content[name]) for name, said in units.items() if content.get(name))])


OFFER = EntryKind(
    "offer",
    "Price",
    (
        EntryField("way", "The way", choices=tuple(WAYS)),
        EntryField("price", "The price", required=False, longest=20),
        EntryField("minutes", "The minutes of work", required=False, longest=10),
        EntryField("once", "What comes once", required=False, longest=20),
        EntryField("days", "The days until it is there", required=False, longest=10),
        EntryField("months", "The months of warranty", required=False, longest=10),
        EntryField("source", "From whom", required=False, longest=120),
    ),
    _reads,
    _checked,
)


def offers_from(contents: Iterable[Content]) -> Mapping[str, Offer]:
    """By way what was written down last; an entry that cannot be read any more is passed over."""
    found: dict[str, Offer] = {}
    for content in contents:
        try:
            offer = offer_from(content)
        except PondrelError:
            continue
        found[offer.way] = offer
    return found
