"""Modules and tester against strangers: can-isotp and udsoncan as a client of the simulated vehicle, a responder written on can-isotp alone
as a vehicle for Pondrel's tester, and examples that the standards print.

Sources: can-isotp 2 and udsoncan 1.26 (open libraries, by others); examples of ISO 15765-2 and ISO 14229-1 as they are commonly quoted,
from memory; code formats of SAE J2012, from memory.
"""

from __future__ import annotations

import contextlib
import random
import threading
import time

import can
import isotp
import pytest
import udsoncan
from udsoncan.client import Client
from udsoncan.configs import default_client_config
from udsoncan.connections import PythonIsoTpV2Connection
from udsoncan.exceptions import NegativeResponseException

from pondrel.core.module.fault_code import code_from_bytes
from pondrel.core.module.roster import Datum, Module, Roster, Speaks
from pondrel.core.module.roster.standard import standard_roster
from pondrel.core.talk.emission import value_in
from pondrel.core.talk.segments import Endpoint
from pondrel.instruments.bus import interface_from
from pondrel.instruments.modules.reached import lines_at
from pondrel.instruments.modules.tester import Tester as Asker
from pondrel.instruments.modules.trouble import Broken, Refused, Silent
from tests.served import roster_named, served

AIR = "hop_16"


class Height(udsoncan.DidCodec):
    """Two heights in tenths of a millimetre."""

    def decode(self, payload):
        return [int.from_bytes(payload[at : at + 2], "big", signed=True) / 10 for at in (0, 2)]

    def encode(self, value):
        raise NotImplementedError

    def __len__(self):
        return 4


class Raw(udsoncan.DidCodec):
    """So many bytes as they are."""

    def __init__(self, length):
        self.length = length

    def decode(self, payload):
        return bytes(payload)

    def encode(self, value):
        return bytes(value)

    def __len__(self):
        return self.length


@contextlib.contextmanager
def stranger(address: str, asks: int, answers: int, **settings):
    """A client that others wrote."""
    bus = interface_from(address).opened()
    notifier = can.Notifier(bus, [])
    try:
        ids = isotp.Address(isotp.AddressingMode.Normal_11bits, txid=asks, rxid=answers)
        stack = isotp.NotifierBasedCanStack(bus, notifier, address=ids, params={"tx_padding": 0xCC, "blocksize": 3, "stmin": 1})
        codecs = {0xD101: Raw(2), 0xD110: Height(), 0xD112: Raw(1)}
        config = dict(default_client_config) | {"request_timeout": 20, "p2_timeout": 10, "data_identifiers": codecs} | settings
        with Client(PythonIsoTpV2Connection(stack), config=config) as client:
            yield client
    finally:
        notifier.stop()
        bus.shutdown()


def test_a_stranger_reads_codes_snapshots_and_data_of_the_simulated_vehicle():
    with served(roster_named(AIR), "kneeling_valves", ["Y2.open"], "kneel right") as own, stranger(own.bus, 0x722, 0x72A) as client:
        client.tester_present()
        found = client.get_dtc_by_status_mask(0x08).service_data.dtcs
        assert [(code.id, code.status.confirmed, code.status.test_failed) for code in found] == [(0x5B2213, True, True)]
        assert code_from_bytes(found[0].id >> 16, found[0].id >> 8 & 0xFF) == "C1B22"
        assert client.get_number_of_dtc_by_status_mask(0x08).service_data.dtc_count == 1
        shot = client.get_dtc_snapshot_by_dtc_number(0x5B2213, 0xFF).service_data.dtcs[0].snapshots
        assert {one.did for one in shot} == {0xD101, 0xD110, 0xD112} and shot[1].data == [5.0, 4.0]
        values = client.read_data_by_identifier([0xD101, 0xD110]).service_data.values
        assert int.from_bytes(values[0xD101], "big") == pytest.approx(2520, abs=5) and values[0xD110] == [5.0, 4.0]
        assert len(client.get_supported_dtc().service_data.dtcs) == 5


def test_a_stranger_moves_an_output_and_the_module_takes_it_back_where_nobody_keeps_it():
    with served(roster_named(AIR), "kneeling_valves", state="ready") as own, stranger(own.bus, 0x722, 0x72A) as client:
        client.config["input_output"] = {0xD150: Raw(1)}
        client.refresh_config()
        with pytest.raises(NegativeResponseException) as refused:
            client.io_control(0xD150, 3, values=[b"\x01"])
        assert refused.value.response.code == 0x7F  # not in the ordinary session
        client.change_session(3)
        client.io_control(0xD150, 3, values=[b"\x01"])
        wait_until(lambda: own.world.driven == {"N7.5": "on"} and own.life.works("Y1"))
        began = time.monotonic()
        wait_until(lambda: own.world.driven == {})  # no word more: the session ends by itself
        assert 3.5 < time.monotonic() - began < 9.0
        client.change_session(3)
        client.io_control(0xD150, 3, values=[b"\x01"])
        client.io_control(0xD150, 0)
        wait_until(lambda: own.world.driven == {})


