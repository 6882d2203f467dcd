"""Loads: what the circuit is there to feed."""

from __future__ import annotations

import math
from collections.abc import Callable

from ...base.conductor import copper_ohms_at
from ...base.judgement import judged
from ...base.quantity import show
from ..laws import FILAMENT_POWER, LIGHT_POWER
from ..part import Build, Effect, Element, Kind, Law, Mode, Param, Seen, Severity, Sight, Span
from .common import (
    UNSTATED_TOLERANCE,
    Params,
    doubled,
    grounds,
    junction,
    leak,
    nothing,
    number,
    opens,
    resists,
    shorts,
    spread_of,
    tolerance,
)

_USUAL_WINDING = judged("USUAL_WINDING_TOLERANCE", 0.25, "share", "how far a winding's ohms are from what is usual of its kind")
_TURNS = Severity(Span.TURNS, lambda params: 0.25 * number(params, "ohms", 1.0), "a quarter of its ohms")
COLD_TOLERANCE = judged("COLD_FILAMENT_TOLERANCE", 0.2, "share", "how far a cold filament's ohms are from a twelfth of its hot ones")
CLUTCH_PULLS_IN = judged("CLUTCH_PULLS_IN", 6.0, "V", "what a 12 V clutch pulls in at, if its sheet does not say")
FILAMENT_BEND = judged("FILAMENT_BEND", 0.04, "power", "how far the power of voltage is unknown that a lamp's current goes with")
GLOW_BEND = judged("GLOW_BEND", 0.15, "power", "the same of a glow plug")
FAN_BEND = judged("FAN_BEND", 0.25, "power", "the same of a fan's motor, whose torque goes with the square of its speed")
MOTOR_BEND = judged("MOTOR_BEND", 0.8, "power", "the same of any other: a pump's or a hoist's torque may be the same at any speed")
_GLOW_POWER = 0.7  # a glow plug's current rises slower than its voltage: its coil regulates itself; common practice, no source
_LED_EMISSION, _LED_VOLTS = 2.0, 2.1


def rated_ohms(params: Params) -> float:
    """Resistance at rated volts from ``volts`` with ``watts`` or ``amps``."""
    volts = number(params, "volts", 12.0)
    return volts * volts / number(params, "watts", 10.0) if params.get("watts") is not None else volts / number(params, "amps", 1.0)


def _resistor(params: Params, pins: tuple[str, ...]) -> tuple[Element, ...]:
    return (Element("", "a", "b", number(params, "ohms", 1.0), number(params, "tolerance", 0.03)),)


def _heater(params: Params, pins: tuple[str, ...]) -> tuple[Element, ...]:
    return (Element("", "a", "b", rated_ohms(params), number(params, "tolerance", 0.05)), leak("a"))


def _heats(seen: Seen) -> tuple[Sight, ...]:
    watts = abs(seen.volts[""] * seen.amps[""])
    return (Sight("heats", watts, f"takes {watts:.0f} W" if watts >= 0.5 else "stays cold"),)


def _winding(turns_mode: float = 0.5, usual_ohms: float = 1.0, henries: float = 0.03) -> Build:
    def build(params: Params, pins: tuple[str, ...]) -> tuple[Element, ...]:
        # The ohms are those at ``at``; the winding itself is at ``temperature``.
        at = number(params, "at", 20.0)
        factor = copper_ohms_at(1.0, number(params, "temperature", at)) / copper_ohms_at(1.0, at)
        ohms = number(params, "ohms", usual_ohms) * factor
        return (
            Element(
                "",
                "a",
                "b",
                ohms,
                number(params, "tolerance", spread_of(params, "ohms", 0.06, _USUAL_WINDING)),
                henries=number(params, "henries", henries),
            ),
            leak("a"),
        )

    return build


def pull_in_amps(params: Params) -> float | None:
    """Current at which a winding moves its armature, None where the sheet does not say."""
    if params.get("pull_in_amps") is not None:
        return number(params, "pull_in_amps", 0.0)
    if params.get("ampere_turns") is not None and params.get("turns") is not None:
        return number(params, "ampere_turns", 0.0) / number(params, "turns", 1.0)
    return None


def _moves(usual_volts: float, usual_ohms: float) -> Callable[[Seen], tuple[Sight, ...]]:
    """Whether a winding moves its armature. Where the sheet is silent it is what pulls in at ``usual_volts``, 0 for no saying."""

    def shows(seen: Seen) -> tuple[Sight, ...]:
        need, amps = pull_in_amps(seen.params), abs(seen.amps[""])
        if need is None and usual_volts:
            need = usual_volts / number(seen.params, "ohms", usual_ohms)
        if need is None:
            return ()
        says = f"{'pulls in' if amps >= need else 'does not move'}: {show(amps, 'A')} of {show(need, 'A')}"
        return (Sight("moves", amps / need, says),)

    return shows


