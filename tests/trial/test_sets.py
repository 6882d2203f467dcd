"""The sheets that are shipped for trials."""

from __future__ import annotations

from pathlib import Path

import pytest
from click.testing import CliRunner

from pondrel.cli import main
from pondrel.core.circuit.read.sheet import parse_sheet
from pondrel.trial.sets import SETS, sheets_of


@pytest.mark.parametrize("name", ["seen", "held_out"])
def test_at_least_six_sheets_of_each_set_are_good_and_none_is_in_both(name):
    sheets = {Path(path).stem: parse_sheet(Path(path).read_text()) for path in sheets_of(name)}
    assert len(sheets) >= 6
    other = "seen" if name == "held_out" else "held_out"
    assert not {sheet.title for sheet in sheets.values()} & {parse_sheet(Path(path).read_text()).title for path in sheets_of(other)}


def test_what_is_held_out_is_named_in_no_code_and_in_no_test():
    """Nothing may be tuned to them."""
    root = Path(__file__).parents[2]
    names = [Path(path).stem for path in sheets_of("held_out")]
    texts = [path.read_text() for folder in ("pondrel", "tests", "benchmarks", "tools") for path in (root / folder).rglob("*.py")]
    assert not [name for name in names if any(name in text for text in texts)]


def test_a_file_goes_before_a_set_of_its_name(tmp_path, monkeypatch):
    monkeypatch.chdir(tmp_path)
    assert sheets_of("seen")[0].startswith(str(SETS["seen"]))
    (tmp_path / "seen").write_text("format: pondrel-sheet/1")
    assert sheets_of("seen") == ("seen",)


def test_a_word_that_is_neither_is_told_as_a_file_that_is_missing():
    answer = CliRunner().invoke(main, ["trial", "held-out"])
    assert answer.exit_code != 0 and "held-out cannot be read" in answer.output