def wait_until(true, seconds: float = 20.0) -> None:
    end = time.monotonic() + seconds
    while not true():
        assert time.monotonic() < end, "it did not come to that"
        time.sleep(0.01)


@pytest.mark.parametrize(
    ("request_", "code"),
    [("BA", 0x11), ("19 77", 0x12), ("22 D1", 0x13), ("22 D9 99", 0x31), ("10 02", 0x22), ("27 01", 0x33), ("2E D1 01 00", 0x33),
     ("31 01 03 10", 0x7E), ("31 03 99 99", 0x31), ("2F D1 50 03 01", 0x7F), ("14 00 01", 0x13), ("3E 77", 0x12), ("2F D1", 0x13)],
)  # fmt: skip
def test_what_a_module_refuses_has_the_number_that_the_standard_gives_it(request_, code):
    with served(roster_named(AIR), "kneeling_valves", state="ready") as own, stranger(own.bus, 0x722, 0x72A) as client:
        client.conn.send(bytes.fromhex(request_))
        assert client.conn.wait_frame(timeout=10) == bytes([0x7F, bytes.fromhex(request_)[0], code])


def test_a_stranger_clears_and_what_is_still_wrong_comes_back():
    with served(roster_named(AIR), "kneeling_valves", ["Y2.open"], "kneel right") as own, stranger(own.bus, 0x722, 0x72A) as client:
        wait_until(lambda: "right_vent" in own.modules.units["air"].memory.taken_away)
        own.world.turn("ready")
        client.clear_dtc()
        time.sleep(0.3)
        assert [code.id for code in client.get_dtc_by_status_mask(0x08).service_data.dtcs] == [0x5B2213]  # it is open at rest, too
        own.world.mend()
        client.clear_dtc()
        time.sleep(0.3)
        assert client.get_dtc_by_status_mask(0x08).service_data.dtcs == []


def test_messages_of_the_endpoint_go_through_can_isotp_both_ways():
    """An independent implementation of ISO 15765-2, on a bus inside the program, with blocks and pauses drawn at random."""
    dice = random.Random(3)
    for turn in range(6):
        channel = f"endpoint {turn}"
        theirs, ours = (can.Bus(interface="virtual", channel=channel) for _ in range(2))
        ids = isotp.Address(isotp.AddressingMode.Normal_11bits, txid=0x10, rxid=0x20)
        block, gap = dice.choice((0, 1, 4, 8)), dice.choice((0, 1))
        stack = isotp.CanStack(theirs, address=ids, params={"blocksize": block, "stmin": gap, "tx_padding": 0x55})
        stack.start()
        end = Endpoint(dice.choice((0, 2, 8)), dice.choice((0, 1)))
        try:
            for length in (1, 7, 8, 20, dice.randint(200, 1500)):
                message = dice.randbytes(length)
                stack.send(message)
                assert talk_through(end, ours, None, 0x10) == message
                talk_through(end, ours, message, 0x10)
                assert bytes(stack.recv(block=True, timeout=10)) == message
            assert not end.faults
        finally:
            stack.stop()
            theirs.shutdown()
            ours.shutdown()


def talk_through(end: Endpoint, bus: can.BusABC, message: bytes | None, hears: int) -> bytes | None:
    """Send a message, or put one together, over a bus."""
    out = end.send(message, time.monotonic()) if message is not None else []
    until = time.monotonic() + 20
    while time.monotonic() < until:
        for frame in out:
            bus.send(can.Message(arbitration_id=0x20, data=frame, is_extended_id=False))
        if message is not None and not end.busy:
            return None
        heard = bus.recv(0.001)
        out, done = end.heard(bytes(heard.data), time.monotonic()) if heard and heard.arbitration_id == hears else ([], None)
        if done is not None:
            return done
        out = [*out, *end.due(time.monotonic())]
    raise AssertionError("it did not go through")


