"""What a sheet may say and most probably does not mean: it is read all the same, and pointed out."""

from __future__ import annotations

from collections import Counter

from ...base.brief import near
from ..sheet import Sheet
from ..sights import SEEN, sight_of

__all__ = ["remarks"]


def remarks(sheet: Sheet) -> tuple[tuple[str, str], ...]:
    """Pairs of a dotted path and a sentence, in the sheet's order: nodes that join nothing, observations that can never be predicted."""
    return (*_loose_ends(sheet), *_blind_looks(sheet))


def _loose_ends(sheet: Sheet) -> list[tuple[str, str]]:
    """Pins that stand alone on their node: a mistyped name cuts off everything behind it. Pins that may be left out may stand alone, and so
    may one at a place, as a stub to a socket does."""
    count = Counter(node for part in sheet.parts.values() for node in part.pins.values())
    noted = []
    for part in sheet.parts.values():
        for pin, node in part.pins.items():
            if count[node] > 1 or pin in part.kind.optional_pins or node in sheet.places:
                continue
            others = [name for name in count if name != node and name not in part.pins.values()]
            says = f"nothing else is on the node '{node}', so nothing flows there: its name may be mistyped{near(node, others)}"
            noted.append((f"parts.{part.name}.pins.{pin}", says))
    return noted


def _blind_looks(sheet: Sheet) -> list[tuple[str, str]]:
    noted = []
    for name, entry in sheet.observe.items():
        found, wanted = sight_of(sheet, name), str(entry["sees"])
        kind = sheet.parts[str(entry["part"])].kind.name
        if found is None:
            says = f"nothing is seen or heard of a {kind}, so this can never be predicted: name the lamp, motor or relay itself"
            noted.append((f"observe.{name}.part", says))
        elif wanted in SEEN and found[2] != wanted and not found[1].startswith(wanted):
            says = f"{wanted} of a {kind} can never be predicted, only {found[1]}: name the part that shows it"
            noted.append((f"observe.{name}.sees", says))
    return noted
