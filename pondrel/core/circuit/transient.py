"""A sheet in time: what happens when a state changes, coils charge, timers run and outputs pulse.

Inductances and capacitances become lines α·v − β·i = γ of the step (companion models of the trapezoidal rule; backward Euler in the
first steps after anything switches, since the trapezoidal rule rings there; Nagel 1975, chapter 3). The step follows the local error
of what is stored, estimated against a straight line through the last two points. Contacts are looked at after every step; one
that has moved within a step is approached by halving it. Heat in a strip follows what drives it exponentially.
"""

from __future__ import annotations

import math
from collections.abc import Mapping
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from ..base.arrays import Floats
from ..base.brief import quoted
from ..base.errors import ReadingError, SheetError
from ..base.judgement import judged
from .fault import Fault, farads_left, one_case
from .laws import nonlinear_amps, tame
from .network import LEAST_OHMS, Network
from .operate import operating_points
from .sheet import Sheet
from .tableau import Lines, solve_lines

__all__ = ["CORE_LOSS", "MOST_STEPS", "Trace", "parse_step", "transient"]

# A winding's core eats what a sudden stop would make: a resistance of this many times its ohms beside the inductance limits the spike of
# an unclamped relay coil to some hundred volts.
CORE_LOSS = judged("CORE_LOSS", 30.0, "times", "the resistance of a winding's core, beside its inductance, of its ohms")
MOST_STEPS = 200_000
_TOLERANCE = 2e-4  # local error of a stored voltage or current, as a share of its scale
_ROUNDS = 60
_EARLY = 1e-9
_SMOOTH = 2  # steps by backward Euler after something has switched
# A step this many times the finest is as fine as they get: the one before an edge may be half as long again, and refusing that would
# give it once more.
_FINE = 1.6


@dataclass(frozen=True, eq=False)
class Trace:
    """A circuit in time: ``times`` (T,) s, ``volts`` by node and ``amps`` by part or ``NAME.element`` (T,) each, and ``events``
    (time, sentence) of contacts that moved. ``complete`` is False where it had to stop before its end."""

    times: Floats
    volts: Mapping[str, Floats]
    amps: Mapping[str, Floats]
    events: tuple[tuple[float, str], ...]
    complete: bool = True

    def as_json(self) -> dict[str, object]:
        """The command line's answer."""
        return {
            "times": self.times.tolist(),
            "volts": {node: series.tolist() for node, series in self.volts.items()},
            "amps": {part: series.tolist() for part, series in self.amps.items()},
            "events": [{"time": time, "says": says} for time, says in self.events],
            "complete": self.complete,
        }

    def mean(self, series: Floats, start: float, end: float) -> float:
        """Time average of a series between two times."""
        grid = np.unique(np.clip(np.concatenate([self.times, [start, end]]), start, end))
        return float(np.trapezoid(np.interp(grid, self.times, series), grid) / (end - start))

    def first_above(self, series: Floats, level: float, after: float = 0.0) -> float | None:
        """First time after ``after`` at which a series reaches ``level``; None where it never does."""
        above = (series >= level) & (self.times >= after)
        if not above.any():
            return None
        i = int(above.argmax())
        if i == 0 or series[i] == series[i - 1]:
            return float(self.times[i])
        share = (level - series[i - 1]) / (series[i] - series[i - 1])
        return float(self.times[i - 1] + np.clip(share, 0.0, 1.0) * (self.times[i] - self.times[i - 1]))


def parse_step(text: str) -> tuple[float, str]:
    """Read ``SECONDS:STATE``. Raises ReadingError."""
    time, colon, state = text.partition(":")
    try:
        if colon and state.strip() and math.isfinite(float(time)):
            return float(time), state.strip()
    except ValueError:
        pass
    raise ReadingError(f"{quoted(text)} is no step: write SECONDS:STATE, such as 0.1:on.")


def transient(
    sheet: Sheet, steps: tuple[tuple[float, str], ...], until: float, faults: tuple[Fault, ...] = (), finest: float | None = None
) -> Trace:
    """Follow a sheet through ``steps`` of (time in s, state) up to ``until`` seconds, from rest in the first state.

    ``finest`` bounds the step from below (default a millionth of the whole). Raises ReadingError for steps out of order or an unknown
    state, FaultError for a fault that the sheet cannot have.
    """
    if not steps or not 0.0 < until < math.inf or any(a >= b for (a, _), b in zip(steps, [t for t, _ in steps[1:]] + [until], strict=True)):
        raise ReadingError("Steps are times in seconds that rise and end before the last one, each with a state, such as 0:off 0.1:on.")
    check_followed(sheet, steps)
    return _Runner(sheet, steps, until, faults, finest or until * 1e-6).run()


