"""How much is worked out at once, and the sentence beyond it."""

from __future__ import annotations

import pytest

from pondrel.core.isolate.extent import MOST_READINGS, MOST_WEIGHED, TooMuchError, check_items

from ...circuits import sheet_of


def chain(parts: int):
    lines = "\n".join(f"R{n}: {{kind: resistor, pins: {{a: n{n}, b: n{n + 1}}}, ohms: 1}}" for n in range(parts - 1))
    battery = f"BAT: {{kind: battery, pins: {{p: n0, n: n{parts - 1}}}}}"
    return sheet_of(f"{battery}\n{lines}", places="n0: {}, n1: {}")


def test_a_small_circuit_takes_a_thousand_readings():
    check_items(chain(10), [0] * MOST_READINGS)
    with pytest.raises(TooMuchError, match=f"^{MOST_READINGS + 1} readings stand; at most {MOST_READINGS} are weighed together. Strike"):
        check_items(chain(10), [0] * (MOST_READINGS + 1))


def test_a_large_circuit_takes_fewer_and_says_why():
    most = MOST_WEIGHED // 200
    check_items(chain(200), [0] * most)
    with pytest.raises(TooMuchError, match=f"^{most + 1} readings stand; at most {most} are weighed together on a circuit of 200 parts"):
        check_items(chain(200), [0] * (most + 1))
