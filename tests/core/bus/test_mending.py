"""Databases that hands have edited: what is plainly meant is read and said, what is not stays refused."""

from __future__ import annotations

import pytest

from pondrel.core.base.errors import ReadingError
from pondrel.core.bus.database import database_from

WHOLE = """VERSION ""

BU_: Pump Board

BO_ 256 PumpState: 8 Pump
 SG_ Speed : 0|16@1+ (0.5,0) [0|4000] "rpm" Board
 SG_ Blocked : 16|1@1+ (1,0) [0|1] "" Board

BO_ 257 LampState: 2 Board
 SG_ Lit : 0|1@1+ (1,0) [0|1] "" Pump

CM_ SG_ 256 Speed "how fast it turns";
VAL_ 256 Blocked 0 "free" 1 "blocked" ;
"""


def read(text):
    return database_from(text.encode(), "pump.dbc")


def signals(database):
    return {message.name: [signal.name for signal in message.signals] for message in database.messages}


ALL = {"PumpState": ["Speed", "Blocked"], "LampState": ["Lit"]}


@pytest.mark.parametrize(
    ("old", "new", "wanted", "said"),
    [
        ("BO_ 256 ", "BO_ 65536 ", ALL, "not marked as extended, such as 0x10000, are taken as extended"),
        ("BO_ 257 LampState: 2 Board", "BO_ 4294967295 LampState: 2 Board", {"PumpState": ["Speed", "Blocked"]},
         "LampState has an identifier of more than 29 bits"),
        ("VAL_ 256 Blocked", 'VAL_ 256 Gone 0 "a; b" 1 "c" ;\nVAL_ 256 Blocked', ALL, "values are named for signals that it does not have; "
         "they are left out: Gone"),
        ('"how fast it turns";', '"how fast it turns"', ALL, "line 12 has no semicolon at its end; it was given one"),
        ("CM_ SG_ 256 Speed ", "CM_ SG_ 256 ", ALL, 'line 12 cannot be read and is left out: CM_ SG_ 256 "how fast'),
        ("PumpState:", "2ndPump:", {"_2ndPump": ["Speed", "Blocked"], "LampState": ["Lit"]},
         "names that begin with a digit are given an underscore: _2ndPump"),
        ("Blocked", "1Blocked", {"PumpState": ["Speed", "_1Blocked"], "LampState": ["Lit"]},
         "names that begin with a digit are given an underscore: _1Blocked"),
        ("(0.5,0) [0|4000]", "(.5,-.25) [-.25|4000]", ALL, "numbers that begin with a point, as in line 6, are given a 0 before it"),
        ("16|1@1+", "16|0@1+", {"PumpState": ["Speed"], "LampState": ["Lit"]}, "Blocked in PumpState has no bits"),
        ("BO_ 257 LampState: 2 Board", "BO_ LampState 2 Board", {"PumpState": ["Speed", "Blocked"]}, "line 9 cannot be read and is left"),
    ],
)  # fmt: skip
def test_what_is_plainly_meant_is_read_and_said(old, new, wanted, said):
    database = read(WHOLE.replace(old, new))
    assert signals(database) == wanted
    assert any(said in note for note in database.notes), database.notes


def test_the_rest_of_a_mended_database_is_as_it_was():
    database = read(WHOLE.replace("256", "65536").replace("(0.5,0) [0|4000]", "(.5,-.25) [-.25|4000]"))
    pump = next(message for message in database.messages if message.name == "PumpState")
    assert pump.frame_id == 65536 and pump.is_extended_frame
    speed = pump.get_signal_by_name("Speed")
    assert (speed.scale, speed.offset, speed.minimum, speed.comment) == (0.5, -0.25, -0.25, "how fast it turns")
    assert {raw: str(name) for raw, name in pump.get_signal_by_name("Blocked").choices.items()} == {0: "free", 1: "blocked"}
    assert len(database.notes) == 2


def test_what_is_no_database_stays_refused_by_its_first_fault():
    with pytest.raises(ReadingError, match=r"pump\.dbc cannot be read as DBC: .*line 1, column 1"):
        read("hello\n" * 100)


def test_many_corrections_are_not_all_said_and_do_not_take_for_ever():
    broken = WHOLE + "".join(f'CM_ SG_ 256 "remark {k}";\n' for k in range(12))
    database = read(broken)
    assert signals(database) == ALL and len(database.notes) == 7 and database.notes[-1] == "pump.dbc: 6 more corrections like these."
    with pytest.raises(ReadingError):  # a text is not read anew for each of forty thousand lines
        read(WHOLE + "".join(f'CM_ SG_ 256 "remark {k}";\n' for k in range(40_000)))
