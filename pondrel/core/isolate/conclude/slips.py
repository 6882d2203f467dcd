"""What a reading that fits nobody was probably meant to be: slips have shapes.

A decimal point slips, two digits change places, a prefix is overlooked, the leads are swapped; or the number is right and belongs to the
place beside, or to the state before. Each is tried on the number that was typed against what the suspect expects there.
"""

from __future__ import annotations

import math
from collections.abc import Iterator
from dataclasses import dataclass, replace

import numpy as np

from ...base.judgement import judged
from ...base.quantity import show
from ...evidence.asked import Measurement
from ...evidence.items import Reading
from ..believe.belief import Belief
from ..believe.slipped import DECIMAL, PLACE, SIGN, STATE
from ..predict.prediction import Spot
from ..predict.scale import compress_ohms, off_scale

__all__ = ["Slip", "likeliest_slip"]

# How often a slip has a shape that only its being asked back knows. Common practice, no source.
DIGITS = judged("SLIP_DIGITS", 0.1, "share", "slips in which two digits changed places")
PREFIX = judged("SLIP_PREFIX", 0.1, "share", "slips in which a prefix was overlooked or put in")
_FITS = 3.0  # standard deviations within which what was meant fits what is expected
_LEAST_SIGMA = 0.01  # of what is expected, on its instrument's scale; nobody recognises a slip closer than that


@dataclass(frozen=True, slots=True)
class Slip:
    """What was meant: ``asks`` is the question for it, ``weight`` how likely it is beside other slips of the same reading."""

    asks: str
    weight: float


def likeliest_slip(belief: Belief, hypothesis: int, number: int) -> Slip | None:
    """The slip that would bring reading ``number`` (of the readings, from 0) to what a suspect expects there; None where none does."""
    reading, best = belief.readings[number], int(belief.best[hypothesis])
    spot, step = belief.atoms.spot.at(np.array([best])), belief.step(np.array([hypothesis]))
    row = spot.near
    expected = float(belief.evidence.expected(spot, step)[0, number])
    only = np.array([number])
    spread = belief.evidence.spread(row, only)
    own = float(belief.evidence.uncertainty(row, only, spread)[0, 0])
    sigma = max(math.hypot(own, float(np.sqrt((spread**2).sum()))), _LEAST_SIGMA)
    found = [
        Slip(asks, weight * math.exp(-0.5 * miss**2))
        for asks, weight, meant in _meant(reading)
        if (miss := abs(_scaled(reading, meant) - expected) / (sigma * _stretched(reading, meant))) < _FITS
    ]
    found += _elsewhere(belief, reading, spot, step, sigma)
    return max(found, key=lambda slip: slip.weight, default=None)


def _scaled(reading: Reading, value: float) -> float:
    return float(compress_ohms(value, reading.meter.open_ohms)) if reading.meter.dead else value


def _stretched(reading: Reading, meant: float) -> float:
    """How many times as wide as the meter's the doubt about a number is that was meant otherwise: what was typed to a tenth stands for one
    to whole units after its decimal point moved."""
    value = abs(reading.measured.value)
    return 1.0 if reading.meter.dead or value == 0.0 else max(1.0, min(abs(meant) / value, 3.0))


def _meant(reading: Reading) -> Iterator[tuple[str, float, float]]:
    """The questions for what may have been meant, how often slips are of that shape, and the number (SI)."""
    value, unit = reading.measured.value, reading.meter.unit
    if not math.isfinite(value) or value == 0.0:
        return
    for share, powers in ((DECIMAL, (-1, 1)), (PREFIX, (-3, 3))):
        for power in powers:
            meant = value * 10.0**power
            yield f"was it {show(meant, unit)}", share / 2.0, meant
    if not reading.meter.dead:
        yield f"were the leads swapped ({show(-value, unit)})", SIGN, -value
    swapped = list(_digits_swapped(reading))
    for meant in swapped:
        yield f"was it {show(meant, unit)}, with two digits the other way round", DIGITS / len(swapped), meant


def _digits_swapped(reading: Reading) -> Iterator[float]:
    """The number with two neighbouring digits the other way round, as far as that is another number."""
    value, digit = reading.measured.value, reading.measured.resolution
    if digit <= 0.0:
        return
    typed = str(round(abs(value) / digit))
    for at in range(len(typed) - 1):
        if typed[at] != typed[at + 1]:
            other = typed[:at] + typed[at + 1] + typed[at] + typed[at + 2 :]
            yield math.copysign(float(other) * digit, value)


def _elsewhere(belief: Belief, reading: Reading, spot: Spot, step: np.ndarray, sigma: float) -> list[Slip]:
    """Slips in which the number is right and was taken beside, or in another state."""
    sheet, workup = belief.workup.sheet, belief.workup
    if reading.elsewhere or reading.without:
        return []
    test, same = reading.test, [t for t in workup.on_offer if t.instrument == reading.instrument]
    beside = [t for t in same if t.state == test.state and len({t.red, t.black} & {test.red, test.black}) == 1]
    states = [replace(test, state=state) for state in sheet.states if state != test.state and not test.dead]
    tests: tuple[Measurement, ...] = (*beside, *states)
    if not tests:
        return []
    numbers = workup.at_spots(tests, spot, step)[0][0]
    shown = _scaled(reading, reading.measured.value)
    found = []
    for other, number in zip(tests, numbers.tolist(), strict=True):
        miss = abs(number - shown) / sigma
        if miss < _FITS:
            share = PLACE / len(beside) if other.state == test.state else STATE / len(states)
            value = show(off_scale(number, reading.instrument), reading.meter.unit)
            places = [sheet.places[name].spoken if name in sheet.places else name for name in (other.red, other.black)]
            where = f"state {other.state}" if other.state != test.state else " to ".join(places)
            found.append(Slip(f"was that {where}, where {value} belongs", share * math.exp(-0.5 * miss**2)))
    return found
