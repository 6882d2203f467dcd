"""One drop: volts lost at a current come to ohms, to heat where they are lost, and to what the load loses by them."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass

from ..base.brief import capitalized
from ..base.errors import MakingError
from ..base.judgement import judged
from ..base.melting import FIRE_WATTS
from ..base.quantity import show
from ..check.finding import Finding
from ..check.judge import judge
from ..check.limit import Limit

__all__ = ["STRETCHES", "Drop", "lost"]

# What may be lost at working current, by what lies between the leads. Common practice, no source.
STRETCHES: Mapping[str, float] = {
    "one connection": 0.1, "module ground": 0.1, "wire or switch": 0.2, "ground side of a heavy load": 0.3, "alternator output cable": 0.3,
    "supply side of the starter": 0.5,
}  # fmt: skip
LIGHT_POWER = judged(
    "LIGHT_POWER", 3.4, "power", "of its volts that a filament lamp's light goes with (from memory of lamp makers' handbooks)"
)
TORQUE_POWER = judged("TORQUE_POWER", 2.0, "power", "of its volts that a motor's stalling torque times its speed goes with")
PULL_POWER = judged("PULL_POWER", 2.0, "power", "of its volts that a solenoid's pull goes with")
LOADS: Mapping[str, tuple[float, str]] = {
    "lamp": (LIGHT_POWER, "of its light"), "motor": (TORQUE_POWER, "of its power"), "solenoid": (PULL_POWER, "of its pull"),
    "heater": (2.0, "of its heat"),
}  # fmt: skip
MOST_VOLTS, MOST_AMPS = 60.0, 2000.0


@dataclass(frozen=True, slots=True)
class Drop:
    """What a drop comes to: ``ohms`` between the leads, ``watts`` of heat there, the ``share`` of what the load does that is lost (None
    where nobody said what it is), the finding by the limit of such a stretch, and sentences."""

    ohms: float
    watts: float
    share: float | None
    finding: Finding
    says: tuple[str, ...]


def lost(
    volts: float, amps: float | None = None, watts: float | None = None, supply: float = 12.6, stretch: str = "wire or switch",
    load: str = "", resolution: float = 0.01,
) -> Drop:  # fmt: skip
    """What ``volts`` lost at ``amps`` mean, or in the line of a load of ``watts`` on ``supply`` volts; ``resolution`` is the worth of the
    reading's last digit. Raises MakingError with one sentence for what cannot be."""
    if not 0.0 <= volts <= MOST_VOLTS or volts >= supply:
        raise MakingError(
            f"{show(volts, 'V')} cannot be lost of {show(supply, 'V')}: give the volts between the two leads, fewer than the supply."
        )
    if stretch not in STRETCHES:
        raise MakingError(f"What lies between the leads is one of: {', '.join(STRETCHES)}.")
    if load and load not in LOADS:
        raise MakingError(f"What is fed is one of: {', '.join(LOADS)}.")
    if amps is None:
        if watts is None:
            raise MakingError("The current is missing: give amps, or the watts of what is fed.")
        amps = watts / supply
    if not 0.0 < amps <= MOST_AMPS:
        raise MakingError(f"The current is a number of amps up to {MOST_AMPS:g}, above zero: without current nothing is lost.")
    ohms, heat = volts / amps, volts * amps
    power, words = LOADS.get(load, (0.0, ""))
    share = 1.0 - ((supply - volts) / supply) ** power if load else None
    limit = Limit("V", most=STRETCHES[stretch], source=f"common practice: {stretch}")
    finding = judge(limit, volts, resolution)
    says = [f"{show(volts, 'V')} at {show(amps, 'A')} are {show(ohms, 'Ω')} and make {show(heat, 'W')} of heat there."]
    if heat >= FIRE_WATTS:
        says.append(f"From {FIRE_WATTS:g} W on one pin or terminal scorches its plastic: see to it before it burns.")
    if share is not None:
        says.append(f"The {load} gets {show(supply - volts, 'V')} and loses {100 * share:.0f} % {words}.")
    says.append(f"{capitalized(finding.says)}. {finding.next}")
    return Drop(ohms, heat, share, finding, tuple(says))
