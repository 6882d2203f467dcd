"""The starter's current while it cranks: its first surge, its average, and a hump for each compression."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from ...base.judgement import judged
from ...base.quantity import show
from ...bench.family import Check, Family, Setting
from ...bench.judged import Service
from ...check import Limit
from ...power import cautions
from ...power.capture import INRUSH_SECONDS, compressions_of
from ...power.capture_verdict import COMPRESSION_LEAST
from ...wave.measure import Measured
from ..pattern import PRACTICE, Looked, Pattern, Verdicts, fine, unseen, wrong

PLACE = 100
CRANKS_ABOVE = judged("CRANKS_ABOVE_A", 40.0, "A", "from which on a starter is taken to crank", PRACTICE)
USUAL_AMPS = (60.0, 250.0)
BLOCK_SECONDS, LASTS_SECONDS = 0.005, 0.4
_MEAN = Check(
    "cranking",
    "its average while it cranks",
    ("A",),
    beyond=(
        "Too little for a turning engine: resistance in its circuit, or it spins free.",
        "The engine turns hard, or the starter binds.",
    ),
    then="Turn the engine by hand with the battery off; read the drops on both cables while it is cranked.",
)


@dataclass(frozen=True, slots=True)
class Crank:
    """When it cranks (samples), its surge and average (A), compressions a second and how high each hump is as a share of the highest."""

    first: int
    last: int
    surge: float
    mean: float
    humps_hz: float | None
    humps: tuple[float, ...]


def crank_in(looked: Looked) -> Crank | None:
    """The cranking in a capture of amperes; None where there is none."""
    capture, channel = looked.capture, looked.channel
    blocks = capture.blocks(channel, max(int(capture.seconds / BLOCK_SECONDS), 1))
    sign = 1.0 if abs(float(blocks.mean.max())) >= abs(float(blocks.mean.min())) else -1.0
    on = np.flatnonzero(sign * blocks.mean > CRANKS_ABOVE)
    if not len(on) or (on[-1] - on[0]) * blocks.every * capture.step < LASTS_SECONDS:
        return None
    first, last = int(on[0]) * blocks.every, (int(on[-1]) + 1) * blocks.every
    settled = min(first + int(INRUSH_SECONDS / capture.step), last - 1)
    steady = sign * channel.values(settled, last)
    surge = float((sign * channel.values(first, settled + 1)).max())
    hertz, humps = compressions_of(capture, channel, settled, last, round(looked.case.number("cylinders")))
    return Crank(first, last, surge, float(steady.mean()), hertz, humps)


def _find(looked: Looked) -> Verdicts:
    own = crank_in(looked)
    if own is None:
        return [
            unseen(
                "cranking",
                "not seen",
                "No starter's current is in this capture.",
                then="Put the clamp around the starter's cable, its arrow towards the starter, and crank for two seconds.",
            )
        ]
    u = 0.03 * own.mean
    told = f"After its surge of {show(own.surge, 'A')} it takes {show(own.mean, 'A')}"
    found = [looked.judge(_MEAN, Measured(own.mean, u), Limit("A", *USUAL_AMPS, source=f"{PRACTICE}: cars, warm engine"), told)]
    if own.humps:
        weakest = min(own.humps)
        where = own.humps.index(weakest) + 1
        if weakest < COMPRESSION_LEAST:
            because = f"The humps differ: the {_nth(where)} of {len(own.humps)} in order has {100 * weakest:.0f} % of the highest."
            found.append(wrong("compressions", weakest, because, then="A hint only: a compression tester on the cylinders decides."))
        else:
            found.append(fine("compressions", weakest, "The humps of the compressions are even."))
    return found


def _nth(number: int) -> str:
    return {1: "first", 2: "second", 3: "third"}.get(number, f"{number}th")


def _serve(looked: Looked, found: Verdicts) -> Service:
    own = crank_in(looked)
    if own is None:
        return Service()
    rpm = own.humps_hz * 120.0 / looked.case.number("cylinders") if own.humps_hz else None
    says = (f"It cranks at about {rpm:.0f} r/min.",) if rpm else ()
    return Service({"surge_a": own.surge, "mean_a": own.mean, "rpm": rpm, "seconds": (own.last - own.first) * looked.capture.step}, says)


PATTERN = Pattern(
    Family(
        "cranking_current",
        "Cranking current",
        "starter surge relative compression",
        "cranking",
        (),
        (cautions.NEUTRAL, cautions.HANDS),
        (Setting("cylinders", "cylinders of the engine, four strokes", usual=4.0),),
        derived=(_MEAN,),
        group="Starting and charging",
    ),
    "Put a clamp around the starter's cable; fuel or ignition off, two seconds of cranking.",
    _find,
    unit="A",
    serve=_serve,
)
