"""One operating point of a sheet, with what a person should know about it in words."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from ..base.melting import FIRE_WATTS, melting_words
from ..base.quantity import show
from .fault import Fault, one_case
from .network import BLOW_FACTOR, LEAK_SIEMENS, Cases, Network
from .operate import Points, operating_points
from .part import Seen, Sight, Span
from .sheet import Sheet
from .unplug import taken_off

__all__ = ["OperatingPoint", "solve"]

# A point that is joined to the battery by less than this is defined by insulation alone. 1 MΩ.
_FLOATING_OHMS = 1e6


@dataclass(frozen=True)
class OperatingPoint:
    """A sheet solved in a state with faults.

    ``places``: volts against battery minus by place; ``nodes``: the same for every node; ``currents``: amperes by part, and by
    ``NAME.element`` for a part's further elements (a relay's coil is ``NAME.coil``); ``floating``: places that nothing defines;
    ``sights``: what a person or a module notices, by part; ``heat``: watts in each joint; ``closed``: the (part, element) that
    let current through; ``notes``: sentences.
    """

    state: str
    faults: tuple[Fault, ...]
    places: dict[str, float]
    nodes: dict[str, float]
    currents: dict[str, float]
    floating: tuple[str, ...]
    sights: dict[str, tuple[Sight, ...]]
    heat: dict[str, float]
    closed: frozenset[tuple[str, str]]
    notes: tuple[str, ...]

    def as_json(self) -> dict[str, object]:
        """The command line's answer."""
        return {"state": self.state, "places": self.places, "currents": self.currents, "notes": list(self.notes)}


def solve(sheet: Sheet, state: str, faults: tuple[Fault, ...] = (), without: tuple[str, ...] = ()) -> OperatingPoint:
    """Operating point of ``sheet`` in ``state`` with any set of ``faults``; ``without`` names what is unplugged, as `unplugged` gives it.

    Fuses are taken as whole, so that a dead short shows the current that would melt them; the notes say which would blow.
    Raises ReadingError for an unknown state, FaultError for a fault that the sheet cannot have.
    """
    sheet.state(state)
    network = Network.of(sheet, state)
    case = one_case(network, faults)
    if without:
        case = case.also(Cases.opening(1, taken_off(network, without)))
    points = operating_points(network, case, network.positions(state))
    volts = {node: float(v) for node, v in zip(network.nodes, points.volts[0], strict=True)}
    volts[sheet.minus] = 0.0
    floating = _floating(points, tuple(sheet.places))
    heat = _joint_watts(points)
    return OperatingPoint(
        state=state,
        faults=faults,
        places={place: volts[place] for place in sheet.places},
        nodes={node: volts[node] for node in sheet.nodes()},
        currents=_currents(points),
        floating=floating,
        sights=_sights(points, state),
        heat=heat,
        closed=frozenset(key for key, conducts in zip(network.keys, points.conducts[0], strict=True) if conducts),
        notes=(
            *_contact_notes(points),
            *_fuse_notes(points),
            *_fire_notes(heat, _healthy_watts(sheet, state) if faults else heat),
            *(("no lasting operating point was found: the numbers are the last ones looked at",) if points.restless[0] else ()),
            *(f"{place} is floating: only insulation joins it to anything." for place in floating),
        ),
    )


def _currents(points: Points) -> dict[str, float]:
    network = points.network
    shown: dict[str, float] = {}
    for (part, name), element, amps in zip(network.keys, network.elements, points.amps[0], strict=True):
        if name == "":
            shown[part] = float(-amps if network.sheet.parts[part].kind.delivers else amps)
        elif element.drawn:
            shown[f"{part}.{name}"] = float(amps)
    for (part, name), amps in zip(network.keys, points.amps[0], strict=True):
        if name == "bridge":  # a lamp shorted in its holder: the part's current is both paths
            shown[part] += float(amps)
    return shown


def _sights(points: Points, state: str) -> dict[str, tuple[Sight, ...]]:
    network = points.network
    volts, amps, conducts = network.drop(points.volts)[0].tolist(), points.amps[0].tolist(), points.conducts[0].tolist()
    sights = {}
    for part in network.sheet.parts.values():
        own = [(name, i) for i, (owner, name) in enumerate(network.keys) if owner == part.name]
        seen = Seen(
            part.params, network.sheet.position(state, part.name), {name: volts[i] for name, i in own}, {name: amps[i] for name, i in own},
            {name: conducts[i] for name, i in own},
        )  # fmt: skip
        found = part.kind.shows(seen)
        if found:
            sights[part.name] = found
    return sights


