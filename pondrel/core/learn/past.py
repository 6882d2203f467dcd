"""Jobs that were proved, and where: what is learned from."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, field

__all__ = ["Here", "Past"]


@dataclass(frozen=True, slots=True)
class Here:
    """A circuit on a vehicle: what both are called, its ``family``, the vehicle's age in years (None where nobody knows), by part its kind
    and its shipped share of the circuit's faults, and by part and mode that mode's share of the part's own."""

    circuit: str
    family: str
    model: str
    years: float | None
    kinds: Mapping[str, str]
    shares: Mapping[str, float]
    modes: Mapping[str, Mapping[str, float]] = field(default_factory=dict)


@dataclass(frozen=True, slots=True)
class Past:
    """A proved job: where it was, the parts that were at fault, and by part the mode in which it was (only where that is known)."""

    job_id: int
    here: Here
    faulty: tuple[str, ...]
    modes: Mapping[str, str] = field(default_factory=dict)
