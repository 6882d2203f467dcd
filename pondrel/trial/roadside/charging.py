"""A vehicle whose charging is looked at: an alternator by its speed, belt, field and what is switched on, and a battery that is filled."""

from __future__ import annotations

import math
import random
from dataclasses import dataclass

from .person import NOTHING, SURFACE, charging_emf, lognormal, read, slips

__all__ = ["CHARGE_FAULTS", "Charging"]

CHARGE_FAULTS = ("excitation", "belt", "cable", "ground", "alternator", "diode", "regulator_high", "sense", "load", "coming_up", NOTHING)


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
        self.regulated = rng.uniform(15.3, 16.5) if self.fault in ("regulator_high", "sense") else rng.uniform(13.9, 14.5)
        self.senses = self.fault == "sense" or rng.random() < 0.4
        self.cable = lognormal(rng, 1.5e-3, 0.3) * (rng.uniform(20.0, 200.0) if self.fault == "cable" else 1.0)
        self.earth = lognormal(rng, 0.7e-3, 0.3) * (rng.uniform(30.0, 300.0) if self.fault == "ground" else 1.0)
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
        rested = 11.75 + 0.9 * self.charge
        path = self.cable + self.earth
        # The battery takes what is left; the regulator holds its own volts.
        emf, inner = charging_emf(rested, self.regulated, self.minutes, slow), 0.012 + 0.02 * self.charge
        amps = min(most, (self.regulated - emf + load * inner) / (inner + path))
        if amps >= load:
            return emf + (amps - load) * inner, amps
        # It gives instead: what the charging left on its plates is gone in a moment.
        emf, inner = rested + SURFACE, 0.012
        amps = max(min(most, (self.regulated - emf + load * inner) / (inner + path)), 0.0)
        return emf - (load - amps) * (inner + 0.0006 * self.minutes), amps

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
            return "sound" if slips(rng) else self.belt_word
        if step == "rest":
            return read(self.rng, 11.85 + 0.8 * self.charge)
        if step == "raised":
            self.minutes = max(self.minutes, 1.0)
            return read(self.rng, self._state(2000.0, base)[0])
        if step == "trend":
            self.minutes += 5.0
            return f"{read(self.rng, self._state(2000.0, base)[0])} @{self.minutes:.0f}min"
        volts, amps = self._state(2000.0, self.load)
        if step == "loaded":
            return read(self.rng, volts)
        if step == "cable_drop":
            return read(self.rng, amps * self.cable if amps > 0.0 or self.fault != "cable" else 0.4)
        if step == "ground_drop":
            return read(self.rng, amps * self.earth)
        if step == "sense":
            return read(rng, self.regulated - 14.2 if self.fault == "sense" else 0.02) if self.senses else ""
        if step == "excitation":
            return read(self.rng, rng.uniform(0.0, 6.0) if self.fault == "excitation" else 12.2)
        if step == "amps":
            return f"{max(amps * rng.gauss(1.0, 0.03), 0.0):.0f}"
        if step == "ripple":
            return f"{rng.uniform(0.8, 2.0) if self.fault == 'diode' else rng.uniform(0.05, 0.25):.2f}"
        raise KeyError(step)

    def deed(self, name: str) -> None:
        """Tension the belt."""
        self.tightened, self.slip, self.belt_word = self.fault == "belt", 0.0, "sound"

    @property
    def right(self) -> frozenset[str]:
        """What may be named."""
        return frozenset({{NOTHING: "none", "coming_up": "none"}.get(self.fault, self.fault)})
