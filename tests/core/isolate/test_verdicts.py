"""What is said beside the ranking: joints that are worn within their limits, what was tested, and what a slip was meant to be."""

from __future__ import annotations

import math
import re

import numpy as np
import pytest

from pondrel.core.circuit.measure import measure
from pondrel.core.circuit.solve import solve
from pondrel.core.circuit.wear import in_use
from pondrel.core.evidence.asked import Measurement
from pondrel.core.evidence.line import parse_line
from pondrel.core.isolate.advise.other_meters import _tests, other_meters
from pondrel.core.isolate.advise.unplugging import _tests as unplugged_tests
from pondrel.core.isolate.believe.other_diagrams import Variant, loaded
from pondrel.core.isolate.believe.supposed import Trial, shown_by
from pondrel.core.isolate.isolation import Isolation, isolate
from pondrel.core.isolate.predict.workup import Workup

from ...circuits import sheet_of


@pytest.fixture(scope="module")
def plug_workup():
    return Workup(
        sheet_of("""
        BAT: {kind: battery, pins: {p: b+, n: b-}, ohms: 0.01}
        F1: {kind: fuse, pins: {a: b+, b: f}, rating: 15}
        C1: {kind: contact, pins: {a: f, b: x}}
        C2: {kind: contact, pins: {a: x, b: y}}
        R1: {kind: heater, pins: {a: y, b: b-}, volts: 12, watts: 72}
    """)
    )


FED_WIRE = """
    BAT: {kind: battery, pins: {p: b+, n: b-}, ohms: 0.01}
    F1: {kind: fuse, pins: {a: b+, b: f}, rating: 10}
    W1: {kind: wire, pins: {a: f, b: x}, length_m: 3, csa_mm2: 0.75}"""


def after(workup, *lines: str) -> Isolation:
    return isolate(workup, tuple(parse_line(workup.sheet, line, next(iter(workup.sheet.states)))[0] for line in lines))


def test_a_joint_that_is_worse_than_usual_and_within_its_limit_is_worn_and_no_fault(plug_workup):
    found = after(plug_workup, "volts f x 0.072", "volts x y 0.021", "volts b+ b- 12.5", "volts y b- 12.3")
    assert [worn.part for worn in found.worn] == ["C1"]
    (worn,) = found.worn
    assert worn.ohms == pytest.approx(0.072 / 6.1, rel=0.1)
    assert worn.volts < worn.limit == pytest.approx(0.1, abs=0.002)
    assert found.parts["C1"] < found.parts[None]


def test_what_is_as_usual_is_not_worn_and_what_is_bad_is_a_fault(plug_workup):
    assert after(plug_workup, "volts f x 0.02", "volts x y 0.021", "volts b+ b- 12.5").worn == ()
    bad = after(plug_workup, "volts f x 0.52", "volts x y 0.021", "volts b+ b- 12.5")
    assert bad.targets[0].members == ("C1",)
    assert bad.worn == ()


def test_a_verdict_says_what_it_rests_on(plug_workup):
    nothing = after(plug_workup).coverage
    assert set(nothing.untested) == set(plug_workup.sheet.parts)
    fed = after(plug_workup, "volts f b- 12.45").coverage
    assert "F1" in fed.tested and "R1" in fed.untested
    found = after(plug_workup, "volts f b- 12.45", "volts y b- 12.4", "volts b+ b- 12.5", "clamp f x 6.1").coverage
    assert set(found.tested) >= {"F1", "C1", "C2", "R1"}


@pytest.mark.parametrize(
    ("typed", "asks"),
    [
        ("0.376", "Was it 3.76 V?"), ("37.6", "Was it 3.76 V?"), ("-3.76", "Were the leads swapped (3.76 V)?"),
        ("7.36", "two digits the other way round"), ("12.2", "Was that rear step lamp, feed (la2.feed) to battery minus"), ("3760m", ""),
    ],
)  # fmt: skip
def test_a_slip_is_asked_back_with_what_was_probably_meant(demo_workups, typed, asks):
    found = after(
        demo_workups["step_lights"],
        "open volts batt+ 12.47", "open volts la2.feed 12.15", "open volts la2.gnd 3.81",
        f"open volts g3 {typed}", "open volts la1.gnd 3.8",
    )  # fmt: skip
    said = [misfit.says for misfit in found.misfits]
    assert [asks in text for text in said] == ([True] if asks else [])
    assert found.targets[0].members == ("G3",)


