"""What a used vehicle has that no sheet says: films on its contacts and terminals, and a body that stands above the battery post.

A sound vehicle is a worn one. Its contacts have milliohms of their own, fewer where they carry much; they age together, since one vehicle
stands in one weather. Whatever else runs on it sends its current through the body, so that each ground point stands some dozen millivolts
above the battery's minus post, elsewhere a little more or less, and in each state again. All of that is unknown and none of it a fault; it
is correlated, so that readings can find it out.
"""

from __future__ import annotations

import dataclasses
from collections.abc import Mapping

import numpy as np
from numpy.typing import NDArray

from ..base.arrays import Floats
from ..base.judgement import judged
from .network import Cases, Network
from .operate import operating_points
from .part import Element, Law
from .sheet import Part, Sheet

__all__ = [
    "AGE_SHARED", "BODY_APART", "BODY_MOVES", "BODY_SHARED", "WIRES_ALIKE", "film_ohms", "film_spread", "in_use", "of_wire", "on_body",
    "working_amps",
]  # fmt: skip

FILM_OHMS = judged("FILM_OHMS", 0.007, "Ω", "what a used contact or terminal has more than a new one, in a light circuit")
FILM_VOLTS = judged(
    "FILM_VOLTS", 0.022, "V", "what such a film loses at the circuit's working current at the most: in a heavy one it is less"
)
FILM_SPREAD = judged("FILM_SPREAD", 0.75, "share", "standard deviation of one film, of what is usual")
AGE_SHARED = judged("AGE_SHARED", 1.0, "times", "how far all films of a vehicle go together, of what each does for itself")
WIRES_ALIKE = judged(
    "WIRES_ALIKE", 0.7, "times", "how far all wires of a vehicle are longer or warmer than drawn together, of what each is for itself"
)
BODY_APART = judged("BODY_APART", 0.015, "V", "how far one ground point stands above another")
BODY_SHARED = judged("BODY_SHARED", 0.035, "V", "how far the body stands above the battery post, alike at all its ground points")
BODY_MOVES = judged("BODY_MOVES", 0.012, "V", "how far that moves from state to state")


def working_amps(sheet: Sheet) -> Floats:
    """(E,) the largest current of each element in any state of the sound circuit."""
    if "working amps" not in sheet.remembered:
        most = np.zeros(len(Network.of(sheet).keys))
        for state in sheet.states:
            network = Network.of(sheet, state)
            most = np.maximum(most, np.abs(operating_points(network, Cases.healthy(), network.positions(state)).amps[0]))
        sheet.remembered["working amps"] = most
    found: Floats = sheet.remembered["working amps"]
    return found


def film_ohms(network: Network) -> Floats:
    """(E,) the usual film on each element that ends in a contact or terminal, 0 for others; a meter's leads have none."""
    sheet = network.sheet
    if "films" not in sheet.remembered:
        amps = np.maximum(working_amps(sheet), 1e-6)
        sheet.remembered["films"] = np.where(_filmed(Network.of(sheet)), np.minimum(FILM_OHMS, FILM_VOLTS / amps), 0.0)
    films: Floats = sheet.remembered["films"]
    return np.pad(films, (0, len(network.keys) - len(films)))


def _filmed(network: Network) -> NDArray[np.bool_]:
    return np.array(
        [
            element.law is Law.OHMIC and np.isfinite(element.ohms) and _ends_in_a_contact(network.sheet, part, element.contact is not None)
            for element, (part, _) in zip(network.elements, network.keys, strict=True)
        ]
    )


def film_spread(network: Network) -> Floats:
    """(E,) standard deviation of those films."""
    spread: Floats = FILM_SPREAD * film_ohms(network)
    return spread


def in_use(sheet: Sheet) -> Sheet:
    """The sheet with the usual films on its contacts: what is to be expected of a vehicle that has been driven."""
    network = Network.of(sheet)
    films = dict(zip(network.keys, film_ohms(network).tolist(), strict=True))
    used = dataclasses.replace(sheet, parts={name: _filmed_part(part, films) for name, part in sheet.parts.items()})
    used.remembered["films"] = sheet.remembered["films"]  # they are counted once
    return used


def _filmed_part(part: Part, films: Mapping[tuple[str, str], float]) -> Part:
    own = {name: ohms for (owner, name), ohms in films.items() if owner == part.name and ohms > 0.0}
    if not own:
        return part
    build = part.kind.build

    def filmed(params: Mapping[str, object], pins: tuple[str, ...]) -> tuple[Element, ...]:
        return tuple(_with_film(element, own.get(element.name, 0.0)) for element in build(params, pins))

    return dataclasses.replace(part, kind=dataclasses.replace(part.kind, build=filmed))


def _with_film(element: Element, film: float) -> Element:
    """The element with a film, its own ohms as uncertain as before."""
    ohms = element.ohms + film
    return dataclasses.replace(element, ohms=ohms, tolerance=element.tolerance * element.ohms / ohms) if film else element


def _ends_in_a_contact(sheet: Sheet, part: str, switched: bool) -> bool:
    kind = sheet.parts[part].kind
    return kind.joint or kind.symbol == "wire" or switched


def of_wire(network: Network) -> NDArray[np.bool_]:
    """(E,) which elements are lengths of wire: their main path."""
    wires = {name for name, part in network.sheet.parts.items() if part.kind.symbol == "wire"}
    return np.array([part in wires and name == "" for part, name in network.keys], dtype=bool)


def on_body(network: Network) -> NDArray[np.bool_]:
    """(E,) which elements are ground points: their far end is the body."""
    return np.array([bool(part) and network.sheet.parts[part].kind.grounds for part, _ in network.keys], dtype=bool)
