"""Contacts that close: how often and how long they bounce before they stay shut, and whether they let go later."""

from __future__ import annotations

import numpy as np

from ...base.judgement import judged
from ...base.quantity import show
from ...bench.family import Check, Family
from ...bench.judged import Service
from ...check import Limit
from ...wave.measure import Measured
from ..pattern import PRACTICE, Looked, Pattern, Verdicts, times, unseen, wrong

PLACE = 120
BOUNCE_MOST = judged("CONTACT_BOUNCE", 0.01, "s", "that good contacts bounce when they close, at the most", PRACTICE)
APART = judged("CONTACT_APART", 0.05, "s", "of rest that parts one switching from the next", PRACTICE)
_BOUNCE = Check(
    "bounce",
    "how long they bounce",
    ("s",),
    beyond=("", "Worn or dirty contacts, or a weak spring."),
    then="Renew the switch or the relay.",
)


def switchings(at: np.ndarray, step: float) -> list[tuple[int, int]]:
    """First and last edge of each switching: edges that lie close belong together."""
    if not len(at):
        return []
    cuts = np.flatnonzero(np.diff(at) * step > APART) + 1
    bounds = [0, *cuts.tolist(), len(at)]
    return list(zip(bounds[:-1], [end - 1 for end in bounds[1:]], strict=True))


def _find(looked: Looked) -> Verdicts:
    own = looked.measures
    groups = switchings(own.edges.at, own.step)
    if not groups:
        return [
            unseen(
                "bounce",
                "none",
                "Nothing switches in this capture.",
                then="Switch it while it is watched, some milliseconds before and behind.",
            )
        ]
    lengths = [float(own.edges.at[b] - own.edges.at[a]) * own.step for a, b in groups]
    # An odd number of edges changes the state; an even one that comes back is a contact that lets go by itself.
    slips = [(a, b) for a, b in groups if (b - a + 1) % 2 == 0]
    longest = max((length for (a, b), length in zip(groups, lengths, strict=True) if (a, b) not in slips), default=0.0)
    edges = max((b - a + 1 for a, b in groups if (a, b) not in slips), default=1)
    how_many = f"{len(groups)} switchings" if len(groups) > 1 else "one switching"
    told = f"In {how_many} they bounce {show(longest, 's')} at the longest" if edges > 1 else f"In {how_many} nothing bounces"
    found = [looked.judge(_BOUNCE, Measured(longest, own.step), Limit("s", most=BOUNCE_MOST, source=PRACTICE), told)]
    if slips and own.train is None:
        at = looked.capture.at(float(own.edges.at[slips[0][0]]))
        found.append(
            wrong(
                "lets go",
                float(len(slips)),
                f"{times(len(slips)).capitalize()} it changes and comes back, first at {at:.4g} s.",
                then="Flex plug and lead, and knock it, while it is watched.",
            )
        )
    return found


def _serve(looked: Looked, found: Verdicts) -> Service:
    own = looked.measures
    groups = switchings(own.edges.at, own.step)
    return Service({"switchings": float(len(groups)), "edges": float(len(own.edges.at))})


PATTERN = Pattern(
    Family("contact_bounce", "Contacts that bounce", "switch relay chatter reed", "bounce", (), (), derived=(_BOUNCE,), group="Wiring"),
    "Clip across the contacts, or on what they feed with a load on it; switch once.",
    _find,
    serve=_serve,
)
