"""What faults do to a sheet's readings: every fault's greatest change in a state, and where limits are left."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from .fault import Fault, changes
from .limit import SheetLimit
from .network import Cases, Network
from .operate import operating_points
from .part import Mode
from .sheet import Sheet
from .solve import OperatingPoint

__all__ = ["FaultEffect", "Judged", "fault_effects", "judged_limits", "named_faults", "shows_moved"]

MOVED_VOLTS, MOVED_SHARE = 0.02, 0.003  # what a hand-held voltmeter shows as a change


@dataclass(frozen=True, slots=True)
class FaultEffect:
    """A fault at the severity it has when none is named: the place that changes most, its volts when sound and then."""

    fault: Fault
    mode: Mode
    place: str
    sound: float
    then: float


@dataclass(frozen=True, slots=True)
class Judged:
    """A limit with what the circuit gives there; ``value`` None where the state asked for is not the limit's."""

    limit: SheetLimit
    value: float | None

    @property
    def kept(self) -> bool | None:
        """Whether the limit is kept, None where nothing is known."""
        return None if self.value is None else self.limit.limit.keeps(self.value)


def shows_moved(sound: float, then: float) -> bool:
    """Whether volts differ by what a meter shows."""
    return abs(then - sound) > max(MOVED_VOLTS, MOVED_SHARE * abs(sound))


def named_faults(sheet: Sheet) -> tuple[tuple[Fault, Mode], ...]:
    """Every fault of every part at the severity it has when none is named."""
    return tuple(
        (Fault(part.name, mode.name, mode.severity.default(part.params) if mode.severity else None), mode)
        for part in sheet.parts.values()
        for mode in part.modes
    )


def fault_effects(sheet: Sheet, state: str) -> tuple[FaultEffect, ...]:
    """What each fault does in a state, in the sheet's order: one batch. Raises ReadingError for an unknown state."""
    sheet.state(state)
    faults = named_faults(sheet)
    network = Network.of(sheet, state)
    changed = [change for row, (fault, _) in enumerate(faults, 1) for change in changes(network, np.array([row]), (fault,))]
    cases = Cases.of(len(faults) + 1, changed)
    volts = np.pad(operating_points(network, cases, network.positions(state)).volts, ((0, 0), (0, 1)))
    places = tuple(sheet.places)
    shown = volts[:, [network.node(place) for place in places]]  # (1 + faults, places)
    most = np.abs(shown[1:] - shown[0]).argmax(axis=1)
    return tuple(
        FaultEffect(fault, mode, places[i], float(shown[0, i]), float(shown[row, i]))
        for row, ((fault, mode), i) in enumerate(zip(faults, most.tolist(), strict=True), 1)
    )


def judged_limits(sheet: Sheet, point: OperatingPoint) -> tuple[Judged, ...]:
    """The sheet's limits of volts and amperes at an operating point; limits of other states, and of ohms, without a value."""
    judged = []
    for limit in sheet.limits:
        value = None
        if limit.state == point.state and limit.what == "amps":
            value = abs(point.currents[limit.of])
        elif limit.state == point.state and limit.what == "drop":
            value = abs(point.nodes[limit.start] - point.nodes[limit.end])
        elif limit.state == point.state and limit.what == "volts":
            value = point.nodes[limit.start]
        judged.append(Judged(limit, value))
    return tuple(judged)
