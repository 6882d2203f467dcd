"""Vehicles that do not start or do not charge, and a person who walks the guided ways there: how often it names right.

The world is one of its own and knows nothing of the ways' tables, of families, sheets or parts: a battery with its charge, age and
temperature, a chain of joints, a motor that turns an engine by balance of torques, a plunger with its windings; an alternator by its speed,
belt, field and what is switched on, and a battery that takes what it is given. The person reads with a meter of 0.5 % and two digits, slips
now and then: reads at the clamp instead of the post, hears a slow turn where it clicks. Numbers: common practice, no source.

python -m pondrel.trial.roadside [vehicles] [seed]
"""

from __future__ import annotations

import math
import random
import sys
from collections import Counter
from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field

from ..core.power.guide import WAYS, Answer, position_of

__all__ = ["NOTHING", "Charging", "Starting", "Walked", "walk"]

NOTHING = "nothing"
SLIP = 0.03  # of the answers are wrong in some way
MOST_STEPS = 40
_JOINTS = {
    "plus_clamp": 0.15e-3,
    "plus_cable": 0.7e-3,
    "contacts": 0.3e-3,
    "strap": 0.3e-3,
    "body": 0.15e-3,
    "minus_cable": 0.35e-3,
    "minus_clamp": 0.15e-3,
}
_PLUS, _GROUND = ("plus_clamp", "plus_cable", "contacts"), ("strap", "body", "minus_cable", "minus_clamp")
START_FAULTS = (
    *_JOINTS,
    "battery_flat",
    "battery_weak",
    "starter_worn",
    "starter_drags",
    "solenoid",
    "control",
    "immobiliser",
    "engine",
    "drive",
    NOTHING,
)
CHARGE_FAULTS = ("excitation", "belt", "cable", "ground", "alternator", "diode", "regulator_high", "load", "coming_up", NOTHING)


def _lognormal(rng: random.Random, middle: float, spread: float) -> float:
    return middle * math.exp(rng.gauss(0.0, spread))


