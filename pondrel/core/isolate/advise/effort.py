"""Where a person stands between two tests, and the minutes that the next one takes from there."""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import dataclass, replace

from ...base.judgement import judged
from ...circuit.sheet import Sheet
from ...evidence.asked import Measurement, Question
from ...evidence.items import Item, Observation, Reading
from ...evidence.registry import sort_of, word_sort

__all__ = ["Situation", "behind", "minutes_for"]

# Handling besides probing.
CHANGE_STATE = judged("CHANGE_STATE_MINUTES", 0.2, "min", "to turn a key or press a button")
SECOND_PERSON = judged("SECOND_PERSON_MINUTES", 2.0, "min", "to get somebody to hold a pedal or a key")
SCOPE = judged("SCOPE_MINUTES", 3.0, "min", "to set up a scope and have it wait for what passes in a moment")
BATTERY_OFF = judged("BATTERY_OFF_MINUTES", 2.0, "min", "to take the battery off and put it back")


@dataclass(frozen=True, slots=True)
class Situation:
    """The access ``gained``, the ``state`` in which the vehicle stands, whether the battery is off, the places that the ``leads`` are on,
    and the accesses that are ``slower`` than the sheet says, each with the minutes."""

    gained: frozenset[str] = frozenset()
    state: str = ""
    battery_off: bool = False
    leads: frozenset[str] = frozenset()
    slower: frozenset[tuple[str, float]] = frozenset()

    @classmethod
    def of(cls, sheet: Sheet, items: Iterable[Item]) -> Situation:
        """After the items."""
        situation = cls()
        for item in items:
            if isinstance(item, Reading) and item.elsewhere:  # elsewhere on the vehicle, or on another
                situation = replace(situation, state=item.state, battery_off=item.meter.dead, leads=frozenset())
            elif isinstance(item, Observation) and (more := word_sort(item).slows(item)):
                others = {pair for pair in situation.slower if pair[0] != item.subject}
                situation = replace(situation, slower=frozenset({*others, (item.subject, more)}))
            else:
                situation = situation.after(sheet, item.test)
        return situation

    def after(self, sheet: Sheet, test: Measurement | Question) -> Situation:
        """After a test."""
        gained = self.gained.union(name for name in behind(sheet, test) if name)
        state, battery_off = (test.state, test.dead) if test.state else (self.state, self.battery_off)
        leads = frozenset((test.red, test.black)) if isinstance(test, Measurement) else self.leads
        return Situation(gained, state, battery_off, leads, self.slower)


def _alike_unpowered(sheet: Sheet, one: str, other: str) -> bool:
    """Whether two states are the same circuit with the battery off."""
    return one in sheet.states and sheet.resting[one] == sheet.resting[other]


def behind(sheet: Sheet, test: Measurement | Question) -> tuple[str, ...]:
    """What must be opened for a test, empty names for places that lie open."""
    return sort_of(test).behind(sheet, test)


def minutes_for(sheet: Sheet, test: Measurement | Question, at: Situation) -> float:
    """Minutes for a test from a standpoint: its own, access not yet gained, handling."""
    minutes = sort_of(test).minutes(sheet, test, at.leads)
    opened = {name for name in behind(sheet, test) if name} - at.gained
    minutes += sum(sheet.access[name].minutes for name in opened) + sum(more for name, more in at.slower if name in opened)
    if test.state and at.state != test.state and not (test.dead and _alike_unpowered(sheet, at.state, test.state)):
        state = sheet.states[test.state]
        minutes += CHANGE_STATE + state.minutes + SECOND_PERSON * (state.people - 1)
        if test.state in sheet.passing and at.state not in sheet.passing:
            minutes += SCOPE
    if test.dead and not at.battery_off:
        minutes += BATTERY_OFF
    return minutes
