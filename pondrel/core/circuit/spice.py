"""A sheet in a state with faults as a SPICE netlist: the same elements, for a general circuit simulator to check or extend.

Node names are numbered, with the sheet's names as comments, since SPICE reads fewer characters than people write. Relay contacts are
voltage-controlled switches with hysteresis, so the simulator finds their position itself.
"""

from __future__ import annotations

import numpy as np

from .fault import Fault, apply_faults
from .network import FILAMENT_POWER, LEAK_SIEMENS, LEAST_OHMS, Cases, Network, cold_share
from .sheet import Sheet

__all__ = ["netlist"]

_OFF_OHMS = 1e15


def netlist(sheet: Sheet, state: str, faults: tuple[Fault, ...] = ()) -> str:
    """SPICE text; run with ``ngspice -b``, it prints every node voltage. Raises as `solve` does."""
    network = Network.of(sheet)
    closed = network.closed_by_state(sheet.state(state).name)
    cases = Cases.healthy(network)
    apply_faults(network, cases, 0, faults)
    ohms, forced = np.maximum(cases.ohms[0], LEAST_OHMS), cases.forced[0]
    said = ", ".join(str(fault) for fault in faults) or "nothing wrong"
    lines = [f"* {_comment(sheet.title)} -- state {_comment(state)}, {_comment(said)}", f"* 0 = {_comment(sheet.minus)}"]
    lines += [f"* n{i + 1} = {_comment(node)}" for i, node in enumerate(network.nodes)]
    driven = {item[0]: item[1:] for item in network.driven}
    for i, (part, name) in enumerate(network.keys):
        a, b = f"n{network.a[i] + 1}", f"n{network.b[i] + 1}"
        a, b = ("0" if a == "n0" else a), ("0" if b == "n0" else b)
        if forced[i] < 0 or not np.isfinite(ohms[i]) or (forced[i] == 0 and not closed[i]):
            continue
        lines.append(f"* {_comment(part)}{'.' + name if name else ''}")
        if network.filament[i]:
            x = f"(v({a},{b})/{network.rated_volts[i]:.12g})"
            lines.append(
                f"B{i} {a} {b} I={network.rated_amps[i]:.12g}*{x}*({x}*{x}+{cold_share() ** 2:.12g})^({(FILAMENT_POWER - 1) / 2:.12g})"
            )
        elif network.source[i]:
            lines += [f"V{i} {a} e{i} DC {network.emf[i]:.12g}", f"R{i} e{i} {b} {ohms[i]:.12g}"]
        elif i in driven and forced[i] == 0:
            coil, pull_in, drop_out, rest_closed = driven[i]
            on, off = (_OFF_OHMS, ohms[i]) if rest_closed else (ohms[i], _OFF_OHMS)
            if forced[coil] < 0:  # a broken winding has volts across it and no pull
                lines.append(f"R{i} {a} {b} {off:.12g}")
                continue
            ca, cb = (("0" if n < 0 else f"n{n + 1}") for n in (network.a[coil], network.b[coil]))
            lines += [
                f"B{i} c{i} 0 V=abs(v({ca},{cb}))",
                f"S{i} {a} {b} c{i} 0 K{i} OFF",
                f".model K{i} SW(VT={(pull_in + drop_out) / 2:.12g} VH={(pull_in - drop_out) / 2:.12g} RON={on:.12g} ROFF={off:.12g})",
            ]
        else:
            lines.append(f"R{i} {a} {b} {ohms[i]:.12g}")
    lines += [f"RL{i + 1} n{i + 1} 0 {1 / LEAK_SIEMENS:.12g}" for i in range(len(network.nodes))]
    lines += [".options gmin=1e-15 reltol=1e-6", ".control", "set numdgt=10", "op"]
    lines += [f"print v(n{i + 1})" for i in range(len(network.nodes))]
    return "\n".join([*lines, "quit", ".endc", ".end", ""])


def _comment(text: str) -> str:
    return " ".join(text.split())