@dataclass
class Starting:
    """A vehicle that is to be started, with one thing wrong."""

    fault: str
    rng: random.Random
    cleaned: bool = False
    charged: bool = False
    charge: float = 0.0
    joints: dict[str, float] = field(default_factory=dict)

    def __post_init__(self) -> None:
        rng = self.rng
        self.celsius = rng.uniform(0.0, 30.0)
        self.charge = rng.uniform(0.02, 0.3) if self.fault == "battery_flat" else rng.uniform(0.75, 1.0)
        self.inner = _lognormal(rng, 5.0e-3, 0.15) * (1.0 + max(25.0 - self.celsius, 0.0) / 45.0) * (1.0 + 0.8 * (1.0 - self.charge))
        if self.fault == "battery_weak":
            self.inner *= rng.uniform(4.0, 10.0)
        self.joints = {name: _lognormal(rng, ohms, 0.4) for name, ohms in _JOINTS.items()}
        if self.fault in self.joints:
            self.joints[self.fault] = math.exp(rng.uniform(math.log(6e-3), math.log(0.4)))
        self.green = (self.fault in ("plus_clamp", "minus_clamp") and rng.random() < 0.8) or rng.random() < 0.12
        self.winding = _lognormal(rng, 14e-3, 0.1) * (rng.uniform(5.0, 40.0) if self.fault == "starter_worn" else 1.0)
        self.back = 0.62  # volts for each radian a second of the crankshaft
        self.torque = _lognormal(rng, 55.0, 0.15) * (1.0 + 0.012 * max(20.0 - self.celsius, 0.0))
        if self.fault == "starter_drags":
            self.torque *= rng.uniform(2.8, 4.5)
        self.control_ohms = math.exp(rng.uniform(math.log(1.0), math.log(300.0))) if self.fault == "control" else 0.05
        self.sure_lamp = self.rng.random() < 0.9
        self._solve()

    def _solve(self) -> None:
        """Amperes, speed, and whether the contacts close, by turns until nothing changes."""
        emf = 11.6 + 1.15 * self.charge
        rest = sum(self.joints.values()) + self.inner
        can = self.fault not in ("solenoid", "immobiliser")
        self.closed, self.chatters, self.amps, self.omega = False, False, 0.0, 0.0
        # The pull-in winding finds its ground through the motor: some twenty amperes through all joints of the path.
        trigger = max(emf - 20.0 * rest, 0.0) * 0.4 / (0.4 + self.control_ohms) if can else 0.0
        self.trigger = 0.0 if self.fault == "immobiliser" else max(emf - 20.0 * rest, 0.0) * 0.4 / (0.4 + self.control_ohms)
        if not can or trigger < 7.0:
            self.amps = 15.0 if can and trigger > 1.0 else 0.0
            self.posts = emf - self.amps * self.inner
            self.clicks = trigger > 5.0
            return
        self.clicks = self.closed = True
        through = rest + self.winding
        stall = self.fault == "engine"
        free = self.fault == "drive"
        torque = 6.0 if free else self.torque
        amps = torque / self.back
        if stall or amps > emf / through:
            amps, omega = emf / through, 0.0
        else:
            omega = (emf - amps * through) / self.back
        self.amps, self.omega = amps, omega
        self.posts = emf - amps * self.inner
        at_coil = self.posts - amps * self.joints["plus_clamp"] - amps * sum(self.joints[name] for name in _GROUND)
        if at_coil < 4.0:
            self.chatters = True

    @property
    def heard(self) -> str:
        """What is heard with the key at start."""
        if self.fault == "drive":
            return "spins without the engine"
        if not self.clicks:
            return "nothing"
        if self.chatters:
            return "clicks fast"
        rpm = self.omega * 60.0 / (2.0 * math.pi)
        if not self.closed or rpm < 15.0:
            return "one click"
        return "turns slowly" if rpm < 120.0 else "turns normally"

    @property
    def complained(self) -> bool:
        """Whether its driver would complain, or has nothing wrong."""
        return (self.heard != "turns normally") or self.fault in ("immobiliser", NOTHING)

    def drop(self, name: str) -> float:
        """Volts lost across a piece or a side."""
        across = self.posts - 0.3
        if not self.closed and (name == "contacts" or name == "supply_drop"):
            return across
        if name in self.joints:
            return self.amps * self.joints[name]
        return self.amps * sum(self.joints[piece] for piece in (_PLUS if name == "supply_drop" else _GROUND))

    def answer(self, step: str) -> str:
        """What the person finds."""
        words = self._words(step)
        if words:
            return words
        if step == "rest":
            return self._typed(11.85 + 0.8 * self.charge)
        if step == "battery":
            slipped = self.rng.random() < SLIP
            lost = self.amps * (self.joints["plus_clamp"] + self.joints["minus_clamp"]) if slipped else 0.0
            return self._typed(max(self.posts - lost, 0.0))
        if step in ("supply_drop", "ground_drop", *self.joints):
            return self._typed(self.drop(step))
        if step == "amps":
            return f"{max(self.amps * self.rng.gauss(1.0, 0.04), 0.0):.0f}"
        if step == "control":
            return self._typed(self.trigger)
        if step == "at_starter":
            lost = self.amps * sum(self.joints.values())
            return self._typed(max(self.posts - lost, 0.0) if self.closed else 0.0)
        if step == "load":
            sag = 280.0 * self.inner + 0.5
            return f"{11.6 + 1.15 * self.charge - sag:.2f} @{self.celsius:.0f}C"
        raise KeyError(step)

    def _words(self, step: str) -> str:
        rng = self.rng
        if step == "heard":
            other = {"one click": "turns slowly", "turns slowly": "one click", "clicks fast": "one click"}
            return other.get(self.heard, self.heard) if rng.random() < SLIP else self.heard
        if step == "lamp":
            return ("flashes" if rng.random() < 0.6 else "stays on") if self.fault == "immobiliser" and self.sure_lamp else "out"
        if step == "posts":
            return "loose or green" if self.green and not self.cleaned else "sound"
        if step == "boost":
            if not self.complained or self.fault in ("solenoid", "control", "immobiliser", "engine", "drive"):
                return "no change"
            helped = Starting.__new__(Starting)
            helped.__dict__.update(self.__dict__)
            helped.joints = dict(self.joints, plus_clamp=0.5e-3, minus_clamp=0.5e-3)
            helped.charge, helped.inner = 0.95, 0.5 * min(self.inner, 8e-3)
            helped._solve()
            return "starts" if helped.heard == "turns normally" else "turns better" if helped.omega > self.omega + 2.0 else "no change"
        if step == "engine":
            return "no" if self.fault == "engine" else "yes"
        if step == "tap":
            return "then it turned" if self.fault == "starter_worn" and rng.random() < 0.4 else "no change"
        if step == "tester":
            if self.joints["plus_clamp"] + self.joints["minus_clamp"] > 4e-3 or (self.green and not self.cleaned and rng.random() < 0.4):
                return "check connection"
            if self.inner > 15e-3:
                return "replace"
            return "good, recharge" if self.charge < 0.7 else "good"
        return ""

    def _typed(self, volts: float) -> str:
        read = volts * self.rng.uniform(0.995, 1.005) + self.rng.uniform(-0.02, 0.02)
        return f"{max(read, 0.0):.2f}"

    def deed(self, name: str) -> None:
        """Clean posts and clamps, or charge the battery."""
        if name == "charge":
            self.charge = 0.95
            self.charged = self.fault == "battery_flat"
            self.inner = min(self.inner, 7e-3) if self.charged else self.inner
            self._solve()
            return
        self.cleaned = True
        for clamp in ("plus_clamp", "minus_clamp"):
            self.joints[clamp] = min(self.joints[clamp], 0.2e-3)
        self._solve()

    @property
    def right(self) -> frozenset[str]:
        """What may be named."""
        if self.fault in ("plus_clamp", "minus_clamp") and self.cleaned:
            return frozenset({"clamps"})
        return frozenset({{"starter_worn": "starter", "starter_drags": "starter", NOTHING: "none"}.get(self.fault, self.fault)})


