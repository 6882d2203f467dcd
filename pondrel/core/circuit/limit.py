"""A sheet's limits: what a reading must lie between, at which temperature, and who says so."""

from __future__ import annotations

from dataclasses import dataclass

from ..base.conductor import copper_ohms_at

__all__ = ["WHATS", "Limit"]

WHATS = {"volts": "V", "drop": "V", "ohms": "Ω", "amps": "A"}


@dataclass(frozen=True, slots=True)
class Limit:
    """One limit. ``what``: volts at a node against battery minus, drop from one node to another, ohms of a part or between two nodes,
    amps through a part. ``least`` and ``most`` in SI, infinite where there is none; ``temperature`` in °C where it matters."""

    what: str
    start: str
    end: str
    of: str
    state: str
    least: float
    most: float
    source: str
    temperature: float | None = None
    note: str = ""

    @property
    def unit(self) -> str:
        """Unit of what is limited."""
        return WHATS[self.what]

    @property
    def where(self) -> str:
        """Where it is measured, in words."""
        return self.of or (f"{self.start} to {self.end}" if self.end else self.start)

    def keeps(self, value: float) -> bool:
        """Whether a value lies within."""
        return self.least <= value <= self.most

    def at_temperature(self, celsius: float) -> Limit:
        """The same limit of a copper winding at another temperature; as it is where it names none."""
        if self.temperature is None or self.what != "ohms":
            return self
        factor = copper_ohms_at(1.0, celsius) / copper_ohms_at(1.0, self.temperature)
        return Limit(
            self.what, self.start, self.end, self.of, self.state, self.least * factor, self.most * factor, self.source, celsius, self.note
        )
