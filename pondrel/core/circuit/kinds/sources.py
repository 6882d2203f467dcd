"""Sources: what drives the circuit."""

from __future__ import annotations

import math

from ...base.judgement import judged
from ...base.lead_acid import cold_factor, rested_volts
from ..part import NEVER, Contact, Effect, Element, Kind, Law, Mode, Param, Seen, Sight
from .common import UNSTATED_TOLERANCE, Params, inner, joint_tolerance, nothing, number, opens, resists, spread_of, tolerance

EMF_TOLERANCE = judged("EMF_TOLERANCE", 0.055, "share", "how far a battery is from its nominal volts: 0.7 V, from flat to charging")
BATTERY_OHMS_TOLERANCE = judged(
    "BATTERY_OHMS_TOLERANCE", 0.8, "share", "how far a battery's inner ohms are from what its sheet says: it ages"
)
_FLAT_FACTOR = 0.5  # by how much higher a flat battery's internal resistance is. Common practice, no source
_SHORT_CIRCUIT_AMPS = 1e5  # far beyond what its own resistance lets through
# What a rectifier or a regulator's output takes when it is fed from outside.
_BACK_AMPS = 0.002
_RUN_UP = judged("REGULATOR_RUN_UP", 1.13, "times", "what a regulator that has failed runs up to, of its volts: about 16 V")
_FIELD_OHMS, _EXCITED_VOLTS, _TRIO_OHMS = 4.0, 0.3, 0.05  # common practice, no source
_DIODE_LESS = 0.55  # of its amperes that an alternator with an open diode still gives. Common practice, no source
_HELD_DOWN = judged("REGULATOR_HELD_DOWN", 0.93, "times", "what one holds down to, of its volts: about 13.2 V")


def charge_volts(percent: float, nominal: float) -> float:
    """Rested open-circuit volts at a state of charge, for a battery whose full voltage is near ``nominal``."""
    return (2.0 if nominal > 18.0 else 1.0) * rested_volts(percent)


def _battery(params: Params, pins: tuple[str, ...]) -> tuple[Element, ...]:
    volts, ohms = number(params, "volts", 12.6), number(params, "ohms", 0.01)
    if params.get("charge") is not None:
        charge = number(params, "charge", 100.0)
        volts = charge_volts(charge, volts)
        ohms *= 1.0 + _FLAT_FACTOR * (1.0 - charge / 100.0)
    ohms *= cold_factor(number(params, "temperature", 25.0))
    law, amps, takes = Law.EMF, 0.0, 0.0
    if params.get("accepts") is not None:
        law, amps, takes = Law.LIMITED, _SHORT_CIRCUIT_AMPS, number(params, "accepts", 10.0)
    spread = number(params, "tolerance", EMF_TOLERANCE)
    return (Element("", "p", "n", ohms, spread, law=law, volts=volts, amps=amps, shape=takes, ohms_tolerance=BATTERY_OHMS_TOLERANCE),)


def _charge_check(params: Params) -> str | None:
    return "charge must be from 0 to 100 %" if number(params, "charge", 0.0) > 100.0 else None


def _alternator(params: Params, pins: tuple[str, ...]) -> tuple[Element, ...]:
    volts, plain, amps = number(params, "volts", 14.2), number(params, "ohms", 0.02), number(params, "amps", 90.0)
    field = number(params, "field_ohms", _FIELD_OHMS)
    # Excited through the charge lamp it comes up and then feeds its own field; remanence that does so at high speed is left out.
    excited = Contact("field", _EXCITED_VOLTS, 0.5 * _EXCITED_VOLTS, positions=frozenset({"running"}), feeds_itself=True)
    runs = excited if "l" in pins else Contact(positions=frozenset({"running"}))

    def gives(name: str, share: float, ohms: float, spread: float, most: float = 1.0) -> Element:
        return Element(
            name, "p", "n", ohms, spread, law=Law.LIMITED, volts=share * volts, amps=most * amps, shape=_BACK_AMPS, ohms_tolerance=0.1,
            contact=runs, drawn=not name, spare=plain,
        )  # fmt: skip

    own = (
        Element("field", "l", "n", field, spread_of(params, "field_ohms", 0.1, 0.3)),
        Element("trio", "p", "l", _TRIO_OHMS, UNSTATED_TOLERANCE, contact=excited, drawn=False),
    )
    return (
        gives("", 1.0, plain, number(params, "tolerance", 0.015)),
        gives("over", _RUN_UP, math.inf, 0.02),
        gives("low", _HELD_DOWN, math.inf, 0.02),
        gives("weak", 0.99, math.inf, 0.02, _DIODE_LESS),
        *(own if "l" in pins else (nothing("field", "p", "n"), nothing("trio", "p", "n"))),
    )


