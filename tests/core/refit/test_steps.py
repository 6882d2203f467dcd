"""Steps of the refit: by how it is built, by the way it is mended or lived with, by what is spoken of; and when one may be ticked."""

from __future__ import annotations

import pytest

from pondrel.core.base.errors import PondrelError
from pondrel.core.circuit.sheet import Access
from pondrel.core.evidence.hazards import HAZARDS
from pondrel.core.job.refit import tick
from pondrel.core.refit.board import BOARD, VALUE
from pondrel.core.refit.components import Component
from pondrel.core.refit.living import LIVING
from pondrel.core.refit.step import TORQUE, Step
from pondrel.core.refit.steps import refit_steps
from pondrel.core.remedy.builds import BUILDS
from pondrel.core.remedy.failing import Failure
from pondrel.core.remedy.money import Rates
from pondrel.core.remedy.offer import Offer
from pondrel.core.remedy.options import compared
from pondrel.core.remedy.registry import WAYS
from pondrel.core.remedy.target import Found, Target, member_in_words


def steps(build: str, way: str, words: str = "", opened=(), unplugged=(), came_off=(), hazards=()) -> list[str]:
    target = Target("X", "x", BUILDS[build], Found(1.0, True), "", (member_in_words("x", "failed"),))
    option = compared(target, {way: Offer(way, price=1.0)}, Rates(), 3.0).find(f"{way}:failed")
    return [step.name for step in refit_steps(target, option, words, opened, unplugged, came_off, hazards)]


def test_what_was_opened_last_is_closed_first_after_what_came_off_and_was_unplugged():
    panels = (Access("skirt", 5.0, "skirt"), Access("cover", 3.0, "inner cover", "sharp edge"))
    names = steps("relay", "new", "", panels, ["plug C2"], ["bracket"], ["Battery"])
    assert names == ["polarity", "clips", "plug:plug C2", "back:bracket", "open:cover", "open:skirt", "battery_on"]


@pytest.mark.parametrize("build", sorted(set(BUILDS) - {"component"}))
def test_every_part_that_is_renewed_asks_for_something_at_the_part_itself(build):
    way = "new" if build in WAYS["new"].builds else {"joint": "clean", "wire": "mend_wire"}[build]
    assert len(steps(build, way)) >= 2


def test_steps_follow_from_what_is_mended_and_what_is_said():
    assert {"bare", "tight", "greased"} <= set(steps("joint", "clean"))
    assert {"routed", "clear"} <= set(steps("wire", "mend_wire"))
    assert {"dowels", "crosswise", "cover_oil"} <= set(steps("stator", "new", "stator of the magneto burnt"))
    assert "brake_fluid" in steps("sensor", "new", "brake fluid lamp") and "brake_fluid" not in steps("sensor", "new", "breaker trips")
    assert "brake_fluid" not in steps("switch", "new", "brake light switch")
    assert "gear_oil" in steps("coil", "new", "third gear missing") and "gear_oil" not in steps("motor", "new", "steering gear pump")
    assert "fuel_lines" in steps("coil", "new", "code of the purge valve") and "fuel_lines" not in steps("gauge", "new", "fuel gauge low")
    assert "belt" in steps("motor", "new", "belt squeals") and "belt" not in steps("switch", "new", "seat belt lamp stays on")
    assert "gap" in steps("coil", "new", "roof unit clutch lets go when hot") and "gap" not in steps("switch", "new", "clutch switch")


def test_a_mended_board_has_its_own_steps_once_and_then_those_of_its_unit():
    board = steps("module", "board_repair")
    assert [step.name for step in BOARD] == board[: len(BOARD)] and board.count("static") == 1 and "pins" in board
    assert steps("component", "new") == [step.name for step in BOARD]


@pytest.mark.parametrize(("build", "way"), [("switch", "bypass"), ("module", "power_cycle"), ("motor", "by_hand"), ("lamp", "leave")])
def test_living_with_it_asks_for_what_keeps_it_safe_and_for_nothing_of_a_repair(build, way):
    assert steps(build, way, "brake fluid, belt and coolant") == [step.name for step in LIVING[way]]
    assert steps(build, way)[-1] == "told"


def test_every_way_that_is_no_repair_has_its_steps():
    assert set(LIVING) == {way.name for way in WAYS.values() if not way.cures}


def test_a_torque_may_be_left_out_and_is_told_in_all_units_where_it_is_given():
    step = Step("fixed", "Tightened", wanted=TORQUE)
    assert tick(step, "", ())["text"] == "" and tick(step, "80 in-lb", ())["text"] == "80 lbf·in (9.0 N·m, 6.7 lbf·ft)"
    with pytest.raises(PondrelError, match="needs its unit"):
        tick(step, "tight", ())


def test_what_a_step_wants_must_be_written():
    with pytest.raises(PondrelError, match="Gap: write down gap in mm"):
        tick(Step("gap", "Gap", wanted="gap in mm"), "", ())


def test_the_new_parts_of_a_board_are_ticked_only_where_each_will_do_or_with_a_reason():
    worse = Component("C1", "electrolytic", "100 µF 25 V 105 °C", "filter", new="100 µF 16 V 105 °C")
    right = Component("C1", "electrolytic", "100 µF 25 V 105 °C", "filter", new="220 µF 35 V 105 °C")
    for components, says in (
        ((), "No part of the board"),
        ((Component("C1", "fuse", "2 A"),), "not written down yet"),
        ((worse,), "fewer volts"),
    ):
        with pytest.raises(PondrelError, match=says):
            tick(VALUE, "", components)
    assert tick(VALUE, "", (right,))["step"] == "value" and tick(VALUE, "16 V is what the rail has", (worse,))["text"]


def test_what_is_set_right_or_driven_again_has_its_own_steps():
    assert steps("coil", "adjust", "clutch lets go") == ["set", "fixed", "works", "gap"]
    joint = (member_in_words("x", "failed"),)
    driven = Target("X", "x", BUILDS["alternator"], Found(1.0, True), "", joint, failure=Failure("not_driven", "not driven"))
    belt = compared(driven, {}, Rates(), 3.0).find("belt:failed")
    assert [step.name for step in refit_steps(driven, belt, "", (), (), (), ())] == ["belt", "aligned"]
    clip = Target("X", "x", BUILDS["fuse"], Found(1.0, True), "", joint, failure=Failure("high_resistance", "burnt clip"))
    clean = compared(clip, {}, Rates(), 3.0).find("clean:failed")
    assert {"bare", "clips"} <= {step.name for step in refit_steps(clip, clean, "", (), (), (), ())}


def test_the_part_itself_is_plugged_in_once():
    assert steps("coil", "new", unplugged=["x", "plug C2"]).count("plug") == 1
    assert [name for name in steps("coil", "new", unplugged=["x", "plug C2"]) if name.startswith("plug:")] == ["plug:plug C2"]
    assert "plug:x" in steps("relay", "new", unplugged=["x"])  # a relay's own steps speak of no plug


def test_whatever_was_made_safe_and_can_be_dangerous_again_is_undone_as_the_last_thing():
    back = [hazard.title for hazard in HAZARDS.values() if hazard.back]
    names = steps("coil", "new", "", [], [], [], back)
    assert names[-len(back) :] == ["airbag_on", "battery_on", "springs_on", "run", "down", "isolation"]
    assert steps("coil", "new", "", [], [], [], [])[-1] == "plug"
