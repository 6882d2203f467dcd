"""Messages longer than a frame: what one end sends the other puts together, and what goes wrong is said in a sentence and forgotten."""

from __future__ import annotations

import random

import pytest

from pondrel.core.talk.segments import LONGEST, MOST_WAITS, Endpoint, Joined, TransportFault


def through(message: bytes, block: int = 0, gap: int = 0) -> tuple[bytes | None, float]:
    """A message sent from one end to the other; what came out, and when."""
    here, there, now = Endpoint(), Endpoint(block, gap), 0.0
    waiting = here.send(message, now)
    for _ in range(20_000):
        answers, done = [], None
        for frame in waiting:
            assert len(frame) == 8
            more, found = there.heard(frame, now)
            answers += more
            done = found if found is not None else done
        if done is not None:
            return done, now
        waiting = [out for frame in answers for out in here.heard(frame, now)[0]]
        while not waiting and here.busy:
            now += 0.0005
            waiting = here.due(now)
    return None, now


@pytest.mark.parametrize("length", [1, 7, 8, 13, 14, 62, 500, LONGEST])
@pytest.mark.parametrize("block", [0, 1, 8])
def test_every_length_comes_through_whole_whatever_the_block(length, block):
    message = random.Random(length).randbytes(length)
    assert through(message, block)[0] == message


def test_the_pause_that_the_receiver_asks_for_is_kept():
    message = bytes(6 + 7 * 10)
    assert through(message, gap=5)[1] == pytest.approx(9 * 0.005, abs=0.003)  # before each of ten frames but the first
    assert through(message, gap=0xF5)[1] == pytest.approx(9 * 0.0005, abs=0.0025)  # hundreds of microseconds
    assert through(message)[1] == 0.0


def begun(length: int = 20) -> tuple[Endpoint, bytes]:
    """A receiver that has heard the first frame of a message."""
    end = Endpoint()
    flow, done = end.heard(bytes([0x10, length]) + bytes(6), 0.0)
    assert flow == [bytes([0x30, 0, 0, 0, 0, 0, 0, 0])] and done is None
    return end, bytes(7)


def test_a_frame_out_of_order_loses_the_message_and_says_so():
    end, rest = begun()
    assert end.heard(b"\x22" + rest, 0.0) == ([], None)
    assert end.faults[-1] == "Frame 1 of a message was awaited and 2 came: the message is lost."
    assert end.heard(b"\x21" + rest, 0.0) == ([], None) and len(end.faults) == 1  # what is left of it is passed over


def test_an_answer_that_breaks_off_is_given_up_after_its_time():
    end, rest = begun()
    end.heard(b"\x21" + rest, 0.1)
    assert end.due(1.0) == [] and not end.faults
    end.due(1.2)
    assert end.faults[-1] == "A message of 20 bytes broke off after 13."
    assert end.heard(b"\x22" + rest, 1.3) == ([], None)


def test_another_message_in_between_takes_the_place_of_the_first():
    end, _ = begun()
    assert end.heard(b"\x02\x3e\x00" + bytes(5), 0.0) == ([], b"\x3e\x00")
    assert end.faults[-1] == "A message broke off: another one began."


def test_what_is_too_long_is_refused_on_the_wire():
    end = Endpoint(longest=100)
    flow, done = end.heard(bytes([0x10, 101]) + bytes(6), 0.0)
    assert flow[0][:3] == b"\x32\x00\x00" and done is None
    huge, _ = Endpoint().heard(bytes([0x10, 0, 0x7F, 0xFF, 0xFF, 0xFF, 1, 2]), 0.0)
    assert huge[0][0] == 0x32


@pytest.mark.parametrize(
    ("flow", "says"),
    [
        (b"\x32\x00\x00", "has no room for it"),
        (b"\x37\x00\x00", "answered with 7, which means nothing"),
    ],
)
def test_a_sender_gives_up_where_it_is_told_to(flow, says):
    end = Endpoint()
    end.send(bytes(50), 0.0)
    assert end.heard(flow, 0.0) == ([], None)
    assert says in end.faults[-1] and not end.busy


def test_a_sender_does_not_wait_for_ever():
    silent = Endpoint()
    silent.send(bytes(50), 0.0)
    assert silent.due(0.9) == [] and silent.busy
    silent.due(1.1)
    assert not silent.busy and "did not say whether to go on" in silent.faults[-1]
    asked = Endpoint()
    asked.send(bytes(50), 0.0)
    for turn in range(MOST_WAITS + 1):
        assert asked.busy
        asked.heard(b"\x31\x00\x00", float(turn) / 2)
    assert not asked.busy and "again and again" in asked.faults[-1]


def test_a_block_is_not_left_without_leave_and_the_wait_for_it_ends():
    end = Endpoint()
    end.send(bytes(60), 0.0)
    frames, _ = end.heard(b"\x30\x02\x05", 0.0)
    frames += end.due(0.006)
    assert [frame[0] for frame in frames] == [0x21, 0x22]
    assert end.due(0.5) == [] and end.busy
    end.due(1.2)
    assert not end.busy


def test_leave_that_nobody_asked_for_changes_nothing():
    end = Endpoint()
    assert end.heard(b"\x30\x00\x00", 0.0) == ([], None) and not end.faults
    end.send(bytes(20), 0.0)
    first, _ = end.heard(b"\x30\x00\x00", 0.0)
    assert len(first) == 2 and end.heard(b"\x30\x00\x00", 0.0) == ([], None)


@pytest.mark.parametrize("frame", [b"\x00", b"\x08" + bytes(7), b"\x07\x01", b"\x10\x14\x00", b"\x10\x05" + bytes(6), b"\xf0" + bytes(7)])
def test_what_is_no_frame_is_named_and_brings_nothing(frame):
    end = Endpoint()
    assert end.heard(frame, 0.0) == ([], None) and len(end.faults) == 1


def test_frames_at_random_never_stop_it():
    dice = random.Random(7)
    end, now = Endpoint(), 0.0
    for _ in range(20_000):
        now += dice.random() * 0.4
        if dice.random() < 0.05 and not end.busy:
            end.send(dice.randbytes(dice.randint(1, 300)), now)
        for frame in end.heard(dice.randbytes(dice.randint(0, 8)), now)[0] + end.due(now):
            assert len(frame) == 8
    assert len(end.faults) == 50  # of very many the last


def test_what_cannot_be_sent_is_refused():
    end = Endpoint()
    for message in (b"", bytes(LONGEST + 1)):
        with pytest.raises(TransportFault, match="1 to 4095"):
            end.send(message, 0.0)
    end.send(bytes(20), 0.0)
    with pytest.raises(TransportFault, match="under way"):
        end.send(b"\x3e\x00", 0.0)


def test_who_only_listens_puts_an_answer_together():
    sender, ear = Endpoint(), Joined()
    message = bytes(range(100))
    frames = sender.send(message, 0.0)
    frames += sender.heard(b"\x30\x00\x00", 0.0)[0]
    heard = [ear.heard(frame, 0.0) for frame in (*frames[:3], b"\x30\x00\x00" + bytes(5), *frames[3:])]
    assert heard[-1] == message and not any(heard[:-1])
