"""A sheet in a state with faults as a SPICE netlist: the same elements, for a general circuit simulator to check or extend.

Node names are numbered, with the sheet's names as comments, since SPICE reads fewer characters than people write. Every law and every
control has its lines here, so that a kind of part needs none of its own. Controlled contacts are switches with hysteresis on what
controls them, so the simulator finds their position itself.
"""

from __future__ import annotations

from collections.abc import Callable

import numpy as np

from .fault import Fault, apply_faults
from .laws import LIMIT_POWER, MOTOR_CREEP, cold_share
from .network import LEAK_SIEMENS, LEAST_OHMS, Cases, Control, Network
from .part import Element, Law
from .sheet import Sheet

__all__ = ["THERMAL_VOLTS", "netlist"]

_OFF_OHMS = 1e15
THERMAL_VOLTS = 0.02586419  # of the simulator's diodes at its 27 °C (k·300.15 K/q)


def netlist(sheet: Sheet, state: str, faults: tuple[Fault, ...] = (), phase: int = 0) -> str:
    """SPICE text; run with ``ngspice -b``, it prints every node voltage. Raises as `solve` does.

    In a state where outputs pulse, ``phase`` chooses one of the positions that they take (`Network.positions`).
    """
    sheet.state(state)
    network = Network.of(sheet, state)
    cases = Cases.healthy(network)
    apply_faults(network, cases, 0, faults)
    closed = network.positions(state)[phase][1]
    lines = [*_head(sheet, network, state, faults), *_Writer(network, cases, closed).lines()]
    lines += [".options gmin=1e-15 reltol=1e-6 abstol=1e-13 itl1=500", ".control", "set numdgt=10", "op"]
    lines += [f"print v(n{i + 1})" for i in range(len(network.nodes))]
    return "\n".join([*lines, "quit", ".endc", ".end", ""])


def _head(sheet: Sheet, network: Network, state: str, faults: tuple[Fault, ...]) -> list[str]:
    said = ", ".join(str(fault) for fault in faults) or "nothing wrong"
    return [
        f"* {_comment(sheet.title)} -- state {_comment(state)}, {_comment(said)}",
        f"* 0 = {_comment(sheet.minus)}",
        *(f"* n{i + 1} = {_comment(node)}" for i, node in enumerate(network.nodes)),
    ]


class _Writer:
    """The element lines of one case with the state's contacts at ``closed`` (E,)."""

    def __init__(self, network: Network, cases: Cases, closed: np.ndarray):
        self.network = network
        self.ohms, self.forced = np.maximum(cases.ohms[0], LEAST_OHMS), cases.forced[0]
        self.closed = closed
        self.controls = {control.contact: control for control in network.controls}
        self.probed = {element for element, _, _ in network.mirrors} | {
            control.coil for control in network.controls if control.data.measure.startswith("amps")
        }

    def lines(self) -> list[str]:
        made = []
        for i, (part, name) in enumerate(self.network.keys):
            if self.forced[i] < 0 or not np.isfinite(self.ohms[i]) or (self.forced[i] == 0 and not self.closed[i]):
                continue
            made.append(f"* {_comment(part)}{'.' + name if name else ''}")
            made += self._element(i)
        made += [
            f"FM{i}_{k} {_node(start)} {_node(end)} VM{i} 1"
            for k, (i, start, end) in enumerate(self.network.mirrors)
            if any(line.startswith(f"VM{i} ") for line in made)
        ]
        return made + [f"RL{i + 1} n{i + 1} 0 {1 / LEAK_SIEMENS:.12g}" for i in range(len(self.network.nodes))]

    def _element(self, i: int) -> list[str]:
        a, b = _node(self.network.a[i]), _node(self.network.b[i])
        made = []
        if i in self.probed:  # an ammeter in series, for what repeats or follows this current
            made.append(f"VM{i} {a} m{i} DC 0")
            a = f"m{i}"
        control = self.controls.get(i)
        if control and self.forced[i] == 0:
            return made + self._contact(i, a, b, control)
        element = self.network.elements[i]
        if self.forced[i] == 2:
            return [*made, f"R{i} {a} {b} {self.ohms[i]:.12g}"]
        return made + _LAWS[element.law](str(i), a, b, element, self.ohms[i])

    def _contact(self, i: int, a: str, b: str, control: Control) -> list[str]:
        data, coil = control.data, control.coil
        if self.forced[coil] < 0 and coil != i:  # a broken winding has volts across it and no pull
            return [f"R{i} {a} {b} {self.ohms[i]:.12g}"] if data.rest_closed else []
        volts = f"v({_node(self.network.a[coil])},{_node(self.network.b[coil])})"
        value = f"i(VM{coil})" if data.measure.startswith("amps") else volts
        value = value if data.signed else f"abs({value})"
        value = f"{value}*{value}" if data.measure.endswith("²") else value
        middle, half = (data.pull_in + data.drop_out) / 2, (data.pull_in - data.drop_out) / 2
        element = self.network.elements[i]
        lines = [f"B{i}c c{i} 0 V={value}", f".model K{i} SW(VT={middle:.12g} VH={half:.12g} RON={{}} ROFF={{}})"]
        if element.law is Law.LIMITED:  # a current by formula is switched by a factor of 0 or 1
            on, off = ("1e9", "1e-3") if data.rest_closed else ("1e-3", "1e9")
            body, *rest = _limited(str(i), a, b, element, self.ohms[i])
            gate = [f"VG{i} h{i} 0 DC 1", f"S{i} h{i} g{i} c{i} 0 K{i} OFF", f"RG{i} g{i} 0 1"]
            return [*gate, body.replace("I=", f"I=v(g{i})*(") + ")", *rest, lines[0], lines[1].format(on, off)]
        on, off = (_OFF_OHMS, self.ohms[i]) if data.rest_closed else (self.ohms[i], _OFF_OHMS)
        return [lines[0], f"S{i} {a} {b} c{i} 0 K{i} OFF", lines[1].format(f"{on:.12g}", f"{off:.12g}")]


