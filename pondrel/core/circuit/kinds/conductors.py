"""Conductors and joints: what should lose no volts, and where most volts are lost."""

from __future__ import annotations

from collections.abc import Mapping

from ...conductor import AWG_SIZES, awg_ohms_per_metre, copper_ohms_at, fuse_cold_ohms, metric_ohms_per_metre
from ..part import GROUND, Element, Kind, Param
from .common import JOINT, OHMS, grounds, joint_tolerance, number, opens, resists, tolerance

# Sound joints; a joint's own value scatters widely and matters little. Common practice, no source.
CONTACT_OHMS = 0.003
SPLICE_OHMS = 0.001
GROUND_OHMS = 0.003
FUSE_TOLERANCE = 0.2
WIRE_TOLERANCE = 0.12


def _fuse(params: Mapping[str, object], pins: tuple[str, ...]) -> tuple[Element, ...]:
    rating = number(params, "rating", 10.0)
    ohms = number(params, "ohms", fuse_cold_ohms(rating))
    return (Element("", "a", "b", ohms, number(params, "tolerance", FUSE_TOLERANCE), rating=rating),)


def wire_ohms(params: Mapping[str, object]) -> float:
    """Resistance of a wire from what its sheet entry gives: ``ohms``, or length with section or AWG, at its temperature."""
    if params.get("ohms") is not None:
        return number(params, "ohms", 0.0)
    per_metre = (
        metric_ohms_per_metre(number(params, "csa_mm2", 1.0)) if params.get("awg") is None else awg_ohms_per_metre(str(params["awg"]))
    )
    return copper_ohms_at(per_metre * number(params, "length_m", 0.0), number(params, "temperature", 20.0))


def _wire(params: Mapping[str, object], pins: tuple[str, ...]) -> tuple[Element, ...]:
    ohms = wire_ohms(params)
    return (
        Element("", "a", "b", ohms, number(params, "tolerance", WIRE_TOLERANCE)),
        Element("leak", "b", GROUND, float("inf")),
    )


def _joint(healthy_ohms: float):
    def build(params: Mapping[str, object], pins: tuple[str, ...]) -> tuple[Element, ...]:
        return (Element("", "a", "b", number(params, "ohms", healthy_ohms), joint_tolerance(params)),)

    return build


def _splice(params: Mapping[str, object], pins: tuple[str, ...]) -> tuple[Element, ...]:
    if len(pins) == 2:
        return _joint(SPLICE_OHMS)(params, pins)
    # A star: the crimp is the leg of pin a, each further wire has a sound leg of its own.
    leg, tolerance = number(params, "ohms", SPLICE_OHMS) / 2.0, joint_tolerance(params)
    return (
        Element("", "a", "*crimp", leg, tolerance),
        *(Element(f"leg_{pin}", "*crimp", pin, leg, tolerance) for pin in pins[1:]),
    )


def _wire_check(params: Mapping[str, object]) -> str | None:
    if params.get("csa_mm2") is not None and params.get("awg") is not None:
        return "give csa_mm2 or awg, not both"
    return None


KINDS = (
    Kind(
        "fuse",
        "A blade fuse. A dead short behind it gives its current and says that it would blow.",
        ("a", "b"),
        _fuse,
        (opens(2.0, words="blown or missing"), resists(1.0, words="burnt clip or bad seat")),
        (
            Param("rating", "A", "amperes", "rated current", required=True),
            Param("ohms", "Ω", "ohms", "cold resistance", default="0.075 V divided by the rating", least="zero"),
            tolerance(FUSE_TOLERANCE),
        ),
        symbol="fuse",
    ),
    Kind(
        "wire",
        "A copper wire, by length and section (mm² or AWG) at its temperature, or by its ohms.",
        ("a", "b"),
        _wire,
        (
            opens(0.5, words="broken"),
            resists(0.5, words="broken strands or green copper"),
            grounds(0.4, words="chafed through to ground"),
        ),
        (
            Param("length_m", "m", "metres", "length"),
            Param("csa_mm2", "mm²", "square millimetres", "section"),
            Param("awg", "AWG", "", "gauge size instead of csa_mm2", choices=AWG_SIZES),
            Param("temperature", "°C", "degrees Celsius", "temperature of the copper", default="20", least="any"),
            OHMS,
            tolerance(WIRE_TOLERANCE),
        ),
        needs=(("ohms",), ("length_m", "csa_mm2"), ("length_m", "awg")),
        symbol="wire",
        notes="`short_to_ground` leaves the wire at its pin b.",
        check=_wire_check,
    ),
    Kind(
        "contact",
        "One pin of a plug or a terminal: two conductors touching.",
        ("a", "b"),
        _joint(CONTACT_OHMS),
        (opens(1.0, words="pin backed out or broken"), resists(2.0, words="corroded or loose")),
        (Param("ohms", "Ω", "ohms", "healthy resistance", default="0.003", least="zero"), JOINT),
        symbol="contact",
    ),
    Kind(
        "splice",
        "A crimped or soldered joint of two or more wires.",
        ("a", "b"),
        _splice,
        (opens(0.5, words="pulled apart"), resists(1.0, words="corroded crimp")),
        (
            Param("ohms", "Ω", "ohms", "healthy resistance from pin a to any other", default="0.001", least="zero"),
            JOINT,
        ),
        optional_pins=("c", "d", "e", "f", "g", "h"),
        symbol="splice",
        notes="With three pins and more, the crimp at pin a is what fails: everything behind it suffers alike.",
    ),
    Kind(
        "ground",
        "A ground point: ring terminal, bolt and body up to battery minus.",
        ("a", "b"),
        _joint(GROUND_OHMS),
        (opens(1.0, words="loose or broken off"), resists(2.5, words="corroded or painted over")),
        (Param("ohms", "Ω", "ohms", "healthy resistance", default="0.003", least="zero"), JOINT),
        symbol="ground",
    ),
)
