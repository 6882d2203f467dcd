"""The plan of a visit: its ways add up, its steps are the adviser's, and seized fasteners count."""

from __future__ import annotations

import pytest

from pondrel.core.evidence.line import parse_line
from pondrel.core.isolate import World, bring, isolate, minutes_spent, visit_from


def visit_of(workup, *lines):
    items = tuple(parse_line(workup.sheet, line, next(iter(workup.sheet.states)))[0] for line in lines)
    found = isolate(workup, items)
    return found, visit_from(World.of(found.belief, found.groups)), items


@pytest.mark.parametrize("name", ["tail_lift", "step_lights", "charging", "heated_glass"])
def test_the_ways_add_up_to_one_and_longer_minutes_find_more(demo_workups, name):
    _, visit, _ = visit_of(demo_workups[name])
    assert sum(e.share for e in visit.endings) == pytest.approx(1.0, abs=1e-9)
    chances = [visit.chance_within(m) for m in (0, 5, 10, 20, 60, 1000)]
    assert chances == sorted(chances) and chances[-1] == pytest.approx(1.0)
    assert 0 <= visit.low <= visit.expected <= visit.high * 1.5 and visit.low <= visit.quantile(0.5) <= visit.high


def test_what_no_test_tells_apart_is_reckoned_and_not_left_out(demo_workups):
    found, _, _ = visit_of(demo_workups["tail_lift"])
    world = World.of(found.belief, found.groups)
    bare = World(world.sheet, (), (), (), [world.names[i] for i in world.target.argmax(axis=1)], world.start)
    (ending,) = visit_from(bare).endings
    assert ending.reckoned and ending.minutes == pytest.approx(bare.left(bare.start)) and ending.minutes > 5.0


def test_what_comes_off_is_counted_once(demo_workups):
    _, visit, _ = visit_of(demo_workups["tail_lift"], "raise said pump stopped", "raise said contactor clicks")
    opened = [name for step in visit.steps for name in step.opens]
    assert opened and len(opened) == len(set(opened))
    first = next(step for step in visit.steps if step.opens)
    again = [s for s in visit.steps[visit.steps.index(first) + 1 :] if s.test.red in ("k2.85", "k2.30", "k2.87", "k2.86", "m1.minus")]
    assert first.minutes >= 5.0 and all(s.minutes < 5.0 for s in again if not s.opens)


def test_seized_fasteners_make_a_way_longer_and_another_one_wiser(demo_workups):
    workup = demo_workups["tail_lift"]
    base = ("raise said pump stopped", "raise said contactor clicks")
    _, before, _ = visit_of(workup, *base)
    found, seized, _ = visit_of(workup, *base, "seized lift_box an hour more")
    assert seized.expected > before.expected + 5.0
    behind = [a for a in found.next if a.test.red in ("k2.30", "k2.87")]
    assert all(a.minutes > 60 for a in behind)
    _, worse, _ = visit_of(workup, *base, "seized lift_box an hour more", "seized lift_box 5 min more")
    assert worse.expected < seized.expected  # what was said last counts


def test_minutes_spent_are_those_of_the_steps_taken(demo_workups):
    _, _, items = visit_of(demo_workups["tail_lift"], "raise volts k2.85 12.4", "raise volts k2.86 0.1")
    sheet = demo_workups["tail_lift"].sheet
    assert minutes_spent(sheet, items) == pytest.approx(5 + 1 + 0.2 + 1, abs=0.8) and minutes_spent(sheet, ()) == 0.0


def test_what_to_bring_follows_from_steps_and_suspects(demo_workups):
    found, visit, _ = visit_of(demo_workups["tail_lift"], "raise said pump stopped")
    needed = bring(demo_workups["tail_lift"].sheet, [s.test for s in visit.steps], found.targets)
    assert any("multimeter" in tool for tool in needed.tools) and needed.people == 1
    assert any("put in only when its cause is found" in text for text in needed.supplies)
    assert not any("fuse" in name for name in needed.after_proof)