class Responder:
    """Another vehicle: a module made on can-isotp, with what it answers given by hand. ``says`` gives the answers to a request."""

    def __init__(self, channel: str, says, asks: int = 0x7E0, answers: int = 0x7E8):
        self.bus = can.Bus(interface="virtual", channel=channel)
        ids = isotp.Address(isotp.AddressingMode.Normal_11bits, txid=answers, rxid=asks)
        self.stack = isotp.CanStack(self.bus, address=ids, params={"tx_padding": 0xAA})
        self.says, self.heard, self.over = says, [], False

    def __enter__(self):
        self.stack.start()
        self.thread = threading.Thread(target=self._serve, daemon=True)
        self.thread.start()
        return self

    def __exit__(self, *gone):
        self.over = True
        self.thread.join(5)
        self.stack.stop()
        self.bus.shutdown()

    def _serve(self):
        while not self.over:
            request = self.stack.recv(block=True, timeout=0.05)
            if request is not None:
                self.heard.append(bytes(request))
                for answer in self.says(bytes(request)):
                    if isinstance(answer, float):
                        time.sleep(answer)
                    else:
                        self.stack.send(answer)
                        while self.stack.transmitting():
                            time.sleep(0.001)


ENGINE = Module("engine", "Engine module", Speaks.EMISSION, 0x7E0, 0x7E8)
BODY = Module(
    "body", "Body module", Speaks.UDS, 0x7E0, 0x7E8, data={"volts": Datum("volts", "Supply", 0xF442, size=2, scale=0.001, unit="V")}
)


@contextlib.contextmanager
def asked(name, module, says):
    with Responder(name, says) as other:
        said = []
        with Asker(Roster("other", {module.name: module}), lines_at(f"virtual:{name}"), said.append) as tester:
            yield tester, other, said


def answering(table):
    return lambda request: [bytes.fromhex(text) for text in table.get(request.hex(" "), ())]


def test_the_tester_reads_another_vehicle_of_the_emission_system():
    vin = "49 02 01 " + b"9Z9TESTER00000042".hex(" ")
    table = {
        "01 00": ["41 00 18 18 80 01"], "01 20": ["41 20 00 00 00 01"], "01 40": ["41 40 40 00 00 00"], "01 04": ["41 04 66"],
        "01 05": ["41 05 7B"], "01 0c": ["41 0C 1A F8"], "01 0d": ["41 0D 32"], "01 11": ["41 11 33"], "01 42": ["41 42 35 E8"],
        "03": ["43 02 01 13 C1 00"], "07": ["47 01 03 00"], "0a": ["4A 00"], "09 02": [vin],
        "02 00 00": ["42 00 00 08 00 00 00"], "02 05 00": ["42 05 00 5A"],
    }  # fmt: skip
    with asked("emission", ENGINE, answering(table)) as (tester, _, _said):
        assert tester.roll_call()[0].answers
        values = {value.name: number for value, number in tester.emission_data(ENGINE)}
        assert (
            values["engine speed"] == 1726.0 and values["coolant"] == 83.0 and values["vehicle speed"] == 50.0
        )  # 1A F8: SAE J1979's example
        assert values["supply at the module"] == 13.8 and values["throttle"] == 20.0
        found = tester.codes(ENGINE)
        assert [(code.name, code.status) for code in found.codes] == [("P0113", "stored"), ("U0100", "stored"), ("P0300", "pending")]
        assert found.codes[0].frame == (("coolant", "50 °C"),)


def test_by_the_roster_of_any_vehicle_only_what_a_module_says_to_have_is_asked_for():
    """A module answers nothing at all to a number that it does not have (SAE J1979): each would cost the tester its whole patience."""
    table = {"01 00": ["41 00 18 10 00 00"], "01 04": ["41 04 66"], "01 05": ["41 05 7B"], "01 0c": ["41 0C 1A F8"]}
    engine = standard_roster().module("obd7e8")
    with asked("any", engine, answering(table)) as (tester, _, said):
        told = {value.datum.title: value.says for value in tester.data(engine) if value.value is not None}
        assert told == {"Engine load": "40.0 %", "Coolant": "83 °C", "Engine speed": "1726 r/min"}
        assert [one.request.hex(" ") for one in said] == ["01 00", "01 04", "01 05", "01 0c"]
        assert [value.says for value in tester.data(engine, [engine.datum("v0d"), engine.datum("v05")])] == ["–", "83 °C"]


def test_patience_is_had_where_a_module_asks_for_it_and_ends():
    later = bytes.fromhex("7F 22 78")
    says = {b"\x22\xf4\x42": [later, 0.7, later, 1.2, bytes.fromhex("62 F4 42 30 D4")]}
    with asked("patience", BODY, lambda request: says.get(request, ())) as (tester, _, said):
        assert tester.data(BODY)[0].says == "12.500 V"
        assert [one.answer.hex() for one in said] == ["7f2278", "7f2278", "62f44230d4"]


