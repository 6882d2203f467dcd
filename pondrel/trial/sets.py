"""The sets of sheets that are shipped for trials: the demo's, those that were looked at while the model was made, and those held out."""

from __future__ import annotations

from collections.abc import Mapping
from pathlib import Path

__all__ = ["SETS", "sheets_of"]

_FOLDER = Path(__file__).parent / "sheets"
_DEMO = Path(__file__).parents[1] / "demo" / "sheets"
SETS: Mapping[str, Path] = {"demo": _DEMO, "seen": _FOLDER / "seen", "held_out": _FOLDER / "held_out"}


def sheets_of(name: str) -> tuple[str, ...]:
    """The files that a word on the command line stands for: those of a set, those of a folder, or the one file of that name.

    >>> len(sheets_of("held_out")) >= 6, sheets_of("my.yaml")
    (True, ('my.yaml',))
    """
    folder = Path(name)
    if not folder.exists() and name in SETS:
        folder = SETS[name]
    return tuple(str(path) for path in sorted(folder.glob("*.yaml"))) if folder.is_dir() else (name,)
