"""Strangers on both ends of the wire: a client that others wrote reads our stand-in meter, our client a meter that is not ours."""

from __future__ import annotations

import socket
import threading
import time

import pytest
import pyvisa

from pondrel.core.meter.steady import is_steady
from pondrel.instruments import visa
from pondrel.instruments.scope import Lead, acquire, places_of, turn
from pondrel.instruments.visa import MeterError, read_live
from pondrel.standins.meter import Meter
from pondrel.standins.scpi import Scpi
from pondrel.standins.server import InstrumentServer
from pondrel.standins.world import World


def settled(read, most=100):
    """What a display comes to: read until four numbers lie together."""
    numbers = [read()]
    for _ in range(most):
        time.sleep(0.04)
        numbers.append(read())
        if is_steady(numbers, "V"):
            return numbers[-1]
    raise AssertionError(f"The display never came to rest: {numbers[-5:]}")


@pytest.fixture
def server(step_light):
    with InstrumentServer(Scpi(Meter(World(step_light)))) as running:
        thread = threading.Thread(target=running.serve_forever, daemon=True)
        thread.start()
        yield running
        running.shutdown()
    visa.close_all()


@pytest.fixture
def client(server):
    manager = pyvisa.ResourceManager("@py")
    opened = manager.open_resource(server.address, read_termination="\n", write_termination="\n", timeout=3000)
    yield opened
    opened.close()


def test_pyvisa_reads_identity_numbers_and_errors(client):
    """PyVISA 1.16 with pyvisa-py 0.8 as the client; SCPI 1999 and IEEE 488.2 as the language."""
    assert client.query("*IDN?").split(",")[0] == "Pondrel" and client.query("*OPC?").strip() == "1"
    client.write('ROUT:STAT "lit"')
    client.write('ROUT:PROB "batt+"')
    assert settled(lambda: client.query_ascii_values("MEAS:VOLT:DC?")[0]) == pytest.approx(12.6, abs=0.2)
    client.write("ROUT:PROB")  # into the air
    assert client.query_ascii_values("MEAS:RES?")[0] == pytest.approx(9.9e37)
    client.write("BOGUS 1")
    assert client.query("SYST:ERR?").startswith("-113,") and client.query("SYST:ERR?").startswith("0,")


def test_a_line_without_end_is_an_overrun_and_the_next_one_is_answered(server):
    with socket.create_connection(("127.0.0.1", server.port), 3) as raw:
        raw.sendall(b"A" * 50_000 + b"\n\xff\xfe\x00garbage\nSYST:ERR?\nSYST:ERR?\n*IDN?\n")
        told = raw.makefile().readline, raw.makefile()
        lines = [told[1].readline().strip() for _ in range(3)]
    assert lines[0].startswith("-363,") and lines[1].startswith("-102,") and lines[2].startswith("Pondrel")


def test_two_clients_are_answered_side_by_side_and_one_that_goes_leaves_the_other(server, client):
    raw = socket.create_connection(("127.0.0.1", server.port), 3)
    raw.sendall(b"*ID")  # half a line, and gone
    raw.close()
    assert client.query("*IDN?").startswith("Pondrel")


def test_our_client_reads_the_stand_in_and_puts_its_probes(server):
    assert settled(lambda: read_live(server.address, "V", ("batt+", ""), "lit").value) == pytest.approx(12.6, abs=0.2)
    live = read_live(server.address, "V", ("batt+", ""), "lit")
    assert live.is_standin and not live.over and live.unit == "V"
    over = read_live(server.address, "Ω", ("lamp.feed", "g1"), "idle", "LA1, G1")
    assert over.over is (over.value > 9e37)
    with pytest.raises(MeterError, match="refuses: 'nowhere' is no place"):
        read_live(server.address, "V", ("nowhere", ""))
    assert read_live(server.address, "V", ("batt+", "")).value is not None


class OtherMeter(threading.Thread):
    """A bench meter as another maker has it: another identity, no ROUTe commands, numbers in another form; or one that misbehaves."""

    def __init__(self, replies):
        super().__init__(daemon=True)
        self.replies, self.said = replies, []
        self.listening = socket.create_server(("127.0.0.1", 0))
        self.address = f"TCPIP0::127.0.0.1::{self.listening.getsockname()[1]}::SOCKET"
        self.start()

    def run(self):
        try:
            while True:
                conn, _ = self.listening.accept()
                with conn, conn.makefile("rwb", buffering=0) as stream:
                    for line in stream:
                        text = line.decode().strip()
                        self.said.append(text)
                        reply = next((reply for begin, reply in self.replies.items() if text.startswith(begin)), None)
                        if reply == "hang up":
                            break
                        if reply is not None:
                            stream.write(reply.encode() + b"\n")
        except OSError:
            return


@pytest.fixture
def other(monkeypatch):
    monkeypatch.setattr(visa, "TIMEOUT_MS", 300)
    made = []

    def make(**replies):
        meter = OtherMeter(
            {"*IDN?": "ACME INSTRUMENTS,8846,42,1.0", **{name.replace("_", ":") + "?": text for name, text in replies.items()}}
        )
        made.append(meter)
        return meter

    yield make
    visa.close_all()
    for meter in made:
        meter.listening.close()


@pytest.mark.parametrize(
    ("text", "value", "over"),
    [("+1.2345E+01", 12.345, False), (" 12.345 ", 12.345, False), ("12.345,OK", 12.345, False), ("9.90000000E+37", 9.9e37, True)],
)
def test_a_meter_of_another_maker_is_read_without_being_told_of_probes(other, text, value, over):
    meter = other(READ=text, CONF='"VOLT 1.0E+01,1.0E-05"')
    live = read_live(meter.address, "V", ("somewhere", ""), "lit")
    assert (live.value, live.over, live.is_standin) == (value, over, False)
    assert not any("ROUT" in line for line in meter.said) and meter.said[1] == "CONF:VOLT:DC"
    assert live.range_end == (10.0 if over else None)


