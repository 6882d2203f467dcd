"""An inductive pick-up: one wave a tooth, higher with speed; a missing tooth in each turn, and what differs around the wheel."""

from __future__ import annotations

from dataclasses import dataclass
from itertools import pairwise

import numpy as np
from numpy.typing import NDArray

from ...base.judgement import OWN_RULE, judged
from ...base.quantity import show
from ...bench import cautions
from ...bench.family import Check, Family, Setting
from ...bench.judged import Judged, Service
from ...check import Limit, Verdict
from ...wave.measure import Measured
from ..pattern import PRACTICE, Looked, Pattern, Verdicts, wrong

PLACE = 50
RUN_OUT = judged("PICKUP_RUN_OUT", 25.0, "%", "by which the waves of a pick-up may differ around a wheel", PRACTICE)
LEAST_VOLTS = judged(
    "PICKUP_LEAST", 0.5, "V", "peak to peak, that a turning wheel gives at the least, some hundred teeth a second", PRACTICE
)
WEAK = judged("PICKUP_WEAK_TOOTH", 0.6, "share", "of its neighbours' wave under which a tooth is damaged", OWN_RULE)
_SIZE = Check("size", "its wave, peak to peak", ("V",), beyond=("Gap too wide, metal dust on it, or a weak magnet.", ""))
_RUN_OUT = Check("run-out", "how far its waves differ around the wheel", ("%",), beyond=("", "The wheel runs out, or its bearing is worn."))


@dataclass(frozen=True, slots=True)
class Teeth:
    """Waves in order: when each rises through nought (samples), its size peak to peak, the number of teeth to the next (1, more at a
    gap)."""

    at: NDArray[np.float64]
    size: NDArray[np.float64]
    steps: NDArray[np.int64]


def teeth_of(looked: Looked) -> Teeth | None:
    """The waves of a wheel; None where there are too few."""
    own = looked.measures
    if own.train is None or len(own.edges.rises) < 8:
        return None
    rises = own.edges.rises
    periods = np.diff(rises)
    # Speed may change: each period is held against its neighbours.
    around = np.array([np.median(periods[max(k - 4, 0) : k + 5]) for k in range(len(periods))])
    steps = np.maximum(np.round(periods / around), 1).astype(np.int64)
    places = np.round(rises).astype(int)
    samples = looked.channel.samples
    high = np.maximum.reduceat(samples, places[:-1]).astype(float) * looked.channel.gain
    low = np.minimum.reduceat(samples, places[:-1]).astype(float) * looked.channel.gain
    return Teeth(rises, np.abs(high - low), steps)


def _turns(teeth: Teeth, count: int, missing: int) -> list[int]:
    """Places in `teeth` behind each gap of so many missing teeth."""
    return [int(k) + 1 for k in np.flatnonzero(teeth.steps == missing + 1)] if missing else []


def _find(looked: Looked) -> Verdicts:
    teeth = teeth_of(looked)
    if teeth is None:
        return [
            wrong(
                "waves",
                "none",
                "No waves of teeth are in this capture.",
                then="Turn the wheel while it is watched; read the pick-up's ohms and its gap.",
            )
        ]
    case = looked.case
    count, missing = round(case.known("teeth") or 0.0), round(case.number("missing"))
    size = Measured(float(np.median(teeth.size)), looked.measures.scan.level_u * 1.4)
    found = [looked.judge(_SIZE, size, Limit("V", LEAST_VOLTS, source=PRACTICE), f"Its waves are {show(size.value, 'V')} peak to peak")]
    found += _gaps(teeth, count, missing)
    # Around the wheel at an even speed only: else the waves grow with that.
    periods = np.diff(teeth.at) / teeth.steps
    grows = teeth.size * periods
    usual = float(np.median(grows))
    whole = teeth.steps == 1
    if whole.sum() > 16:
        own = grows[whole]
        spread = 100.0 * float(np.percentile(own, 97.5) - np.percentile(own, 2.5)) / usual
        u = 100.0 * looked.measures.scan.level_u / max(float(np.median(teeth.size)), 1e-9)
        found.append(
            looked.judge(_RUN_OUT, Measured(spread, u), Limit("%", most=RUN_OUT, source=PRACTICE), f"Its waves differ by {spread:.2g} %")
        )
        weak = np.flatnonzero((grows < WEAK * usual) & whole & np.roll(whole, 1) & np.roll(whole, -1))
        if len(weak) and len(weak) < 0.2 * len(grows):
            first = looked.capture.at(float(teeth.at[weak[0]]))
            because = f"{len(weak)} of {len(grows)} waves are much smaller than their neighbours, first at {first:.4g} s."
            found.append(
                Judged(
                    "weak tooth",
                    Verdict.OUTSIDE,
                    float(len(weak)),
                    "",
                    because,
                    then="Look at the wheel: a bent or broken tooth, or a chip.",
                )
            )
    return found


