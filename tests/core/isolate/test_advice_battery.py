"""Advice about the battery: the other half of a pair of its readings, and quick readings before a proof that takes long."""

from __future__ import annotations

from pondrel.core.isolate import isolate
from pondrel.core.learn import Weights
from tests.circuits import observed, reading_of

LOOKS = (("lit", "normal"), ("idle", "dark"))


def so_far(sheet, *readings):
    """What the eyes say of a lamp that is lit, then readings (state, meter, red, black, number)."""
    return (*(observed(sheet, "see", "lamp", shown, state) for state, shown in LOOKS), *(reading_of(sheet, *one) for one in readings))


def test_when_the_battery_was_read_loaded_its_volts_at_rest_are_asked_for(step_light, step_light_workup):
    """10.7 V under load is a flat battery or a weak one: only its volts without the load part them, for half a minute."""
    items = so_far(step_light, ("lit", "clamp", "f4.out", "c2.1", "0.81"), ("lit", "volts", "f4.out", "batt-", "10.71"),
                   ("lit", "volts", "batt+", "batt-", "10.7"))  # fmt: skip
    first = isolate(step_light_workup, items).next[0]
    assert (first.test.red, first.test.black, first.test.state) == ("batt+", "batt-", "idle") and first.gain_bits > 0.4


def test_what_is_much_quicker_and_tells_goes_before_a_proof_behind_a_panel(step_light, step_light_workup):
    """The battery is all but named on a part of its evidence; the panel stays on while half a minute at its posts still tells."""
    taught = step_light_workup.weighed_by(Weights((("BAT", 7.0), ("F4", 0.33), ("G1", 0.3))))
    items = so_far(step_light, ("lit", "clamp", "f4.out", "c2.1", "0.79"), ("lit", "volts", "f4.out", "batt-", "9.42"))
    found = isolate(taught, items)
    assert found.standing.target == ("BAT",) and not found.standing.ready and any(a.proves for a in found.next)
    quick = found.next[0]
    assert not quick.proves and quick.minutes < 0.34 * next(a.minutes for a in found.next if a.proves)
    assert (quick.test.red, quick.test.black) == ("batt+", "batt-")