@dataclass
class Charging:
    """A vehicle whose charging is looked at, with one thing wrong."""

    fault: str
    rng: random.Random
    minutes: float = 0.0

    def __post_init__(self) -> None:
        rng = self.rng
        self.flat = self.fault == "coming_up" or (self.fault != NOTHING and rng.random() < 0.4)
        self.charge = rng.uniform(0.02, 0.3) if self.flat else rng.uniform(0.6, 1.0)
        self.rated = rng.choice((75.0, 90.0, 120.0))
        self.regulated = rng.uniform(13.9, 14.5) if self.fault != "regulator_high" else rng.uniform(15.3, 16.5)
        self.cable = _lognormal(rng, 1.5e-3, 0.3) * (rng.uniform(20.0, 200.0) if self.fault == "cable" else 1.0)
        self.earth = _lognormal(rng, 0.7e-3, 0.3) * (rng.uniform(30.0, 300.0) if self.fault == "ground" else 1.0)
        self.dead = self.fault == "alternator" and rng.random() < 0.75
        self.brushes_open = self.dead and rng.random() < 0.3
        self.slip, self.belt_word = 0.0, "loose or squeals" if rng.random() < 0.06 else "sound"
        if self.fault == "belt":
            self.belt_word, self.slip = rng.choice((("loose or squeals", 0.75), ("slips", 0.9), ("missing", 1.0)))
        self.load = rng.uniform(1.2, 1.6) * self.rated if self.fault == "load" else rng.uniform(0.35, 0.6) * self.rated

    def _most(self, speed: float) -> float:
        """Amperes that it can give at an engine speed."""
        if self.dead or self.fault == "excitation":
            return 0.0
        share = (1.0 - math.exp(-speed / 900.0)) * (1.0 - self.slip)
        weak = 0.45 if self.fault == "diode" else 0.3 if self.fault == "alternator" else 1.0
        return self.rated * share * weak

    def _state(self, speed: float, load: float) -> tuple[float, float]:
        """Volts at the posts and amperes of the alternator."""
        most = self._most(speed)
        slow = 0.5 + 12.0 * (1.0 - self.charge)  # a full battery's volts come up at once
        emf = 11.75 + 0.9 * self.charge + min(self.minutes / slow, 1.0) * (1.25 if most > load else 0.0)
        inner = 0.012 + 0.02 * self.charge
        path = self.cable + self.earth
        # The battery takes what is left; the regulator holds its own volts.
        amps = min(most, (self.regulated - emf + load * inner) / (inner + path))
        if amps <= 0.0:
            return emf - load * 0.012 - 0.006 * load * self.minutes / 10.0, 0.0
        return emf + (amps - load) * (inner if amps > load else 0.012), amps

    @property
    def complained(self) -> bool:
        """Whether its driver would complain."""
        return True

    def answer(self, step: str) -> str:
        """What the person finds."""
        rng = self.rng
        base = 4.0
        if step == "lamp_key":
            return "off" if (self.fault == "excitation" and rng.random() < 0.9) or self.brushes_open else "on"
        if step == "lamp_running":
            if self.fault == "excitation" or self.brushes_open:
                return "off"
            if self.fault == "diode":
                return "dim" if rng.random() < 0.6 else "off"
            return "on" if self._state(900.0, 20.0)[1] <= 0.5 else "off"
        if step == "belt":
            return "sound" if rng.random() < SLIP else self.belt_word
        if step == "rest":
            return self._typed(11.85 + 0.8 * self.charge)
        if step == "raised":
            self.minutes = max(self.minutes, 1.0)
            return self._typed(self._state(2000.0, base)[0])
        if step == "trend":
            self.minutes += 5.0
            return f"{self._typed(self._state(2000.0, base)[0])} @{self.minutes:.0f}min"
        volts, amps = self._state(2000.0, self.load)
        if step == "loaded":
            return self._typed(volts)
        if step == "cable_drop":
            return self._typed(amps * self.cable if amps > 0.0 or self.fault != "cable" else 0.4)
        if step == "ground_drop":
            return self._typed(amps * self.earth)
        if step == "excitation":
            return self._typed(rng.uniform(0.0, 6.0) if self.fault == "excitation" else 12.2)
        if step == "amps":
            return f"{max(amps * rng.gauss(1.0, 0.03), 0.0):.0f}"
        if step == "ripple":
            return f"{rng.uniform(0.8, 2.0) if self.fault == 'diode' else rng.uniform(0.05, 0.25):.2f}"
        raise KeyError(step)

    def _typed(self, volts: float) -> str:
        return f"{volts * self.rng.uniform(0.995, 1.005) + self.rng.uniform(-0.02, 0.02):.2f}".replace("-", "")

    def deed(self, name: str) -> None:
        """Tension the belt."""
        self.tightened, self.slip, self.belt_word = self.fault == "belt", 0.0, "sound"

    @property
    def right(self) -> frozenset[str]:
        """What may be named."""
        return frozenset({{NOTHING: "none", "coming_up": "none"}.get(self.fault, self.fault)})


