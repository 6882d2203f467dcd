"""Sensors and what shows their value."""

from __future__ import annotations

import math

from ..part import Contact, Dial, Effect, Element, Kind, Law, Mode, Param, Seen, Severity, Sight, Span
from .common import (
    SERIES,
    UNSTATED_TOLERANCE,
    Params,
    doubled,
    grounds,
    inner,
    leak,
    nothing,
    number,
    opens,
    resists,
    shorts,
    spread_of,
    tolerance,
)

KELVIN = 273.15


def thermistor_ohms(params: Params, celsius: float) -> float:
    """Resistance of a thermistor: by Steinhart and Hart's three coefficients where given, else by B from its ohms at 25 °C.

    1/T = A + B·ln R + C·(ln R)³ solved for R in closed form; R = R25·exp(B·(1/T − 1/298.15)).
    """
    kelvin = celsius + KELVIN
    if params.get("sh_a") is not None:
        a, b, c = (number(params, name, 0.0) for name in ("sh_a", "sh_b", "sh_c"))
        if c == 0.0:
            return math.exp((1.0 / kelvin - a) / b)
        x = (a - 1.0 / kelvin) / (2.0 * c)
        y = math.sqrt((b / (3.0 * c)) ** 3 + x * x)
        return math.exp(math.cbrt(y - x) - math.cbrt(y + x))
    return number(params, "ohms", 2200.0) * math.exp(number(params, "beta", 3500.0) * (1.0 / kelvin - 1.0 / (25.0 + KELVIN)))


def _thermistor(params: Params, pins: tuple[str, ...]) -> tuple[Element, ...]:
    ohms = thermistor_ohms(params, number(params, "celsius", 20.0))
    known = "ohms" if params.get("sh_a") is None else "sh_a"
    spread = number(params, "tolerance", spread_of(params, known, 0.05, UNSTATED_TOLERANCE))
    return (Element("", "a", "b", ohms, spread), nothing("bridge", "a", "b"))


def _thermistor_check(params: Params) -> str | None:
    given = [name for name in ("sh_a", "sh_b", "sh_c") if params.get(name) is not None]
    if given and len(given) < 3:
        return "give sh_a, sh_b and sh_c together"
    if given and number(params, "sh_c", 0.0) < 0.0:
        return "sh_c must not be negative"
    return None


def _track(params: Params, prefix: str, supply: str, signal: str, ground: str, share: float, spread: float) -> tuple[Element, ...]:
    """A resistance track tapped at ``share`` of its length by a wiper with a contact of its own."""
    ohms, wiper = number(params, "ohms", 5000.0), number(params, "wiper_ohms", 20.0)
    tap = f"*tap{prefix}"
    return (
        Element(f"top{prefix}", supply, tap, ohms * (1.0 - share), spread),
        Element(f"bottom{prefix}", tap, ground, ohms * share, spread),
        Element("" if prefix in ("", "1") else f"wiper{prefix}", tap, signal, wiper, 0.5),
    )


def _potentiometer(params: Params, pins: tuple[str, ...]) -> tuple[Element, ...]:
    low, high = number(params, "low", 0.0) / 100.0, number(params, "high", 100.0) / 100.0
    share = low + (high - low) * number(params, "percent", 0.0) / 100.0
    return _track(params, "", "a", "w", "b", share, number(params, "tolerance", 0.02))


def _pedal(params: Params, pins: tuple[str, ...]) -> tuple[Element, ...]:
    low, high, ratio = number(params, "low", 15.0) / 100.0, number(params, "high", 80.0) / 100.0, number(params, "ratio", 0.5)
    share = low + (high - low) * number(params, "percent", 0.0) / 100.0
    spread = number(params, "tolerance", 0.02)
    return (
        *_track(params, "1", "supply1", "signal1", "gnd1", share, spread),
        *_track(params, "2", "supply2", "signal2", "gnd2", share * ratio, spread),
    )


