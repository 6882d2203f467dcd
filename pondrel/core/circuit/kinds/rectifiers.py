"""Rectifiers of generators: diodes in pairs, from each phase to plus and from minus to each phase."""

from __future__ import annotations

from ..part import Effect, Element, Kind, Mode, Param
from .common import Params, junction, number, tolerance

_FORWARD_VOLTS, _AT_AMPS, _OHMS = 1.0, 20.0, 0.004
_PHASES = ("u", "v", "w")


def _diode(phase: str, side: str) -> str:
    """Name of a diode among the elements: that from u to plus is the part's main path."""
    return "" if (phase, side) == ("u", "plus") else f"{phase}_{side}"


def _bridge(params: Params, pins: tuple[str, ...]) -> tuple[Element, ...]:
    forward, ohms = number(params, "forward", _FORWARD_VOLTS), number(params, "ohms", _OHMS)
    spread = number(params, "tolerance", 0.05)
    elements: list[Element] = []
    for phase in _PHASES:
        if phase in pins:
            for side, a, b in (("plus", phase, "p"), ("minus", "n", phase)):
                elements.append(junction(_diode(phase, side), a, b, forward, _AT_AMPS, ohms, tolerance=spread))
    return tuple(elements)


def _modes() -> tuple[Mode, ...]:
    modes: list[Mode] = []
    for phase in _PHASES:
        for side in ("plus", "minus"):
            name, diode = f"{phase}_{side}", _diode(phase, side)
            modes.append(Mode(f"{name}_open", 0.4, ((diode, Effect.OPEN),), words=f"diode between {phase} and {side} open"))
            modes.append(Mode(f"{name}_shorted", 0.4, ((diode, Effect.PLAIN),), words=f"diode between {phase} and {side} shorted"))
    return tuple(modes)


KINDS = (
    Kind(
        "rectifier_bridge",
        "A rectifier: two diodes a phase, of one, two or three phases.",
        ("u", "v", "p", "n"),
        _bridge,
        _modes(),
        (
            Param("forward", "V", "volts", f"forward voltage of each diode at {_AT_AMPS:g} A", default=f"{_FORWARD_VOLTS:g}"),
            Param("ohms", "Ω", "ohms", "series resistance of each diode", default=f"{_OHMS:g}"),
            tolerance(0.05, "the forward voltage"),
        ),
        optional_pins=("w",),
        symbol="diode",
        built="board",
        current="through the diode from u to plus; the others are listed as `NAME.u_minus`, `NAME.v_plus` …",
        also=("bridge rectifier", "diode bridge", "diode plate", "rectifier pack", "graetz bridge"),
    ),
)
