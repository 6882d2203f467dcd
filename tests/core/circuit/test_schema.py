"""The shipped JSON Schema and reference against the parser that decides."""

from __future__ import annotations

import json
from pathlib import Path

import jsonschema
import pytest
from ruamel.yaml import YAML

from pondrel.core.circuit.kinds import KINDS
from pondrel.core.circuit.read.schema import json_schema, kinds_reference
from pondrel.demo.load import SHEETS

from ...circuits import RELAY_PUMP, STEP_LIGHT

DOCS = Path(__file__).parents[3] / "docs"


def load(text: str):
    # JSON has text keys only
    return json.loads(json.dumps(YAML(typ="safe", pure=True).load(text)))


@pytest.mark.parametrize("text", [STEP_LIGHT, RELAY_PUMP, *(f.read_text() for f in sorted(SHEETS.glob("*.yaml")))])
def test_good_sheets_satisfy_the_schema(text):
    jsonschema.Draft202012Validator(json_schema()).validate(load(text))


@pytest.mark.parametrize(
    ("old", "new"),
    [("rating: 10", "rating: x"), ("rating: 10", "rating: 10, shade: red"), ("kind: fuse", "kind: fuze"), ("length_m: 4.5, ", "")],
)
def test_sheets_that_the_parser_refuses_the_schema_refuses_too(old, new):
    assert not jsonschema.Draft202012Validator(json_schema()).is_valid(load(STEP_LIGHT.replace(old, new)))


def test_the_committed_schema_is_the_registry_s():
    assert json.loads((DOCS / "pondrel-sheet-1.schema.json").read_text()) == json_schema(), "run make docs"


def test_the_committed_reference_is_the_registry_s():
    assert kinds_reference() in (DOCS / "sheet-format.md").read_text(), "run make docs"


def test_the_reference_names_every_kind_parameter_and_mode():
    text = kinds_reference()
    for kind in KINDS.values():
        assert f"### `{kind.name}`" in text
        for name in (*(p.name for p in kind.params), *(m.name for m in kind.modes)):
            assert f"| `{name}` |" in text
