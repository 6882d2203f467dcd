"""Valves for vapour, vacuum and boost: what they do at rest comes before their ohms."""

from __future__ import annotations

from collections.abc import Sequence

from ...base.judgement import judged
from ...check import Limit, Verdict
from .. import cautions
from ..case import Case
from ..family import COPPER, YES_NO, Check, Family, Setting
from ..judged import Chart, Judged, Service
from ..winding import SETTINGS, chart_of, good_ohms_of, serve_of

PLACE = 40

USUAL = (15.0, 40.0)  # Ω. Common practice, no source
SOURCE = "common practice, no source"
TANK_KPA = judged("TANK_KPA", 3.5, "kPa", "what a tank system is tried with at the most")
# By resting position: when it must hold, and when it must pass.
_WHEN = {
    "closed": ("unpowered", "powered"),
    "open": ("powered", "unpowered"),
    "three-port": ("at the port that is shut", "at the port that is open"),
}


def _usual(case: Case) -> Limit | None:
    return Limit("Ω", *USUAL, source=SOURCE)


def _good(case: Case) -> float | None:
    return good_ohms_of(case, "ohms", _usual(case))


def _known(case: Case) -> str:
    return "yes" if case.word("rest") in _WHEN else ""


def _serve(case: Case, findings: Sequence[Judged]) -> Service:
    own = serve_of(case, _good(case))
    rest = case.word("rest")
    if rest not in _WHEN:
        return own
    shut, through = _WHEN[rest]
    says = f"At rest it is {rest}: it must hold {shut} and pass {through}."
    leaks = case.answer("holds") == "no"
    means = " It passes where it should hold: vapour, vacuum or boost goes by all the time." if leaks else ""
    return Service({**own.figures, "rest": rest, "must_hold": shut, "must_pass": through}, (says + means, *own.says))


def _advise(case: Case, findings: Sequence[Judged]) -> Sequence[str]:
    says = []
    if not case.word("rest"):
        says.append("Say first what it does at rest: a purge valve is closed, a vent valve open, a change-over valve has three ports.")
    if case.answer("holds") == "no":
        ohms = [found for found in findings if found.check == "ohms" and found.verdict is Verdict.WITHIN]
        says.append("Blow it out and try again; if it still passes it is worn" + (", whatever its ohms say." if ohms else "."))
    if case.answer("click") == "yes" and case.answer("passes") == "no":
        says.append("It clicks and does not pass: its passage is blocked, look for charcoal or dirt.")
    if any(found.verdict is Verdict.OUTSIDE for found in findings):
        says.append("Try the new or used one the same way before it goes in.")
    return says


def _chart(case: Case, findings: Sequence[Judged]) -> Chart | None:
    return chart_of(case, _good(case))


FAMILY = Family(
    "valve",
    "Purge, vent or boost valve",
    "valve purge vent canister wastegate boost vacuum change-over three-port egr normally closed open",
    "ohms",
    (
        Check(
            "ohms",
            "resistance of the winding",
            ("Ω",),
            limit=_usual,
            law=COPPER,
            beyond=("Turns are shorted, or it is the wrong valve.", "A break or a bad joint inside."),
        ),
        Check("click", "it clicks when it is powered", words=YES_NO, bad="It is stuck or its winding is open."),
        Check(
            "holds", "it holds where it must be shut", words=YES_NO, good=_known, bad="It leaks by: it has failed whatever its ohms are."
        ),
        Check("passes", "it passes where it must be open", words=YES_NO, good=_known, bad="It is blocked, or does not move."),
        Check(
            "pressure",
            "what it was tried with",
            ("kPa",),
            limit=lambda case: Limit("kPa", -80.0, TANK_KPA, SOURCE) if case.word("tank") == "yes" else None,
            aside=False,
            beyond=("", "That is more than a tank system bears: let it off, and judge the valve again."),
        ),
        Check("pull_in", "volts at which it clicks", ("V",), limit=lambda case: Limit("V", most=9.0, source=SOURCE)),
    ),
    (cautions.UNPLUGGED, cautions.VAPOUR, cautions.LOW_PRESSURE, cautions.FUSED, cautions.POLARITY),
    (
        Setting("rest", "what it does unpowered", words=tuple(_WHEN)),
        Setting("tank", "it belongs to a tank system", words=YES_NO, usual="yes"),
        *SETTINGS,
    ),
    function=("click", "holds", "passes"),
    aliases={"resistance": "ohms"},
    needed=lambda case: ("rest", "click", "holds", "passes"),
    serve=_serve,
    advise=_advise,
    chart=_chart,
    group="Valves and air",
)
