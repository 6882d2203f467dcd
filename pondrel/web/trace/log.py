"""The log of a trace: its lines of evidence, the latest on top, each with what is said of it."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass

from ...core.base.conditions import split_conditions
from ...core.base.errors import ReadingError
from ...core.check import Finding
from ...core.job.changes import cuts
from ...core.job.entry import Entry
from ...core.job.kinds import title_of, words_of
from ..jobs.docket import Docket
from ..shell.attempt import attempt
from ..shell.titles import around, part_or_place, told
from ..shell.words import METER_WORDS
from ..shell.workshop import units

__all__ = ["LogLine", "log_of"]


@dataclass(frozen=True)
class LogLine:
    """A line of evidence in the log, taken ``where``: ``number`` counts the standing ones, None when struck out or read
    ``before`` something was done; ``judged`` is what the
    sheet's limits say of it, ``doubt`` why it does not go with the complaint, ``trend`` what it and earlier readings come to over time."""

    entry: Entry
    where: str
    number: int | None
    misfit: str
    basis: bool
    judged: tuple[Finding, ...] = ()
    doubt: str = ""
    trend: str = ""
    before: bool = False

    @property
    def is_cut(self) -> bool:
        """Whether it is something that was done: what stands under it was read before."""
        return cuts(self.entry)

    @property
    def again(self) -> dict[str, str]:
        """The choice of a test that reads it once more; empty for what is no reading, and for what need not be read again."""
        if not self.before or self.entry.kind != "reading":
            return {}
        names = {"instrument": "instrument", "in": "state", "red": "red", "black": "black", "unplugged": "unplugged"}
        return {name: text for name, own in names.items() if (text := self.entry.text(own))}

    @property
    def told(self) -> str:
        """The number or the outcome, as it was typed, without what follows it, a bare number with its unit."""
        return told(self.entry)

    @property
    def under(self) -> str:
        """The conditions that were typed behind a number: ``@10min``."""
        try:
            _, conditions = split_conditions(self.entry.text("value"))
        except ReadingError:  # an old entry with what is no condition any more
            return ""
        return conditions.shown(units())

    @property
    def how(self) -> str:
        """The instrument, or the sort of evidence; both for the good side."""
        instrument = METER_WORDS.get(self.entry.text("instrument"), "").lower()
        kind = METER_WORDS.get(self.entry.kind, title_of(self.entry.kind)).lower()
        return instrument if self.entry.kind == "reading" else f"{kind} {instrument}".strip()


def log_of(
    docket: Docket, misfits: Mapping[int, str], proof: tuple[int, ...], judged: Sequence[tuple[Finding, ...]], doubts: Mapping[int, str],
    over_time: Mapping[int, str],
) -> tuple[LogLine, ...]:  # fmt: skip
    """The log, the latest on top; what is said of its lines by the number of the reading among those that stand, counted from 0."""
    lines, number = [], 0
    speaking = set(docket.standing_ids)
    for entry in docket.log_with_actions:
        if entry.id not in speaking:
            where = words_of(entry) if cuts(entry) else _where(docket, entry)
            lines.append(LogLine(entry, where, None, "", False, before=entry.stands and not cuts(entry)))
            continue
        said = judged[number] if number < len(judged) else ()
        odd, doubt, trend = (told.get(number, "") for told in (misfits, doubts, over_time))
        lines.append(LogLine(entry, _where(docket, entry), number + 1, odd, number in proof, said, doubt, trend))
        number += 1
    return tuple(reversed(lines))


def _where(docket: Docket, entry: Entry) -> str:
    """Where a line of evidence was taken, or what it is about; in the words that were typed where the sheet cannot be read any more."""
    sheet, _ = attempt(lambda: docket.sheet)
    names = [text for name in ("red", "subject", "black") if (text := entry.text(name))]
    if sheet is not None and entry.text("instrument") == "clamp" and len(names) == 2:
        names = [f"around {around(sheet, *names)}"]
    elif sheet is not None:
        names = [part_or_place(sheet, name) for name in names if name != sheet.minus or len(names) == 1]
    words = " to ".join(names)
    return words[:1].upper() + words[1:]
