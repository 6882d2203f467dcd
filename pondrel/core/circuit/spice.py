"""A sheet in a state with faults as a SPICE netlist: the same elements, for a general circuit simulator to check or extend.

Node names are numbered, with the sheet's names as comments, since SPICE reads fewer characters than people write. Every law and every
control has its lines here, so that a kind of part needs none of its own. Controlled contacts are switches with hysteresis on what
controls them, so the simulator finds their position itself.
"""

from __future__ import annotations

from collections.abc import Callable

import numpy as np

from ..base.errors import SheetError
from .fault import Fault, farads_left, one_case
from .laws import LIMIT_POWER, MOTOR_CREEP, cold_share
from .network import LEAK_SIEMENS, LEAST_OHMS, Cases, Control, Network, Positions
from .operate import operating_points
from .part import Element, Law
from .sheet import Sheet
from .transient import CORE_LOSS, check_followed

__all__ = ["THERMAL_VOLTS", "netlist", "transient_netlist"]

_OFF_OHMS = 1e15
THERMAL_VOLTS = 0.02586419  # of the simulator's diodes at its 27 °C (k·300.15 K/q)


def netlist(sheet: Sheet, state: str, faults: tuple[Fault, ...] = (), phase: int = 0) -> str:
    """SPICE text; run with ``ngspice -b``, it prints every node voltage. Raises as `solve` does.

    In a state where outputs pulse, ``phase`` chooses one of the positions that they take (`Network.positions`).
    """
    sheet.state(state)
    network = Network.of(sheet, state)
    cases = one_case(network, faults)
    closed = network.positions(state)[phase][1]
    lines = [*_head(sheet, network, f"state {state}", faults), *_Writer(network, cases, closed, faults).lines()]
    lines += [".options gmin=1e-14 reltol=1e-6 abstol=1e-13 itl1=500", ".control", "set numdgt=10", "op"]
    lines += [f"print v(n{i + 1})" for i in range(len(network.nodes))]
    return "\n".join([*lines, "quit", ".endc", ".end", ""])


def transient_netlist(
    sheet: Sheet, steps: tuple[tuple[float, str], ...], until: float, faults: tuple[Fault, ...] = (), grid: int = 400
) -> str:
    """SPICE text of `transient` with the same arguments; run with ``ngspice -b``, it prints every node's voltage at ``grid`` even times.

    The simulator starts at an operating point, so the first state must have one. Raises SheetError where a state turns a dial.
    """
    network = Network.of(sheet, steps[0][1])
    check_followed(sheet, steps)
    for _, state in steps:
        if any(sheet.position(state, name) != sheet.position(steps[0][1], name) for name in sheet.dials):
            raise SheetError((("states", f"{state} turns a dial: a netlist in time keeps them where {steps[0][1]} has them"),))
    cases = one_case(network, faults)
    said = ", ".join(f"{at:g} s {state}" for at, state in steps)
    writer = _Writer(
        network, cases, network.positions(steps[0][1])[0][1], faults, tuple((at, network.positions(state)) for at, state in steps), until
    )
    lines = [*_head(sheet, network, said, faults), *writer.lines()]
    step = until / grid
    lines += [".options gmin=1e-15 reltol=1e-4 abstol=1e-8 chgtol=1e-16 itl1=500 itl4=200", ".control", "set numdgt=10", "set nobreak"]
    lines += [
        f"tran {step:.9g} {until:.12g} 0 {step / 20:.9g}",
        "linearize",
        "print " + " ".join(f"v(n{i + 1})" for i in range(len(network.nodes))),
    ]
    return "\n".join([*lines, "quit", ".endc", ".end", ""])


def _head(sheet: Sheet, network: Network, states: str, faults: tuple[Fault, ...]) -> list[str]:
    said = ", ".join(str(fault) for fault in faults) or "nothing wrong"
    return [
        f"* {_comment(sheet.title)} -- {_comment(states)}, {_comment(said)}",
        f"* 0 = {_comment(sheet.minus)}",
        *(f"* n{i + 1} = {_comment(node)}" for i, node in enumerate(network.nodes)),
    ]


