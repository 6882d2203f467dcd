"""Walking the guided ways at vehicles that do not know them, and what the walks came to."""

from __future__ import annotations

import random
from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass

from ...core.power.guide import WAYS, Answer, position_of
from .charging import CHARGE_FAULTS, Charging
from .magnets import MAGNET_FAULTS, Magnets
from .person import NOTHING
from .simulated import Simulated
from .simulated_charging import SimulatedCharging
from .standing import STAND_FAULTS, Standing
from .starting import START_FAULTS, Starting

__all__ = ["WORLDS", "Walked", "told", "walk", "walks"]

MOST_STEPS = 40
Vehicle = Starting | Charging | Magnets | Standing | Simulated | SimulatedCharging
# By way: the faults, each as often as the other, and the vehicle that has one.
WORLDS: Mapping[str, tuple[tuple[str, ...], Callable[[str, random.Random], Vehicle]]] = {
    "start": (START_FAULTS, Starting),
    "charge": (CHARGE_FAULTS, Charging),
    "magnet": (MAGNET_FAULTS, Magnets),
    "drain": (STAND_FAULTS, Standing),
    "simulated start": (START_FAULTS, Simulated),
    "simulated charge": (CHARGE_FAULTS, SimulatedCharging),
}


@dataclass(frozen=True, slots=True)
class Walked:
    """One walk: what was wrong, what was named (empty where nothing was), whether that was right, steps and minutes that it took."""

    fault: str
    named: str
    right: bool
    proved: bool
    steps: int
    minutes: float


def walk(way: str, vehicle: Vehicle, at_hand: Sequence[str], reach: Mapping[str, float]) -> Walked:
    """Walk a guided way at a vehicle until it names something or knows nothing more."""
    answers: list[Answer] = []
    settings = [("rated", f"{vehicle.rated:.0f}")] if isinstance(vehicle, (Charging, SimulatedCharging)) else []
    minutes = 0.0
    for _ in range(MOST_STEPS):
        at = position_of(WAYS[way], answers, settings, at_hand, reach)
        if at.found is not None:
            return Walked(vehicle.fault, at.found.cause.aim, at.found.cause.aim in vehicle.right, at.found.proved, len(answers), minutes)
        if at.due is not None:
            vehicle.deed(at.due.name)
            answers.append(Answer(at.due.name, "done"))
            minutes += at.due.minutes
        elif at.next is not None:
            said = vehicle.answer(at.next.step.name)
            answers.append(Answer(at.next.step.name, said, skipped=not said))
            minutes += at.next.minutes
        else:
            break
    return Walked(vehicle.fault, "", False, False, len(answers), minutes)


def walks(way: str, count: int, seed: int, at_hand: Sequence[str], reach: Mapping[str, float], world: str = "") -> list[Walked]:
    """So many walks, every fault in turn, in the world of that name or else in the way's own; vehicles about which nobody would complain
    are left out."""
    rng = random.Random(f"roadside {way} {seed}")
    faults, make = WORLDS[world or way]
    found: list[Walked] = []
    while len(found) < count:
        vehicle = make(faults[len(found) % len(faults)], random.Random(rng.randrange(1 << 30)))
        if vehicle.complained:
            found.append(walk(way, vehicle, at_hand, reach))
    return found


def told(found: Sequence[Walked]) -> str:
    """One line: right, wrong, not named; minutes."""
    right, wrong = sum(w.right for w in found), sum(bool(w.named) and not w.right for w in found)
    minutes = sorted(w.minutes for w in found)
    sound = [w for w in found if w.fault in (NOTHING, "coming_up")]
    accused = sum(bool(w.named) and not w.right for w in sound)
    return (
        f"{len(found)} vehicles: {right} right, {wrong} wrong, "
        f"{len(found) - right - wrong} not named; {accused} of {len(sound)} sound ones accused; "
        f"minutes {minutes[len(minutes) // 2]:.0f} (one in ten over {minutes[len(minutes) * 9 // 10]:.0f})"
    )
