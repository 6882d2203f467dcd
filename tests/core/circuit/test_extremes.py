"""No value that a sheet may hold makes the engine hang, divide by nothing, or answer with what is no number."""

from __future__ import annotations

import io
import math
import random
import textwrap

import pytest
from ruamel.yaml import YAML

from pondrel.core.base.errors import PondrelError, ReadingError, SheetError
from pondrel.core.circuit.kinds import KINDS
from pondrel.core.circuit.solve import solve
from pondrel.core.circuit.transient import MOST_STEPS, transient

from ...circuits import every_fault, sheet_of
from ...gallery import GALLERY

VALUES = [1e-15, 1e-9, 1e-6, 1e-3, 0, 1, 10, 1e3, 1e6, 1e9, 1e12, -1, -273.15]


def with_extremes(name: str, rng: random.Random):
    """A gallery sheet with one to three parameters at values that nobody would choose; None where the parser refuses it."""
    parts, states = GALLERY[name]
    raw = YAML(typ="safe", pure=True).load(textwrap.dedent(parts))
    for part in rng.choices(list(raw), k=rng.choice([1, 1, 2, 3])):
        params = KINDS[raw[part]["kind"]].params
        if params:
            param = rng.choice(params)
            raw[part][param.name] = rng.choice(param.choices) if param.choices else rng.choice(VALUES)
    text = io.StringIO()
    YAML(typ="safe", pure=True).dump(raw, text)
    try:
        return sheet_of(text.getvalue(), states=states)
    except SheetError:
        return None


@pytest.mark.parametrize("name", GALLERY)
def test_extreme_values_are_refused_or_solved(name):
    rng = random.Random(name)
    solved = 0
    for _ in range(12):
        sheet = with_extremes(name, rng)
        if sheet is None:
            continue
        state = rng.choice(list(sheet.states))
        first, second = rng.sample(every_fault(sheet), 2)
        for faults in ((), (first,), (first, second)):
            point = solve(sheet, state, faults)
            assert all(math.isfinite(v) for v in (*point.nodes.values(), *point.currents.values())), (sheet.parts, state, faults)
            solved += 1
    assert solved >= 6


@pytest.mark.parametrize("name", ["timer", "outputs", "bench"])
def test_extreme_values_do_not_stop_the_clock(name):
    rng = random.Random(7)
    sheets = [sheet for sheet in (with_extremes(name, rng) for _ in range(6)) if sheet]
    for sheet in sheets[:3]:
        states = list(sheet.states)
        trace = transient(sheet, ((0.0, states[0]), (0.002, states[-1])) if len(states) > 1 else ((0.0, states[0]),), 0.006)
        assert len(trace.times) <= MOST_STEPS
        assert all(math.isfinite(float(series[-1])) for series in trace.volts.values())


@pytest.mark.parametrize("value", ["1e300", "-1e300", "5e-324", ".nan", "-.inf"])
def test_numbers_beyond_all_measure_are_refused_by_name(value):
    with pytest.raises(SheetError, match=r"parts\.R\.ohms: must be a positive number of ohms"):
        sheet_of(f"BAT: {{kind: battery, pins: {{p: b+, n: b-}}}}\nR: {{kind: resistor, pins: {{a: b+, b: b-}}, ohms: {value}}}")


@pytest.mark.parametrize("steps", [(), ((0.0, "rest"), (0.0, "first")), ((0.5, "rest"), (0.1, "first")), ((2.0, "rest"),)])
def test_steps_out_of_order_get_one_sentence(steps):
    sheet = sheet_of(GALLERY["timer"][0], states=GALLERY["timer"][1])
    with pytest.raises(ReadingError, match="Steps are times in seconds that rise"):
        transient(sheet, steps, 1.0)
    with pytest.raises(PondrelError, match="is no state of this sheet"):
        transient(sheet, ((0.0, "flying"),), 1.0)
