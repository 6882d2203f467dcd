"""What a capture's place on a circuit would draw under each explanation, and how near that comes to what was captured."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass

import numpy as np

from ...base.brief import capitalized
from ...base.judgement import OWN_RULE, judged
from ...circuit.fault import Fault
from ...circuit.measure import measure
from ...circuit.sheet import Sheet
from ...circuit.waveform import Followed
from ...scope.compare import misfit, trigger_of
from ...scope.pattern import SCALE_WITHIN
from ...scope.readings import SCOPE_READS
from ...wave import Capture, Channel
from ...wave.measure import Measures, measures_of
from ..isolation import Isolation

__all__ = ["Course", "Explanation", "Probes", "course_of", "explanations", "seconds_ahead"]

MOST_SUSPECTS = 3
LEAST_SHARE = judged("COURSE_LEAST", 0.02, "share", "of a suspect from which on what it would draw is worked out", OWN_RULE)
FITS = judged("COURSE_FITS", 1.5, "times", "what is left open, up to which a computed course fits what was captured", OWN_RULE)
LOOKED_AT = 20_000  # samples in which a computed course is measured


@dataclass(frozen=True, slots=True)
class Probes:
    """Where a channel was taken: the state, and the nodes under red and black."""

    state: str
    red: str
    black: str


@dataclass(frozen=True, slots=True)
class Explanation:
    """What may be: what it is called, its share (None for the sound circuit), and the faults."""

    says: str
    share: float | None
    faults: tuple[Fault, ...]


@dataclass(frozen=True, slots=True)
class Course:
    """What an explanation would draw: how far it is from what was captured in units of what is left open, and whether that fits; its own
    numbers, ``drawn``, beside those that the engine ``weighed`` there (V, by instrument)."""

    explanation: Explanation
    misfit: float
    fits: bool
    drawn: Measures
    weighed: Mapping[str, float]


def explanations(sheet: Sheet, leading: Isolation | None, fitted: Isolation | None) -> tuple[Explanation, ...]:
    """The sound circuit, and the ``leading`` suspects as faults, as bad as an isolation that has the capture's numbers, too, has ``fitted``
    each of them."""
    found = [Explanation("As it should be", None, ())]
    severities = {(one.part, one.mode): one.severity for one in fitted.suspects} if fitted is not None else {}
    for suspect in leading.suspects if leading is not None else ():
        if suspect.kind != "single" or suspect.part is None or suspect.mode is None or suspect.probability < LEAST_SHARE:
            continue
        severity = severities.get((suspect.part, suspect.mode)) or suspect.severity
        fault = Fault(suspect.part, suspect.mode, severity[0] if severity is not None else None)
        says = f"{capitalized(sheet.parts[suspect.part].called)}: {suspect.words}"
        found.append(Explanation(says, suspect.probability, (fault,)))
        if len(found) > MOST_SUSPECTS:
            break
    return tuple(found)


def seconds_ahead(own: Measures, course: Followed, at: Probes) -> float:
    """By how many seconds a course's time is ahead of the capture's: their pulses rise together."""
    rises, first = course.rises(at.red, at.black), trigger_of(own)
    return float(rises[0]) - first if len(rises) and first is not None else float(course.trace.times[-1])


def course_of(sheet: Sheet, at: Probes, explanation: Explanation, followed: Followed, own: Measures, capture: Capture) -> Course:
    """One explanation beside a capture, of which ``own`` are the channel's numbers; ``followed`` is the circuit in time with its faults.
    Raises PondrelError where the place cannot be measured."""
    count = min(capture.count, LOOKED_AT)
    times = capture.start + np.arange(count) * capture.seconds / count
    values = followed.volts(at.red, at.black, times + seconds_ahead(own, followed, at))
    computed = Capture((Channel("computed", "V", values),), capture.seconds / count, capture.start)
    drawn = measures_of(computed, computed.channels[0])
    weighed = {name: measure(sheet, at.state, name, at.red, at.black, explanation.faults).exact for name in SCOPE_READS}
    away = misfit(own, drawn, SCALE_WITHIN)
    return Course(explanation, away, away < FITS, drawn, weighed)
