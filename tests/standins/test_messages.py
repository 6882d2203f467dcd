"""Ordinary messages of the simulated vehicle: they follow the circuit, stop where a module is silent, and say what their bits say."""

from __future__ import annotations

import time

import can
import pytest

from pondrel.core.base.errors import ReadingError, SheetError
from pondrel.core.circuit.fault import Fault
from pondrel.core.module.roster import parse_roster
from pondrel.demo.buses import SIGNALS
from pondrel.demo.load import ROSTERS
from pondrel.standins.modules.messages import Messages
from tests.served import roster_named, served

TEXT = (SIGNALS / "parcel-cart.dbc").read_text()


def bits(data: bytes, start: int, length: int) -> int:
    """A little-endian signal's raw bits, picked out by hand."""
    return int.from_bytes(data, "little") >> start & ((1 << length) - 1)


@pytest.fixture
def cart():
    with served(roster_named("parcel_2"), "under_seat_crash_loop", [], "key on") as own:
        sent: list[tuple[int, bytes]] = []
        messages = Messages(own.life, TEXT, own.modules.units, lambda identity, data: sent.append((identity, data)))
        yield own, messages


def said(own, messages, number: int) -> bytes | None:
    for unit in own.modules.units.values():
        unit.go_on()
    return messages.data_of(next(one for one in messages.messages if one.frame_id == number))


def test_a_flag_follows_the_circuit_behind_it(cart):
    own, messages = cart
    data = said(own, messages, 256)
    assert bits(data, 40, 1) == 0 and bits(data, 0, 16) == 504  # 50.4 V by 0.1
    own.world.faults = (Fault("F14", "open"),)
    assert bits(said(own, messages, 256), 40, 1) == 1
    own.world.mend()
    assert bits(said(own, messages, 256), 40, 1) == 0


def test_a_counter_counts_and_a_value_is_that_of_its_module(cart):
    own, messages = cart
    counts = [bits(said(own, messages, 256), 48, 4) for _ in range(18)]
    assert counts == [k % 16 for k in range(18)]
    own.life.set("drive.pedal", "40")
    assert bits(said(own, messages, 272), 0, 8) == 80  # by 0.5 %


def test_who_is_silent_sends_nothing_and_who_is_in_no_roster_goes_on(cart):
    own, messages = cart
    own.life.set("manager.silent", "1")
    assert said(own, messages, 256) is None and said(own, messages, 272) is not None
    assert said(own, messages, 800) is not None  # the heater module


def test_what_is_too_large_for_its_bits_is_the_most_that_fits(cart):
    own, messages = cart
    own.life.set("drive.pedal", "1e6")
    assert bits(said(own, messages, 272), 0, 8) == 255


def test_they_are_heard_on_the_bus_in_their_rhythm():
    with served(roster_named("parcel_2"), "under_seat_crash_loop", ["F14.open"], "key on") as own:
        messages = Messages(own.life, TEXT, own.modules.units, own.server.send)
        messages.start()
        port = own.bus.rpartition(":")[2].split("/")[0]
        heard: dict[int, list[bytes]] = {}
        with can.Bus(interface="socketcand", host="127.0.0.1", port=int(port), channel="can0") as bus:
            end = time.monotonic() + 1.5
            while time.monotonic() < end:
                frame = bus.recv(0.2)
                if frame is not None:
                    heard.setdefault(frame.arbitration_id, []).append(bytes(frame.data))
        messages.stop()
    assert {256, 272, 512, 784} <= set(heard) and bits(heard[256][-1], 40, 1) == 1
    assert len(heard[256]) > 3 * len(heard[784])  # every 10 ms, and every 200


def test_a_text_that_is_no_database_is_refused(cart):
    own, _ = cart
    with pytest.raises(ReadingError, match="cannot be read"):
        Messages(own.life, "BO_ nonsense", own.modules.units, lambda *_: None)


@pytest.mark.parametrize("said", ["manager.nothing", "code manager.P0001", "nobody.loop", "far too", "true"])
def test_a_signal_that_says_nothing_that_is_known_is_named(said):
    text = (ROSTERS / "parcel_2.yaml").read_text().replace("PackHeat: 19", f"PackHeat: {said}")
    with pytest.raises(SheetError, match=r"stand_in\.signals\.PackHeat"):
        parse_roster(text)
