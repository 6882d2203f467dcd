"""The complaint's words answer what would be asked, and only where they say when the fault is there."""

from __future__ import annotations

import pytest

from pondrel.core.evidence.told import CIRCUMSTANCES
from pondrel.core.job.in_words import told_in_words, ways_in_words
from pondrel.core.job.kinds import checked_content


@pytest.mark.parametrize(
    ("text", "told"),
    [
        ("Platform does not rise when it is cold", {"under": "cold"}),
        ("Rear glass clears slowly. Cold mornings, since last winter.", {"under": "cold", "since": "last winter"}),
        ("Cuts out now and then over bumps, and when it rains", {"often": "sometimes", "under": "wet,bumps"}),
        ("Goes out every time the door is opened, always", {"often": "always", "under": "door"}),
        ("Light flickers when the tailgate is moved", {"under": "door"}),
        ("Stops after a long stop, since the first Frost", {"under": "standing", "since": "the first Frost"}),
        ("Dies ten minutes after the start, under full load", {"under": "load,start"}),
        ("Fails as soon as the engine is hot; fine when cold", {"under": "hot"}),
        ("Works well in the rain but not when hot", {}),
        ("Heater blows cold air, hot pipe, load bed dark, seat lamp out", {}),
        ("Only cold air comes out, and with the flap shut when it blows hot air none", {}),
        ("At first only with a full load of crates", {"under": "load"}),
        ("The lamp in the door does not light", {}),
        ("Left front does not kneel. The right side kneels as always.", {}),
        ("", {}),
    ],
)
def test_words_say_when_it_is_there(text, told):
    assert told_in_words(text) == told


def test_every_circumstance_can_be_said_and_is_one_that_can_be_written_down():
    text = """Fails when cold, when hot, in the wet, over bumps, under load, at speed, after standing, some minutes after the start,
    when the seat is moved, when the door is opened, when tilted, when the steering is turned"""
    told = told_in_words(text)
    assert told["under"].split(",") == list(CIRCUMSTANCES)
    assert checked_content("complaint", told)["under"] == told["under"]


@pytest.mark.parametrize(
    ("text", "ways"),
    [
        ("Clicks once and stands on the ferry", ["start"]),
        ("Turns over slowly every morning", ["start"]),
        ("It won't start, key does nothing", ["start"]),
        ("Headlamps get brighter with the revs", ["charge", "magnet"]),
        ("Charge lamp stays on", ["charge", "magnet"]),
        ("Bike battery is not charged, stator smells", ["magnet", "charge"]),
        ("Goes flat after two nights", ["drain"]),
        ("Battery was dead on Monday. Does not crank.", ["start", "drain"]),
        ("Indicator relay clicks and the lamps stay dark", []),
        ("Air spring goes flat overnight", []),
        ("Tyre was flat after the weekend", []),
        ("Starts fine; radio is dead", []),
        ("Heater fan does not turn", []),
        ("", []),
    ],
)
def test_a_complaint_calls_for_its_guided_way(text, ways):
    assert list(ways_in_words(text)) == ways
