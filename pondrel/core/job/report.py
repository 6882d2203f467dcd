"""What a report hands over, and the seal that shows whether a copy of it was changed.

The seal is drawn from a SHA-256 over everything that the report says, in an order that does not depend on how it is printed: seven signs of
Crockford's base 32, which leaves out what is misread (I, L, O, U). Whoever holds a copy asks the workshop what was handed over under it.
"""

from __future__ import annotations

import hashlib
import json
from collections.abc import Iterable, Mapping
from dataclasses import dataclass
from typing import Any

from ..base.errors import PondrelError
from ..base.written import EntryField, EntryKind
from .entry import Entry, standing

__all__ = ["ADVICE", "ISSUED", "REPORT", "REPORT_KINDS", "SHEETS", "Issued", "digest_of", "issued_of", "seal_in", "seal_of"]

_SIGNS = "0123456789ABCDEFGHJKMNPQRSTVWXYZ"
_LONG = 7
SHEETS: Mapping[str, str] = {"customer": "for the customer", "full": "the full record", "plan": "the plan"}

REPORT = EntryKind(
    "report",
    "Handed over",
    (EntryField("text", "To whom, and what was said", False),),
    lambda content: str(content.get("text") or "to the customer"),
)
ADVICE = EntryKind("advice", "To watch", (EntryField("text", "What to watch", longest=300),))
ISSUED = EntryKind(
    "issued",
    "Report made",
    (
        EntryField("sheet", "Which report", choices=tuple(SHEETS)),
        EntryField("seal", "The seal", longest=12),
        EntryField("digest", "The digest", longest=64),
        EntryField("pdf", "The digest of the file", required=False, longest=64),
    ),
    lambda c: f"{SHEETS[str(c['sheet'])]}, seal {c['seal']}",
)
REPORT_KINDS = (ADVICE, ISSUED, REPORT)


@dataclass(frozen=True, slots=True)
class Issued:
    """A report that was made: which ``sheet``, its seal, the digest of what it says, that of its PDF, and its entry."""

    sheet: str
    seal: str
    digest: str
    pdf: str
    entry: Entry


def digest_of(content: Mapping[str, Any]) -> str:
    """SHA-256 of what a report says."""
    text = json.dumps(content, ensure_ascii=False, sort_keys=True, separators=(",", ":"))
    return hashlib.sha256(text.encode("utf-8", "surrogatepass")).hexdigest()


def seal_of(digest: str) -> str:
    """The seal of a digest, as it is read aloud: ``7K4-Q2MA``.

    >>> seal_of("0" * 64)
    '000-0000'
    """
    number = int(digest[:16], 16) >> (64 - 5 * _LONG)
    signs = "".join(_SIGNS[(number >> (5 * k)) & 31] for k in reversed(range(_LONG)))
    return f"{signs[:3]}-{signs[3:]}"


def seal_in(text: str) -> str:
    """A seal as somebody typed it: spacing, case and what is often misread put right. Raises PondrelError for what is none.

    >>> seal_in("7k4 q2ma"), seal_in("oo1-iil2")
    ('7K4-Q2MA', '001-1112')
    """
    signs = "".join(c for c in text.upper() if c.isalnum()).translate(str.maketrans("OIL", "011"))
    if len(signs) != _LONG or any(c not in _SIGNS for c in signs):
        raise PondrelError("A seal has seven signs, such as 7K4-Q2MA: it stands at the foot of the report.")
    return f"{signs[:3]}-{signs[3:]}"


def issued_of(entries: Iterable[Entry]) -> tuple[Issued, ...]:
    """The reports that were made in a job, the first first."""
    return tuple(
        Issued(e.text("sheet"), e.text("seal"), e.text("digest"), e.text("pdf"), e) for e in standing(entries, ISSUED.name)
    )  # fmt: skip