def _winding_check(params: Params) -> str | None:
    if (params.get("ampere_turns") is None) != (params.get("turns") is None):
        return "give ampere_turns and turns together: pull-in current is one divided by the other"
    return None


def _lamp(params: Params, pins: tuple[str, ...]) -> tuple[Element, ...]:
    volts, watts = number(params, "volts", 12.0), number(params, "watts", 10.0)
    filament = Element(
        "",
        "a",
        "b",
        volts * volts / watts,
        number(params, "tolerance", 0.05),
        law=Law.FILAMENT,
        volts=volts,
        amps=watts / volts,
        shape=FILAMENT_POWER,
        ohms_tolerance=COLD_TOLERANCE,
        bend_tolerance=FILAMENT_BEND,
    )
    return (filament, nothing("bridge", "a", "b"))


def _shines(seen: Seen) -> tuple[Sight, ...]:
    if abs(seen.amps[""]) < 1e-6:
        return (Sight("brightness", 0.0, "dark"),)
    share = (abs(seen.volts[""]) / number(seen.params, "volts", 12.0)) ** LIGHT_POWER
    words = "dark" if share < 0.003 else "glows faintly" if share < 0.08 else "dim" if share < 0.6 else "bright"
    return (Sight("brightness", share, words),)


def _glow_plug(params: Params, pins: tuple[str, ...]) -> tuple[Element, ...]:
    volts, amps = number(params, "volts", 11.0), number(params, "amps", 9.0)
    return (
        Element(
            "",
            "a",
            "b",
            volts / amps,
            number(params, "tolerance", 0.08),
            law=Law.FILAMENT,
            volts=volts,
            amps=amps,
            shape=_GLOW_POWER,
            ohms_tolerance=COLD_TOLERANCE,
            bend_tolerance=GLOW_BEND,
        ),
    )


def _led(params: Params, pins: tuple[str, ...]) -> tuple[Element, ...]:
    rated, amps = number(params, "volts", 12.0), number(params, "amps", 0.02)
    forward = number(params, "forward", 2.1)
    ohms = number(params, "ohms", max((rated - forward) / amps, 1.0))
    # Several dies in a row each bend on their own: the emission voltage grows with their number.
    emission = _LED_EMISSION * max(1, round(forward / _LED_VOLTS))
    return (
        junction("", "a", "b", forward + ohms * amps, amps, ohms, emission, tolerance=number(params, "tolerance", 0.05)),
        nothing("bridge", "a", "b"),
    )


def _lights(seen: Seen) -> tuple[Sight, ...]:
    share = max(seen.amps[""], 0.0) / number(seen.params, "amps", 0.02)
    words = "dark" if share < 0.01 else "glows faintly" if share < 0.2 else "dim" if share < 0.7 else "bright"
    return (Sight("brightness", share, words),)


def motor_ohms(params: Params) -> float:
    """Resistance of armature and brushes; about a fifth of the running resistance in a small motor. Common practice, no source."""
    return number(params, "ohms", 0.2 * number(params, "volts", 12.0) / number(params, "amps", 5.0))


def _motor(bend: float) -> Build:
    def build(params: Params, pins: tuple[str, ...]) -> tuple[Element, ...]:
        volts, amps = number(params, "volts", 12.0), number(params, "amps", 5.0)
        ohms = motor_ohms(params)
        turning = Element(
            "",
            "a",
            "b",
            ohms,
            number(params, "tolerance", 0.1),
            law=Law.MOTOR,
            volts=volts,
            amps=amps,
            shape=ohms,
            ohms_tolerance=spread_of(params, "ohms", 0.15, UNSTATED_TOLERANCE),
            bend_tolerance=bend,
        )
        return (turning, nothing("bridge", "a", "b"))

    return build


def _motor_check(params: Params) -> str | None:
    volts, amps, ohms = number(params, "volts", 12.0), number(params, "amps", 5.0), params.get("ohms")
    if ohms is not None and number(params, "ohms", 0.0) >= volts / amps:
        return f"ohms must be less than volts/amps ({volts / amps:g} Ω): a running motor makes a back-EMF of its own"
    return None


def _runs(seen: Seen) -> tuple[Sight, ...]:
    volts, amps = number(seen.params, "volts", 12.0), number(seen.params, "amps", 5.0)
    ohms = motor_ohms(seen.params)
    drawn = abs(seen.amps[""])
    # The back-EMF is the speed: a locked rotor has none, whatever it draws. What worn brushes lose is not speed: a fan turns as its
    # current makes it, torque going with the square of speed.
    by_volts = max(abs(seen.volts[""]) - ohms * drawn, 0.0) / (volts - ohms * amps) if drawn > 1e-6 else 0.0
    share = min(by_volts, math.sqrt(drawn / amps))
    words = "stands still" if share < 0.3 else "runs slowly" if share < 0.85 else "runs"
    return (Sight("runs", share, words),)


