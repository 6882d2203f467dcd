"""A vehicle that is to be started, simulated over time by ngspice, and none of the others' arithmetic: what the ways are judged by.

A battery whose volts creep under load, every joint of the path, a plunger with pull-in and hold-in windings and the time that it takes,
contacts, a series motor whose field saturates, its inertia, bearings that rub, compressions that come and go with the crank's angle. A
meter shows the mean of what it sees over half a second. No table of a way was tuned on it. Numbers: common practice, no source.
"""

from __future__ import annotations

import math
import random
import tempfile
from dataclasses import dataclass, field
from pathlib import Path

import numpy as np

from ..ngspice import simulated
from .person import NOTHING, read, slips

__all__ = ["Simulated"]

_JOINTS = {
    "plus_clamp": ("bp", "cp"), "plus_cable": ("cp", "s30"), "strap": ("block", "b1"), "body": ("b1", "b2"), "minus_cable": ("b2", "cm"),
    "minus_clamp": ("cm", "0"),
}  # fmt: skip
_SOUND_OHMS = {
    "plus_clamp": 1e-4, "plus_cable": 9e-4, "contacts": 2e-4, "strap": 4e-4, "body": 1e-4, "minus_cable": 4e-4, "minus_clamp": 1e-4,
}  # fmt: skip
_READ_AT = {
    "battery": ("bp", "0"),
    "supply_drop": ("bp", "s45"),
    "ground_drop": ("block", "0"),
    "contacts": ("s30", "s45"),
    "control": ("s50", "case"),
    "at_starter": ("s45", "case"),
    **_JOINTS,
}
_NODES = ("bp", "cp", "s30", "s45", "s50", "case", "block", "b1", "b2", "cm", "w", "shut")
_FROM, _UNTIL = 0.7, 1.2  # seconds over which the meter's display is read
_FREE, _SLOW, _STANDS = 350.0, 150.0, 12.0  # rpm of the crankshaft
_NETLIST = """* a start
Vemf e 0 {emf}
Rohmic e e1 {ohmic}
Rcreep e1 bp {creep}
Ccreep e1 bp {farads}
{joints}
Rcontrol cp c50 {control}
Vkey key 0 PWL(0 0 0.05 0 0.051 1)
Skey c50 s50 key 0 KEY
.model KEY SW(VT=0.5 VH=0.1 RON=0.02 ROFF=1e7)
Rpull s50 s45 {pull}
Rhold s50 case {hold}
Bpull m0 0 V=(V(s50)-V(case))*{plunger}
Rdelay m0 m 1
Cdelay m 0 0.012
Sshut s30 t45 m 0 SHUT
.model SHUT SW(VT=5.2 VH=2.0 RON=1e-5 ROFF=1e6)
Rcontacts t45 s45 {contacts}
Rshut shut 0 1
Bshut 0 shut I=(V(m)>5.2 ? 1 : 0)
Rbrush s45 a1 {brush}
Vamps a1 a2 0
Larm a2 a3 20u
Bback a3 case V={k}*I(Vamps)/(1+abs(I(Vamps))/{saturates})*V(w)
Rflange case block 0.0003
Cinertia w 0 {inertia}
Btorque 0 w I={k}*I(Vamps)*abs(I(Vamps))/(1+abs(I(Vamps))/{saturates})
Brub w 0 I={rub}*tanh(V(w)/0.4)+{compression}*(1+sin(2*V(angle)))*tanh(V(w)/0.4)+0.4*V(w)
Bangle 0 angle I=V(w)
Cangle angle 0 1
Rangle angle 0 1e9
{boost}
.options method=gear reltol=1e-3
.tran 1m {until} 0 0.5m uic
.control
set wr_vecnames
run
wrdata {file} {vectors}
quit
.endc
.end
"""
_BOOST = "Vboost x 0 12.7\nRboost x x1 0.006\nRplus x1 cp 0.002\nVneg x2 0 0\nRneg x2 block 0.002"


