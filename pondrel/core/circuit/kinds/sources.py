"""Sources: what drives the circuit."""

from __future__ import annotations

from collections.abc import Mapping

from ..part import Element, Kind, Law, Param
from .common import number, opens, resists, tolerance

# A battery is seldom at its nominal voltage; 5.5 % (0.7 V at 12.6 V) covers flat to charging. Common practice, no source.
EMF_TOLERANCE = 0.055


def _battery(params: Mapping[str, object], pins: tuple[str, ...]) -> tuple[Element, ...]:
    return (
        Element(
            "", "p", "n", number(params, "ohms", 0.01), number(params, "tolerance", EMF_TOLERANCE),
            law=Law.EMF, volts=number(params, "volts", 12.6), ohms_tolerance=0.3,
        ),
    )  # fmt: skip


KINDS = (
    Kind(
        "battery",
        "A battery: an EMF behind its internal resistance. Its minus pin is the sheet's zero.",
        ("p", "n"),
        _battery,
        (
            opens(0.2, words="open inside or at a post"),
            resists(1.5, words="weak: internal resistance too high"),
        ),
        (
            Param("volts", "V", "volts", "open-circuit voltage", default="the sheet's `supply.nominal`, else 12.6"),
            Param("ohms", "Ω", "ohms", "internal resistance", default="0.01", least="zero"),
            tolerance(EMF_TOLERANCE, "the EMF"),
        ),
        symbol="battery",
        current="delivered: out of pin p, positive while it discharges",
    ),
)
