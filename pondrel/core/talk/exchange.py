"""One question of a tester and what came of it, as it goes into the record."""

from __future__ import annotations

from dataclasses import dataclass

__all__ = ["Exchange"]


@dataclass(frozen=True, slots=True)
class Exchange:
    """A request and its answer: ``at`` seconds since the talk began, the ``module`` by name, both as bytes; ``answer`` is empty where none
    came, and ``fault`` says why; ``seconds`` until the answer."""

    at: float
    module: str
    request: bytes
    answer: bytes
    seconds: float
    fault: str = ""
