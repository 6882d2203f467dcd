"""A circuit that is drawn otherwise than it is on this vehicle: what was found different, and the drawing that counts from then on."""

from __future__ import annotations

from ..base.written import Content, EntryField, EntryKind

__all__ = ["CORRECTED"]


def _reads(content: Content) -> str:
    return f"{content.get('says')}" + (f" ({content.get('why')})" if content.get("why") else "")


CORRECTED = EntryKind(
    "corrected",
    "Drawing corrected",
    (
        EntryField("says", "What is different on this vehicle", longest=1500),
        EntryField("why", "Why", required=False, longest=300),
        EntryField("sheet", "The drawing from now on", longest=64),
        EntryField("before", "The drawing before", longest=64),
    ),
    _reads,
)
