"""Vehicles that differ from their sheets as real ones do and as the adviser does not assume, with ngspice as the solver of their volts.

A vehicle is built from the sheet's text and is a circuit of its own: films of milliohms on every contact and terminal, a body that stands
some dozen millivolts above the battery post and elsewhere in each state, wires longer, shorter, warmer or colder than drawn, lamps of the
next rating, an old battery that sags while one measures, now and then an accessory that nobody drew. Its parts follow laws of their own
within what such parts do: filaments bend otherwise, relays pull in and drop out elsewhere, half of all motors turn against a torque that
does not fall with speed, sensors and the inputs of modules have other ohms and volts. What is seen, and ohms on the dead circuit, come of
the same circuit. Slips have every shape that people's slips have. Numbers of ageing: common practice, no source.
"""

from __future__ import annotations

import copy
import dataclasses
import math
import random
from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass
from functools import cached_property
from itertools import pairwise
from typing import Any

import numpy as np

from ..core.base.errors import PondrelError
from ..core.base.quantity import parse_reading
from ..core.circuit.fault import Fault, changes
from ..core.circuit.kinds.loads import motor_ohms
from ..core.circuit.laws import FILAMENT_POWER
from ..core.circuit.measure import measure
from ..core.circuit.network import Cases, Network
from ..core.circuit.operate import Points, operating_points
from ..core.circuit.part import Element, Law, Span
from ..core.circuit.read.plain import Plain, load_plain
from ..core.circuit.read.sheet import read_sheet
from ..core.circuit.sheet import Part, Sheet
from ..core.circuit.solve import solve
from ..core.circuit.unplug import measured_alone
from ..core.evidence.asked import Measurement, Question
from ..core.evidence.items import Item, Observation, Reading
from ..core.evidence.registry import item_of, outcomes_of, word_sort
from ..core.isolate import Workup, isolate
from ..core.isolate.conclude.proof import CERTAIN
from ..core.meter.instrument import instrument
from .bench import BLUNDERS, Case, Outcome, Vehicle, run, typed
from .ngspice import volts_of

__all__ = ["SORTS", "ForeignCase", "Tried", "by_sort", "foreign_cases", "mixed", "try_foreign"]

SORTS = ("sound", "single", "two", "not_drawn")  # the last: something that is on no sheet draws current
FILM_OHMS = (0.005, 0.020)  # of a used contact in a light circuit
FILM_VOLTS = (0.010, 0.050)  # what that may lose at working current in a heavy one
BODY_VOLTS = (0.020, 0.060)  # of a ground point above the battery post, give or take the next in each state
BODY_MOVES = 0.010
LENGTHS, KELVIN = (0.7, 1.3), (-10.0, 60.0)
SAG_VOLTS = 0.3  # of the battery from the first reading to the twelfth
ACCESSORIES = 0.1  # share of vehicles with an undrawn load of some watts
UNDRAWN_AMPS = (1.0, 8.0)  # of a load that somebody spliced in
FED_VOLTS = 6.0  # a place that has as much in some state is where an undrawn load is spliced in
METER_OHMS = (1e6, 1e7)
DRIVER_OHMS = (0.01, 0.25)  # of a module's output where the sheet is silent
MOTOR_OHMS = (0.5, 1.8)  # times what is usual
FILAMENTS, THRESHOLDS = (0.5, 0.62), (0.8, 1.2)  # the power of voltage that a lamp's current goes with; times what a relay's sheet says
SENSORS, REFERENCES = (0.93, 1.07), (0.98, 1.02)  # times its ohms, and its own volts, that a sensor or a module's input has them
PULL_UPS = (0.6, 1.6)  # times what is usual of a module's pull-up where the sheet is silent
HEAVY_MOTORS = 0.5  # share of motors, fans apart, that turn against a torque which is the same at any speed, as a pump's or a hoist's
SLIPS = ("decimal", "prefix", "swapped digits", "digit", "leads", "place", "state")
DORMANT, DORMANT_OHMS = "~dormant ", (3e3, 3e6)  # what electronics without power show an ohmmeter
MATTERS_VOLTS = 0.4  # what a hidden joint's fault loses at the least, at the sound circuit's working current


