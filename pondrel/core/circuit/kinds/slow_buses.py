"""What hangs on a slow bus: nodes of LIN on one wire, and low-speed transceivers whose bus goes on talking when one of its wires fails."""

from __future__ import annotations

from ..part import PULSED, Contact, Effect, Element, Kind, Law, Mode, Param, Seen, Sight
from .buses import BUS_LINES, DUTY, heard
from .common import UNSTATED_TOLERANCE, Params, duty_check, fed, grounds, junction, leak, nothing, number, shorts

__all__ = ["KINDS"]

# A LIN node (ISO 17987-4, from memory): pulled up to its own supply through a diode, by 1 kΩ in the master and about 30 kΩ in every
# other; dominant pulls the line towards ground, and a receiver takes less than 40 % of its supply for dominant, more than 60 % for not.
SLAVE_OHMS, _DIODE_VOLTS, _DIODE_AMPS = 30e3, 0.6, 1e-4
_PULLS_DOWN_OHMS = 60.0
_SENSE_OHMS = 1e6
_TALKS = frozenset({"dominant", PULSED})


def _talking(params: Params, hertz: float) -> Contact:
    return Contact(positions=_TALKS, duty=number(params, "duty", 50.0) / 100.0, hertz=number(params, "hertz", hertz))


def _lin_node(params: Params, pins: tuple[str, ...]) -> tuple[Element, ...]:
    ohms = number(params, "ohms", SLAVE_OHMS)
    power, told = fed("supply", "gnd")
    return (
        junction("", "supply", "line", _DIODE_VOLTS + ohms * _DIODE_AMPS, _DIODE_AMPS, ohms),
        Element(
            "drive", "line", "gnd", _PULLS_DOWN_OHMS, UNSTATED_TOLERANCE, contact=_talking(params, 10e3), powered=True, power=power
        ),
        Element("sense", "line", "gnd", _SENSE_OHMS, UNSTATED_TOLERANCE, drawn=False),
        leak("line"),
        told,
    )  # fmt: skip


def _lin_hears(seen: Seen) -> tuple[Sight, ...]:
    """By how much of its supply the line is pulled down: half of it is what a receiver decides at."""
    supply, line = seen.volts["power"], seen.volts.get("sense", seen.volts[""])
    share = 2.0 * (1.0 - line / supply) if supply > 1.0 else 0.0
    return heard(max(share, 0.0), f"{line:.1f} V on the line")


def _lin_listener(params: Params, pins: tuple[str, ...]) -> tuple[Element, ...]:
    _, told = fed("supply", "gnd")
    return (Element("", "line", "gnd", _SENSE_OHMS, UNSTATED_TOLERANCE, drawn=False), told)


# A low-speed fault-tolerant transceiver (ISO 11898-3, from memory): at rest the high line is pulled to ground and the low line to 5 V, by
# resistors in every module that come to about 100 Ω together; dominant drives them to some 3.6 V and 1.4 V. Asleep, the low line is
# pulled to the battery instead.
FEED_VOLTS, END_OHMS = 5.0, 560.0
_DRIVE_OHMS, _HIGH_VOLTS, _LOW_VOLTS = 20.0, 4.4, 0.4
# The difference at which its receiver decides, and what it decides at by one line alone, once the other is beyond all sense.
_DECIDES_AT, _HIGH_ALONE, _LOW_ALONE = -2.85, 1.8, 3.2
_SHORT_TO_GROUND_BELOW, _SHORT_TO_PLUS_ABOVE, _TOGETHER = 0.3, 6.5, 0.3


def _low_speed(params: Params, pins: tuple[str, ...]) -> tuple[Element, ...]:
    power, told = fed("supply", "gnd")
    ohms = number(params, "ohms", END_OHMS)
    awake = Contact(positions=frozenset({"recessive", "dominant", PULSED}))
    asleep = Contact(positions=frozenset({"asleep"}))
    talks = _talking(params, 62.5e3)

    def bias(name: str, a: str, b: str, contact: Contact, volts: float = 0.0, own: float = ohms) -> Element:
        law = Law.EMF if volts else Law.OHMIC
        spread = 0.02 if volts else UNSTATED_TOLERANCE
        return Element(
            name, a, b, own, spread, law=law, volts=volts, ohms_tolerance=UNSTATED_TOLERANCE, contact=contact, powered=True, power=power
        )  # fmt: skip

    return (
        bias("", "low", "gnd", awake, FEED_VOLTS),
        bias("high", "high", "gnd", awake),
        bias("asleep", "supply", "low", asleep),
        bias("drive_high", "high", "gnd", talks, _HIGH_VOLTS, _DRIVE_OHMS),
        bias("drive_low", "low", "gnd", talks, _LOW_VOLTS, _DRIVE_OHMS),
        *_senses("sense_high"),
        nothing("input", "high", "low"),
        leak("high"),
        told,
    )


def _senses(high: str) -> tuple[Element, Element]:
    return (
        Element(high, "high", "gnd", _SENSE_OHMS, UNSTATED_TOLERANCE, drawn=False),
        Element("sense_low", "low", "gnd", _SENSE_OHMS, UNSTATED_TOLERANCE, drawn=False),
    )


