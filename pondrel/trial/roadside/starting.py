"""A vehicle that is to be started: battery by charge, age and temperature, a chain of joints, a plunger, a motor by balance of torques."""

from __future__ import annotations

import math
import random
from dataclasses import dataclass, field

from .person import NOTHING, lognormal, read, slips

__all__ = ["START_FAULTS", "Starting"]

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
        self.inner = lognormal(rng, 5.0e-3, 0.15) * (1.0 + max(25.0 - self.celsius, 0.0) / 45.0) * (1.0 + 9.0 * (1.0 - self.charge) ** 3)
        if self.fault == "battery_weak":
            self.inner *= rng.uniform(4.0, 10.0)
        self.joints = {name: lognormal(rng, ohms, 0.4) for name, ohms in _JOINTS.items()}
        if self.fault in self.joints:
            self.joints[self.fault] = math.exp(rng.uniform(math.log(6e-3), math.log(0.4)))
        self.green = (self.fault in ("plus_clamp", "minus_clamp") and rng.random() < 0.8) or rng.random() < 0.12
        self.winding = lognormal(rng, 14e-3, 0.1) * (rng.uniform(5.0, 40.0) if self.fault == "starter_worn" else 1.0)
        self.back = 0.62  # volts for each radian a second of the crankshaft
        self.torque = lognormal(rng, 55.0, 0.15) * (1.0 + 0.012 * max(20.0 - self.celsius, 0.0))
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
        # The pull-in winding is fed by the key from the plus clamp and finds its ground through the motor: some twenty amperes.
        lost = 20.0 * (self.inner + self.joints["plus_clamp"] + sum(self.joints[name] for name in _GROUND))
        self.trigger = 0.0 if self.fault == "immobiliser" else max(emf - lost, 0.0) * 0.4 / (0.4 + self.control_ohms)
        trigger = self.trigger if can else 0.0
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
        across = self.posts - 0.3 - self.amps * sum(self.joints[piece] for piece in _GROUND)  # the case is lifted by what is lost there
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
            return read(self.rng, 11.85 + 0.8 * self.charge)
        if step == "battery":
            slipped = slips(self.rng)
            lost = self.amps * (self.joints["plus_clamp"] + self.joints["minus_clamp"]) if slipped else 0.0
            return read(self.rng, max(self.posts - lost, 0.0))
        if step in ("supply_drop", "ground_drop", *self.joints):
            return read(self.rng, self.drop(step))
        if step == "amps":
            return f"{max(self.amps * self.rng.gauss(1.0, 0.04), 0.0):.0f}"
        if step == "control":
            return read(self.rng, self.trigger)
        if step == "at_starter":
            lost = self.amps * sum(self.joints.values())
            return read(self.rng, max(self.posts - lost, 0.0) if self.closed else 0.0)
        if step == "load":
            sag = 280.0 * self.inner + 0.5
            return f"{11.6 + 1.15 * self.charge - sag:.2f} @{self.celsius:.0f}C"
        raise KeyError(step)

    def _words(self, step: str) -> str:
        rng = self.rng
        if step == "heard":
            other = {"one click": "turns slowly", "turns slowly": "one click", "clicks fast": "one click"}
            return other.get(self.heard, self.heard) if slips(rng) else self.heard
        if step == "lamp":
            return ("flashes" if rng.random() < 0.6 else "stays on") if self.fault == "immobiliser" and self.sure_lamp else "out"
        if step == "posts":
            return "loose or green" if self.green and not self.cleaned else "sound"
        if step == "boost":
            if not self.complained or self.fault in ("solenoid", "control", "immobiliser", "engine", "drive"):
                return "no change"
            helped = Starting.__new__(Starting)
            helped.__dict__.update(self.__dict__)
            # Its minus clamp sits on bare metal of the engine, past the whole ground side.
            helped.joints = {
                **self.joints,
                "plus_clamp": 0.5e-3,
                "strap": 0.5e-3,
                **dict.fromkeys(("body", "minus_cable", "minus_clamp"), 0.0),
            }
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
        return frozenset(
            {{"starter_worn": "starter", "starter_drags": "starter", "contacts": "solenoid", NOTHING: "none"}.get(self.fault, self.fault)}
        )
