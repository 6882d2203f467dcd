"""What an instrument shows on a circuit: it is put into the network as what it is, and the network is solved with it.

A voltmeter, a test lamp and a substitute load draw current from what they measure; an ohmmeter brings a source of its own and looks
into every parallel path, diodes included; an ammeter in line takes the place of what joins its two points.
"""

from __future__ import annotations

import math
from dataclasses import dataclass

import numpy as np

from ..base.arrays import Floats
from ..base.brief import quoted
from ..base.errors import ReadingError
from ..base.judgement import judged
from ..base.quantity import Measured, show
from ..meter.instrument import INSTRUMENTS, Instrument, displayed, standard_uncertainty
from .fault import Fault, one_case
from .laws import FILAMENT_POWER, LIGHT_POWER
from .network import Cases, Network
from .operate import dead_points, operating_points
from .part import Element, Law
from .safety import check_acts, check_instrument
from .sheet import Sheet
from .unplug import parts_meant, taken_off

__all__ = ["LEAD_OHMS", "TEST_OHMS", "TEST_VOLTS", "Leads", "Shown", "in_circuit", "measure", "ohms_shown"]

LEAD_OHMS = judged("LEAD_OHMS", 0.15, "Ω", "a pair of test leads")
# An ohmmeter's own source: open-circuit volts behind a resistance, so that diodes show.
TEST_VOLTS, TEST_OHMS = 2.0, 1000.0
_DIODE_OHMS = 10e6
LIVE_VOLTS = 0.001  # more than this between an ohmmeter's leads spoils its reading: half an ohm at its two milliamperes
_LOOK_OHMS = 1e6  # through which an ohmmeter looks for volts before it measures
BEEPS_BELOW = 30.0
_LAMP_VOLTS, _LAMP_WATTS = 12.0, 5.0
LOAD_OHMS = 7.0  # a 21 W bulb's worth


def in_circuit(instrument: str, red: str, black: str, supply_volts: float) -> Element:
    """What ``amps``, ``ohms``, ``lamp`` or ``load`` put between two nodes. A test lamp goes with the supply, 12 V or 24 V."""
    if instrument == "amps":
        return Element("meter", red, black, INSTRUMENTS["amps"].burden_ohms)
    if instrument == "load":
        return Element("meter", red, black, LOAD_OHMS)
    if instrument == "ohms":
        return Element("meter", red, black, TEST_OHMS, law=Law.EMF, volts=TEST_VOLTS)
    rated = _LAMP_VOLTS * (2.0 if supply_volts > 18.0 else 1.0)
    amps = _LAMP_WATTS / rated
    return Element("meter", red, black, rated / amps, law=Law.FILAMENT, volts=rated, amps=amps, shape=FILAMENT_POWER)


def ohms_shown(volts: Floats) -> Floats:
    """What an ohmmeter makes of the volts that its source leaves between the leads; infinite where next to no current flows."""
    amps = (TEST_VOLTS - np.maximum(volts, 0.0)) / TEST_OHMS
    flows = amps > TEST_VOLTS / _DIODE_OHMS / 10.0
    return np.where(flows, np.maximum(volts, 0.0) / np.where(flows, amps, 1.0), math.inf)


@dataclass(frozen=True, slots=True)
class Leads:
    """The test leads: ``ohms`` of the pair, and whether the meter was zeroed with them held together."""

    ohms: float = LEAD_OHMS
    zeroed: bool = True


@dataclass(frozen=True, slots=True)
class Shown:
    """A display: ``measured`` and its ``text``, the standard ``uncertainty`` (SI), the ``true`` value without the instrument, what there
    is to say about it in sentences, and what is at the probes with the instrument there, ``exact`` (SI; nan where it was refused)."""

    measured: Measured
    text: str
    uncertainty: float
    true: float
    notes: tuple[str, ...] = ()
    exact: float = math.nan

    def as_json(self) -> dict[str, object]:
        """The command line's answer; null stands for what is over range or was refused."""
        value = self.measured.value
        return {
            "text": self.text,
            "value": value if math.isfinite(value) else None,
            "uncertainty": self.uncertainty if math.isfinite(self.uncertainty) else None,
            "notes": list(self.notes),
        }


