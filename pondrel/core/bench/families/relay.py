"""Relays by themselves: coil, pull-in, drop-out, contact under load, and what damps the coil."""

from __future__ import annotations

from collections.abc import Sequence

from ...base.judgement import judged
from ...base.quantity import show
from ...check import Limit, Verdict
from .. import cautions
from ..case import Case
from ..family import COPPER, YES_NO, Check, Family, Setting
from ..judged import Chart, Judged, Service
from ..winding import SETTINGS, chart_of, good_ohms_of, serve_of, winding_of

PLACE = 20

COIL = (60.0, 110.0)  # Ω of a 12 V relay; four times that of a 24 V one. Common practice, no source
SOURCE = "common practice, no source"
CONTACT_DROP = judged("CONTACT_DROP", 0.1, "V", "lost in a relay's closed contact at its working current at the most")
PULLS_IN = judged("RELAY_PULLS_IN", 8.0, "V", "a 12 V relay on the bench pulls in at this at most")
DROPS_OUT = judged("RELAY_DROPS_OUT", 1.2, "V", "a 12 V relay on the bench drops out at this at least")
DIODE = (0.3, 0.9)  # V across a damping diode by a meter's diode test. Common practice, no source


def twice(case: Case) -> float:
    """How many times 12 V the system has."""
    return 2.0 if case.word("system") == "24 V" else 1.0


def _coil(case: Case) -> Limit | None:
    factor = twice(case) ** 2
    return Limit("Ω", COIL[0] * factor, COIL[1] * factor, f"{SOURCE}: {case.word('system')} relay")


def _good(case: Case) -> float | None:
    return good_ohms_of(case, "coil", _coil(case))


def _serve(case: Case, findings: Sequence[Judged]) -> Service:
    own = winding_of(case, "coil")
    return serve_of(case, _good(case), own) if own else Service()


def _chart(case: Case, findings: Sequence[Judged]) -> Chart | None:
    own = winding_of(case, "coil")
    return chart_of(case, _good(case), own) if own else None


def _diode(case: Case) -> Limit | None:
    return Limit("V", *DIODE, source=f"{SOURCE}: silicon diode, diode test") if case.word("damping") == "diode" else None


def _advise(case: Case, findings: Sequence[Judged]) -> Sequence[str]:
    says = []
    drop = next((found for found in findings if found.check == "contact_drop"), None)
    amps = case.known("amps")
    if drop and amps and isinstance(drop.value, float):
        says.append(
            f"{show(drop.value, 'V')} at {show(amps, 'A')} are "
            f"{show(drop.value / amps, 'Ω')} and {show(drop.value * amps, 'W')} in the contact."
        )
    if drop is None and case.reads.get("contact_ohms"):
        says.append("Ohms of a contact without load say little: read its drop at the working current.")
    if case.word("damping") == "none":
        says.append("Without diode or resistor its coil throws some hundred volts back: what switches it must bear that.")
    if drop and drop.verdict is Verdict.OUTSIDE:
        says.append("A burnt contact comes from too much current or a chattering feed: look for that before the new relay goes in.")
    missing = [name for name in ("coil", "pull_in", "drop_out", "contact_drop") if not case.reads.get(name)]
    if findings and missing:
        says.append(f"Not read: {', '.join(missing)}.")
    return says


FAMILY = Family(
    "relay",
    "Relay",
    "relay change-over horn pump fan cube 30 85 86 87 87a suppression diode contact",
    "coil",
    (
        Check(
            "coil",
            "resistance of the coil, 85 to 86",
            ("Ω",),
            limit=_coil,
            law=COPPER,
            beyond=(
                "Turns are shorted, or a diode or resistor beside the coil lets current by: swap the leads and read again.",
                "The coil is open or its joint is bad.",
            ),
        ),
        Check(
            "pull_in",
            "volts at which it pulls in, slowly raised",
            ("V",),
            limit=lambda case: Limit("V", most=PULLS_IN * twice(case), source=SOURCE),
            beyond=("", "It stays out on a low battery or when hot."),
        ),
        Check(
            "drop_out",
            "volts at which it drops out, slowly lowered",
            ("V",),
            limit=lambda case: Limit("V", least=DROPS_OUT * twice(case), source=SOURCE),
            beyond=("It hangs: what little a module or lamp leaks keeps it in.", ""),
        ),
        Check(
            "contact_drop",
            "drop across its closed contact, 30 to 87, under load",
            ("V",),
            limit=lambda case: Limit("V", most=CONTACT_DROP, source=SOURCE),
            beyond=("", "The contact is burnt."),
        ),
        Check(
            "rest_drop",
            "drop across its resting contact, 30 to 87a, under load",
            ("V",),
            limit=lambda case: Limit("V", most=CONTACT_DROP, source=SOURCE),
            beyond=("", "The resting contact is burnt."),
        ),
        Check(
            "contact_ohms",
            "its closed contact, without load",
            ("Ω",),
            limit=lambda case: Limit("Ω", most=0.5, source=SOURCE),
            beyond=("", "The contact does not close."),
        ),
        Check(
            "open_ohms",
            "its open contact",
            ("Ω",),
            limit=lambda case: Limit("Ω", least=1e6, source=SOURCE),
            beyond=("The contact is welded or bridged.", ""),
        ),
        Check(
            "diode",
            "volts across its damping diode, by diode test",
            ("V",),
            limit=_diode,
            beyond=("The diode is shorted: it takes the driver with it.", "The diode is open: the coil throws its volts at the driver."),
        ),
        Check("blocks", "its damping diode blocks the other way round", words=YES_NO, bad="The diode is shorted."),
        Check("click", "it clicks when it is powered", words=YES_NO, bad="The coil is open or the armature sticks."),
    ),
    (cautions.UNPLUGGED, cautions.FUSED, cautions.POLARITY),
    (
        Setting("system", "what it is made for", words=("12 V", "24 V"), usual="12 V"),
        Setting("damping", "what lies across its coil", words=("unknown", "none", "diode", "resistor"), usual="unknown"),
        Setting("amps", "the current through the contact meanwhile", "A"),
        *SETTINGS,
    ),
    function=("click", "pull_in", "drop_out", "contact_drop"),
    aliases={"ohms": "coil", "drop": "contact_drop", "dropout": "drop_out", "pullin": "pull_in"},
    serve=_serve,
    advise=_advise,
    chart=_chart,
    kinds=("relay",),
    group="Coils and relays",
)
