"""What signals are called, in plain words, and what their names tell: a counter, a check sum, a module."""

from __future__ import annotations

import re

from cantools.database.can import Message, Signal

__all__ = ["called", "is_check_sum", "is_counter", "speaks_of", "spelled_out", "words_in"]

_PARTS = re.compile(r"[A-Z]+(?=[A-Z][a-z])|[A-Z]?[a-z]+|[A-Z]+|\d+")
# What a module is called besides what it is of.
_MODULE = frozenset({"module", "unit", "control", "controller", "ecu", "node"})
_COUNTER = re.compile(
    r"(^|_)(alive|rolling|live|seq|sequence|msg|message)?_?(cnt|cntr|ctr|counter|alive|rc|seq|sequence)(_|\d|$)", re.IGNORECASE
)
_CHECK_SUM = re.compile(r"(^|_)(crc|chk|chksum|cks|checksum|check_?sum|cs)(\d*)(_|$)|crc|checksum", re.IGNORECASE)
_LONGEST = 60
# A comment that holds one of these is a remark of whoever made the database, and says nothing of what the signal is.
_REMARK = frozenset({
    "signal", "signals", "transmit", "transmitted", "transmits", "tx", "rx", "message", "msg", "bit", "bits", "byte", "variant",
    "variants", "todo", "seems", "maybe", "probably", "unknown", "used", "unused", "value", "values", "same", "see", "if",
    "description",
})  # fmt: skip


def words_in(name: str) -> list[str]:
    """The words of a name or a text, in small letters."""
    return [word.lower() for word in _PARTS.findall(name)]


def spelled_out(name: str) -> str:
    """A name as words: ``CrashLoopOpen`` and ``crash_loop_open`` as "Crash loop open"; what is all capitals stays so."""
    words = _PARTS.findall(name)
    if not words:
        return name
    plain = [word if word.isupper() and len(word) > 1 else word.lower() for word in words]
    return " ".join([plain[0][:1].upper() + plain[0][1:], *plain[1:]])


def called(signal: Signal) -> str:
    """What a signal is called: the database's own words where they are short and no remark, else its name spelled out."""
    comment = (signal.comment or "").strip().rstrip(".")
    plain = 0 < len(comment) <= _LONGEST and not set("\n=#|?") & set(comment) and not set(words_in(comment)) & _REMARK
    return f"{comment[0].upper()}{comment[1:]}" if plain else spelled_out(signal.name)


def is_counter(message: Message, signal: Signal) -> bool:
    """Whether a signal is called as one that counts frames."""
    name = signal.name.removeprefix(message.name)
    return not signal.conversion.is_float and 2 <= signal.length <= 16 and bool(_COUNTER.search("_".join(words_in(name)) or name))


def is_check_sum(signal: Signal) -> bool:
    """Whether a signal is called as a check sum."""
    return not signal.conversion.is_float and signal.length in (4, 8, 16) and bool(_CHECK_SUM.search(signal.name))


def speaks_of(text: str, name: str) -> bool:
    """Whether words tell of something by its name: "Heater module missing" of ``HeaterModule``."""
    named = set(words_in(name)) - _MODULE
    return bool(named) and named <= set(words_in(text))
