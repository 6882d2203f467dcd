"""The ladder: what stands on its rungs, what is lost between two readings, what is cleared; and what an answer would mean."""

from __future__ import annotations

import pytest

from pondrel.core.circuit.fault import parse_fault
from pondrel.core.circuit.measure import measure as shown_by
from pondrel.core.isolate import PartRung, PlaceRung, cleared_stretches, descent, isolate, ladder, meaning

from ...circuits import reading_of

STATE = "open"


def laddered(workup, *places: str, fault: str = "", load: str = "LA2"):
    """The ladder of a load's path after volts at some places, as a meter would show them with the fault."""
    sheet = workup.sheet
    faults = (parse_fault(sheet, fault),) if fault else ()
    items = tuple(
        reading_of(sheet, STATE, "volts", p, "", f"{shown_by(sheet, STATE, 'volts', p, sheet.minus, faults).measured.value:.2f}")
        for p in places
    )
    found = isolate(workup, items)
    path = next(p for p in workup.paths if p.load == load)
    return found, ladder(sheet, found, descent(found.belief, path, STATE, found.targets[0]))


@pytest.fixture(scope="module")
def lights(demo_workups):
    return demo_workups["step_lights"]


def test_places_and_parts_stand_in_the_order_of_the_current(lights):
    _, found = laddered(lights)
    path = found.descent.path
    assert [r.part for r in found.rungs if isinstance(r, PartRung)] == list(path.parts)
    assert [r.name for r in found.rungs if isinstance(r, PlaceRung)] == [n for n in path.nodes if n in lights.sheet.places]
    assert [r.part for r in found.rungs if isinstance(r, PartRung) and r.load] == ["LA2"]
    for rung, after in zip(found.rungs, found.rungs[1:], strict=False):  # every stretch begins where the one before it ended
        upper = rung.stop if isinstance(rung, PlaceRung) else rung.below
        lower = after.stop if isinstance(after, PlaceRung) else after.above
        assert upper.node == lower.node


def test_what_is_lost_stands_between_readings_that_follow_each_other(lights):
    """The volts across the bad ground are those of the readings on both sides of it; the stretch above loses what it should."""
    _, found = laddered(lights, "batt+", "la2.feed", "g3", fault="G3.high_resistance=1.6")
    upper, lower = found.losses
    at = [getattr(r, "name", "") for r in found.rungs]
    assert (at[upper.first], at[upper.last], at[lower.last]) == ("batt+", "la2.feed", "g3")
    assert upper.fits and upper.volts == pytest.approx(upper.should, abs=0.3)
    assert not lower.fits and lower.should - lower.volts > 2.0  # the lamp gets less than it should
    below = next(r for r in found.rungs if isinstance(r, PartRung) and r.part == "G3")
    assert below.share > 0.5 and below.above.suspect - below.below.suspect > 2.0


def test_a_battery_that_nobody_measured_excuses_no_loss(lights):
    """A low battery lowers both ends of a stretch alike: what is lost between them stands whatever it gives."""
    _, found = laddered(lights, "f9.out", "la2.feed", fault="C12.3.high_resistance=0.3")
    (loss,) = found.losses
    assert 0.3 < loss.volts - loss.should < 1.0 and not loss.fits
    _, sound = laddered(lights, "f9.out", "la2.feed")
    assert all(loss.fits for loss in sound.losses)


def test_nothing_is_cleared_before_anything_was_read_and_what_is_cleared_folds(lights, demo_workups):
    sensors = demo_workups["engine_sensors"]
    unread = isolate(sensors, ())
    ladders = [ladder(sensors.sheet, unread, descent(unread.belief, p, "idle")) for p in sensors.paths]
    parts = [r for found in ladders for r in found.rungs if isinstance(r, PartRung)]
    assert min(r.share for r in parts) < 0.01 and not any(r.cleared for r in parts)  # rare is not cleared
    _, blank = laddered(lights)
    assert cleared_stretches(blank, set()) == ()
    _, found = laddered(lights, "batt+", "la2.feed", "la2.gnd", "g3", fault="G3.high_resistance=1.6")
    stretches = cleared_stretches(found, set())
    assert stretches
    for first, last in stretches:
        inside = found.rungs[first : last + 1]
        assert len(inside) >= 3 and all(r.cleared if isinstance(r, PartRung) else r.read is None for r in inside)
    first, last = stretches[0]
    assert all((first, last) != other for other in cleared_stretches(found, {first + 1}))  # what is kept is not folded away


def test_a_place_says_what_it_takes_to_get_there(demo_workups):
    workup = demo_workups["heated_glass"]
    found = isolate(workup, ())
    path = next(p for p in workup.paths if p.load == "R1")
    rungs = {r.name: r for r in ladder(workup.sheet, found, descent(found.belief, path, "on")).rungs if isinstance(r, PlaceRung)}
    assert (rungs["k5.30"].behind, rungs["batt+"].behind) == ("dash_side", "")
    assert rungs["k5.30"].minutes > 5 > rungs["batt+"].minutes
    opened = isolate(workup, (reading_of(workup.sheet, "on", "volts", "k5.87", "", "12.1"),))
    again = {r.name: r for r in ladder(workup.sheet, opened, descent(opened.belief, path, "on")).rungs if isinstance(r, PlaceRung)}
    assert again["k5.30"].behind == "" and again["k5.30"].minutes < 2


def test_an_answer_says_what_it_clears_and_who_leads_then(lights):
    before, _ = laddered(lights, "batt+", "la2.feed", fault="G3.high_resistance=1.6")
    after, _ = laddered(lights, "batt+", "la2.feed", "la2.gnd", fault="G3.high_resistance=1.6")
    clears, says = meaning(lights.sheet, before, after)
    assert says.startswith("Ground stud in the step well would lead with") and "now" in says
    freed = [p for p, chance in before.parts.items() if p and chance > 0.03 and after.parts[p] < 0.01]
    assert clears.startswith("clear the ") == bool(freed)
    clears, says = meaning(lights.sheet, after, after)
    assert clears == "" and says.startswith("It would change next to nothing")