def test_the_shape_of_a_slip_makes_no_number_up(demo_workups):
    """A number that nothing explains is called odd, without a guess."""
    lines = (
        "open volts batt+ 12.47",
        "open volts la2.feed 12.15",
        "open volts la2.gnd 3.81",
        "open volts g3 5.53",
        "open volts la1.gnd 3.8",
    )
    (misfit,) = after(demo_workups["step_lights"], *lines).misfits
    assert "?" not in misfit.says


def test_what_no_test_tells_apart_is_unplugged():
    workup = Workup(
        sheet_of(
            FED_WIRE
            + """
    Y1: {kind: solenoid, pins: {a: x, b: b-}, ohms: 12}
    Y2: {kind: solenoid, pins: {a: x, b: b-}, ohms: 12, never: [unplug], because: it holds the load up}
"""
        )
    )
    lines = ("volts f 0.0", "ohms x 1.52", "ohms x 1.52", "ohms f 1.54")
    found = after(workup, *lines)
    off = [advice.test for advice in found.next if advice.test.instrument == "ohms" and advice.test.without]
    assert off and all(test.without in (("Y1",), ("Y1 alone",)) for test in off)
    told = after(workup, *lines, "ohms x 1.74 without Y1")
    assert told.parts["Y1"] < 0.05 < told.parts["Y2"]


def test_a_line_that_is_fed_from_beside_is_a_short_to_plus():
    """Full volts behind an open switch: no open line and no short to ground gives that."""
    workup = Workup(
        sheet_of(
            """
        BAT: {kind: battery, pins: {p: b+, n: b-}, ohms: 0.01}
        S1: {kind: switch, pins: {a: b+, b: s}}
        W1: {kind: wire, pins: {a: s, b: l}, length_m: 3, csa_mm2: 0.75}
        LA1: {kind: lamp, pins: {a: l, b: b-}, watts: 10}
    """,
            states="dark: {}, lit: {S1: closed}",
        )
    )
    found = after(workup, "dark volts l b- 12.2", "dark volts b+ b- 12.4")
    assert {suspect.mode for suspect in found.suspects[:1]} == {"stuck_closed"}  # switches weld oftener than wires chafe through to another
    assert found.parts["W1"] > 0.02
    told = after(workup, "dark volts l b- 12.2", "dark volts b+ b- 12.4", "dark ohms b+ s 0.9", "dark ohms b+ l 0.8")
    assert told.targets[0].members == ("W1",)


DIODE = """
    BAT: {kind: battery, pins: {p: b+, n: b-}, ohms: 0.01}
    S1: {kind: switch, pins: {a: b+, b: f}}
    R1: {kind: resistor, pins: {a: f, b: g}, ohms: 88, tolerance: 0.03}
    D1: {kind: diode, pins: {a: g, k: f}}
    G1: {kind: ground, pins: {a: g, b: b-}}
"""


def test_what_runs_elsewhere_on_the_vehicle_does_not_trouble_an_ohmmeter():
    """With the battery off the body stands above nothing, on sheets with diodes too: such ohms are no surer and no vaguer for it."""
    workup = Workup(sheet_of(DIODE, states="off: {}, on: {S1: closed}"))
    found = after(workup, "off ohms f b- 87.6", "off ohms f g 87.6", "off ohms g b- 0.0")
    spread = np.sqrt((found.belief.evidence.spread(np.zeros(1, dtype=np.intp))[0] ** 2).sum(axis=1))
    assert spread[:2] == pytest.approx([0.03, 0.03], abs=0.004)
    assert found.targets[0].members == ()


