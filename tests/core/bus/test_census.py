"""What is said of a log: timing, counters, check sums, load, flags, what differs, and what a silence points to."""

from __future__ import annotations

import json
import random

import numpy as np
import pytest

from pondrel.core.bus.census import census_json, census_of, changed_between
from pondrel.core.bus.database import Known, database_from
from pondrel.core.bus.formats.text import from_fields
from pondrel.core.bus.frames import ERROR, EXTENDED, ChannelNames, Frames, joined
from pondrel.core.bus.load import bit_rate_of, bits_of, stuffed
from pondrel.core.bus.plotted import held_between
from pondrel.core.bus.summary import summary_json, summary_of
from pondrel.core.bus.timing import timing_of
from pondrel.core.bus.verdict import verdict_of
from pondrel.core.bus.words import speaks_of, spelled_out

from ...data_lines import can_bits

DBC = """VERSION ""
NS_ :
BS_:
BU_: Pump Lamp Roof
BO_ 256 PumpState: 8 Pump
 SG_ Pressure : 0|16@1+ (0.1,0) [0|100] "bar" Lamp
 SG_ PumpCircuitOpen : 16|1@1+ (1,0) [0|1] "" Lamp
 SG_ PumpMode : 17|3@1+ (1,0) [0|7] "" Lamp
 SG_ PumpAlive : 24|4@1+ (1,0) [0|15] "" Lamp
 SG_ PumpCheckSum : 56|8@1+ (1,0) [0|255] "" Lamp
BO_ 512 LampState: 2 Lamp
 SG_ LampNotReady : 0|1@1+ (1,0) [0|1] "" Pump
 SG_ RoofMissing : 1|1@1+ (1,0) [0|1] "" Pump
BO_ 768 RoofState: 8 Roof
 SG_ RoofPlace : 0|8@1+ (1,0) [0|100] "%" Pump
BA_DEF_ BO_ "GenMsgCycleTime" INT 0 10000;
BA_DEF_DEF_ "GenMsgCycleTime" 0;
BA_ "GenMsgCycleTime" BO_ 256 20;
BA_ "GenMsgCycleTime" BO_ 512 100;
BA_ "GenMsgCycleTime" BO_ 768 50;
VAL_ 256 PumpMode 0 "rest" 1 "runs" 6 "blocked" ;
"""


@pytest.fixture(scope="module")
def known():
    return Known([database_from(DBC.encode(), "pump.dbc")])


def pump(count, *, pressure=50, open_from=None, mode=1, counter=lambda k: k % 16, spoil=()):
    """Data of the pump's frames, with its check sum: all other bytes exclusive or'ed, and 0x33."""
    for k in range(count):
        bits = (pressure + k % 3) | int(open_from is not None and k >= open_from) << 16 | mode << 17 | counter(k) << 24
        data = bytearray(bits.to_bytes(7, "little") + b"\0")
        for byte in data[:7]:
            data[7] ^= byte
        data[7] ^= 0x33 ^ (1 if k in spoil else 0)
        yield bytes(data)


def log(*parts, names=("can0",)):
    """Frames of (identifier, cycle in s, datas) parts, in the order of their times."""
    found = [
        (first + k * cycle, identity, data) for identity, cycle, datas, *rest in parts for first in [rest[0] if rest else 0.001]
        for k, data in enumerate(datas)
    ]  # fmt: skip
    return joined([from_fields(time, identity, EXTENDED if identity > 0x7FF else 0, 0, data) for time, identity, data in sorted(found)])


def lamp(count, ready=True, roof=True):
    return [bytes([(not ready) | (not roof) << 1, 0])] * count


def whole(frames, known, **rates):
    return census_of(frames, ("can0",), known, (), rates or None)


ROOF = (768, 0.05, [bytes(8)] * 80)


def test_frames_in_time_are_said_to_talk_and_late_ones_late(known):
    chance = random.Random(1)
    times = np.cumsum([0.02 + chance.uniform(-0.002, 0.002) for _ in range(200)])
    assert timing_of(times, 0.0, 4.0, 0.02).state == "talks"
    late = np.cumsum([0.02 + 0.02 * (k % 4 == 0) for k in range(200)])
    own = timing_of(late, 0.0, float(late[-1]), 0.02)
    assert own.state == "late" and own.late == 49
    slow = np.arange(100) * 0.028
    assert timing_of(slow, 0.0, 2.8, 0.02).state == "talks"  # none of its gaps is half a cycle late
    assert timing_of(np.arange(50) * 0.031, 0.0, 1.55, 0.02).state == "late"
    pairs = np.sort(np.concatenate([np.arange(100) * 0.04, np.arange(100) * 0.04 + 0.002]))
    assert timing_of(pairs, 0.0, 4.0, 0.02).state == "late"


