"""A vehicle with a fault that nobody is told, varied as vehicles are."""

from __future__ import annotations

import random

from ..core.circuit.sheet import Sheet
from ..core.isolate import Workup
from ..trial.bench import Vehicle, hidden_cases
from .world import World

__all__ = ["hidden_world"]


def hidden_world(sheet: Sheet, seed: int) -> World:
    """The world of one of a sheet's faults, chosen by the seed."""
    workup = Workup(sheet)
    cases = [case for case in hidden_cases(workup, seed) if case.faults]
    case = random.Random(f"hidden {seed}").choice(cases) if cases else hidden_cases(workup, seed)[0]
    vehicle = Vehicle(workup, case, seed, 0.0)
    return World(vehicle.sheet, vehicle.faults, "hidden")
