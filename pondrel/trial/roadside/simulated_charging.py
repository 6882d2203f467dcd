"""A vehicle that is to be charged, simulated by ngspice: three phases with their reactance, six diodes, a field behind its regulator.

What one reading shows is a tenth of a second of that, solved in time. Over minutes a battery fills: its charge is what has flowed into it,
and its volts follow the current with a delay. No table of a way was tuned on it. Numbers: common practice, no source.
"""

from __future__ import annotations

import math
import random
import tempfile
from dataclasses import dataclass
from pathlib import Path

import numpy as np

from ..ngspice import simulated
from .person import NOTHING, read, slips

__all__ = ["SimulatedCharging"]

_NODES = ("bp", "out", "case", "sensed", "field")
_FROM, _UNTIL, _HERTZ = 0.22, 0.30, 300.0
_MINUTES = 2.5  # between two looks at how the battery fills
_AMPERE_HOURS = 55.0
_NETLIST = """* a battery that is charged
Vemf e 0 {emf}
Rinner e bp {inner}
Rload bp 0 {load}
Rcable out bp {cable}
Rground case 0 {ground}
Rsense bp sensed {sense}
Rinput sensed case 2000
Bduty duty 0 V=min(max(({volts}-(V(sensed)-V(case)))*25,0),1)*{excited}
Rfield duty field 1
Cfield field 0 0.015
Ba ea star V={emfs}*V(field)*sin({omega}*time)
Bb eb star V={emfs}*V(field)*sin({omega}*time-2.0944)
Bc ec star V={emfs}*V(field)*sin({omega}*time+2.0944)
Rstar star case 1e5
La ea a1 {henries}
Lb eb b1 {henries}
Lc ec c1 {henries}
Ra a1 a {winding}
Rb b1 b 0.03
Rc c1 c 0.03
{upper}D1 a out RECT
D2 b out RECT
D3 c out RECT
D4 case a RECT
D5 case b RECT
D6 case c RECT
.model RECT D(IS=1e-9 N=1.6 RS=2m)
.options reltol=2e-3 abstol=1u vntol=1m method=gear
.ic v(field)={excited}
.tran 20u {until} 0 60u uic
.control
set wr_vecnames
run
wrdata {file} {vectors}
quit
.endc
.end
"""


