"""What signals are called, in plain words, and what their names tell: a fault, a counter, a check sum."""

from __future__ import annotations

import re
from itertools import pairwise

from cantools.database.can import Message, Signal

__all__ = ["called", "is_check_sum", "is_counter", "speaks_of", "speaks_of_fault", "speaks_of_health", "spelled_out", "words_in"]

_PARTS = re.compile(r"[A-Z]+(?=[A-Z][a-z])|[A-Z]?[a-z]+|[A-Z]+|\d+")
_FAULT = frozenset({
    "fault", "faulty", "fail", "failed", "failure", "err", "error", "errors", "malfunction", "defect", "broken", "open", "short",
    "shorted", "lost", "missing", "missed", "crash", "crashed", "collision", "implausible", "invalid", "inhibit", "inhibited",
    "inhibition", "blocked", "trip", "tripped", "overload", "overheat", "overheated", "overtemp", "undervoltage",
    "overvoltage", "overcurrent", "leak", "leakage", "stuck", "interrupted", "emergency", "warning", "warn", "alarm", "abort",
    "aborted", "disabled", "denied", "refused", "limp", "derate", "derated", "shutdown", "timeout", "bad", "dtc", "mil",
    "isolation",
})  # fmt: skip
_HEALTH = frozenset({
    "ok", "okay", "no", "none", "normal", "closed", "allowed", "good", "valid", "ready", "passed", "healthy", "not", "inactive",
    "off", "clear", "cleared", "intact",
})  # fmt: skip
_MAY = _HEALTH - {"no", "none", "not", "off", "inactive"}
# What a module is called besides what it is of.
_MODULE = frozenset({"module", "unit", "control", "controller", "ecu", "node"})
# What stands open as it should now and then is no fault; a circuit that does is one.
_CIRCUITS = frozenset({"loop", "circuit", "interlock", "line", "wire", "coil", "load", "lamp", "sensor", "contact"})
_COUNTER = re.compile(
    r"(^|_)(alive|rolling|live|seq|sequence|msg|message)?_?(cnt|cntr|ctr|counter|alive|rc|seq|sequence)(_|\d|$)", re.IGNORECASE
)
_CHECK_SUM = re.compile(r"(^|_)(crc|chk|chksum|cks|checksum|check_?sum|cs)(\d*)(_|$)|crc|checksum", re.IGNORECASE)
_LONGEST = 60


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
    """What a signal is called: the database's own words where they are short, else its name spelled out."""
    comment = (signal.comment or "").strip().rstrip(".")
    return comment if comment and len(comment) <= _LONGEST and "\n" not in comment else spelled_out(signal.name)


def speaks_of_fault(text: str) -> bool:
    """Whether words tell that something is wrong, rather than that a door stands open or that nothing is wrong."""
    words = words_in(text)
    if any(first == "not" and second in _MAY for first, second in pairwise(words)):
        return True
    faults = [word for word in words if word in _FAULT]
    if not faults or (set(words) & _HEALTH and not set(faults) - {"open"} and "not" not in words):
        return False
    if words[:1] in (["no"], ["not"]) or (len(words) > 1 and set(words) & {"no", "none", "free", "without"}):
        return False
    return faults != ["open"] or bool(set(words) & _CIRCUITS)


def speaks_of_health(text: str) -> bool:
    """Whether words tell that all is well or that something may be done."""
    return bool(set(words_in(text)) & _MAY) and not speaks_of_fault(text)


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
