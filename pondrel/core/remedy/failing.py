"""How a part failed, as far as that decides what can mend it."""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import dataclass

from ..bench.judged import Judged
from ..check import Verdict
from ..circuit.sheet import Part

__all__ = ["UNKNOWN", "Failure", "failure_of", "failure_on_the_bench"]

WINDING = "winding"  # of a coil whose ohms are wrong on the bench: no mode of a circuit's part, but as little to be cleaned away
_WOUND = frozenset({"coil"})


@dataclass(frozen=True, slots=True)
class Failure:
    """The ``mode`` in which a part failed, in the words of its kind; both empty where nobody knows."""

    mode: str = ""
    words: str = ""


UNKNOWN = Failure()


def failure_of(part: Part, mode: str) -> Failure:
    """That of a part of a circuit."""
    return next((Failure(own.name, own.words) for own in part.modes if own.name == mode), UNKNOWN)


def failure_on_the_bench(built: str, findings: Iterable[Judged]) -> Failure:
    """What a check of the part by itself says: ohms outside their limits are the winding's own, in a part that is little else."""
    wrong = any(one.verdict is Verdict.OUTSIDE and one.unit == "Ω" for one in findings)
    return Failure(WINDING, "its winding measures wrong") if wrong and built in _WOUND else UNKNOWN
