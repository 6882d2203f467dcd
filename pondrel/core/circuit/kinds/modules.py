"""Pins of control modules: outputs that switch, and inputs that judge."""

from __future__ import annotations

from ..part import PULSED, Contact, Effect, Element, Kind, Law, Mode, Param, Seen, Sight
from .common import (
    ASLEEP_VOLTS,
    GIVEN_JOINT_TOLERANCE,
    JOINT_TOLERANCE,
    UNSTATED_TOLERANCE,
    Params,
    duty_check,
    fed,
    grounds,
    inner,
    junction,
    leak,
    number,
    opens,
    resists,
    spread_of,
    sticks,
)

ON_OHMS, LIMIT_AMPS = 0.08, 6.0
# What a driver lets through to notice an open load while it is off.
DIAGNOSIS_OHMS = 47e3
CLAMP_VOLTS = 45.0  # a low-side driver without a freewheel diode breaks down here; common practice, no source
_MODULE = 0.3  # modules fail more seldom than what is wired to them; common practice, no source


def _driver(params: Params, name: str, a: str, b: str, positions: frozenset[str], power: Contact | None) -> Element:
    trips = Contact(
        coil=name,
        pull_in=number(params, "limit", LIMIT_AMPS),
        drop_out=-1.0,
        rest_closed=True,
        measure="amps",
        positions=positions,
        duty=number(params, "duty", 50.0) / 100.0,
        hertz=number(params, "hertz", 200.0),
    )
    spread = spread_of(params, "on_ohms", GIVEN_JOINT_TOLERANCE, JOINT_TOLERANCE)
    return Element(name, a, b, number(params, "on_ohms", ON_OHMS), spread, contact=trips, powered=True, power=power)


def _freewheel(name: str, a: str, b: str, shift: float = 0.0) -> Element:
    """The diode of a driver that takes a coil's current when it switches off."""
    return junction(name, a, b, 0.8, 1.0, 0.05, 1.0, shift=shift, drawn=False)


def _high_side(params: Params, pins: tuple[str, ...]) -> tuple[Element, ...]:
    power, told = fed("supply", "gnd")
    return (
        _driver(params, "", "supply", "out", frozenset({"on", PULSED}), power),
        _freewheel("freewheel", "gnd", "out"),
        Element("diagnosis", "supply", "out", DIAGNOSIS_OHMS, UNSTATED_TOLERANCE, drawn=False, powered=True, power=power),
        Element("sense", "out", "gnd", 10e6, UNSTATED_TOLERANCE, drawn=False),
        inner("out"),
        told,
    )


def _low_side(params: Params, pins: tuple[str, ...]) -> tuple[Element, ...]:
    power, told = fed("supply", "gnd")
    known = power if "supply" in pins else None
    drive = (
        _driver(params, "", "out", "gnd", frozenset({"on", PULSED}), known),
        Element("diagnosis", "out", "gnd", DIAGNOSIS_OHMS, UNSTATED_TOLERANCE, drawn=False, powered=True, power=known),
        inner("out"),
        _freewheel("clamp", "out", "gnd", CLAMP_VOLTS),
    )
    return (*drive, _freewheel("freewheel", "out", "supply"), told) if known else drive


def _half_bridge(params: Params, pins: tuple[str, ...]) -> tuple[Element, ...]:
    power, told = fed("supply", "gnd")
    return (
        _driver(params, "", "supply", "out", frozenset({"high", PULSED}), power),
        _driver(params, "low", "out", "gnd", frozenset({"low"}), power),
        _freewheel("freewheel", "gnd", "out"),
        _freewheel("upper_freewheel", "out", "supply"),
        inner("out"),
        told,
    )


def _asleep(seen: Seen) -> tuple[Sight, ...]:
    """What a module says that is without its supply: nothing; empty where it has one, or where the sheet does not say what feeds it."""
    dead = "power" in seen.volts and seen.volts["power"] < ASLEEP_VOLTS
    return (Sight("diagnosis", 0.0, "is without supply: reports nothing"),) if dead else ()