def check_followed(sheet: Sheet, steps: tuple[tuple[float, str], ...]) -> None:
    """Raise ReadingError for a state that is none, SheetError for one in which a generator turns: only the means of its alternating volts
    are known, not their course."""
    for _, state in steps:
        sheet.state(state)
        for name, part in sheet.parts.items():
            if any(element.alternates for element in part.elements(sheet.position(state, name))):
                says = "turns a generator, whose volts are known as means only: leave it at 0 here"
                raise SheetError(((f"states.{state}.{name}", says),))


class _Stage:
    """What one state fixes: its network, its resistances, and when its outputs pulse."""

    def __init__(self, sheet: Sheet, state: str, faults: tuple[Fault, ...], since: float):
        self.network = network = Network.of(sheet, state)
        self.cases, self.since = one_case(network, faults), since
        ohms, forced = self.cases.of_all(network)
        self.ohms, self.forced = ohms[0], forced[0]
        self.positions = network.positions(state)
        self.pulses = [
            (i, element.contact.duty, element.contact.hertz)
            for i, element in enumerate(network.elements)
            if element.contact and element.contact.positions and sheet.position(state, network.keys[i][0]) == "pulsed"
            and "pulsed" in element.contact.positions and element.contact.hertz > 0.0
        ]  # fmt: skip

    def closed(self, time: float) -> NDArray[np.bool_]:
        """(E,) what the state closes just after ``time``."""
        closed = self.positions[0][1].copy()
        for i, duty, hertz in self.pulses:
            # An edge counts as reached a billionth of a cycle early: times are sums of steps.
            closed[i] = ((time - self.since) * hertz + _EARLY) % 1.0 < duty
        return closed

    def next_edge(self, time: float) -> float:
        """Time of the next switching of a pulsed output, infinite where none pulses."""
        edges = [math.inf]
        for _, duty, hertz in self.pulses:
            cycle = math.floor((time - self.since) * hertz + _EARLY)
            edges += [self.since + (cycle + share) / hertz for share in (duty, 1.0) if cycle + share > (time - self.since) * hertz + _EARLY]
        return min(edges)


