"""What a check by itself comes to: findings with their reasons, what they mean in service, what to do next, and a chart of it."""

from __future__ import annotations

import math
from collections.abc import Mapping
from dataclasses import dataclass, field

from ..check import Limit, Verdict

__all__ = [
    "Band",
    "Chart",
    "Dot",
    "Figures",
    "FuseBox",
    "FuseSeen",
    "Judged",
    "Line",
    "Outcome",
    "PinSeen",
    "School",
    "Service",
    "Socket",
    "limit_json",
]

Figure = float | str | bool | None
Figures = dict[str, Figure]


def _figure(value: Figure) -> Figure:
    """A figure as JSON can hold it."""
    return "OL" if isinstance(value, float) and math.isinf(value) else value


def limit_json(limit: Limit | None) -> dict[str, object] | None:
    """A limit as the command line writes it; None where an edge is missing."""
    if limit is None:
        return None
    low, high = (edge if math.isfinite(edge) else None for edge in (limit.least, limit.most))
    return {"low": low, "high": high, "unit": limit.unit, "at_c": limit.conditions.celsius, "kind": limit.kind, "source": limit.source}


@dataclass(frozen=True, slots=True)
class Judged:
    """One check. ``value`` is as it was read (a word, or a number in ``unit``; infinite for over range), ``uncertainty`` one standard
    deviation of it, ``brought`` the number at the limit's conditions where it was brought there and ``at_c`` that temperature, ``guard``
    the half-width of the strip at an edge in which the meter cannot decide; ``because`` the reason in one sentence, ``then`` what to do."""

    check: str
    verdict: Verdict
    value: float | str
    unit: str
    because: str
    uncertainty: float | None = None
    brought: float | None = None
    at_c: float | None = None
    limit: Limit | None = None
    guard: float = 0.0
    then: str = ""

    def as_json(self) -> dict[str, object]:
        """As the command line writes it."""
        brought = None if self.brought is None else {"value": self.brought, "at_c": self.at_c}
        return {
            "check": self.check, "verdict": str(self.verdict), "value": _figure(self.value), "unit": self.unit,
            "uncertainty": self.uncertainty, "brought_to": brought, "limit": limit_json(self.limit), "because": self.because,
        }  # fmt: skip


@dataclass(frozen=True, slots=True)
class School:
    """One way to judge a part: what it goes by, what it saw, whose word that is, and what it says; None where it was not asked."""

    name: str
    shows: str
    source: str
    verdict: Verdict | None


@dataclass(frozen=True, slots=True)
class Service:
    """What the part does on the vehicle: figures by name (SI) and sentences."""

    figures: Mapping[str, Figure] = field(default_factory=dict)
    says: tuple[str, ...] = ()

    def as_json(self) -> dict[str, object]:
        """As the command line writes it."""
        return {**{name: _figure(value) for name, value in self.figures.items()}, "says": list(self.says)}


@dataclass(frozen=True, slots=True)
class Line:
    """A curve through ``points`` with the name that stands at its end; its ``role`` is ``read``, ``good`` or ``suspect``."""

    name: str
    points: tuple[tuple[float, float], ...]
    role: str = "read"


@dataclass(frozen=True, slots=True)
class Band:
    """Where the numbers upright should be, from ``low`` to ``high``."""

    name: str
    low: float
    high: float


@dataclass(frozen=True, slots=True)
class Dot:
    """A reading; ``off`` where it is one that should not be."""

    x: float
    y: float
    off: bool = False


@dataclass(frozen=True, slots=True)
class Chart:
    """A drawing in numbers: what lies along and upright with their units, curves, bands, dots, and one gap between two heights at a place
    along with what is written there."""

    title: str
    along: tuple[str, str]
    upright: tuple[str, str]
    lines: tuple[Line, ...] = ()
    bands: tuple[Band, ...] = ()
    dots: tuple[Dot, ...] = ()
    gap: tuple[float, float, float, str] | None = None
    decades: bool = False


@dataclass(frozen=True, slots=True)
class PinSeen:
    """A pin of a socket: its number and function, where it sits seen from the mating side (−1 to 1), and what was found there (None for
    nothing)."""

    number: str
    function: str
    x: float
    y: float
    verdict: Verdict | None


@dataclass(frozen=True, slots=True)
class Socket:
    """A socket with what was found on its pins, and what must be wired otherwise: function, from pin, to pin."""

    title: str
    pins: tuple[PinSeen, ...]
    moves: tuple[tuple[str, str, str], ...]


@dataclass(frozen=True, slots=True)
class FuseSeen:
    """A fuse of a box: what it is for, its type and rating, amperes through it with one standard deviation, and what came of that."""

    circuit: str
    kind: str
    rating: float
    amps: float
    u: float
    verdict: Verdict


@dataclass(frozen=True, slots=True)
class FuseBox:
    """The fuses in the order of the box, amperes by a clamp on the battery's lead (None where there was none), and what came of what no
    fuse carries (None without a clamp)."""

    fuses: tuple[FuseSeen, ...]
    clamp: float | None
    rest: Verdict | None

    @property
    def total(self) -> float:
        """Amperes of all fuses together."""
        return sum(fuse.amps for fuse in self.fuses)


@dataclass(frozen=True, slots=True)
class Outcome:
    """What a check comes to as a whole; ``untested`` are needed checks that were not made."""

    family: str
    verdict: Verdict
    findings: tuple[Judged, ...]
    untested: tuple[str, ...]
    service: Service
    next: tuple[str, ...]
    schools: tuple[School, ...] = ()
    differ: str = ""
    chart: Chart | None = None
    socket: Socket | None = None
    fuse_box: FuseBox | None = None

    def number(self, check: str) -> tuple[float | None, str]:
        """The number by which it stands beside others of its sort, and its unit: that of a check at its limit's conditions; None and an
        empty unit where there is none."""
        lead = next((found for found in self.findings if found.check == check), None)
        if lead is None or isinstance(lead.value, str):
            return None, ""
        value = lead.value if lead.brought is None else lead.brought
        return (value if math.isfinite(value) else None), lead.unit

    def as_json(self) -> dict[str, object]:
        """The command line's answer."""
        return {
            "family": self.family, "verdict": str(self.verdict), "findings": [found.as_json() for found in self.findings],
            "untested": list(self.untested), "in_service": self.service.as_json(), "next": list(self.next),
            "schools": [
                {"school": s.name, "shows": s.shows, "source": s.source, "verdict": None if s.verdict is None else str(s.verdict)}
                for s in self.schools
            ],
            "differ": self.differ or None,
        }  # fmt: skip
