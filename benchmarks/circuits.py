"""Sheets of any size for the benchmarks: branches of a relay-fed motor, a lamp, a valve and a shared ground, as vehicles have them."""

from __future__ import annotations

from pondrel.core.circuit.read.sheet import parse_sheet
from pondrel.core.circuit.sheet import Sheet

__all__ = ["sheet_of_size", "text_of_size"]

_HEAD = ["BAT: {kind: battery, pins: {p: b+, n: b-}, ohms: 0.008}", "W0: {kind: wire, pins: {a: b+, b: box}, length_m: 1.5, csa_mm2: 16}"]
# One branch: 13 parts. Odd branches have a lamp where even ones have a motor's worth of resistance.
_BRANCH = """
F{n}: {{kind: fuse, pins: {{a: box, b: f{n}}}, rating: 20}}
W{n}a: {{kind: wire, pins: {{a: f{n}, b: k{n}.30}}, length_m: 2, csa_mm2: 2.5}}
S{n}: {{kind: switch, pins: {{a: f{n}, b: s{n}}}}}
C{n}a: {{kind: contact, pins: {{a: s{n}, b: s{n}m}}}}
W{n}b: {{kind: wire, pins: {{a: s{n}m, b: k{n}.86}}, length_m: 3, csa_mm2: 0.75}}
K{n}: {{kind: relay, pins: {{"30": k{n}.30, "87": k{n}.87, "85": k{n}.85, "86": k{n}.86}}}}
W{n}c: {{kind: wire, pins: {{a: k{n}.85, b: g{n}}}, length_m: 1, csa_mm2: 0.75}}
W{n}d: {{kind: wire, pins: {{a: k{n}.87, b: p{n}}}, length_m: 3, csa_mm2: 1.5}}
C{n}b: {{kind: contact, pins: {{a: p{n}, b: p{n}m}}}}
L{n}: {{{load}, pins: {{a: p{n}m, b: l{n}.g}}}}
C{n}c: {{kind: contact, pins: {{a: l{n}.g, b: l{n}.h}}}}
W{n}e: {{kind: wire, pins: {{a: l{n}.h, b: g{n}}}, length_m: 1, csa_mm2: 1.5}}
G{n}: {{kind: ground, pins: {{a: g{n}, b: b-}}}}
"""


def sheet_of_size(parts: int, curved: bool = True) -> Sheet:
    """A sheet of about ``parts`` parts."""
    return parse_sheet(text_of_size(parts, curved))


def text_of_size(parts: int, curved: bool = True) -> str:
    """The text of a sheet of about ``parts`` parts, each branch worked by a switch of its own; without ``curved`` no filament is in it."""
    lines, places = list(_HEAD), ["b+", "box"]
    branches = max(1, -(-(parts - len(_HEAD)) // 13))
    for n in range(1, branches + 1):
        load = "kind: lamp, watts: 55" if curved and n % 2 else "kind: heater, watts: 60"
        lines += _BRANCH.format(n=n, load=load).strip().splitlines()
        places += [f"f{n}", f"k{n}.30", f"k{n}.86", f"k{n}.85", f"k{n}.87", f"p{n}", f"p{n}m", f"l{n}.g", f"g{n}"]
    on = ", ".join(f"S{n}: closed" for n in range(1, branches + 1))
    body = "\n".join(f"  {line}" for line in lines)
    named = "\n".join(f"  {place}: {{}}" for place in places)
    head = f"format: pondrel-sheet/1\ntitle: Benchmark of {parts} parts"
    return f"{head}\nplaces:\n{named}\nparts:\n{body}\nstates:\n  rest: {{}}\n  work: {{{on}}}\n"