def test_what_stops_and_what_never_came_are_two_things():
    assert timing_of(np.arange(50) * 0.02, 0.0, 10.0, 0.02).state == "stopped"
    assert timing_of(np.zeros(0), 0.0, 10.0, 0.02).state == "silent"
    assert timing_of(np.zeros(0), 0.0, 0.03, 0.02).state == "talks"  # the log is too short to tell
    assert timing_of(np.zeros(0), 0.0, 10.0, None).state == "talks"  # nothing says that it should come
    # Without a database a steady frame that ends is missed all the same, an event is not.
    assert timing_of(np.arange(50) * 0.02, 0.0, 10.0, None).state == "stopped"
    events = np.cumsum(np.random.default_rng(3).exponential(0.2, 20))
    assert timing_of(events, 0.0, 100.0, None).state == "talks"


def test_the_summary_names_what_is_known_what_is_not_and_what_is_missing(known):
    frames = log((256, 0.02, pump(200)), (0x18FEF100, 0.1, [bytes(8)] * 40))
    own = summary_json(summary_of(frames, ("can0",), known))
    assert list(own) == ["frames", "error_frames", "first", "last", "channels", "ids", "unknown", "notes"]
    assert [(row["id"], row["frame"], row["count"], row["silent"]) for row in own["ids"]] == [
        (256, "PumpState", 200, False), (512, "LampState", 0, True), (768, "RoofState", 0, True), (0x18FEF100, None, 40, False),
    ]  # fmt: skip
    assert own["ids"][0]["period_ms"] == pytest.approx(20.0) and own["ids"][0]["late"] == 0
    assert own["unknown"] == [{"channel": "can0", "id": 0x18FEF100, "extended": True, "count": 40}]


def test_a_flag_that_came_later_may_follow_and_a_missing_partner_explains_another(known):
    lamps = [*lamp(10, roof=False), *lamp(30, ready=False, roof=False)]
    own = whole(log((256, 0.02, pump(200, open_from=5, mode=6)), (512, 0.1, lamps)), known)
    told = [(flag.signal, flag.text, flag.from_first, flag.silent) for flag in own.flags]
    assert told == [
        ("PumpMode", "Blocked", True, ""),
        ("PumpCircuitOpen", "", False, ""),
        ("LampNotReady", "", False, ""),
        ("RoofMissing", "", True, "Roof"),
    ]
    assert own.flags[1].since == pytest.approx(0.1) and own.flags[2].behind == pytest.approx(1.0, abs=0.01)
    assert verdict_of(own).kind == "one silent" and verdict_of(own).senders == ("Roof",)
    assert json.dumps(census_json(own), allow_nan=False)


def test_what_only_warns_comes_behind_a_fault_that_came_later():
    warned = DBC.replace("RoofPlace : 0|8@1+", "RoofWarning : 8|1@1+")
    roofs = [bytes([0, 1, 0, 0, 0, 0, 0, 0])] * 80
    frames = log((256, 0.02, pump(200, open_from=100)), (512, 0.1, lamp(40)), (768, 0.05, roofs))
    own = whole(frames, Known([database_from(warned.encode(), "pump.dbc")]))
    assert [(flag.signal, flag.warns) for flag in own.flags] == [("PumpCircuitOpen", False), ("RoofWarning", True)]
    assert [flag["warns"] for flag in census_json(own)["flags"]] == [False, True]


def test_names_are_spelled_out():
    assert spelled_out("CrashLoopOpen") == "Crash loop open" and spelled_out("ABS_Lamp_2") == "ABS lamp 2"
    assert speaks_of("Heater module missing", "HeaterModule") and not speaks_of("Heater module missing", "SeatHeater")


def test_a_counter_that_stands_and_one_that_jumps(known):
    own = whole(log((256, 0.02, pump(200, counter=lambda k: min(k, 100) % 16)), ROOF), known)
    counter = next(guard.counter for guard in own.guards if guard.counter)
    assert counter.stuck and counter.stuck_since == pytest.approx(2.0, abs=0.03)
    own = whole(log((256, 0.02, pump(200, counter=lambda k: (k + 3 * (k > 60)) % 16))), known)
    counter = next(guard.counter for guard in own.guards if guard.counter)
    assert not counter.stuck and counter.jumps == 1 and counter.step == 1
    own = whole(log((256, 0.02, pump(200))), known)
    assert not next(guard for guard in own.guards if guard.counter).wrong


def test_a_check_sum_shows_its_rule_and_the_frames_that_break_it(known):
    own = whole(log((256, 0.02, pump(200, spoil=(50, 51)))), known)
    check = next(guard.check_sum for guard in own.guards if guard.check_sum)
    assert check.wrong == 2 and check.first_wrong == pytest.approx(1.0, abs=0.01) and "exclusive" in check.rule
    chance = random.Random(5)
    noise = [bytes([*data[:7], chance.randrange(256)]) for data in pump(200)]
    assert [guard for guard in whole(log((256, 0.02, noise)), known).guards if guard.check_sum] == []  # no rule, no verdict


