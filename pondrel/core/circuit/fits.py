"""Which vehicles a sheet or limit is for: other years and other options are other systems."""

from __future__ import annotations

import re
from collections.abc import Sequence
from dataclasses import dataclass

__all__ = ["Fit", "misfit"]

_WORDS = re.compile(r"[a-z0-9]+")


@dataclass(frozen=True, slots=True)
class Fit:
    """One vehicle that something fits: ``make``, ``model``, years ``since`` and ``until`` (both counted in), ``options`` that it must have;
    what is empty or None is left open."""

    make: str = ""
    model: str = ""
    since: int | None = None
    until: int | None = None
    options: tuple[str, ...] = ()

    @property
    def says(self) -> str:
        """In a few words: ``Quessel Hop 16, 2015 to 2021, with second battery``."""
        years = {
            (True, True): f"{self.since} to {self.until}" if self.since != self.until else f"{self.since}",
            (True, False): f"from {self.since} on",
            (False, True): f"up to {self.until}",
        }.get((self.since is not None, self.until is not None), "")
        name = " ".join(filter(None, (self.make, self.model)))
        return ", ".join(filter(None, (name, years, f"with {' and '.join(self.options)}" if self.options else "")))

    def against(self, make: str, model: str, year: int | None, options: str) -> str:
        """What speaks against a vehicle, in words; empty where nothing that is known of it does."""
        if self.make and make and not _alike(self.make, make):
            return f"it is a {make}"
        if self.model and model and not _alike(self.model, model):
            return f"it is a {model}"
        if year is not None and ((self.since is not None and year < self.since) or (self.until is not None and year > self.until)):
            return f"it is from {year}"
        missing = [option for option in self.options if options and not _words(option) <= _words(options)]
        return f"nothing is written down of {' and '.join(missing)}" if missing else ""


def misfit(fits: Sequence[Fit], make: str, model: str, year: int | None, options: str) -> str:
    """Why something that fits some vehicles is not for this one: ``is for Quessel Hop 16, 2015 to 2021, and it is from 2012``; empty where
    one of them may be it, or where nothing is said."""
    against = [fit.against(make, model, year, options) for fit in fits]
    if not fits or not all(against):
        return ""
    return f"is for {' or '.join(fit.says for fit in fits)}, and {against[0]}"


def _alike(one: str, other: str) -> bool:
    """Whether two names mean the same: one's words are all among the other's."""
    here, there = _words(one), _words(other)
    return here <= there or there <= here


def _words(text: str) -> frozenset[str]:
    return frozenset(_WORDS.findall(text.lower()))