@dataclass(frozen=True, slots=True)
class Walked:
    """One walk: what was wrong, what was named (empty where nothing was), whether that was right, steps and minutes that it took."""

    fault: str
    named: str
    right: bool
    proved: bool
    steps: int
    minutes: float


def walk(way: str, vehicle: Starting | Charging, at_hand: Sequence[str], reach: Mapping[str, float]) -> Walked:
    """Walk a guided way at a vehicle until it names something or knows nothing more."""
    answers: list[Answer] = []
    settings = [("rated", f"{vehicle.rated:.0f}")] if isinstance(vehicle, Charging) else []
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
            answers.append(Answer(at.next.step.name, vehicle.answer(at.next.step.name)))
            minutes += at.next.minutes
        else:
            break
    return Walked(vehicle.fault, "", False, False, len(answers), minutes)


def walks(way: str, count: int, seed: int, at_hand: Sequence[str], reach: Mapping[str, float]) -> list[Walked]:
    """So many walks, every fault in turn; vehicles about which nobody would complain are left out."""
    rng = random.Random(f"roadside {way} {seed}")
    faults, make = (START_FAULTS, Starting) if way == "start" else (CHARGE_FAULTS, Charging)
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


def main() -> None:
    """Print what the ways are worth, with a meter and ears and with everything."""
    count, seed = (int(text) for text in (*sys.argv[1:], *("320", "1")[len(sys.argv) - 1 :]))
    for way, hands in (
        ("start", ("helper",)),
        ("start", ("helper", "clamp", "tester", "boost", "load tester")),
        ("charge", ()),
        ("charge", ("clamp", "scope")),
    ):
        found = walks(way, count, seed, hands, {"starter": 15.0, "alternator": 10.0})
        print(f"{way}, at hand: {', '.join(('meter', *hands))}")
        print(f"  {told(found)}")
        wrong = Counter(f"{w.fault} called {w.named or 'nothing'}" for w in found if not w.right)
        for text, times in wrong.most_common(12):
            print(f"    {times:3} {text}")


if __name__ == "__main__":
    main()
