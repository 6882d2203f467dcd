"""Readings taken again after a repair."""

from __future__ import annotations

from dataclasses import dataclass

from ..check import Finding, Verdict
from ..evidence.items import Reading

__all__ = ["Cured", "Retaken"]


@dataclass(frozen=True, slots=True)
class Retaken:
    """A reading beside what a sound circuit would show there (``should``, from ``low`` to ``high``, SI), what the sheet's limits say of it,
    and the ``verdict``: by its limit where there is one, else by how far it is from what it should be."""

    reading: Reading
    should: float
    low: float
    high: float
    findings: tuple[Finding, ...]
    verdict: Verdict


@dataclass(frozen=True, slots=True)
class Cured:
    """The readings, and the chance that the parts found are sound now: nothing else is weighed against them."""

    readings: tuple[Retaken, ...]
    chance: float
