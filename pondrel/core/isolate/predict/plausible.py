"""Numbers that no fault of the circuit would show: asked back before they are written, since most of them are slips."""

from __future__ import annotations

import math
from dataclasses import replace

from ...base.judgement import judged
from ...base.quantity import show
from ...evidence.asked import Measurement
from ...evidence.items import Item, Reading
from .workup import Workup

__all__ = ["asked_back"]

# A charging battery, two faults at once and a floating point stay below that.
FAR = judged("ASKED_BACK_FROM", 0.3, "share", "of the supply: what lies so far beyond anything the circuit can show is asked back")
_NEAR = 0.1  # volts by which a guess may miss


def asked_back(workup: Workup, item: Item) -> str:
    """The question that a reading of volts raises that lies far outside what its leads could meet; empty for any other item."""
    if not isinstance(item, Reading) or item.elsewhere or item.meter.unit != "V" or not math.isfinite(item.measured.value):
        return ""
    low, high = _span(workup, item.test)
    value, far = item.measured.value, FAR * workup.sheet.supply_volts
    if low - far <= value <= high + far:
        return ""
    guesses = ["Is it another range or unit"]
    if low - _NEAR <= -value <= high + _NEAR:
        guesses.insert(0, f"Are the leads swapped ({show(-value, 'V')})")
    slipped = next((value / ten for ten in (10.0, 100.0, 1000.0) if low - _NEAR <= value / ten <= high + _NEAR), None)
    if slipped is not None:
        guesses.insert(0, f"Has the decimal point slipped ({show(slipped, 'V')})")
    there = f"{show(value, 'V')} is far outside what can be there ({show(low, 'V')} to {show(high, 'V')})"
    return f"{there}. {'? '.join(guesses)}? Enter it again to keep it as it is."


def _span(workup: Workup, test: Measurement) -> tuple[float, float]:
    """Least and most volts between the leads, in any state, sound or with any fault of the sheet."""
    states = workup.sheet.states if test.setup.between is None else (test.state,)
    shown = workup.values(tuple(replace(test, state=state) for state in states))
    return float(shown.min()), float(shown.max())