@pytest.mark.parametrize(
    ("says", "error", "words"),
    [
        ((), Silent, "Body module does not answer"),
        (("7F 19 11",), Refused, "It does not know this service"),
        (("7F 19 33",), Refused, "maker's authority"),
        (("62 F4 42 30 D4",), Broken, "something came that was not asked for"),
        (("59 02 FF 5A 10 13",), Broken, "no whole codes"),
        (("",), Silent, "does not answer"),
    ],
)
def test_what_goes_wrong_is_one_sentence_and_the_request_is_in_the_record(says, error, words):
    with asked(f"wrong {words} {len(says)}", BODY, lambda request: [bytes.fromhex(text) for text in says if text]) as (tester, _, said):
        with pytest.raises(error, match=words):
            tester.codes(BODY)
        assert said[0].request == b"\x19\x02\xff" and (said[-1].fault or said[-1].answer)


def raw_frames(*frames):
    """A vehicle that answers a request with frames as they are, right or wrong."""

    @contextlib.contextmanager
    def serving(name):
        bus = can.Bus(interface="virtual", channel=name)
        over = threading.Event()

        def serve():
            while not over.is_set():
                heard = bus.recv(0.05)
                if heard is not None and heard.arbitration_id == 0x7E0 and heard.data[0] >> 4 == 0:
                    for frame in frames:
                        bus.send(can.Message(arbitration_id=0x7E8, data=bytes.fromhex(frame), is_extended_id=False))
                        time.sleep(0.02)

        thread = threading.Thread(target=serve, daemon=True)
        thread.start()
        try:
            with Asker(Roster("other", {"body": BODY}), lines_at(f"virtual:{name}")) as tester:
                yield tester
        finally:
            over.set()
            thread.join(5)
            bus.shutdown()

    return serving


@pytest.mark.parametrize(
    ("frames", "words"),
    [
        (("10 14 59 02 FF 5A 10 13", "22 2F 01 13 08 01 13 08"), "out of order"),
        (("10 14 59 02 FF 5A 10 13",), "broke off in the middle"),
        (("21 59 02 FF 5A 10 13 2F",), "the rest of an answer came"),
        (("1F FF 59 02 FF 5A 10 13", "37 00 00"), "broke off in the middle|makes no sense"),
        (("0F 59 02 FF",), "makes no sense"),
    ],
)
def test_abuse_of_the_transport_is_one_sentence(frames, words):
    with raw_frames(*frames)(f"abuse {words}") as tester, pytest.raises((Broken, Silent), match=words):
        tester.codes(BODY)


def test_a_babbling_module_does_not_keep_another_from_being_heard():
    stop = threading.Event()

    def babble():
        bus = can.Bus(interface="virtual", channel="babble")
        while not stop.is_set():
            for number in range(50):
                bus.send(can.Message(arbitration_id=0x100 + number % 3, data=bytes(8), is_extended_id=False))
            time.sleep(0.005)
        bus.shutdown()

    table = {"22 f4 42": ["62 F4 42 30 D4"], "19 02 ff": ["59 02 FF " + "01 13 13 2F " * 40]}
    thread = threading.Thread(target=babble, daemon=True)
    with asked("babble", BODY, answering(table)) as (tester, _, _said):
        thread.start()
        try:
            assert tester.data(BODY)[0].says == "12.500 V"
            assert len(tester.codes(BODY, frozen=False).codes) == 40
        finally:
            stop.set()
            thread.join(5)


def test_when_the_bus_is_gone_it_is_said():
    with served(roster_named(AIR), "kneeling_valves", state="ready") as own:
        tester = Asker(roster_named(AIR), lines_at(own.bus))
        assert tester.roll_call()[0].answers
        own.server.ended = True
        own.server.shutdown()
        own.server.server_close()
        with pytest.raises((Broken, Silent)):
            tester.codes(tester.roster.module("air"))
        tester.lines.close()


def test_codes_are_spelled_as_the_standard_spells_them():
    """SAE J2012: the first two bits are the letter, the next two a digit, the rest three hexadecimal digits. From memory."""
    for raw, code in {0x0143: "P0143", 0x4123: "C0123", 0x9234: "B1234", 0xC155: "U0155", 0x3FFF: "P3FFF", 0xD00D: "U100D"}.items():
        assert code_from_bytes(raw >> 8, raw & 0xFF) == code


def test_the_first_frames_of_the_standards_examples():
    """ISO 15765-2, as it is commonly quoted: 20 bytes go as 10 14, 21, 22; a flow control that lets all through is 30 00 00."""
    end = Endpoint()
    message = bytes(range(1, 21))
    first = end.send(message, 0.0)[0]
    assert first.hex(" ") == "10 14 01 02 03 04 05 06"
    rest, _ = end.heard(bytes.fromhex("30 00 00"), 0.0)
    assert [frame.hex(" ") for frame in rest] == ["21 07 08 09 0a 0b 0c 0d", "22 0e 0f 10 11 12 13 14"]
    assert value_in(0x0C, bytes.fromhex("1AF8")) == 1726.0
