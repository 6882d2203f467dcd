"""Which outputs of a module lose their supply together: what on a circuit, once open, stops several of them at once."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, replace

from ..circuit.fault import Fault
from ..circuit.sheet import Sheet
from ..circuit.solve import solve
from ..module.roster import Module

__all__ = ["Shared", "shared_supplies"]

_STOPS_BELOW = 0.1  # of its current, with which an output counts as stopped; common practice, no source
_OPEN = "open"
MOST_SOLVES = 1200


@dataclass(frozen=True, slots=True)
class Shared:
    """Parts of a circuit that several outputs hang on: each stops all of ``outputs`` (by name) once it is open."""

    parts: tuple[str, ...]
    outputs: tuple[str, ...]


def shared_supplies(sheet: Sheet, module: Module) -> tuple[Shared, ...]:
    """What stops several outputs of a module at once, that which stops most first; empty where its outputs are not on the sheet."""
    driven = {name: _driven(sheet, part, position) for name, (part, position) in _commanded(sheet, module).items()}
    working = {name: own for name, own in driven.items() if own[2] > 0.0}
    parts = [name for name, part in sheet.parts.items() if any(mode.name == _OPEN for mode in part.modes)]
    if len(working) < 2 or len(parts) * len(working) > MOST_SOLVES:
        return ()
    stopped: dict[tuple[str, ...], list[str]] = {}
    for part in parts:
        fault = (Fault(part, _OPEN),)
        names = tuple(
            name for name, (own, state, amps) in working.items() if _amps(own, state, _part(module, name), fault) < _STOPS_BELOW * amps
        )
        if len(names) > 1:
            stopped.setdefault(names, []).append(part)
    return tuple(Shared(tuple(own), names) for names, own in sorted(stopped.items(), key=lambda pair: -len(pair[0])))


def _commanded(sheet: Sheet, module: Module) -> Mapping[str, tuple[str, str]]:
    """By output on this sheet, its part and the position in which it is on."""
    found = {}
    for name, output in module.outputs.items():
        link = output.link
        if link is None or link.sheet != sheet.title or link.part not in sheet.parts:
            continue
        rest = sheet.parts[link.part].rest
        position = next((c.position for c in output.commands.values() if c.position and c.position != rest), "")
        if position:
            found[name] = link.part, position
    return found


def _part(module: Module, name: str) -> str:
    link = module.outputs[name].link
    return link.part if link is not None else ""


def _driven(sheet: Sheet, part: str, position: str) -> tuple[Sheet, str, float]:
    """The sheet with one output on, the state in which it then carries most, and how much that is (A)."""
    on = replace(sheet, states={n: replace(s, positions={**s.positions, part: position}) for n, s in sheet.states.items()})
    amps = {name: _amps(on, name, part) for name in on.states if name not in sheet.passing}
    best = max(amps, key=lambda name: amps[name])
    return on, best, amps[best]


def _amps(sheet: Sheet, state: str, part: str, faults: tuple[Fault, ...] = ()) -> float:
    return abs(solve(sheet, state, faults).currents.get(part, 0.0))
