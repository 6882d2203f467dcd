"""What was found, as an entry of the record."""

from __future__ import annotations

import json
from collections.abc import Mapping

from ..base.written import Content, EntryError, EntryField, EntryKind, Value

__all__ = ["CONCLUSION", "modes_in", "modes_text"]

LONGEST_MODES = 2000


def modes_text(modes: Mapping[str, str]) -> str:
    """The modes in which parts failed, as a conclusion keeps them."""
    return json.dumps(dict(modes), ensure_ascii=False, sort_keys=True) if modes else ""


def modes_in(content: Mapping[str, object]) -> dict[str, str]:
    """By part the mode in which it failed, as a conclusion has it; empty where nobody knows, or what stands there is none."""
    try:
        found = json.loads(str(content.get("modes") or "{}"))
    except (ValueError, RecursionError):
        return {}
    whole = isinstance(found, dict) and all(isinstance(mode, str) for mode in found.values())
    return found if whole else {}


def _checked(content: dict[str, Value]) -> dict[str, Value]:
    if content["modes"] and not modes_in(content):
        raise EntryError("How each of them failed cannot be read: it is a part and its mode, as the circuit has them.")
    return content


def _reads(content: Content) -> str:
    return f"{content.get('says')}" + (f", without proof: {content.get('reason')}" if content.get("reason") else "")


CONCLUSION = EntryKind(
    "conclusion",
    "Found",
    (
        EntryField("says", "What was found"),
        EntryField("reason", "The reason", False),
        EntryField("faulty", "Whether parts are named", type=bool),
        EntryField("proved", "Whether it is proved", type=bool),
        EntryField("probability", "Its probability", False, type=float),
        EntryField("modes", "How each of them failed", False, longest=LONGEST_MODES),
    ),
    _reads,
    _checked,
    ended="reopened",
)