def measure(
    sheet: Sheet, state: str, instrument: str, red: str, black: str, faults: tuple[Fault, ...] = (),
    leads: Leads | None = None, battery_off: bool = True, load_ohms: float = LOAD_OHMS, deviation: float = 0.0,
    without: tuple[str, ...] = (),
) -> Shown:  # fmt: skip
    """What ``instrument`` shows between two places, or for ``clamp`` around whatever joins them directly.

    ``battery_off`` matters to ``ohms`` and ``continuity`` alone; ``deviation`` is where within its accuracy this meter stands (−1 to 1);
    ``without`` names what is unplugged meanwhile, as `unplug.unplugged` gives it.
    Raises ReadingError for an unknown instrument, state or place, and where there is nothing to put the instrument on;
    ForbiddenError where it is never put there.
    """
    if instrument not in INSTRUMENTS:
        raise ReadingError(f"{quoted(instrument)} is no instrument: {', '.join(INSTRUMENTS)} are.")
    tool = INSTRUMENTS[instrument]
    sheet.state(state)
    red, black = sheet.probe(red), sheet.probe(black)
    if red == black:
        raise ReadingError(f"Red and black are both on {red}: put them on two different places.")
    check_instrument(sheet, instrument, (red, black))
    check_acts(sheet, ("unplug",), (), parts_meant(sheet, without))
    bench = _Bench(sheet, state, red, black, faults, leads or Leads(), deviation, without)
    if instrument in ("ohms", "continuity"):
        return bench.ohms(tool, battery_off)
    if instrument == "amps":
        return bench.in_line(tool)
    if instrument == "clamp":
        return bench.clamp(tool)
    if instrument == "ac":
        return bench.alternating(tool)
    if tool.reads_level:
        return bench.level(tool)
    if instrument == "lamp":
        return bench.lamp(tool)
    if instrument == "load":
        return bench.load(tool, load_ohms)
    return bench.across(tool)


