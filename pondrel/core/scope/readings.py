"""What of a capture is a reading of its circuit: the average of whole pulses and the two levels between which they go.

From these three the share of time follows, so it is no reading of its own. The engine weighs levels as those of a circuit at rest in
either position of what pulses. Where a coil or a capacitor is still on its way at the next pulse they are others: the circuit followed in
time tells that, and a number that differs is shown and not counted.
"""

from __future__ import annotations

import math
from collections.abc import Mapping, Sequence
from dataclasses import dataclass

from ..base.judgement import OWN_RULE, judged
from ..base.quantity import Measured
from ..meter.instrument import instrument, standard_uncertainty
from ..wave.measure import Measures

__all__ = ["SCOPE_READS", "Candidate", "candidates", "level_of"]

# The instrument that reads it, and how a person calls it.
SCOPE_READS: Mapping[str, str] = {"scope": "average", "top": "upper level", "base": "lower level"}
SCALE_DIGIT = judged(
    "SCALE_DIGIT", 0.005, "share", "of a number to which a scope's is written down: a third of its scale's doubt", OWN_RULE
)
PULSES_BY = judged("PULSES_BY", 0.3, "V", "from which on a circuit is said to pulse at a place", OWN_RULE)


@dataclass(frozen=True, slots=True)
class Candidate:
    """A number of a capture: the instrument that it is a reading of, what it is called, as it is typed, and why it is not counted, empty
    where it is."""

    instrument: str
    called: str
    typed: str
    why_not: str

    @property
    def counts(self) -> bool:
        """Whether it becomes a reading."""
        return not self.why_not


def level_of(own: Measures, name: str) -> float:
    """A capture's number for an instrument of `SCOPE_READS`; where it does not pulse all three are its average."""
    average = (own.cycle_mean or own.mean).value
    level = {"scope": None, "top": own.top, "base": own.base}[name]
    return average if level is None else level.value


def candidates(own: Measures, followed: Sequence[tuple[Measures, Mapping[str, float]]]) -> Sequence[Candidate]:
    """The numbers of a capture. ``followed`` are what the explanations that lead would draw, the sound circuit first, each with what the
    engine weighs for each instrument (V). A capture that does not pulse has levels where the sound circuit pulses: that it does not
    is telling."""
    pulses = own.top is not None or any(weighed["top"] - weighed["base"] > PULSES_BY for _, weighed in followed[:1])
    found = []
    for name, called in SCOPE_READS.items():
        if name != "scope" and not pulses:
            continue
        tool, apart = instrument(name), 0.0
        for course, weighed in followed:
            drawn = level_of(course, name)
            allowed = standard_uncertainty(tool, Measured(drawn, tool.finest))
            apart = max(apart, abs(drawn - weighed[name]) / allowed)
        why_not = "a coil's current still flows at the next pulse, and shifts it" if apart > 1.0 else ""
        if name != "scope" and not followed:
            why_not = "this circuit could not be followed in time"
        found.append(Candidate(name, called, _typed(level_of(own, name)), why_not))
    return found


def _typed(volts: float) -> str:
    """A number as it would be typed, its last digit no finer than a scope's scale allows."""
    digit = max(SCALE_DIGIT * abs(volts), 1e-3)
    text = f"{volts:.{max(-math.floor(math.log10(digit)), 0)}f}"
    return text.removeprefix("-") if float(text) == 0.0 else text