@dataclass(frozen=True, slots=True)
class ForeignCase:
    """What is wrong with a vehicle: its ``sort``, its ``faults`` (none where sound or not drawn), and ``seed``, which makes the vehicle."""

    sort: str
    faults: tuple[Fault, ...]
    seed: int

    @property
    def parts(self) -> tuple[str, ...]:
        """The parts that are bad."""
        return tuple(fault.part for fault in self.faults)


def mixed(vehicles: int) -> dict[str, int]:
    """So many vehicles parted among the sorts: three of ten sound, five with one fault, one with two, one with something not drawn."""
    counts = {"sound": round(0.3 * vehicles), "two": round(0.1 * vehicles), "not_drawn": round(0.1 * vehicles)}
    return {**counts, "single": vehicles - sum(counts.values())}


def foreign_cases(workup: Workup, seed: int, counts: Mapping[str, int]) -> tuple[ForeignCase, ...]:
    """So many vehicles of each sort; the seed says which faults, and everything else about them."""
    rng = random.Random(f"foreign {seed} {workup.sheet.title}")
    made = [ForeignCase(sort, (), rng.randrange(1 << 30)) for sort in ("sound", "not_drawn") for _ in range(counts.get(sort, 0))]
    for sort, many in (("single", 1), ("two", 2)):
        for _ in range(counts.get(sort, 0)):
            faults: tuple[Fault, ...] = ()
            while len({fault.part for fault in faults}) < many:
                faults = tuple(_some_fault(workup, rng) for _ in range(many))
            made.append(ForeignCase(sort, faults, rng.randrange(1 << 30)))
    return tuple(made)


def _some_fault(workup: Workup, rng: random.Random) -> Fault:
    """A fault as its prior says, at a severity at which it matters to the circuit: one that anything on offer shows."""
    hypotheses, curves, sheet = workup.hypotheses, workup.curves, workup.sheet
    weights = hypotheses.prior[1:].tolist()
    while True:
        h = 1 + rng.choices(range(len(weights)), weights)[0]
        item, grid = hypotheses.items[h], hypotheses.severities[h]
        share = rng.random() if item.swept else 0.0
        row = int(curves.start[np.flatnonzero(curves.hypothesis == h)[0]]) + round(share * (len(grid) - 1))
        log_ohms = float(np.interp(share * (len(grid) - 1), np.arange(len(grid)), grid))
        (fault,) = hypotheses.fault(h, log_ohms)
        if workup.visible[row] and (not item.swept or _matters(workup, sheet, fault)):
            return fault


def _matters(workup: Workup, sheet: Sheet, fault: Fault) -> bool:
    mode = sheet.parts[fault.part].kind.mode(fault.mode)
    assert mode is not None
    if mode.severity is None or mode.severity.span is not Span.SERIES:
        return True
    return (fault.ohms or 0.0) * max(_working_amps(workup)[fault.part], 1e-3) >= MATTERS_VOLTS


def _working_amps(workup: Workup) -> dict[str, float]:
    """The largest current of each part in any state of the sound sheet."""
    amps: dict[str, float] = {}
    for state in workup.sheet.states:
        for part, value in solve(workup.sheet, state).currents.items():
            amps[part] = max(amps.get(part, 0.0), abs(value))
    return amps


