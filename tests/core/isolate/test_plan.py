"""Plans, orders of attack, explanations, and the bench that tries the adviser."""

from __future__ import annotations

import dataclasses

import numpy as np
import pytest

from pondrel.core.circuit.read.sheet import parse_sheet
from pondrel.core.evidence.asked import Question
from pondrel.core.evidence.registry import item_of
from pondrel.core.isolate.advise.advice import advise, is_hazardous
from pondrel.core.isolate.advise.effort import Situation
from pondrel.core.isolate.advise.orders import ORDERS, alternatives, next_by_order
from pondrel.core.isolate.advise.plan import Moment, World
from pondrel.core.isolate.believe.belief import update
from pondrel.core.isolate.isolation import isolate
from pondrel.core.isolate.predict.workup import Workup
from pondrel.core.isolate.show.explain import matrix, plain_severity
from pondrel.trial.bench import Case, Vehicle, hidden_cases, run
from pondrel.trial.tally import _policy_minutes, calibration, case_weights, optimal_gap, optimal_minutes, tally

from ...circuits import STEP_LIGHT, measure
from .test_isolation import LIT


def leaves(node):
    return [node] if not node.branches else [leaf for branch in node.branches for leaf in leaves(branch.then)]


def test_the_plan_branches_by_what_a_test_may_show(step_light_workup):
    result = isolate(step_light_workup, ())
    world = World.of(result.belief, result.groups)
    assert all(world.tree(1, advice.test).test == advice.test for advice in result.next[:3])
    tree = world.tree(3)
    assert tree.test is not None and len(tree.branches) >= 2
    assert sum(branch.share for branch in tree.branches) == pytest.approx(1.0, abs=0.1)
    assert max(leaf.targets[0][1] for leaf in leaves(tree)) > max(p for _, p in tree.targets)
    for branch in tree.branches:
        assert branch.word or branch.low < branch.high


def test_every_order_proposes_what_it_says(demo_workups):
    workup = demo_workups["step_lights"]
    result = isolate(workup, ())
    belief = result.belief
    assert next_by_order(belief, "best", result.next) == result.next[0].test
    fuse = next_by_order(belief, "fuse", result.next)
    assert fuse.red == "batt+"
    part = next_by_order(belief, "part", result.next)
    assert part.red.startswith("la")
    told = {a.name: a for a in alternatives(belief, result.groups, result.next)}
    assert set(told) == set(ORDERS) - {"random"}
    assert told["best"].minutes < told["fuse"].minutes


def test_an_order_goes_on_where_it_was(demo_workups):
    workup = demo_workups["step_lights"]
    sheet = workup.sheet
    result = isolate(workup, measure(sheet, "G3.high_resistance=1.6", [("open", "batt+", "batt-"), ("open", "f9.out", "batt-")]))
    assert next_by_order(result.belief, "fuse", result.next).red not in ("batt+", "f9.out")


def _two_part_world(minutes_far: float) -> World:
    """Four equal suspects: one test parts them in two for a minute, another tells all apart but lies behind an access."""
    text = STEP_LIGHT.replace("minutes: 6", f"minutes: {minutes_far}")
    sheet = parse_sheet(text)
    tests = [t for t in Workup(sheet).offered if t.state == "lit" and t.instrument == "volts" and t.black == "batt-"]
    near = next(t for t in tests if t.red == "f4.out")
    far = next(t for t in tests if t.red == "lamp.feed")
    halves = np.array([[1.0, 0.0], [1.0, 0.0], [0.0, 1.0], [0.0, 1.0]])
    start = Moment(np.full(4, 0.25), Situation(state="lit"))
    return World(sheet, [near, far], [halves, np.eye(4)], [(), ()], ["A", "B", "C", "D"], start)


def test_two_steps_ahead_sees_that_a_cheap_half_answer_only_delays():
    """With four minutes' access the half-split is best by bits per minute, yet the dear test is needed all the same."""
    world = _two_part_world(1.5)
    assert world.tests[world.best([world.start])[0]].red == "f4.out"
    assert world.tests[world.wisest([world.start])[0]].red == "lamp.feed"
    everyone = frozenset(range(4))
    wise, greedy = (_policy_minutes(world, everyone, world.start, choose) for choose in (world.wisest, world.best))
    assert wise < greedy
    assert optimal_minutes(world) == pytest.approx(wise)


def test_the_optimum_is_never_beaten_and_access_once_gained_is_free(demo_workups):
    for seed in range(3):
        gap = optimal_gap(demo_workups["step_lights"], seed)
        assert 0.0 < gap.optimal <= gap.adviser + 1e-9
        assert gap.optimal <= gap.greedy + 1e-9


def test_a_hazardous_test_is_not_first_where_a_safe_one_does_as_well(step_light):
    states = dict(step_light.states)
    states["lit again"] = dataclasses.replace(states["lit"], name="lit again", caution="Hands off")
    workup = Workup(dataclasses.replace(step_light, states=dict(reversed(states.items()))))
    best = advise(update(workup, ()))[0].test
    assert best.state != "lit again"
    assert not is_hazardous(workup.sheet, best)


def test_a_state_that_takes_a_second_person_costs_more(step_light):
    states = {name: dataclasses.replace(state, minutes=3.0 if name == "lit" else 0.0) for name, state in step_light.states.items()}
    dear = Workup(dataclasses.replace(step_light, states=states))
    cheap = {a.test: a.minutes for a in advise(update(Workup(step_light), ()), most=40)}
    dearer = {a.test: a.minutes - cheap[a.test] for a in advise(update(dear, ()), most=40) if a.test in cheap}
    assert len(dearer) > 3 and any(not test.dead for test in dearer)
    assert all(more == pytest.approx(3.0 if test.state == "lit" else 0.0) for test, more in dearer.items())


