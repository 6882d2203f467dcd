"""What a circuit may feed: how its size is said and what it becomes on a sheet, one entry a sort of load."""

from __future__ import annotations

from collections.abc import Callable, Mapping
from dataclasses import dataclass

from ..base.brief import listed, quoted
from ..base.errors import MakingError
from .sizes import NOT_KNOWN, Size

__all__ = ["LOADS", "LoadSort", "load_params"]

RATED_12, RATED_24 = 12.0, 24.0
UNKNOWN_TOLERANCE = 0.35  # of a load whose size is only what is usual
_Params = dict[str, float]


@dataclass(frozen=True, slots=True)
class LoadSort:
    """A sort of load: its ``kind`` on the sheet, the ``letter`` of its name, the size that is usual on 12 V, how a size becomes its
    parameters (of the size at its rated volts, and those volts), and what is ``seen`` of it. ``cold`` says why its ohms tell nothing."""

    kind: str
    letter: str
    usual: Size
    params: Callable[[Size, float], _Params]
    seen: str
    cold: str = ""


def _watts(size: Size, volts: float) -> _Params:
    return {"volts": volts, "watts": _neat(size.watts)}


def _amps(size: Size, volts: float) -> _Params:
    return {"volts": volts, "amps": _neat(size.amps)}


def _ohms(size: Size, volts: float) -> _Params:
    return {"ohms": _neat(size.ohms)}


def _pulls(size: Size, volts: float) -> _Params:
    # It moves from some two thirds of its current on: common practice, no source.
    return {"ohms": _neat(size.ohms), "pull_in_amps": _neat(0.65 * (size.amps or 0.0))}


def _neat(value: float | None) -> float:
    return float(f"{value:.4g}") if value is not None else 0.0


_FILAMENT = "cold it has about a twelfth of its hot ohms: give its watts or amps"
_ARMATURE = "standing still it has about a fifth of its running ohms: give its amps or watts"
# Usual sizes: common practice, no source.
LOADS: Mapping[str, LoadSort] = {
    "lamp": LoadSort("lamp", "LA", Size(watts=21.0), _watts, "brightness", _FILAMENT),
    "motor": LoadSort("motor", "M", Size(amps=8.0), _amps, "runs", _ARMATURE),
    "valve": LoadSort("solenoid", "Y", Size(ohms=22.0), _pulls, "moves"),
    "heater": LoadSort("heater", "E", Size(watts=120.0), _watts, "heats"),
    "horn": LoadSort("horn", "B", Size(amps=5.0), _watts, "sounds", "it interrupts itself: give its amps or watts"),
    "fan": LoadSort("fan", "M", Size(amps=12.0), _amps, "runs", _ARMATURE),
    "pump": LoadSort("motor", "M", Size(amps=5.0), _amps, "runs", _ARMATURE),
    "LED lamp": LoadSort("led", "LA", Size(amps=0.35), _amps, "brightness", "it is no resistance: give its amps or watts"),
    "solenoid": LoadSort("solenoid", "Y", Size(ohms=13.0), _pulls, "moves"),
    "clutch": LoadSort("clutch", "Y", Size(ohms=3.6), _pulls, "moves"),
    "injector": LoadSort("injector", "Y", Size(ohms=14.0), _pulls, "moves"),
    "contactor coil": LoadSort("coil", "K", Size(ohms=24.0), _pulls, "moves"),
    "glow plug": LoadSort("glow_plug", "R", Size(amps=9.0), _amps, "", "cold it has a third of its hot ohms: give its amps"),
    "resistor": LoadSort("resistor", "R", Size(ohms=10.0), _ohms, ""),
}


def load_params(sort: str, size: Size | None, system: float) -> tuple[str, _Params, str]:
    """The kind of a sort of load, its parameters on a system of 12 or 24 V, and what to say of them where the size is not known.

    Raises MakingError for a sort that there is none of, and for ohms that tell nothing.
    """
    made = LOADS.get(sort)
    if made is None:
        raise MakingError(f"{quoted(sort)} is no sort of load: {listed(LOADS, 20)}.")
    if size is not None and size.ohms is not None and made.cold:
        raise MakingError(f"The ohms of a {sort} say little of what it draws: {made.cold}.")
    rated = RATED_24 if system > 18.0 else RATED_12
    whole = (size or made.usual.at(RATED_12)).at(rated) if size else _scaled(made.usual, rated)
    params = made.params(whole, rated)
    if size is not None:
        return made.kind, params, ""
    shown = ", ".join(f"{value:g} {unit}" for name, unit in (("watts", "W"), ("amps", "A"), ("ohms", "Ω")) if (value := params.get(name)))
    return made.kind, {**params, "tolerance": UNKNOWN_TOLERANCE}, f"size {NOT_KNOWN}, {shown} taken as usual"


def _scaled(usual: Size, rated: float) -> Size:
    """What is usual on 12 V as the same watts on another supply."""
    return Size(watts=usual.at(RATED_12).watts).at(rated)
