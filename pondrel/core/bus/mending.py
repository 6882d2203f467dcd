"""A DBC that cantools refuses, mended where it is plain what is meant: what hands have edited often misses a semicolon or a mark.

Each correction is one step: it answers one refusal, changes the text and says what it changed. What cannot be mended stays refused.
"""

from __future__ import annotations

import re
from collections.abc import Callable
from itertools import takewhile

__all__ = ["mended"]

Correction = tuple[str, str]
_EXTENDED = 1 << 31
_BEFORE_AN_ID = r"\b(BO_|BO_TX_BU_|SG_|VAL_|SIG_VALTYPE_|SIG_GROUP_|SG_MUL_VAL_)(\s+)(\d+)\b"
_ENDS_WITH_A_SEMICOLON = ("CM_", "BA_", "BA_DEF_", "BA_DEF_DEF_", "VAL_", "VAL_TABLE_", "SIG_VALTYPE_", "BO_TX_BU_", "SIG_GROUP_")
_NAME_FROM_A_DIGIT = re.compile(
    r"""^(\s*(?:BO_\s+\d+|SG_|(?:CM_\s+|BA_\s+"[^"]*"\s+)SG_\s+\d+|VAL_\s+\d+|SIG_VALTYPE_\s+\d+)\s+)(\d\w*[A-Za-z_]\w*)""", re.MULTILINE
)
_NUMBER_FROM_A_POINT = re.compile(r"^(\s*SG_\s[^\"]*?[(,\[|])(-?)\.(\d)", re.MULTILINE)
_VALUES = re.compile(r'\bVAL_\s+(\d+)\s+(\w+)\s(?:[^";]|"[^"]*")*;')
_SHOWN = 60


def mended(text: str, refusal: str) -> Correction | None:
    """The text with what cantools' sentence refuses put right, and what was done; None where nothing is known to do."""
    for pattern, correct in _CORRECTIONS:
        found = re.search(pattern, refusal)
        if found:
            return correct(text, found)
    return None


def _syntax(text: str, found: re.Match[str]) -> Correction | None:
    lines = text.split("\n")
    at = int(found[1]) - 1
    if at >= len(lines):
        return None
    before = next((k for k in range(at - 1, -1, -1) if lines[k].strip()), None)
    if int(found[2]) <= len(lines[at]) - len(lines[at].lstrip()) + 1 and before is not None and _lacks_its_end(lines[before]):
        lines[before] = lines[before].rstrip() + ";"
        return "\n".join(lines), f"line {before + 1} has no semicolon at its end; it was given one."
    if _NAME_FROM_A_DIGIT.match(lines[at]):
        first = _NAME_FROM_A_DIGIT.match(lines[at])
        assert first is not None
        return _NAME_FROM_A_DIGIT.sub(r"\1_\2", text), f"names that begin with a digit are given an underscore: _{first[2]}."
    if _NUMBER_FROM_A_POINT.match(lines[at]):
        fuller = text
        while fuller != (once := _NUMBER_FROM_A_POINT.sub(r"\g<1>\g<2>0.\3", fuller)):
            fuller = once
        return fuller, f"numbers that begin with a point, as in line {at + 1}, are given a 0 before it."
    last = at + _length_of_statement(lines[at:])
    shown = lines[at].strip()
    shown = shown if len(shown) <= _SHOWN else f"{shown[:_SHOWN]}…"
    return "\n".join([*lines[:at], *[""] * (last - at), *lines[last:]]), f"line {at + 1} cannot be read and is left out: {shown}"


def _lacks_its_end(line: str) -> bool:
    own = line.strip()
    return own.startswith(_ENDS_WITH_A_SEMICOLON) and not own.endswith(";") and own.count('"') % 2 == 0


def _length_of_statement(lines: list[str]) -> int:
    """Of how many lines the statement is that begins with the first: a message has its signals with it."""
    first = lines[0].lstrip()
    if first.startswith("BO_ "):
        return 1 + sum(1 for _ in takewhile(lambda line: line.lstrip().startswith("SG_ "), lines[1:]))
    if first.startswith(_ENDS_WITH_A_SEMICOLON):
        quotes = 0
        for number, line in enumerate(lines[:50], start=1):
            quotes += line.count('"')
            if line.rstrip().endswith(";") and quotes % 2 == 0:
                return number
    return 1


def _unmarked(text: str, found: re.Match[str]) -> Correction | None:
    """Identifiers above 11 bits without the mark of extended ones: with it where 29 bits hold them."""

    def marked(own: re.Match[str]) -> str:
        identity = int(own[3])
        return f"{own[1]}{own[2]}{identity | _EXTENDED}" if 0x7FF < identity < 1 << 29 else own[0]

    better = re.sub(_BEFORE_AN_ID, marked, text)
    if better == text:
        return _without_message(text, found)
    return better, f"identifiers of more than 11 bits that are not marked as extended, such as {found[1]}, are taken as extended."


def _without_message(text: str, found: re.Match[str]) -> Correction | None:
    lines = text.split("\n")
    for at, line in enumerate(lines):
        if re.match(rf"\s*BO_\s+\d+\s+{re.escape(found[2])}\s*:", line):
            length = _length_of_statement([lines[at].lstrip(), *lines[at + 1 :]])
            lines[at : at + length] = [""] * length
            return "\n".join(lines), f"{found[2]} has an identifier of more than 29 bits, {found[1]}; it is left out."
    return None


def _unused_values(text: str, found: re.Match[str]) -> Correction | None:
    owners = re.findall(r"VAL_ (\d+) (\w+)", found[0])
    unused = set(owners)
    better = _VALUES.sub(lambda own: "" if own.groups() in unused else own[0], text)
    if better == text:
        return None
    shown = ", ".join(name for _, name in owners[:5]) + (f" and {len(owners) - 5} more" if len(owners) > 5 else "")
    return better, f"values are named for signals that it does not have; they are left out: {shown}."


def _without_signal(text: str, found: re.Match[str]) -> Correction | None:
    lines = text.split("\n")
    within = ""
    for at, line in enumerate(lines):
        own = re.match(r"\s*BO_\s+\d+\s+(\w+)", line)
        within = own[1] if own else within
        if within == found[2] and re.match(rf"\s*SG_\s+{re.escape(found[1])}\s", line):
            lines[at] = ""
            return "\n".join(lines), f"{found[1]} in {found[2]} has no bits; it is left out."
    return None


_CORRECTIONS: tuple[tuple[str, Callable[[str, re.Match[str]], Correction | None]], ...] = (
    (r"Invalid syntax at line (\d+), column (\d+)", _syntax),
    (r"Standard frame id (0x[0-9a-f]+) is more than 11 bits in message (\w+)", _unmarked),
    (r"Extended frame id (0x[0-9a-f]+) is more than 29 bits in message (\w+)", _without_message),
    (r"(?s)unused VAL_ entries.*", _unused_values),
    (r"The signal (\w+) length 0 is not greater than 0 in message (\w+)", _without_signal),
)
