"""Writes what the registries decide into docs/: the JSON Schema, the kinds' part of sheet-format.md, the numbers of judgement."""

from __future__ import annotations

import json
import pkgutil
from importlib import import_module
from pathlib import Path

import pondrel.core
from pondrel.core.base.judgement import table
from pondrel.core.circuit.read.schema import json_schema, kinds_reference
from pondrel.core.module.roster.schema import json_schema as roster_schema

DOCS = Path(__file__).parents[1] / "docs"
JUDGEMENT = (
    "What nobody can compute and somebody has to say. Written by `make docs` from where the code declares them; where the source is\n"
    "*common practice, no source*, the number is ours to be argued with."
)
MARK = "<!-- kinds: written by `make docs` from the registry; edits below this line are lost -->\n"


def main() -> None:
    """Write the files."""
    for module in pkgutil.walk_packages(pondrel.core.__path__, "pondrel.core."):
        import_module(module.name)  # each declares its own numbers
    (DOCS / "pondrel-sheet-1.schema.json").write_text(json.dumps(json_schema(), indent=2) + "\n")
    (DOCS / "pondrel-modules-1.schema.json").write_text(json.dumps(roster_schema(), indent=2) + "\n")
    page = DOCS / "sheet-format.md"
    head, _, _ = page.read_text().partition(MARK)
    page.write_text(f"{head}{MARK}\n{kinds_reference()}")
    rows = [f"| `{n.name}` | {n.value:g} {n.unit} | {n.says} | {n.source} |" for n in table()]
    head = ["# Numbers of judgement", "", JUDGEMENT, "", "| name | value | what it is for | whose it is |", "| --- | --- | --- | --- |"]
    (DOCS / "judgement.md").write_text("\n".join([*head, *rows, ""]))


if __name__ == "__main__":
    main()
