"""What the documents say is what the program does."""

from __future__ import annotations

import re
from pathlib import Path

import pytest
from click.testing import CliRunner

from pondrel.cli import main
from pondrel.core.circuit.read.sheet import parse_sheet
from pondrel.core.isolate.believe.likelihood import BLUNDER
from pondrel.core.isolate.conclude.proof import CERTAIN, EXCLUDES, MOST_PROOF_READINGS, SURE
from pondrel.core.isolate.isolation import isolate
from pondrel.core.isolate.predict.workup import Workup

from .circuits import reading_of

ROOT = Path(__file__).parents[1]


def block(file: str, kind: str) -> str:
    return re.search(rf"```{kind}\n(.*?)```", (ROOT / file).read_text(), re.S)[1]


def test_the_worked_example_comes_out_as_written():
    text = block("docs/sheet-format.md", "yaml").replace("places:", "places:\n  f4.out: {}\n  g1: {}")
    sheet = parse_sheet(text)
    rows = re.findall(r"^\| lit, `(\S+)` to `batt-` \| ([\d.]+) \|", (ROOT / "docs/how-it-decides.md").read_text(), re.M)
    assert len(rows) == 4
    readings = tuple(reading_of(sheet, "lit", "volts", red, "batt-", value) for red, value in rows)
    assert isolate(Workup(sheet), readings).standing.says == "Ground G1 at over 99 %, proved by reading 3."
    result = isolate(Workup(sheet), readings[:3])
    assert result.standing.says == "Ground G1 at 99 %, proved by reading 3: one more test against a slip."
    assert result.suspects[0].severity == pytest.approx((1.40, 1.26, 1.57), abs=0.006)


def test_the_readme_s_readings_lead_where_it_is_said(tmp_path):
    readings = tmp_path / "readings.csv"
    readings.write_text(re.search(r"```\n(state,instrument.*?)```", (ROOT / "README.md").read_text(), re.S)[1])
    answer = CliRunner().invoke(main, ["isolate", str(ROOT / "pondrel/demo/sheets/step_lights.yaml"), "--readings", str(readings)])
    assert answer.output.startswith("Ground stud in the step well (G3) at over 99 %, proved by reading 3.")
    readings.write_text(readings.read_text().partition("open,see")[0])
    answer = CliRunner().invoke(main, ["isolate", str(ROOT / "pondrel/demo/sheets/step_lights.yaml"), "--readings", str(readings)])
    assert answer.output.startswith("Ground stud in the step well (G3) leads with 94 %; a part is named from 95 % on.")


def test_the_numbers_in_the_text_are_the_program_s():
    text = (ROOT / "docs/how-it-decides.md").read_text()
    assert f"probability {BLUNDER:.1%}".replace("%", " %") in text
    assert f"{CERTAIN:.0%}".replace("%", " %") in text and f"{SURE:.1%}".replace("%", " %") in text
    assert EXCLUDES == 4.0 and "four standard deviations" in text
    assert MOST_PROOF_READINGS == 5 and "up to five together" in text


def test_every_picture_is_there_and_linked():
    linked = set(re.findall(r"docs/screenshots/[\w-]+\.png", (ROOT / "README.md").read_text()))
    assert linked == {p.relative_to(ROOT).as_posix() for p in (ROOT / "docs/screenshots").glob("*.png")}


@pytest.mark.parametrize("file", ["README.md", "docs/how-it-decides.md", "docs/sheet-format.md", "CHANGELOG.md"])
def test_links_lead_somewhere(file):
    for target in re.findall(r"\]\(([^)#:]+)\)", (ROOT / file).read_text()):
        assert (ROOT / file).parent.joinpath(target).exists(), target