def test_a_load_that_nobody_drew_is_told_to_a_percent():
    workup = Workup(sheet_of(DIODE, states="off: {}, on: {S1: closed}"))
    found = after(workup, "suspect two", "off ohms f b- 59.2", "off ohms f g 59.2", "on ohms f b- 59.2", "off ohms g b- 0.0")
    loads = [s.words for s in found.suspects if s.kind == "diagram" and "draws current at f" in s.words]
    (ohms,) = (float(re.search(r"about ([\d.]+) Ω", words)[1]) for words in loads)
    assert ohms == pytest.approx(1.0 / (1.0 / 59.2 - 1.0 / 88.0), rel=0.06)  # the resistor itself is known to 3 %


PUMPS = """
    BAT: {kind: battery, pins: {p: b+, n: b-}, ohms: 0.01}
    F1: {kind: fuse, pins: {a: b+, b: f}, rating: 20}
    SA: {kind: switch, pins: {a: f, b: a1}}
    SB: {kind: switch, pins: {a: f, b: b1}}
    WA: {kind: wire, pins: {a: a1, b: a2}, length_m: 2, csa_mm2: 1.5}
    WB: {kind: wire, pins: {a: b1, b: b2}, length_m: 3, csa_mm2: 1.5}
    MA: {kind: motor, pins: {a: a2, b: g}, amps: 4}
    MB: {kind: motor, pins: {a: b2, b: g}, amps: 4}
    G1: {kind: ground, pins: {a: g, b: b-}}
"""


@pytest.fixture(scope="module")
def pumps():
    return Workup(sheet_of(PUMPS, states="off: {}, pump a: {SA: closed}, both: {SA: closed, SB: closed}"))


def test_a_small_load_that_nobody_drew_accuses_no_wire_of_being_fed(pumps):
    """A radio's memory on the fuse: with the battery off an ohmmeter finds it through every wire that might be chafed to plus."""
    found = after(pumps, "off ohms f b- 382", "pump a volts a2 12.2", "pump a volts b2 0.04", "off ohms f b- 382", "both volts b2 12.1")
    assert found.parts["WA"] < 0.05 and found.parts["WB"] < 0.05
    assert any("not drawn draws current" in s.words for s in found.suspects[:3])


def test_a_fault_is_not_hidden_by_a_load_that_nobody_drew(pumps):
    lines = (
        "off ohms f b- 290",
        "both volts b1 12.3",
        "both volts b2 0.03",
        "both volts a2 12.1",
        "off ohms f b- 290",
        "both volts b2 g 0.01",
    )
    found = after(pumps, *lines)
    assert found.targets[0].members == ("WB",) and found.targets[0].probability > 0.9
    loaded = next(s for s in found.suspects if s.kind == "loaded")
    assert loaded.parts == ("WB",) and "draws current at" in loaded.words


def test_how_a_motor_of_unknown_load_draws_at_half_its_volts_accuses_nobody():
    """A hoist's motor takes the same current at 7 V as at 12; a fan's takes half. Which of the two it is nobody drew."""
    text = """
        BAT: {kind: battery, pins: {p: b+, n: b-}, ohms: 0.01}
        SW: {kind: selector, pins: {c: b+, 1: s1, 2: m}}
        R1: {kind: resistor, pins: {a: s1, b: m}, ohms: 0.6}
        M1: {kind: motor, pins: {a: m, b: g}, amps: 10}
        G1: {kind: ground, pins: {a: g, b: b-}}
    """
    workup = Workup(sheet_of(text, states="low: {SW: 1}, high: {SW: 2}"))
    found = after(workup, "high volts m g 12.2", "low volts s1 m 5.6", "low volts m g 6.7", "high clamp g b- 10.3", "low clamp g b- 9.6")
    assert found.suspects[0].part is None


