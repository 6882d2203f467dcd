"""What templates, scripts and styles keep to."""

from __future__ import annotations

import re
from pathlib import Path

import pytest

ROOT = Path(__file__).parents[2]
WRITTEN = [*(ROOT / "pondrel/web/templates").rglob("*.html"), *(ROOT / "pondrel/web/static/js").glob("*.js")]
STYLES = [*(ROOT / "assets").rglob("*.css")]
MOST = 140  # characters of a line


@pytest.mark.parametrize("file", WRITTEN, ids=lambda file: file.name)
def test_no_line_is_too_long_to_be_read(file):
    assert [n for n, line in enumerate(file.read_text().splitlines(), 1) if len(line) > MOST] == []


@pytest.mark.parametrize("file", STYLES, ids=lambda file: file.name)
def test_a_line_of_styles_holds_one_rule(file):
    assert [line for line in file.read_text().splitlines() if line.count("{") > 1 and not line.startswith("@")] == []


def test_colours_are_named_in_one_place():
    for file in STYLES:
        if file.name != "tokens.css":
            assert re.findall(r"#[0-9a-fA-F]{3,8}\b", file.read_text()) == [], file.name


def test_nothing_is_styled_or_scripted_inside_a_page():
    """The policy refuses it; and forms that write carry token and key because a macro makes them."""
    for file in WRITTEN:
        text = file.read_text()
        if file.suffix == ".html":
            assert not re.search(r"<style|\sstyle=|\son\w+=|<script(?![^>]*src=)", text), file.name
            assert text.count('method="post"') <= text.count("secrets()"), file.name


@pytest.mark.parametrize("file", [file for file in WRITTEN if file.suffix == ".html"], ids=lambda file: file.name)
def test_no_link_hangs_on_the_address_that_the_page_stands_at(file):
    """After a refused form that is the form's own address, where nothing can be asked for."""
    assert 'href="?' not in file.read_text()
