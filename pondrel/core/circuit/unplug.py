"""What is unplugged while one measures: plugs parted, parts taken off their plugs, fuses pulled, terminals off; or a part measured alone.

A joint, wire, switch or fuse that is taken off no longer joins its two ends, while what leaks from them stays. Anything else is gone from
the circuit with all it has. A part that is measured alone is the case that everything around it is off.
"""

from __future__ import annotations

import re
from collections.abc import Collection, Iterable

import numpy as np
from numpy.typing import NDArray

from ..base.brief import near, quoted
from ..base.errors import ReadingError
from .network import Network
from .part import Element
from .sheet import Part, Sheet

__all__ = ["ALONE", "alone", "in_words", "joins_two_ends", "measured_alone", "parts_meant", "plug_of", "plugs", "taken_off", "unplugged"]

ALONE = " alone"
_APART = re.compile(r"\s*(?:[,;+&]|\band\b)\s*")
MOST = 12  # things that anybody unplugs at once
LONGEST = 300  # characters that say so


def plugs(sheet: Sheet) -> tuple[str, ...]:
    """Names of whole plugs: of pins such as C2.1 and C2.2 the name C2."""
    return tuple(name for name in dict.fromkeys(part.partition(".")[0] for part in sheet.parts) if name not in sheet.parts)


def plug_of(sheet: Sheet, part: str) -> str:
    """What comes off where a part does: the whole plug of a pin, or else the part itself; nothing for a battery."""
    if sheet.parts[part].kind.posts:
        return ""
    whole = part.partition(".")[0]
    return whole if whole in plugs(sheet) else part


def unplugged(sheet: Sheet, text: str) -> tuple[str, ...]:
    """What a text says is unplugged: names of parts and plugs with commas or "and" between them, or one part and "alone". Each once, as the
    sheet writes it, in a fixed order. Raises ReadingError with one sentence."""
    if len(text) > LONGEST:
        raise ReadingError(f"What is unplugged has {len(text):,} characters; at most {LONGEST} are read: name whole plugs.")
    names = [*sheet.parts, *plugs(sheet)]
    by_lower = {name.lower(): name for name in reversed(names)}
    words = " ".join(text.split())
    if words.lower().endswith(ALONE):
        own = words[: -len(ALONE)].strip()
        part = by_lower.get(own.lower())
        if part is None or part not in sheet.parts:
            raise ReadingError(f"{quoted(own)} cannot be measured alone: it is no part on this sheet{near(own, list(sheet.parts))}.")
        return (alone(part),)
    found = []
    for said in filter(None, _whole_or_parted(words, by_lower)):
        if said.lower() not in by_lower:
            raise ReadingError(f"{quoted(said)} cannot be unplugged: it is no part or plug on this sheet{near(said, names)}.")
        found.append(by_lower[said.lower()])
    if len(set(found)) > MOST:
        raise ReadingError(f"At most {MOST} things are unplugged at once, got {len(set(found))}: name the plug instead of its pins.")
    return tuple(sorted(set(found)))


def _whole_or_parted(words: str, known: Collection[str]) -> list[str]:
    """The names in a text; one that is a name as it stands is not parted."""
    if words.lower() in known:
        return [words]
    parted = _APART.split(words)
    return parted if len(parted) > 1 or " " not in words else words.split(" ")


def alone(part: str) -> str:
    """How it is written that a part is measured by itself."""
    return f"{part}{ALONE}"


def in_words(text: str) -> str:
    """What is unplugged, as a line goes on with it: ``without C2`` or ``with Y1 alone``; empty where nothing is."""
    return "" if not text else f"with {text}" if text.endswith(ALONE) else f"without {text}"


def measured_alone(names: Iterable[str]) -> str | None:
    """The part that is measured by itself, None where the circuit is there."""
    return next((name.removesuffix(ALONE) for name in names if name.endswith(ALONE)), None)


def parts_meant(sheet: Sheet, names: Iterable[str]) -> tuple[str, ...]:
    """The parts that hands are laid on to unplug ``names``: a plug's pins, or the part itself."""
    found: list[str] = []
    for name in names:
        own = name.removesuffix(ALONE)
        found += [own] if own in sheet.parts else [part for part in sheet.parts if part.partition(".")[0] == own]
    return tuple(found)


def taken_off(network: Network, names: Iterable[str]) -> NDArray[np.bool_]:
    """(E,) the elements that do not conduct while ``names`` are unplugged; a meter in the circuit stays."""
    sheet, given = network.sheet, tuple(names)
    by_itself = measured_alone(given)
    off = frozenset(parts_meant(sheet, given))
    gone = np.zeros(len(network.keys), dtype=bool)
    for i, (owner, _) in enumerate(network.keys):
        if not owner:
            continue
        if by_itself is not None:
            gone[i] = owner != by_itself
        elif owner in off:
            gone[i] = not joins_two_ends(sheet.parts[owner]) or _goes_through(sheet.parts[owner], network.elements[i])
    return gone


def joins_two_ends(part: Part) -> bool:
    """Whether a part is a way for current and no more, so that its two ends are still there when it is off."""
    kind = part.kind
    return kind.joint or kind.holder or kind.symbol in ("wire", "switch")


def _goes_through(part: Part, element: Element) -> bool:
    return {element.a, element.b} <= set(part.pins) or element.a.startswith("*") or element.b.startswith("*")