class _Bench:
    def __init__(
        self, sheet: Sheet, state: str, red: str, black: str, faults: tuple[Fault, ...], leads: Leads, deviation: float,
        without: tuple[str, ...],
    ):  # fmt: skip
        self.sheet, self.state, self.red, self.black = sheet, state, red, black
        self.faults, self.leads, self.deviation, self.without = faults, leads, deviation, without

    def _solve(self, bridge: Element | None, dead: bool = False, in_place: bool = False) -> tuple[float, float, float]:
        """Volts from red to black, amperes through the bridge, and amperes through all that joins the two directly."""
        network = Network.of(self.sheet, self.state, bridge)
        case = self._case(network)
        joins = network.between(self.red, self.black)
        if in_place:
            if not joins.any():
                raise ReadingError(f"Nothing joins {self.red} and {self.black} directly: an ammeter takes the place of one part.")
            network = network.without(joins)
        points = dead_points(network, case, self.state) if dead else operating_points(network, case, network.positions(self.state))
        ends = np.append(points.volts[0], 0.0)[[network.node(self.red), network.node(self.black)]]
        signs = np.where(network.a == network.node(self.red), 1.0, -1.0)
        return float(ends[0] - ends[1]), float(points.amps[0, -1]), float((points.amps[0] * signs)[joins].sum())

    def _case(self, network: Network) -> Cases:
        case = one_case(network, self.faults)
        return case.also(Cases.opening(1, taken_off(network, self.without))) if self.without else case

    def _shown(self, tool: Instrument, value: float, true: float, notes: tuple[str, ...] = ()) -> Shown:
        read = displayed(tool, value, self.deviation)
        text = "OL" if read.over_range else show(read.value, tool.unit)
        return Shown(read, text, standard_uncertainty(tool, read), true, notes, value)

    def across(self, tool: Instrument) -> Shown:
        true, _, _ = self._solve(None)
        volts, _, _ = self._solve(Element("meter", self.red, self.black, tool.burden_ohms))
        notes: tuple[str, ...] = ()
        if abs(volts - true) > max(0.02 * abs(true), 0.02):
            notes = (f"The meter loads what it measures: {show(true, 'V')} without it.",)
        return self._shown(tool, volts, true, notes)

    def in_line(self, tool: Instrument) -> Shown:
        _, _, true = self._solve(None)
        _, amps, _ = self._solve(Element("meter", self.red, self.black, tool.burden_ohms + self.leads.ohms), in_place=True)
        notes = (f"More than {tool.most:g} A: the meter's own fuse blows.",) if abs(amps) > tool.most else ()
        return self._shown(tool, amps, true, notes)

    def clamp(self, tool: Instrument) -> Shown:
        network = Network.of(self.sheet, self.state)
        if not network.between(self.red, self.black).any():
            raise ReadingError(f"Nothing joins {self.red} and {self.black} directly: a clamp goes around one conductor.")
        _, _, amps = self._solve(None)
        return self._shown(tool, amps, amps)

    def alternating(self, tool: Instrument) -> Shown:
        network = Network.of(self.sheet, self.state)
        points = operating_points(network, self._case(network), network.positions(self.state))
        red, black = (np.array([network.node(node)]) for node in (self.red, self.black))
        volts = float(points.alternating(red, black)[0, 0])
        return self._shown(tool, volts, volts)

    def level(self, tool: Instrument) -> Shown:
        network = Network.of(self.sheet, self.state, Element("meter", self.red, self.black, tool.burden_ohms))
        red, black = network.node(self.red), network.node(self.black)
        points = operating_points(network, self._case(network), network.positions(self.state)).at_level(red, black, tool.name == "top")
        volts = float(points.between(np.array([red]), np.array([black]))[0, 0])
        return self._shown(tool, volts, volts)

    def lamp(self, tool: Instrument) -> Shown:
        true, _, _ = self._solve(None)
        bridge = in_circuit("lamp", self.red, self.black, self.sheet.supply_volts)
        volts, drawn, _ = self._solve(bridge)
        share = (abs(volts) / bridge.volts) ** LIGHT_POWER
        words = "stays dark" if share < 0.003 else "glows" if share < 0.2 else "lights dimly" if share < 0.6 else "lights"
        return self._shown(tool, volts, true, (f"The lamp {words}: {show(volts, 'V')} at {show(abs(drawn), 'A')}.",))

    def load(self, tool: Instrument, ohms: float) -> Shown:
        if not 0.0 < ohms < math.inf:
            raise ReadingError(f"A substitute load has a positive number of ohms, got {quoted(ohms)}.")
        true, _, _ = self._solve(None)
        volts, amps, _ = self._solve(Element("meter", self.red, self.black, ohms))
        inner = (true - volts) / amps if abs(amps) > 1e-9 else math.inf
        note = f"{show(true, 'V')} without load, {show(volts, 'V')} at {show(abs(amps), 'A')}: {show(abs(inner), 'Ω')} behind it."
        return self._shown(tool, volts, true, (note,))

    def ohms(self, tool: Instrument, battery_off: bool) -> Shown:
        # What only insulation holds gives way to the meter and spoils nothing.
        standing, _, _ = self._solve(Element("meter", self.red, self.black, _LOOK_OHMS), dead=battery_off)
        if abs(standing) > LIVE_VOLTS:
            off = "something else still feeds the circuit" if battery_off else "disconnect the battery"
            note = f"There are {show(standing, 'V')} between the leads: an ohmmeter wants a dead circuit; {off}."
            return Shown(Measured(math.nan, 0.0), "live", math.nan, math.nan, (note,))
        volts, _, _ = self._solve(in_circuit("ohms", self.red, self.black, self.sheet.supply_volts), dead=True)
        true = self._between()
        found = float(ohms_shown(np.array(volts)))
        value = found + (0.0 if self.leads.zeroed else self.leads.ohms)
        notes = []
        if math.isfinite(found) and (not math.isfinite(true) or abs(found - true) > 0.05 * found + 0.5):
            notes.append("A diode or other curved part is on the way: the number depends on the meter's own voltage.")
        if tool.name == "continuity":
            notes.append("Beeps." if value < BEEPS_BELOW else "Stays silent.")
        return self._shown(tool, value, true, tuple(notes))

    def _between(self) -> float:
        """Small-signal ohms between the leads, battery off."""
        network = Network.of(self.sheet, self.state)
        points = dead_points(network, self._case(network), self.state)
        red, black = np.array([network.node(self.red)]), np.array([network.node(self.black)])
        ohms = float(points.looks_into(red, black)[0, 0])
        return math.inf if ohms > 1e8 else ohms