class ForeignVehicle(Vehicle):
    """A vehicle of the foreign world, and a person with a meter at it."""

    def __init__(self, workup: Workup, text: str, case: ForeignCase, blunders: float = BLUNDERS):
        rng = random.Random(case.seed)
        hidden = Case(case.parts[0] if case.parts else None, None, case.faults, 0)
        super().__init__(workup, hidden, case.seed, blunders)
        self.rng, self.taken = rng, 0
        self.meter_ohms = math.exp(rng.uniform(*np.log(METER_OHMS)))
        self.laws = random.Random(case.seed + 1)
        electronics = random.Random(case.seed + 2)
        self.own_laws = {name: _laws_of(part, self.laws, electronics) for name, part in workup.sheet.parts.items()}
        self.plain = _aged(load_plain(text).value, workup, rng, case.sort == "not_drawn")
        self.offset = {name: rng.uniform(*BODY_VOLTS) for name, part in workup.sheet.parts.items() if part.kind.name == "ground"}
        self.moves = {(name, state): rng.uniform(-BODY_MOVES, BODY_MOVES) for name in self.offset for state in workup.sheet.states}
        self.faults = case.faults + self._blown()

    def _blown(self) -> tuple[Fault, ...]:
        """Fuses that melt in any state."""
        blown: set[str] = set()
        for state in self.workup.sheet.states:
            said = solve(self._circuit(state), state, self.faults).notes
            blown |= {
                name
                for name, part in self.workup.sheet.parts.items()
                if part.kind.holder and any(n.startswith(f"{name} ") and "blow" in n for n in said)
            }
        return tuple(Fault(name, "open") for name in sorted(blown) if name not in {f.part for f in self.faults})

    def _circuit(self, state: str, meter: tuple[str, str] | None = None, live: bool = True, sag: float = 0.0) -> Sheet:
        """The vehicle's circuit as a sheet of its own; with the body above the post where it is ``live``, and with the meter at it."""
        plain = copy.deepcopy(self.plain)
        parts = plain["parts"]
        if live:
            for name in [name for name in parts if name.startswith(DORMANT)]:
                del parts[name]
        if live:
            for number, name in enumerate(self.offset):
                ground = parts[name]["pins"]
                volts = max(self.offset[name] + self.moves[name, state], 1e-4)
                parts[f"~body{number}"] = {
                    "kind": "battery", "pins": {"p": f"~b{number}", "n": ground["b"]}, "volts": round(volts, 5), "ohms": 1e-4,
                }  # fmt: skip
                ground["b"] = f"~b{number}"
        for part in parts.values():
            if part["kind"] == "battery" and float(part.get("volts", 12.6)) > 1.0:
                part["volts"] = float(part.get("volts", 12.6)) - sag
                part.pop("charge", None)
        if meter:
            parts["~meter"] = {"kind": "resistor", "pins": {"a": meter[0], "b": meter[1]}, "ohms": self.meter_ohms}
        circuit = read_sheet(Plain(plain, None))
        own = {name: _with_laws(part, self.own_laws[name]) if name in self.own_laws else part for name, part in circuit.parts.items()}
        return dataclasses.replace(circuit, parts=own)

    def _blunder(self, test: Measurement, text: str) -> str:
        """A slip of any shape; where that shape changes nothing, the other lead's or another place's number."""
        shape = self.rng.choice(SLIPS)
        if shape in ("place", "state", "digit") or text == "OL":
            return super()._blunder(test, text)
        meter = instrument(test.instrument)
        value = parse_reading(text, meter.unit).value
        if shape == "leads":
            return typed(-value, meter.unit) if not meter.dead else super()._blunder(test, text)
        if shape == "decimal":
            return typed(value * self.rng.choice((0.1, 10.0)), meter.unit)
        if shape == "prefix":  # what no circuit has is refused as it is typed
            return typed(value * (1e-3 if abs(value) >= 1.0 and not meter.dead else self.rng.choice((1e-3, 1e3))), meter.unit)
        digits = [i for i, c in enumerate(text) if c.isdigit()]
        pairs = [(i, j) for i, j in pairwise(digits) if text[i] != text[j]]
        if not pairs:
            return super()._blunder(test, text)
        i, j = self.rng.choice(pairs)
        swapped = list(text)
        swapped[i], swapped[j] = text[j], text[i]
        return "".join(swapped)

    def slipped(self, reading: Reading) -> Item:
        """A reading with a slip in it."""
        text = self._blunder(reading.test, typed(reading.measured.value, reading.meter.unit))
        columns = (reading.state, reading.instrument, reading.red, reading.black)
        return item_of(self.workup.sheet, *columns, text, off=", ".join(reading.without))

    def answer(self, test: Measurement | Question) -> Item:
        """The reading or finding that the person comes back with."""
        self.taken += 1
        if isinstance(test, Question):
            return self._told(test)
        return super().answer(test)

    def _told(self, test: Question) -> Item:
        """What of the sort's words the vehicle's own circuit makes likely; ratios of people's findings are those of the adviser."""
        words = list(outcomes_of(self.workup.sheet, test))
        if word_sort(test).from_circuit and test.state:
            row = word_sort(test).chances(_Own(self), test)[1]
        else:
            row = self.workup.chances_at(test, np.array([self._row]))[0]
        return Observation(test.kind, test.subject, self.rng.choices(words, row.tolist())[0], test.state)

    @cached_property
    def cause(self) -> int:
        """Number of its first fault among the adviser's hypotheses, 0 for none."""
        if not self.case.faults:
            return 0
        first = self.case.faults[0]
        return next(i for i, item in enumerate(self.workup.hypotheses.items) if (item.part, item.mode) == (first.part, first.mode))

    @cached_property
    def _row(self) -> int:
        """A row of the adviser's table near the vehicle's first fault."""
        if not self.case.faults:
            return 0
        fault, hypotheses, curves, h = self.case.faults[0], self.workup.hypotheses, self.workup.curves, self.cause
        start = int(curves.start[np.flatnonzero(curves.hypothesis == h)[0]])
        return start + (int(np.abs(hypotheses.severities[h] - math.log(fault.ohms)).argmin()) if fault.ohms else 0)

    def _shown(self, test: Measurement) -> str:
        tool = instrument(test.instrument)
        sag = SAG_VOLTS * min(self.taken / 12.0, 1.0) + self.rng.gauss(0.0, 0.01)
        if test.instrument != "volts" or test.without:
            circuit = self._circuit(test.state, live=not tool.dead, sag=sag)
            by_itself = measured_alone(test.without)
            if by_itself:
                circuit = _alone(circuit, by_itself)
            faults = tuple(fault for fault in self.faults if fault.part in circuit.parts)
            shown = measure(
                circuit, test.state, test.instrument, test.red, test.black, faults, deviation=self.deviation,
                without=() if by_itself else test.without,
            )  # fmt: skip
            value = shown.measured.value
            if math.isnan(value):
                raise PondrelError(f"The meter refuses {test}: {shown.notes}")
            if not math.isfinite(value):
                return "OL"
            value += self.rng.gauss(0.0, tool.floor)
            return typed(max(value, 0.0) if tool.dead else value, tool.unit)
        circuit = self._circuit(test.state, (test.red, test.black), sag=sag)
        (volts,) = volts_of(circuit, [(test.state, self.faults)])
        if volts is None:  # it cycles: the mean that a meter shows
            volts = solve(circuit, test.state, self.faults).nodes
        value = {**volts, circuit.minus: 0.0}[test.red] - {**volts, circuit.minus: 0.0}[test.black]
        value *= 1.0 + 0.005 * self.deviation
        return typed(value + self.rng.gauss(0.0, tool.floor), tool.unit)