class _Runner:
    def __init__(self, sheet: Sheet, steps: tuple[tuple[float, str], ...], until: float, faults: tuple[Fault, ...], finest: float):
        self.sheet, self.until, self.finest = sheet, until, finest
        self.stages = [_Stage(sheet, state, faults, at) for at, state in steps]
        self.starts = [at for at, _ in steps]
        network = self.stages[0].network
        self.farads = farads_left(network, faults)
        self.henries = np.array([e.henries for e in network.elements])
        self.capacitor, self.winding = np.flatnonzero(self.farads), np.flatnonzero(self.henries)
        self.core = np.maximum(network.ohms, LEAST_OHMS) * CORE_LOSS
        self.curved = network.nonlinear
        self.heats = [i for i, c in enumerate(network.controls) if c.data.seconds > 0.0]
        self.events: list[tuple[float, str]] = []

    def run(self) -> Trace:
        stage = self.stages[0]
        start = operating_points(stage.network, stage.cases, stage.positions)
        self.stage, self.time = stage, self.starts[0]
        self.pulled = start.pulled[0].copy()
        self.held: Floats = np.zeros(len(stage.network.keys))  # volts of capacitances, amperes of inductances
        self.held[self.capacitor] = stage.network.drop(start.volts)[0][self.capacitor]
        self.held[self.winding] = start.amps[0][self.winding]
        self.flow: Floats = np.zeros_like(self.held)  # amperes into capacitances, volts across inductances
        self.heat: Floats = np.zeros(len(stage.network.controls))
        self.about = stage.network.drop(start.volts)[0]
        self.closed = stage.closed(self.time)
        nodes, across, amps = self._solve(self.finest, euler=True)
        self.about = across
        self.times, self.nodes, self.through = [self.time], [nodes], [amps]
        follow, h, smooth = 1, self.finest, _SMOOTH
        last: tuple[float, Floats] | None = None  # the step before: its length and what was held at its start
        complete = True
        while self.time < self.until * (1.0 - 1e-12):
            if len(self.times) >= MOST_STEPS:
                complete = False
                break
            border = self.starts[follow] if follow < len(self.starts) else self.until
            edge = min(border, stage.next_edge(self.time))
            h = min(h, edge - self.time)
            if edge - self.time - h < 0.5 * self.finest:
                h = edge - self.time
            nodes, across, amps = self._solve(h, euler=smooth > 0)
            held, flow = self._after(h, across, amps, euler=smooth > 0)
            error = self._error(held, h, last) if smooth <= 0 else 0.0
            if error > 1.0 and h > _FINE * self.finest:
                h = max(self.finest, 0.5 * h)
                continue
            heat = self._warm(h, across, amps, held)
            wanted = self._wanted(across, amps, held, heat)
            if (wanted != self.pulled).any() and h > _FINE * self.finest:
                h = max(self.finest, 0.25 * h)
                continue
            last = (h, self.held)
            self.time += h
            self.held, self.flow, self.heat, self.about = held, flow, heat, across
            self.times.append(self.time)
            self.nodes.append(nodes)
            self.through.append(amps)
            smooth -= 1
            h *= 1.0 if error > 0.5 else 2.0 if smooth < 0 else 1.0
            switched = (wanted != self.pulled).any()
            if switched:
                self._note(wanted)
                self.pulled = wanted
            if follow < len(self.starts) and self.time >= border - 1e-15:
                self.stage = stage = self.stages[follow]
                follow += 1
                switched = True
            closed = stage.closed(self.time)
            if switched or (closed != self.closed).any():
                self.closed = closed
                smooth, h, last = _SMOOTH, self.finest, None
        return self._trace(complete)

    def _conducts(self) -> NDArray[np.bool_]:
        """(E,) which elements let current through."""
        closed = self.closed.copy()
        for i, control in enumerate(self.stage.network.controls):
            closed[control.contact] &= self.pulled[i] != control.data.rest_closed
        conducts: NDArray[np.bool_] = np.where(self.stage.forced == 0, closed, self.stage.forced > 0) & np.isfinite(self.stage.ohms)
        return conducts

    def _lines(self, h: float, euler: bool, conducts: NDArray[np.bool_]) -> Lines:
        """What the straight elements follow over the coming step."""
        network, ohms = self.stage.network, np.maximum(self.stage.ohms, LEAST_OHMS)
        alpha = conducts.astype(float)
        beta = np.where(conducts, ohms, 1.0)
        gamma = np.where(conducts, network.emf, 0.0)
        share = 1.0 if euler else 0.5
        for e in self.winding:
            if conducts[e]:
                give = h * share / self.henries[e] + 1.0 / self.core[e]
                kept = self.held[e] + (0.0 if euler else 0.5 * h / self.henries[e] * self.flow[e])
                alpha[e], beta[e], gamma[e] = 1.0, ohms[e] + 1.0 / give, -kept / give
        for e in self.capacitor:
            give = self.farads[e] / (h * share)
            leak = 1.0 / ohms[e] if conducts[e] else 0.0
            alpha[e], beta[e], gamma[e] = leak + give, 1.0, give * self.held[e] + (0.0 if euler else self.flow[e])
        return Lines(alpha, beta, gamma)

    def _solve(self, h: float, euler: bool) -> tuple[Floats, Floats, Floats]:
        network, k = self.stage.network, self.curved
        conducts = self._conducts()
        lines = self._lines(h, euler, conducts)
        follows = k[conducts[k] & (self.stage.forced[k] != 2)]
        if not follows.size:
            return solve_lines(network, lines)
        data = (network.law[follows], network.volts[follows], network.amps[follows], network.shape[follows])
        ohms = np.maximum(self.stage.ohms[follows], LEAST_OHMS)
        volts, last, shorten = self.about[follows], np.zeros(len(follows)), 1.0
        for turn in range(_ROUNDS):
            amps, slope = nonlinear_amps(data[0], volts, *data[1:], ohms)
            lines.alpha[follows], lines.beta[follows], lines.gamma[follows] = slope, 1.0, slope * volts - amps
            nodes, across, through = solve_lines(network, lines)
            found = tame(data[0], volts, across[follows], *data[1:], ohms)
            move = found - volts
            if (np.abs(move) <= 1e-9 + 1e-9 * np.abs(found)).all():
                break
            if turn > 2 and float(move @ last) < 0.0 and np.abs(move).max() > (1.0 - 0.1 * shorten) * np.abs(last).max():
                shorten = max(shorten / 2.0, 1.0 / 64.0)
            else:
                shorten = min(1.5 * shorten, 1.0)
            last = move
            volts = volts + shorten * move
        return nodes, across, through

    def _after(self, h: float, across: Floats, amps: Floats, euler: bool) -> tuple[Floats, Floats]:
        """What is held, and flows into what holds, at the end of a step."""
        held, flow = np.zeros_like(self.held), np.zeros_like(self.flow)
        ohms, conducts = np.maximum(self.stage.ohms, LEAST_OHMS), self._conducts()
        for e in self.winding:
            if conducts[e]:
                flow[e] = across[e] - ohms[e] * amps[e]
                held[e] = amps[e] - flow[e] / self.core[e]
        for e in self.capacitor:
            held[e] = across[e]
            flow[e] = amps[e] - (across[e] / ohms[e] if conducts[e] else 0.0)
        return held, flow

    def _error(self, held: Floats, h: float, last: tuple[float, Floats] | None) -> float:
        """Local error of the step over what is allowed."""
        stored = np.concatenate([self.capacitor, self.winding])
        if last is None or not stored.size:
            return 0.0
        before, start = last
        foretold = self.held + (self.held - start) * h / before
        scale = np.maximum(np.abs(held), np.abs(self.held))
        scale[self.capacitor] += 0.05
        scale[self.winding] += 1e-4
        # The straight line's error is about h·(h + before)/2·x''; the trapezoidal rule's, a third derivative, is taken as a sixth of it.
        return float((np.abs(held - foretold)[stored] / 6.0 / (_TOLERANCE * scale[stored])).max()) / 4.0

    def _control(self, i: int, across: Floats, amps: Floats, held: Floats) -> float:
        control = self.stage.network.controls[i]
        measure = control.data.measure
        if measure.startswith("amps"):
            value = float(amps[control.coil])
        elif self.henries[control.coil]:  # it is the current in the winding that pulls, and that lags behind the volts
            value = float(held[control.coil]) * max(float(self.stage.ohms[control.coil]), LEAST_OHMS)
        else:
            value = float(across[control.coil]) if self._conducts()[control.coil] else 0.0
        value = value if control.data.signed else abs(value)
        return value * abs(value) if measure.endswith("²") else value

    def _warm(self, h: float, across: Floats, amps: Floats, held: Floats) -> Floats:
        heat = self.heat.copy()
        for i in self.heats:
            seconds = self.stage.network.controls[i].data.seconds
            heat[i] += (self._control(i, across, amps, held) - heat[i]) * -math.expm1(-h / seconds)
        return heat

    def _wanted(self, across: Floats, amps: Floats, held: Floats, heat: Floats) -> NDArray[np.bool_]:
        pulls: NDArray[np.bool_] = self.pulled.copy()
        for i, control in enumerate(self.stage.network.controls):
            value = heat[i] if i in self.heats else self._control(i, across, amps, held)
            pulls[i] = value >= (control.data.drop_out if self.pulled[i] else control.data.pull_in)
        return pulls

    def _note(self, wanted: NDArray[np.bool_]) -> None:
        network = self.stage.network
        for i in np.flatnonzero(wanted != self.pulled):
            contact = network.controls[i].contact
            part, name = network.keys[contact]
            if network.controls[i].data is network.elements[contact].power:
                woken = f"{part} {'has' if wanted[i] else 'is without'} its supply."
                if (self.time, woken) not in self.events:
                    self.events.append((self.time, woken))
                continue
            opens = bool(wanted[i]) == network.controls[i].data.rest_closed
            self.events.append((self.time, f"{part}{'.' + name if name else ''} {'opens' if opens else 'closes'}."))

    def _trace(self, complete: bool) -> Trace:
        network = self.stages[0].network
        nodes, amps = np.array(self.nodes), np.array(self.through)
        shown = {}
        for (part, name), element, column in zip(network.keys, network.elements, amps.T, strict=True):
            if name == "":
                shown[part] = -column if self.sheet.parts[part].kind.delivers else column
            elif element.drawn:
                shown[f"{part}.{name}"] = column
        volts = dict(zip(network.nodes, nodes.T, strict=True)) | {self.sheet.minus: np.zeros(len(nodes))}
        return Trace(np.array(self.times), volts, shown, tuple(self.events), complete)
