"""What a step in growing a sheet is."""

from __future__ import annotations

from collections.abc import Callable, Mapping
from dataclasses import dataclass

from ..asked import Asked
from ..document import Document

__all__ = ["Given", "Outcome", "Step"]

Given = Mapping[str, str]


@dataclass(frozen=True, slots=True)
class Outcome:
    """What a step did, in ``words`` for the list of steps, and the part, node or state that is looked at next, empty for none."""

    words: str
    part: str = ""
    node: str = ""
    state: str = ""


@dataclass(frozen=True, slots=True)
class Step:
    """A way to change a sheet: ``name``, what it is called on a button, what it is done ``on`` (``part``, ``node``, ``state`` or
    ``sheet``), whether
    it ``fits`` a subject, what it ``asks`` (an empty answer is always taken as usual), and how it is done.

    ``do(document, subject, given)`` changes the document and may raise MakingError with one sentence.
    """

    name: str
    title: str
    on: str
    do: Callable[[Document, str, Given], Outcome]
    fits: Callable[[Document, str], bool] = lambda document, subject: True
    asks: Callable[[Document, str], tuple[Asked, ...]] = lambda document, subject: ()
