"""Where a person stands between two tests, and the minutes that the next one takes from there."""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import dataclass, replace

from ...circuit.sheet import Sheet
from ...evidence.items import Item, Reading
from ...evidence.test import Check, Test

__all__ = ["Standpoint", "behind", "is_dead", "minutes_for"]

# Handling besides probing, in minutes. Common practice, no source.
CHANGE_STATE, BATTERY_OFF, METER_IN_LINE, LOOK, READ_CODE = 0.2, 2.0, 1.0, 0.2, 1.0
READ = 0.3  # a number where no lead has to be placed; else it is part of a place's minutes


@dataclass(frozen=True, slots=True)
class Standpoint:
    """The access ``gained``, the ``state`` in which the vehicle stands, whether the battery is off, and the places that the ``leads`` are
    on."""

    gained: frozenset[str] = frozenset()
    state: str = ""
    battery_off: bool = False
    leads: frozenset[str] = frozenset()

    @classmethod
    def of(cls, sheet: Sheet, items: Iterable[Item]) -> Standpoint:
        """After the items."""
        made = cls()
        for item in items:
            if isinstance(item, Reading) and item.good:  # elsewhere on the vehicle, or on another
                made = replace(made, state=item.state, battery_off=item.meter.dead, leads=frozenset())
            else:
                made = made.after(sheet, item.test)
        return made

    def after(self, sheet: Sheet, test: Test | Check) -> Standpoint:
        """After a test."""
        gained = self.gained.union(name for name in behind(sheet, test) if name)
        state, battery_off = (test.state, is_dead(test)) if test.state else (self.state, self.battery_off)
        return Standpoint(gained, state, battery_off, frozenset((test.red, test.black)) if isinstance(test, Test) else self.leads)


def is_dead(test: Test | Check) -> bool:
    """Whether a test wants the battery off."""
    return isinstance(test, Test) and test.setup.instrument == "ohms"


def _alike_unpowered(sheet: Sheet, one: str, other: str) -> bool:
    """Whether two states are the same circuit with the battery off."""
    return one in sheet.states and sheet.resting[one] == sheet.resting[other]


def behind(sheet: Sheet, test: Test | Check) -> tuple[str, ...]:
    """What must be opened for a test, empty names for places that lie open."""
    if isinstance(test, Check):
        return (sheet.tables[test.subject].behind or "",) if test.kind == "test" else ()
    return tuple(sheet.places[name].behind or "" for name in (test.red, test.black) if name in sheet.places)


def minutes_for(sheet: Sheet, test: Test | Check, at: Standpoint) -> float:
    """Minutes for a test from a standpoint: both places, access not yet gained, handling. A clip stays on battery minus, and a lead that is
    where the test wants it stays there."""
    if isinstance(test, Check):
        table = sheet.tables.get(test.subject) if test.kind == "test" else None
        minutes = table.minutes if table else READ_CODE if test.kind == "code" else LOOK
    else:
        wanted = {test.red, test.black} - {sheet.minus} - at.leads
        minutes = max(sum(sheet.places[name].minutes if name in sheet.places else 1.0 for name in wanted), READ)
    minutes += sum(sheet.access[name].minutes for name in set(behind(sheet, test)) - at.gained if name)
    if test.state and at.state != test.state and not (is_dead(test) and _alike_unpowered(sheet, at.state, test.state)):
        minutes += CHANGE_STATE + sheet.states[test.state].minutes
    if is_dead(test) and not at.battery_off:
        minutes += BATTERY_OFF
    if test.instrument == "amps":
        minutes += METER_IN_LINE
    return minutes