def test_a_function_is_set_up_once_and_anew_when_another_is_wanted(other):
    meter = other(READ="1.0")
    for unit in ("V", "V", "Ω", "V"):
        read_live(meter.address, unit)
    assert [line for line in meter.said if line.startswith("CONF:")] == ["CONF:VOLT:DC", "CONF:RES", "CONF:VOLT:DC"]


@pytest.mark.parametrize(
    ("replies", "says"),
    [
        ({"READ": "what?"}, "a number is wanted"),
        ({"READ": "nan"}, "a number is wanted"),
        ({"READ": "1" * 500}, "a number is wanted"),
        ({}, "does not answer"),
        ({"READ": "hang up"}, "meter"),
    ],
)
def test_garbage_silence_and_a_meter_that_hangs_up_are_one_sentence_each(other, replies, says):
    meter = other(**replies)
    with pytest.raises(MeterError, match=says) as caught:
        read_live(meter.address, "V")
    assert "\n" not in str(caught.value)


def test_a_meter_that_vanished_is_read_again_when_it_is_back(other):
    meter = other(READ="1.0")
    read_live(meter.address, "V")
    meter.replies["READ?"] = "hang up"
    with pytest.raises(MeterError):
        read_live(meter.address, "V")
    meter.replies["READ?"] = "2.0"
    assert read_live(meter.address, "V").value == 2.0


def test_a_meter_that_says_nothing_holds_up_only_the_first_who_asks(monkeypatch):
    monkeypatch.setattr(visa, "TIMEOUT_MS", 400)
    said: list[str] = []

    def ask(address):
        with pytest.raises(MeterError) as caught:
            read_live(address, "V")
        said.append(str(caught.value))

    with socket.create_server(("127.0.0.1", 0)) as silent:  # takes the call and answers nothing
        address = f"TCPIP0::127.0.0.1::{silent.getsockname()[1]}::SOCKET"
        threads = [threading.Thread(target=ask, args=(address,)) for _ in range(6)]
        for thread in threads:
            thread.start()
        for thread in threads:
            thread.join()
    assert sum("being looked for" in text for text in said) == 5 and sum("does not answer" in text for text in said) == 1


@pytest.mark.parametrize(
    "address", ["", "http://x", "TCPIP0::127.0.0.1::1::SOCKET", "TCPIP0::no such host::5025::SOCKET", "ASRL/dev/none::INSTR", "x" * 500]
)
def test_an_address_that_is_none_or_where_nobody_is_gets_one_sentence(address):
    with pytest.raises(MeterError) as caught:
        read_live(address, "V")
    assert "\n" not in str(caught.value) and str(caught.value)[-1] == "."


def test_what_no_meter_reads_is_typed_by_hand():
    with pytest.raises(MeterError, match="typed by hand"):
        read_live("TCPIP0::127.0.0.1::1::SOCKET", "kPa")


def test_pyvisa_reads_a_trace_as_a_block_of_definite_length(client, server):
    """PyVISA's own reader of IEEE 488.2 blocks, among bytes that look like the end of a line."""
    client.write('ROUT:SCOP CH1,"batt+",""')
    for points in (16, 500, 2570, 5000):
        client.write(f"FORM REAL,32;FORM:BORD NORM;SWE:TIME 0.1;SWE:POIN {points};TRAC:ACQ")
        volts = client.query_binary_values("TRAC? CH1", datatype="f", is_big_endian=True)
        assert len(volts) == points and all(abs(value - 12.6) < 0.2 for value in volts)
        assert client.query("SYST:ERR?").startswith("0,")
    client.write("FORM ASC;TRAC:ACQ")
    assert len(client.query_ascii_values("TRAC? CH1")) == 5000


def test_our_client_looks_back_without_a_gap(server):
    first = acquire(server.address, 0.2, 200, (Lead("batt+"), Lead("c2.1", "batt-")))
    second = acquire(server.address, 1.0, 1000, (Lead("batt+"), Lead("c2.1", "batt-")))
    assert first.volts.shape == (2, 200) and second.step == pytest.approx(1e-3)
    assert second.start < first.start + 0.2 and second.volts.mean() == pytest.approx(12.6, abs=0.3)
    places, states = places_of(server.address)
    assert "batt+" in places and states
    turn(server.address, states[-1])
    with pytest.raises(MeterError, match="refuses"):
        turn(server.address, "flying")
    with pytest.raises(MeterError, match="refuses"):
        acquire(server.address, 0.2, 200, (Lead("moon"),))
    with pytest.raises(MeterError, match="no address of a scope"):
        acquire("somewhere", 0.2, 200, (Lead(),))
    with pytest.raises(MeterError, match="cannot be reached"):
        acquire("TCPIP0::127.0.0.1::9::SOCKET", 0.2, 200, (Lead(),))


def test_a_scope_that_answers_nonsense_is_one_sentence(step_light):
    class Liar(Scpi):
        def _trace(self, given):
            return "#15short"

    with InstrumentServer(Liar(Meter(World(step_light)))) as running:
        threading.Thread(target=running.serve_forever, daemon=True).start()
        with pytest.raises(MeterError):
            acquire(running.address, 0.1, 100, (Lead("batt+"),))
        running.shutdown()
    visa.close_all()
