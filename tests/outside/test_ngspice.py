"""Operating points against ngspice (Debian's package), the reference program: every demo sheet and two others, healthy and under every
fault mode, within 0.1 % or 1 mV. A relay's contacts are voltage-controlled switches there, so ngspice finds their position itself."""

from __future__ import annotations

import pytest

from pondrel.core.circuit.fault import Fault
from pondrel.core.circuit.read.sheet import parse_sheet
from pondrel.core.circuit.solve import solve
from pondrel.core.isolate.isolation import isolate
from pondrel.demo.load import SHEETS
from pondrel.trial.ngspice import volts_of

from ..circuits import RELAY_PUMP, STEP_LIGHT, every_fault, points_of, reading_of, sheet_of
from ..gallery import GALLERY
from ..reference import needs_ngspice, ngspice_volts

pytestmark = needs_ngspice

# Cases in which a contact works itself by its own heat have no operating point; `test_transients` follows them in time.
NO_REST = ("switches on and off by itself", "chatters")
TEXTS = {"step_light": STEP_LIGHT, "relay_pump": RELAY_PUMP, **{f.stem: f.read_text() for f in sorted(SHEETS.glob("*.yaml"))}}


@pytest.mark.parametrize("name", [*TEXTS, *GALLERY])
def test_every_state_and_fault_agrees_with_ngspice(name):
    sheet = parse_sheet(TEXTS[name]) if name in TEXTS else sheet_of(GALLERY[name][0], states=GALLERY[name][1])
    wrong = [(), *((f,) for f in every_fault(sheet))]
    answers = volts_of(sheet, [(state, faults) for state in sheet.states for faults in wrong])
    references = iter(answers)
    compared = 0
    for state in sheet.states:
        points = points_of(sheet, state, wrong)
        for faults, volts in zip(wrong, points.volts.tolist(), strict=True):
            reference = next(references)
            if reference is None:
                # What cycles has no operating point; nothing else may be without one.
                notes = solve(sheet, state, faults).notes
                assert any(words in note for note in notes for words in NO_REST), (state, faults)
                continue
            compared += 1
            for node, found in zip(points.network.nodes, volts, strict=True):
                assert found == pytest.approx(reference[node], rel=1e-3, abs=1e-3), (state, faults, node)
    # Where an instrument regulator pulses, most cases of its sheet have no rest.
    assert compared >= (0.3 if "gauges" in name else 0.9) * len(answers)


@pytest.mark.parametrize(
    ("name", "fault", "part"),
    [
        ("step_lights", ("G3", "high_resistance", 1.4), "G3"),
        ("step_lights", ("W4", "open", None), "W4"),
        ("step_lights", ("C12.3", "high_resistance", 2.0), "C12.3"),
        ("step_lights", ("LA2", "open", None), "LA2"),
        ("heated_glass", ("K5", "contact_high_resistance", 0.9), "K5"),
        ("heated_glass", ("G2", "high_resistance", 80.0), "G2"),
        ("heated_glass", ("W33", "high_resistance", 0.3), "W33"),
        ("tail_lift", ("C7.1", "open", None), "C7.1"),
        ("tail_lift", ("K2", "coil_open", None), "K2"),
        ("tail_lift", ("G7", "high_resistance", 6.0), "G7"),
        ("step_lights", None, None),
        ("heated_glass", None, None),
        ("tail_lift", None, None),
    ],
)
@pytest.mark.parametrize("volts", [12.6, 12.15])
def test_readings_that_ngspice_simulates_lead_to_the_true_part(demo_workups, name, fault, part, volts):
    """Another program is the vehicle: its battery is not at nominal, and every place is read in every state to the hundredth."""
    workup = demo_workups[name]
    sheet = workup.sheet
    vehicle = parse_sheet(TEXTS[name].replace("volts: 12.6, ohms", f"volts: {volts}, ohms"))
    faults = (Fault(*fault),) if fault else ()
    readings = []
    for state in sheet.states:
        shown = ngspice_volts(vehicle, state, faults)
        assert shown is not None
        readings += [reading_of(sheet, state, "volts", p, sheet.minus, f"{shown[p]:.2f}") for p in sheet.places if p != sheet.minus]
    result = isolate(workup, tuple(readings))
    first = result.suspects[0].part
    assert part in next((g for g in result.groups if first in g), (first,))
    assert not result.misfits
