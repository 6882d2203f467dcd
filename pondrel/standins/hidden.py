"""A vehicle with a fault that nobody is told, varied as vehicles are."""

from __future__ import annotations

import random
from dataclasses import replace

from ..core.circuit.sheet import Sheet
from ..core.isolate import Workup
from ..trial.bench import Vehicle, hidden_cases
from .world import World

__all__ = ["hidden_world"]

_CHARGE = (70.0, 100.0)  # percent of a battery in a vehicle that is brought in
_STATOR = (0.85, 1.2)  # of the volts on the drawing


def hidden_world(sheet: Sheet, seed: int) -> World:
    """The world of one of a sheet's faults, chosen by the seed."""
    workup = Workup(sheet)
    cases = [case for case in hidden_cases(workup, seed) if case.faults]
    case = random.Random(f"hidden {seed}").choice(cases) if cases else hidden_cases(workup, seed)[0]
    vehicle = Vehicle(workup, case, seed, 0.0)
    return World(_as_they_stand(vehicle.sheet, sheet, random.Random(f"stands {seed}")), vehicle.faults, "hidden")


def _as_they_stand(varied: Sheet, sheet: Sheet, rng: random.Random) -> Sheet:
    """The varied sheet with what a tolerance on a drawing says otherwise than vehicles are: that of a battery's volts goes from flat to
    charging, and a rested one has the volts of its charge; that of a stator's volts is the maker's, and its three phases are alike."""
    parts = dict(varied.parts)
    for name, part in sheet.parts.items():
        if part.kind.name == "battery" and part.params.get("charge") is None:
            parts[name] = replace(part, params={**part.params, "charge": round(rng.uniform(*_CHARGE), 1)})
        elif part.kind.name == "stator" and "volts" in part.params:
            parts[name] = replace(part, params={**part.params, "volts": float(str(part.params["volts"])) * rng.uniform(*_STATOR)})
    return replace(varied, parts=parts)
