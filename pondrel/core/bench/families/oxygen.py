"""Oxygen sensors of the switching sort by themselves: what they swing to, how often, and their heater."""

from __future__ import annotations

from collections.abc import Sequence

from ...base.judgement import judged
from ...base.quantity import show
from ...check import Limit, Verdict
from .. import cautions
from ..case import Case
from ..family import YES_NO, Check, Family, Setting
from ..judged import Judged, Service

PLACE = 130

SOURCE = "common practice, no source"
LEAN_MOST = judged("LEAN_MOST", 0.2, "V", "what a switching oxygen sensor shows in lean gas at the most")
RICH_LEAST = judged("RICH_LEAST", 0.7, "V", "what a switching oxygen sensor shows in rich gas at the least")
SWINGS_LEAST = judged("SWINGS_LEAST", 5.0, "times", "in ten seconds that a warm one crosses 0.45 V at 2000 rpm at the least")
RESPONSE_MOST = judged("RESPONSE_MOST", 0.3, "s", "that a warm one takes from lean to rich at the most")
HEATER = (2.0, 20.0)  # Ω cold. Common practice, no source


def _serve(case: Case, findings: Sequence[Judged]) -> Service:
    ohms = case.value("heater")
    if not ohms or ohms > 1e6:
        return Service({}, ("Its heater is open: it wakes late, or never at idle.",)) if ohms else Service()
    amps = case.number("supply") / ohms
    return Service(
        {"heater_a": amps, "heater_w": amps * case.number("supply")},
        (f"Cold its heater draws {show(amps, 'A')} from {show(case.number('supply'), 'V')}.",),
    )


def _advise(case: Case, findings: Sequence[Judged]) -> Sequence[str]:
    bad = {found.check for found in findings if found.verdict is Verdict.OUTSIDE}
    if bad & {"rich", "lean", "swings"}:
        return (
            "First the gas: a leak before the sensor reads lean, a leaking injector rich. Give it propane and air by hand and look again.",
        )
    return ()


FAMILY = Family(
    "oxygen",
    "Oxygen sensor",
    "oxygen lambda o2 sensor exhaust heater zirconia switching",
    "rich",
    (
        Check(
            "rich",
            "volts in rich gas",
            ("V",),
            limit=lambda case: Limit("V", RICH_LEAST, 1.1, SOURCE),
            beyond=("It does not come up: it is cold, poisoned or old.", "Heater volts get into its signal."),
        ),
        Check(
            "lean",
            "volts in lean gas",
            ("V",),
            limit=lambda case: Limit("V", -0.2, LEAN_MOST, SOURCE),
            beyond=("It is driven below nought: air in its reference, or its ground.", "It does not come down."),
        ),
        Check(
            "swings",
            "times that it crosses the middle in ten seconds, warm, 2000 rpm",
            ("",),
            exact=True,
            limit=lambda case: Limit("", SWINGS_LEAST, source=SOURCE),
            beyond=("It is lazy.", ""),
        ),
        Check(
            "response",
            "from lean to rich",
            ("s",),
            limit=lambda case: Limit("s", most=RESPONSE_MOST, source=SOURCE),
            beyond=("", "It is lazy."),
        ),
        Check(
            "heater",
            "its heater, cold",
            ("Ω",),
            limit=lambda case: Limit("Ω", *HEATER, source=SOURCE),
            beyond=("The heater is shorted: its fuse will go.", "The heater is open."),
        ),
        Check(
            "heater_case",
            "from the heater to its case",
            ("Ω",),
            limit=lambda case: Limit("Ω", 100e3, source=SOURCE),
            beyond=("The heater touches its case.", ""),
        ),
        Check(
            "clean", "its tip is neither sooty, white nor oily", words=YES_NO, bad="What fouled it comes first: mixture, oil or coolant."
        ),
    ),
    (cautions.NO_BACKFEED, "Its signal is never read with an ohmmeter.", cautions.HOT),
    (Setting("supply", "volts of its heater", "V", usual=12.6),),
    function=("swings", "response"),
    serve=_serve,
    advise=_advise,
    kinds=("oxygen_sensor",),
    group="Sensors",
)
