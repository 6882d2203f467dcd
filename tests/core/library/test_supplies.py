"""Which outputs lose their supply together, and which code is behind what a driver notices."""

from __future__ import annotations

import pytest

from pondrel.core.library.supplies import shared_supplies
from pondrel.core.module.felt import codes_behind, words_of
from tests.served import roster_named


def test_what_feeds_all_valves_and_what_feeds_one(demo_sheets):
    sheet, box = demo_sheets["wired_van_gearbox"], roster_named("carrall").modules["gearbox"]
    found = {shared.outputs: set(shared.parts) for shared in shared_supplies(sheet, box)}
    assert set(found) == {("a", "b", "d", "lockup")}  # each valve has its own wire and driver besides
    assert {"F19", "W80", "W81", "G18"} <= found["a", "b", "d", "lockup"]
    assert not {"YA", "W82", "YD", "W84"} & found["a", "b", "d", "lockup"]


def test_two_corners_share_the_relay_and_not_their_wires(demo_sheets):
    found = shared_supplies(demo_sheets["kneeling_valves"], roster_named("hop_16").modules["air"])
    assert [shared.outputs for shared in found] == [("left_vent", "right_vent")]
    assert {"F8", "W51", "W50"} <= set(found[0].parts) and not {"W52", "W54", "Y1"} & set(found[0].parts)


def test_a_module_whose_outputs_are_not_on_the_sheet_shares_nothing(demo_sheets):
    assert shared_supplies(demo_sheets["step_lights"], roster_named("carrall").modules["gearbox"]) == ()


@pytest.mark.parametrize(
    ("missing", "first"),
    [
        ("fifth and sixth gear are missing, and the lock-up", "P0765-13"),
        ("gears 5 and 6", "P0765-13"),
        ("no first gear", "P0750-13"),
        ("it slips on the road", "P0740-13"),
        ("only third and reverse", "P0657-14"),
        ("second and third gear", "P0755-13"),
    ],
)
def test_what_is_missing_leads_back_to_the_output(missing, first):
    found = codes_behind(roster_named("carrall"), missing)
    assert found[0].code.name == first
    assert len(found) <= 6 and all(one.explains for one in found)


def test_what_nobody_explains_has_nothing_behind_it():
    assert codes_behind(roster_named("carrall"), "the radio crackles") == () and codes_behind(roster_named("carrall"), "") == ()
    assert words_of("The 5th and SIXTH gears are missing!") == ("fifth", "th", "sixth", "gear")