def _alternator_shows(seen: Seen) -> tuple[Sight, ...]:
    weak = seen.conducts["weak"] and abs(seen.amps["weak"]) > 0.0
    return (Sight("ripple", 0.0 if weak else 1.0, "pulses are missing from its ripple" if weak else "its ripple is even"),)


def _reference(params: Params, pins: tuple[str, ...]) -> tuple[Element, ...]:
    volts = number(params, "volts", 5.0)
    enough = Contact(coil="sense", pull_in=volts + 0.8, drop_out=volts + 0.6, signed=True)
    return (
        Element(
            "",
            "out",
            "gnd",
            number(params, "ohms", 0.1),
            number(params, "tolerance", 0.01),
            law=Law.LIMITED,
            volts=volts,
            amps=number(params, "amps", 0.1),
            shape=_BACK_AMPS,
            ohms_tolerance=spread_of(params, "ohms", 0.3, UNSTATED_TOLERANCE),
            contact=enough,
            mirror=("gnd", "in"),
        ),
        Element("sense", "in", "gnd", 2500.0, UNSTATED_TOLERANCE, drawn=False, powered=True),
        Element("feedback", "out", "gnd", 100e3, UNSTATED_TOLERANCE, drawn=False, powered=True),
        inner("in"),
        inner("out", name="inner_out"),
        Element("pass", "in", "out", 0.5, 0.3, contact=NEVER, drawn=False),
    )


_HEATER_OHMS = 65.0


def _bimetal(params: Params, pins: tuple[str, ...]) -> tuple[Element, ...]:
    # The strip is set so that its heat holds the mean at ``volts`` on ``supply``: mean = duty × supply, heat = duty × supply².
    heat = number(params, "volts", 5.0) * number(params, "supply", 12.6)
    beats = Contact(
        coil="heater", pull_in=1.04 * heat, drop_out=0.96 * heat, rest_closed=True, measure="volts²", seconds=number(params, "seconds", 2.0)
    )
    return (
        Element("", "in", "out", 0.05, joint_tolerance({}), contact=beats),
        Element("heater", "out", "gnd", number(params, "heater_ohms", _HEATER_OHMS), spread_of(params, "heater_ohms", 0.05, 0.3)),
    )


def _supply(params: Params, pins: tuple[str, ...]) -> tuple[Element, ...]:
    return (
        Element(
            "",
            "p",
            "n",
            number(params, "ohms", 0.01),
            number(params, "tolerance", 0.005),
            law=Law.LIMITED,
            volts=number(params, "volts", 12.0),
            amps=number(params, "amps", 5.0),
            shape=_BACK_AMPS,
            ohms_tolerance=0.3,
            contact=Contact(positions=frozenset({"on"})),
        ),
    )


_DELIVERED = "delivered: out of pin p, positive while it feeds the circuit"

_LOADED_REFERENCE = "A reference feeds sensors with a few milliamperes: a lamp or load pulls it down for all of them and may burn it."

