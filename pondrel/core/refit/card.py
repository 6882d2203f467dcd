"""The fastener card: every screw and bolt by its place on a drawn cover, with length and size, and the order of tightening."""

from __future__ import annotations

import json
import math
from collections.abc import Sequence
from dataclasses import dataclass

from ..base.brief import first_unshowable, quoted
from ..base.torque import Torque, torque_from
from ..base.written import Content, EntryError, EntryField, EntryKind, Value

__all__ = ["CARD", "Card", "Fastener", "card_from", "crisscross"]

MOST_FASTENERS = 40
LONGEST_WORDS = 40
LONG = 1.8  # a cover so many times as long as wide is tightened from its middle outwards


@dataclass(frozen=True, slots=True)
class Fastener:
    """A fastener at its place (shares of the card's width and height), its ``size`` in words (``M6×25``), and a ``note`` such as seized."""

    x: float
    y: float
    size: str = ""
    note: str = ""


@dataclass(frozen=True, slots=True)
class Card:
    """A cover with its fasteners: what it is, the photo beneath it (its digest, empty for none), and the torque, None for not known."""

    title: str
    photo: str
    fasteners: tuple[Fastener, ...]
    torque: Torque | None

    @property
    def order(self) -> tuple[int, ...]:
        """The order in which they are tightened, as numbers from 1."""
        return tuple(i + 1 for i in crisscross([(f.x, f.y) for f in self.fasteners]))

    @property
    def sizes(self) -> tuple[tuple[str, tuple[int, ...]], ...]:
        """The numbers of the fasteners by their size, the commonest first: what goes where."""
        found: dict[str, list[int]] = {}
        for number, fastener in enumerate(self.fasteners, 1):
            found.setdefault(fastener.size or "size not noted", []).append(number)
        return tuple((size, tuple(numbers)) for size, numbers in sorted(found.items(), key=lambda pair: (-len(pair[1]), pair[0])))

    @property
    def bad(self) -> tuple[tuple[int, str], ...]:
        """Those that were seized, stripped or broken, with what was noted: the next workshop wants to know."""
        return tuple((number, fastener.note) for number, fastener in enumerate(self.fasteners, 1) if fastener.note)


def crisscross(places: Sequence[tuple[float, float]]) -> list[int]:
    """The order in which fasteners at ``places`` (N, 2) are tightened, as indices: each next one as far across the middle from the last as
    there is; of a long cover from the middle outwards, side by side about the middle. Common practice; a maker's own order goes before it.

    >>> crisscross([(0.0, 0.0), (1.0, 0.0), (1.0, 1.0), (0.0, 1.0)])
    [0, 2, 1, 3]
    """
    if len(places) < 3:
        return list(range(len(places)))
    cx, cy = (sum(place[axis] for place in places) / len(places) for axis in (0, 1))
    wide, high = (max(p[axis] for p in places) - min(p[axis] for p in places) for axis in (0, 1))
    long = max(wide, high) > LONG * max(min(wide, high), 1e-9) and len(places) > 4
    rest = list(range(len(places)))
    if long:
        return sorted(rest, key=lambda i: (round(math.hypot(places[i][0] - cx, places[i][1] - cy), 3), i))
    order = [rest.pop(0)]
    while rest:
        x, y = places[order[-1]]
        opposite = math.atan2(cy - y, cx - x)

        def off(i: int, opposite: float = opposite) -> tuple[float, int]:
            turn = math.atan2(places[i][1] - cy, places[i][0] - cx) - opposite
            return round(abs(math.remainder(turn, 2.0 * math.pi)), 6), i

        order.append(min(rest, key=off))
        rest.remove(order[-1])
    return order


def _read(text: str) -> tuple[Fastener, ...]:
    try:
        rows = json.loads(text or "[]")
        found = tuple(
            Fastener(round(float(x), 4), round(float(y), 4), " ".join(str(size).split()), " ".join(str(note).split()))
            for x, y, size, note in rows
        )
    except (ValueError, TypeError, RecursionError, OverflowError) as error:
        raise EntryError("The card cannot be read: touch where each fastener sits, and write its size beside it.") from error
    if len(found) > MOST_FASTENERS:
        raise EntryError(f"{len(found)} fasteners are too many for one card: at most {MOST_FASTENERS}. Take a second card.")
    for number, fastener in enumerate(found, 1):
        if not (0.0 <= fastener.x <= 1.0 and 0.0 <= fastener.y <= 1.0):
            raise EntryError(f"Fastener {number} lies beside the card: touch the card itself.")
        for words in (fastener.size, fastener.note):
            if len(words) > LONGEST_WORDS or first_unshowable(words):
                raise EntryError(f"{quoted(words)} is too long for fastener {number}: at most {LONGEST_WORDS} characters.")
    return found


def card_from(content: Content) -> Card:
    """What an entry says. Raises PondrelError with one sentence."""
    torque = str(content.get("torque") or "")
    fasteners = _read(str(content["fasteners"]))
    return Card(str(content["title"]), str(content.get("photo") or ""), fasteners, torque_from(torque) if torque else None)


def _checked(content: dict[str, Value]) -> dict[str, Value]:
    card = card_from(content)
    if not card.fasteners:
        raise EntryError("The card is empty: touch where each fastener sits.")
    rows = [[f.x, f.y, f.size, f.note] for f in card.fasteners]
    return content | {"fasteners": json.dumps(rows, ensure_ascii=False)}


def _reads(content: Content) -> str:
    card = card_from(content)
    sizes = ", ".join(f"{len(numbers)} × {size}" for size, numbers in card.sizes)
    torque = f", {card.torque.says}" if card.torque else ""
    bad = f"; {'; '.join(f'{number}: {note}' for number, note in card.bad)}" if card.bad else ""
    return f"{card.title}: {sizes}{torque}{bad}"


CARD = EntryKind(
    "card",
    "Fasteners",
    (
        EntryField("title", "What they hold", longest=80),
        EntryField("photo", "The photo", required=False, longest=64),
        EntryField("fasteners", "The fasteners", longest=6000),
        EntryField("torque", "The torque", required=False, longest=20),
    ),
    _reads,
    _checked,
)