def _gaps(teeth: Teeth, count: int, missing: int) -> list[Judged]:
    marks = np.flatnonzero(teeth.steps > 1)
    if not count:
        return []
    if missing and not (teeth.steps == missing + 1).any():
        turns = len(teeth.at) / max(count, 1)
        if turns < 1.2:
            return [
                Judged(
                    "gap",
                    Verdict.NOT_COMPARABLE,
                    "not seen",
                    "",
                    "Less than a turn is in this capture.",
                    then="Take two turns at the least.",
                )
            ]
        return [
            wrong(
                "gap",
                "none",
                f"There is no gap of {missing} missing teeth: another wheel, or the wrong pick-up.",
                then="Compare the wheel with the one that belongs there.",
            )
        ]
    own = _turns(teeth, count, missing)
    odd = [k for k in marks if teeth.steps[k] != missing + 1]
    if odd:
        return [
            wrong(
                "teeth",
                float(len(odd)),
                f"At {len(odd)} places a tooth is not seen where one belongs.",
                then="Look at the wheel there: a broken tooth; or the signal drops out: flex its lead.",
            )
        ]
    bad = [int(teeth.steps[a:b].sum()) for a, b in pairwise(own) if int(teeth.steps[a:b].sum()) != count]
    if bad:
        return [
            wrong(
                "teeth",
                float(bad[0]),
                f"A turn has {bad[0]} teeth where {count} belong.",
                then="Look at the wheel, and for waves that noise has made.",
            )
        ]
    if len(own) > 1:
        return [
            Judged(
                "teeth",
                Verdict.WITHIN,
                float(count),
                "",
                f"Each turn has its {count} teeth{f', {missing} of them left out' if missing else ''}.",
            )
        ]
    return []


def _serve(looked: Looked, found: Verdicts) -> Service:
    teeth = teeth_of(looked)
    if teeth is None:
        return Service()
    hertz = float(1.0 / np.median(np.diff(teeth.at) / teeth.steps) / looked.capture.step)
    count = looked.case.known("teeth")
    figures: dict[str, float | str | bool | None] = {"teeth_hz": hertz, "rpm": 60.0 * hertz / count if count else None}
    says = []
    speeds = 1.0 / (np.diff(teeth.at) / teeth.steps)
    if float(np.percentile(speeds, 95)) > 1.3 * float(np.percentile(speeds, 5)):
        slope, _ = np.polyfit(np.log(speeds), np.log(np.maximum(teeth.size, 1e-9)), 1)
        figures["grows_with_speed"] = float(slope)
        says.append(
            "Its waves grow with speed, as they should." if slope > 0.6 else "Its waves hardly grow with speed: its magnet, or the gap."
        )
    return Service(figures, tuple(says))


PATTERN = Pattern(
    Family(
        "pickup",
        "Inductive pick-up",
        "crank wheel speed sensor reluctor missing tooth amplitude run-out",
        "size",
        (),
        (cautions.TURNING,),
        (
            Setting("teeth", "places for teeth around the wheel, the missing ones counted"),
            Setting("missing", "teeth that are left out in each turn", usual=0.0),
        ),
        derived=(_SIZE, _RUN_OUT),
        group="Sensors",
    ),
    "Clip on both wires of the pick-up, its plug connected if it can be; turn the wheel.",
    _find,
    serve=_serve,
)
