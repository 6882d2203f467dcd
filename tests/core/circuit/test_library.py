"""What the library tells of a sheet: flaws with their lines, faults with their effects, limits kept or left."""

from __future__ import annotations

import pytest

from pondrel.core.base.errors import ReadingError
from pondrel.core.circuit.effects import fault_effects, judged_limits, named_faults
from pondrel.core.circuit.fault import parse_fault
from pondrel.core.circuit.read.flaws import flaws_of
from pondrel.core.circuit.read.sheet import parse_sheet
from pondrel.core.circuit.solve import solve

from ...circuits import STEP_LIGHT

LIMITS = """\
limits:
  - {what: drop, from: g1, to: batt-, state: lit, most: 0.1, source: common practice}
  - {what: volts, at: lamp.feed, state: lit, least: 11.5, source: common practice}
  - {what: amps, of: LA1, state: lit, least: 0.7, most: 0.95, source: plate}
  - {what: ohms, of: LA1, least: 1, most: 3, temperature: 20, source: plate}
"""


def test_a_good_sheet_has_no_flaws():
    assert flaws_of(STEP_LIGHT + LIMITS) == ()


@pytest.mark.parametrize(
    ("old", "new", "path"),
    [
        ("rating: 10", "rating: x", "parts.F4.rating"),
        ("kind: contact", "kind: contract", "parts.C2.1.kind"),
        ("behind: rear_panel}\n  g1", "behind: front}\n  g1", "places.lamp.feed.behind"),
        ("{S1: closed}", "{S9: closed}", "states.lit.S9"),
        ("most: 0.1,", "", "limits.1"),
        ("of: LA1, least: 1", "of: LA9, least: 1", "limits.4.of"),
        ("state: lit, least: 11.5", "least: 11.5", "limits.2.state"),
        ("least: 0.7, most: 0.95", "least: 2, most: 0.95", "limits.3"),
        (", source: plate}\n  - {what: ohms", "}\n  - {what: ohms", "limits.3.source"),
        ("what: volts, at: lamp.feed", "what: volts, from: lamp.feed", "limits.2.at"),
    ],
)
def test_a_flaw_stands_at_the_line_that_holds_it(old, new, path):
    text = STEP_LIGHT + LIMITS
    assert old in text
    broken = text.replace(old, new, 1)
    wanted = next(n for n, (a, b) in enumerate(zip(text.splitlines(), broken.splitlines(), strict=True), 1) if a != b)
    found = flaws_of(broken)
    assert path in [flaw.path for flaw in found]
    assert {flaw.line for flaw in found} == {wanted}


def test_text_that_is_no_yaml_says_where():
    (flaw,) = flaws_of(STEP_LIGHT.replace("rating: 10}", "rating: 10"))
    assert flaw.says.startswith("is not YAML")
    assert flaw.line > 10


def test_each_fault_s_effect_is_the_place_that_changes_most():
    sheet = parse_sheet(STEP_LIGHT)
    effects = {(e.fault.part, e.fault.mode): e for e in fault_effects(sheet, "lit")}
    assert set(effects) == {(fault.part, fault.mode) for fault, _ in named_faults(sheet)}
    ground = effects["G1", "open"]
    assert ground.place == "g1" and ground.sound < 0.01 and ground.then > 12.0
    for effect in effects.values():
        then, sound = solve(sheet, "lit", (effect.fault,)).places, solve(sheet, "lit").places
        assert effect.then == pytest.approx(then[effect.place], abs=1e-6)
        assert abs(effect.then - effect.sound) == pytest.approx(max(abs(then[p] - sound[p]) for p in sheet.places), abs=1e-6)
    with pytest.raises(ReadingError):
        fault_effects(sheet, "flying")


def test_limits_are_judged_in_their_own_state_and_not_in_another():
    sheet = parse_sheet(STEP_LIGHT + LIMITS)
    assert [j.kept for j in judged_limits(sheet, solve(sheet, "lit"))] == [True, True, True, None]
    bad = solve(sheet, "lit", (parse_fault(sheet, "G1.high_resistance=1.4"),))
    assert [j.kept for j in judged_limits(sheet, bad)] == [False, True, True, None]
    assert [j.value for j in judged_limits(sheet, solve(sheet, "idle"))] == [None] * 4
