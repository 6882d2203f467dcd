"""What may be written into a job's record besides evidence: each kind with its fields, and how it is read in a line."""

from __future__ import annotations

from collections.abc import Mapping

from ..base.brief import quoted
from ..base.written import STRUCK_OUT, EntryError, EntryField, EntryKind, Value, checked_entry, checked_fields
from ..circuit.unplug import in_words
from ..evidence.registry import SORTS
from .budget import AUTHORISED
from .changes import ACTION
from .codes import CODE_KINDS
from .complaint import COMPLAINT
from .conclusion import CONCLUSION
from .corrected import CORRECTED
from .entry import Entry
from .links import LINK
from .look import LOOKED
from .marks import MARKS
from .power import AGAIN, CAPTURED, STEP, WHAT_IS_KNOWN
from .proof import PROOF_KINDS
from .refit import REFIT_KINDS
from .remedy import REMEDY_KINDS
from .renewing import RENEWAL_STEP
from .report import REPORT_KINDS
from .reproduce import FLEXED
from .resets import RESET_KINDS
from .safety import CAUTION, UNSAFE
from .substituted import SUBSTITUTED

__all__ = ["KINDS", "WAITS_FOR", "answer_of", "checked_content", "ended_of", "is_evidence", "title_of", "words_of"]


def _text(words: str, required: bool = True) -> EntryField:
    return EntryField("text", words, required)


_PART = EntryField("part", "The part", False)
WAITS_FOR = ("a part", "an answer", "the road", "something else")

KINDS: Mapping[str, EntryKind] = {
    kind.name: kind
    for kind in (
        COMPLAINT,
        *CODE_KINDS,
        EntryKind("note", "Note", (_text("The note"),)),
        ACTION,
        AUTHORISED,
        LOOKED,
        FLEXED,
        MARKS,
        EntryKind(
            "bench", "Checked by itself", (_text("What was checked and what came of it"), _PART, EntryField("check", "The check", False)),
        ),
        EntryKind("capture", "Capture", (_text("What was captured"), EntryField("capture", "The capture", False))),
        EntryKind(
            "moved", "Moved by its module", (_text("What was commanded, and what came of it"), EntryField("module", "Its module", False)),
        ),
        LINK,
        EntryKind("bus", "Bus log", (_text("What was logged"), EntryField("log", "The log", False))),
        STEP,
        AGAIN,
        WHAT_IS_KNOWN,
        CAPTURED,
        CORRECTED,
        CAUTION,
        UNSAFE,
        CONCLUSION,
        *REMEDY_KINDS,
        *REFIT_KINDS,
        *PROOF_KINDS,
        *REPORT_KINDS,
        *RESET_KINDS,
        RENEWAL_STEP,
        SUBSTITUTED,
        EntryKind(
            "waits",
            "Waits",
            (EntryField("for", "What it waits for", choices=WAITS_FOR), _text("What exactly", False)),
            lambda c: f"for {c.get('for')}" + (f": {c.get('text')}" if c.get("text") else ""),
            ended="waits no longer",
        ),
        EntryKind("aside", "Put aside", (_text("The reason"),), ended="taken up again"),
        EntryKind("off", "Called off", (_text("The reason"),), ended="taken up again"),
    )
}  # fmt: skip


def is_evidence(kind: str) -> bool:
    """Whether entries of a kind are evidence about a circuit."""
    return kind in SORTS


def title_of(kind: str) -> str:
    """What a kind of entry is called in the record."""
    return SORTS[kind].title if kind in SORTS else KINDS[kind].title if kind in KINDS else kind


def ended_of(kind: str) -> str:
    """What is said of an entry of a kind that no longer stands."""
    return KINDS[kind].ended if kind in KINDS else STRUCK_OUT


def words_of(entry: Entry) -> str:
    """An entry as a line of the record, without its time, who wrote it, and the answer of what is evidence."""
    if entry.kind in KINDS:
        return KINDS[entry.kind].reads(entry.content)
    places = " to ".join(text for name in ("subject", "red", "black") if (text := entry.text(name)))
    how = " ".join(text for text in (entry.text("instrument"), places) if text)
    where = f"{how}, {entry.text('state')}" if entry.text("state") else how
    off = in_words(entry.text("unplugged"))
    return f"{where}, {off}" if off else where


def answer_of(entry: Entry) -> str:
    """The number or the outcome of an entry of evidence, as it was typed; empty for any other."""
    return entry.text("value") or entry.text("outcome") if is_evidence(entry.kind) else ""


def checked_content(kind: str, given: Mapping[str, Value]) -> dict[str, Value]:
    """The content of an entry as it is written down: its kind's fields, texts trimmed. Raises EntryError with one sentence."""
    if kind in KINDS:
        return checked_entry(KINDS[kind], given)
    if kind not in SORTS:
        raise EntryError(f"{quoted(kind)} is no kind of entry: {', '.join((*KINDS, *SORTS))} are.")
    return checked_fields(SORTS[kind].title, [EntryField(own.name, own.words, required=False) for own in SORTS[kind].fields], given)
