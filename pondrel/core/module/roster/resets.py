"""What a roster says of waking a module by taking its supply away."""

from __future__ import annotations

from dataclasses import dataclass

__all__ = ["Resets"]


@dataclass(frozen=True, slots=True)
class Resets:
    """How many seconds it is said to need without supply, and how many to wake (0: nobody says); which fuse or plug that is (``by``), what
    it ``forgets``, what it ``acts_on`` while the vehicle can move (empty: on nothing), and the ``source`` of all that."""

    off_s: float = 0.0
    wakes_s: float = 0.0
    by: str = ""
    forgets: str = ""
    acts_on: str = ""
    source: str = ""