class _Own:
    """A vehicle's circuit as what is seen asks for it: its sound self first, then as it is."""

    def __init__(self, vehicle: ForeignVehicle):
        self.vehicle, self.sheet, self.causes = vehicle, vehicle.workup.sheet, vehicle.workup.causes

    def points(self, state: str) -> Points:
        """Both, in a state."""
        circuit = self.vehicle._circuit(state)
        network = Network.of(circuit, state)
        cases = Cases.of(2, changes(network, np.array([1]), self.vehicle.faults))
        return operating_points(network, cases, network.positions(state))

    def by_cause(self, numbers: Any) -> Any:
        """Of numbers by fault, those of nothing and of the vehicle's first fault."""
        return numbers[[0, self.vehicle.cause]]


def _aged(plain: dict[str, Any], workup: Workup, rng: random.Random, undrawn: bool) -> dict[str, Any]:
    """The sheet's text of a used vehicle."""
    aged: dict[str, Any] = {
        key: copy.deepcopy(plain[key]) for key in ("format", "title", "supply", "places", "access", "parts", "states") if key in plain
    }
    amps, kelvin = _working_amps(workup), rng.uniform(*KELVIN)
    rated = rng.random() < 0.3  # lamps of the next rating
    for name, part in list(aged["parts"].items()):
        own, working = workup.sheet.parts[name], amps.get(name, 0.0)
        kind = own.kind
        if kind.name == "wire":
            _lengthened(part, rng, kelvin)
        elif kind.name == "lamp":
            part["watts"] = float(part["watts"]) * (rng.choice((0.8, 1.25)) if rated and rng.random() < 0.3 else rng.gauss(1.0, 0.05))
        elif kind.name == "battery":
            part["ohms"] = float(part.get("ohms", 0.01)) * rng.uniform(1.0, 2.5)
            part["volts"] = float(part.get("volts", workup.sheet.supply_volts)) + rng.uniform(-0.35, 0.15)
            part.pop("charge", None)
        elif kind.param("contact_ohms"):
            part["contact_ohms"] = _main_ohms(own) + _film(rng, working)
        elif kind.joint and kind.param("ohms"):
            part["ohms"] = _main_ohms(own) + _film(rng, working)
        elif kind.param("on_ohms"):
            part.setdefault("on_ohms", _between(rng, *DRIVER_OHMS))
        elif kind.symbol == "motor":
            part.setdefault("ohms", round(motor_ohms(own.params) * rng.uniform(*MOTOR_OHMS), 5))
        if any(element.asleep for element in own.elements()):
            _electronics(aged["parts"], name, own, rng)
        if kind.load is not None:
            _terminal(aged["parts"], name, part, rng, working)
    places = [place for place in workup.sheet.places if place != workup.sheet.minus]
    # Where somebody would take supply from.
    fed = [place for place in places if place != workup.sheet.plus and _most_volts(workup.sheet, place) > FED_VOLTS]
    if undrawn:
        place = rng.choice(fed or places)
        ohms = workup.sheet.supply_volts / _between(rng, *UNDRAWN_AMPS)
        aged["parts"]["~undrawn"] = {"kind": "resistor", "pins": {"a": place, "b": workup.sheet.minus}, "ohms": round(ohms, 3)}
    elif rng.random() < ACCESSORIES:
        aged["parts"]["~accessory"] = {
            "kind": "resistor", "pins": {"a": rng.choice(fed or [workup.sheet.plus]), "b": workup.sheet.minus},
            "ohms": round(rng.uniform(80.0, 400.0), 1),
        }  # fmt: skip
    return aged


