"""The alternator's belt: deflection, slip by two speeds or by the ripple's frequency, its look and noise, the overrun pulley."""

from __future__ import annotations

import math
from collections.abc import Sequence

from ...base.judgement import judged
from ...base.quantity import show
from ...bench.case import Case
from ...bench.decide import by_number
from ...bench.family import Check, Family, Setting
from ...bench.judged import Figures, Judged, Service
from ...check import Limit, Verdict
from .. import cautions
from ..common import PRACTICE

PLACE = 50

DEFLECTION = (
    judged("BELT_LEAST_MM", 6.0, "mm", "by which a belt gives way under a thumb at the least"),
    judged("BELT_MOST_MM", 13.0, "mm", "by which a belt gives way under a thumb at the most"),
)
SLIP_MOST = judged("BELT_SLIP_MOST", 3.0, "%", "by which an alternator may turn slower than its pulleys say")
PULSES = 6.0  # of a three-phase bridge for each electrical turn

_SLIP = Check("slip", "slip of the belt", ("%",), beyond=("", "The belt slips, or the overrun pulley does not take it along."),
              then="Tension or renew the belt; hold the pulley against both directions.")  # fmt: skip
CHECKS = (
    Check(
        "deflection",
        "how far it gives way under a thumb, in the middle",
        ("mm",),
        limit=lambda case: Limit("mm", *DEFLECTION, source=PRACTICE),
        beyond=("Too tight: it wears bearings.", "Too loose: it slips under load."),
        then="Set the tension, run it a minute, measure again.",
    ),
    Check("engine_rpm", "engine speed", ("rpm",), aside=True),
    Check("alternator_rpm", "alternator speed", ("rpm",), aside=True),
    Check("ripple_hz", "frequency of the ripple at the posts", ("Hz",), aside=True),
    Check(
        "look",
        "what it looks like",
        words=("sound", "cracked or glazed", "oily", "missing"),
        good=lambda case: "sound",
        bad="Renew it; oil on it is found and stopped first.",
    ),
    Check(
        "noise",
        "noise when lamps and blower are switched on",
        words=("none", "squeals"),
        good=lambda case: "none",
        bad="It slips under load.",
    ),
    Check(
        "pulley",
        "the alternator's pulley by hand, belt off",
        words=("turns along one way only", "free both ways", "locked both ways", "a plain one"),
        aside=True,
    ),
    Check(
        "tensioner",
        "tensioner while it runs",
        words=("steady", "jumps or rattles"),
        good=lambda case: "steady",
        bad="It is worn: belt and tensioner are renewed together.",
    ),
)
_PULLEY = {
    "free both ways": "It slips through: the alternator is not driven under load.",
    "locked both ways": "It no longer overruns: belt and tensioner take the blows.",
}


def alternator_rpm(case: Case) -> float | None:
    """Its speed: as read, or by the ripple's frequency and its pole pairs."""
    own, hertz = case.value("alternator_rpm"), case.value("ripple_hz")
    return own if own is not None else 60.0 * hertz / (PULSES * case.number("pole_pairs")) if hertz is not None else None


def _derive(case: Case) -> Sequence[Judged]:
    found = []
    word = case.answer("pulley")
    if word:
        says = _PULLEY.get(word, "As it should be.")
        found.append(Judged("pulley", Verdict.OUTSIDE if word in _PULLEY else Verdict.WITHIN, word, "", f"Pulley: {word}. {says}",
                            then="Renew the pulley, and look at belt and tensioner." if word in _PULLEY else ""))  # fmt: skip
    engine, own = case.read("engine_rpm"), alternator_rpm(case)
    crank, small = case.known("crank_mm"), case.known("pulley_mm")
    if engine is not None and own is not None and crank and small and engine.value > 0.0:
        should = engine.value * crank / small
        slip = 100.0 * (1.0 - own / should)
        told = f"It turns {own:.0f} r/min where the pulleys make {should:.0f}: slip {slip:.1f} %"
        u = 100.0 * math.hypot(case.u(engine) / engine.value, 0.005)
        found.append(by_number(case, _SLIP, slip, u, case.given("slip") or Limit("%", most=SLIP_MOST, source=PRACTICE), told))
    return found


def _serve(case: Case, findings: Sequence[Judged]) -> Service:
    own = alternator_rpm(case)
    figures: Figures = {"alternator_rpm": own}
    says = [f"The alternator turns {show(own, 'rpm')}."] if own is not None and case.value("ripple_hz") is not None else []
    return Service(figures, tuple(says))


FAMILY = Family(
    "belt",
    "Belt and pulley",
    "belt tension deflection slip squeal pulley tensioner alternator",
    "deflection",
    CHECKS,
    ("Engine off and key out before a hand goes near the belt.", cautions.HANDS),
    (
        Setting("crank_mm", "diameter of the crankshaft's pulley", "mm"),
        Setting("pulley_mm", "diameter of the alternator's pulley", "mm"),
        Setting("pole_pairs", "pole pairs of the alternator", "", usual=6.0),
    ),
    derived=(_SLIP,),
    needed=lambda case: () if "look" in case.reads or "ripple_hz" in case.reads or "engine_rpm" in case.reads else ("deflection",),
    derive=_derive,
    serve=_serve,
    compared=False,
    group="Starting and charging",
)
