"""Starter and alternator on a sheet: what drags, what excites, what a diode leaves."""

from __future__ import annotations

import pytest

from pondrel.core.circuit.fault import parse_fault
from pondrel.core.circuit.read.sheet import parse_sheet
from pondrel.core.circuit.solve import solve
from pondrel.core.making.typical import made, typical_called


def solved(typical, state, fault="", **given):
    sheet = parse_sheet(made(typical_called(typical), given))
    return solve(sheet, state, (parse_fault(sheet, fault),) if fault else ())


def test_an_alternator_without_its_exciter_does_not_come_up_and_with_it_darkens_its_lamp():
    sound = solved("alternator", "running")
    assert 13.5 < sound.nodes["batt+"] < 14.7 and sound.nodes["gen1.l"] == pytest.approx(sound.nodes["gen1.b+"], abs=0.3)
    for fault in ("H1.open", "F2.open", "GEN1.field_open"):
        still = solved("alternator", "running", fault)
        assert still.nodes["batt+"] < 12.7 and still.currents["GEN1"] == pytest.approx(0.0, abs=0.01), fault
    waiting = solved("alternator", "key on")
    assert 0.3 < waiting.nodes["gen1.l"] < 3.0 and waiting.currents["H1"] > 0.1


def test_a_diode_that_is_open_shows_only_under_load_and_in_the_ripple():
    assert solved("alternator", "running", "GEN1.diode_open").nodes["batt+"] == pytest.approx(14.0, abs=0.3)
    loaded = solved("alternator", "running, loads on", "GEN1.diode_open")
    assert loaded.nodes["batt+"] < 13.3
    assert "missing" in loaded.sights["GEN1"][0].says and "even" in solved("alternator", "running, loads on").sights["GEN1"][0].says


def test_a_starter_that_drags_takes_nearly_twice_and_turns_slowly():
    sound, drags = solved("starter", "start"), solved("starter", "start", "M1.dragging")
    assert drags.currents["M1"] > 1.6 * sound.currents["M1"] and drags.nodes["batt+"] < sound.nodes["batt+"] - 0.5
    assert sound.sights["M1"][0].says == "turns the engine" and drags.sights["M1"][0].value < sound.sights["M1"][0].value


@pytest.mark.parametrize("volts", ["12 V", "24 V"])
def test_every_joint_of_the_heavy_path_can_be_read_across_and_a_sound_one_keeps_its_limit(volts):
    sheet = parse_sheet(made(typical_called("starter"), {"circuit.volts": volts}))
    found = solve(sheet, "start")
    drops = [limit for limit in sheet.limits if limit.what == "drop"]
    assert len(drops) == 10
    for limit in drops:
        assert abs(found.nodes[limit.start] - found.nodes[limit.end]) <= limit.limit.most, limit.where
