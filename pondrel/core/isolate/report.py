"""Everything that follows from a sheet and its readings, in one value: what the screens show and the command line prints."""

from __future__ import annotations

import math
from dataclasses import dataclass

import numpy as np

from .advise import Advice, advise
from .belief import Belief, update
from .evidence import Reading
from .proof import CERTAIN, Standing, inseparable, proof_tests, standing
from .responses import Workup

__all__ = ["Isolation", "Misfit", "Suspect", "isolate"]

MISFIT_SIGMA = 4.0
_LEADING = 0.02  # a reading is the odd one out when it fits no suspect above this


@dataclass(frozen=True, slots=True)
class Suspect:
    """A hypothesis with its probability: ``severity`` (median, 5 %, 95 %) in ohms; per reading what it would be and the misfit in σ."""

    part: str | None
    mode: str | None
    words: str
    probability: float
    prior: float
    severity: tuple[float, float, float] | None
    expected: tuple[float, ...]
    scores: tuple[float, ...]


@dataclass(frozen=True, slots=True)
class Misfit:
    """A reading that fits none of the leading suspects; ``sigma`` is its least distance from one."""

    reading: int
    sigma: float
    says: str


@dataclass(frozen=True)
class Isolation:
    """The state of a trace. ``suspects`` by descending probability; ``groups`` of parts that no test separates; ``next`` best first."""

    belief: Belief
    suspects: tuple[Suspect, ...]
    groups: tuple[tuple[str, ...], ...]
    next: tuple[Advice, ...]
    misfits: tuple[Misfit, ...]
    standing: Standing

    def as_json(self) -> dict[str, object]:
        """The command line's answer; a suspect whose part is None stands for "nothing on this sheet is wrong"."""
        return {
            "suspects": [
                {"part": s.part, "mode": s.mode, "probability": s.probability, "severity": _severity(s.severity)} for s in self.suspects
            ],
            "groups": [list(group) for group in self.groups],
            "next": [
                {
                    "instrument": a.test.instrument, "red": a.test.red, "black": a.test.black, "state": a.test.state,
                    "minutes": round(a.minutes, 2), "gain_bits": a.gain_bits,
                    "expect": [{"part": e.part, "mode": e.mode, "value": _number(e.value)} for e in a.expect],
                }
                for a in self.next
            ],
            "misfits": [{"reading": m.reading + 1, "sigma": m.sigma, "says": m.says} for m in self.misfits],
        }  # fmt: skip


def isolate(workup: Workup, readings: tuple[Reading, ...]) -> Isolation:
    """Rank the faults, group what cannot be told apart, propose the next tests. The same inputs give the same answer.

    While a target leads with certainty but without proof, the tests that would prove it come first.
    """
    belief = update(workup, readings)
    groups = inseparable(belief)
    now = standing(belief, groups)
    proposals = advise(belief)
    if now.target and now.probability >= CERTAIN and not now.ready:
        proving = proof_tests(belief, now.target)
        proposals = (*proving, *(a for a in proposals if a.test not in {p.test for p in proving}))[:5]
    return Isolation(belief, _suspects(belief), groups, proposals, _misfits(belief), now)


def _suspects(belief: Belief) -> tuple[Suspect, ...]:
    hypotheses = belief.workup.hypotheses
    order = np.argsort(-belief.probability, kind="stable")
    return tuple(
        Suspect(
            hypotheses.items[h].part, hypotheses.items[h].mode, hypotheses.items[h].words,
            float(belief.probability[h]), float(hypotheses.prior[h]), belief.severity[h],
            tuple(belief.expected[h].tolist()), tuple(belief.scores[h].tolist()),
        )
        for h in order.tolist()
    )  # fmt: skip


def _misfits(belief: Belief) -> tuple[Misfit, ...]:
    leading = np.flatnonzero(belief.probability >= _LEADING)
    made = []
    for i in range(len(belief.readings)):
        sigma = float(np.abs(belief.scores[leading, i]).min())
        if belief.odd[leading, i].min() > 0.5 and sigma >= MISFIT_SIGMA:
            made.append(Misfit(i, sigma, f"Reading {i + 1} fits none of the leading suspects ({sigma:.0f} σ from the nearest): repeat it."))
    return tuple(made)


def _severity(severity: tuple[float, float, float] | None) -> dict[str, object] | None:
    if severity is None:
        return None
    value, low, high = severity
    return {"value": value, "low": low, "high": high, "unit": "ohm"}


def _number(value: float) -> float | str:
    return "OL" if math.isinf(value) else value
