"""What proved jobs teach: it helps where a fleet fails otherwise than the shipped weights say, and does no harm where it does not."""

from __future__ import annotations

import math
from dataclasses import replace

import numpy as np
import pytest

from pondrel.core.isolate import Workup, isolate
from pondrel.core.learn import LEAST_JOBS, Past, Weights, learned_from, part_shares
from pondrel.core.learn.weights import MOST_TIMES
from pondrel.trial.fleet import DIFFERS, drawn, here_of
from tests.circuits import measure


def surprise(share: dict[str, float], true: dict[str, float]) -> float:
    """Nats by which faults of the true shares surprise somebody who expects ``share``, on the average of one fault."""
    total = sum(share.values())
    return -sum(p * math.log(share[part] / total) for part, p in true.items())


def expected(sheet, learned) -> dict[str, float]:
    factors = dict(learned.factors)
    return {part: share * factors.get(part, 1.0) for part, share in part_shares(sheet).items() if share > 0.0}


@pytest.mark.parametrize("name", ["step_lights", "charging", "tail_lift", "cabin_heater"])
def test_in_a_fleet_that_differs_later_faults_surprise_less(demo_sheets, name):
    sheet, gained = demo_sheets[name], []
    for seed in range(6):
        fleet = drawn(sheet, 60, DIFFERS, seed)
        gained.append(surprise(expected(sheet, learned_from((), here_of(sheet))), fleet.share)
                      - surprise(expected(sheet, fleet.learned(here_of(sheet))), fleet.share))  # fmt: skip
    assert min(gained) >= 0.0 and np.mean(gained) > 0.08  # a fleet that looks usual so far is searched as ever


@pytest.mark.parametrize("name", ["step_lights", "charging", "tail_lift", "cabin_heater"])
def test_in_a_fleet_that_does_not_differ_next_to_nothing_is_lost(demo_sheets, name):
    sheet, lost = demo_sheets[name], []
    for seed in range(6):
        fleet = drawn(sheet, 60, 0.0, seed)
        lost.append(surprise(expected(sheet, fleet.learned(here_of(sheet))), fleet.share) - surprise(part_shares(sheet), fleet.share))
    assert np.mean(lost) < 0.015 and max(lost) < 0.06  # of some three nats that a fault surprises at all


def jobs(sheet, part: str, count: int, **here) -> list[Past]:
    return [Past(n, replace(here_of(sheet), **here), (part,)) for n in range(count)]


def test_of_few_jobs_nothing_is_learned(step_light):
    assert learned_from(jobs(step_light, "G1", LEAST_JOBS - 1), here_of(step_light)).factors == ()
    assert learned_from(jobs(step_light, "G1", LEAST_JOBS), here_of(step_light)).factors != ()


def test_what_failed_often_is_likelier_and_the_rest_is_not_ruled_out(step_light):
    learned = learned_from(jobs(step_light, "G1", 18) + jobs(step_light, "C2.1", 10), here_of(step_light))
    factors = dict(learned.factors)
    assert factors["G1"] > factors["C2.1"] > factors["F4"] > 0.4 and factors["G1"] <= MOST_TIMES
    assert [(told.part, told.count, told.jobs) for told in learned.told] == [("G1", 18, 28), ("C2.1", 10, 28)]


def test_what_chance_alone_moves_does_not_count(step_light):
    """Of sixty jobs one part has a few more than its share: the search goes as ever; with many more it does not."""
    few = [job for part in part_shares(step_light) for job in jobs(step_light, part, 8)] + jobs(step_light, "LA1", 2)
    assert dict(learned_from(few, here_of(step_light)).factors)["LA1"] == 1.0
    assert dict(learned_from(few + jobs(step_light, "LA1", 40), here_of(step_light)).factors)["LA1"] > 1.35


def test_the_kind_carries_over_to_another_circuit_and_the_very_part_does_not(step_light, demo_sheets):
    past = jobs(step_light, "G1", 12)
    other = dict(learned_from(past, here_of(demo_sheets["step_lights"])).factors)
    own = dict(learned_from(past, here_of(step_light)).factors)
    assert own["G1"] > other["G3"] > 1.0 and learned_from(past, here_of(demo_sheets["step_lights"])).told == ()


def test_one_model_of_vehicle_counts_more_for_itself_than_for_another(step_light):
    past = jobs(step_light, "G1", 8, model="Hop 16") + jobs(step_light, "LA1", 8, model="Reader 75")
    here = here_of(step_light)
    hop, reader = (dict(learned_from(past, replace(here, model=model)).factors)["G1"] for model in ("Hop 16", "Reader 75"))
    assert hop > reader


def test_the_order_of_the_jobs_does_not_matter_and_several_parts_share_one_job(step_light):
    past = jobs(step_light, "G1", 4) + jobs(step_light, "C2.1", 4)
    assert learned_from(past, here_of(step_light)).factors == learned_from(past[::-1], here_of(step_light)).factors
    shared = [Past(n, here_of(step_light), ("G1", "C2.1")) for n in range(8)]
    assert dict(learned_from(shared, here_of(step_light)).factors)["G1"] == pytest.approx(
        dict(learned_from(past, here_of(step_light)).factors)["G1"], rel=0.05
    )


def test_what_was_learned_moves_the_ranking_and_never_a_proof(step_light, step_light_workup):
    factors = learned_from(jobs(step_light, "C2.1", 20), here_of(step_light)).weights
    taught = step_light_workup.weighed_by(factors)
    plain, learned = isolate(step_light_workup, ()), isolate(taught, ())
    assert learned.parts["C2.1"] > 1.3 * plain.parts["C2.1"]
    assert max(learned.parts, key=learned.parts.get) is None or learned.parts[None] >= 0.1
    readings = measure(step_light, "G1.high_resistance=3", [("lit", place, "batt-") for place in ("batt+", "lamp.feed", "g1")])
    assert isolate(taught, readings).standing.target == ("G1",)
    assert isolate(step_light_workup, ()).parts == plain.parts  # what is believed there is its own


def test_a_workup_that_is_weighed_shares_what_the_circuit_does(step_light):
    plain = Workup(step_light)
    responses = plain.responses
    assert plain.weighed_by(Weights((("G1", 3.0),))).responses is responses
    assert plain.weighed_by(Weights((("G1", 3.0),))).prior_of_nothing != plain.prior_of_nothing
