"""Terminators of a bus: the ohms between both lines say how many ends are there (ISO 11898-2: 120 Ω at each of two ends)."""

from __future__ import annotations

from collections.abc import Sequence

from ...base.judgement import judged
from ...check import Limit, Verdict
from .. import cautions
from ..case import Case
from ..family import YES_NO, Check, Family, Setting
from ..judged import Judged, Service

PLACE = 260

END_OHMS = 120.0  # ISO 11898-2
ENDS_WITHIN = judged("ENDS_WITHIN", 10.0, "%", "how far the ohms of a bus's ends may be from 120 Ω each")


def _ends(case: Case) -> float:
    return case.number("ends")


def _limit(case: Case) -> Limit:
    ohms = case.known("expected") or END_OHMS / max(_ends(case), 1.0)
    part = ohms * ENDS_WITHIN / 100.0
    kind = "given" if case.known("expected") else "standard"
    return Limit("Ω", ohms - part, ohms + part, f"ISO 11898-2: {_ends(case):g} ends of 120 Ω; ± {ENDS_WITHIN:.0f} %: common practice", kind)


def _tells(case: Case, ohms: float) -> str:
    if ohms < 5.0:
        return "Both lines touch, or a module's input is shorted."
    for ends in (1, 2, 3, 4):
        if abs(ohms * ends / END_OHMS - 1.0) <= 0.12:
            here = (
                "as it should be"
                if ends == _ends(case)
                else "one end is missing or its line is open"
                if ends < _ends(case)
                else "one end too many"
            )
            return f"That is {ends} end{'s' if ends > 1 else ''}: {here}."
    if ohms > 1000.0:
        return "No end is reached from here: both are missing, or the line is open at the plug."
    return "That is no number of whole ends: a line to ground or supply, a bad end, or a joint."


def _serve(case: Case, findings: Sequence[Judged]) -> Service:
    ohms = case.value("ohms")
    return Service({"ends": END_OHMS / ohms if ohms and ohms < 1e6 else 0.0}, (_tells(case, ohms),)) if ohms is not None else Service()


def _advise(case: Case, findings: Sequence[Judged]) -> Sequence[str]:
    if any(found.verdict is Verdict.OUTSIDE for found in findings):
        return ("Battery off, wait until all is asleep, read again; then unplug module by module and watch when the number changes.",)
    return ()


FAMILY = Family(
    "terminator",
    "Bus terminator",
    "terminator termination can bus 120 60 ohm end resistor",
    "ohms",
    (
        Check("ohms", "between both lines, battery off", ("Ω",), limit=_limit, beyond=("Too few ohms.", "Too many ohms.")),
        Check(
            "high_ground",
            "line high to ground",
            ("Ω",),
            limit=lambda case: Limit("Ω", 1e3, source="common practice, no source"),
            beyond=("That line touches ground.", ""),
        ),
        Check(
            "low_ground",
            "line low to ground",
            ("Ω",),
            limit=lambda case: Limit("Ω", 1e3, source="common practice, no source"),
            beyond=("That line touches ground.", ""),
        ),
        Check("asleep", "battery off and all asleep while it was read", words=YES_NO, bad="On a live bus ohms mean nothing."),
    ),
    (cautions.DEAD, "No lamp and no load on a bus line.", cautions.AIRBAG),
    (
        Setting("ends", "how many ends of 120 Ω lie on this side of any gateway", usual=2.0),
        Setting("expected", "what the sheet says instead", "Ω"),
    ),
    serve=_serve,
    advise=_advise,
    kinds=("bus_terminator",),
    group="Fuses, switches, plugs",
)
