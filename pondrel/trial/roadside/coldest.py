"""How near the coldest start of the two-minute check comes on starts that ngspice simulates at every temperature.

A vehicle is checked warm; the coldest start is reckoned from that check. Then it is simulated colder and colder, with laws of its own for
acid, oil and copper, until the engine no longer reaches the speed, or its modules the volts, at which it fires. Numbers: common practice,
no source.

python -m pondrel.trial.roadside.coldest [vehicles] [seed]
"""

from __future__ import annotations

import random
import sys
from dataclasses import dataclass

from ...core.bench import case_from
from ...core.bench.verdict import outcome
from ...core.power import power_family
from .person import NOTHING
from .simulated import Simulated

__all__ = ["Checked", "checked"]

FIRES_RPM, FIRES_VOLTS = 90.0, 6.5  # of the crankshaft, and at the posts for its modules, from which on an engine fires
COLDEST, WARM = -40.0, (2.0, 25.0)  # °C: beyond which nothing is asked, and at which it is checked
WORN = (0.8, 5.5)  # times what a new battery has inside


@dataclass(frozen=True, slots=True)
class Checked:
    """One vehicle: how warm it was checked (°C), what was reckoned with its span, and down to which temperature it truly starts."""

    celsius: float
    reckoned: float
    low: float
    high: float
    truly: float

    @property
    def off(self) -> float:
        """Kelvins by which what was reckoned is too warm."""
        return self.reckoned - self.truly


def checked(count: int, seed: int) -> list[Checked]:
    """So many vehicles that start where they were checked; those that start at any cold are left out, since they say nothing."""
    rng = random.Random(f"coldest {seed}")
    found: list[Checked] = []
    while len(found) < count:
        vehicle = Simulated(NOTHING, random.Random(rng.randrange(1 << 30)))
        vehicle.worn, vehicle.celsius = rng.uniform(*WORN), rng.uniform(*WARM)
        warm = vehicle.celsius
        shown, fires = vehicle.shown(), _fires(vehicle)
        reckoned = _reckoned(shown["rest"], shown["bp"], warm)
        truly = _truly(vehicle) if fires else warm
        if COLDEST < truly < warm:
            found.append(Checked(warm, *reckoned, truly))
    return found


def _reckoned(rest: float, crank: float, celsius: float) -> tuple[float, float, float]:
    """The coldest start by the two-minute check, and the ends of its span."""
    reads = [(name, f"{volts:.2f}@{celsius:.1f}C") for name, volts in (("rest", rest), ("crank", crank))]
    family = power_family("health")
    figures = outcome(family, case_from(family, [], reads)).service.figures
    told = [figures[name] for name in ("coldest_c", "coldest_low_c", "coldest_high_c")]
    return float(told[0] or 0.0), float(told[1] or 0.0), float(told[2] or 0.0)


def _fires(vehicle: Simulated) -> bool:
    shown = vehicle.shown()
    return shown["rpm"] >= FIRES_RPM and shown["bp"] >= FIRES_VOLTS


def _truly(vehicle: Simulated) -> float:
    """The coldest temperature at which it still fires, by halving."""
    low, high = COLDEST, vehicle.celsius
    vehicle.celsius = low
    if _fires(vehicle):
        return low
    while high - low > 0.5:
        vehicle.celsius = (low + high) / 2.0
        low, high = (low, vehicle.celsius) if _fires(vehicle) else (vehicle.celsius, high)
    return high


def main() -> None:
    """Print how far off it is."""
    count, seed = (int(text) for text in (*sys.argv[1:], *("60", "1")[len(sys.argv) - 1 :]))
    found = checked(count, seed)
    off = sorted(one.off for one in found)
    within = sum(one.low <= one.truly <= one.high for one in found)
    late = sum(one.reckoned < one.truly - 5.0 for one in found)
    print(
        f"{len(found)} vehicles: off by {off[len(off) // 2]:+.0f} K in the middle, "
        f"{off[len(off) // 10]:+.0f} to {off[len(off) * 9 // 10]:+.0f} K "
        f"for eight of ten; in its span {within}; promised a start more than 5 K too cold {late}"
    )


if __name__ == "__main__":
    main()