def test_two_volts_where_twelve_belong_are_an_open_line_with_leakage_and_a_blown_fuse_has_a_cause(plug_workup):
    """An interlock line to a module's pull-down: damp across the blown fuse leaves a few stray volts all along it."""
    loop = Workup(
        sheet_of("""
        BAT: {kind: battery, pins: {p: b+, n: b-}, ohms: 0.01}
        F1: {kind: fuse, pins: {a: b+, b: f}, rating: 5}
        W1: {kind: wire, pins: {a: f, b: x}, length_m: 2, csa_mm2: 0.5}
        W2: {kind: wire, pins: {a: x, b: y}, length_m: 2, csa_mm2: 0.5}
        IN: {kind: module_input, pins: {in: y, gnd: b-}, pull_volts: 0, ohms: 2200}
    """)
    )
    far = after(loop, "volts y b- 2.0")
    assert {s.part for s in far.suspects[:3]} == {"F1", "W1", "W2"} and all("leakage" in s.words for s in far.suspects[:3])
    near = after(loop, "volts y b- 2.0", "volts x b- 2.0", "volts f b- 2.0", "volts b+ b- 12.5")
    first = near.suspects[0]
    assert first.part == "F1" and first.words == "blown or missing, with some leakage across it"
    assert near.mind == "A fuse blows for a reason: look behind it for what took too much before a new one goes in."
    assert not after(plug_workup, "volts b+ b- 12.6", "volts f x 0.9").mind


def test_another_diagram_is_a_used_vehicle_too(pumps):
    """Two pins that change nothing where they are swapped show just what a sound vehicle shows, films on its contacts included."""
    found = after(pumps, "off volts b+ b- 12.6", "both volts a2 g 12.1", "suspect two")
    trial = Trial(found.belief)
    plain = [variant for variant in Variant.all_of(pumps) if variant.ohms is None and not variant.times]
    loads = [variant for variant in Variant.all_of(pumps) if variant.is_load]
    assert not plain  # nothing on this sheet minds which way round it is
    value, _ = trial.predicted(loads[0].network, loaded(loads[0].network, np.array([1e7])))
    assert value[0] == pytest.approx(trial.sound, abs=1e-4)


def test_what_is_seen_and_fits_the_leading_suspect_badly_asks_for_two_faults(pumps):
    readings = ("both volts b+ b- 12.5", "both volts f b- 10.9", "both volts b+ f 1.6", "both volts a2 b- 10.7")
    fits, odd = (after(pumps, *readings, f"both see MB {word}") for word in ("normal", "stopped"))
    assert fits.suspects[0].part == odd.targets[0].members[0] == "F1"
    assert fits.assumed.startswith("One lasting fault at most") and odd.assumed.startswith("Weighed as well")
    assert any(s.kind == "two" and set(s.parts) == {"F1", "MB"} for s in odd.suspects)


def test_a_lamp_or_a_low_impedance_meter_is_weighed_at_the_fed_places_of_suspects(pumps):
    belief = after(pumps, "off volts b+ b- 12.6").belief
    found = {test.instrument for test in _tests(belief, ("SA", "WA"))}
    places = {(test.red, test.state) for test in _tests(belief, ("SA", "WA"))}
    assert found == {"lowz", "lamp"} and places <= {("f", "off"), ("a1", "pump a"), ("a2", "pump a"), ("f", "pump a"), ("a1", "both")}
    assert all(advice.gain_bits >= 0.1 and advice.minutes > 0.0 for advice in other_meters(belief, ("SA", "WA", "F1")))


def test_a_battery_s_own_ohms_are_a_fault_where_they_lose_half_a_volt_here():
    """Twenty-seven milliohms are an old battery's, and no fault of a circuit that draws thirteen amperes."""
    workup = Workup(sheet_of(PUMPS.replace("ohms: 0.01", "ohms: 0.005"), states="off: {}, both: {SA: closed, SB: closed}"))
    items = workup.hypotheses.items
    number = next(i for i, item in enumerate(items) if (item.part, item.mode) == ("BAT", "high_resistance"))
    assert 0.03 < math.exp(workup.hypotheses.severities[number][0]) < 0.05
    found = after(workup, "both volts b+ b- 12.35", "off volts b+ b- 12.6", "both volts a2 g 11.9", "both volts b2 g 11.8")
    assert found.suspects[0].part is None