def test_the_matrix_says_what_ruled_each_suspect_out(step_light_workup):
    items = measure(step_light_workup.sheet, "G1.high_resistance=1.4", LIT)
    result = isolate(step_light_workup, items)
    shown = matrix(result, tuple(s for s in result.suspects if s.kind == "single")[:6])
    assert [row.number for row in shown.rows] == [1, 2, 3, 4, 5]
    assert shown.suspects[0].part == "G1"
    assert shown.ruled_out(0) == ()
    assert all(4 in shown.ruled_out(k) for k, s in enumerate(shown.suspects) if s.part not in ("G1",))


def test_a_severity_is_told_in_volts_and_watts(step_light_workup):
    result = isolate(step_light_workup, measure(step_light_workup.sheet, "G1.high_resistance=1.4", LIT))
    words, brief = plain_severity(result.belief, result.suspects[0])
    assert words.startswith(("about 1.3", "about 1.4"))
    assert "loses 1.1" in words and "W of heat" in words and brief.startswith("loses 1.1")


def test_the_bench_finds_what_it_hides(step_light_workup):
    cases = {(c.part, c.mode): c for c in hidden_cases(step_light_workup)}
    for key in (("G1", "high_resistance"), ("W1", "open"), (None, None)):
        outcome = run(step_light_workup, cases[key], seed=1)
        assert outcome.right
        assert not outcome.wrong_condemned
        assert outcome.minutes > 0


def test_the_bench_repeats_what_fits_nobody_and_strikes_it_out(step_light_workup):
    case = next(c for c in hidden_cases(step_light_workup) if (c.part, c.mode) == ("G1", "open"))
    struck = [o for o in (run(step_light_workup, case, seed, blunders=0.15) for seed in range(24)) if len(o.items) < o.tests]
    assert all(o.right for o in struck)
    assert any(o.blunders for o in struck)  # stray volts fit nobody either, and are no blunder


def test_hidden_severities_lie_anywhere_in_their_thirds(step_light_workup):
    first, again, other = (
        [c.faults[0].ohms for c in hidden_cases(step_light_workup, seed) if (c.part, c.mode) == ("G1", "high_resistance")]
        for seed in (1, 1, 2)
    )
    assert first == again != other
    assert len(first) > 1 and first == sorted(first)


def test_what_a_trial_leaves_out_weighs_with_what_it_takes(step_light_workup):
    cases = hidden_cases(step_light_workup)
    whole, third = (case_weights(step_light_workup, cases, range(0, len(cases), step)) for step in (1, 3))
    assert sum(third) == pytest.approx(sum(whole))
    assert third[0] == whole[0]  # the sound circuit is taken in both


def test_the_bench_answers_by_the_circuit_and_not_by_the_tables(step_light_workup):
    """A case whose row says one thing and whose fault another: the fault is what the meter sees."""
    sound = Case(None, None, (), 0)
    real = next(c for c in hidden_cases(step_light_workup) if (c.part, c.mode) == ("W1", "open"))
    test = next(t for t in step_light_workup.offered if (t.state, t.instrument, t.red, t.black) == ("lit", "volts", "lamp.feed", "batt-"))
    mixed = Vehicle(step_light_workup, dataclasses.replace(sound, faults=real.faults), seed=1, blunders=0.0)
    assert abs(mixed.answer(test).measured.value) < 0.1
    assert Vehicle(step_light_workup, sound, seed=1, blunders=0.0).answer(test).measured.value > 10


def test_two_vehicles_differ_and_one_is_the_same_again(step_light_workup):
    case = hidden_cases(step_light_workup)[0]
    test = next(t for t in step_light_workup.offered if (t.state, t.red, t.black) == ("lit", "batt+", "batt-"))
    values = [Vehicle(step_light_workup, case, seed, 0.0).answer(test).measured.value for seed in (1, 1, 2)]
    assert values[0] == values[1] != values[2]


def test_a_check_is_answered_with_one_of_its_words(demo_workups):
    workup = demo_workups["step_lights"]
    answer = Vehicle(workup, hidden_cases(workup)[0], seed=3).answer(Question("see", "front", "open"))
    assert answer.outcome in ("dark", "dim", "normal", "bright")


def test_calibration_weighs_cases_and_scores_by_brier():
    stated = [(0.9, True, 1.0)] * 9 + [(0.9, False, 1.0)] + [(0.1, False, 3.0)] * 10
    deciles, brier = calibration(stated)
    top = next(d for d in deciles if d.low == 0.9)
    assert (top.stated, top.true) == pytest.approx((0.9, 0.9))
    assert brier == pytest.approx((9 * 0.01 + 0.81 + 30 * 0.01) / 40)
    assert tally([]).cases == 0


def test_a_current_that_is_too_much_for_the_meter_is_left_out(step_light_workup):
    short = next(c for c in hidden_cases(step_light_workup) if (c.part, c.mode) == ("W1", "short_to_ground"))
    amps = next(t for t in step_light_workup.offered if t.instrument == "amps" and t.state == "lit")
    vehicle = Vehicle(step_light_workup, dataclasses.replace(short, row=0), seed=1, blunders=0.0)
    assert vehicle.answer(amps) == item_of(step_light_workup.sheet, "", "skip", "amps", "", "not here")
