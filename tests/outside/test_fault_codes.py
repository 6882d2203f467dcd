"""The structure of fault codes by SAE J2012 / ISO 15031-6: two bytes, the first two bits the letter and the next two its digit.

The expectations are written from the published structure, as bit fields and as the ranges that the standard gives to itself and to
makers (from memory of its table of code ranges); failure type bytes from memory of J2012-DA.
"""

from __future__ import annotations

import pytest

from pondrel.core.module.fault_code import FaultCode, code_from_bytes, parse_code


def test_every_pair_of_bytes_is_one_code_and_every_code_one_pair():
    seen = set()
    for high in range(256):
        for low in (0, 1, 0x7F, 0xFF):
            code = code_from_bytes(high, low)
            assert parse_code(code) == (code, "")
            letter, digits = "PCBU".index(code[0]), int(code[1:], 16)
            assert letter << 14 | digits == high << 8 | low
            seen.add(code)
    assert len(seen) == 256 * 4


@pytest.mark.parametrize(
    ("code", "system", "whose"),
    [
        ("P0000", "powertrain", "the standard"),
        ("P0FFF", "powertrain", "the standard"),
        ("P1000", "powertrain", "the maker"),
        ("P2000", "powertrain", "the standard"),
        ("P3000", "powertrain", "the maker"),
        ("P33FF", "powertrain", "the maker"),
        ("P3400", "powertrain", "the standard"),
        ("P3FFF", "powertrain", "the standard"),
        ("C0001", "chassis", "the standard"),
        ("C1FFF", "chassis", "the maker"),
        ("C2000", "chassis", "the maker"),
        ("C3000", "chassis", "reserved"),
        ("B0001", "body", "the standard"),
        ("B1000", "body", "the maker"),
        ("B2FFF", "body", "the maker"),
        ("B3000", "body", "reserved"),
        ("U0100", "network", "the standard"),
        ("U1000", "network", "the maker"),
        ("U2000", "network", "the maker"),
        ("U3000", "network", "reserved"),
    ],
)
def test_the_ranges_of_standard_and_makers(code, system, whose):
    found = FaultCode(code)
    assert (found.system, found.defined_by) == (system, whose)
    assert found.group == "" or whose == "the standard"


@pytest.mark.parametrize(
    ("code", "about"),
    [
        ("P0113", "fuel and air metering"),
        ("P0201", "injectors"),
        ("P0301", "misfire"),
        ("P0442", "emission"),
        ("P0500", "speed"),
        ("P0562", "speed, idle and auxiliary inputs"),
        ("P0601", "computer"),
        ("P0750", "transmission"),
        ("U0001", "bus"),
        ("U0140", "communication"),
    ],
)
def test_the_group_of_a_code_by_its_first_digits(code, about):
    assert about in FaultCode(code).group


@pytest.mark.parametrize(
    ("byte", "says"),
    [
        ("11", "short to ground"),
        ("12", "short to battery"),
        ("13", "open"),
        ("16", "voltage too low"),
        ("17", "voltage too high"),
        ("1F", "comes and goes"),
        ("31", "no signal"),
        ("49", "electronics"),
        ("64", "not plausible"),
        ("87", "message missing"),
        ("88", "bus"),
        ("1A", "resistance too low"),
        ("F0", "the maker defines"),
        ("4E", "inside the module"),
    ],
)
def test_the_word_of_a_failure_type_byte(byte, says):
    assert says in FaultCode("P0201", byte).failed
