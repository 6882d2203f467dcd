"""A load of another rating than the drawn one: a lamp of the next size, a heater or a motor that was fitted in place of the right one."""

from __future__ import annotations

import dataclasses
from collections.abc import Iterator, Mapping

import numpy as np

from ...circuit.part import Element, Law
from ...circuit.sheet import Part, Sheet

__all__ = ["TIMES", "rated_loads", "with_rating"]

TIMES = np.geomspace(0.4, 2.5, 9)[[0, 1, 2, 3, 5, 6, 7, 8]]  # the drawn current; as drawn is left out
_RATED = (Law.FILAMENT, Law.OHMIC, Law.MOTOR)


def rated_loads(sheet: Sheet) -> Iterator[Part]:
    """The loads that come in several ratings: electronics do not."""
    for part in sheet.parts.values():
        load = next((e for e in part.elements() if part.kind.load == e.name), None)
        if load is not None and load.law in _RATED and not load.powered and load.power is None and load.contact is None:
            yield part


def with_rating(sheet: Sheet, part: Part, times: float) -> Sheet:
    """The sheet with a load that takes so many times its current."""
    build, load = part.kind.build, part.kind.load

    def rated(params: Mapping[str, object], pins: tuple[str, ...]) -> tuple[Element, ...]:
        return tuple(_rated(element, times) if element.name == load else element for element in build(params, pins))

    other = dataclasses.replace(part, kind=dataclasses.replace(part.kind, build=rated))
    return dataclasses.replace(sheet, parts={**sheet.parts, part.name: other})


def _rated(element: Element, times: float) -> Element:
    """An element that is built for so many times the current; all its ohms are as many times fewer."""
    shape = element.shape / times if element.law is Law.MOTOR else element.shape
    return dataclasses.replace(element, ohms=element.ohms / times, amps=element.amps * times, shape=shape)