def _share_check(params: Params) -> str | None:
    low, high = number(params, "low", 0.0), number(params, "high", 100.0)
    if not 0.0 <= low < high <= 100.0:
        return f"low ({low:g} %) must be below high ({high:g} %), both from 0 to 100 %"
    return None


def _transducer(params: Params, pins: tuple[str, ...]) -> tuple[Element, ...]:
    # Ratiometric from 10 % to 90 % of its supply (0.5–4.5 V of 5 V); behaves as a divider of its own supply current.
    share = 0.1 + 0.8 * min(max(number(params, "bar", 0.0) / number(params, "full_scale", 10.0), 0.0), 1.0)
    ohms, spread = number(params, "ohms", 800.0), number(params, "tolerance", 0.01)
    return (
        Element("", "supply", "*out", ohms * (1.0 - share), spread, powered=True),
        Element("lower", "*out", "gnd", ohms * share, spread, powered=True),
        Element("output", "*out", "signal", 50.0, UNSTATED_TOLERANCE, powered=True),
        inner("supply"),
        inner("signal", name="inner_signal"),
        nothing("bridge", "supply", "gnd"),
    )


def _pickup(params: Params, pins: tuple[str, ...]) -> tuple[Element, ...]:
    return (
        Element("", "a", "b", number(params, "ohms", 900.0), number(params, "tolerance", 0.08), henries=number(params, "henries", 0.3)),
        leak("a"),
    )


def _pickup_gives(seen: Seen) -> tuple[Sight, ...]:
    speed = float(seen.position)
    volts = number(seen.params, "volts_per_rpm", 0.002) * speed
    return (Sight("volts_ac", volts, f"gives about {volts:.2g} V AC unloaded" if volts else "gives nothing at standstill"),)


# A Hall switch works from about 3.5 V on. Common practice, no source.
_HALL_ALIVE = Contact("", 3.5, 3.0, signed=True)


def _hall(params: Params, pins: tuple[str, ...]) -> tuple[Element, ...]:
    return (
        Element("", "supply", "gnd", number(params, "ohms", 1500.0), spread_of(params, "ohms", 0.2, UNSTATED_TOLERANCE), powered=True),
        Element(
            "output", "signal", "gnd", 25.0, UNSTATED_TOLERANCE,
            contact=Contact(positions=frozenset({"near"})), powered=True, power=_HALL_ALIVE,
        ),
        inner("supply"),
        inner("signal", name="inner_signal"),
    )  # fmt: skip


def _current_sensor(params: Params, pins: tuple[str, ...]) -> tuple[Element, ...]:
    low, high, spread = number(params, "low_amps", 0.007), number(params, "high_amps", 0.014), number(params, "tolerance", 0.08)

    def sink(name: str, amps: float, contact: Contact | None) -> Element:
        # From about 3 V on it takes its own current whatever the voltage.
        return Element(name, "a", "b", 3.0 / amps / 2.0, spread, law=Law.LIMITED, amps=amps, contact=contact, drawn=not name, powered=True)

    high_too = sink("step", high - low, Contact(positions=frozenset({"high"})))
    return (sink("", low, None), high_too, inner("a", "b"), nothing("bridge", "a", "b"))


def _oxygen(params: Params, pins: tuple[str, ...]) -> tuple[Element, ...]:
    ohms = number(params, "ohms", 5e3)

    def cell(name: str, volts: float, position: str) -> Element:
        contact = Contact(positions=frozenset({position}))
        return Element(name, "signal", "gnd", ohms, 0.1, law=Law.EMF, volts=volts, ohms_tolerance=0.5, contact=contact, drawn=not name)

    elements = [cell("", 0.1, "lean"), cell("rich", 0.85, "rich")]
    if "heater_a" in pins and "heater_b" in pins:
        elements.append(Element("heater", "heater_a", "heater_b", number(params, "heater_ohms", 6.0), 0.1))
    return tuple(elements)


def _oxygen_check(params: Params, pins: tuple[str, ...]) -> str | None:
    return "give both heater_a and heater_b, or neither" if ("heater_a" in pins) != ("heater_b" in pins) else None


