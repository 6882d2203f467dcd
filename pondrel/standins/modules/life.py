"""What goes on in a simulated vehicle that its modules know of: what the circuit shows them, and what no circuit has: speed, heights."""

from __future__ import annotations

import threading
import time
from collections.abc import Callable, Collection, Mapping

import numpy as np

from ...core.base.brief import quoted
from ...core.base.errors import PondrelError, ReadingError
from ...core.circuit.sights import SEEN, word_chances
from ...core.circuit.solve import solve
from ...core.module.roster import Datum, Module, PinLink, Roster
from ..world import World

__all__ = ["ALIVE_VOLTS", "Life"]

ALIVE_VOLTS = 6.0  # with less at its supply a module is off; common practice, no source
_WORKS = {"moves": 1.0, "runs": 0.2, "clicks": 0.5, "answers": 0.5, "brightness": 0.2, "sounds": 0.3, "heats": 0.3}


class Life:
    """A vehicle as its modules know it. ``silent`` are modules that are dead whatever their supply; ``facts`` can be changed."""

    def __init__(self, roster: Roster, world: World, clock: Callable[[], float] = time.monotonic, silent: Collection[str] = ()):
        self.roster, self.world, self.clock = roster, world, clock
        self.silent = {roster.module(name).name for name in silent}
        self.facts = dict(roster.facts)
        self.lock = threading.RLock()
        self._values = {name: own.start for name, own in roster.stepped.items()}
        self._at = clock()
        self._put: dict[str, tuple[Mapping[str, str], frozenset[str]]] = {}

    @property
    def commanded(self) -> frozenset[str]:
        """The outputs that are on by a tester's command, as ``MODULE.OUTPUT``."""
        return frozenset(name for _, own in self._put.values() for name in own)

    def put(self, module: str, positions: Mapping[str, str], commanded: Collection[str]) -> None:
        """A module puts parts of the circuit into positions, and has outputs on by command."""
        with self.lock:
            self._put[module] = dict(positions), frozenset(f"{module}.{name}" for name in commanded)
            merged: dict[str, str] = {}
            for own, _ in self._put.values():
                merged |= own
            self.world.drive(merged)

    def set(self, name: str, value: str) -> None:
        """Change what no circuit tells. Raises ReadingError where it is no number."""
        try:
            self.facts[name.strip()[:120]] = float(value)
        except ValueError:
            raise ReadingError(f"{quoted(value)} is no number: a fact is such as speed=0.") from None

    def here(self, link: PinLink | None) -> bool:
        """Whether a link is to the circuit that this vehicle is made of."""
        return link is not None and link.sheet == self.world.sheet.title

    def go_on(self) -> None:
        """Let time pass: what moves while a part works has moved."""
        with self.lock:
            now = self.clock()
            passed, self._at = now - self._at, now
            for name, own in self.roster.stepped.items():
                moves = (own.part and self.works(own.part)) or (own.output and own.output in self.commanded)
                speed = own.per_s if moves else own.leaks
                self._values[name] = min(max(self._values[name] + speed * passed, own.least), own.most)

    def works(self, part: str) -> bool:
        """Whether a part of the circuit does what it is for: a valve moves, a motor runs."""
        shown = self.world.point().sights.get(part, ())
        return any(abs(one.value) >= _WORKS[one.what] for one in shown if one.what in _WORKS)

    def alive(self, module: Module) -> bool:
        """Whether a module has what it needs to answer, and so has the gateway before it."""
        if module.name in self.silent or self.facts.get(f"{module.name}.silent"):
            return False
        if module.behind and not self.alive(self.roster.modules[module.behind]):
            return False
        if not self.here(module.link) or module.link is None:
            return True
        point = self.world.point()
        if module.link.place:
            return point.nodes.get(module.link.place, 0.0) >= ALIVE_VOLTS
        shown = point.sights.get(module.link.part, ())
        answers = next((one.value for one in shown if one.what == "answers"), None)
        return answers is None or answers > 0.5

    def shows(self, link: PinLink) -> str:
        """The word for what a part shows: ``open``, ``low``, ``answers``; empty where it shows nothing."""
        shown = next((one for one in self.world.point().sights.get(link.part, ()) if one.what in SEEN), None)
        if shown is None:
            return ""
        sound = solve(self.world.sheet, self.world.state).sights.get(link.part, ())
        usual = next((one.value for one in sound if one.what == shown.what), 0.0)
        value = min(shown.value, 2.0) if shown.what == "diagnosis" else shown.value
        chances = word_chances(shown.what, np.array([value]), usual)[0]
        return tuple(SEEN[shown.what])[int(chances.argmax())]

    def sets(self, link: PinLink) -> bool:
        """Whether the circuit is as a code's link says that it has to be for the code to be set."""
        if link.part:
            return self.shows(link) == link.shows
        volts = self.world.point().nodes.get(link.place)
        if volts is None:
            return False
        return (link.below is not None and volts < link.below) or (link.above is not None and volts > link.above)

    def value(self, module: Module, datum: Datum) -> float:
        """The true value of a datum in its unit."""
        name = f"{module.name}.{datum.name}"
        for known in (self._values, self.facts):
            for key in (name, datum.name):
                if key in known:
                    return known[key]
        if datum.link is None or not self.here(datum.link):
            return 0.0
        if datum.link.place:
            return self.world.point().nodes.get(datum.link.place, 0.0)
        if datum.words:
            word = self.shows(datum.link)
            return float(next((raw for raw, says in datum.words.items() if says == word), 0))
        shown = self.world.point().sights.get(datum.link.part, ())
        sight = next((one.value for one in shown if one.what == datum.link.shows), None)
        if sight is not None:
            return sight
        return self.world.point().currents.get(datum.link.part, 0.0)

    def fits(self, wants: Mapping[str, tuple[float, float]]) -> bool:
        """Whether facts are within what is wanted; one that nobody knows is 0."""
        return all(least <= self.facts.get(name, 0.0) <= most for name, (least, most) in wants.items())

    @property
    def vin(self) -> str:
        """Its identification number."""
        return self.roster.vin or "0" * 17

    def bytes_of(self, module: Module, number: int) -> bytes | None:
        """What a module answers under an identifier; None where it has nothing there."""
        own = [datum for datum in module.data.values() if datum.number == number]
        if not own:
            return None
        found = bytearray(max(datum.at + datum.size for datum in own))
        for datum in own:
            try:
                told = datum.bytes_of(self.value(module, datum))
            except PondrelError:
                told = bytes(datum.size)
            for place, byte in enumerate(told):
                found[datum.at + place] |= byte
        return bytes(found)