def _main_ohms(part: Part) -> float:
    """Ohms of a part's main path as its sheet has it."""
    return max((e.ohms for e in part.elements() if e.name == "" and math.isfinite(e.ohms)), default=0.003)


def _electronics(parts: dict[str, Any], name: str, own: Part, rng: random.Random) -> None:
    """What an ohmmeter finds at the pins of electronics without power, beside what the sheet's kind has there; none while live."""
    for number, element in enumerate(e for e in own.elements() if e.asleep):
        pins = {"a": own.pins[element.a], "b": own.pins[element.b]}
        parts[f"{DORMANT}{name}{number}"] = {"kind": "resistor", "pins": pins, "ohms": _between(rng, *DORMANT_OHMS)}


@dataclass(frozen=True, slots=True)
class _Laws:
    """How a part of this vehicle differs in kind from its sheet: a filament's ``power``, a relay's ``pull`` (times its thresholds), whether
    its motor is ``heavy``, and how many times its ``ohms`` and ``volts`` a sensor or module has them."""

    power: float
    pull: float
    heavy: bool
    ohms: float
    volts: float


def _laws_of(part: Part, rng: random.Random, electronics: random.Random) -> _Laws:
    ohms, volts = electronics.uniform(*SENSORS), electronics.uniform(*REFERENCES)
    usual = math.exp(electronics.uniform(*np.log(PULL_UPS)))
    if part.kind.name == "module_input":
        ohms = usual if part.params.get("ohms") is None else ohms
    elif part.kind.dial is None or part.kind.joint or part.kind.symbol == "switch":
        ohms = volts = 1.0
    power, pull = rng.uniform(*FILAMENTS), rng.uniform(*THRESHOLDS)
    return _Laws(power, pull, part.kind.name != "fan" and rng.random() < HEAVY_MOTORS, ohms, volts)