def test_a_sound_vehicle_is_called_so_though_something_may_come_and_go(pumps):
    """Nothing that is read here differs from new; a wire may have been whole while one measured, and no test tells that from nothing."""
    sheet = pumps.sheet
    shown = {state: solve(in_use(sheet), state).places for state in sheet.states}
    readings = tuple(f"{state} volts {place} b- {volts:.2f}" for state, of in shown.items() for place, volts in of.items() if place != "b-")
    measured = [measure(in_use(sheet), state, *test) for state, test in (("off", ("ohms", "a1", "b-")), ("off", ("ohms", "b1", "b-")))]
    readings += (
        "off ohms f b- OL", f"off ohms a1 b- {measured[0].measured.value:.2f}", f"off ohms b1 b- {measured[1].measured.value:.2f}",
        "both clamp a1 a2 3.9", "both clamp b1 b2 3.9",
    )  # fmt: skip
    found = after(pumps, *readings, "suspect two")
    silent = sum(s.probability for s in found.suspects if s.silent)
    away = sum(s.probability for s in found.suspects if s.silent and s.kind == "sometimes")
    nothing = next(s.probability for s in found.suspects if s.part is None and s.kind == "single")
    assert away > 0.02 and found.standing.target == ()
    assert found.standing.probability == pytest.approx(nothing / (1.0 - silent), abs=1e-6)
    assert found.standing.probability > 0.95 > nothing and "unless it comes and goes and was away" in found.standing.says
    asked = after(pumps, *readings, "when sometimes")
    assert not any(s.silent and s.kind == "sometimes" for s in asked.suspects)  # the customer says that it does


def test_a_winding_that_seems_to_have_lost_turns_is_measured_by_itself():
    """Four ohms where twelve belong may be eight of another load beside it: with the plug off only the winding's own ohms are left."""
    workup = Workup(
        sheet_of(
            FED_WIRE
            + """
    Y1: {kind: solenoid, pins: {a: x, b: g}, ohms: 12}
    G1: {kind: ground, pins: {a: g, b: b-}}
"""
        )
    )
    lines = ("volts b+ b- 12.4", "volts x g 12.1", "clamp f x 3.05", "ohms x g 4.0", "volts g b- 0.05", "volts f b- 12.3")
    found = after(workup, *lines)
    assert found.suspects[0].part == "Y1" and found.standing.probability < 0.95
    assert any(s.beside == "Y1" and s.probability > 0.05 for s in found.suspects)
    alone = [advice for advice in found.next if advice.test.without == ("Y1 alone",)]
    assert alone and alone[0].gain_bits > 0.2
    its_own = after(workup, *lines, "ohms x g 4.0 with Y1 alone")
    assert its_own.standing.probability > 0.99 and not any(s.beside == "Y1" for s in its_own.suspects)
    a_load = after(workup, *lines, "ohms x g 12.0 with Y1 alone")
    turns = next(s.probability for s in a_load.suspects if s.part == "Y1" and s.mode == "shorted")
    assert turns < 0.01 < 0.2 < sum(s.probability for s in a_load.suspects if "not drawn" in s.words)


def test_a_part_that_is_measured_alone_has_no_load_beside_it():
    """Three ohms spliced in at a heater of six: beside it while it is plugged in, not while it is measured by itself."""
    workup = Workup(
        sheet_of(
            FED_WIRE
            + """
    R1: {kind: resistor, pins: {a: x, b: b-}, ohms: 6}
"""
        )
    )
    variant = next(v for v in Variant.all_of(workup) if v.is_load and v.words.endswith("at x"))
    case = loaded(variant.network, np.array([3.0]))

    def ohms(*off: str) -> float:
        test = Measurement("on", "ohms", "x", "b-", off)
        return float(np.expm1(shown_by(variant.network, case, test.setup, (test,))[0][0, 0]))

    assert ohms("R1 alone") == pytest.approx(6.0, rel=0.01)
    assert ohms() == pytest.approx(2.0, rel=0.01)
    assert ohms("R1") == pytest.approx(3.0, rel=0.01)


def test_volts_with_something_unplugged_are_weighed_where_the_supply_is(pumps):
    tests = list(unplugged_tests(after(pumps, "off volts b+ b- 12.6").belief, ("WA", "MA")))
    live = {(test.red, test.state, test.without) for test in tests if test.instrument == "volts"}
    assert live and all(state in ("pump a", "both") for red, state, _ in live if red == "a2")
    assert any(test.instrument == "ohms" for test in tests)
