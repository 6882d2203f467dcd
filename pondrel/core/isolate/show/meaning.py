"""What an answer would mean, in a sentence or two: the parts that it would clear, and who would lead then."""

from __future__ import annotations

from ...circuit.sheet import Sheet
from ..conclude.proof import percent
from ..isolation import Isolation

__all__ = ["meaning"]

CLEARED, SUSPECTED = 0.01, 0.03  # chances: below the first a part is cleared that had more than the second
WORTH_SAYING = 0.02  # by which the leader's chance must move
NAMED = 3  # parts that are named before the others are counted


def meaning(sheet: Sheet, now: Isolation, then: Isolation) -> tuple[str, str]:
    """What an answer clears (as it goes on after "would"), empty for nothing, and a sentence on how it would stand."""
    after = then.parts
    freed = [part for part, chance in now.parts.items() if part and chance > SUSPECTED and after[part] < CLEARED]
    clears = f"clear the {_listed(sheet, freed)}" if freed else ""
    if then.standing.ready or then.standing.named:
        return clears, then.standing.says
    lead = max((chance, part or "") for part, chance in after.items())[1]
    name = sheet.parts[lead].called if lead else "nothing wrong on this sheet"
    name = name[:1].upper() + name[1:]
    was, will = now.parts[lead or None], after[lead or None]
    if abs(will - was) < WORTH_SAYING:
        return clears, "" if clears else f"It would change next to nothing: {name[:1].lower() + name[1:]} stays at {percent(will)}."
    return clears, f"{name} would lead with {percent(will)}, now {percent(was)}."


def _listed(sheet: Sheet, parts: list[str]) -> str:
    names = [sheet.parts[part].called for part in parts[:NAMED]]
    if len(parts) > NAMED:
        names.append(f"{len(parts) - NAMED} more")
    return " and ".join((", ".join(names[:-1]), names[-1])) if len(names) > 1 else names[0]
