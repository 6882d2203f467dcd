"""Rectifiers by themselves: each diode both ways, mean of the bridge, ripple and its pulses."""

from __future__ import annotations

import math
from collections.abc import Sequence

from ...base.judgement import judged
from ...base.quantity import show
from ...check import Limit, Verdict
from .. import cautions
from ..case import Case
from ..common import RIPPLE_MOST
from ..decide import by_number
from ..family import YES_NO, Check, Column, Family, Setting
from ..judged import Figures, Judged, Service
from .stator import BRIDGE

PLACE = 190

SOURCE = "common practice, no source"
DIODE_WORDS = ("one way only", "both ways", "neither way")
FORWARD = (0.35, 0.8)  # V by diode test, silicon. Common practice, no source
MEAN_WITHIN = judged("MEAN_WITHIN", 10.0, "%", "how far a bridge's mean may be from 1.35 times its volts less two diodes")
_MEAN = Check("mean", "the bridge's mean by its volts", ("V",), beyond=("A diode is open: pulses are missing.", ""))


def _forward(case: Case) -> Limit:
    return Limit("V", *FORWARD, source=f"{SOURCE}: silicon, diode test")


def _derive(case: Case) -> Sequence[Judged]:
    found = []
    for row in case.rows:
        name, read, blocks = row["diode"].typed, row["forward"], row["blocks"].word
        check = Check(f"forward {name}", "", ("V",), beyond=("This diode is shorted.", "This diode is open."))
        found.append(
            by_number(
                case, check, read.value, case.u(read), case.given("forward") or _forward(case), f"{name} forward {show(read.value, 'V')}"
            )
        )
        if blocks == "no":
            found.append(
                Judged(
                    f"blocks {name}",
                    Verdict.OUTSIDE,
                    "no",
                    "",
                    f"{name} lets through both ways: it is shorted.",
                    then="A shorted diode drains the battery at rest and burns the stator: renew the bridge.",
                )
            )
        else:
            found.append(Judged(f"blocks {name}", Verdict.WITHIN, "yes", "", f"{name} blocks the other way round."))
    ac, dc = case.read("ac"), case.read("dc")
    if ac and dc:
        expected = BRIDGE * ac.value - 2.0 * case.number("diode_v")
        part = abs(expected) * MEAN_WITHIN / 100.0
        limit = case.given("mean") or Limit(
            "V",
            expected - part,
            expected + part,
            f"three-phase bridge, 1.35·U less two diodes; ± {MEAN_WITHIN:.0f} %: {SOURCE}",
            "standard",
        )
        told = f"{show(ac.value, 'V')} between the lines make {show(expected, 'V')}, and {show(dc.value, 'V')} are read"
        found.append(by_number(case, _MEAN, dc.value, math.hypot(case.u(dc), BRIDGE * case.u(ac)), limit, told))
    return found


def _serve(case: Case, findings: Sequence[Judged]) -> Service:
    ac = case.value("ac")
    bad = [found.check for found in findings if found.verdict is Verdict.OUTSIDE and found.check.startswith(("forward", "blocks"))]
    figures: Figures = {
        "expected_v": BRIDGE * ac - 2.0 * case.number("diode_v") if ac else None,
        "bad_diodes": float(len(bad)),
    }
    says = [f"{len(bad)} of its diodes fail." if bad else "Every diode that was read conducts one way only."] if case.rows else []
    return Service(figures, tuple(says))


FAMILY = Family(
    "rectifier",
    "Rectifier",
    "rectifier bridge diode plate alternator ripple six diodes",
    "ripple",
    (
        Check(
            "ripple",
            "ripple at the battery post, peak to peak",
            ("V",),
            limit=lambda case: Limit("V", most=RIPPLE_MOST, source=SOURCE),
            beyond=("", "A diode is open or shorted."),
        ),
        Check(
            "pulses",
            "pulses for each electrical turn",
            ("",),
            exact=True,
            limit=lambda case: Limit("", 6.0, 6.0, "six of a three-phase bridge", "standard"),
            beyond=("Pulses are missing: a diode is open.", ""),
        ),
        Check("ac", "volts between two lines, effective", ("V",), aside=True),
        Check("dc", "mean behind it, no battery", ("V",), aside=True),
        Check(
            "diodes",
            "all diodes, both ways round",
            words=DIODE_WORDS,
            good=lambda case: DIODE_WORDS[0],
            bad="Renew the rectifier; look at stator, plug and battery before the new one goes in.",
        ),
        Check("hot", "it gets no hotter than its neighbours", words=YES_NO, bad="A diode that heats up is failing."),
    ),
    (cautions.UNPLUGGED, cautions.LEFT_ON, "Solder the phases off, or each diode is read through the windings."),
    (Setting("diode_v", "volts of one diode under load", "V", usual=0.7),),
    (
        Column("diode", "which diode", free=True),
        Column("forward", "forward, by diode test", "V"),
        Column("blocks", "it blocks the other way", words=YES_NO),
    ),
    (_MEAN, Check("forward", "each diode forward", ("V",))),
    ("hot",),
    derive=_derive,
    serve=_serve,
    rows=lambda case: [(name, "") for name in ("A+", "B+", "C+", "A-", "B-", "C-")],
    kinds=("rectifier_bridge",),
    table="Diode by diode",
    group="Charging",
)