def _horn(params: Params, pins: tuple[str, ...]) -> tuple[Element, ...]:
    return (Element("", "a", "b", rated_ohms(params), number(params, "tolerance", 0.1)), leak("a"))


def _sounds(seen: Seen) -> tuple[Sight, ...]:
    share = abs(seen.volts[""]) / number(seen.params, "volts", 12.0)
    words = "silent" if share < 0.5 else "croaks" if share < 0.8 else "sounds"
    return (Sight("sounds", share, words),)


_VOLTS = Param("volts", "V", "volts", "rated voltage", default="12")
_WATTS = Param("watts", "W", "watts", "power at rated voltage")
_AMPS = Param("amps", "A", "amperes", "current at rated voltage")
_BY_POWER = (("watts",), ("amps",))
_CASE = "`short_to_ground` leaves the winding at pin a."


def _winding_kind(
    name: str, summary: str, symbol: str, ohms: float | None, henries: float, turns: float, words: str, also: tuple[str, ...],
    pull_in_volts: float = 0.0,
) -> Kind:  # fmt: skip
    required = ohms is None
    return Kind(
        name,
        summary,
        ("a", "b"),
        _winding(turns, ohms or 1.0, henries),
        (
            opens(1.0, words="winding open"),
            resists(0.3, words="winding reads high", severity=doubled("twice its ohms")),
            Mode("shorted", turns, (("", Effect.VALUE),), _TURNS, "shorted turns"),
            grounds(0.3, words=words),
        ),
        (
            Param(
                "ohms",
                "Ω",
                "ohms",
                "resistance of the winding at the temperature `at`",
                required=required,
                default="" if required else f"{ohms:g}",
            ),
            Param("at", "°C", "degrees Celsius", "temperature at which it has its ohms", default="20", least="any"),
            Param("temperature", "°C", "degrees Celsius", "temperature of the winding now", default="as `at`", least="any"),
            Param("henries", "H", "henries", "inductance", default=f"{henries:g}", least="zero"),
            Param(
                "pull_in_amps",
                "A",
                "amperes",
                "current at which it moves",
                default=f"what {pull_in_volts:g} V send through it" if pull_in_volts else "",
            ),
            Param("ampere_turns", "A", "ampere-turns", "what it takes to move it; with `turns`"),
            Param("turns", "", "", "turns of the winding"),
            tolerance(0.06),
        ),
        symbol=symbol,
        built="coil",
        load="",
        notes=_CASE,
        shows=_moves(pull_in_volts, ohms or 1.0),
        check=_winding_check,
        also=also,
    )


def _motor_kind(name: str, summary: str, words: str, bend: float, also: tuple[str, ...]) -> Kind:
    return Kind(
        name,
        summary,
        ("a", "b"),
        _motor(bend),
        (
            opens(1.2, words="winding or brushes open"),
            Mode("locked", 0.8, (("", Effect.PLAIN),), words=words),
            resists(0.6, words="worn brushes", severity=Severity(Span.SERIES, lambda params: 1.0, "1 Ω")),
            shorts(0.2, "armature shorted"),
        ),
        (
            _VOLTS,
            Param("amps", "A", "amperes", "running current at rated voltage", required=True),
            Param("ohms", "Ω", "ohms", "armature and brushes; sets the current when locked", default="a fifth of volts/amps"),
            tolerance(0.1, "its current"),
        ),
        symbol="motor",
        built="motor",
        load="",
        shows=_runs,
        check=_motor_check,
        also=also,
    )


