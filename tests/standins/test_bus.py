"""The simulated vehicle's bus, with python-can's own client of socketcand as the stranger that listens and speaks."""

from __future__ import annotations

import contextlib
import socket
import threading

import can
import pytest

from pondrel.core.base.errors import PondrelError
from pondrel.core.bus.formats.text import from_fields
from pondrel.core.bus.frames import ERROR, EXTENDED, FD, joined
from pondrel.core.circuit.fault import parse_fault
from pondrel.instruments.bus import Interface, messages_from
from pondrel.standins.bus import BusServer, Rhythm, silent_senders
from pondrel.standins.world import World

FRAMES = joined(
    [
        from_fields(5.0 + k / 100, identity, kind, 0, bytes([k]) * size)
        for k in range(30)
        for identity, kind, size in [((0x123, 0, 2), (0x18FEF100, EXTENDED, 8), (0x124, 0, 0))[k % 3]]
    ]
)


@contextlib.contextmanager
def serving(rhythm, silent=frozenset):
    with BusServer(rhythm, silent=silent) as server:
        threading.Thread(target=server.serve_forever, daemon=True).start()
        yield Interface("socketcand", "can0", host="127.0.0.1", port=server.port)
        server.shutdown()


PATIENCE = 60.0  # s: a busy machine may take its time


def heard(interface, enough):
    """What is heard until it is enough, by what was heard so far; all that there is where it never is."""
    found = []
    for message in messages_from(interface, PATIENCE, lambda: enough(found), lambda count: None):
        found.append(message)
        if enough(found):
            break
    return found


def test_what_the_log_holds_is_heard_in_its_rhythm_round_and_round():
    with serving(Rhythm(FRAMES)) as interface:
        found = heard(interface, lambda found: len(found) > 35)
    first = [(one.arbitration_id, one.is_extended_id, bytes(one.data)) for one in found[:30]]
    begins = FRAMES.begins
    wanted = [(int(FRAMES.id[k]), bool(FRAMES.flags[k] & EXTENDED), FRAMES.bytes_of(k, begins)) for k in range(30) if FRAMES.length[k]]
    assert [one for one in first if one[2]][:20] == wanted[:20]
    assert len(found) > 35  # the second round is under way
    assert found[19].timestamp - found[0].timestamp > 0.15  # one by one and not all at once


def test_what_cannot_go_over_this_protocol_is_left_out():
    odd = joined([from_fields(0.0, 0, ERROR, 0, b""), from_fields(0.1, 1, FD, 0, bytes(12)), from_fields(0.2, 2, 0, 0, b"\1")])
    assert [identity for _, identity, _ in Rhythm(odd).frames] == [2]


def test_what_one_client_sends_the_others_hear():
    with serving(Rhythm(FRAMES.part(0, 1))) as interface:
        other = interface.opened()
        try:
            timer = threading.Timer(0.4, lambda: other.send(can.Message(arbitration_id=0x7AB, is_extended_id=False, data=b"\x01\xfe")))
            timer.start()
            found = heard(interface, lambda found: any(one.arbitration_id == 0x7AB for one in found))
            assert bytes(found[-1].data) == b"\x01\xfe"
        finally:
            other.shutdown()


def test_a_module_without_supply_is_silent_and_speaks_again_when_it_is_mended(demo_sheets):
    sheet = demo_sheets["wake_heater_module"]
    world = World(sheet, (parse_fault(sheet, "F22.open"),))
    world.turn("key on")
    names = ["HeaterModule", "BodyModule"]
    assert silent_senders(world, names) == {"HeaterModule"}
    rhythm = Rhythm(FRAMES, {0x123: ["HeaterModule"], 0x18FEF100: ["BodyModule"]})
    with serving(rhythm, lambda: silent_senders(world, names)) as interface:
        found = heard(interface, lambda found: len(found) > 40)
        assert {one.arbitration_id for one in found} == {0x18FEF100, 0x124}
        world.mend()
        assert heard(interface, lambda found: any(one.arbitration_id == 0x123 for one in found))[-1].arbitration_id == 0x123


@pytest.mark.parametrize("said", [b"< nonsense >", b"< open can0 >< echo >", b"x" * 9000, b""])
def test_a_client_that_speaks_otherwise_is_turned_away_and_others_are_served(said):
    with serving(Rhythm(FRAMES)) as interface:
        with socket.create_connection((interface.host, interface.port), timeout=5) as own:
            assert own.recv(64) == b"< hi >"
            own.settimeout(5)
            with contextlib.suppress(OSError):  # it may be gone before all was said
                own.sendall(said)
                own.shutdown(socket.SHUT_WR)
                while own.recv(256):
                    pass
        assert heard(interface, lambda found: len(found) > 2)


@pytest.mark.parametrize(
    ("interface", "says"),
    [
        (Interface("socketcand", "can0", host="127.0.0.1", port=1), "Nobody listens at 127.0.0.1 port 1"),
        (Interface("nothing", "can0"), "is no interface that is known here"),
        (Interface("socketcan", "nosuch0"), "cannot be reached"),
    ],
)
def test_a_bus_that_cannot_be_reached_is_said_in_a_sentence(interface, says):
    with pytest.raises(PondrelError, match=says) as caught:
        heard(interface, lambda found: True)
    assert "\n" not in str(caught.value)
