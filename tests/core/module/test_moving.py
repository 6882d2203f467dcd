"""What is locked until it is made safe, and whether what was commanded did what it should."""

from __future__ import annotations

import pytest

from pondrel.core.evidence.hazards import HAZARDS
from pondrel.core.module.fault_code import FaultCode
from pondrel.core.module.movement import DEAD, LOST, SLOW, UNSEEN, WEAK, WORKS, WRONG_WAY, heard_says, judged_move, judged_stay
from pondrel.core.module.moving import CAUTION_READ, LockedError, check_clear, check_made_safe, check_said_safe, locks_of
from pondrel.core.module.roster import Command, StayTest


def test_every_lock_has_to_be_seen_to_by_itself():
    both = ("air_springs", "raised")
    assert [one.name for one in locks_of(both, "It sinks.", ())] == ["air_springs", "raised", CAUTION_READ]
    assert [one.name for one in locks_of(both, "It sinks.", ("raised", CAUTION_READ))] == ["air_springs"]
    with pytest.raises(LockedError, match=r"Left vent is locked until this is made safe \(air_springs, caution\)"):
        check_made_safe("Left vent", ("air_springs",), "It sinks.", ())
    check_made_safe("Left vent", ("air_springs",), "It sinks.", ("air_springs", CAUTION_READ))
    check_made_safe("Lamp", (), "", ())


def test_what_somebody_says_to_have_seen_to_must_be_a_caution_of_this_output():
    check_said_safe(("raised",), "It sinks.", "It sinks.", "")
    check_said_safe(("raised",), "It sinks.", HAZARDS["raised"].caution, "")
    for text in ("", "Something else", HAZARDS["fuel"].caution):
        with pytest.raises(LockedError, match="not of this output"):
            check_said_safe(("raised",), "", text, "")
    with pytest.raises(LockedError, match="qualified people"):
        check_said_safe(("high_voltage",), "", HAZARDS["high_voltage"].caution, "")
    check_said_safe(("high_voltage",), "", HAZARDS["high_voltage"].caution, "Bela, trained")


def test_a_crash_is_never_cleared_and_the_loss_must_be_known():
    with pytest.raises(LockedError, match=r"B1A01-68 tells of a crash\. A crash flag is not cleared from here"):
        check_clear([FaultCode("P0113"), FaultCode("B1A01", "68", text="Crash signal stored")], True)
    with pytest.raises(LockedError, match="know what clearing loses"):
        check_clear([FaultCode("P0113")], False)
    check_clear([FaultCode("P0113")], True)


SINKS = Command("open", b"\x01", by=-20.0, within_s=3.0)


@pytest.mark.parametrize(
    ("values", "word", "by", "seconds"),
    [
        ([(0.0, 5.0), (1.0, -8.0), (2.0, -21.0), (3.0, -34.0)], WORKS, -39.0, 2.0),
        ([(0.0, 5.0), (1.0, 1.0), (3.0, -6.0)], WEAK, -11.0, None),
        ([(0.0, 5.0), (1.0, 5.1), (3.0, 4.9)], DEAD, 0.0, None),
        ([(0.0, 5.0), (1.0, 9.0), (3.0, 12.0)], WRONG_WAY, 7.0, None),
        ([(0.0, 5.0), (1.0, -20.0), (2.0, -10.0), (3.0, -1.0)], LOST, -25.0, 1.0),
        ([(0.0, 5.0), (4.0, -30.0)], SLOW, -35.0, 4.0),
        ([], UNSEEN, 0.0, None),
        ([(0.0, None), (1.0, None)], UNSEEN, 0.0, None),
    ],
)
def test_what_a_watched_value_did_under_command(values, word, by, seconds):
    found = judged_move(SINKS, values, "mm")
    assert (found.word, found.seconds) == (word, seconds) and found.by == pytest.approx(by)
    assert found.says.endswith(".")


def test_a_command_that_should_move_nothing_is_looked_at_by_eye():
    assert judged_move(Command("shut", b"\x00"), [(0.0, 1.0), (1.0, 5.0)]).word == UNSEEN
    assert "20 mm within 3 s" in judged_move(SINKS, [(0.0, 5.0), (1.0, 5.0)], "mm").says


@pytest.mark.parametrize("word", [WORKS, SLOW, WEAK, DEAD, WRONG_WAY, LOST, UNSEEN])
def test_what_is_heard_parts_the_circuit_from_what_lies_behind_the_valve(word):
    assert heard_says(word, True) != heard_says(word, False)
    if word in (DEAD, WRONG_WAY):
        assert "behind it" in heard_says(word, True) and "Its circuit first" in heard_says(word, False)


STAYS = StayTest(5.0, 2.0)


@pytest.mark.parametrize(
    ("rate", "seconds", "good", "says"),
    [
        (0.3, 5.0, True, "It stays: 1.5 mm in 5 s"),
        (-1.0, 5.0, False, "It does not stay: -5 mm in 5 s, at most 2 mm are right"),
        (-9.0, 2.0, True, "not watched for long enough"),
    ],
)
def test_whether_it_stays_where_it_was_left(rate, seconds, good, says):
    values = [(k * 0.5, 40.0 + rate * k * 0.5) for k in range(int(seconds / 0.5) + 1)]
    found = judged_stay(STAYS, values, "mm")
    assert found[0] is good and says in found[1]


def test_one_that_came_back_by_the_end_did_not_stay():
    assert not judged_stay(STAYS, [(0.0, 40.0), (2.0, 30.0), (5.0, 40.0)])[0]
    assert judged_stay(STAYS, [])[0] and judged_stay(STAYS, [(0.0, None), (5.0, None)])[0]
