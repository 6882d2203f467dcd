"""The roster's JSON Schema says what its reader says."""

from __future__ import annotations

import json
from pathlib import Path

import jsonschema
import pytest
from ruamel.yaml import YAML

from pondrel.core.module.roster.schema import json_schema
from pondrel.demo.load import ROSTERS

from .test_roster import SMALL

DOCS = Path(__file__).parents[3] / "docs"


def plain(text: str):
    """As JSON has it: every key a text."""
    return json.loads(json.dumps(YAML(typ="safe").load(text)))


def good(text: str) -> bool:
    return jsonschema.Draft202012Validator(json_schema()).is_valid(plain(text))


@pytest.mark.parametrize("file", sorted(ROSTERS.glob("*.yaml")), ids=lambda file: file.stem)
def test_what_ships_satisfies_it(file):
    jsonschema.Draft202012Validator(json_schema()).validate(plain(file.read_text()))


@pytest.mark.parametrize(
    ("old", "new"),
    [
        ("asks: 0x712", "asks: seven"), ("asks: 0x712", "asks: -1"), ("title: Two modules", "titel: Two modules"),
        ("hazards: [air_springs]", "hazards: [air]"), ("scale: 0.1", "skale: 0.1"), ("{id: 0x310,", "{"),
        ("pondrel-modules/1", "pondrel-sheet/1"),
    ],
)  # fmt: skip
def test_what_the_reader_refuses_it_refuses_too(old, new):
    assert good(SMALL) and old in SMALL and not good(SMALL.replace(old, new, 1))


def test_the_committed_schema_is_the_reader_s():
    assert json.loads((DOCS / "pondrel-modules-1.schema.json").read_text()) == json_schema(), "run make docs"
