"""Heaters and glow plugs by themselves."""

from __future__ import annotations

from collections.abc import Sequence

from ...base.judgement import judged
from ...base.quantity import show
from ...check import Limit, Verdict
from .. import cautions
from ..case import Case
from ..family import YES_NO, Check, Family, Setting
from ..judged import Judged, Service

PLACE = 250

SOURCE = "common practice, no source"
HEATER_WITHIN = judged("HEATER_WITHIN", 15.0, "%", "how far a heating wire's ohms may be from what its watts make")
GLOW_COLD = (0.3, 2.0)  # Ω of a 12 V glow plug, cold. Common practice, no source
GLOW_AMPS = (4.0, 20.0)  # A of one after ten seconds. Common practice, no source


def _ohms(case: Case) -> Limit | None:
    if case.word("sort") == "glow plug":
        return Limit("Ω", *GLOW_COLD, source=f"{SOURCE}: 12 V glow plug, cold")
    watts = case.known("watts")
    if not watts or case.word("sort") == "self-limiting":
        return None
    ohms = case.number("volts") ** 2 / watts
    return Limit(
        "Ω",
        ohms * (1 - HEATER_WITHIN / 100),
        ohms * (1 + HEATER_WITHIN / 100),
        f"{SOURCE}: {watts:g} W at {case.number('volts'):g} V ± {HEATER_WITHIN:.0f} %",
    )


def _amps(case: Case) -> Limit | None:
    if case.word("sort") == "glow plug":
        return Limit("A", *GLOW_AMPS, source=f"{SOURCE}: one glow plug after ten seconds")
    watts = case.known("watts")
    if not watts:
        return None
    rated = watts / case.number("volts")
    return Limit(
        "A", rated * (1 - HEATER_WITHIN / 100), rated * (1 + HEATER_WITHIN / 100), f"{SOURCE}: {watts:g} W ± {HEATER_WITHIN:.0f} %"
    )


def _serve(case: Case, findings: Sequence[Judged]) -> Service:
    ohms, volts = case.value("ohms"), case.number("volts")
    if not ohms or ohms > 1e6:
        return Service({"watts": 0.0}, ("Open: it heats nothing.",)) if ohms else Service()
    return Service(
        {"amps": volts / ohms, "watts": volts**2 / ohms},
        (f"{show(ohms, 'Ω')} draw {show(volts / ohms, 'A')} and make {show(volts**2 / ohms, 'W')} at {show(volts, 'V')}.",),
    )


def _advise(case: Case, findings: Sequence[Judged]) -> Sequence[str]:
    if case.word("sort") == "glow plug" and any(found.verdict is Verdict.OUTSIDE for found in findings):
        return ("Read all of them the same way: the ones that were fitted together age together. Loosen them warm, they break off cold.",)
    return ()


FAMILY = Family(
    "heater",
    "Heater or glow plug",
    "heater glow plug seat mirror rear window element ptc",
    "ohms",
    (
        Check("ohms", "its ohms, cold", ("Ω",), limit=_ohms, beyond=("It is shorted: its fuse goes.", "It is open, or a strand is.")),
        Check("amps", "its current, warm", ("A",), limit=_amps, beyond=("Part of it does not heat.", "It is shorted.")),
        Check(
            "case",
            "from the heating wire to its case",
            ("Ω",),
            limit=lambda case: None if case.word("sort") == "glow plug" else Limit("Ω", 100e3, source=SOURCE),
            beyond=("It touches its case.", ""),
        ),
        Check("warms", "it gets warm everywhere", words=YES_NO, bad="Where it stays cold a strand is broken."),
    ),
    (cautions.UNPLUGGED, cautions.FUSED, cautions.HOT, "A ceramic glow plug is never tried in the open: it bursts."),
    (
        Setting("sort", "what it is", words=("wire", "self-limiting", "glow plug"), usual="wire"),
        Setting("watts", "its watts", "W"),
        Setting("volts", "its volts", "V", usual=12.0),
    ),
    function=("warms",),
    serve=_serve,
    advise=_advise,
    kinds=("heater", "glow_plug"),
    group="Loads",
)
