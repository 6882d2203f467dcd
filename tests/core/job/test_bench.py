"""From the bench into the circuit: what a check says of the part, and how heavily it weighs there."""

from __future__ import annotations

import math

import pytest

from pondrel.core.base.errors import ReadingError
from pondrel.core.bench import case_from, family_of, outcome
from pondrel.core.bench.registry import family_of_kind
from pondrel.core.circuit.kinds import KINDS
from pondrel.core.isolate import isolate
from pondrel.core.job.bench import limits_on, said_of, settings_on, terminals


def said(sheet, part, family, reads, limits=(), settings=()):
    own = family_of(family)
    case = case_from(own, settings, reads, limits)
    return said_of(sheet, part, own, case, outcome(own, case))


@pytest.fixture
def valves(demo_sheets):
    return demo_sheets["kneeling_valves"]


def test_ohms_at_another_temperature_become_a_reading_of_the_part_alone_at_20_degrees(valves):
    (one,) = said(valves, "Y1", "coil", [("ohms", "4.28 @38C")], ["ohms 35..41 @20C"])
    assert one.item.without == ("Y1 alone",) and one.value.startswith("3.997")
    assert one.item.measured.value == pytest.approx(4.28 / 1.07074, rel=1e-3) and "4.28 Ω, read at 38 °C" in one.item.note


def test_over_range_of_a_range_is_no_evidence_and_over_range_of_all_is_a_break(valves):
    assert said(valves, "Y1", "coil", [("ohms", "OL(40)")], ["ohms 35..41"]) == ()
    (one,) = said(valves, "Y1", "coil", [("ohms", "OL")], ["ohms 35..41"])
    assert math.isinf(one.item.measured.value)


def test_a_part_that_fails_by_itself_is_accused_and_one_that_works_is_cleared(valves, demo_workups):
    workup = demo_workups["kneeling_valves"]
    items = [one.item for one in said(valves, "Y1", "coil", [("ohms", "3.50 @20C"), ("click", "no")], ["ohms 35..41 @20C"])]
    assert [item.kind for item in items] == ["reading", "tried"]
    accused = isolate(workup, items)
    assert "Y1" in accused.targets[0].members and accused.targets[0].probability > 0.8
    good = [one.item for one in said(valves, "Y1", "coil", [("ohms", "38.0 @20C"), ("click", "yes")], ["ohms 35..41 @20C"])]
    before = {t.members: t.probability for t in isolate(workup, []).targets}
    after = {t.members: t.probability for t in isolate(workup, good).targets}
    assert after.get(("Y1",), 0.0) < 0.3 * before.get(("Y1",), 1.0)


def test_the_severity_is_that_of_the_shorted_turns(valves, demo_workups):
    items = [one.item for one in said(valves, "Y1", "coil", [("ohms", "20.0 @20C")], ["ohms 35..41 @20C"])]
    leads = isolate(demo_workups["kneeling_valves"], items)
    suspect = next(s for s in leads.suspects if s.part == "Y1" and s.mode == "shorted")
    assert suspect.probability > 0.5


def test_a_relay_s_coil_is_read_between_its_own_pins(valves):
    assert terminals(valves.parts["K8"]) == (valves.parts["K8"].pins["85"], valves.parts["K8"].pins["86"])
    assert terminals(next(p for p in valves.parts.values() if p.kind.name == "wire")) is not None


def test_a_sheet_tells_its_limits_its_system_and_what_is_drawn(valves, demo_sheets):
    coil, relay, lamp = family_of("coil"), family_of("relay"), family_of("lamp")
    assert limits_on(valves, "Y1", coil) == ("ohms 35..41 @20C (valve data sheet (demo))",)
    assert settings_on(valves, "K8", relay)["system"] == "24 V" and limits_on(valves, "K8", relay) == ()
    lights = demo_sheets["step_lights"]
    name = next(n for n, p in lights.parts.items() if p.kind.name == "lamp")
    assert settings_on(lights, name, lamp)["watts"] == f"{lights.parts[name].params['watts']:g}" and limits_on(lights, "nobody", lamp) == ()
    assert limits_on(lights, name, lamp) == () and limits_on(valves, "Y1", family_of("hall")) == ()
    lift = demo_sheets["tail_lift"]
    assert limits_on(lift, "Y3", coil)[0].startswith("ohms ")


def test_what_is_no_part_is_refused(valves):
    with pytest.raises(ReadingError, match="no part"):
        said(valves, "Y9", "coil", [("ohms", "3")])


def test_every_kind_that_a_family_names_is_a_kind_of_part():
    known = [kind for name in ("coil", "relay", "lamp", "thermistor", "terminator") for kind in family_of(name).kinds]
    assert set(known) <= set(KINDS) and family_of_kind("solenoid").name == "coil" and family_of_kind("battery") is None
