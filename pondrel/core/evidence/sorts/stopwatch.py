"""A delay by stopwatch: how long a timed relay waits, beside what its resistor and capacitor make it wait."""

from __future__ import annotations

import math
import re
from collections.abc import Mapping

import numpy as np

from ...base.arrays import Floats
from ...base.brief import quoted
from ...base.errors import ReadingError
from ...base.judgement import judged
from ...base.special import ndtr
from ...circuit.fault import mode_of
from ...circuit.network import Cases, Network
from ...circuit.operate import Points, operating_points
from ...circuit.part import DRY_SHARE, Effect, Timed
from ...circuit.sheet import Sheet
from ..asked import Measurement, Question
from ..items import Observation
from ..sort import WordSort, World

PLACE = 12

STOPWATCH_MINUTES = judged("STOPWATCH_MINUTES", 0.5, "min", "to time a delay, besides the delay itself")
TIMING_BLUR = judged("TIMING_BLUR", 0.15, "share", "how far delays of sound relays, and two thumbs, are apart")
MISTIMED = judged("MISTIMED", 0.03, "share", "delays that are taken wrongly")
_SHORT, _LONG = 0.65, 1.5  # times the computed delay from which on it is too short or too long
_LONGEST_SECONDS = 3600.0
_SECONDS = re.compile(r"(\d{1,5}(?:[.,]\d{1,3})?)\s*(s|sec|seconds|ms|min)?", re.IGNORECASE)
_UNITS = {"s": 1.0, "sec": 1.0, "seconds": 1.0, "ms": 1e-3, "min": 60.0}


class Stopwatch(WordSort):
    """The delay of a timed relay; seconds are weighed as what they are of the computed delay."""

    name, title, words = "delay", "Stopwatch", "how long a timed relay waits"
    verbs = ("delay",)
    also = {"stopwatch": "delay", "timer": "delay"}
    refusal = "has no delay of its own that could be timed"
    answers = {"as it should": ("ok", "right"), "too short": ("short", "at once"), "too long": ("long", "late"), "never": ("ol", "none")}
    wants_state = True
    from_circuit = True
    numbers = "3.2 s"
    shows_more = True

    def subjects(self, sheet: Sheet) -> tuple[str, ...]:
        """Parts with a delay."""
        return tuple(name for name, part in sheet.parts.items() if part.kind.delay is not None)

    def on_offer(self, sheet: Sheet) -> tuple[Question, ...]:
        """Every delay, in the states in which something triggers it."""
        triggered = [(part, state) for part in self.subjects(sheet) for state in sheet.states if computed_delay(sheet, part, state) > 0.0]
        return tuple(Question(self.name, *each) for each in triggered if math.isfinite(computed_delay(sheet, *each)))

    def state_for(self, sheet: Sheet, subject: str, state: str, named: bool) -> str:
        """The state that triggers it."""
        return state

    def observe(self, sheet: Sheet, subject: str, outcome: str, state: str = "", note: str = "") -> Observation:
        """As `WordSort.observe`; seconds stand for a word."""
        seconds = _seconds(outcome)
        self.check_subject(sheet, subject)
        if seconds is None:
            if outcome.strip().lower() not in {word for name, others in self.answers.items() for word in (name, *others)}:
                raise ReadingError(
                    f"{quoted(outcome)} is no delay of {subject}: write seconds, such as 3.2 s, or {' or '.join(self.answers)}."
                )
            return super().observe(sheet, subject, outcome, state, note)
        sheet.state(state)
        found = computed_delay(sheet, subject, state)
        if not math.isfinite(found):
            words = f"{subject} is never triggered in state {state} as it is drawn, so no delay can be compared: say in which state it is."
            raise ReadingError(words)
        share = seconds / max(found, 1e-3)
        word = "too short" if share < _SHORT else "too long" if share > _LONG else "as it should"
        told = f"{outcome.strip()}, where {found:.3g} s are computed"
        return Observation(self.name, subject, word, state, "; ".join(filter(None, (told, note))))

    def minutes(self, sheet: Sheet, test: Measurement | Question, leads: frozenset[str]) -> float:
        """As long as it should take, and somebody to press the watch."""
        delay = computed_delay(sheet, test.red, test.state)
        return STOPWATCH_MINUTES + min(delay, _LONGEST_SECONDS) / 60.0 if math.isfinite(delay) else STOPWATCH_MINUTES

    def asks(self, sheet: Sheet, test: Measurement | Question) -> str:
        """What to time, and against what."""
        delay = computed_delay(sheet, test.red, test.state)
        against = f": {delay:.3g} s are computed" if math.isfinite(delay) else ""
        return f"Time how long {sheet.parts[test.red].spoken} waits once it is triggered{against}"

    def chances(self, world: World, question: Question) -> Floats:
        """How likely each word is, by the delay of each row beside the sound one."""
        delays = self._delays(world, question)
        sound = float(delays[0])
        never = np.where(np.isfinite(delays), 0.0, 1.0)
        if not math.isfinite(sound) or sound <= 0.0:  # nothing triggers it: whether it is late cannot be told
            return np.ones((len(delays), len(self.answers)))
        logs = np.log(np.maximum(np.where(np.isfinite(delays), delays, sound), 1e-6) / sound)
        above_short, above_long = (ndtr((logs - math.log(bound)) / TIMING_BLUR) for bound in (_SHORT, _LONG))
        words = np.stack([above_short - above_long, 1.0 - above_short, above_long, np.zeros_like(logs)], axis=1)
        words = words * (1.0 - never[:, None])
        words[:, 3] = never
        mistaken: Floats = words * (1.0 - MISTIMED) + MISTIMED / words.shape[1]
        return mistaken

    def outcomes(self, sheet: Sheet, subject: str) -> Mapping[str, tuple[str, ...]]:
        """The words, of a part that has a delay."""
        return self.answers if subject in self.subjects(sheet) else {}

    def _delays(self, world: World, question: Question) -> Floats:
        """(M,) seconds, infinite for never."""
        points, part = world.points(question.state), question.subject
        left = world.by_cause(np.array([_left(world.sheet, cause.part, cause.mode, part) for cause in world.causes]))
        return _delays(points, part, left)


