"""Where a module's supply may be taken away: as a try while the vehicle stands, and as a way to live with it.

Common practice without a source; local law and the maker's instructions go before it.
"""

from __future__ import annotations

from ...base.brief import lowered
from ...module.moving import LockedError
from ...module.roster.roster import Module
from ..safety import safety_function

__all__ = ["STANDING", "acts_while_moving", "check_try", "hazards_of_try", "refused_as_habit"]

STANDING = (
    "It stands: key off and out, brake on, wheels chocked. What hangs on the module may stop, move or lock at once: nobody is in its way."
)
_AIRBAGS = "airbags and belts"


def acts_while_moving(module: Module) -> str:
    """The safety function that hangs on a module, by its title, its outputs and what its roster says; empty for none."""
    own = module.resets.acts_on if module.resets else ""
    return safety_function(module.title, own, *(output.title for output in module.outputs.values()))


def refused_as_habit(module: Module) -> str:
    """Why taking its supply away is no way to live with it; empty where it may be one."""
    function = acts_while_moving(module)
    return (
        f"{module.title} acts while the vehicle can move ({function}): a switch in its supply is never a way to live with it. It is mended "
        "or renewed."
    ) if function else ""  # fmt: skip


def hazards_of_try(module: Module) -> tuple[str, ...]:
    """What has to be made safe before one try, by name."""
    return ("steering_brakes",) if acts_while_moving(module) in ("brakes", "steering") else ()


def check_try(module: Module) -> None:
    """Raises LockedError where not even a try is made: what holds people in a crash is not switched off to see what happens."""
    if acts_while_moving(module) == _AIRBAGS:
        raise LockedError(
            f"The supply of {lowered(module.title)} is not taken away for a try: airbags and belts hang on it. Battery off, wait as long "
            "as the maker says, and leave it to people who are trained for it."
        )  # fmt: skip