@dataclass
class Simulated:
    """A vehicle with one thing wrong, run anew after whatever was done to it, at ``celsius``."""

    fault: str
    rng: random.Random
    cleaned: bool = False
    celsius: float = 20.0
    ohms: dict[str, float] = field(default_factory=dict)

    def __post_init__(self) -> None:
        rng = self.rng
        self.charge = rng.uniform(0.03, 0.25) if self.fault == "battery_flat" else rng.uniform(0.72, 1.0)
        self.worn = rng.uniform(3.5, 9.0) if self.fault == "battery_weak" else rng.uniform(0.8, 1.4)
        self.ohms = {name: ohms * math.exp(rng.uniform(-0.5, 0.5)) for name, ohms in _SOUND_OHMS.items()}
        if self.fault in self.ohms:
            self.ohms[self.fault] = math.exp(rng.uniform(math.log(8e-3), math.log(1.0)))
        self.green = rng.random() < (0.75 if self.fault in ("plus_clamp", "minus_clamp") else 0.1)
        self.brush = rng.uniform(0.006, 0.009)
        if self.fault == "starter_worn":
            self.brush = rng.choice((rng.uniform(0.03, 0.3), 1e3))
        self.rub = rng.uniform(18.0, 28.0) * (rng.uniform(5.0, 9.0) if self.fault == "starter_drags" else 1.0)
        self.compression = rng.uniform(18.0, 30.0)
        if self.fault == "engine":
            self.rub = 4000.0
        if self.fault == "drive":
            self.rub, self.compression = 1.5, 0.0
        self.control = rng.uniform(0.03, 0.08)
        if self.fault == "control":
            self.control = math.exp(rng.uniform(math.log(2.0), math.log(1e5)))
        if self.fault == "immobiliser":
            self.control = 1e6
        # A solenoid fails by its windings or by what they should press together.
        self.plunger = 0.0 if self.fault == "solenoid" and rng.random() < 0.5 else 1.0
        if self.fault == "solenoid" and self.plunger:
            self.ohms["contacts"] = 1e4
        self.lamp_shows = self.fault == "immobiliser" and rng.random() < 0.85
        self._ran: dict[tuple[bool, float], dict[str, float]] = {}

    def _run(self, boosted: bool = False) -> dict[str, float]:
        """Mean volts by node and the crankshaft's rpm while the meter is looked at, and how often the contacts closed."""
        key = (boosted, self.celsius)
        if key in self._ran:
            return self._ran[key]
        # In the cold the acid conducts less and moves more slowly, oil grows thick, copper conducts better.
        acid, oil = 2.0 ** ((20.0 - self.celsius) / 40.0), math.exp((20.0 - self.celsius) / 50.0)
        copper = 1.0 + 0.0039 * (self.celsius - 20.0)
        empty = 1.0 - self.charge
        with tempfile.TemporaryDirectory() as folder:
            file = Path(folder) / "run.data"
            simulated(
                _NETLIST.format(
                    emf=11.7 + 1.05 * self.charge,
                    ohmic=0.0045 * acid * self.worn * (1.0 + 5.0 * empty**2),
                    creep=0.0025 * acid * self.worn * (1.0 + 14.0 * empty**3),
                    farads=60.0,
                    joints="\n".join(f"R{name} {one} {other} {self.ohms[name]}" for name, (one, other) in _JOINTS.items()),
                    contacts=self.ohms["contacts"],
                    control=self.control,
                    pull=0.45 if self.plunger else 1e5,
                    hold=1.3 if self.plunger else 1e5,
                    plunger=self.plunger,
                    brush=self.brush * copper,
                    k=0.0042,
                    saturates=180.0,
                    inertia=0.35,
                    rub=self.rub * oil,
                    compression=self.compression,
                    boost=_BOOST if boosted else "",
                    until=_UNTIL,
                    file=file,
                    vectors=" ".join(f"v({node})" for node in _NODES),
                )
            )
            rows = np.loadtxt(file, skiprows=1)
        times = rows[:, 0]
        seen = (times >= _FROM) & (times <= _UNTIL)
        found = {node: float(np.trapezoid(rows[seen, 2 * i + 1], times[seen]) / np.ptp(times[seen])) for i, node in enumerate(_NODES)}
        shut = rows[:, 2 * _NODES.index("shut") + 1] > 0.5
        found["closed"] = float(np.sum(shut[1:] & ~shut[:-1]))
        found["rpm"] = found["w"] * 60.0 / (2.0 * math.pi)
        self._ran[key] = found
        return found

    def shown(self) -> dict[str, float]:
        """Mean volts by node while the meter is looked at, ``rest`` before it, and the crankshaft's ``rpm``."""
        return {**self._run(), "rest": 11.7 + 1.05 * self.charge}

    @staticmethod
    def _sounds(ran: dict[str, float]) -> str:
        if ran["closed"] == 0.0:
            return "nothing"
        if ran["closed"] > 3.0:
            return "clicks fast"
        if ran["rpm"] < _STANDS:
            return "one click"
        return "turns slowly" if ran["rpm"] < _SLOW else "turns normally" if ran["rpm"] < _FREE else "spins without the engine"

    @property
    def heard(self) -> str:
        """What is heard with the key at start."""
        return self._sounds(self._run())

    @property
    def complained(self) -> bool:
        """Whether its driver would complain, or has nothing wrong."""
        return self.heard != "turns normally" or self.fault in ("immobiliser", NOTHING)

    def answer(self, step: str) -> str:
        """What the person finds."""
        rng, ran = self.rng, self._run()
        if step == "heard":
            other = {"one click": "turns slowly", "turns slowly": "one click", "clicks fast": "one click"}
            return other.get(self.heard, self.heard) if slips(rng) else self.heard
        if step == "rest":
            return read(rng, 11.7 + 1.05 * self.charge)
        if step in _READ_AT:
            red, black = (ran.get(node, 0.0) for node in _READ_AT[step])
            return read(rng, red - black)
        if step == "amps":
            through = (ran["cp"] - ran["s30"]) / self.ohms["plus_cable"]
            amps = through + (max(ran["s50"] - ran["s45"], 0.0) / 0.45 if self.plunger else 0.0)
            return f"{max(amps * rng.gauss(1.0, 0.03), 0.0):.0f}"
        return self._word(step)

    def _word(self, step: str) -> str:
        rng = self.rng
        if step == "lamp":
            return rng.choice(("flashes", "stays on")) if self.lamp_shows else "out"
        if step == "posts":
            return "loose or green" if self.green and not self.cleaned else "sound"
        if step == "boost":
            before, after = self._run(), self._run(boosted=True)
            if self._sounds(after) == "turns normally":
                return "starts" if self.fault != "immobiliser" else "no change"
            return "turns better" if after["rpm"] > before["rpm"] + 20.0 else "no change"
        if step == "engine":
            return "no" if self.fault == "engine" else "yes"
        if step == "tap":
            return "then it turned" if self.fault == "starter_worn" and rng.random() < 0.35 else "no change"
        if step == "tester":
            if self.ohms["plus_clamp"] + self.ohms["minus_clamp"] > 5e-3:
                return "check connection"
            return "replace" if self.worn > 3.0 else "good, recharge" if self.charge < 0.65 else "good"
        if step == "load":
            return f"{11.7 + 1.05 * self.charge - 260.0 * 0.007 * self.worn:.2f} @20C"
        raise KeyError(step)

    def deed(self, name: str) -> None:
        """Clean posts and clamps, or charge the battery."""
        self._ran.clear()
        if name == "charge":
            self.charge = 0.95
            return
        self.cleaned = True
        for clamp in ("plus_clamp", "minus_clamp"):
            self.ohms[clamp] = min(self.ohms[clamp], 1.5e-4)

    @property
    def right(self) -> frozenset[str]:
        """What may be named."""
        if self.fault in ("plus_clamp", "minus_clamp") and self.cleaned:
            return frozenset({"clamps"})
        same = {"starter_worn": "starter", "starter_drags": "starter", "contacts": "solenoid", NOTHING: "none"}
        return frozenset({same.get(self.fault, self.fault)})
