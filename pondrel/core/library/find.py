"""What somebody looks for in the library: words anywhere on a sheet, or a pin of a plug."""

from __future__ import annotations

import re
from dataclasses import dataclass

__all__ = ["MOST_WORDS", "Wanted", "mentions_pin", "wanted"]

MOST_WORDS = 8
_PIN = re.compile(r"(?P<plug>[A-Za-z]{1,4}\d{0,3}[A-Za-z]?)\s*(?:\s+pin\s+|[:/]\s*)(?P<pin>[A-Za-z0-9]{1,4})(?=\s|$)", re.IGNORECASE)


@dataclass(frozen=True, slots=True)
class Wanted:
    """What is looked for: all of the ``words``, and all of the ``pins`` as plug and number."""

    words: tuple[str, ...]
    pins: tuple[tuple[str, str], ...]


def wanted(said: str) -> Wanted:
    """What is meant by a search.

    >>> wanted("glass C3 pin 7").pins, wanted("X1:4 rear").words
    ((('C3', '7'),), ('rear',))
    """
    pins = tuple((match["plug"], match["pin"]) for match in _PIN.finditer(said[:200]))
    return Wanted(tuple(_PIN.sub(" ", said[:200]).split()[:MOST_WORDS]), pins[:MOST_WORDS])


def mentions_pin(text: str, plug: str, pin: str) -> bool:
    """Whether a sheet's text has a pin of a plug: a place in that cavity, a pin of that part, or a contact of that name."""
    name, number = re.escape(plug), re.escape(pin)
    end = r"(?![\w.])"
    cavity = re.compile(rf"(?i)connector:\s*['\"]?{name}['\"]?{end}.*cavity:\s*['\"]?{number}['\"]?{end}")
    back = re.compile(rf"(?i)cavity:\s*['\"]?{number}['\"]?{end}.*connector:\s*['\"]?{name}['\"]?{end}")
    part = re.compile(rf"(?i)^\s*['\"]?{name}['\"]?:\s*\{{.*pins:\s*\{{[^}}]*['\"]?{number}[ab]?['\"]?:")
    contact = re.compile(rf"(?i)^\s*['\"]?{name}\.{number}['\"]?:")
    return any(pattern.search(line) for line in text.splitlines() for pattern in (cavity, back, part, contact))
