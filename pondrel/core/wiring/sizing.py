"""The section for a length, a current and a permitted drop, and the largest fuse that may stand before it.

The drop is U = I·R(l, A, T), with the copper as warm as its own current makes it. A wire carries less in a bundle and where it is hot: the
heat that it may make goes with the square of its current and with how far it may warm up, so its current goes with the root of
(most − ambient)/(most − 30 °C), as the correction factors of IEC 60364-5-52 do (from memory); the factors of bundles are common practice.
"""

from __future__ import annotations

import math
from collections.abc import Mapping
from dataclasses import dataclass

from ..base.conductor import LARGEST_FUSE, copper_ohms_at, metric_ohms_per_metre
from ..base.errors import MakingError
from ..base.judgement import judged
from ..base.quantity import show

__all__ = ["BUNDLES", "FUSES", "Asked", "Choice", "Sizing", "sized"]

MOST_CELSIUS = judged("WIRE_MOST_CELSIUS", 105.0, "°C", "what the insulation of vehicle wire bears")
LIES_AT_CELSIUS = 30.0  # at which the table of largest fuses holds
FUSE_SHARE = judged("FUSE_LASTING_SHARE", 0.8, "share", "of its rating that a fuse carries lastingly")
# How much of its current a wire may carry beside others that carry theirs. Common practice, no source.
BUNDLES: Mapping[str, float] = {"by itself": 1.0, "2 to 4 together": 0.8, "5 to 10 together": 0.65, "more than 10": 0.5}
FUSES = (
    1.0,
    2.0,
    3.0,
    4.0,
    5.0,
    7.5,
    10.0,
    15.0,
    20.0,
    25.0,
    30.0,
    40.0,
    50.0,
    60.0,
    70.0,
    80.0,
    100.0,
    125.0,
    150.0,
    175.0,
    200.0,
    250.0,
    300.0,
)
TABLE_SOURCE = "common practice, no source: the maker's own figure goes before"


@dataclass(frozen=True, slots=True)
class Asked:
    """What a wire is wanted for: ``metres`` one way, ``amps`` lastingly, on ``supply`` volts; ``drop`` volts that may be lost on the way
    there, and back where the return is a wire as long (``both_ways``); in which of `BUNDLES`, where it is ``celsius`` warm.

    Raises MakingError with one sentence for what cannot be.
    """

    metres: float
    amps: float
    supply: float = 12.6
    drop: float = 0.0
    both_ways: bool = False
    bundle: str = "by itself"
    celsius: float = LIES_AT_CELSIUS

    def __post_init__(self) -> None:
        for value, most, words in (
            (self.metres, 100.0, "The length is a number of metres up to 100"),
            (self.amps, 500.0, "The current is a number of amps up to 500"),
            (self.supply, 60.0, "The supply is a number of volts up to 60"),
        ):
            if not 0.0 < value <= most:
                raise MakingError(f"{words}, above zero.")
        if not 0.0 <= self.drop < self.supply:
            raise MakingError("The volts that may be lost are fewer than the supply has.")
        if self.bundle not in BUNDLES:
            raise MakingError(f"How it lies is one of: {', '.join(BUNDLES)}.")
        if not -40.0 <= self.celsius < MOST_CELSIUS:
            raise MakingError(f"Where it lies it is from -40 to below {MOST_CELSIUS:g} °C: hotter than that no usual insulation bears.")

    @property
    def permitted(self) -> float:
        """The volts that may be lost: 3 % of the supply where nobody said."""
        return self.drop or round(0.03 * self.supply, 3)


@dataclass(frozen=True, slots=True)
class Choice:
    """A section: what it loses at the current, how warm its copper gets, the most current it may carry there, the ``fuse`` that both lets
    the load run and protects the wire (None where no usual rating does), and the ``largest`` that may stand before it. ``against`` says why
    it will not do, empty where it will."""

    section: float
    volts: float
    celsius: float
    carries: float
    fuse: float | None
    largest: float
    against: str


@dataclass(frozen=True, slots=True)
class Sizing:
    """The thinnest section that will do, None where none of the table does, all others beside it, and a sentence."""

    asked: Asked
    chosen: Choice | None
    choices: tuple[Choice, ...]
    says: str
    source: str


def sized(asked: Asked) -> Sizing:
    """The section for what is asked."""
    choices = tuple(_choice(asked, section) for section in LARGEST_FUSE)
    chosen = next((choice for choice in choices if not choice.against), None)
    if chosen is None:
        says = f"No section up to {max(LARGEST_FUSE):g} mm² will do: {choices[-1].against}. Shorten the way, or move the supply nearer."
    else:
        volts, most = show(chosen.volts, "V"), show(asked.permitted, "V")
        says = (
            f"{chosen.section:g} mm²: it loses {volts} of {most}, its copper gets {chosen.celsius:.0f} °C warm, and a fuse of "
            f"{chosen.fuse:g} A protects it."
        )
    return Sizing(asked, chosen, choices, says, TABLE_SOURCE)


def _choice(asked: Asked, section: float) -> Choice:
    hotter = math.sqrt((MOST_CELSIUS - asked.celsius) / (MOST_CELSIUS - LIES_AT_CELSIUS))
    carries = LARGEST_FUSE[section] * BUNDLES[asked.bundle] * hotter
    warm = asked.celsius + (MOST_CELSIUS - asked.celsius) * min((asked.amps / carries) ** 2, 4.0)
    ohms = copper_ohms_at(metric_ohms_per_metre(section), warm) * asked.metres * (2.0 if asked.both_ways else 1.0)
    volts = asked.amps * ohms
    largest = max((rating for rating in FUSES if rating <= carries + 1e-9), default=0.0)
    fuse = next((rating for rating in FUSES if rating * FUSE_SHARE >= asked.amps - 1e-9 and rating <= largest), None)
    against = ""
    if asked.amps > carries:
        against = f"it carries {carries:.1f} A there, and {asked.amps:g} A are wanted"
    elif fuse is None:
        against = f"a fuse that carries {asked.amps:g} A lastingly is too big for it"
    elif volts > asked.permitted + 1e-9:
        against = f"it loses {show(volts, 'V')}, and {show(asked.permitted, 'V')} may be lost"
    return Choice(section, volts, warm, carries, fuse, largest, against)
