"""A slow drive that teaches: metres, turns, stops and pace as they are seen, against drives that are reckoned by hand."""

from __future__ import annotations

import pytest

from pondrel.core.module.roster.renewal import YardDrive
from pondrel.core.renewal.yard_drive import Moment, seen_in

DRIVE = YardDrive("speed", "steering", 15.0, 40.0, 300.0, 1, 1, 2)


def driven(kmh, degrees=lambda at: 0.0, seconds: float = 30.0, step: float = 0.2) -> list[Moment]:
    return [Moment(k * step, kmh(k * step), degrees(k * step)) for k in range(int(seconds / step) + 1)]


def pace(at: float) -> float:
    """10 km/h for 16 s, a stand of 3 s, 10 km/h for 4 s, a stand."""
    return 10.0 if at < 16.0 or 19.0 <= at < 23.0 else 0.0


def wheel(at: float) -> float:
    return -400.0 if 3.0 <= at < 6.0 else 400.0 if 8.0 <= at < 11.0 else 0.0


def counts(seen) -> dict[str, float]:
    return {part.what: part.there for part in seen.parts}


def test_a_drive_as_it_is_wanted_is_taken():
    seen = seen_in(DRIVE, driven(pace, wheel))
    assert seen.done and not seen.too_fast
    assert counts(seen) == pytest.approx(
        {"driven": 20.0 / 3.6 * 10.0, "turns to the left": 1, "turns to the right": 1, "stops": 2}, rel=0.03
    )
    assert seen.says(DRIVE).startswith("Driven as it should be: 5") and "10 km/h at the most" in seen.says(DRIVE)


@pytest.mark.parametrize(
    ("moments", "missing"),
    [
        (driven(pace, lambda at: min(wheel(at), 0.0)), "turns to the right 0 of 1"),
        (driven(pace, wheel, seconds=17.5), "stops 1 of 2"),
        (driven(lambda at: 2.0 * (pace(at) > 0.0), wheel), "driven 11 of 40 m"),
        (driven(pace, lambda at: 0.7 * wheel(at)), "turns to the left 0 of 1"),
        ([], "driven 0 of 40 m"),
    ],
)
def test_what_is_missing_is_named(moments, missing):
    seen = seen_in(DRIVE, moments)
    assert not seen.done and missing in seen.says(DRIVE)


def test_too_fast_for_a_second_begins_again_and_a_moment_does_not():
    assert not seen_in(DRIVE, driven(lambda at: 16.0 if 2.0 <= at < 2.6 else pace(at), wheel)).too_fast
    seen = seen_in(DRIVE, driven(lambda at: 19.0 if 2.0 <= at < 4.0 else pace(at), wheel))
    assert seen.too_fast and not seen.done and seen.says(DRIVE) == "Driven at 19 km/h, and 15 km/h is the most: begin again."


def test_a_wheel_held_at_its_lock_is_one_turn_and_turning_at_a_stand_is_none():
    seen = seen_in(DRIVE, driven(pace, lambda at: -400.0 if at < 12.0 else 0.0))
    assert counts(seen)["turns to the left"] == 1
    assert counts(seen_in(DRIVE, driven(lambda at: 0.0, wheel)))["turns to the left"] == 0


def test_shaking_at_the_limit_of_a_turn_is_one_turn():
    seen = seen_in(DRIVE, driven(pace, lambda at: -295.0 if int(at * 5) % 2 else -305.0))
    assert counts(seen)["turns to the left"] == 1


def test_standing_before_it_was_driven_is_no_stop():
    assert counts(seen_in(DRIVE, driven(lambda at: 0.0)))["stops"] == 0


def test_a_pace_that_nobody_told_for_seconds_does_not_count():
    moments = driven(pace, wheel)
    seen = seen_in(DRIVE, [one for one in moments if not 4.0 < one.at < 9.0])
    assert seen.blind and not seen.done and "begin again" in seen.says(DRIVE)
    some = [Moment(one.at, None if 4.0 < one.at < 5.0 else one.kmh, one.degrees) for one in moments]
    assert seen_in(DRIVE, some).done


def test_driving_backwards_counts_as_driving():
    assert counts(seen_in(DRIVE, driven(lambda at: -pace(at), wheel)))["driven"] > 40.0