KINDS = (
    Kind(
        "resistor",
        "A plain resistance: a series resistor, a motor under steady load.",
        ("a", "b"),
        _resistor,
        (
            opens(0.8),
            resists(0.4, words="drifted high", severity=doubled("twice its ohms")),
            Mode("shorted", 0.2, (("", Effect.VALUE),), Severity(Span.TURNS, lambda params: 0.01, "0.01 Ω"), "shorted"),
        ),
        (Param("ohms", "Ω", "ohms", "resistance", required=True), tolerance(0.03)),
        symbol="resistor",
        load="",
        shows=_heats,
        also=("resistance", "series resistor", "ballast", "shunt", "load", "dropping resistor", "blower resistor"),
    ),
    Kind(
        "heater",
        "A heating element.",
        ("a", "b"),
        _heater,
        (
            opens(1.2, words="element broken"),
            resists(
                0.4, words="some of its strands broken", severity=Severity(Span.SERIES, lambda p: 2.0 * rated_ohms(p), "twice its ohms")
            ),
            grounds(0.2, words="element touches its case"),
        ),
        (_VOLTS, _WATTS, _AMPS, tolerance(0.05)),
        needs=_BY_POWER,
        symbol="heater",
        load="",
        shows=_heats,
        notes=_CASE,
        also=("heating element", "heated glass", "seat heater", "demister", "element", "ptc"),
    ),
    Kind(
        "glow_plug",
        "A self-regulating glow plug, hot: its current rises with about the 0.7 power of voltage.",
        ("a", "b"),
        _glow_plug,
        (opens(2.0, words="heater broken"),),
        (
            Param("volts", "V", "volts", "rated voltage", default="11"),
            Param("amps", "A", "amperes", "current when hot", default="9"),
            tolerance(0.08, "its current"),
        ),
        symbol="heater",
        load="",
        shows=_heats,
        also=("heater plug", "preheater"),
    ),
    _winding_kind(
        "coil",
        "A winding of any sort: it says whether it moves where its pull-in is given.",
        "coil",
        None,
        0.03,
        0.5,
        "winding touches its case",
        ("winding", "inductor", "choke", "ignition coil", "electromagnet", "primary"),
    ),
    _winding_kind(
        "solenoid",
        "A solenoid or valve.",
        "coil",
        None,
        0.05,
        0.5,
        "winding touches its case",
        ("valve", "actuator", "solenoid valve", "purge valve", "egr", "lock", "plunger", "door lock"),
    ),
    _winding_kind(
        "clutch",
        "An electromagnetic clutch, as of a compressor.",
        "coil",
        3.6,
        0.04,
        0.6,
        "winding touches its case",
        ("compressor clutch", "magnetic clutch"),
        CLUTCH_PULLS_IN,
    ),
    _winding_kind(
        "injector",
        "A fuel injector's winding.",
        "coil",
        14.0,
        0.012,
        0.4,
        "winding touches its case",
        ("nozzle", "fuel injector", "injection valve"),
    ),
    Kind(
        "lamp",
        "A filament lamp: current rises with about the 0.55 power of voltage; cold it has about a twelfth of its hot resistance.",
        ("a", "b"),
        _lamp,
        (opens(2.0, words="filament broken"), shorts(0.2, "shorted in its holder")),
        (
            _VOLTS,
            Param("watts", "W", "watts", "power at rated voltage", required=True),
            tolerance(0.05, "its current"),
        ),
        symbol="lamp",
        built="lamp",
        load="",
        shows=_shines,
        also=("bulb", "light", "headlight", "headlamp", "filament", "indicator", "turn signal", "tail light", "lightbulb"),
    ),
    Kind(
        "led",
        "A light-emitting diode with its series resistor; conducts from a to b.",
        ("a", "b"),
        _led,
        (opens(1.0, words="dead"), shorts(0.2, "shorted")),
        (
            _VOLTS,
            Param("amps", "A", "amperes", "current at rated voltage", default="0.02"),
            Param("forward", "V", "volts", "forward voltage without the resistor, of all its dies together", default="2.1"),
            Param("ohms", "Ω", "ohms", "series resistor", default="what rated voltage and current leave for it"),
            tolerance(0.05, "the forward voltage"),
        ),
        symbol="led",
        built="lamp",
        load="",
        shows=_lights,
        also=("light emitting diode", "led lamp", "led strip", "strip", "leds"),
    ),
    _motor_kind(
        "motor",
        "A motor: armature resistance and a back-EMF; its load rises with the square of its speed.",
        "locked: draws its stall current",
        MOTOR_BEND,
        ("engine", "pump", "window motor", "wiper motor", "fuel pump", "servo", "stepper"),
    ),
    _motor_kind(
        "fan",
        "A fan or blower motor.",
        "locked: draws its stall current",
        FAN_BEND,
        ("blower", "ventilator", "cooling fan", "radiator fan"),
    ),
    Kind(
        "horn",
        "A horn, at its mean current.",
        ("a", "b"),
        _horn,
        (
            opens(1.2, words="winding or points open"),
            resists(0.8, words="points burnt", severity=Severity(Span.SERIES, lambda p: 2.0 * rated_ohms(p), "twice its ohms")),
            grounds(0.2, words="touches its case"),
        ),
        (_VOLTS, _WATTS, _AMPS, tolerance(0.1)),
        needs=_BY_POWER,
        symbol="horn",
        load="",
        shows=_sounds,
        notes=_CASE,
        also=("buzzer", "siren", "hooter", "beeper", "klaxon", "sounder"),
    ),
)
