"""What a used vehicle has that no sheet says: films, a body above the battery post."""

from __future__ import annotations

import math

import numpy as np
import pytest

from pondrel.core.circuit.network import Network
from pondrel.core.circuit.sensitivity import SHARED, Tolerances
from pondrel.core.circuit.solve import solve
from pondrel.core.circuit.wear import BODY_MOVES, FILM_OHMS, FILM_VOLTS, film_ohms, in_use, on_body, working_amps
from pondrel.core.evidence.asked import Measurement
from pondrel.core.isolate.predict.workup import Workup

from ...circuits import sheet_of


def starter(ohms: float):
    """A load on a cable, a contact and a ground, with nothing else."""
    return sheet_of(
        f"""
        BAT: {{kind: battery, pins: {{p: b+, n: b-}}, volts: 12, ohms: 0.005}}
        W1: {{kind: wire, pins: {{a: b+, b: x}}, ohms: 0.001}}
        C1: {{kind: contact, pins: {{a: x, b: feed}}}}
        M1: {{kind: resistor, pins: {{a: feed, b: g}}, ohms: {ohms}}}
        G1: {{kind: ground, pins: {{a: g, b: b-}}}}
        """
    )


def of(network: Network, values, part: str) -> float:
    return float(values[network.element(part)])


def test_a_heavy_circuit_s_contacts_have_thinner_films_than_a_light_one_s():
    light, heavy = (Network.of(starter(ohms)) for ohms in (12.0, 0.06))
    assert of(light, film_ohms(light), "C1") == FILM_OHMS
    amps = of(heavy, working_amps(heavy.sheet), "C1")
    assert amps > 100
    assert of(heavy, film_ohms(heavy), "C1") == pytest.approx(FILM_VOLTS / amps)
    assert of(light, film_ohms(light), "M1") == of(light, film_ohms(light), "BAT") == 0.0


def test_a_vehicle_in_use_drops_a_film_s_volts_more_and_is_the_same_sheet_otherwise():
    sheet = starter(12.0)
    used = in_use(sheet)
    assert list(used.parts) == list(sheet.parts) and used.states.keys() == sheet.states.keys()
    new, old = solve(sheet, "on"), solve(used, "on")
    amps = old.currents["M1"]
    assert old.nodes["x"] - old.nodes["feed"] == pytest.approx(new.nodes["x"] - new.nodes["feed"] + amps * FILM_OHMS, rel=0.02)


def test_the_body_is_known_at_ground_points_alone():
    network = Network.of(starter(12.0))
    assert [part for (part, _), body in zip(network.keys, on_body(network), strict=True) if body] == ["G1"]


def test_one_age_and_one_body_move_all_readings_together():
    """Two grounds stand above the post alike, but for what each has for itself; films go the same way in every contact."""
    sheet = sheet_of(
        """
        BAT: {kind: battery, pins: {p: b+, n: b-}, volts: 12, ohms: 0.005}
        C1: {kind: contact, pins: {a: b+, b: m}}
        C2: {kind: contact, pins: {a: m, b: feed}}
        R1: {kind: resistor, pins: {a: feed, b: g1}, ohms: 12}
        R2: {kind: resistor, pins: {a: feed, b: g2}, ohms: 12}
        G1: {kind: ground, pins: {a: g1, b: b-}}
        G2: {kind: ground, pins: {a: g2, b: b-}}
        """
    )
    workup = Workup(sheet)
    tests = tuple(Measurement("on", "volts", red, black) for red, black in (("g1", "b-"), ("g2", "b-"), ("b+", "m"), ("m", "feed")))
    spread = workup.spread(tests, np.zeros(1, dtype=np.intp))[0]
    covariance = spread @ spread.T
    sigma = np.sqrt(np.diagonal(covariance))
    together = covariance / np.outer(sigma, sigma)
    assert 0.03 < sigma[0] < 0.06 and 0.7 < together[0, 1] < 0.95  # mostly the body, which both share
    assert 0.3 < together[2, 3] < 0.8  # age alike, each film for itself
    assert Tolerances.of(workup.network).count == len(Tolerances.of(workup.network).element) + SHARED


def test_from_state_to_state_the_body_moves_a_little():
    """One ground point in two states with the same current: nearly the same volts, not quite."""
    sheet = sheet_of(
        """
        BAT: {kind: battery, pins: {p: b+, n: b-}, volts: 12, ohms: 0.005}
        R1: {kind: resistor, pins: {a: b+, b: g1}, ohms: 12}
        G1: {kind: ground, pins: {a: g1, b: b-}}
        """,
        states="on: {}, again: {}",
    )
    tests = tuple(Measurement(state, "volts", "g1", "b-") for state in ("on", "again"))
    spread = Workup(sheet).spread(tests, np.zeros(1, dtype=np.intp))[0]
    moved = spread[0] - spread[1]
    assert np.sqrt((moved**2).sum()) == pytest.approx(np.sqrt(2.0) * BODY_MOVES, rel=0.02)


def test_with_the_battery_off_the_body_stands_at_the_post():
    sheet = starter(12.0)
    ohms = Measurement("on", "ohms", "g", "b-")
    spread = Workup(sheet).spread((ohms,), np.zeros(1, dtype=np.intp))[0, 0]
    network = Network.of(sheet)
    grounds = [i for i, e in enumerate(Tolerances.of(network).element) if network.keys[e][0] == "G1"]
    assert len(grounds) == 2 and np.count_nonzero(spread[grounds]) == 1  # its film, and not what the body adds in volts


def test_wires_are_longer_or_warmer_together():
    """Two like wires in a row: what one loses more the other mostly does too, and their fuse has no part in it."""
    sheet = sheet_of(
        """
        BAT: {kind: battery, pins: {p: b+, n: b-}, volts: 12, ohms: 0.005}
        W1: {kind: wire, pins: {a: b+, b: x}, length_m: 5, csa_mm2: 0.5}
        W2: {kind: wire, pins: {a: x, b: y}, length_m: 5, csa_mm2: 0.5}
        R1: {kind: resistor, pins: {a: y, b: b-}, ohms: 4, tolerance: 0}
        """
    )
    tests = (Measurement("on", "volts", "b+", "x"), Measurement("on", "volts", "x", "y"))
    spread = Workup(sheet).spread(tests, np.zeros(1, dtype=np.intp))[0]
    covariance = spread @ spread.T
    together = covariance[0, 1] / math.sqrt(covariance[0, 0] * covariance[1, 1])
    supply = Workup(sheet).supplies
    wires = spread[:, ~supply]
    alone, both = (wires**2).sum(axis=1), float(wires[0] @ wires[1])
    assert together > 0.3 and 0.25 < both / math.sqrt(alone[0] * alone[1]) < 0.6  # 0.33 of the wires, and their films' age
