"""What answers hold: codes with status, data, snapshots, refusals, blocks of a K-line."""

from __future__ import annotations

import pytest

from pondrel.core.talk import kline
from pondrel.core.talk.answers import TooShort, codes_by_status, data_in, kline_codes, snapshots_in
from pondrel.core.talk.code_status import CodeStatus
from pondrel.core.talk.emission import codes_in, supported_in, value_in, vin_in
from pondrel.core.talk.services import refusal_of, service_words


def raw(text: str) -> bytes:
    return bytes.fromhex(text)


def test_codes_with_their_status():
    found = codes_by_status(raw("59 02 FF 5A1013 2F 010113 50"))
    assert [(one.high, one.low, one.failure, one.status.word, one.status.counts) for one in found] == [
        (0x5A, 0x10, 0x13, "present", True),
        (0x01, 0x01, 0x13, "", False),  # only never tested: no fault
    ]
    assert codes_by_status(raw("59 02 FF")) == ()
    for broken in ("59 02", "59 02 FF 5A10", "59 02 FF 5A1013 2F 01"):
        with pytest.raises(TooShort):
            codes_by_status(raw(broken))


def test_a_status_byte_bit_by_bit():
    assert CodeStatus(0x09).bits == ("fails now", "stored") and CodeStatus(0x09).word == "present"
    assert CodeStatus(0x08).word == "stored" and CodeStatus(0x04).word == "pending" and CodeStatus(0x50).word == ""
    assert len(CodeStatus(0xFF).bits) == 8 and not CodeStatus(0x50).counts and CodeStatus(0x20).counts


def test_codes_of_a_k_line_with_their_own_status():
    found = kline_codes(raw("58 02 0113 60 0560 20"))
    assert [(one.failure, one.status.word) for one in found] == [(None, "present"), (None, "stored")]
    with pytest.raises(TooShort):
        kline_codes(raw("58 02 0113 60"))


def test_data_by_identifier_one_behind_the_other():
    sizes = {0xD101: 2, 0xD103: 1}
    assert data_in(raw("62 D101 09D8 D103 58"), sizes) == {0xD101: b"\x09\xd8", 0xD103: b"\x58"}
    assert data_in(raw("62 F190 4142"), sizes) == {0xF190: b"AB"}  # of unknown length: all that is left
    assert data_in(raw("62 D101 09D8FF"), sizes) == {0xD101: b"\x09\xd8\xff"}  # longer than its roster says: nothing is made up of it
    assert data_in(raw("62 D101 09"), sizes) == {0xD101: b"\x09"}
    assert data_in(b"\x62", sizes) == {}


def test_what_was_frozen_up_to_what_is_not_known():
    shots = snapshots_in(raw("59 04 5A1013 2F 01 02 D101 09D8 D103 58 02 01 F190 4142"), {0xD101: 2, 0xD103: 1})
    assert shots[0].number == 1 and shots[0].data == {0xD101: b"\x09\xd8", 0xD103: b"\x58"} and shots[0].rest == b""
    assert shots[1].rest == raw("F190 4142")
    assert snapshots_in(raw("59 04 5A1013 2F"), {}) == ()


def test_refusals_are_put_in_words_and_only_one_asks_for_patience():
    assert refusal_of(raw("7F 22 31")).sentence.startswith("Read data: the module refuses. It has nothing under this number")
    assert "maker's authority" in refusal_of(raw("7F 2F 33")).says
    assert refusal_of(raw("7F 31 78")).waits and not refusal_of(raw("7F 31 22")).waits
    assert "Something about the vehicle" in refusal_of(raw("7F 2F 9F")).says and "(F5)" in refusal_of(raw("7F 2F F5")).says
    assert refusal_of(raw("62 D1 01")) is None and refusal_of(b"\x7f\x22") is None
    for number in range(256):
        says = refusal_of(bytes([0x7F, 0x22, number])).says
        assert says.endswith(".") and len(says) < 140
    assert service_words(0x22) == "read data" and service_words(0xBA) == "service BA"


def test_emission_values_and_what_is_not_known():
    assert value_in(0x05, b"\x5a") == 50.0 and value_in(0x0C, raw("0FA0")) == 1000.0
    assert value_in(0x42, raw("30D4")) == 12.5
    assert value_in(0x0C, b"\x0f") is None and value_in(0xA6, raw("00000000")) is None
    assert supported_in(0x20, raw("80000001")) == {0x21, 0x40} and supported_in(0, b"") == frozenset()
    assert codes_in(raw("43 02 0113 0301")) == codes_in(raw("43 0113 0301 0000")) == ((1, 0x13), (3, 1))
    assert codes_in(raw("43 00")) == () and codes_in(b"\x43") == ()
    assert vin_in(raw("49 02 01") + b"9T2FERRW1B0003350") == "9T2FERRW1B0003350"


def test_blocks_of_a_k_line():
    made = kline.block(raw("1800FF00"), 0x52)
    assert made == raw("84 52 F1 18 00 FF 00 DE")
    assert kline.opened_block(made).data == raw("1800FF00") and kline.opened_block(made).target == 0x52
    long = kline.block(bytes(range(100)), 0x52)
    assert long[:4] == raw("80 52 F1 64") and kline.opened_block(long).data == bytes(range(100))
    assert kline.wanted_length(long[:3]) is None and kline.wanted_length(long[:4]) == len(long)
    assert kline.wanted_length(made[:1]) == len(made) and kline.wanted_length(b"") is None
    assert kline.opened_block(raw("02 3E 01 41")).data == raw("3E01")  # without addresses
    for broken, says in [
        (made[:-1] + b"\x00", "sum"),
        (made[:2], "broke off"),
        (raw("83 52 F1 18 DE"), "3 bytes"),
        (raw("FF FF FF FD"), "63 bytes"),
    ]:
        with pytest.raises((kline.LineFault, IndexError), match=says):
            kline.opened_block(broken)
    for data in (b"", bytes(256)):
        with pytest.raises(kline.LineFault, match="1 to 255"):
            kline.block(data, 0x52)


def test_blocks_without_a_length_are_parted_by_their_sums():
    one, two = kline.emission_block(raw("43 0113 0301 0000"), 0x10), kline.emission_block(raw("43 0560 0000 0000"), 0x10)
    assert kline.emission_blocks(one + two) == (one, two)
    assert kline.emission_blocks(one) == (one,) and kline.emission_blocks(b"") == ()
    assert kline.emission_blocks(one[:5]) == (one[:5],)
    assert kline.KeyBytes(8, 8).speaks_9141 and kline.KeyBytes(0x94, 0x94).speaks_9141 and not kline.KeyBytes(0x8F, 0xE9).speaks_9141
