"""A valve that is switched by pulses: its share of time on, and whether its needle moves, by the kink in its current.

When the current has grown enough the needle moves, the air gap closes, and the moving iron sets volts against the supply: the current's
climb slows, or even dips, and goes on at once when the needle has arrived. A needle that sticks draws one smooth curve; where its core
saturates the climb grows steeper, too, but gradually. The climbs of all pulses are laid over each other first.
"""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray
from scipy.signal import savgol_filter

from ...base.judgement import OWN_RULE, judged
from ...base.quantity import show
from ...bench import cautions
from ...bench.family import Check, Family, Setting
from ...bench.judged import Judged, Service
from ...check import Limit, Verdict
from ...wave.measure import Measured, Measures
from ..pattern import Looked, Pattern, Verdicts, fine, unseen, wrong

PLACE = 30
KINK = judged(
    "NEEDLE_KINK", 0.08, "share", "of a valve current's first climb by which the climb picks up again where a needle moves", OWN_RULE
)
CERTAIN = judged("NEEDLE_CERTAIN", 6.0, "times", "its scatter that such a kink stands out by at the least", OWN_RULE)
FALLS_TO = judged(
    "CURRENT_FALLS", 0.25, "share", "of its peak that a valve's current falls under between pulses, else no climb is seen", OWN_RULE
)
PLACES, WIDTH, MOST_PULSES, LEAST_SAMPLES = 240, 14, 200, 24  # of a climb; its share a slope is taken over
SUDDEN = judged(
    "NEEDLE_SUDDEN", 0.85, "times", "the time before it that a moving needle's pick-up takes at the most; a saturating core's takes longer",
    OWN_RULE,
)  # fmt: skip
GRADUAL = judged("NEEDLE_GRADUAL", 1.15, "times", "the same from which on it is a saturating core's and no needle's", OWN_RULE)
BLIND = judged("NEEDLE_BLIND", 0.15, "share", "of the first climb: where noise alone may pick up so much, no needle is seen", OWN_RULE)
CLIMBED, STAYS, AND_BEHIND = 0.95, 0.9, 1.5  # shares of the amplitude; times the climb
_DUTY = Check("share of time on", "the share of time that it is on", ("%",), then="Compare it with what the module commands.")
_PEAK = Check("peak", "the most current", ("A",), beyond=("Resistance in its circuit, or an open winding.", "A shorted winding."))


@dataclass(frozen=True, slots=True)
class Climb:
    """How the current climbs in a pulse: ``kink`` is by how much its slope picks up again after it had slowed, as a share of the first
    slope, with the scatter of that; ``at`` the time of the slowest in seconds, ``lasts`` how long the pick-up takes, in times of that."""

    kink: float
    scatter: float
    at: float
    lasts: float


def climb_of(looked: Looked, own: Measures) -> Climb | None:
    """The climbs of all pulses laid over each other; None where they do not begin near nought or are too short to be looked into."""
    levels, edges = own.levels, own.edges
    if levels is None or not len(edges.at):
        return None
    # From the foot of each climb, where the current still is near its lowest, to its end.
    starts = [
        (int(edges.place[k]), int(edges.place[k + 1]) if k + 1 < len(edges.place) else None)
        for k in range(len(edges.at))
        if edges.rising[k]
    ]
    foot = own.scan.least + 0.03 * own.scan.span
    pieces: list[NDArray[np.float64]] = []
    climbs: list[int] = []
    for place, end in starts[:MOST_PULSES]:
        before = looked.channel.values(max(place - 4 * PLACES * 50, 0), place)
        low = np.flatnonzero(before <= foot + 2.0 * own.scan.noise)
        if not len(low) or end is None:
            continue
        first = place - len(before) + int(low[-1])
        values = looked.channel.values(first, end)
        reached = np.flatnonzero(values >= levels.base + CLIMBED * levels.amplitude)
        on = np.flatnonzero(values >= levels.base + STAYS * levels.amplitude)
        if not len(reached) or reached[0] < LEAST_SAMPLES:
            continue
        pieces.append(values[: on[-1] + 1])
        climbs.append(int(reached[0]))
    if not pieces:
        return None
    # As long as the climb lasts and half as long again: what is steady behind it tells nothing.
    length = min(int(AND_BEHIND * np.median(climbs)), int(np.median([len(piece) for piece in pieces])))
    kept = [piece[:length] for piece in pieces if len(piece) >= length]
    cuts = np.linspace(0, length, min(PLACES, length) + 1).astype(int)
    whole = np.array([np.add.reduceat(piece[: cuts[-1]], cuts[:-1]) / np.diff(cuts) for piece in kept])
    return _kink(whole, length * own.step)


