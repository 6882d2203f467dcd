"""What may never be defeated: functions that keep people from harm, recognised by what a part, its circuit or the complaint is called.

Common practice without a source; local codes and the maker's instructions go before it.
"""

from __future__ import annotations

import re
from collections.abc import Mapping

__all__ = ["safety_function"]

_FUNCTIONS: Mapping[str, str] = {
    "brakes": r"brak\w*|abs\b|anti.?lock|stability control",
    "steering": r"steer\w*|column lock",
    "the pedal that drives it": r"pedal|accelerator|throttle",
    "a drive that stops by itself": r"stall\w*|(?:cuts|dies|quits|drops)(?: out)? (?:while|when|under) (?:driv\w*|way|load)",
    "airbags and belts": r"air.?bag\w*|pretensioner\w*|squib|seat.?belt\w*|restraint",
    "crash and emergency cut-off": r"crash\w*|inertia\b|emergency|e-stop",
    "high voltage and its interlock": r"high.voltage|interlock\w*|traction battery|isolation monitor",
    "a lock that holds people or loads": r"dead.?man\w*|door (?:release|interlock)|park(?:ing)? lock|neutral switch|clutch switch",
}
_FIND = {title: re.compile(rf"\b(?:{words})", re.IGNORECASE) for title, words in _FUNCTIONS.items()}


def safety_function(*texts: str) -> str:
    """The safety function that texts speak of, empty for none.

    >>> safety_function("brake light switch")
    'brakes'
    """
    whole = " . ".join(texts)
    return next((title for title, find in _FIND.items() if find.search(whole)), "")