def _ohmic(i: str, a: str, b: str, e: Element, ohms: float) -> list[str]:
    return [f"R{i} {a} {b} {ohms:.12g}"]


def _emf(i: str, a: str, b: str, e: Element, ohms: float) -> list[str]:
    return [f"V{i} {a} e{i} DC {e.volts:.12g}", f"R{i} e{i} {b} {ohms:.12g}"]


def _filament(i: str, a: str, b: str, e: Element, ohms: float) -> list[str]:
    x = f"(v({a},{b})/{e.volts:.12g})"
    return [f"B{i} {a} {b} I={e.amps:.12g}*{x}*({x}*{x}+{float(cold_share(e.shape)) ** 2:.12g})^({(e.shape - 1) / 2:.12g})"]


def _junction(i: str, a: str, b: str, e: Element, ohms: float) -> list[str]:
    model = f".model D{i}m D(IS={e.amps:.12g} N={e.shape / THERMAL_VOLTS:.12g} RS={ohms:.12g})"
    if not e.volts:
        return [f"D{i} {a} {b} D{i}m", model]
    return [f"V{i} {a} e{i} DC {e.volts:.12g}", f"D{i} e{i} {b} D{i}m", model]


def _limited(i: str, a: str, b: str, e: Element, ohms: float) -> list[str]:
    x = f"((v({a},{b})-({e.volts:.12g}))/{ohms:.12g})"
    takes = e.shape or e.amps
    limit = f"({x}>0 ? {takes:.12g} : {e.amps:.12g})"
    made = [f"B{i} {a} {b} I={x}*((1+abs({x}/{limit})^{LIMIT_POWER:g})^(-1/{LIMIT_POWER:g})+1e-9)"]
    return [*made, f".nodeset v({a})={e.volts:.12g}"] if e.volts and a != "0" else made


def _motor(i: str, a: str, b: str, e: Element, ohms: float) -> list[str]:
    creep, turning = MOTOR_CREEP * e.amps / e.volts, (1 - MOTOR_CREEP) * e.amps
    back = max(e.volts - ohms * turning, 0.0) / turning**0.5
    v = f"v({a},{b})"
    root = f"(2*abs({v})/(sqrt({back**2:.12g}+{4 * ohms:.12g}*abs({v}))+{back:.12g}+1e-30))"
    return [f"B{i} {a} {b} I=sgn({v})*{root}*{root}+{creep:.12g}*{v}"]


_LAWS: dict[Law, Callable[[str, str, str, Element, float], list[str]]] = {
    Law.OHMIC: _ohmic,
    Law.EMF: _emf,
    Law.FILAMENT: _filament,
    Law.JUNCTION: _junction,
    Law.LIMITED: _limited,
    Law.MOTOR: _motor,
}


def _node(number: int) -> str:
    return "0" if number < 0 else f"n{number + 1}"


def _comment(text: str) -> str:
    return " ".join(text.split())