def _sender(params: Params, pins: tuple[str, ...]) -> tuple[Element, ...]:
    empty, full = number(params, "empty_ohms", 10.0), number(params, "full_ohms", 180.0)
    ohms = empty + (full - empty) * number(params, "percent", 50.0) / 100.0
    return (Element("", "a", "b", max(ohms, 0.01), number(params, "tolerance", 0.05)), leak("a"))


def _gauge(params: Params, pins: tuple[str, ...]) -> tuple[Element, ...]:
    return (Element("", "a", "b", number(params, "ohms", 60.0), number(params, "tolerance", 0.05)),)


_STOP_BELOW = 0.1  # of the scale: how far under its empty mark the needle rests; what is seen of it is seen from there


def _indicates(seen: Seen) -> tuple[Sight, ...]:
    empty, full = number(seen.params, "empty_amps", 0.03), number(seen.params, "full_amps", 0.08)
    share = (abs(seen.amps[""]) - empty) / (full - empty)
    shown = min(max(share, -_STOP_BELOW), 1.15)
    words = "below the scale" if shown < -0.03 else "beyond the scale" if shown > 1.05 else f"indicates {100 * shown:.0f} %"
    return (Sight("indicates", max(share + _STOP_BELOW, 0.0), words),)


def _gauge_check(params: Params) -> str | None:
    if number(params, "empty_amps", 0.03) == number(params, "full_amps", 0.08):
        return "empty_amps and full_amps must differ"
    return None


_PERCENT = Dial("percent", "%", 0.0, 100.0, 0.0, "position along its track")
_TRACK = (
    Param("ohms", "Ω", "ohms", "resistance of the whole track", default="5000"),
    Param("wiper_ohms", "Ω", "ohms", "resistance of the wiper's contact", default="20"),
    tolerance(0.02),
)
_WIPER = Severity(Span.SERIES, lambda params: 5e3, "5 kΩ")
_CELSIUS = Dial("celsius", "°C", -50.0, 300.0, 20.0, "temperature of the sensor")


def _track_modes(prefix: str, name: str) -> tuple[Mode, ...]:
    wiper = "" if prefix in ("", "1") else f"wiper{prefix}"
    of = f" of track {prefix}" if prefix else ""
    return (
        Mode(f"{name}open", 0.6, ((f"top{prefix}", Effect.OPEN),), words=f"track{of} broken at its supply end"),
        Mode(f"{name}ground_open", 0.6, ((f"bottom{prefix}", Effect.OPEN),), words=f"track{of} broken at its ground end"),
        Mode(f"{name}wiper_open", 0.8, ((wiper, Effect.OPEN),), words=f"wiper{of} lifts off"),
        Mode(f"{name}wiper_high_resistance", 0.8, ((wiper, Effect.VALUE),), _WIPER, f"wiper{of} worn"),
    )


