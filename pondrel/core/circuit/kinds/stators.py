"""Stators of magneto generators: three windings in which turning magnets induce alternating volts."""

from __future__ import annotations

import math

from ..part import GROUND, NEVER, SIXTHS, Contact, Dial, Effect, Element, Kind, Law, Mode, Param, Severity, Span
from .common import SHUNT, Params, nothing, number, spread_of, tolerance

_PHASES = ("u", "v", "w")
_WINDING_OHMS, _VOLTS_PER_1000, _AMPS = 0.15, 10.0, 18.0
_BURNT = Severity(Span.SHUNT, lambda params: 0.5 * number(params, "ohms", _WINDING_OHMS), "half the winding's ohms")
_LINK_OHMS, _INSULATION_OHMS = 1e-3, 2e7
# A turn is looked at in six places; from 15° on they give the sine's effective value exactly and the rectified mean to one percent.
_FIRST_DEGREES = 15.0


def _winding(phase: str) -> str:
    """Name of a phase's winding among the elements: that of u is the part's main path."""
    return "" if phase == "u" else phase


def _stator(params: Params, pins: tuple[str, ...]) -> tuple[Element, ...]:
    ohms = number(params, "ohms", _WINDING_OHMS)
    between = number(params, "volts", _VOLTS_PER_1000) * number(params, "rpm", 0.0) / 1000.0
    peak = math.sqrt(2.0 / 3.0) * between  # of one winding of the star
    # What a winding gives at most does not rise with speed, since its reactance does; it is taken as ohms.
    reactance = between / math.sqrt(3.0) / number(params, "amps", _AMPS)
    star = "n" if "n" in pins else "*star"
    elements = [Element("insulation", star, GROUND, _INSULATION_OHMS, 0.5, drawn=False)]
    for place, phase in enumerate(_PHASES):
        inner = f"*{phase}"
        elements.append(Element(_winding(phase), phase, inner, ohms, spread_of(params, "ohms", 0.08, 0.3)))
        elements.append(Element(f"{phase}_still", inner, star, _LINK_OHMS, contact=NEVER, still=True))
        for sixth in range(SIXTHS):
            volts = peak * math.sin(math.radians(_FIRST_DEGREES + 60.0 * sixth - 120.0 * place))
            elements.append(
                Element(
                    f"{phase}{sixth + 1}", inner, star, max(reactance, _LINK_OHMS), number(params, "tolerance", 0.08), law=Law.EMF,
                    volts=volts, ohms_tolerance=0.1, contact=Contact(sixth=sixth), drawn=False,
                )
            )  # fmt: skip
        elements += [nothing(f"{phase}_burnt", phase, star), nothing(f"{phase}_leak", phase, GROUND)]
    return tuple(elements)


def _modes() -> tuple[Mode, ...]:
    modes: list[Mode] = []
    for phase in _PHASES:
        modes += [
            Mode(f"{phase}_open", 0.4, ((_winding(phase), Effect.OPEN),), words=f"winding {phase} open"),
            Mode(f"{phase}_shorted", 0.5, ((f"{phase}_burnt", Effect.VALUE),), _BURNT, f"winding {phase} burnt: turns shorted"),
            Mode(f"{phase}_short_to_ground", 0.5, ((f"{phase}_leak", Effect.VALUE),), SHUNT, f"winding {phase} shorted to the case"),
        ]
    return tuple(modes)


KINDS = (
    Kind(
        "stator",
        "The stator of a three-phase magneto generator: windings in a star; a state gives the engine's speed.",
        _PHASES,
        _stator,
        _modes(),
        (
            Param("ohms", "Ω", "ohms", "resistance of each winding, from a phase to the star point", default=f"{_WINDING_OHMS:g}"),
            Param("volts", "V", "volts", "AC volts between two phases, unplugged, for every 1000 rpm", default=f"{_VOLTS_PER_1000:g}"),
            Param("amps", "A", "amperes", "AC amperes of each phase, shorted: what its reactance lets through", default=f"{_AMPS:g}"),
            tolerance(0.08, "its volts"),
        ),
        optional_pins=("n",),
        dial=Dial("rpm", "rpm", 0.0, 20000.0, 0.0, "speed of the engine"),
        symbol="alternator",
        built="stator",
        shapes={"": "alternator", "v": "alternator", "w": "alternator", **{f"{phase}_still": "wire" for phase in _PHASES}},
        current="of winding u, from the phase to the star point; the others are listed as `NAME.v` and `NAME.w`",
        notes="Pin n is the star point where it is led out. Volts and amperes are means over a turn, so alternating volts show 0 on a DC "
        "range: the instrument `ac` shows their effective value.",
        also=("magneto", "stator winding", "three phase stator", "generator stator", "permanent magnet alternator"),
    ),
)
