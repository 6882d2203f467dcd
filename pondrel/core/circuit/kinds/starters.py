"""Starter motors: two windings that pull a plunger in, the contacts that it closes, and the motor behind them."""

from __future__ import annotations

import math

from ..part import Contact, Effect, Element, Kind, Law, Mode, Param, Seen, Severity, Sight, Span
from .common import SERIES, UNSTATED_TOLERANCE, Params, grounds, joint_tolerance, leak, nothing, number, shorts, spread_of, tolerance

# A passenger car's starter, at 12 V; common practice, no source.
_AMPS, _STALLED = 150.0, 4.0  # running current; times that when it is held
_DRAG = 0.9  # times its running current that a starter that drags takes on top
_PULL_OHMS, _HOLD_OHMS = 0.35, 1.1
_PULL_IN_VOLTS, _DROP_OUT_VOLTS = 8.0, 3.0
_CONTACT_OHMS = 0.0003
_LEAD_OHMS = 0.002  # inside, from terminal 50 to where the windings part
_WINDING = 0.08
_TURNS = Severity(Span.TURNS, lambda params: 0.25 * number(params, "hold_ohms", _HOLD_OHMS), "a quarter of its ohms")


def stalled_ohms(params: Params) -> float:
    """Ohms of armature, field and brushes: what sets the current of a starter that is held."""
    volts, amps = number(params, "volts", 12.0), number(params, "amps", _AMPS)
    return number(params, "ohms", volts / (_STALLED * amps))


def _starter(params: Params, pins: tuple[str, ...]) -> tuple[Element, ...]:
    pull, hold = number(params, "pull_ohms", _PULL_OHMS), number(params, "hold_ohms", _HOLD_OHMS)
    # Both windings have as many turns: what pulls the plunger is the sum of their currents, and that flows in at terminal 50. Fed
    # backwards through the contacts they cancel, so that the plunger lets go.
    pull_in = number(params, "pull_in", _PULL_IN_VOLTS) * (1.0 / pull + 1.0 / hold)
    drop_out = number(params, "drop_out", _DROP_OUT_VOLTS) / hold
    plunger = Contact("lead", pull_in, min(drop_out, pull_in), measure="amps", signed=True)
    stud = "45" if "45" in pins else "*45"

    def wound(name: str, end: str, ohms: float) -> Element:
        return Element(name, "*50", end, ohms, spread_of(params, f"{name}_ohms", _WINDING, 0.25), henries=0.002)

    return (
        Element("", "30", stud, number(params, "contact_ohms", _CONTACT_OHMS), joint_tolerance(params, "contact_ohms"), contact=plunger),
        Element("lead", "50", "*50", _LEAD_OHMS, UNSTATED_TOLERANCE),
        wound("pull", stud, pull),
        wound("hold", "31", hold),
        # An engine resists with much the same torque at any speed, and torque is current: what volts are left make the speed.
        Element(
            "motor",
            stud,
            "31",
            stalled_ohms(params),
            number(params, "tolerance", 0.25),
            law=Law.LIMITED,
            amps=number(params, "amps", _AMPS),
            ohms_tolerance=spread_of(params, "ohms", 0.15, UNSTATED_TOLERANCE),
        ),
        # What drags takes current beside the one that turns the engine: rubbing armature, dry bushes, shorted turns.
        Element(
            "drag",
            stud,
            "31",
            math.inf,
            0.3,
            law=Law.LIMITED,
            amps=_DRAG * number(params, "amps", _AMPS),
            ohms_tolerance=UNSTATED_TOLERANCE,
            drawn=False,
            spare=stalled_ohms(params) / _DRAG,
        ),
        nothing("armature", stud, "31"),
        leak("50"),
    )


def _check(params: Params) -> str | None:
    pull_in, drop_out = number(params, "pull_in", _PULL_IN_VOLTS), number(params, "drop_out", _DROP_OUT_VOLTS)
    volts, amps = number(params, "volts", 12.0), number(params, "amps", _AMPS)
    if drop_out > pull_in:
        return f"drop_out ({drop_out:g} V) must not exceed pull_in ({pull_in:g} V)"
    if stalled_ohms(params) >= volts / amps:
        return f"ohms must be less than volts/amps ({volts / amps:g} Ω): they set the current of a starter that is held"
    return None


