"""Writes what the registry decides into docs/: the JSON Schema, and the kinds' part of sheet-format.md."""

from __future__ import annotations

import json
from pathlib import Path

from pondrel.core.circuit.read.schema import json_schema, kinds_reference

DOCS = Path(__file__).parents[1] / "docs"
MARK = "<!-- kinds: written by `make docs` from the registry; edits below this line are lost -->\n"


def main() -> None:
    """Write both files."""
    (DOCS / "pondrel-sheet-1.schema.json").write_text(json.dumps(json_schema(), indent=2) + "\n")
    page = DOCS / "sheet-format.md"
    head, _, _ = page.read_text().partition(MARK)
    page.write_text(f"{head}{MARK}\n{kinds_reference()}")


if __name__ == "__main__":
    main()