def _kink(whole: NDArray[np.float64], seconds: float) -> Climb:
    """How far the slope comes up again behind its lowest, in curves (pulses, places)."""
    places = whole.shape[1]
    width = max(places // WIDTH | 1, 5)
    slope = savgol_filter(whole.mean(axis=0), width, 1, deriv=1)
    # Feet that lie a sample apart bend the very first.
    begin, end = places // 40 + width // 2 + 1, places - places // 12
    own = slope[begin:end]
    first = float(slope[places // 40 : begin].max())
    rise = own - np.minimum.accumulate(own)
    peak = int(np.argmax(rise))
    bottom = int(np.argmin(own[: peak + 1]))
    kink = float(rise[peak]) / first if first > 0.0 else 0.0
    # What is left of third differences is noise (of one curve, hence the root of their number); the slope of a line through so many places.
    third = np.abs(np.diff(whole, 3, axis=1))
    noise = float(np.median(third)) / 0.6745 / np.sqrt(20.0) / np.sqrt(len(whole))
    scatter = noise * np.sqrt(24.0 / (width * (width**2 - 1))) / max(first, 1e-12)
    picked = own[bottom : peak + 1] - own[bottom]
    tenths = [int(np.argmax(picked >= share * picked[-1])) for share in (0.1, 0.9)]
    return Climb(kink, scatter, (begin + bottom) / places * seconds, (tenths[1] - tenths[0]) / (begin + bottom))


def _find(looked: Looked) -> Verdicts:
    own = looked.measures
    found = []
    duty = own.duty
    if duty is not None:
        percent = Measured(100.0 * duty.value, 100.0 * duty.u)
        given = looked.case.given(_DUTY.name)
        if given is not None or looked.case.known("duty") is not None:
            wanted = looked.case.known("duty")
            usual = Limit("%", wanted - 5.0, wanted + 5.0, "as commanded, ± 5 %") if wanted is not None else None
            found.append(looked.judge(_DUTY, percent, usual, f"It is on {percent.value:.3g} % of the time"))
    if looked.channel.unit != "A":
        if own.train is None and own.levels is None:
            found.append(
                wrong(
                    "pulses",
                    "none",
                    "It is not switched in this capture.",
                    then="Command it while it is watched; read its feed, and its driver with a substitute load.",
                )
            )
        elif not found:
            found.append(
                fine(
                    "pulses",
                    "there",
                    f"It is switched{_rate(own)}.",
                    then="Volts do not show whether the needle moves: take its current with a clamp.",
                )
            )
        return found
    peak = own.maximum
    resistance, supply = looked.case.known("ohms"), looked.case.number("supply")
    if resistance is not None:
        wanted = supply / resistance
        told = f"Its current reaches {show(peak.value, 'A')}"
        found.append(
            looked.judge(_PEAK, peak, Limit("A", most=1.15 * wanted, source=f"by {show(resistance, 'Ω')} at {show(supply, 'V')}"), told)
        )
    found.append(_needle(looked, own))
    return found


def _rate(own: Measures) -> str:
    return f" {own.frequency.value:.3g} times a second, {100.0 * own.duty.value:.3g} % on" if own.frequency and own.duty else ""


def _needle(looked: Looked, own: Measures) -> Judged:
    if own.levels is None:
        return wrong(
            "needle",
            "no current",
            "No current flows in this capture: the winding or its circuit is open, or it is not switched.",
            then="Read its ohms at the plug, and the feed with it unplugged.",
        )
    if own.scan.least > FALLS_TO * own.scan.most:
        return unseen(
            "needle",
            "not seen",
            "Its current does not fall to nought between pulses: the needle hangs in the middle and no climb shows it.",
            then="Switch it off for a moment and on again, and take the first climb.",
        )
    climb = climb_of(looked, own)
    if climb is None:
        return unseen(
            "needle",
            "not seen",
            "No whole climb of its current is in this capture.",
            then="Take more samples a second, and one pulse at least from its foot to its top.",
        )
    picks_up = climb.kink > max(KINK, CERTAIN * climb.scatter)
    if picks_up and climb.lasts <= SUDDEN:
        because = f"Its current slows at {show(climb.at, 's')} after it is switched on and picks up again: the needle moves."
        return fine("needle", "moves", because)
    if picks_up and climb.lasts < GRADUAL:
        return Judged(
            "needle",
            Verdict.TOO_CLOSE,
            "not sure",
            "",
            "Its current picks up again, but so slowly that it may be its core that saturates and no needle that moves.",
            then="Lay the capture of a good one of the same kind beside it.",
        )
    if CERTAIN * climb.scatter > BLIND:
        return Judged(
            "needle",
            Verdict.TOO_CLOSE,
            "not seen",
            "",
            "Its current is too noisy to see a needle move in it.",
            then="Use a smaller range of the clamp, several turns of the wire, or more pulses.",
        )
    because = "Its current climbs in one smooth curve: nothing moves in it."
    if picks_up:
        because = "Its current grows steeper little by little, as a core that saturates makes it: nothing moves in it."
    return wrong(
        "needle",
        "does not move",
        because,
        then="Listen for the click, clean it or free it; look at its supply under load first if it is weak.",
    )


def _serve(looked: Looked, found: Verdicts) -> Service:
    own = looked.measures
    figures: dict[str, float | str | bool | None] = {
        "duty": own.duty.value if own.duty else None,
        "frequency_hz": own.frequency.value if own.frequency else None,
        "peak": own.scan.most,
    }
    return Service(figures)


PATTERN = Pattern(
    Family(
        "pwm_valve",
        "Valve switched by pulses",
        "solenoid injector purge boost current ramp pintle needle duty",
        "needle",
        (),
        (cautions.VAPOUR, cautions.UNPLUGGED),
        (
            Setting("duty", "share of time on that is commanded", "%"),
            Setting("ohms", "what its winding has", "Ω"),
            Setting("supply", "the volts that feed it", "V", usual=13.0),
        ),
        derived=(_DUTY, _PEAK),
        group="Solenoids",
    ),
    "A clamp around one of its wires shows whether its needle moves; volts at its plug show how it is switched.",
    _find,
    unit="",
    serve=_serve,
)