def _low_speed_hears(seen: Seen) -> tuple[Sight, ...]:
    """By both lines, or by the one that is left where the other is shorted to ground or plus. Where both are joined some transceivers go
    on and some do not, so it may go either way."""
    high, low = seen.volts.get("sense_high", seen.volts[""]), seen.volts["sense_low"]
    says = f"{high:.1f} V on the high and {low:.1f} V on the low line"
    if low < _SHORT_TO_GROUND_BELOW:
        return heard(high / _HIGH_ALONE, says)
    if high > _SHORT_TO_PLUS_ABOVE:
        return heard(max(FEED_VOLTS - low, 0.0) / (FEED_VOLTS - _LOW_ALONE), says)
    if abs(high - low) < _TOGETHER:
        return heard(1.0, says)
    return heard(max(high - low + FEED_VOLTS, 0.0) / (_DECIDES_AT + FEED_VOLTS), says)


_MODULE_MODES = (
    Mode("drive_high_open", 0.1, (("drive_high", Effect.OPEN),), words="does not drive the high line"),
    Mode("drive_low_open", 0.1, (("drive_low", Effect.OPEN),), words="does not drive the low line"),
    Mode("silent", 0.15, (("drive_high", Effect.OPEN), ("drive_low", Effect.OPEN)), words="never talks"),
)
_LOADED_LINE = "A LIN line carries a few milliamperes: a lamp or load on it pulls it down and stops the bus."
_LIN_LINE = {"line": {"lamp": _LOADED_LINE, "load": _LOADED_LINE}}

KINDS = (
    Kind(
        "lin_node",
        "A module's pin on a LIN line: pulled up to its supply through a diode, pulled to ground when it talks.",
        ("line", "gnd", "supply"),
        _lin_node,
        (
            Mode("open", 0.1, (("", Effect.OPEN),), words="pull-up open inside"),
            Mode("drive_open", 0.15, (("drive", Effect.OPEN),), words="never pulls the line down"),
            Mode("holds_dominant", 0.1, (("drive", Effect.CLOSED),), words="holds the line down and lets nobody talk"),
            grounds(0.2, words="line shorted to ground inside"),
        ),
        (
            Param("ohms", "Ω", "ohms", "pull-up inside: 1000 in the master, some 30000 in every other", default=f"{SLAVE_OHMS:g}"),
            DUTY,
            Param("hertz", "Hz", "hertz", "how often a second it goes dominant", default="10000"),
        ),
        positions=("off", "recessive", "dominant", PULSED),
        momentary=frozenset({"dominant"}),
        rest="recessive",
        symbol="module",
        built="module",
        current="of the pull-up, from supply to line",
        shows=_lin_hears,
        check=duty_check,
        never=_LIN_LINE,
        also=("lin", "lin slave", "lin master", "single wire bus"),
    ),
    Kind(
        "lin_listener",
        "A logger or tester on a LIN line: it hears who talks, and what it hears is evidence; it is no part of the vehicle.",
        ("line", "gnd", "supply"),
        _lin_listener,
        (),
        symbol="module",
        built="module",
        current="from line to gnd",
        shows=_lin_hears,
        never=_LIN_LINE,
        also=("lin logger",),
    ),
    Kind(
        "low_speed_transceiver",
        "A module's pins on a low-speed fault-tolerant bus: at rest high at ground and low at 5 V, driven the other way when it talks.",
        ("high", "low", "gnd", "supply"),
        _low_speed,
        (
            Mode("open", 0.1, (("", Effect.OPEN),), words="pull-up of the low line open inside"),
            Mode("high_open", 0.1, (("high", Effect.OPEN),), words="pull-down of the high line open inside"),
            *_MODULE_MODES,
            Mode(
                "holds_dominant", 0.1, (("drive_high", Effect.CLOSED), ("drive_low", Effect.CLOSED)),
                words="holds the bus and lets nobody talk",
            ),
            shorts(0.2, "lines shorted inside", "input"),
            grounds(0.2, words="high line shorted to ground inside"),
        ),
        (
            Param("ohms", "Ω", "ohms", "resistor of each line inside; those of all modules come to about 100 Ω", default=f"{END_OHMS:g}"),
            DUTY,
            Param("hertz", "Hz", "hertz", "how often a second it goes dominant", default="62500"),
        ),
        positions=("off", "asleep", "recessive", "dominant", PULSED),
        momentary=frozenset({"dominant"}),
        rest="recessive",
        symbol="module",
        built="module",
        current="of the low line's pull-up, from low to gnd",
        shows=_low_speed_hears,
        check=duty_check,
        never=BUS_LINES,
        also=("fault tolerant can", "low speed can", "comfort bus node"),
    ),
    Kind(
        "low_speed_listener",
        "A logger or tester on a low-speed fault-tolerant bus: what it hears is evidence; it is no part of the vehicle.",
        ("high", "low", "gnd"),
        lambda params, pins: _senses(""),
        (),
        symbol="module",
        built="module",
        current="from high to gnd",
        shows=_low_speed_hears,
        never=BUS_LINES,
        also=("low speed logger",),
    ),
)  # fmt: skip
