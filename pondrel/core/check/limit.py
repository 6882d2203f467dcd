"""Limits: what a number must lie between, under which conditions, and who says so."""

from __future__ import annotations

import math
from dataclasses import dataclass, field

from ..base.conditions import Conditions, Units
from ..base.quantity import show

__all__ = ["KINDS", "Limit", "around", "kind_of_source", "spelled"]

# Whose word a limit is, in the order in which they are believed.
KINDS = ("maker", "standard", "given", "known-good twin", "common practice", "half remembered")


@dataclass(frozen=True, slots=True)
class Limit:
    """From ``least`` to ``most`` in ``unit`` (V, Ω, A and others, SI), infinite where there is no edge; the ``conditions`` that it holds
    under; ``source`` in words and its ``kind``, one of `KINDS`."""

    unit: str
    least: float = -math.inf
    most: float = math.inf
    source: str = ""
    kind: str = "common practice"
    conditions: Conditions = field(default_factory=Conditions)

    def keeps(self, value: float) -> bool:
        """Whether a value lies within."""
        return self.least <= value <= self.most

    def beyond(self, value: float) -> float:
        """How far a value lies outside, negative by how far it lies within its nearer edge.

        >>> Limit("V", 11.5, 14.7).beyond(15.0)
        0.3000000000000007
        """
        return max(self.least - value, value - self.most)


def around(
    nominal: float, percent: float, unit: str, source: str = "", kind: str = "common practice", conditions: Conditions | None = None
) -> Limit:
    """The limit of a nominal value give or take a percentage of it.

    >>> around(13.0, 10.0, "Ω").most
    14.3
    """
    part = abs(nominal) * percent / 100.0
    return Limit(unit, nominal - part, nominal + part, source, kind, conditions or Conditions())


def kind_of_source(source: str) -> str:
    """Whose word a limit is by how its source is written, where nobody says it: the maker's, unless it begins otherwise."""
    said = source.strip().lower()
    own = next((kind for kind in ("common practice", "half remembered") if said.startswith(kind)), "")
    if own:
        return own
    if said.startswith(("iso ", "iec ", "sae ", "din ", "en ", "jaso ", "astm ")):
        return "standard"
    return "known-good twin" if said.startswith(("twin", "known-good", "known good", "other side", "good side")) else "maker"


def spelled(limit: Limit, units: Units | None = None) -> str:
    """A limit in words with its source: ``at most 100 mV (common practice: one connection)``.

    >>> spelled(Limit("Ω", 35.0, 41.0, "valve data sheet", "maker", Conditions(celsius=20.0)))
    '35.0 Ω to 41.0 Ω @20°C (valve data sheet)'
    """
    least, most = (show(v, limit.unit) if math.isfinite(v) else "" for v in (limit.least, limit.most))
    span = f"{least} to {most}" if least and most else f"at most {most}" if most else f"at least {least}"
    under = f" {limit.conditions.shown(units)}" if limit.conditions else ""
    return f"{span}{under} ({limit.source or limit.kind})"
