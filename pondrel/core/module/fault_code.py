"""A fault code taken apart: system, who defines it, group, and the failure word of its failure type byte.

Structure by SAE J2012 / ISO 15031-6: a letter and four hexadecimal digits are two bytes, the first two bits of which choose the letter; a
third byte says how it failed. The words of groups and failure types are given from memory of those standards' tables, in our own wording.
"""

from __future__ import annotations

import re
from collections.abc import Mapping
from dataclasses import dataclass

from ..base.brief import quoted
from ..base.errors import PondrelError
from .failure_type import FAILURE_GROUPS, FAILURE_TYPES

__all__ = ["FLASH", "STATUSES", "CodeError", "FaultCode", "code_from_bytes", "parse_code"]

SYSTEMS: Mapping[str, str] = {"P": "powertrain", "C": "chassis", "B": "body", "U": "network"}
STATUSES = ("present", "stored", "pending", "permanent", "history", "")
FLASH = "flash"
_CODE = re.compile(r"([PCBU])([0-3])([0-9A-F]{3})(?:[-:/ ]?([0-9A-F]{2}))?", re.IGNORECASE)
_FLASH = re.compile(r"flash\s*(\d{1,2})(?:\s*[-.]\s*(\d{1,2}))?", re.IGNORECASE)
# By letter and the first digits: what the code is about. The longest beginning that fits counts.
_GROUPS: Mapping[str, str] = {
    "P00": "fuel and air metering, auxiliary emission control", "P01": "fuel and air metering", "P02": "fuel and air metering, injectors",
    "P03": "ignition or misfire", "P04": "auxiliary emission control", "P05": "speed, idle and auxiliary inputs",
    "P06": "computer and auxiliary outputs", "P07": "transmission", "P08": "transmission", "P09": "transmission",
    "P0A": "electric drive", "P0B": "electric drive", "P0C": "electric drive", "P20": "fuel and air metering, auxiliary emission control",
    "P21": "fuel and air metering, auxiliary emission control", "P22": "fuel and air metering, auxiliary emission control",
    "P23": "ignition or misfire", "P24": "auxiliary emission control", "P25": "auxiliary inputs", "P26": "computer and auxiliary outputs",
    "P27": "transmission", "P29": "fuel and air metering", "P34": "cylinders switched off", "U00": "the bus itself, electrically",
    "U01": "communication with a module", "U02": "communication with a module", "U03": "software of a module", "U04": "data from a module",
}  # fmt: skip


class CodeError(PondrelError):
    """A text that is no fault code."""


@dataclass(frozen=True, slots=True)
class FaultCode:
    """A code as it was read out: ``code`` is ``P0201`` or ``flash 2-4``, ``failure`` two hexadecimal digits or empty, ``status`` one of
    `STATUSES`; ``module`` that told it, its ``text``, and what was frozen with it as pairs of a name and a value."""

    code: str
    failure: str = ""
    status: str = ""
    module: str = ""
    text: str = ""
    frame: tuple[tuple[str, str], ...] = ()

    @property
    def name(self) -> str:
        """With its failure type: ``P0201-13``."""
        return f"{self.code}-{self.failure}" if self.failure else self.code

    @property
    def is_flash(self) -> bool:
        """Whether it is counted in blinks."""
        return self.code.startswith(FLASH)

    @property
    def tells_of_crash(self) -> bool:
        """Whether its words tell of a crash."""
        return "crash" in self.text.lower()

    @property
    def system(self) -> str:
        """The system, by the letter; empty for a flash code."""
        return "" if self.is_flash else SYSTEMS[self.code[0]]

    @property
    def defined_by(self) -> str:
        """Who says what the code means: ``the standard``, ``the maker`` or ``reserved``."""
        if self.is_flash:
            return "the maker"
        letter, digit = self.code[0], self.code[1]
        if letter == "P":
            return "the standard" if digit in "02" or (digit == "3" and self.code[2] >= "4") else "the maker"
        return {"0": "the standard", "3": "reserved"}.get(digit, "the maker")

    @property
    def group(self) -> str:
        """What it is about, by its first digits; empty where they do not tell."""
        return _GROUPS.get(self.code[:3], "") if self.defined_by == "the standard" else ""

    @property
    def failed(self) -> str:
        """How it failed, by the failure type byte; empty where there is none."""
        if not self.failure:
            return ""
        known = FAILURE_TYPES.get(self.failure)
        return known or FAILURE_GROUPS.get(self.failure[0], "a failure type that the maker defines")

    @property
    def says(self) -> str:
        """All that its structure tells: ``powertrain: ignition or misfire (defined by the standard): circuit open``."""
        if self.is_flash:
            return "counted in blinks: what it means stands in the maker's table for this very model and year"
        about = f"{self.system}: {self.group}" if self.group else self.system
        whose = "a reserved number" if self.defined_by == "reserved" else f"defined by {self.defined_by}"
        return f"{about} ({whose})" + (f": {self.failed}" if self.failed else "")

    def as_json(self) -> dict[str, object]:
        """As the command line tells it."""
        return {
            "code": self.code, "failure_type": self.failure or None, "status": self.status or None, "module": self.module or None,
            "text": self.text or None, "system": self.system or None, "group": self.group or None, "defined_by": self.defined_by,
            "failed": self.failed or None, "freeze_frame": dict(self.frame),
        }  # fmt: skip


def code_from_bytes(high: int, low: int) -> str:
    """The code that two bytes spell.

    >>> code_from_bytes(0x02, 0x01), code_from_bytes(0xC1, 0x00)
    ('P0201', 'U0100')
    """
    return f"{'PCBU'[high >> 6]}{high >> 4 & 3}{high & 15:X}{low:02X}"


def parse_code(text: str) -> tuple[str, str]:
    """Code and failure type from what was typed. Raises CodeError with one sentence.

    >>> parse_code("p0201-13")
    ('P0201', '13')
    >>> parse_code("flash 2-4")
    ('flash 2-4', '')
    """
    typed = " ".join(text.split())
    flash = _FLASH.fullmatch(typed)
    if flash:
        return f"{FLASH} {'-'.join(part for part in flash.groups() if part)}", ""
    match = _CODE.fullmatch(typed)
    if match is None:
        raise CodeError(
            f"{quoted(typed)} is no fault code: one has a letter P, C, B or U, a digit from 0 to 3 and three more (0-9, A-F), as P0201 or "
            "P0201-13; blinks are written 'flash 2-4'."
        )
    return f"{match[1]}{match[2]}{match[3]}".upper(), (match[4] or "").upper()
