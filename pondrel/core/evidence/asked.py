"""What can be asked of a circuit: a measurement, or a question that words answer; and how the circuit stands meanwhile."""

from __future__ import annotations

from dataclasses import dataclass
from functools import lru_cache

from ..meter.instrument import instrument

__all__ = ["Measurement", "Question", "Setup"]


@dataclass(frozen=True, slots=True)
class Setup:
    """How the circuit stands while it is measured: the state; live (``volts``) or with the battery off (``ohms``); or with what draws
    current or stands in line (``amps``, ``lamp``, ``load``) between two nodes. ``without`` names parts that are unplugged."""

    state: str
    instrument: str
    between: tuple[str, str] | None = None
    without: tuple[str, ...] = ()


@lru_cache(1024)
def _setup(state: str, instrument: str, without: tuple[str, ...]) -> Setup:
    """One with no meter in the circuit: of the same few the tests of a sheet ask very often."""
    return Setup(state, instrument, None, without)


@dataclass(frozen=True, slots=True, order=True)
class Measurement:
    """A measurement: a state, an instrument, and the nodes under red and black; ``without`` names parts that are unplugged for it."""

    state: str
    instrument: str
    red: str
    black: str
    without: tuple[str, ...] = ()

    @property
    def kind(self) -> str:
        """The sort of evidence that it gives."""
        return "reading"

    @property
    def setup(self) -> Setup:
        """How the circuit stands for it."""
        tool = instrument(self.instrument)
        if tool.in_circuit:
            return Setup(self.state, tool.name, (self.red, self.black), self.without)
        return _setup(self.state, "ohms" if tool.dead else "volts", self.without)

    @property
    def dead(self) -> bool:
        """Whether it wants the battery off."""
        return self.setup.instrument == "ohms"


@dataclass(frozen=True, slots=True, order=True)
class Question:
    """What can be found out without a number: a sort of evidence, its subject, and the state where it matters."""

    kind: str
    subject: str
    state: str = ""

    @property
    def instrument(self) -> str:
        """Stands where a test's instrument does."""
        return self.kind

    @property
    def red(self) -> str:
        """Stands where a test's first place does."""
        return self.subject

    @property
    def black(self) -> str:
        """There is no second place."""
        return ""

    @property
    def dead(self) -> bool:
        """Nothing is switched off for it."""
        return False
