"""The emission services in words: what is asked and what is told, each said once."""

from __future__ import annotations

import pytest

from pondrel.core.module.roster.standard import standard_roster
from pondrel.core.module.told import answer_words, request_words

ENGINE = standard_roster().module("obd7e8")


@pytest.mark.parametrize(
    ("request_", "answer", "asked", "told"),
    [
        ("01 0C", "41 0C 1A F8", "live data of the emission system", "engine speed 1726 r/min"),
        ("01 00", "41 00 18 18 80 01", "live data of the emission system: which it has", "5 of the 31 from 01 on"),
        ("01 5D", "41 5D 10 00", "live data of the emission system: 5D", "5D 10 00"),
        ("02 05 00", "42 05 00 5A", "freeze frame", "coolant 50 °C"),
    ],
)
def test_each_is_said_once(request_, answer, asked, told):
    request, raw = bytes.fromhex(request_), bytes.fromhex(answer)
    assert (request_words(ENGINE, request), answer_words(ENGINE, request, raw)) == (asked, told)


def test_the_roster_of_any_vehicle_has_the_numbers_of_the_standard():
    """ISO 15765-4, from memory: eight pairs of 11 bits, and of 29 bits the tester F1 with engine (10) and gearbox (18)."""
    pairs = [(module.asks, module.answers) for module in standard_roster().modules.values()]
    assert pairs[:8] == [(0x7E0 + at, 0x7E8 + at) for at in range(8)] and standard_roster().by_calling
    assert pairs[8:] == [(0x18DA10F1, 0x18DAF110), (0x18DA18F1, 0x18DAF118)]
    assert ENGINE.datum("v32").value_in(bytes.fromhex("FFFC")) == -1.0  # Pa, signed
    assert ENGINE.datum("v14").says_in(bytes.fromhex("5A80")) == "0.450 V"  # the second byte is a fuel trim
