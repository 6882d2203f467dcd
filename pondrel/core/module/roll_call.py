"""Who answers when all modules are called: one silent points to its own supply, several to what they share."""

from __future__ import annotations

import re
from collections.abc import Iterable
from dataclasses import dataclass

from ..base.brief import quoted
from ..base.errors import PondrelError

__all__ = ["NOBODY", "ONE_SILENT", "SEVERAL_SILENT", "RollCall", "RollCallError", "modules_named", "roll_call"]

NOBODY = "Nobody answers: is the ignition on, the plug on the right bus, the bit rate right?"
MOST_MODULES, _LONGEST = 60, 60
# Common practice, no source: in the order in which it is worth looking.
ONE_SILENT = ("its supply", "its ground", "its wake line", "its stub of the bus and plug", "only then the module itself")
SEVERAL_SILENT = (
    "the supply or fuse that they share",
    "the bus between them: ends, splice, junction",
    "the gateway",
    "one that disturbs the others",
)


class RollCallError(PondrelError):
    """A roll call that does not fit together."""


@dataclass(frozen=True, slots=True)
class RollCall:
    """The modules that answered and those that were silent though they should answer."""

    answered: tuple[str, ...]
    silent: tuple[str, ...]

    @property
    def says(self) -> str:
        """What it comes to, in a sentence."""
        if not self.silent:
            count = len(self.answered)
            return f"All {count} answer." if count > 2 else "Both answer." if count == 2 else "It answers."
        who = _listed(self.silent)
        if not self.answered:
            return f"Nobody answers ({who}): look at the plug, its supply and the bus before any module."
        if len(self.silent) == 1:
            return f"{who} is silent: {', '.join(ONE_SILENT)}. What needs it will not work either."
        return f"{who} are silent: look for one cause: {', '.join(SEVERAL_SILENT)}."

    @property
    def look_first(self) -> tuple[str, ...]:
        """What to look at, in this order."""
        return () if not self.silent else ONE_SILENT if len(self.silent) == 1 and self.answered else SEVERAL_SILENT


def _listed(names: tuple[str, ...]) -> str:
    return names[0] if len(names) == 1 else f"{', '.join(names[:-1])} and {names[-1]}"


def modules_named(text: str) -> tuple[str, ...]:
    """Names of modules from a list with commas or lines between. Raises RollCallError with one sentence."""
    names = tuple(dict.fromkeys(" ".join(name.split()) for name in re.split(r"[,;\n]", text) if name.strip()))
    if len(names) > MOST_MODULES:
        raise RollCallError(f"{len(names)} modules are named; at most {MOST_MODULES} are called at once.")
    long = next((name for name in names if len(name) > _LONGEST), "")
    if long:
        raise RollCallError(
            f"{quoted(long)} is too long for the name of a module: at most {_LONGEST} characters; put commas between names."
        )
    return names


def roll_call(answered: Iterable[str], silent: Iterable[str]) -> RollCall:
    """A roll call from both lists. Raises RollCallError where a module is in both, or in none."""
    here, gone = tuple(answered), tuple(silent)
    both = next((name for name in gone if name in here), "")
    if both:
        raise RollCallError(f"{both} is said to answer and to be silent: which is it?")
    if not here and not gone:
        raise RollCallError("No module is named: write who answers and who does not, commas between.")
    return RollCall(here, gone)
