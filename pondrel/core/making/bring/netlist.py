"""A SPICE netlist with resistors, sources, inductors, capacitors, diodes and switches. Node 0 is battery minus.

The format is that of Nagel's SPICE2 as ngspice reads it: a title, one element a line, ``+`` goes on with the line before, ``*`` begins a
comment, values with the suffixes f p n u m k meg g t.
"""

from __future__ import annotations

import re

from ...base.brief import quoted
from ...base.errors import MakingError
from .brought import MINUS, Brought, Gathered, cleaned, node_name

__all__ = ["FORMAT", "bring", "fits", "value_of"]

FORMAT = "a SPICE netlist"
_SUFFIXES = {"t": 1e12, "g": 1e9, "meg": 1e6, "k": 1e3, "m": 1e-3, "u": 1e-6, "n": 1e-9, "p": 1e-12, "f": 1e-15, "mil": 25.4e-6}
_VALUE = re.compile(r"(?P<number>[-+]?(?:\d+\.?\d*|\.\d+)(?:e[-+]?\d{1,3})?)(?P<suffix>meg|mil|[tgkmunpf])?[a-zµΩ]*", re.IGNORECASE)
_ELEMENT = re.compile(r"(?mi)^\s*[rvlcds]\w*\s+\S+\s+\S+\s+\S+")
# What tells a simulator how to run, and nothing of the circuit.
_PASSED_OVER = (".model", ".op", ".tran", ".dc", ".ac", ".option", ".print", ".plot", ".save", ".title", ".temp")
_LEAST_OHMS = 1e-4  # of an inductor's winding, which has none of its own in a netlist


def fits(name: str, text: str) -> bool:
    """Whether a file is a netlist: by its ending, or since most of its lines are elements."""
    if name.lower().endswith((".cir", ".sp", ".spice", ".net", ".ckt", ".asc.net")):
        return True
    lines = [line for line in text.splitlines()[1:200] if line.strip() and line[0] not in "*.+;"]
    return bool(lines) and sum(bool(_ELEMENT.match(line)) for line in lines) > 0.7 * len(lines)


def value_of(said: str) -> float:
    """A number as SPICE writes it. Raises MakingError for what is none.

    >>> value_of("4.7k"), value_of("1meg"), value_of("100nF")
    (4700.0, 1000000.0, 1e-07)
    """
    match = _VALUE.fullmatch(said.strip())
    if match is None:
        raise MakingError(f"{quoted(said)} is no value: a number such as 4.7k or 100n is wanted")
    return float(f"{float(match['number']) * _SUFFIXES.get((match['suffix'] or '').lower(), 1.0):.12g}")


def bring(name: str, text: str) -> Brought:
    """Read a netlist. Raises MakingError where nothing in it is an element that a sheet has."""
    lines = cleaned(text)
    gathered = Gathered(lines[0].strip(" *") or name, "brought in", "Made from a SPICE netlist.")
    sources: list[tuple[str, str, str, float]] = []
    over = False
    for number, line in _joined(lines):
        first = line.split()[0].lower()
        if over or first.startswith(_PASSED_OVER):
            continue
        if first in (".end", ".control"):
            over = True
            continue
        if first.startswith("."):
            gathered.miss(number, f"{quoted(first)} is not read: write its parts out as elements.")
            continue
        try:
            _element(gathered, sources, line)
        except MakingError as error:
            gathered.miss(number, f"{str(error).rstrip('.')}.")
    _sources(gathered, sources)
    return gathered.done()


def _joined(lines: list[str]) -> list[tuple[int, str]]:
    """The lines after the title, comments off, each with what goes on from it."""
    found: list[tuple[int, str]] = []
    for number, line in enumerate(lines[1:], 2):
        bare = re.split(r"[;$]", line, maxsplit=1)[0].strip()
        if not bare or bare.startswith("*"):
            continue
        if bare.startswith("+") and found:
            found[-1] = (found[-1][0], f"{found[-1][1]} {bare[1:].strip()}")
        else:
            found.append((number, bare))
    return found


def _node(said: str) -> str:
    if said.lower() in ("0", "gnd"):
        return MINUS
    name = node_name(said)
    return f"n{name}" if name[0].isdigit() else name


def _element(gathered: Gathered, sources: list[tuple[str, str, str, float]], line: str) -> None:
    name, *rest = line.replace("=", " = ").split()
    letter = name[0].upper()
    if letter not in "RVLCDS":
        raise MakingError(f"{quoted(name)} is no resistor, source, inductor, capacitor, diode or switch: those are read")
    if len(rest) < 3:
        raise MakingError(f"{quoted(line[:40])} is cut short: a name, its nodes and a value are wanted")
    a, b = _node(rest[0]), _node(rest[1])
    if a == b:
        raise MakingError(f"{quoted(name)} has both ends on one node")
    if letter == "R":
        _positive(gathered.add, name, "resistor", a, b, ohms=value_of(rest[2]))
    elif letter == "L":
        _positive(gathered.add, name, "coil", a, b, henries=value_of(rest[2]), ohms=_LEAST_OHMS)
    elif letter == "C":
        _positive(gathered.add, name, "capacitor", a, b, farads=value_of(rest[2]))
    elif letter == "D":
        gathered.add(name.upper(), "diode", {"a": a, "k": b})
    elif letter == "S":
        gathered.add(name.upper(), "switch", {"a": a, "b": b}, note="closed and open by the states, not by a voltage")
    else:
        sources.append((name.upper(), a, b, _volts(rest[2:])))


def _positive(add: object, name: str, kind: str, a: str, b: str, **values: float) -> None:
    assert callable(add)
    if any(value <= 0.0 for value in values.values()):
        raise MakingError(f"{quoted(name)} has a value that is not above zero")
    add(name.upper(), kind, {"a": a, "b": b}, **values)


def _volts(words: list[str]) -> float:
    """A source's lasting volts: its DC value, or the first of its pulse."""
    text = " ".join(words)
    match = re.search(r"(?i)\bdc\s*=?\s*(\S+)", text) or re.match(r"(\S+)", text)
    first = match[1] if match else ""
    pulse = re.match(r"(?i)(?:pulse|sin|pwl|exp)\s*\(?\s*(\S+)", text)
    return value_of((pulse[1] if pulse else first).strip("(),"))


def _sources(gathered: Gathered, sources: list[tuple[str, str, str, float]]) -> None:
    """The first source to ground is the battery; the others are supplies beside it."""
    if not sources:
        return
    first = next((source for source in sources if MINUS in source[1:3]), sources[0])
    for name, a, b, volts in sorted(sources, key=lambda source: source is not first):
        plus, minus = (a, b) if volts >= 0 else (b, a)
        if not volts:
            gathered.add(name, "contact", {"a": a, "b": b}, ohms=1e-6, note="a source of 0 V: an ammeter")
        elif name == first[0]:
            gathered.add(name, "battery", {"p": plus, "n": minus}, volts=abs(volts), ohms=1e-6, label="battery")
            gathered.volts = abs(volts)
        else:
            gathered.add(name, "bench_supply", {"p": plus, "n": minus}, volts=abs(volts), amps=1000, ohms=1e-6)