def test_bits_of_a_frame_with_its_stuffing():
    """Against an encoder that shares no line with this program (`tests.data_lines`)."""
    chance = random.Random(9)
    for extended in (False, True):
        for length in range(9):
            datas = [bytes(chance.choice((0, 0xFF, chance.randrange(256))) for _ in range(length)) for _ in range(30)]
            ids = np.array([chance.randrange(1 << (29 if extended else 11)) for _ in datas])
            data = np.array([list(own) for own in datas], np.uint8).reshape(len(datas), length)
            wanted = [len(can_bits(int(identity), own, extended=extended)) for identity, own in zip(ids, datas, strict=True)]
            plain = (67 if extended else 47) + 8 * length
            assert (plain + stuffed(ids, extended, data)).tolist() == wanted


@pytest.mark.parametrize("rate", [125_000, 250_000, 500_000, 1_000_000])
def test_the_bit_rate_shows_in_frames_that_stand_back_to_back(rate):
    chance = random.Random(rate)
    time, pieces = 0.0, []
    for _ in range(600):
        data = chance.randbytes(8)
        pieces.append(from_fields(round(time, 6), 0x123, 0, 0, data))
        time += len(can_bits(0x123, data)) / rate + chance.choice((0.0, 0.0, 0.004))
    frames = joined(pieces)
    assert bit_rate_of(frames, bits_of(frames)) == rate
    assert bit_rate_of(frames, bits_of(frames), (250_000,)) == 250_000
    assert bit_rate_of(joined(pieces[:10]), bits_of(joined(pieces[:10]))) is None


def test_the_load_is_the_share_of_bits(known):
    frames = log((256, 0.001, pump(4000)))
    own = whole(frames, known, can0=500_000)
    assert own.loads[0].mean == pytest.approx(bits_of(frames).sum() / 500_000 / 3.999, rel=1e-3)
    assert 0.2 < own.loads[0].mean < 0.3 and own.loads[0].frames.sum() == 4000


def test_what_differs_from_a_good_log_comes_in_the_order_of_what_it_tells(known):
    good = whole(log((256, 0.02, pump(200)), (512, 0.1, lamp(40)), ROOF), known)
    bad = whole(log((256, 0.02, pump(200, open_from=0, pressure=300)), (512, 0.2, lamp(20))), known)
    changes = changed_between(good, bad)
    assert [(change.kind, change.frame, change.signal) for change in changes] == [
        ("gone", "RoofState", ""),
        ("flag", "PumpState", "PumpCircuitOpen"),
        ("slower", "LampState", ""),
        ("value", "PumpState", "Pressure"),
    ]
    assert changes[1].before == "not set" and changes[1].after == "set"
    assert changed_between(good, good) == []  # counters, check sums and what moves by itself are no difference


def test_silence_of_all_at_once_is_the_bus(known):
    parts = [(256, 0.02, list(pump(100))), (512, 0.1, lamp(20)), (768, 0.05, [bytes(8)] * 40)]
    frames = log(*parts)
    errors = joined([from_fields(2.1 + 0.01 * k, 0, ERROR, 0, b"") for k in range(100)])
    own = verdict_of(whole(joined([frames, errors]), known))
    assert own.kind == "bus down" and "100 messages are spoilt" in own.says and "ohms" in own.next
    assert verdict_of(whole(frames, known)).kind == "all talk"
    some = whole(log((256, 0.02, pump(200))), known)
    assert verdict_of(some).kind == "some silent" and set(verdict_of(some).senders) == {"Lamp", "Roof"}


def test_a_signal_is_drawn_as_it_held():
    times, values = np.array([1.0, 2.0, 2.4, 4.0]), np.array([5.0, 7.0, 1.0, 2.0])
    least, most = held_between(times, values, 0.0, 5.0, 5)
    assert np.isnan(least[0]) and np.isnan(most[0])
    np.testing.assert_array_equal(least[1:], [5.0, 1.0, 1.0, 2.0])
    np.testing.assert_array_equal(most[1:], [5.0, 7.0, 1.0, 2.0])
    least, most = held_between(times, values, 4.5, 4.6, 3)
    np.testing.assert_array_equal(least, [2.0, 2.0, 2.0])


def test_channels_beyond_counting_share_the_last_place():
    names = ChannelNames()
    assert [names.place(f"c{k}") for k in (0, 1, 0)] == [0, 1, 0] and names.names == ("c0", "c1")


def test_an_empty_log_is_said_to_be_empty(known):
    nothing = Frames(*(np.zeros(0, kind) for kind in ("f8", "u4", "u1", "u1", "u1", "u1")))
    assert whole(nothing, known).notes == ("There are no frames in it.",)