def _floating(points: Points, places: tuple[str, ...]) -> tuple[str, ...]:
    network = points.network
    at = np.array([network.node(place) for place in places])
    ohms = points.looks_into(at, np.full_like(at, -1))[0]
    return tuple(place for place, value in zip(places, ohms, strict=True) if value > min(_FLOATING_OHMS, 0.01 / LEAK_SIEMENS))


def _contact_notes(points: Points) -> list[str]:
    network = points.network
    notes = []
    across = network.drop(points.volts)[0]
    for part in dict.fromkeys(network.keys[c.contact][0] for i, c in enumerate(network.controls) if _unfed(points, i)):
        notes.append(f"{part} is without supply: it does nothing.")
    for i, control in enumerate(network.controls):
        data, part = control.data, network.keys[control.contact][0]
        if data.coil == "coil" and data.rest_closed:
            continue
        if data.coil == "coil":
            shown = show(abs(float(across[control.coil])), "V")
            if points.cycling[0, i]:
                why = f"pulling in takes its own coil below drop-out ({data.drop_out:g} V)"
                notes.append(f"{part} chatters: {why}; shown is the mean of both positions, as a meter averages it.")
            elif not points.conducts[0, control.coil]:
                notes.append(f"{part} is released: no current can flow through its coil ({shown} across it).")
            elif points.pulled[0, i]:
                notes.append(f"{part} is pulled in: {shown} at its coil.")
            else:
                notes.append(f"{part} is released: {shown} at its coil, pull-in at {data.pull_in:g} V.")
        elif data.seconds and points.cycling[0, i]:
            notes.append(f"{part} switches on and off by itself; shown is the mean, as a slow meter averages it.")
        elif data.rest_closed and points.pulled[0, i] and data.measure.startswith("amps"):
            notes.append(f"{part} has tripped: it opens at {data.pull_in ** (0.5 if data.measure.endswith('²') else 1.0):.3g} A.")
        elif points.cycling[0, i]:
            notes.append(f"{part} chatters: it lets go as soon as it has pulled in; shown is the mean of both positions.")
    return notes


def _unfed(points: Points, i: int) -> bool:
    """Whether a control is a module's supply, and that is missing."""
    control = points.network.controls[i]
    return control.data is points.network.elements[control.contact].power and not points.pulled[0, i]


def _joint_watts(points: Points) -> dict[str, float]:
    """Watts that each joint or contact turns into heat, by part."""
    network = points.network
    watts = (network.drop(points.volts)[0] * points.amps[0]).tolist()
    watts_of: dict[str, float] = {}
    for part in network.sheet.parts.values():
        if part.kind.joint:
            weak = {name for m in part.modes if m.severity and m.severity.span is Span.SERIES for name, _ in m.effects}
            watts_of[part.name] = max(
                w for w, (owner, name) in zip(watts, network.keys, strict=True) if owner == part.name and name in weak
            )
    return watts_of


def _healthy_watts(sheet: Sheet, state: str) -> dict[str, float]:
    key = ("healthy watts", state)
    if key not in sheet.remembered:
        network = Network.of(sheet, state)
        sheet.remembered[key] = _joint_watts(operating_points(network, Cases.healthy(), network.positions(state)))
    found: dict[str, float] = sheet.remembered[key]
    return found


def _fire_notes(heat: dict[str, float], sound: dict[str, float]) -> list[str]:
    """Joints that run hot because something is wrong, not because a big motor hangs on them."""
    hot = [(part, watts) for part, watts in heat.items() if watts >= FIRE_WATTS and watts > 2.0 * sound[part]]
    return [f"{part} turns {watts:.0f} W into heat in one spot: a fire risk." for part, watts in hot]


def _fuse_notes(points: Points) -> list[str]:
    network = points.network
    notes = []
    for i in np.flatnonzero(np.isfinite(network.fuse_rating)):
        amps, rating = abs(float(points.amps[0, i])), float(network.fuse_rating[i])
        part = network.keys[i][0]
        if amps >= BLOW_FACTOR * rating:
            within = melting_words(rating, amps)
            carries = f"it carries {show(amps, 'A')}, {amps / rating:.1f} times its rating of {rating:g} A"
            notes.append(f"{part} would blow: {carries} ({within}).")
        elif amps > rating:
            notes.append(f"{part} is overloaded: it carries {show(amps, 'A')} on a rating of {rating:g} A and may blow in time.")
    return notes