@dataclass
class SimulatedCharging:
    """A vehicle with one thing wrong; the person finds what the simulation has."""

    fault: str
    rng: random.Random
    minutes: float = 0.0
    tightened: bool = False

    def __post_init__(self) -> None:
        rng = self.rng
        flat = self.fault == "coming_up" or (self.fault != NOTHING and rng.random() < 0.5)
        self.charge = rng.uniform(0.05, 0.35) if flat else rng.uniform(0.65, 1.0)
        self.over = 0.0  # volts by which its plates are ahead of its charge
        self.rated = rng.choice((70.0, 90.0, 110.0))
        self.volts = 14.3 + rng.uniform(-0.25, 0.25)
        self.cable = math.exp(rng.uniform(math.log(0.8e-3), math.log(2.2e-3)))
        self.ground = math.exp(rng.uniform(math.log(0.4e-3), math.log(1.2e-3)))
        self.sense = 0.5
        self.excited, self.lamp_dark = 1.0, False
        self.drive, self.belt = 1.0, "loose or squeals" if rng.random() < 0.05 else "sound"
        self.winding, self.diode = 0.03, True
        self.loads = rng.uniform(0.35, 0.6) * self.rated
        getattr(self, f"_with_{self.fault}", lambda: None)()
        self._ran: dict[float, dict[str, float]] = {}

    def _with_excitation(self) -> None:
        self.excited, self.lamp_dark = 0.0, self.rng.random() < 0.85

    def _with_belt(self) -> None:
        self.belt, self.drive = self.rng.choice((("loose or squeals", 0.3), ("slips", 0.12), ("missing", 0.0)))

    def _with_cable(self) -> None:
        self.cable = 1e4 if self.rng.random() < 0.3 else math.exp(self.rng.uniform(math.log(0.03), math.log(0.4)))

    def _with_ground(self) -> None:
        self.ground = math.exp(self.rng.uniform(math.log(0.03), math.log(0.4)))

    def _with_alternator(self) -> None:
        what = self.rng.choice(("brushes", "regulator", "winding"))
        if what == "winding":
            self.winding = 1e4
        else:
            self.excited, self.lamp_dark = 0.0, what == "brushes"

    def _with_diode(self) -> None:
        self.diode = False

    def _with_regulator_high(self) -> None:
        self.volts = self.rng.uniform(15.4, 16.8)

    def _with_sense(self) -> None:
        self.sense = self.rng.uniform(180.0, 500.0)

    def _with_load(self) -> None:
        self.loads = self.rng.uniform(1.25, 1.7) * self.rated

    def _run(self, load: float) -> dict[str, float]:
        """Means while the meter is looked at, the ripple at the posts, and the amperes of cable and battery."""
        if load in self._ran:
            return self._ran[load]
        drive = self.drive
        hertz = max(_HERTZ * drive, 15.0)
        reach = 30.0 * drive if drive else 0.0  # volts of a phase with the field full on
        with tempfile.TemporaryDirectory() as folder:
            file = Path(folder) / "run.data"
            simulated(
                _NETLIST.format(
                    emf=11.75 + 0.95 * self.charge + self.over,
                    inner=0.012 + 0.02 * self.charge,
                    load=12.5 / load,
                    cable=self.cable,
                    ground=self.ground,
                    sense=self.sense,
                    volts=self.volts,
                    excited=self.excited,
                    emfs=reach,
                    omega=2.0 * math.pi * hertz,
                    henries=30.0 * 0.8 / (self.rated * 2.0 * math.pi * _HERTZ),
                    winding=self.winding,
                    upper="" if self.diode else "*",
                    until=_UNTIL,
                    file=file,
                    vectors=" ".join(f"v({node})" for node in _NODES),
                )
            )
            rows = np.loadtxt(file, skiprows=1)
        times = rows[:, 0]
        seen = times >= _FROM
        at = {node: rows[seen, 2 * place + 1] for place, node in enumerate(_NODES)}
        found = {node: float(np.trapezoid(values, times[seen]) / np.ptp(times[seen])) for node, values in at.items()}
        found["ripple"] = float(np.ptp(at["bp"]))
        found["amps"] = (found["out"] - found["bp"]) / self.cable
        found["into"] = found["amps"] - found["bp"] * load / 12.5
        self._ran[load] = found
        return found

    def _passed(self, minutes: float, load: float) -> None:
        """Let time pass with the engine running."""
        left = minutes
        while left > 0.0:
            step = min(left, _MINUTES)
            amps = self._run(load)["into"]
            self.charge = min(max(self.charge + amps * step / 60.0 / _AMPERE_HOURS, 0.0), 1.0)
            aim = min(max(amps, 0.0) * 0.09, 1.9) if amps > 0.0 else 0.0
            self.over += (aim - self.over) * (1.0 - math.exp(-step / 3.0))
            self.minutes += step
            left -= step
            self._ran.clear()

    @property
    def complained(self) -> bool:
        """Whether its driver would complain."""
        return True

    def answer(self, step: str) -> str:
        """What the person finds; nothing where it cannot be done."""
        rng, base = self.rng, 4.0
        if step == "lamp_key":
            return "off" if self.lamp_dark else "on"
        if step == "belt":
            return "sound" if slips(rng) else self.belt
        if step == "rest":
            return read(rng, 11.75 + 0.95 * self.charge)
        if step == "lamp_running":
            return self._lamp()
        if step == "raised":
            self._passed(0.5, base)
            return read(rng, self._run(base)["bp"])
        if step == "trend":
            self._passed(5.0, base)
            return f"{read(rng, self._run(base)['bp'])} @{self.minutes:.0f}min"
        if step == "sense":
            ran = self._run(base)
            return read(rng, ran["bp"] - ran["sensed"]) if self.fault == "sense" or rng.random() < 0.4 else ""
        if step == "excitation":
            return read(rng, rng.uniform(0.0, 7.0) if self.fault == "excitation" else 12.1)
        ran = self._run(self.loads)
        if step == "loaded":
            return read(rng, ran["bp"] - max(self.over, 0.0) * (ran["into"] < 0.0))
        return {
            "cable_drop": lambda: read(rng, ran["out"] - ran["bp"]),
            "ground_drop": lambda: read(rng, abs(ran["case"])),
            "amps": lambda: f"{max(ran['amps'] * rng.gauss(1.0, 0.03), 0.0):.0f}",
            "ripple": lambda: f"{ran['ripple']:.2f}",
        }[step]()

    def _lamp(self) -> str:
        if self.lamp_dark:
            return "off"
        ran = self._run(20.0)
        over = ran["out"] - ran["bp"]
        if ran["amps"] < 1.0 and over < 3.0:
            return "on"
        return "dim" if abs(over) > 1.2 or (not self.diode and self.rng.random() < 0.5) else "off"

    def deed(self, name: str) -> None:
        """Tension the belt."""
        self._ran.clear()
        self.belt, self.drive = "sound", 1.0

    @property
    def right(self) -> frozenset[str]:
        """What may be named."""
        return frozenset({{NOTHING: "none", "coming_up": "none"}.get(self.fault, self.fault)})
