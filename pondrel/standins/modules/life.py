"""What goes on in a simulated vehicle that its modules know of: what the circuit shows them, and what no circuit has: speed, heights."""

from __future__ import annotations

import threading
import time
from collections.abc import Callable, Collection, Mapping

import numpy as np

from ...core.base.brief import listed, quoted
from ...core.base.errors import PondrelError, ReadingError
from ...core.circuit.sights import SEEN, word_chances
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
        self.facts, self.texts = dict(roster.stand_in.facts), dict(roster.stand_in.texts)
        self.fitted: dict[str, int] = {}  # how often each module was renewed
        self.lock = threading.RLock()
        self._values = {name: own.start for name, own in roster.stand_in.values.items()}
        self._at = clock()
        self._driven: tuple[str, float] | None = None
        self._off_since: dict[str, float] = {}
        self._wakes_at: dict[str, float] = {}
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

    def drive(self, name: str) -> None:
        """Begin a drive of the roster: its facts follow it, and at its end ``driven.NAME`` is 1. Raises ReadingError for an unknown one."""
        if name not in self.roster.stand_in.drives:
            raise ReadingError(f"There is no drive {quoted(name)}: {listed(self.roster.stand_in.drives) or 'this roster has none'}.")
        with self.lock:
            self.facts[f"driven.{name}"] = 0.0
            self._driven = name, self.clock()

    def renew(self, name: str) -> None:
        """Fit another module of the same sort: nothing that was taught is in it, and its texts are those of the new one. Raises RosterError
        where there is none of that name."""
        own = self.roster.module(name).name
        with self.lock:
            self.texts |= {key: text for key, text in self.roster.stand_in.renewed.items() if key.startswith(f"{own}.")}
            self.fitted[own] = self.fitted.get(own, 0) + 1

    def here(self, link: PinLink | None) -> bool:
        """Whether a link is to the circuit that this vehicle is made of."""
        return link is not None and link.sheet == self.world.sheet.title

    def go_on(self) -> None:
        """Let time pass: what moves while a part works has moved."""
        with self.lock:
            now = self.clock()
            passed, self._at = now - self._at, now
            self._go_on_driving(now)
            self._go_on_hanging(now)
            for name, own in self.roster.stand_in.values.items():
                moves = (own.part and self.works(own.part)) or (own.output and own.output in self.commanded)
                speed = own.per_s if moves else own.leaks
                self._values[name] = min(max(self._values[name] + speed * passed, own.least), own.most)

    def _go_on_driving(self, now: float) -> None:
        if self._driven is None:
            return
        name, began = self._driven
        course = self.roster.stand_in.drives[name]
        for fact, corners in course.items():
            self.facts[fact] = float(np.interp(now - began, [at for at, _ in corners], [value for _, value in corners]))
        if now - began > max((corners[-1][0] for corners in course.values()), default=0.0):
            self.facts[f"driven.{name}"] = 1.0
            self._driven = None

    def _go_on_hanging(self, now: float) -> None:
        """A module that hangs wakes once it was without supply for long enough, some time after it is back."""
        for module in self.roster.modules.values():
            if not self._powered(module):
                self._off_since.setdefault(module.name, now)
            elif module.name in self._off_since:
                off, freezes = now - self._off_since.pop(module.name), self.roster.stand_in.hangs.get(module.name)
                self._wakes_at[module.name] = now + (freezes.wakes_s if freezes else 0.0)
                if freezes is None or off >= freezes.off_s:
                    self.facts[f"{module.name}.hangs"] = 0.0

    def works(self, part: str) -> bool:
        """Whether a part of the circuit does what it is for: a valve moves, a motor runs."""
        shown = self.world.point().sights.get(part, ())
        return any(abs(one.value) >= _WORKS[one.what] for one in shown if one.what in _WORKS)

    def alive(self, module: Module) -> bool:
        """Whether a module has what it needs to answer, and so has the gateway before it."""
        if module.name in self.silent or self.facts.get(f"{module.name}.silent") or self.facts.get(f"{module.name}.hangs"):
            return False
        if module.behind and not self.alive(self.roster.modules[module.behind]):
            return False
        return self._powered(module) and self.clock() >= self._wakes_at.get(module.name, 0.0)

    def _powered(self, module: Module) -> bool:
        """Whether its supply is there: ``MODULE.supply_off`` is somebody who pulled its fuse."""
        if self.facts.get(f"{module.name}.supply_off"):
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
        sound = self.world.sound_point().sights.get(link.part, ())
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
        return self.roster.stand_in.vin or "0" * 17

    def bytes_of(self, module: Module, number: int) -> bytes | None:
        """What a module answers under an identifier; None where it has nothing there."""
        own = [datum for datum in module.data.values() if datum.number == number]
        if not own:
            return None
        found = bytearray(max(datum.at + datum.size for datum in own))
        for datum in own:
            if datum.ascii:
                found[datum.at : datum.at + datum.size] = datum.text_bytes(self.texts.get(f"{module.name}.{datum.name}", ""))
                continue
            try:
                told = datum.bytes_of(self.value(module, datum))
            except PondrelError:
                told = bytes(datum.size)
            for place, byte in enumerate(told):
                found[datum.at + place] |= byte
        return bytes(found)
