"""A vehicle with magnets instead of an alternator: three phases whose own reactance limits them, a regulator that shunts what is too much.

A phase gives volts by speed and, since its reactance rises with speed too, never more than a certain current: an ellipse between open volts
and shorted amperes. A small battery takes what it is given.
"""

from __future__ import annotations

import math
import random
from dataclasses import dataclass

from .person import NOTHING, SURFACE, charging_emf, lognormal, read, slips

__all__ = ["MAGNET_FAULTS", "Magnets"]

MAGNET_FAULTS = (
    "stator", "stator_ground", "plug", "regulator", "regulator_high", "sense", "cable", "ground", "magnets", "battery_bad",
    "coming_up", NOTHING,
)  # fmt: skip
_IDLE, _RAISED = 1300.0, 4500.0  # rpm
_BRIDGE = 1.35  # mean volts of a bridge for the volts between two phases


@dataclass
class Magnets:
    """A vehicle whose stator and regulator-rectifier are looked at, with one thing wrong."""

    fault: str
    rng: random.Random
    minutes: float = 0.0
    renewed: bool = False

    def __post_init__(self) -> None:
        rng = self.rng
        flat = self.fault == "coming_up" or (self.fault not in (NOTHING, "regulator_high", "sense") and rng.random() < 0.6)
        self.charge = rng.uniform(0.02, 0.35) if flat else rng.uniform(0.65, 1.0)
        self.per_1000 = lognormal(rng, 16.0, 0.15) * (rng.uniform(0.15, 0.45) if self.fault == "magnets" else 1.0)
        self.shorted_amps = lognormal(rng, 22.0, 0.12)
        self.regulated = rng.uniform(15.4, 18.0) if self.fault in ("regulator_high", "sense") else rng.uniform(14.0, 14.6)
        self.senses = self.fault == "sense" or rng.random() < 0.3
        self.load = rng.uniform(0.3, 0.5) * self.shorted_amps
        self.cable = lognormal(rng, 6e-3, 0.3)
        self.earth = lognormal(rng, 5e-3, 0.4)
        if self.fault == "cable":
            self.cable = math.inf if rng.random() < 0.4 else rng.uniform(0.12, 1.5)
        if self.fault == "ground":
            self.earth = rng.uniform(0.12, 1.5)
        self.share = 1.0  # of what the stator could give that arrives behind the bridge
        self.pairs = [1.0, 1.0, 1.0]  # volts of ab, bc, ca
        self.to_ground = math.inf
        self.diodes = "one way only"
        self.burnt_plug = rng.random() < (0.9 if self.fault == "plug" else 0.04)
        if self.fault == "stator":
            phase = rng.randrange(3)
            left = 0.03 if rng.random() < 0.4 else rng.uniform(0.4, 0.8)  # open, or turns shorted
            self.pairs = [left if phase in (pair, (pair + 1) % 3) else 1.0 for pair in range(3)]
            self.share = rng.uniform(0.25, 0.6)
        elif self.fault == "stator_ground":
            self.to_ground = math.exp(rng.uniform(math.log(0.2), math.log(8e3)))
            self.share = rng.uniform(0.3, 0.65)
            if rng.random() < 0.25:
                self.pairs[rng.randrange(3)] = rng.uniform(0.5, 0.85)
        elif self.fault == "plug":
            self.share = rng.uniform(0.1, 0.6)
        elif self.fault == "regulator":
            self.share = 0.0 if rng.random() < 0.6 else rng.uniform(0.25, 0.55)
            if rng.random() < 0.65:
                self.diodes = rng.choice(("both ways", "neither way"))

    def _amps(self, speed: float, volts: float) -> float:
        """Amperes behind the bridge at some volts there."""
        open_volts = _BRIDGE * self.per_1000 * speed / 1000.0 - 1.4
        if volts >= open_volts:
            return 0.0
        return 1.2 * self.shorted_amps * self.share * math.sqrt(1.0 - (volts / open_volts) ** 2)

    def _state(self, speed: float, load: float) -> tuple[float, float]:
        """Volts at the posts and amperes of the regulator."""
        slow = 1.0 + 14.0 * (1.0 - self.charge)
        cell = 2.1 if self.fault == "battery_bad" else 0.0
        rested = 11.75 + 0.9 * self.charge - cell
        inner = 0.03 + (0.05 * self.charge if not cell else 0.0)
        path = self.cable + self.earth
        if not math.isfinite(path):
            return rested + SURFACE - load * (0.03 + 0.008 * self.minutes), 0.0
        emf = charging_emf(rested, self.regulated - cell, self.minutes, slow)
        amps = self._shared(speed, load, emf, inner, path)
        if amps >= load:
            return emf + (amps - load) * inner, amps
        emf = rested + SURFACE
        amps = self._shared(speed, load, emf, 0.03, path)
        return emf - (load - amps) * (0.03 + 0.006 * self.minutes), amps

    def _shared(self, speed: float, load: float, emf: float, inner: float, path: float) -> float:
        """Amperes at which regulator and battery agree, by halving."""
        low, high = 0.0, 60.0
        for _ in range(40):
            amps = (low + high) / 2.0
            behind = emf + (amps - load) * inner + amps * path
            gives = self._amps(speed, behind) if behind < self.regulated else 0.0
            low, high = (amps, high) if gives > amps else (low, amps)
        return low

    @property
    def complained(self) -> bool:
        """Whether its driver would complain, or has nothing wrong."""
        if self.fault in (NOTHING, "coming_up", "regulator_high", "sense", "battery_bad"):
            return True
        at_rest, self.minutes = self.minutes, 30.0
        volts = self._state(_RAISED, self.load)[0]
        self.minutes = at_rest
        return volts < 13.2

    def answer(self, step: str) -> str:
        """What the person finds; nothing where it cannot be done."""
        rng, base = self.rng, 0.3 * self.load
        if step == "plug":
            return "brown, melted or green" if self.burnt_plug and not self.renewed and not slips(rng) else "sound"
        if step == "rest":
            return read(rng, 11.85 + 0.8 * self.charge - (2.1 if self.fault == "battery_bad" else 0.0))
        if step == "tester":
            if self.fault == "battery_bad":
                return "bad cell" if rng.random() < 0.7 else "replace"
            return "good" if self.charge > 0.6 else "charge and retest" if rng.random() < 0.5 else "good, recharge"
        if step == "raised":
            self.minutes = max(self.minutes, 1.0)
            return read(rng, self._state(_RAISED, base)[0])
        if step == "trend":
            self.minutes += 5.0
            return f"{read(rng, self._state(_RAISED, base)[0])} @{self.minutes:.0f}min"
        if step == "a_ground":
            return "OL(40M)" if math.isinf(self.to_ground) else f"{self.to_ground * rng.gauss(1.0, 0.01) + 0.1:.3g}"
        if step == "ac_fast":
            return f"{self.per_1000 * _RAISED / 1000.0 * self.pairs[0] * rng.gauss(1.0, 0.015):.1f}"
        if step.startswith("ac_"):
            share = self.pairs[("ac_ab", "ac_bc", "ac_ca").index(step)]
            return f"{self.per_1000 * _IDLE / 1000.0 * share * rng.gauss(1.0, 0.015):.1f}"
        if step == "diodes":
            return self.diodes
        if step == "sense":
            return read(rng, self.regulated - 14.3 if self.fault == "sense" else 0.03) if self.senses else ""
        if step == "other_battery":
            return "comes up" if self.fault in ("battery_bad", "coming_up", NOTHING) else "no change"
        volts, amps = self._state(_RAISED, self.load)
        if step == "loaded":
            return read(rng, volts)
        if step == "cable_drop":
            return read(rng, rng.uniform(2.0, 30.0) if math.isinf(self.cable) and self.share else amps * min(self.cable, 1e6))
        if step == "ground_drop":
            return read(rng, amps * self.earth)
        raise KeyError(step)

    def deed(self, name: str) -> None:
        """Renew the plug's pins."""
        self.renewed = True
        if self.fault == "plug":
            self.share = 1.0

    @property
    def right(self) -> frozenset[str]:
        """What may be named."""
        return frozenset({{NOTHING: "none", "coming_up": "none", "stator_ground": "stator"}.get(self.fault, self.fault)})