class _Writer:
    """The element lines of one case with the state's contacts at ``closed`` (E,); in time, as ``steps`` of (time, positions) have them."""

    def __init__(
        self, network: Network, cases: Cases, closed: np.ndarray, faults: tuple[Fault, ...],
        steps: tuple[tuple[float, Positions], ...] = (), until: float = 0.0,
    ):  # fmt: skip
        self.network, self.steps, self.until, self.farads = network, steps, until, farads_left(network, faults)
        ohms, forced = cases.of_all(network)
        self.ohms, self.forced = np.maximum(ohms[0], LEAST_OHMS), forced[0]
        # Something may be worked by a state in time without being closed at first.
        self.closed = np.logical_or.reduce([closed, *(positions[0][1] for _, positions in steps)])
        self.controls = {c.contact: c for c in network.controls if c.data is network.elements[c.contact].contact}
        self.supplies = {c.contact: c for c in network.controls if c.data is network.elements[c.contact].power}
        # Between waking and falling asleep a module may last either way: the simulator starts from where it stands here.
        pulled = operating_points(network, cases, ((1.0, closed),)).pulled[0] if self.supplies else ()
        self.awake = {c.contact for i, c in enumerate(network.controls) if c in self.supplies.values() and pulled[i]}
        self.probed = {element for element, _, _ in network.mirrors} | {
            control.coil for control in network.controls if control.data.measure.startswith("amps")
        }

    def lines(self) -> list[str]:
        lines = []
        for i, (part, name) in enumerate(self.network.keys):
            if self.forced[i] < 0 or not np.isfinite(self.ohms[i]) or (self.forced[i] == 0 and not self.closed[i]):
                # A capacitance stays where its leakage is gone, an ammeter where its current is gone.
                lines += self._stored(i)
                continue
            lines.append(f"* {_comment(part)}{'.' + name if name else ''}")
            lines += [*self._element(i), *self._stored(i)]
        lines += [
            f"FM{i}_{k} {_node(start)} {_node(end)} VM{i} 1"
            for k, (i, start, end) in enumerate(self.network.mirrors)
            if any(line.startswith(f"VM{i} ") for line in lines)
        ]
        return lines + [f"RL{i + 1} n{i + 1} 0 {1 / LEAK_SIEMENS:.12g}" for i in range(len(self.network.nodes))]

    def _stored(self, i: int) -> list[str]:
        farads = self.farads[i]
        return [f"C{i} {_node(self.network.a[i])} {_node(self.network.b[i])} {farads:.12g}"] if self.steps and farads else []

    def _element(self, i: int) -> list[str]:
        a, b = _node(self.network.a[i]), _node(self.network.b[i])
        element = self.network.elements[i]
        lines = []
        if i in self.probed:  # an ammeter in series, for what repeats or follows this current
            lines.append(f"VM{i} {a} m{i} DC 0")
            if element.law is Law.LIMITED and element.volts:
                lines.append(f".nodeset v({a})={element.volts:.12g}")
            a = f"m{i}"
        if self.forced[i] == 0 and self.steps and element.contact and element.contact.positions is not None:
            lines += [f"VP{i} p{i} 0 {self._pulses(i, element)}", f"SP{i} {a} q{i} p{i} 0 KP{i} OFF"]
            lines.append(f".model KP{i} SW(VT=0.5 VH=0.1 RON={LEAST_OHMS:g} ROFF=1e14)")
            a = f"q{i}"
        supply = self.supplies.get(i)
        if supply and self.forced[i] == 0 and self.forced[supply.coil] < 0:
            return []  # its supply is broken inside: there are volts, and nothing comes of them
        if supply and self.forced[i] == 0:  # a switch in series that follows the module's supply
            volts = f"v({_node(self.network.a[supply.coil])},{_node(self.network.b[supply.coil])})"
            middle, half = (supply.data.pull_in + supply.data.drop_out) / 2, (supply.data.pull_in - supply.data.drop_out) / 2
            lines += [f"B{i}w w{i} 0 V={volts}", f"SW{i} {a} u{i} w{i} 0 KW{i} {'ON' if i in self.awake else 'OFF'}"]
            lines.append(f".model KW{i} SW(VT={middle:.12g} VH={half:.12g} RON={LEAST_OHMS:g} ROFF={_OFF_OHMS:g})")
            lines.append(f"RU{i} u{i} 0 1e12")  # where both its switches are open, nothing else holds the point between
            a = f"u{i}"
        control = self.controls.get(i)
        if control and self.forced[i] == 0:
            return lines + self._contact(i, a, b, control)
        if self.steps and element.henries:
            core = max(self.network.ohms[i], LEAST_OHMS) * CORE_LOSS
            lines += [f"VL{i} y{i} z{i} DC 0", f"L{i} z{i} {b} {element.henries:.12g}", f"RC{i} y{i} {b} {core:.12g}"]
            b = f"y{i}"
        if self.forced[i] == 2:
            return [*lines, f"R{i} {a} {b} {self.ohms[i]:.12g}"]
        return lines + _LAWS[element.law](str(i), a, b, element, self.ohms[i])

    def _pulses(self, i: int, element: Element) -> str:
        """What drives a contact that the states work: 1 where it is closed, with edges of a millionth of the whole."""
        assert element.contact is not None
        edge = self.until * 2e-6
        points: list[tuple[float, float]] = []

        def to(time: float, level: float) -> None:
            if points and points[-1][1] != level:
                points.append((time, points[-1][1]))
                points.append((time + edge, level))
            elif not points:
                points.append((0.0, level))

        ends = [at for at, _ in self.steps[1:]] + [self.until]
        for (start, positions), end in zip(self.steps, ends, strict=True):
            on = positions[0][1][i]
            if not on or not any(not closed[i] for _, closed in positions):
                to(start, float(on))
                continue
            duty, period, count = element.contact.duty, 1.0 / element.contact.hertz, 0
            if end == self.until and not any(level for _, level in points):
                return f"PULSE(0 1 {start:.12g} {edge:.6g} {edge:.6g} {duty * period - edge:.12g} {period:.12g})"
            while start + count * period < end:
                to(start + count * period, 1.0)
                if duty < 1.0:
                    to(start + (count + duty) * period, 0.0)
                count += 1
        return "PWL(" + " ".join(f"{time:.12g} {level:g}" for time, level in points) + ")"

    def _contact(self, i: int, a: str, b: str, control: Control) -> list[str]:
        data, coil = control.data, control.coil
        if self.forced[coil] < 0 and coil != i:  # a broken winding has volts across it and no pull
            return [f"R{i} {a} {b} {self.ohms[i]:.12g}"] if data.rest_closed else []
        volts = f"v({_node(self.network.a[coil])},{_node(self.network.b[coil])})"
        if data.measure.startswith("amps"):
            value = f"i(VM{coil})"
        elif self.steps and self.network.elements[coil].henries and np.isfinite(self.ohms[coil]):
            value = f"{self.ohms[coil]:.12g}*i(VL{coil})"  # the winding's current pulls, and lags behind the volts
        else:
            value = volts
        current = "i(" in value
        # A corner at nothing stops the simulator: in time a microampere rounds it, else a nanovolt, since abs() has no slope there.
        magnitude = f"sqrt({value}*{value}+{1e-12 if current and self.steps else 1e-18:g})"
        value = value if data.signed else magnitude
        value = f"{value}*{value}" if data.measure.endswith("²") else value
        middle, half = (data.pull_in + data.drop_out) / 2, (data.pull_in - data.drop_out) / 2
        element = self.network.elements[i]
        lines = [f"B{i}c c{i} 0 V={value}"]
        if self.steps and (data.seconds or current):
            # Heat follows what drives it. A shut-down that latches must not see what the simulator tries on its way to a solution.
            lines = [f"B{i}c x{i} 0 V={value}", f"RH{i} x{i} c{i} 1k", f"CH{i} c{i} 0 {1e-3 * (data.seconds or 2e-5 * self.until):.12g}"]
        model = f".model K{i} SW(VT={middle:.12g} VH={half:.12g} RON={{}} ROFF={{}})"
        if element.law is Law.LIMITED:  # a current by formula is switched by a factor of 0 or 1
            on, off = ("1e9", "1e-3") if data.rest_closed else ("1e-3", "1e9")
            body, *rest = _limited(str(i), a, b, element, self.ohms[i])
            gate = [f"VG{i} h{i} 0 DC 1", f"S{i} h{i} g{i} c{i} 0 K{i} OFF", f"RG{i} g{i} 0 1"]
            gate.append(f".nodeset v(g{i})=1")
            return [*gate, body.replace("I=", f"I=v(g{i})*(") + ")", *rest, *lines, model.format(on, off)]
        closed, opened = f"{self.ohms[i]:.12g}", f"{_OFF_OHMS:g}"
        on, off = (opened, closed) if data.rest_closed else (closed, opened)
        return [*lines, f"S{i} {a} {b} c{i} 0 K{i} OFF", model.format(on, off)]


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
    lines = [f"B{i} {a} {b} I={x}*((1+abs({x}/{limit})^{LIMIT_POWER:g})^(-1/{LIMIT_POWER:g})+1e-9)"]
    return [*lines, f".nodeset v({a})={e.volts:.12g}"] if e.volts and a != "0" else lines


def _motor(i: str, a: str, b: str, e: Element, ohms: float) -> list[str]:
    creep, turning = MOTOR_CREEP * e.amps / e.volts, (1 - MOTOR_CREEP) * e.amps
    back = max(e.volts - e.shape * turning, 0.0) / turning**0.5
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
