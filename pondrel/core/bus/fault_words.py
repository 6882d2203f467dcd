"""Which words of a signal tell that something is wrong, and which only warn or say that something is switched off.

The lists are our own, common practice, no source. They were set against the names of some 5000 messages of databases that others
made: abbreviations as engineers write them (flt, err), and the German ones that many databases hold. "Open" counts of a circuit,
"short" beside what it is to: a door stands open, and a press of a button may be short.
"""

from __future__ import annotations

from collections.abc import Mapping
from itertools import pairwise

from cantools.database.can import Signal

from .decode import names_of
from .words import called, words_in

__all__ = ["FAULT", "WARNING", "fault_told", "wrong_values"]

FAULT, WARNING = "fault", "warning"

_FAULT = frozenset({
    "fault", "faults", "faulty", "faulted", "flt", "falt", "fail", "failed", "failure", "failsafe", "err", "error", "errors",
    "malfunction", "malf", "defect", "defective", "broken", "shorted", "lost", "missing", "missed", "crash", "crashed", "implausible",
    "invalid", "inhibit", "inhibited", "inhibition", "blocked", "tripped", "overload", "overheat", "overheated", "overtemp",
    "undervoltage", "overvoltage", "overcurrent", "leak", "leakage", "stuck", "interrupted", "denied", "refused", "limp", "bad", "dtc",
    "mil", "inoperative", "inop", "abnormal", "disconnected", "defekt", "unplausibel", "stoerung", "kurzschluss",
    "leitungsunterbrechung", "ausfall",
})  # fmt: skip
_WARNING = frozenset({
    "warning", "warn", "alarm", "disabled", "emergency", "collision", "timeout", "abort", "aborted", "shutdown", "derate", "derated",
    "degraded",
})  # fmt: skip
# Within a word that German puts together.
_WITHIN = ("fehler", "defekt")
_HEALTH = frozenset({
    "ok", "okay", "normal", "closed", "allowed", "good", "valid", "ready", "passed", "healthy", "clear", "cleared", "intact",
    "io",
})  # fmt: skip
# "No fault", and "fault: none".
_GERMAN = frozenset({"kein", "keine", "nicht"})
_NONE_OF = frozenset({"no", "none", "not", "without"}) | _GERMAN
_AFTER = frozenset({"no", "none", "off", "free", "inactive", "false", "absent", "aus"})
_NONE = _NONE_OF | _AFTER
# What is neither: a module that has only just woken, a value that nobody uses.
_AT_REST = frozenset({
    "idle", "standby", "init", "initial", "initializing", "initialisation", "initialization", "reserved", "sna", "unknown", "undefined",
    "default", "unused", "startup", "na",
})  # fmt: skip
_YES = frozenset({"yes", "true", "on", "active", "set", "present", "detected", "ja", "ein"})
# What stands open as it should now and then is no fault; a circuit that does is one.
_CIRCUITS = frozenset({"loop", "circuit", "interlock", "line", "wire", "coil", "load", "lamp", "sensor", "contact"})
_SHORT_TO = frozenset({"to", "circuit", "ground", "gnd", "grnd", "power", "battery", "batt", "bat", "supply", "plus", "minus"})
# What is called by a warning without being one: the function's switch, its choices, its sound.
_ABOUT = frozenset({
    "enable", "enabled", "setting", "settings", "switch", "toggle", "system", "option", "sound", "volume", "mode", "available",
    "type", "request", "distance", "time",
})  # fmt: skip


def fault_told(text: str) -> str:
    """`FAULT` where words tell that something is wrong, `WARNING` where they warn or tell that something is switched off or broken off;
    empty where they tell neither, or that nothing is wrong."""
    words = [word for before, word in pairwise(["", *words_in(text)]) if (before, word) != ("pre", "crash")]
    if any(first == "not" and second in _HEALTH for first, second in pairwise(words)):
        return FAULT
    if _denied(words):
        return ""
    faults = {word for word in words if word in _FAULT or word.startswith(_WITHIN) or word.endswith(_WITHIN)} | _in_circuits(words)
    if faults and not (set(words) & _HEALTH and not faults - {"open"}):
        return FAULT
    return WARNING if set(words) & _WARNING and not set(words) & (_ABOUT | _HEALTH) else ""


def _denied(words: list[str]) -> bool:
    """Whether words say that there is none: "no fault", "fault free", "not failed"."""
    if words[1:] and words[-1] in _AFTER:
        return True
    before = [at for at, word in enumerate(words) if word in _NONE_OF]
    return any(words[at] in _GERMAN or set(words[at + 1 :]) & (_FAULT | _WARNING) for at in before)


def _in_circuits(words: list[str]) -> set[str]:
    found = {"open"} if "open" in words and set(words) & _CIRCUITS else set()
    for at, word in enumerate(words):
        last = at + 1 == len(words)
        if word == "short" and at and (last or words[at + 1] in _SHORT_TO):
            found.add("short")
    return found


def wrong_values(signal: Signal) -> Mapping[int, str]:
    """The raw values of a flag that tell of a fault or warn, by what the signal and its values are called; each with `FAULT` or
    `WARNING`."""
    names = names_of(signal)
    by_name = fault_told(signal.name) or (FAULT if fault_told(called(signal)) == FAULT else "")
    if not names:  # of two bits 01 is "on", 10 an error of the switch itself, 11 not told (SAE J1939-71, from memory)
        return {1: by_name} if by_name and signal.length <= 2 else {}
    of_signal = set(words_in(signal.name))
    found: dict[int, str] = {}
    neutral: list[int] = []
    for raw, name in names.items():
        own = [word for word in words_in(name) if word not in of_signal]
        if own and (set(own) & (_HEALTH | _NONE | _AT_REST)) and not fault_told(" ".join(own)):
            continue
        told = fault_told(name)
        if told:
            # Beside valid, invalid tells of a fault; among several values it mostly stands for one that is not told.
            found[raw] = WARNING if len(names) > 2 and set(words_in(name)) & _FAULT == {"invalid"} else told
        elif raw and not _denied(words_in(name)):
            neutral.append(raw)
    if found or not by_name:
        return found
    said_yes = [raw for raw in names if set(words_in(names[raw])) & _YES and not set(words_in(names[raw])) & _NONE]
    # A warning of many kinds is a function's choice; a fault of many kinds is one of them.
    return dict.fromkeys(said_yes or (neutral if by_name == FAULT or len(names) <= 2 else []), by_name)
