"""The two shapes of evidence: a reading, which is a number, and an observation, which is one of a few words."""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import dataclass, field

from ..base.conditions import Conditions
from ..base.quantity import Measured
from ..meter.instrument import Instrument, instrument, standard_uncertainty
from .asked import Measurement, Question

__all__ = ["Item", "Observation", "Reading", "observations", "readings"]


@dataclass(frozen=True, slots=True)
class Observation:
    """Evidence without a number: its sort (``kind``), the ``subject`` and its ``outcome``; ``state`` where it matters, else empty."""

    kind: str
    subject: str
    outcome: str
    state: str = ""
    note: str = ""

    @property
    def test(self) -> Question:
        """What was asked, without its answer."""
        return Question(self.kind, self.subject, self.state)


@dataclass(frozen=True, slots=True)
class Reading:
    """One number from one instrument: red and black lead on two nodes, the sheet in a state.

    ``ohms`` readings are taken with the battery disconnected; ``amps`` with the meter in line between red and black, in place of
    whatever joins those two directly (the fuse pulled, the plug parted). ``elsewhere`` is a reading from the same point of a circuit that
    is known to be good, on the same supply: nothing is wrong there. ``without`` names parts that were unplugged.
    """

    state: str
    instrument: str
    red: str
    black: str
    measured: Measured
    note: str = ""
    kind: str = "reading"
    elsewhere: bool = False
    without: tuple[str, ...] = ()
    conditions: Conditions = field(default_factory=Conditions)

    @property
    def test(self) -> Measurement:
        """The measurement without its outcome."""
        return Measurement(self.state, self.instrument, self.red, self.black, self.without)

    @property
    def meter(self) -> Instrument:
        """The instrument's data."""
        return instrument(self.instrument)

    @property
    def uncertainty(self) -> float:
        """Standard uncertainty of the number, in its SI unit."""
        return standard_uncertainty(self.meter, self.measured)


Item = Reading | Observation


def readings(items: Iterable[Item]) -> tuple[Reading, ...]:
    """The items that are numbers."""
    return tuple(item for item in items if isinstance(item, Reading))


def observations(items: Iterable[Item]) -> tuple[Observation, ...]:
    """The items that are words."""
    return tuple(item for item in items if isinstance(item, Observation))