def _shows(seen: Seen) -> tuple[Sight, ...]:
    pulled = seen.conducts[""]
    volts, amps, ohms = number(seen.params, "volts", 12.0), number(seen.params, "amps", _AMPS), stalled_ohms(seen.params)
    drawn = abs(seen.amps["motor"])
    back = max(abs(seen.volts["motor"]) - ohms * drawn, 0.0)
    # A motor that takes less than the engine asks of it does not turn it.
    share = back / (volts - ohms * amps) if drawn > 0.8 * amps else 0.0
    words = "does not turn" if share < 0.2 else "turns slowly" if share < 0.7 else "turns the engine"
    return (
        Sight("runs", share, words),
        Sight("clicks", float(pulled), "its plunger pulls in" if pulled else "its plunger does not pull in"),
    )


KINDS = (
    Kind(
        "starter",
        "A starter motor: pull-in and hold-in windings, the contacts that their plunger closes, and the motor turning an engine.",
        ("30", "50", "31"),
        _starter,
        (
            Mode("contact_open", 0.7, (("", Effect.OPEN),), words="contacts do not close"),
            Mode("contact_high_resistance", 1.2, (("", Effect.VALUE),), SERIES, "burnt contacts"),
            Mode("contact_welded", 0.1, (("", Effect.CLOSED),), words="contacts welded: keeps turning"),
            Mode("pull_open", 0.4, (("pull", Effect.OPEN),), words="pull-in winding open: does not pull in"),
            Mode("hold_open", 0.4, (("hold", Effect.OPEN),), words="hold-in winding open: chatters"),
            Mode("hold_shorted", 0.2, (("hold", Effect.VALUE),), _TURNS, "hold-in winding has shorted turns"),
            Mode("motor_open", 0.8, (("motor", Effect.OPEN),), words="brushes or winding open"),
            Mode("motor_high_resistance", 0.8, (("motor", Effect.VALUE),), SERIES, "worn brushes"),
            Mode("dragging", 0.5, (("drag", Effect.APPEARS),), words="drags: takes far too much and turns slowly"),
            Mode("locked", 0.5, (("motor", Effect.PLAIN),), words="stuck, or the engine does not turn"),
            shorts(0.3, "armature or field shorted", "armature"),
            grounds(0.1, words="terminal 50 shorted to the case"),
        ),
        (
            Param("volts", "V", "volts", "rated voltage", default="12"),
            Param("amps", "A", "amperes", "current while it turns the engine", default=f"{_AMPS:g}"),
            Param("ohms", "Ω", "ohms", "motor when held", default="a quarter of volts/amps"),
            Param("pull_ohms", "Ω", "ohms", "pull-in winding", default=f"{_PULL_OHMS:g}"),
            Param("hold_ohms", "Ω", "ohms", "hold-in winding", default=f"{_HOLD_OHMS:g}"),
            Param("pull_in", "V", "volts", "volts at terminal 50 at which it pulls in", default=f"{_PULL_IN_VOLTS:g}"),
            Param("drop_out", "V", "volts", "volts below which its hold-in winding lets go", default=f"{_DROP_OUT_VOLTS:g}", least="zero"),
            Param("contact_ohms", "Ω", "ohms", "healthy contacts", default=f"{_CONTACT_OHMS:g}", least="zero"),
            tolerance(0.25, "its current: a cold engine asks for more"),
        ),
        optional_pins=("45",),
        symbol="motor",
        built="motor",
        shapes={"": "switch", "lead": "wire", "pull": "coil", "hold": "coil", "motor": "motor"},
        load="motor",
        current="through the contacts, from 30 to the motor; its windings are listed as `NAME.pull` and `NAME.hold`, that of the motor as "
        "`NAME.motor`",
        notes="Pin 45 is the stud between contacts and motor. The pull-in winding finds its ground through the motor; once the contacts "
        "close it has plus on both ends. The motor takes its running current as long as the volts suffice; what is left of them is speed.",
        shows=_shows,
        check=_check,
        also=("starter motor", "cranking motor", "self starter", "starter solenoid"),
    ),
)