KINDS = (
    Kind(
        "thermistor",
        "A temperature sensor whose resistance falls as it warms, by B or by Steinhart and Hart.",
        ("a", "b"),
        _thermistor,
        (opens(1.0, words="open"), resists(0.6, words="drifted", severity=doubled("twice its ohms")), shorts(0.4, "shorted")),
        (
            Param("ohms", "Ω", "ohms", "resistance at 25 °C", default="2200"),
            Param("beta", "K", "kelvin", "B parameter", default="3500"),
            Param("sh_a", "1/K", "", "Steinhart–Hart A; with sh_b and sh_c instead of ohms and beta"),
            Param("sh_b", "1/K", "", "Steinhart–Hart B"),
            Param("sh_c", "1/K", "", "Steinhart–Hart C", least="zero"),
            tolerance(0.05),
        ),
        dial=_CELSIUS,
        symbol="sensor",
        built="sensor",
        load="",
        check=_thermistor_check,
        also=("temperature sensor", "temp sensor", "ntc", "temperature sender", "coolant sensor", "ect", "iat"),
    ),
    Kind(
        "potentiometer",
        "A potentiometer: a track from a to b tapped by the wiper w; a state gives its position in percent.",
        ("a", "w", "b"),
        _potentiometer,
        _track_modes("", ""),
        (
            Param("low", "%", "percent", "share of the track at 0 %", default="0", least="zero"),
            Param("high", "%", "percent", "share of the track at 100 %", default="100"),
            *_TRACK,
        ),
        dial=_PERCENT,
        symbol="sensor",
        built="sensor",
        current="out of the wiper",
        check=_share_check,
        also=("pot", "throttle position sensor", "tps", "position sensor", "variable resistor", "rheostat"),
    ),
    Kind(
        "pedal",
        "A dual-track pedal sensor: the second track gives a fixed share of the first's voltage.",
        ("supply1", "signal1", "gnd1", "supply2", "signal2", "gnd2"),
        _pedal,
        (*_track_modes("1", "track1_"), *_track_modes("2", "track2_")),
        (
            Param("low", "%", "percent", "first track's share of its supply with the pedal up", default="15", least="zero"),
            Param("high", "%", "percent", "first track's share with the pedal down", default="80"),
            Param("ratio", "", "", "second track's voltage over the first's", default="0.5"),
            *_TRACK,
        ),
        dial=Dial("percent", "%", 0.0, 100.0, 0.0, "how far it is pressed"),
        symbol="sensor",
        built="sensor",
        current="out of the first wiper",
        check=_share_check,
        also=("accelerator", "throttle pedal", "dual track"),
    ),
    Kind(
        "pressure_sensor",
        "A pressure transducer, ratiometric: 10 % of its supply at 0 bar, 90 % at full scale (0.5 to 4.5 V on 5 V).",
        ("supply", "signal", "gnd"),
        _transducer,
        (
            opens(0.6, words="open at its supply pin"),
            Mode("ground_open", 0.6, (("lower", Effect.OPEN),), words="open at its ground pin"),
            Mode("signal_open", 0.6, (("output", Effect.OPEN),), words="open at its signal pin"),
            Mode("signal_high_resistance", 0.4, (("output", Effect.VALUE),), _WIPER, "signal pin corroded inside"),
            shorts(0.6, "shorted inside: pulls the reference down"),
        ),
        (
            Param("full_scale", "bar", "bar", "pressure at 90 % output", default="10"),
            Param("ohms", "Ω", "ohms", "between supply and ground", default="800"),
            tolerance(0.01),
        ),
        dial=Dial("bar", "bar", 0.0, 3000.0, 0.0, "pressure at the sensor"),
        symbol="sensor",
        built="sensor",
        current="from supply into it",
        also=("pressure transducer", "map", "rail pressure sensor", "boost sensor", "transducer"),
    ),
    Kind(
        "pickup",
        "An inductive pick-up: a winding whose voltage grows with speed; a state gives the speed.",
        ("a", "b"),
        _pickup,
        (
            opens(1.0, words="winding open"),
            resists(0.4, words="winding reads high", severity=doubled("twice its ohms")),
            grounds(0.4, words="winding touches its case"),
        ),
        (
            Param("ohms", "Ω", "ohms", "resistance of the winding", default="900"),
            Param("henries", "H", "henries", "inductance", default="0.3", least="zero"),
            Param("volts_per_rpm", "V·min", "volts per revolution a minute", "effective voltage per unit of speed", default="0.002"),
            tolerance(0.08),
        ),
        dial=Dial("rpm", "1/min", 0.0, 20000.0, 0.0, "speed of its wheel"),
        symbol="coil",
        built="sensor",
        load="",
        shows=_pickup_gives,
        notes="For the circuit's direct voltages it is its winding; the voltage it makes is told beside.",
        also=("inductive sensor", "speed sensor", "crank sensor", "reluctor", "pick up", "vr sensor", "magnetic sensor"),
    ),
    Kind(
        "hall_switch",
        "A Hall switch with an open collector: joins its signal to ground while its target is near.",
        ("supply", "signal", "gnd"),
        _hall,
        (
            opens(0.3, words="dead: takes no supply"),
            Mode("stuck_open", 0.6, (("output", Effect.OPEN),), words="does not switch on"),
            Mode("stuck_closed", 0.5, (("output", Effect.CLOSED),), words="does not switch off"),
        ),
        (Param("ohms", "Ω", "ohms", "what its supply current amounts to", default="1500"),),
        positions=("away", "near"),
        rest="away",
        symbol="sensor",
        built="sensor",
        current="its supply current",
        also=("hall", "hall sensor", "cam sensor", "camshaft sensor", "proximity switch"),
    ),
    Kind(
        "current_sensor",
        "A two-wire active sensor: takes one of two currents whatever the voltage.",
        ("a", "b"),
        _current_sensor,
        (
            opens(1.0, words="open"),
            shorts(0.4, "shorted"),
            Mode("stuck_low", 0.4, (("step", Effect.OPEN),), words="stays at its low current"),
        ),
        (
            Param("low_amps", "A", "amperes", "low current", default="0.007"),
            Param("high_amps", "A", "amperes", "high current", default="0.014"),
            tolerance(0.08, "the current"),
        ),
        positions=("low", "high"),
        rest="low",
        symbol="sensor",
        built="sensor",
        load="",
        also=("active sensor", "wheel speed sensor", "abs sensor", "two wire sensor"),
    ),
    Kind(
        "oxygen_sensor",
        "A jump-type oxygen sensor: 0.1 V lean, 0.85 V rich; nothing while cold. With or without a heater.",
        ("signal", "gnd"),
        _oxygen,
        (
            Mode("stuck_lean", 0.8, (("rich", Effect.OPEN),), words="gives nothing when rich"),
            Mode("heater_open", 1.0, (("heater", Effect.OPEN),), words="heater open"),
            Mode("heater_high_resistance", 0.4, (("heater", Effect.VALUE),), SERIES, "heater reads high"),
        ),
        (
            Param("ohms", "Ω", "ohms", "inner resistance when hot", default="5000"),
            Param("heater_ohms", "Ω", "ohms", "heater", default="6"),
        ),
        optional_pins=("heater_a", "heater_b"),
        positions=("cold", "lean", "rich"),
        rest="cold",
        symbol="sensor",
        built="sensor",
        current="of the lean cell",
        check_pins=_oxygen_check,
        also=("lambda", "lambda probe", "o2", "o2 sensor", "exhaust sensor"),
    ),
    Kind(
        "level_sender",
        "A level sender: a resistance that goes from empty to full; a state gives the level in percent.",
        ("a", "b"),
        _sender,
        (
            opens(1.2, words="track or wiper open"),
            resists(0.8, words="track worn", severity=Severity(Span.SERIES, lambda p: 300.0, "300 Ω")),
            grounds(0.5, words="lead chafed through at the tank"),
        ),
        (
            Param("empty_ohms", "Ω", "ohms", "resistance when empty", default="10", least="zero"),
            Param("full_ohms", "Ω", "ohms", "resistance when full", default="180", least="zero"),
            tolerance(0.05),
        ),
        dial=Dial("percent", "%", 0.0, 100.0, 50.0, "level"),
        symbol="sensor",
        built="sensor",
        load="",
        also=("fuel sender", "tank sender", "float", "sender", "level sensor"),
    ),
    Kind(
        "gauge",
        "A gauge that shows the current through it.",
        ("a", "b"),
        _gauge,
        (opens(0.8, words="winding open"), resists(0.3, words="winding reads high", severity=doubled("twice its ohms"))),
        (
            Param("ohms", "Ω", "ohms", "resistance", default="60"),
            Param("empty_amps", "A", "amperes", "current at the start of its scale", default="0.03"),
            Param("full_amps", "A", "amperes", "current at the end of its scale", default="0.08"),
            tolerance(0.05),
        ),
        symbol="gauge",
        built="gauge",
        load="",
        shows=_indicates,
        check=_gauge_check,
        also=("instrument", "meter", "dial", "fuel gauge", "temperature gauge"),
    ),
)
