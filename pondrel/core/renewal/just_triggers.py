"""Setting something until it just triggers: which setting to try next, and which one it is.

Halved between the keenest that does not trigger and the dullest that does, until they are neighbours; then each of the two is tried once
more, since one try may be luck.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

from ..module.roster.renewal import Sensitivity

__all__ = ["Setting", "Tried", "setting_of"]

_TIMES = 2  # that the setting found and the one below it are each tried


@dataclass(frozen=True, slots=True)
class Tried:
    """A try at a setting, and whether it triggered."""

    at: int
    triggered: bool


@dataclass(frozen=True, slots=True)
class Setting:
    """How the search stands: the setting to try ``next`` (None where none is left), the one ``found`` (None while it is not), and what it
    ``says``."""

    next: int | None
    found: int | None
    says: str


def setting_of(sensitivity: Sensitivity, tries: Sequence[Tried]) -> Setting:
    """How the search for the dullest setting that triggers stands after some tries."""
    least, most = sensitivity.least, sensitivity.most
    yes = {one.at for one in tries if one.triggered}
    no = {one.at for one in tries if not one.triggered}
    both = sorted(yes & no)
    if both:
        return Setting(
            None, None, f"At {both[0]} it triggers once and not another time: the setting does not decide. Look at what it is to feel: the "
            "signal, how hard it was braked, how it is fastened.",
        )  # fmt: skip
    if yes and no and min(yes) < max(no):
        return Setting(
            None, None, f"It triggers at {min(yes)} and not at {max(no)}, which is keener: the setting does not decide. Look at its "
            "signal, ground and plug.",
        )  # fmt: skip
    if not tries:
        return Setting((least + most) // 2, None, "Begin in the middle.")
    lowest, highest = min(yes, default=most + 1), max(no, default=least - 1)
    if highest == most:
        return Setting(None, None, f"It does not trigger at {most}, the keenest: look at its signal, ground and plug.")
    if lowest - highest > 1:
        middle = (lowest + highest) // 2 if yes else (highest + 1 + most + 1) // 2
        middle = min(max(middle, least), most)
        so_far = f"It triggers at {lowest}" if yes else "It does not trigger yet"
        return Setting(middle, None, so_far + (f", and not at {highest}." if yes and no else "."))
    for at in (lowest, highest):
        if least <= at <= most and sum(one.at == at for one in tries) < _TIMES:
            return Setting(at, None, f"It is {lowest} so far: try {at} once more.")
    return Setting(None, lowest, f"It just triggers at {lowest}" + (f", and not at {highest}." if highest >= least else ", the dullest."))
