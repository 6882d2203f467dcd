"""Parts that were renewed for this very complaint, as evidence on the circuits that have them."""

from __future__ import annotations

from collections.abc import Iterable, Sequence

from ..circuit.sheet import Sheet
from ..evidence.registry import WORD_SORTS
from ..vehicle.ledger import Fitted, about_part
from .entry import Entry

__all__ = ["FROM_LEDGER", "renewed_on"]

FROM_LEDGER = "from the parts fitted"  # the note of what a circuit has taken from the ledger


def renewed_on(sheet: Sheet, ledger: Iterable[Fitted], on_trace: Sequence[Entry]) -> tuple[tuple[str, str, str], ...]:
    """What a circuit does not know yet of parts that were renewed for the complaint: their sort of evidence, the part, and its outcome."""
    known = {(entry.kind, entry.text("subject")) for entry in on_trace}  # struck out counts: somebody said that it is not so
    found = []
    for line in ledger:
        for sort in WORD_SORTS.values():
            outcome = sort.from_ledger.get(line.helped)
            parts = [name for name, part in sheet.parts.items() if outcome and about_part(line, part) and (sort.name, name) not in known]
            found += [(sort.name, name, str(outcome)) for name in parts]
    return tuple(dict.fromkeys(found))
