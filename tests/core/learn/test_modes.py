"""How parts fail here: the counts of proved jobs over the shipped weights of their modes."""

from __future__ import annotations

import math
from dataclasses import replace

import numpy as np
import pytest

from pondrel.core.isolate import isolate
from pondrel.core.learn import Past, Weights, learned_from, mode_shares
from pondrel.core.learn.modes import PSEUDO_COUNTS, mode_factors
from pondrel.trial.fleet import here_of


def jobs(sheet, part: str, mode: str, count: int, circuit: str = "") -> list[Past]:
    here = here_of(sheet)
    return [Past(n, replace(here, circuit=circuit or here.circuit), (part,), {part: mode}) for n in range(count)]


def factors_of(past, sheet) -> dict[tuple[str, str], float]:
    return {(part, mode): factor for part, mode, factor in mode_factors(past, here_of(sheet))}


def test_the_very_part_is_counted_by_the_rule_of_the_book(step_light):
    share = mode_shares(step_light)["G1"]
    found = factors_of(jobs(step_light, "G1", "high_resistance", 9) + jobs(step_light, "G1", "open", 3), step_light)
    for mode, count in (("high_resistance", 9), ("open", 3)):
        assert found["G1", mode] == pytest.approx((PSEUDO_COUNTS * share[mode] + count) / (PSEUDO_COUNTS + 12) / share[mode], abs=1e-3)


def test_a_job_counts_once_for_its_own_part_and_for_its_kind_elsewhere(step_light, demo_sheets):
    past = jobs(step_light, "G1", "open", 12)
    share = mode_shares(step_light)["G1"]["open"]
    once = (PSEUDO_COUNTS * share + 12) / (PSEUDO_COUNTS + 12) / share
    assert factors_of(past, step_light)["G1", "open"] == pytest.approx(once, abs=1e-3)
    assert factors_of(past, demo_sheets["step_lights"])["G3", "open"] == pytest.approx(once, abs=1e-3)
    assert ("LA1", "open") not in factors_of(past, demo_sheets["step_lights"])  # another kind


def test_the_modes_of_a_part_keep_their_sum(step_light):
    found = factors_of(jobs(step_light, "G1", "open", 7) + jobs(step_light, "G1", "high_resistance", 2, "elsewhere"), step_light)
    share = mode_shares(step_light)["G1"]
    assert sum(share[mode] * found["G1", mode] for mode in share) == pytest.approx(1.0, abs=1e-3)


def test_a_job_that_does_not_say_how_teaches_nothing_of_it(step_light):
    plain = [Past(n, here_of(step_light), ("G1",)) for n in range(9)]
    assert mode_factors(plain, here_of(step_light)) == () and learned_from(plain, here_of(step_light)).factors
    strange = [replace(job, modes={"G1": "no such mode", "X9": "open"}) for job in plain]
    assert all(factor == pytest.approx(1.0) for factor in factors_of(strange, step_light).values())


def test_what_was_learned_of_modes_moves_them_within_their_part(step_light, step_light_workup):
    learned = Weights((), learned_from(jobs(step_light, "G1", "open", 40), here_of(step_light)).modes)
    plain, taught = (isolate(workup, ()) for workup in (step_light_workup, step_light_workup.weighed_by(learned)))

    def chance(found, mode: str) -> float:
        return sum(s.probability for s in found.suspects if s.part == "G1" and s.mode == mode)

    assert chance(taught, "open") > 1.8 * chance(plain, "open") and chance(taught, "high_resistance") < chance(plain, "high_resistance")
    assert taught.parts["G1"] == pytest.approx(plain.parts["G1"], rel=0.02)


@pytest.mark.parametrize(("differs", "least"), [(1.2, 0.02), (0.0, -0.03)])
def test_fleets_whose_modes_differ_surprise_less_and_others_hardly_more(demo_sheets, differs, least):
    """Nats by which the mode of a later fault surprises less than by the shipped weights: 60 jobs on each of four sheets, six fleets."""
    gained = []
    for name in ("step_lights", "charging", "tail_lift", "cabin_heater"):
        sheet = demo_sheets[name]
        shipped, here = mode_shares(sheet), here_of(sheet)
        for seed in range(6):
            rng = np.random.default_rng(seed)
            true = {}
            for part, modes in shipped.items():
                weight = np.array(list(modes.values())) * np.exp(differs * rng.standard_normal(len(modes)))
                true[part] = dict(zip(modes, (weight / weight.sum()).tolist(), strict=True))
            parts = list(true)
            share = np.array([here.shares[part] for part in parts])
            past = []
            for n in range(60):
                part = parts[rng.choice(len(parts), p=share / share.sum())]
                past.append(Past(n, here, (part,), {part: str(rng.choice(list(true[part]), p=list(true[part].values())))}))
            factor = {(part, mode): value for part, mode, value in mode_factors(past, here)}
            gained.append(sum(
                here.shares[part] / share.sum() * p * math.log(factor.get((part, mode), 1.0))
                for part, modes in true.items() for mode, p in modes.items()
            ))  # fmt: skip
    assert np.mean(gained) > least