def computed_delay(sheet: Sheet, part: str, state: str) -> float:
    """Seconds that a sound part waits in a state, infinite where nothing triggers it."""
    network = Network.of(sheet, state)
    points = operating_points(network, Cases.healthy(), network.positions(state))
    return float(_delays(points, part, np.ones(1))[0])


def _delays(points: Points, name: str, left: Floats) -> Floats:
    """(M,) seconds of a part; ``left`` (M,) is the share of its capacitance that is left."""
    part = points.network.sheet.parts[name]
    delay, farads = part.kind.delay, sum(element.farads for element in part.elements())
    assert delay is not None
    own = [(element, i) for i, (owner, element) in enumerate(points.network.keys) if owner == name]
    across, ohms = points.volts_across(np.array([i for _, i in own])), {element: points.ohms_of(np.array([i]))[:, 0] for element, i in own}
    rows = range(len(across))
    volts_of = [{element: float(volts) for (element, _), volts in zip(own, across[row], strict=True)} for row in rows]
    ohms_of = [{element: float(ohms[element][row]) for element, _ in own} for row in rows]
    return np.array([delay(Timed(part.params, volts_of[row], ohms_of[row], farads * float(left[row]))) for row in rows])


def _seconds(text: str) -> float | None:
    """Seconds from text such as ``3.2 s``; None where it is no time."""
    found = _SECONDS.fullmatch(text.strip())
    if found is None:
        return None
    seconds = float(found[1].replace(",", ".")) * _UNITS[(found[2] or "s").lower()]
    if seconds > _LONGEST_SECONDS:
        raise ReadingError(f"{quoted(text)} is longer than any relay waits: say 'never' where nothing came.")
    return seconds


def _left(sheet: Sheet, part: str | None, mode: str | None, subject: str) -> float:
    """The share of its capacitance that a part has left under a fault."""
    if part != subject or mode is None:
        return 1.0
    return DRY_SHARE if any(effect is Effect.DRY for _, effect in mode_of(sheet, part, mode).effects) else 1.0


SORTS = (Stopwatch(),)
