"""The simulated vehicle behind every stand-in instrument: a sheet with its faults, the state it is in, what is unplugged, and where the
probes stand. It answers with what is truly there; what a meter makes of that is the meter's own affair.
"""

from __future__ import annotations

import math
import threading
from collections.abc import Callable, Mapping
from dataclasses import dataclass, replace

from ..core.base.errors import PondrelError, ReadingError
from ..core.circuit.fault import Fault
from ..core.circuit.measure import Leads, measure
from ..core.circuit.sheet import Sheet
from ..core.circuit.solve import OperatingPoint, solve
from ..core.circuit.unplug import unplugged

__all__ = ["FUNCTIONS", "World"]

# By function: the instrument of the core that does it, and its unit.
FUNCTIONS = {"volts": "V", "ac": "V", "ohms": "Ω", "amps": "A"}


@dataclass(frozen=True, slots=True)
class Probes:
    """Where the leads are: two places, empty for in the air."""

    red: str = ""
    black: str = ""


class World:
    """A vehicle: changed by who works at it, read by its instruments. Safe to be used from several threads."""

    def __init__(self, sheet: Sheet, faults: tuple[Fault, ...] = (), name: str = "sound"):
        self.sheet, self.faults, self.name = sheet, faults, name
        self._as_drawn, self.driven = sheet, dict[str, str]()
        self.loads: dict[str, float] = {}  # ohms in place of a part
        self.state = next(iter(sheet.states))
        self.probes = Probes()
        self.without: tuple[str, ...] = ()
        self.watchers: list[Callable[[], None]] = []  # told when anything was moved
        self._lock = threading.RLock()
        self._known: dict[tuple[object, ...], float] = {}
        self._point: tuple[tuple[object, ...], OperatingPoint] | None = None
        self._sound: tuple[tuple[object, ...], OperatingPoint] | None = None

    def put(self, red: str, black: str = "") -> None:
        """Put the probes on two places; an empty black one is battery minus, two empty ones are in the air. Raises ReadingError."""
        with self._lock:
            placed = Probes(self.sheet.probe(red), self.sheet.probe(black)) if red else Probes()
            if placed.red and placed.red == placed.black:
                raise ReadingError(f"Red and black are both on {placed.red}: put them on two different places.")
            self._moved(probes=placed)

    def turn(self, state: str) -> None:
        """Bring the vehicle into a state. Raises ReadingError naming those there are."""
        with self._lock:
            self.sheet.state(state)
            self._moved(state=state)

    def unplug(self, what: str) -> None:
        """Unplug plugs and parts (``C2, K1`` or ``Y1 alone``), or with an empty text nothing. Raises ReadingError."""
        with self._lock:
            self._moved(without=unplugged(self.sheet, what) if what.strip() else ())

    def drive(self, positions: Mapping[str, str]) -> None:
        """Let modules put parts of the circuit into positions, whatever the state says; parts that are not named follow the state again.
        Safe to be called again and again: nothing happens where nothing is changed."""
        with self._lock:
            wanted = {part: position for part, position in positions.items() if part in self._as_drawn.parts}
            if wanted != self.driven:
                self.driven = wanted
                self._redrawn()

    def substitute(self, part: str, ohms: float) -> None:
        """Put a load in place of a part, or the part itself back with 0 Ω. Raises PondrelError, as for a part that has no ohms."""
        with self._lock:
            own = self._as_drawn.part(part)
            if "ohms" not in {param.name for param in own.kind.params} or not 0.0 <= ohms <= 1e6:
                raise ReadingError(
                    f"A load of {ohms:g} Ω cannot stand in for {part}: a coil or lamp, and from 0 Ω (the part back) to 1 MΩ."
                )
            self.loads = {name: own_ohms for name, own_ohms in {**self.loads, own.name: ohms}.items() if own_ohms}
            self._redrawn()

    def _redrawn(self) -> None:
        drawn = self._as_drawn
        states = {name: replace(state, positions={**state.positions, **self.driven}) for name, state in drawn.states.items()}
        loads = {name: replace(drawn.parts[name], params={**drawn.parts[name].params, "ohms": ohms}) for name, ohms in self.loads.items()}
        self.sheet = replace(drawn, states=states, parts={**drawn.parts, **loads})
        self._known.clear()
        self._told()

    @property
    def stands(self) -> tuple[object, ...]:
        """What its circuit hangs on just now: as long as this is the same, so is all that is measured on it."""
        return self.state, self.without, self.here, tuple(sorted(self.driven.items())), tuple(sorted(self.loads.items()))

    @property
    def here(self) -> tuple[Fault, ...]:
        """The faults that are in the circuit: one of a part that a load stands in for lies on the bench."""
        return tuple(fault for fault in self.faults if fault.part not in self.loads)

    def point(self) -> OperatingPoint:
        """The whole circuit as it stands."""
        with self._lock:
            if self._point is None or self._point[0] != self.stands:
                self._point = self.stands, solve(self.sheet, self.state, self.here, self.without)
            return self._point[1]

    def sound_point(self) -> OperatingPoint:
        """The whole circuit as it would be if nothing were wrong with it or unplugged."""
        with self._lock:
            if self._sound is None or self._sound[0] != self.stands:
                self._sound = self.stands, solve(self.sheet, self.state)
            return self._sound[1]

    def mend(self) -> None:
        """Put right whatever is wrong with it."""
        with self._lock:
            self.faults = ()
            self._known.clear()
            self._told()

    def _moved(self, **changes: object) -> None:
        if any(getattr(self, name) != value for name, value in changes.items()):
            for name, value in changes.items():
                setattr(self, name, value)
            self._told()

    def _told(self) -> None:
        for watcher in self.watchers:
            watcher()

    def truly(self, function: str) -> float:
        """What is there between the probes for a function, in its SI unit: infinite ohms of nothing, 0 V and 0 A in the air; nan where the
        instrument cannot be put there (an ammeter across nothing that one part joins, an ohmmeter on a squib)."""
        with self._lock:
            placed = self.probes
            if not placed.red:
                return math.inf if function == "ohms" else 0.0
            key = (function, placed, self.state, self.without)
            if key not in self._known:
                self._known[key] = self._solved(function, placed)
            return self._known[key]

    def seen(self) -> dict[str, str]:
        """What is seen and heard of the parts that show something, in the state that it is in: by part a sentence."""
        found = self.point()
        wanted = {str(entry["part"]) for entry in self.sheet.observe.values()} or set(found.sights)
        return {
            self.sheet.parts[part].called: "; ".join(one.says for one in shown) for part, shown in found.sights.items() if part in wanted
        }

    def _solved(self, function: str, placed: Probes) -> float:
        try:
            shown = measure(
                self.sheet, self.state, function, placed.red, placed.black, self.here, Leads(0.0, True), without=self.without,
            )  # fmt: skip
        except PondrelError:
            return math.nan
        return shown.exact
