"""The steps of fitting it: from the way it is mended, from what it is, and from what was opened, closed in reverse."""

from __future__ import annotations

from collections.abc import Iterable, Sequence

from ..base.brief import capitalized
from ..base.written import Content, EntryError, EntryField, EntryKind, Value
from ..circuit.sheet import Access
from ..remedy.options import Option
from ..remedy.target import Target
from .asked_for import asked_for
from .board import BOARD
from .fitting import BELT, FITTING, SET_RIGHT
from .living import LIVING
from .step import Step

__all__ = ["BACK_ON", "CAME_OFF", "FITTED_STEP", "OPENED", "refit_steps"]

OPENED = "open:"
BACK_ON = "back:"
_OWN_STEPS = {"belt": BELT, "adjust": SET_RIGHT}  # of ways at which no part goes in
# What was done to make it safe is undone at the end, in this order, by the title of the hazard.
_UNDONE = {
    "Airbag or pretensioner": Step(
        "airbag_on", "Airbag plugs home, then the battery", "Nobody in front of it; its lamp goes out by itself."
    ),
    "Battery": Step("battery_on", "Battery on again", "Plus first, minus last; clock, windows and radio told again."),
    "Air springs": Step("springs_on", "Pump's fuse back in", "The frame still on its stands: the line holds, then it may carry."),
    "Tow and run switch": Step("run", "Back to run", "Driven wheels off the ground, seat empty, pedal up."),
    "Work underneath": Step("down", "Down from the stands", "Everything clear underneath, wheel nuts tight, chocks away last."),
    "High voltage": Step(
        "isolation", "Isolation lifted by whoever isolated it", "Qualified people only, written down as it was when it began."
    ),
}


def refit_steps(
    target: Target,
    option: Option,
    words: str,
    opened: Sequence[Access],
    unplugged: Iterable[str],
    came_off: Iterable[str],
    hazards: Iterable[str],
) -> tuple[Step, ...]:
    """The steps in the order in which they are done: the part itself, what was disturbed on the way in, and what was opened, in reverse.
    ``words`` is what is known of complaint and circuit; ``unplugged`` and ``came_off`` are names, ``hazards`` titles of what was made
    safe."""
    steps = [*_at_the_part(target, option), *(asked_for(words) if option.way.cures else ())]
    plugged = {target.called} if any(step.name == "plug" for step in steps) else set()
    steps += [
        Step(f"plug:{name}", f"{capitalized(name)} plugged in and locked", "Pull on it: it was apart on the way in.")
        for name in unplugged
        if name not in plugged
    ]
    steps += [Step(f"{BACK_ON}{name}", f"{capitalized(name)} back on", "It came off on the way in.") for name in came_off]
    for access in reversed(opened):
        called = (access.note or access.name.replace("_", " ")).replace(", to get at ", " at ")
        steps.append(
            Step(f"{OPENED}{access.name}", f"Closed again: {called}", "Nothing left over, no wire pinched.", caution=access.caution)
        )
    undone = set(hazards)
    steps += [step for title, step in _UNDONE.items() if title in undone]
    return tuple({step.name: step for step in steps}.values())


def _at_the_part(target: Target, option: Option) -> Sequence[Step]:
    if not option.way.cures:
        return LIVING[option.way.name]
    fitting = FITTING[target.build.name]
    if option.way.name in _OWN_STEPS:
        return _OWN_STEPS[option.way.name]
    if "joint" in option.way.builds and target.build.name == "fuse":
        return (*FITTING["joint"], *fitting)  # its clip
    if target.build.name == "component":
        return BOARD
    if option.way.name == "board_repair":
        return (*BOARD, *(step for step in fitting if step.name != "static"))
    return fitting


def _checked(content: dict[str, Value]) -> dict[str, Value]:
    if not str(content["what"]).strip():
        raise EntryError("What came off is missing: write it down in a few words.")
    return content


CAME_OFF = EntryKind("came_off", "Came off", (EntryField("what", "What came off", longest=80),), lambda c: str(c["what"]), _checked)


def _ticked(content: Content) -> str:
    return f"{content['title']}" + (f": {content['text']}" if content.get("text") else "")


FITTED_STEP = EntryKind(
    "refitted",
    "Fitted",
    (
        EntryField("step", "The step", longest=140),
        EntryField("title", "What it was", longest=200),
        EntryField("text", "In a few words", required=False, longest=300),
    ),
    _ticked,
)
