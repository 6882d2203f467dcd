"""The judge: a limit and a reading come to a finding.

Decision rules as in ISO 14253-1:2017 and JCGM 106: with a guard band of 1.65·u on either side of an edge (a chance of 95 % at one edge), a
value is within where it lies within by more than that, outside where it lies outside by more, and in between the meter cannot decide.
The resistance of the leads is in every reading of ohms, from nothing to what such leads have: it is noted, or the guard is wider there.
"""

from __future__ import annotations

import math

from ..base.conditions import Conditions, Units
from ..base.judgement import judged
from ..base.quantity import show
from ..base.special import ndtr
from .finding import Finding, Verdict
from .laws import Law, brought_to, fixed
from .limit import Limit, spelled

__all__ = ["COVERAGE", "LEADS_MOST_OHMS", "judge"]

COVERAGE = 1.65  # standard uncertainties in the guard band: 95 % at one edge (ISO 14253-1:2017; normal distribution)
LEADS_MOST_OHMS = judged("LEADS_MOST_OHMS", 0.2, "Ω", "what test leads and clips add at most to a reading of ohms where nobody noted it")

_MEANS = {
    Verdict.WITHIN: "It is as it should be.",
    Verdict.TOO_CLOSE: "It lies so near to the edge that this meter cannot tell on which side.",
}
_NEXT = {
    Verdict.WITHIN: "Go on: this is not what is wrong.",
    Verdict.TOO_CLOSE: "Read it on a finer range or a better meter, with the leads zeroed, or compare it with a known-good one.",
}
# By unit and side: what a number beyond a limit means, and what to do about it.
_BEYOND = {
    ("V", "below"): ("Less arrives than should: it is lost before this point.", "Walk the drop towards the source, under load."),
    ("V", "above"): (
        "More is lost, or stands here, than should.",
        "Clean and tighten what lies between the leads; read it again under load.",
    ),
    ("Ω", "below"): ("Too few ohms: shorted turns, or another path beside it.", "Unplug it and read it by itself."),
    ("Ω", "above"): ("Too many ohms: a break, a bad joint, or heat.", "Read it at the part itself, with good clips, cold."),
    ("A", "below"): ("Too little current: there is resistance somewhere in its way.", "Read the volts that it gets while it works."),
    ("A", "above"): ("Too much current: it is shorted, jammed or overloaded.", "Unplug it and see whether the current goes."),
}
_ELSE = ("It is not as it should be.", "Read it once more, then compare it with a known-good one.")


def judge(
    limit: Limit, value: float, uncertainty: float, noted: Conditions | None = None, law: Law = fixed, units: Units | None = None
) -> Finding:
    """Judge a ``value`` (in the limit's unit; infinite for over range) with its standard ``uncertainty`` and the conditions noted; ``law``
    says how it changes with them, ``units`` in which units conditions are told."""
    noted = Conditions() if noted is None else noted
    if not math.isfinite(value):
        verdict = Verdict.WITHIN if limit.keeps(value) else Verdict.OUTSIDE
        return _finding(limit, verdict, value, value, 0.0, float(verdict is Verdict.WITHIN), Conditions(), units)
    brought = brought_to(law, value, noted, limit.conditions)
    # What the meter may be off by is brought along with the number.
    u = math.hypot(uncertainty * (abs(brought.high / value) if value else 1.0), brought.spread)
    guard = COVERAGE * u
    # Leads can only have added to a reading of ohms.
    leads = LEADS_MOST_OHMS if limit.unit == "Ω" and noted.lead_ohms is None else 0.0
    low, high = brought.low - leads, brought.high
    inside = low - guard >= limit.least and high + guard <= limit.most
    outside = high + guard < limit.least or low - guard > limit.most
    if brought.missing and not (brought.low < brought.high and (inside or outside)):
        return _finding(limit, Verdict.NOT_COMPARABLE, value, None, guard, None, brought.missing, units)
    middle = (low + high) / 2.0
    verdict = Verdict.WITHIN if inside else Verdict.OUTSIDE if outside else Verdict.TOO_CLOSE
    chance = _within_chance(limit, middle, math.hypot(u, (high - low) / math.sqrt(12.0)))
    return _finding(limit, verdict, value, brought.high if brought.low == brought.high else None, guard, chance, Conditions(), units)


def _within_chance(limit: Limit, value: float, u: float) -> float:
    """The chance that the true value lies within (JCGM 106, 7.2: no prior but the reading)."""
    if u <= 0.0:
        return float(limit.keeps(value))
    return float(ndtr((limit.most - value) / u) - ndtr((limit.least - value) / u))


def _by(limit: Limit, verdict: Verdict, told: float) -> str:
    """By how much a number is within or outside, where that can be said."""
    if not math.isfinite(told) or verdict not in (Verdict.WITHIN, Verdict.OUTSIDE):
        return ""
    return f" by {show(abs(limit.beyond(told)), limit.unit)}"


def _finding(
    limit: Limit,
    verdict: Verdict,
    value: float,
    brought: float | None,
    guard: float,
    chance: float | None,
    missing: Conditions,
    units: Units | None,
) -> Finding:
    told = value if brought is None else brought
    at = f", {show(told, limit.unit)} {limit.conditions.shown(units)}" if brought is not None and told != value else ""
    by = _by(limit, verdict, told)
    why = {Verdict.TOO_CLOSE: "; the meter cannot decide", Verdict.NOT_COMPARABLE: f"; note {missing.shown(units)} beside the number"}
    says = f"{verdict}{by}{at}: {spelled(limit, units)}{why.get(verdict, '')}"
    if verdict is Verdict.OUTSIDE:
        means, then = _BEYOND.get((limit.unit, "below" if told < limit.least else "above"), _ELSE)
    elif verdict is Verdict.NOT_COMPARABLE:
        means, then = "The limit hangs on what was not noted.", f"Read it again and note {missing.shown(units)} beside the number."
    else:
        means, then = _MEANS[verdict], _NEXT[verdict]
    return Finding(limit, verdict, value, brought, guard, chance, says, means, then)