def _with_laws(part: Part, laws: _Laws) -> Part:
    """A part whose elements follow laws of their own; the same where its kind has none of those."""

    def build(params: Mapping[str, object], pins: tuple[str, ...]) -> tuple[Element, ...]:
        return tuple(_follows(element, laws) for element in part.kind.build(params, pins))

    return dataclasses.replace(part, kind=dataclasses.replace(part.kind, build=build))


def _follows(element: Element, laws: _Laws) -> Element:
    if element.law is Law.FILAMENT:
        return dataclasses.replace(element, shape=element.shape + laws.power - FILAMENT_POWER)
    if element.law is Law.MOTOR and laws.heavy:
        return dataclasses.replace(element, law=Law.LIMITED, volts=0.0, shape=0.0)
    contact = element.contact
    if contact is None and element.law in (Law.OHMIC, Law.EMF) and math.isfinite(element.ohms) and element.drawn:
        return dataclasses.replace(element, ohms=element.ohms * laws.ohms, volts=element.volts * laws.volts)
    if contact is not None and contact.coil == "coil":
        moved = dataclasses.replace(contact, pull_in=contact.pull_in * laws.pull, drop_out=contact.drop_out * laws.pull)
        return dataclasses.replace(element, contact=moved)
    return element


def _between(rng: random.Random, least: float, most: float) -> float:
    return round(math.exp(rng.uniform(math.log(least), math.log(most))), 4)


def _alone(circuit: Sheet, part: str) -> Sheet:
    """A part by itself, with its terminals; the battery stands beside it, since a sheet has one."""
    own = {name: entry for name, entry in circuit.parts.items() if name == part or name.startswith(f"~{part}.") or entry.kind.posts}
    return dataclasses.replace(circuit, parts=own)


def _most_volts(sheet: Sheet, place: str) -> float:
    return max(solve(sheet, state).places[place] for state in sheet.states)


def _lengthened(part: dict[str, Any], rng: random.Random, kelvin: float) -> None:
    longer = rng.uniform(*LENGTHS)
    if part.get("ohms") is not None:
        part["ohms"] = float(part["ohms"]) * longer * (1.0 + 0.00393 * (kelvin - 20.0))
    else:
        part["length_m"] = float(part["length_m"]) * longer
        part["temperature"] = kelvin


def _film(rng: random.Random, amps: float) -> float:
    return min(rng.uniform(*FILM_OHMS), rng.uniform(*FILM_VOLTS) / max(amps, 1e-6))


def _terminal(parts: dict[str, Any], name: str, part: dict[str, Any], rng: random.Random, amps: float) -> None:
    """A film on each terminal of a load."""
    for pin in ("a", "b"):
        if pin in part["pins"]:
            inner = f"~{name}.{pin}"
            parts[inner] = {"kind": "contact", "pins": {"a": part["pins"][pin], "b": inner}, "ohms": _film(rng, amps)}
            part["pins"][pin] = inner


@dataclass(frozen=True, slots=True)
class Tried:
    """What came of a vehicle: the ``outcome``; whether the true severity of its one fault lies in the stated band (None where it has none,
    or where the fault was not named); of two faults, whether the second one was found when the first was repaired (None of any other); of
    one fault that led, whether it still leads with one more slip among the readings (None of any other)."""

    case: ForeignCase
    outcome: Outcome
    in_band: bool | None
    in_turn: bool | None = None
    after_slip: bool | None = None

    @property
    def named(self) -> bool:
        """Whether a part, or a group, was named: right or wrong."""
        return bool(self.outcome.target) and self.outcome.probability >= CERTAIN

    @property
    def hits(self) -> int:
        """How many of the bad parts are among those that lead."""
        return len(set(self.case.parts) & set(self.outcome.target))

    @property
    def called_sound(self) -> bool:
        """Whether it was sent away as sound."""
        return not self.outcome.target and self.outcome.probability >= CERTAIN

    @property
    def right(self) -> bool:
        """All bad parts lead; of a vehicle without any, no part was named."""
        return self.hits == len(self.case.parts) if self.case.parts else not self.named

    @property
    def condemned_wrongly(self) -> bool:
        """Whether sound parts were condemned with proof, and no bad one among them."""
        return self.outcome.proved and bool(self.outcome.target) and not self.hits


