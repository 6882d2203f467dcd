"""The roster of any vehicle: the emission services on the numbers that ISO 15765-4 gives to whoever answers them.

Who is there is found by calling. What each tells are the values of `core/talk/emission.py`; codes mean what the standard says of them.
"""

from __future__ import annotations

from functools import cache

from ...base.brief import capitalized
from ...talk.emission import ANSWERED_FROM, LONG_PAIRS, VALUES
from .read import FORMAT, parse_roster
from .roster import Roster

__all__ = ["STANDARD_TITLE", "standard_roster", "standard_text"]

STANDARD_TITLE = "What any vehicle tells of its emissions"
_TITLES = {
    0x7E8: "Engine module", 0x7E9: "Gearbox module", 0x18DAF110: "Engine module (29 bits)", 0x18DAF118: "Gearbox module (29 bits)",
}  # fmt: skip


@cache
def standard_text() -> str:
    """The roster as its text."""
    lines = [
        f"format: {FORMAT}",
        f"title: {STANDARD_TITLE}",
        "note: Codes and data of the emission system, which need no roster. Outputs and what is the maker's own need one.",
        "source: SAE J1979, ISO 15765-4",
        "by_calling: true",
        "modules:",
    ]
    pairs = {number - 8: number for number in ANSWERED_FROM} | dict(LONG_PAIRS)
    for asks, number in pairs.items():
        title = _TITLES.get(number, f"Module {number:X}")
        lines += [f"  obd{number:x}:", f"    name: {title}", "    speaks: obd", f"    asks: {asks:#x}", f"    answers: {number:#x}"]
        lines.append("    data:")
        lines += [f"      v{value.number:02x}: {_datum(value.number)}" for value in VALUES.values()]
    return "\n".join(lines) + "\n"


def _datum(number: int) -> str:
    value = VALUES[number]
    own = {
        "name": f'"{capitalized(value.name)}"', "id": f"{number:#x}", "size": value.size, "signed": str(value.signed).lower(),
        "scale": repr(float(value.scale)), "offset": value.offset, "unit": f'"{value.unit}"', "digits": value.digits,
    }  # fmt: skip
    return "{" + ", ".join(f"{key}: {word}" for key, word in own.items()) + "}"


@cache
def standard_roster() -> Roster:
    """The roster."""
    return parse_roster(standard_text())
