"""One operating point of a sheet, with what a person should know about it in words."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from ..quantity import show
from .fault import Fault, apply_faults
from .network import BLOW_FACTOR, LEAK_SIEMENS, Cases, Network, Points, drop, operating_points
from .sheet import Sheet

__all__ = ["OperatingPoint", "solve"]

# A point that is joined to the battery by less than this is defined by insulation alone. 1 MΩ.
_FLOATING_OHMS = 1e6


@dataclass(frozen=True)
class OperatingPoint:
    """A sheet solved in a state with faults.

    ``places``: volts against battery minus by place; ``nodes``: the same for every node; ``currents``: amperes by part (for a
    relay its contact, the coil as ``NAME.coil``); ``floating``: places that nothing defines; ``notes``: sentences.
    """

    state: str
    faults: tuple[Fault, ...]
    places: dict[str, float]
    nodes: dict[str, float]
    currents: dict[str, float]
    floating: tuple[str, ...]
    notes: tuple[str, ...]

    def as_json(self) -> dict[str, object]:
        """The command line's answer."""
        return {"state": self.state, "places": self.places, "currents": self.currents, "notes": list(self.notes)}


def solve(sheet: Sheet, state: str, faults: tuple[Fault, ...] = ()) -> OperatingPoint:
    """Operating point of ``sheet`` in ``state`` with any set of ``faults``.

    Fuses are taken as whole, so that a dead short shows the current that would melt them; the notes say which would blow.
    Raises ReadingError for an unknown state, FaultError for a fault that the sheet cannot have.
    """
    network = Network.of(sheet)
    closed = network.closed_by_state(sheet.state(state).name)
    cases = Cases.healthy(network)
    apply_faults(network, cases, 0, faults)
    points = operating_points(network, cases, closed)
    volts = {node: float(v) for node, v in zip(network.nodes, points.volts[0], strict=True)}
    volts[sheet.minus] = 0.0
    floating = _floating(points, tuple(sheet.places))
    return OperatingPoint(
        state=state,
        faults=faults,
        places={place: volts[place] for place in sheet.places},
        nodes={node: volts[node] for node in sheet.nodes()},
        currents=_currents(points),
        floating=floating,
        notes=(
            *_relay_notes(points),
            *_fuse_notes(points),
            *(f"{place} is floating: only insulation joins it to anything." for place in floating),
        ),
    )


def _currents(points: Points) -> dict[str, float]:
    network = points.network
    shown = {}
    for (part, name), amps, source in zip(network.keys, points.amps[0], network.source, strict=True):
        if name == "":
            shown[part] = float(-amps if source else amps)  # a battery's current is what it delivers
        elif name == "coil":
            shown[f"{part}.coil"] = float(amps)
    for (part, name), amps in zip(network.keys, points.amps[0], strict=True):
        if name == "bridge":  # a lamp shorted in its holder: the part's current is both paths
            shown[part] += float(amps)
    return shown


def _floating(points: Points, places: tuple[str, ...]) -> tuple[str, ...]:
    network = points.network
    own = points.transfer(places)[0]  # (N, P)
    ohms = np.einsum("pn,np->p", network.pick(places), own)
    return tuple(place for place, value in zip(places, ohms, strict=True) if value > min(_FLOATING_OHMS, 0.01 / LEAK_SIEMENS))


def _relay_notes(points: Points) -> list[str]:
    network = points.network
    notes = []
    for i, (contact, coil, pull_in, drop_out, rest_closed) in enumerate(network.driven):
        if rest_closed:
            continue
        part = network.keys[contact][0]
        across = show(abs(float(drop(points.volts, network.a[[coil]], network.b[[coil]])[0, 0])), "V")
        if points.chatter[0]:
            why = f"pulling in takes its own coil below drop-out ({drop_out:g} V)"
            notes.append(f"{part} chatters: {why}; shown is the mean of both positions, as a meter averages it.")
        elif points.siemens[0, coil] == 0:
            notes.append(f"{part} is released: no current can flow through its coil ({across} across it).")
        elif points.pulled[0, i]:
            notes.append(f"{part} is pulled in: {across} at its coil.")
        else:
            notes.append(f"{part} is released: {across} at its coil, pull-in at {pull_in:g} V.")
    return notes


def _fuse_notes(points: Points) -> list[str]:
    network = points.network
    notes = []
    for i in np.flatnonzero(np.isfinite(network.fuse_rating)):
        amps, rating = abs(float(points.amps[0, i])), float(network.fuse_rating[i])
        part = network.keys[i][0]
        if amps >= BLOW_FACTOR * rating:
            notes.append(f"{part} would blow: it carries {show(amps, 'A')}, {amps / rating:.1f} times its rating of {rating:g} A.")
        elif amps > rating:
            notes.append(f"{part} is overloaded: it carries {show(amps, 'A')} on a rating of {rating:g} A and may blow in time.")
    return notes