def _high_side_says(seen: Seen) -> tuple[Sight, ...]:
    if _asleep(seen):
        return _asleep(seen)
    on = seen.position in ("on", PULSED)
    if on and not seen.conducts[""]:
        return (Sight("diagnosis", 1.0, "reports: output shut down, short to ground or overload"),)
    if on and abs(seen.amps[""]) < number(seen.params, "open_load", 0.02):
        return (Sight("diagnosis", 2.0, "reports: open load"),)
    if not on and seen.volts["sense"] > number(seen.params, "off_volts", 2.5):
        return (Sight("diagnosis", 3.0, "reports: open load or short to supply while off"),)
    return (Sight("diagnosis", 0.0, "reports nothing"),)


def _low_side_says(seen: Seen) -> tuple[Sight, ...]:
    if _asleep(seen):
        return _asleep(seen)
    on = seen.position in ("on", PULSED)
    if on and not seen.conducts[""]:
        return (Sight("diagnosis", 1.0, "reports: output shut down, short to supply or overload"),)
    if on and abs(seen.amps[""]) < number(seen.params, "open_load", 0.02):
        return (Sight("diagnosis", 2.0, "reports: open load or short to ground"),)
    if not on and seen.volts["diagnosis"] < number(seen.params, "off_volts", 2.5):
        return (Sight("diagnosis", 3.0, "reports: open load or short to ground while off"),)
    return (Sight("diagnosis", 0.0, "reports nothing"),)


def _bridge_says(seen: Seen) -> tuple[Sight, ...]:
    if _asleep(seen):
        return _asleep(seen)
    tripped = (seen.position in ("high", PULSED) and not seen.conducts[""]) or (seen.position == "low" and not seen.conducts["low"])
    return (Sight("diagnosis", float(tripped), "reports: output shut down, overload" if tripped else "reports nothing"),)


def _input(params: Params, pins: tuple[str, ...]) -> tuple[Element, ...]:
    pull, ohms = number(params, "pull_volts", 5.0), number(params, "ohms", 4700.0)
    spread = number(params, "tolerance", spread_of(params, "ohms", 0.02, UNSTATED_TOLERANCE))
    if pull == 0.0:  # a plain resistor, which needs no power
        return (Element("", "in", "gnd", ohms, spread), leak("in"))
    power, told = fed("supply", "gnd")
    known = power if "supply" in pins else None
    pulls = Element("", "in", "gnd", ohms, 0.01, law=Law.EMF, volts=pull, ohms_tolerance=spread, power=known)
    return (pulls, inner("in"), leak("in"), told) if known else (pulls, inner("in"), leak("in"))


def _input_says(seen: Seen) -> tuple[Sight, ...]:
    if "power" in seen.volts and seen.volts["power"] < ASLEEP_VOLTS:
        return (Sight("volts", 0.0, "is without supply: reads nothing"), Sight("code", 0.0, "sets no code"))
    volts = seen.volts[""]
    level = f"reads {volts:.2f} V, {'high' if volts >= number(seen.params, 'threshold', 2.5) else 'low'}"
    sights = [Sight("volts", volts, level)]
    low, high = seen.params.get("low_code"), seen.params.get("high_code")
    if low is not None and volts < number(seen.params, "low_code", 0.0):
        sights.append(Sight("code", 1.0, "sets the code for circuit low"))
    elif high is not None and volts > number(seen.params, "high_code", 0.0):
        sights.append(Sight("code", 2.0, "sets the code for circuit high"))
    else:
        sights.append(Sight("code", 0.0, "sets no code"))
    return tuple(sights)


_ON = Param("on_ohms", "Ω", "ohms", "resistance when on", default=f"{ON_OHMS:g}")
_LIMIT = Param("limit", "A", "amperes", "current at which it shuts itself down", default=f"{LIMIT_AMPS:g}")
_DUTY = Param("duty", "%", "percent", "share of time that it is on when pulsed", default="50")
_HERTZ = Param("hertz", "Hz", "hertz", "how often a second it pulses", default="200")
_DIAGNOSIS = (
    Param("open_load", "A", "amperes", "current below which it reports an open load", default="0.02"),
    Param("off_volts", "V", "volts", "output voltage that tells a connected load while it is off", default="2.5"),
)


