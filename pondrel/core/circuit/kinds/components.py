"""Electronic components that stand alone in a vehicle's wiring."""

from __future__ import annotations

from ..part import Contact, Effect, Element, Kind, Mode, Param, Severity, Span
from .common import Params, junction, nothing, number, opens, shorts, tolerance, word

_FORWARD_VOLTS, _DIODE_OHMS = 0.8, 0.03
_BASE_OHMS, _BASE_VOLTS = 0.5, 0.7


def _diode(params: Params, pins: tuple[str, ...]) -> tuple[Element, ...]:
    forward, ohms = number(params, "forward", _FORWARD_VOLTS), number(params, "ohms", _DIODE_OHMS)
    return (junction("", "a", "k", forward, 1.0, ohms, tolerance=number(params, "tolerance", 0.05)), nothing("bridge", "a", "k"))


def _zener(params: Params, pins: tuple[str, ...]) -> tuple[Element, ...]:
    volts, ohms = number(params, "volts", 15.0), number(params, "ohms", 1.0)
    # Its knee at 5 mA is what is called its voltage.
    knee = 0.6 + 0.005 * ohms
    return (
        junction("", "k", "a", knee, 0.005, ohms, 1.5, shift=volts - knee, tolerance=number(params, "tolerance", 0.05)),
        junction("forward", "a", "k", _FORWARD_VOLTS, 1.0, _DIODE_OHMS, drawn=False),
        nothing("bridge", "a", "k"),
    )


def _capacitor(params: Params, pins: tuple[str, ...]) -> tuple[Element, ...]:
    return (
        Element("esr", "a", "*esr", number(params, "esr", 0.1), 0.3),
        Element("", "*esr", "b", number(params, "leakage", 10e6), 0.5, farads=number(params, "farads", 1e-6), drawn=False),
        nothing("bridge", "a", "b"),
    )


def _transistor(params: Params, pins: tuple[str, ...]) -> tuple[Element, ...]:
    npn = word(params, "type", "npn") == "npn"
    ohms, gain = number(params, "ohms", 0.1), number(params, "gain", 50.0)
    least = number(params, "base_amps", 0.2 / gain)
    switches = Contact("base", pull_in=least, drop_out=0.9 * least, measure="amps", signed=True)
    start, end = ("b", "e") if npn else ("e", "b")
    return (
        Element("", "c", "e", ohms, 0.3, contact=switches),
        junction("base", start, end, _BASE_VOLTS, 0.01, _BASE_OHMS, 1.3),
    )


KINDS = (
    Kind(
        "diode",
        "A diode: conducts from a to k, by Shockley's law behind its series resistance.",
        ("a", "k"),
        _diode,
        (opens(0.8, words="open"), shorts(1.0, "shorted")),
        (
            Param("forward", "V", "volts", "forward voltage at 1 A", default=f"{_FORWARD_VOLTS:g}"),
            Param("ohms", "Ω", "ohms", "series resistance", default=f"{_DIODE_OHMS:g}"),
            tolerance(0.05, "the forward voltage"),
        ),
        symbol="diode",
        built="component",
        current="from a to k",
        also=("rectifier", "freewheel diode", "flyback diode", "blocking diode"),
    ),
    Kind(
        "zener",
        "A zener or suppressor diode: conducts backwards, from k to a, above its voltage.",
        ("a", "k"),
        _zener,
        (opens(0.5, words="open"), shorts(1.0, "shorted")),
        (
            Param("volts", "V", "volts", "zener voltage at 5 mA", default="15"),
            Param("ohms", "Ω", "ohms", "series resistance", default="1"),
            tolerance(0.05, "a forward voltage"),
        ),
        symbol="diode",
        built="component",
        current="backwards, from k to a",
        also=("tvs", "suppressor", "surge diode", "transil", "z diode"),
    ),
    Kind(
        "capacitor",
        "A capacitor with its series resistance and its leakage; in a lasting state only the leakage is left.",
        ("a", "b"),
        _capacitor,
        (
            opens(0.7, "esr", "open"),
            Mode("dry", 1.0, (("", Effect.DRY),), words="dried out: has lost most of its capacitance"),
            Mode("leaky", 0.8, (("", Effect.VALUE),), Severity(Span.SHUNT, lambda params: 1e3, "1 kΩ"), "leaks"),
            shorts(0.5, "shorted"),
        ),
        (
            Param("farads", "F", "farads", "capacitance", required=True),
            Param("esr", "Ω", "ohms", "equivalent series resistance", default="0.1"),
            Param("leakage", "Ω", "ohms", "leakage resistance", default="10 MΩ"),
        ),
        symbol="capacitor",
        built="component",
        current="through its leakage, from a to b",
        also=("condenser", "cap", "suppression capacitor", "electrolytic"),
    ),
    Kind(
        "transistor",
        "A bipolar transistor as a switch: collector and emitter join while enough base current flows.",
        ("b", "c", "e"),
        _transistor,
        (
            opens(0.5, words="collector open"),
            Mode("base_open", 0.3, (("base", Effect.OPEN),), words="base open"),
            Mode("stuck_closed", 0.6, (("", Effect.CLOSED),), words="shorted from collector to emitter"),
        ),
        (
            Param("type", "", "", "polarity", choices=("npn", "pnp"), default="npn"),
            Param("gain", "", "", "current gain", default="50"),
            Param("base_amps", "A", "amperes", "base current from which it counts as switched on", default="0.2 A divided by the gain"),
            Param("ohms", "Ω", "ohms", "between collector and emitter when on", default="0.1"),
        ),
        symbol="driver",
        built="component",
        current="from c to e",
        also=("bjt", "npn", "pnp", "switching transistor", "darlington"),
    ),
)
