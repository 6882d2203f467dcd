"""An order of movements with the switch that ends each: where it stopped, and what to look at there."""

from __future__ import annotations

from dataclasses import dataclass

from ...base.brief import lowered
from .function import Step
from .standing import LinkState, Standing

__all__ = ["Moved", "StepState", "order_of"]

DONE, STOPPED, NOT_YET, NOT_KNOWN = "ended", "stopped here", "not yet", "not known"
StepState = str


@dataclass(frozen=True, slots=True)
class Moved:
    """A step with how it stands, and where it stopped what to look at, in this order."""

    step: Step
    state: StepState
    look: tuple[str, ...] = ()


def order_of(standing: Standing) -> tuple[Moved, ...]:
    """How far an order of movements came, by the conditions that end its steps."""
    links = {link.condition.name: link for link in standing.links}
    found: list[Moved] = []
    stopped = False
    for step in standing.function.steps:
        link = links.get(step.until)
        if stopped:
            found.append(Moved(step, NOT_YET))
        elif link is not None and link.state is LinkState.HOLDS:
            found.append(Moved(step, DONE))
        elif link is not None and link.state is LinkState.UNMET:
            stopped = True
            found.append(Moved(step, STOPPED, _look(standing, step)))
        else:
            found.append(Moved(step, NOT_KNOWN))
    return tuple(found)


def _look(standing: Standing, step: Step) -> tuple[str, ...]:
    """Common practice, no source: does it move at all, is it driven, and does its end tell."""
    end = standing.function.conditions[step.until]
    title = lowered(step.title)
    driven = f"whether {step.output.partition('.')[2] or step.output} is driven: command it alone, and measure at it" if step.output else ""
    return tuple(
        filter(
            None,
            (
                f"whether anything moves at all: {title}",
                driven,
                f"it is there and its end does not tell: the switch of {lowered(end.title)}, its plug and wire",
                "it is driven and does not come there: jammed, leaking, short of pressure",
            ),
        )
    )