_FED_BACK = "Power on a module's output while it is plugged in feeds back into the module and may burn it: unplug it first."
_OUTPUT = {"out": {"power": _FED_BACK}}

KINDS = (
    Kind(
        "high_side",
        "A module output that switches the supply to its load; shuts itself down above its limit and stays off.",
        ("supply", "out", "gnd"),
        _high_side,
        (*sticks(_MODULE, 0.1, "driver dead", "driver shorted"), resists(0.1, words="driver weak")),
        (_ON, _LIMIT, _DUTY, _HERTZ, *_DIAGNOSIS),
        positions=("off", "on", PULSED),
        rest="off",
        symbol="driver",
        built="module",
        current="from supply to out",
        shows=_high_side_says,
        check=duty_check,
        never=_OUTPUT,
        also=("high side driver", "hsd", "module output", "driver", "ecu output", "output", "smart switch", "mosfet", "fet"),
    ),
    Kind(
        "low_side",
        "A module output that switches its load to ground; shuts itself down above its limit and stays off.",
        ("out", "gnd"),
        _low_side,
        (*sticks(_MODULE, 0.1, "driver dead", "driver shorted"), resists(0.1, words="driver weak")),
        (_ON, _LIMIT, _DUTY, _HERTZ, *_DIAGNOSIS),
        positions=("off", "on", PULSED),
        rest="off",
        optional_pins=("supply",),
        symbol="driver",
        built="module",
        current="from out to gnd",
        notes="With the pin `supply` it works only while that is fed, and has a freewheel diode to it, as outputs that pulse have; "
        "without, it works in every state and has a clamp at 45 V. With the battery off it rests, whatever the state says.",
        shows=_low_side_says,
        check=duty_check,
        never=_OUTPUT,
        also=("low side driver", "lsd", "ground driver", "open collector", "sink", "switched ground"),
    ),
    Kind(
        "half_bridge",
        "A module output that switches to the supply or to ground: one end of a motor that runs both ways.",
        ("supply", "out", "gnd"),
        _half_bridge,
        (
            *sticks(_MODULE, 0.1, "upper driver dead", "upper driver shorted"),
            Mode("low_stuck_open", _MODULE, (("low", Effect.OPEN),), words="lower driver dead"),
            Mode("low_stuck_closed", 0.1, (("low", Effect.CLOSED),), words="lower driver shorted"),
        ),
        (_ON, _LIMIT, _DUTY, _HERTZ),
        positions=("off", "high", "low", PULSED),
        rest="off",
        symbol="driver",
        built="module",
        current="of the upper driver, from supply to out; the lower is listed as `NAME.low`",
        shows=_bridge_says,
        check=duty_check,
        never=_OUTPUT,
        also=("h bridge", "bridge", "motor driver", "push pull"),
    ),
    Kind(
        "module_input",
        "A module input with a pull-up or pull-down inside: judges its voltage against a threshold, and sets codes.",
        ("in", "gnd"),
        _input,
        (opens(0.2, words="input open inside"), grounds(0.1, words="input shorted inside")),
        (
            Param("pull_volts", "V", "volts", "what the pull resistor goes to; 0 for a pull-down", default="5", least="zero"),
            Param("ohms", "Ω", "ohms", "pull resistor", default="4700"),
            Param("threshold", "V", "volts", "from here on it counts as high", default="2.5"),
            Param("low_code", "V", "volts", "below this it sets the code for circuit low", least="zero"),
            Param("high_code", "V", "volts", "above this it sets the code for circuit high", least="zero"),
            Param(
                "tolerance",
                "",
                "",
                "one standard deviation as a share of the pull resistor",
                default=f"0.02 where its ohms are given, else {UNSTATED_TOLERANCE:g}",
                least="zero",
            ),
        ),
        optional_pins=("supply",),
        symbol="module",
        built="module",
        current="from in to gnd: negative where a pull-up feeds the sensor",
        shows=_input_says,
        notes="With the pin `supply` it pulls up only while that is fed; without, in every state, but not with the battery off.",
        also=("ecu input", "input", "pull up", "sense input", "adc"),
    ),
)
