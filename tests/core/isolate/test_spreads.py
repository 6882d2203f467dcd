"""What tolerances do to readings: the same however few are asked for at once, kept as far as there is room, and weighed for each alone."""

from __future__ import annotations

import numpy as np
import pytest

from pondrel.core.evidence.asked import Measurement
from pondrel.core.isolate import Workup, isolate
from pondrel.core.isolate.believe import spreads
from pondrel.core.isolate.believe.fit import Fit

from ...circuits import reading_of
from .answers import readings


@pytest.mark.parametrize("name", ["ramp_motor", "cabin_light", "charging"])
def test_few_pairs_of_nodes_are_answered_as_many_are(demo_workups, name):
    """One test by itself goes another way through the ports than thirty together: by what each port means to it."""
    workup = demo_workups[name]
    rows, most = np.arange(0, workup.curves.rows, 3), 0.0
    for setup in {t.setup for t in workup.on_offer}:
        tests = tuple(t for t in workup.on_offer if t.setup == setup)[:30]
        together = workup.spread_of_setup(setup, tests, rows)
        alone = np.concatenate([workup.spread_of_setup(setup, (test,), rows) for test in tests], axis=1)
        assert len(tests) > 2 and alone == pytest.approx(together, rel=1e-6, abs=1e-7)
        most = max(most, float(np.abs(together).max()))
    assert most > 0.1


def evidence(workup: Workup, repeats: int = 1) -> Fit:
    return Fit(workup, readings(workup.sheet, workup, 2) * repeats)


def anew(fit: Fit, rows: np.ndarray) -> np.ndarray:
    every = np.arange(len(fit.readings))
    return fit.sagging(fit._made_spread(rows, every), every)


def test_what_is_kept_is_what_is_made_anew(demo_workups):
    """Asked for in parts, in any order, again, and by readings that are the same test: only the supply sags on from one to the next."""
    workup = Workup(demo_workups["cabin_light"].sheet)
    fit = evidence(workup, repeats=2)
    some, more = np.array([5, 90, 14, 300]), np.array([14, 7, 300, 301, 5])
    fit.spread(some, np.array([0, 2]))
    fit.spread(more, np.array([1]))
    for rows in (some, more, np.concatenate([some, [400, 401]])):
        assert fit.spread(rows) == pytest.approx(anew(fit, rows), abs=1e-12)
    first, again = np.split(fit.spread(some), 2, axis=1)
    rest = np.arange(workup.tolerances) != workup.sag
    assert (first[:, :, rest] == again[:, :, rest]).all()
    assert (np.abs(again[:, :, workup.sag]) > np.abs(first[:, :, workup.sag])).any()


@pytest.mark.parametrize("room", [0, 40_000, 150_000])
def test_where_there_is_no_room_it_is_made_anew_each_time(demo_workups, monkeypatch, room):
    monkeypatch.setattr(spreads, "_MOST_NUMBERS", room)
    workup = Workup(demo_workups["cabin_light"].sheet)
    fit = evidence(workup)
    for rows in (np.arange(0, 300, 2), np.arange(0, 300, 5), np.array([1, 250])):
        for which in (np.array([0]), np.arange(len(fit.readings))):
            assert fit.spread(rows, which) == pytest.approx(anew(fit, rows)[:, which], abs=1e-12)


def test_what_each_reading_scatters_by_itself_is_what_its_spread_and_its_own_uncertainty_come_to(demo_workups):
    workup = Workup(demo_workups["ramp_motor"].sheet)
    fit, rows = evidence(workup), np.array([0, 3, 77, 501])
    spread = anew(fit, rows)
    wanted = (spread**2).sum(axis=2) + fit.uncertainty(rows, None, spread) ** 2
    assert fit.scatter(rows) == pytest.approx(wanted, rel=1e-12)
    assert fit.scatter(rows[::-1], np.array([1])) == pytest.approx(wanted[::-1, [1]], rel=1e-12)  # found, not made


def test_small_chances_of_a_slip_do_not_add_up_to_a_misfit(demo_workups):
    """Of hundreds of readings that all fit each may be a slip, by a percent at most: nothing asks for more than one fault. One that does
    not fit does."""
    workup = Workup(demo_workups["step_lights"].sheet)
    state = next(iter(workup.sheet.states))
    fits = tuple(reading_of(workup.sheet, state, "ohms", t.red, t.black, "0.0") for t in _shorted(workup, state))
    assert len(fits) >= 3
    many = (fits * 400)[:400]
    found = isolate(workup, many)
    odd = found.belief.explain(np.array([int(found.belief.probability.argmax())]))[2][0]
    assert odd.max() < 0.02 and odd.sum() > 0.6
    assert found.assumed.startswith("One lasting fault at most")


def _shorted(workup: Workup, state: str) -> tuple[Measurement, ...]:
    """Tests of ohms along good wires."""
    offered = [t for t in workup.on_offer if t.instrument == "ohms" and t.state == state]
    return tuple(t for t in offered if workup.sound_values[workup.column_on_offer[t]] < 0.02)[:6]
