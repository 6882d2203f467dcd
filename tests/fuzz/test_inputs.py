"""Whatever is typed or loaded is taken or refused in a sentence: no trace, whatever the seed. Bounded by counts, so the time is too."""

from __future__ import annotations

import random
from collections.abc import Callable
from functools import partial

import pytest

from pondrel.core.base.errors import PondrelError
from pondrel.core.circuit.effects import fault_effects, judged_limits
from pondrel.core.circuit.paths import load_paths
from pondrel.core.circuit.read.flaws import review
from pondrel.core.circuit.read.sheet import parse_sheet
from pondrel.core.circuit.solve import solve
from pondrel.core.drawing import draw
from pondrel.core.evidence.csv_file import read_csv
from pondrel.core.evidence.line import completions, parse_line, starts_a_line
from pondrel.core.isolate.advise.plan import World
from pondrel.core.isolate.isolation import isolate
from pondrel.demo.load import SHEETS

from .mutate import some_csv, some_data_changed, some_item, some_line, some_text_changed

TEXTS = [file.read_text() for file in sorted(SHEETS.glob("*.yaml"))]
LONGEST_SENTENCE = 3000  # characters: the longest lists all kinds of part


@pytest.mark.slow
@pytest.mark.parametrize("seed", range(5))
def test_a_changed_sheet_is_good_or_has_flaws(seed):
    rng = random.Random(f"sheets {seed}")
    for number in range(60):
        text = (some_text_changed if number % 2 else some_data_changed)(rng, rng.choice(TEXTS))
        found = review(text)
        assert all(len(flaw.says) < LONGEST_SENTENCE and flaw.line >= 1 for flaw in (*found.flaws, *found.remarks))
        if found.flaws:
            continue
        sheet = parse_sheet(text)
        draw(sheet)
        load_paths(sheet)
        state = rng.choice(tuple(sheet.states))
        judged_limits(sheet, solve(sheet, state))
        fault_effects(sheet, state)


def sentence(work: Callable[[], object]) -> str:
    """What is said of work that is refused; empty where it is not."""
    try:
        work()
    except PondrelError as error:
        return str(error) or "nothing was said"
    return ""


@pytest.mark.parametrize("seed", range(4))
def test_a_line_is_an_item_or_gets_one_sentence(seed, demo_sheets):
    rng = random.Random(f"lines {seed}")
    for _ in range(1500):
        sheet = rng.choice(tuple(demo_sheets.values()))
        line, state = some_line(rng, sheet), rng.choice((*sheet.states, ""))
        assert len(sentence(partial(parse_line, sheet, line, state))) < LONGEST_SENTENCE
        assert len(completions(sheet, line, "")) <= 10
        said = sentence(partial(starts_a_line, sheet, line))
        assert not said or "characters" in said


@pytest.mark.parametrize("seed", range(3))
def test_a_csv_file_is_read_or_gets_one_sentence(seed, demo_sheets):
    rng = random.Random(f"csv {seed}")
    for _ in range(300):
        sheet = rng.choice(tuple(demo_sheets.values()))
        assert len(sentence(partial(read_csv, sheet, some_csv(rng, sheet)))) < LONGEST_SENTENCE


@pytest.mark.parametrize("name", [file.stem for file in sorted(SHEETS.glob("*.yaml"))])
def test_readings_that_contradict_one_another_have_an_answer(name, demo_workups):
    """Random readings and looks, as no vehicle gives them: the probabilities are still probabilities, and everything can be told."""
    workup, rng = demo_workups[name], random.Random(f"readings {name}")
    items = ()
    for _ in range(8):
        items = (*items, some_item(rng, workup.sheet))
    for taken in (items[:3], items[:6], items):
        found = isolate(workup, taken)
        assert sum(s.probability for s in found.suspects) == pytest.approx(1.0, abs=1e-6)
        assert found.standing.says
        assert sum(t.probability for t in found.targets) <= 1.0 + 1e-6
        found.as_json()
    World.of(found.belief, found.groups).tree(3, found.next[0].test if found.next else None)
