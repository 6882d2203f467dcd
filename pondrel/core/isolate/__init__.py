"""Isolation: which part is at fault, given readings and observations on a sheet. This is the one door; the rooms behind it are the steps of
the method: predict, believe, advise, conclude, show. A room is entered when something of it is asked for: a command that ranks needs none
of what draws."""

from importlib import import_module
from typing import TYPE_CHECKING

if TYPE_CHECKING:
    from .advise.advice import Advice, described
    from .advise.orders import ORDERS, Alternative, alternatives, led_by
    from .advise.plan import Node, World
    from .advise.visit import Visit, accesses_gained, minutes_spent, visit_from
    from .believe.belief import Belief, update
    from .conclude.closing import Closing, closing
    from .conclude.proof import percent
    from .conclude.separate import separators
    from .conclude.suspects import Suspect, targets
    from .extent import check_items, check_sheet
    from .isolation import Isolation, isolate
    from .predict.plausible import asked_back
    from .predict.scale import off_scale
    from .predict.workup import Workup
    from .show.bring import Bring, bring
    from .show.complaint import Touch, against_the_complaint, touches
    from .show.courses import Course, Explanation, Probes, course_of, explanations, seconds_ahead
    from .show.cured import cured
    from .show.descent import Descent, Loss, descent
    from .show.drawn_path import path_worth_drawing
    from .show.explain import Matrix, matrix, plain_severity
    from .show.ladder import Ladder, PartRung, PlaceRung, cleared_stretches, ladder
    from .show.meaning import meaning
    from .show.outcomes import Likely, likely_outcomes
    from .show.replay import Lead, replay

__all__ = [
    "ORDERS",
    "Advice",
    "Alternative",
    "Belief",
    "Bring",
    "Closing",
    "Course",
    "Descent",
    "Explanation",
    "Isolation",
    "Ladder",
    "Lead",
    "Likely",
    "Loss",
    "Matrix",
    "Node",
    "PartRung",
    "PlaceRung",
    "Probes",
    "Suspect",
    "Touch",
    "Visit",
    "Workup",
    "World",
    "accesses_gained",
    "against_the_complaint",
    "alternatives",
    "asked_back",
    "bring",
    "check_items",
    "check_sheet",
    "cleared_stretches",
    "closing",
    "course_of",
    "cured",
    "described",
    "descent",
    "explanations",
    "isolate",
    "ladder",
    "led_by",
    "likely_outcomes",
    "matrix",
    "meaning",
    "minutes_spent",
    "off_scale",
    "path_worth_drawing",
    "percent",
    "plain_severity",
    "replay",
    "seconds_ahead",
    "separators",
    "targets",
    "touches",
    "update",
    "visit_from",
]

_ROOMS = {
    "advise.advice": (
        "Advice",
        "described",
    ),
    "advise.orders": (
        "ORDERS",
        "Alternative",
        "alternatives",
        "led_by",
    ),
    "advise.plan": (
        "Node",
        "World",
    ),
    "advise.visit": (
        "Visit",
        "accesses_gained",
        "minutes_spent",
        "visit_from",
    ),
    "believe.belief": (
        "Belief",
        "update",
    ),
    "conclude.closing": (
        "Closing",
        "closing",
    ),
    "conclude.proof": ("percent",),
    "conclude.separate": ("separators",),
    "conclude.suspects": (
        "Suspect",
        "targets",
    ),
    "extent": (
        "check_items",
        "check_sheet",
    ),
    "isolation": (
        "Isolation",
        "isolate",
    ),
    "predict.plausible": ("asked_back",),
    "predict.scale": ("off_scale",),
    "predict.workup": ("Workup",),
    "show.bring": (
        "Bring",
        "bring",
    ),
    "show.complaint": (
        "Touch",
        "against_the_complaint",
        "touches",
    ),
    "show.courses": (
        "Course",
        "Explanation",
        "Probes",
        "course_of",
        "explanations",
        "seconds_ahead",
    ),
    "show.cured": ("cured",),
    "show.descent": (
        "Descent",
        "Loss",
        "descent",
    ),
    "show.drawn_path": ("path_worth_drawing",),
    "show.explain": (
        "Matrix",
        "matrix",
        "plain_severity",
    ),
    "show.ladder": (
        "Ladder",
        "PartRung",
        "PlaceRung",
        "cleared_stretches",
        "ladder",
    ),
    "show.meaning": ("meaning",),
    "show.outcomes": (
        "Likely",
        "likely_outcomes",
    ),
    "show.replay": (
        "Lead",
        "replay",
    ),
}
_ROOM_OF = {name: room for room, names in _ROOMS.items() for name in names}


def __getattr__(name: str) -> object:
    """What is asked for by name, with the room that it is in."""
    if name not in _ROOM_OF:
        raise AttributeError(f"module {__name__!r} has no attribute {name!r}")
    found: object = getattr(import_module(f".{_ROOM_OF[name]}", __name__), name)
    globals()[name] = found
    return found
