"""A sheet's text as it is written by the program: sections in blocks, one line an entry."""

from __future__ import annotations

import io
from collections.abc import Mapping
from typing import Any

from ruamel.yaml import YAML
from ruamel.yaml.comments import CommentedMap, CommentedSeq

__all__ = ["flowed", "sheet_text", "writer"]

_SECTIONS = ("access", "places", "connectors", "parts", "states", "limits", "observe", "codes", "tests")
_WIDE = 10_000  # columns: an entry is one line however long


def writer() -> YAML:
    """A reader and writer that keeps comments, order and quotes as they are."""
    yaml = YAML(typ="rt", pure=True)
    yaml.width = _WIDE
    yaml.preserve_quotes = True
    yaml.indent(mapping=2, sequence=4, offset=2)
    return yaml


def flowed(value: Any) -> Any:
    """A mapping or list to stand on one line."""
    if isinstance(value, Mapping):
        made = CommentedMap((key, flowed(under)) for key, under in value.items())
        made.fa.set_flow_style()
        return made
    if isinstance(value, (list, tuple)):
        listed = CommentedSeq(flowed(under) for under in value)
        listed.fa.set_flow_style()
        return listed
    return int(value) if isinstance(value, float) and value.is_integer() and abs(value) < 1e9 else value


def sheet_text(sheet: Mapping[str, Any]) -> str:
    """The text of a sheet that is given as plain mappings; what is empty is left out."""
    made = CommentedMap()
    for key, value in sheet.items():
        if value in ("", None, {}, []):
            continue
        if key not in _SECTIONS:
            made[key] = flowed(value)
        elif isinstance(value, Mapping):
            made[key] = CommentedMap((name, flowed(entry)) for name, entry in value.items())
        else:
            made[key] = CommentedSeq(flowed(entry) for entry in value)
    for key in made:
        if key in _SECTIONS:
            made.yaml_set_comment_before_after_key(key, before="\n")
    out = io.StringIO()
    writer().dump(made, out)
    return "\n".join(line.rstrip() for line in out.getvalue().splitlines()).replace("\n#\n", "\n\n") + "\n"