def try_foreign(workup: Workup, text: str, case: ForeignCase, blunders: float = BLUNDERS) -> Tried:
    """Let the adviser run at a vehicle until its stop rule holds or nothing tells anything more."""
    vehicle = ForeignVehicle(workup, text, case, blunders)
    outcome = run(workup, vehicle.case, case.seed, vehicle=vehicle)
    tried = Tried(case, outcome, _in_band(workup, case, outcome))
    if len(case.faults) == 1 and tried.hits:
        return dataclasses.replace(tried, after_slip=_after_a_slip(workup, vehicle, tried))
    return dataclasses.replace(tried, in_turn=_in_turn(workup, text, tried, blunders)) if len(case.faults) == 2 else tried


def _after_a_slip(workup: Workup, vehicle: ForeignVehicle, tried: Tried) -> bool | None:
    """Whether the part at fault still leads when one of its numbers is a slip; None where there is none."""
    items = tried.outcome.items
    numbers = [i for i, item in enumerate(items) if isinstance(item, Reading) and not item.measured.over_range]
    if not numbers:
        return None
    at = vehicle.rng.choice(numbers)
    reading = items[at]
    assert isinstance(reading, Reading)
    found = isolate(workup, (*items[:at], vehicle.slipped(reading), *items[at + 1 :]))
    return tried.case.parts[0] in found.targets[0].members


def _in_turn(workup: Workup, text: str, tried: Tried, blunders: float) -> bool:
    """Whether the other of two faults is found when the one that was named is repaired and the vehicle, which still fails, tested again."""
    left = tuple(fault for fault in tried.case.faults if fault.part not in tried.outcome.target)
    if len(left) != 1:
        return not left
    again = ForeignVehicle(workup, text, dataclasses.replace(tried.case, faults=left), blunders)
    return left[0].part in run(workup, again.case, tried.case.seed + 1, vehicle=again).target


def _in_band(workup: Workup, case: ForeignCase, outcome: Outcome) -> bool | None:
    if len(case.faults) != 1 or case.faults[0].ohms is None or case.faults[0].part not in outcome.target:
        return None
    fault = case.faults[0]
    suspects = isolate(workup, outcome.items).suspects
    band = next((s.severity for s in suspects if (s.part, s.mode, s.kind) == (fault.part, fault.mode, "single")), None)
    return band[1] <= (fault.ohms or 0.0) <= band[2] if band else None


def by_sort(tried: Sequence[Tried]) -> dict[str, dict[str, float]]:
    """By sort of vehicle: how many; the shares that were right, with at least one bad part leading, called sound, named and condemned
    wrongly; of two faults, both found one after the other; the share of true severities within the stated band, and of parts that still
    lead after one more slip; mean tests and minutes."""
    return {sort: _told(own) for sort in SORTS if (own := [t for t in tried if t.case.sort == sort])}


def _told(tried: Sequence[Tried]) -> dict[str, float]:
    def share(found: Iterable[bool]) -> float:
        flags = list(found)
        return sum(flags) / len(flags) if flags else math.nan

    bands = [t.in_band for t in tried if t.in_band is not None]
    slips = [t.after_slip for t in tried if t.after_slip is not None]
    return {
        "vehicles": len(tried),
        "right": share(t.right for t in tried),
        "one_led": share(t.hits > 0 for t in tried),
        **({"found_in_turn": share(bool(t.in_turn) for t in tried)} if tried[0].in_turn is not None else {}),
        "called_sound": share(t.called_sound for t in tried),
        "named_wrongly": share(t.named and not t.hits for t in tried),
        "condemned_wrongly": share(t.condemned_wrongly for t in tried),
        **({"severity_in_band": share(bands)} if bands else {}),
        **({"leads_after_a_slip": share(slips)} if slips else {}),
        "tests": sum(t.outcome.tests for t in tried) / len(tried),
        "minutes": sum(t.outcome.minutes for t in tried) / len(tried),
    }