KINDS = (
    Kind(
        "battery",
        "A battery: an EMF behind its internal resistance. The first one's minus pin is the sheet's zero.",
        ("p", "n"),
        _battery,
        (
            opens(0.2, words="open inside or at a post"),
            resists(1.5, words="weak: internal resistance too high"),
        ),
        (
            Param(
                "volts",
                "V",
                "volts",
                "open-circuit voltage; with `charge` only tells 12 V from 24 V",
                default="the sheet's `supply.nominal`, else 12.6",
            ),
            Param("ohms", "Ω", "ohms", "internal resistance, full at 25 °C", default="0.01", least="zero"),
            Param(
                "charge",
                "%",
                "percent",
                "state of charge, sets the open-circuit voltage (11.89 V empty to 12.65 V full at 12 V)",
                default="taken as in `volts`",
                least="zero",
            ),
            Param("accepts", "A", "amperes", "charging current that it takes", default="as much as its resistance lets in"),
            Param("temperature", "°C", "degrees Celsius", "of the battery: cold raises its resistance", default="25", least="any"),
            tolerance(EMF_TOLERANCE, "the EMF"),
        ),
        symbol="battery",
        built="battery",
        delivers=True,
        current="delivered: out of pin p, positive while it discharges",
        posts=("p", "n"),
        supply_param="volts",
        check=_charge_check,
        also=("accumulator", "cell", "accu", "power source", "batteries"),
    ),
    Kind(
        "alternator",
        "An alternator with its regulator: holds its voltage up to a current limit; its rectifier lets nothing back.",
        ("p", "n"),
        _alternator,
        (
            Mode("open", 1.5, (("", Effect.OPEN), ("trio", Effect.OPEN)), words="does not charge"),
            Mode("not_driven", 0.4, (("", Effect.OPEN), ("trio", Effect.OPEN)), words="is not driven: belt or pulley"),
            Mode("field_open", 0.5, (("field", Effect.OPEN),), words="brushes or field open"),
            Mode("diode_open", 0.4, (("weak", Effect.APPEARS), ("", Effect.OPEN)), words="a diode is open"),
            Mode("regulator_high", 0.4, (("over", Effect.APPEARS), ("", Effect.OPEN)), words="regulator lets the voltage run up"),
            Mode("regulator_low", 0.4, (("low", Effect.APPEARS), ("", Effect.OPEN)), words="regulator holds the voltage too low"),
        ),
        (
            Param("volts", "V", "volts", "regulated voltage", default="14.2"),
            Param("amps", "A", "amperes", "current limit", default="90"),
            Param("ohms", "Ω", "ohms", "how much the voltage gives way under load", default="0.02", least="zero"),
            Param("field_ohms", "Ω", "ohms", "field and brushes, from pin l to the case", default=f"{_FIELD_OHMS:g}"),
            tolerance(0.015, "the regulated voltage"),
        ),
        optional_pins=("l",),
        shapes={"field": "coil"},
        shows=_alternator_shows,
        notes="Pin l is where the charge lamp excites it: without current there it does not come up, and once it gives it holds the lamp "
        "dark. A sense wire and what a belt does are not drawn: a slipping belt is an alternator that is not driven.",
        positions=("stopped", "running"),
        rest="stopped",
        symbol="alternator",
        built="alternator",
        delivers=True,
        current=_DELIVERED,
        also=("generator", "dynamo", "charger"),
    ),
    Kind(
        "reference",
        "A voltage reference of a module: holds its output up to a current limit, drawn from its input; off where the input is too low.",
        ("in", "out", "gnd"),
        _reference,
        (
            opens(0.3, words="gives nothing"),
            Mode("stuck_closed", 0.1, (("pass", Effect.CLOSED),), words="passes its input through"),
        ),
        (
            Param("volts", "V", "volts", "reference voltage", default="5"),
            Param("amps", "A", "amperes", "current limit", default="0.1"),
            Param("ohms", "Ω", "ohms", "output resistance", default="0.1", least="zero"),
            tolerance(0.01, "the voltage"),
        ),
        symbol="regulator",
        built="module",
        delivers=True,
        current="delivered: out of pin out",
        notes="The solid-state instrument regulator is one of these with `amps: 1`.",
        never={"out": {"lamp": _LOADED_REFERENCE, "load": _LOADED_REFERENCE}},
        also=("5v", "regulator", "voltage regulator", "sensor supply", "vref", "ldo"),
    ),
    Kind(
        "bimetal_regulator",
        "A pulsing instrument regulator: a heated strip opens and closes its points so that the mean output stays.",
        ("in", "out", "gnd"),
        _bimetal,
        (
            Mode("stuck_closed", 1.0, (("", Effect.CLOSED),), words="points stick: gauges read high and burn"),
            Mode("stuck_open", 1.0, (("", Effect.OPEN),), words="points do not close"),
            Mode("heater_open", 0.6, (("heater", Effect.OPEN),), words="heater open or case not grounded: never opens"),
        ),
        (
            Param("volts", "V", "volts", "mean output", default="5"),
            Param("supply", "V", "volts", "supply at which it gives that mean", default="the sheet's `supply.nominal`, else 12.6"),
            Param("heater_ohms", "Ω", "ohms", "resistance of the heater", default=f"{_HEATER_OHMS:g}"),
            Param("seconds", "s", "seconds", "time constant of the strip", default="2"),
        ),
        supply_param="supply",
        symbol="regulator",
        built="board",
        current="from pin in to pin out",
        also=("instrument stabiliser", "voltage stabiliser", "gauge regulator", "ivr"),
    ),
    Kind(
        "bench_supply",
        "A bench supply: a voltage up to a current limit.",
        ("p", "n"),
        _supply,
        (opens(0.05, words="off or not connected"),),
        (
            Param("volts", "V", "volts", "set voltage", default="12"),
            Param("amps", "A", "amperes", "set current limit", default="5"),
            Param("ohms", "Ω", "ohms", "output and lead resistance", default="0.01", least="zero"),
            tolerance(0.005, "the voltage"),
        ),
        positions=("off", "on"),
        rest="on",
        symbol="battery",
        delivers=True,
        posts=("p", "n"),
        current=_DELIVERED,
        also=("power supply", "psu", "supply", "source"),
    ),
)
