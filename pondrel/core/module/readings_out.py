"""What several readings out of codes come to: which codes stand, which are of the work's own making, which came back after clearing."""

from __future__ import annotations

from collections.abc import Collection, Sequence
from dataclasses import dataclass

from .fault_code import FaultCode

__all__ = ["GONE", "NOT_READ", "CodeStanding", "Cleared", "Noted", "Scan", "standings"]

NEVER, BACK, GONE, NOT_READ = "", "came back after clearing", "did not come back after clearing", "not read out since it was cleared"


@dataclass(frozen=True, slots=True)
class Scan:
    """A reading out: its place in the record (``at``, ever larger), and its codes."""

    at: int
    codes: tuple[FaultCode, ...]


@dataclass(frozen=True, slots=True)
class Cleared:
    """Codes were cleared at a place in the record."""

    at: int


@dataclass(frozen=True, slots=True)
class Noted:
    """What somebody says of a code: that the work itself made it (``self_made``), or that it is a real one after all; and why."""

    at: int
    code: str
    self_made: bool
    why: str


@dataclass(frozen=True, slots=True)
class CodeStanding:
    """A code with what became of it: as it was read last, how often it was read, ``self_made`` why the work itself is taken to have made it
    (empty where it is not), whether that is only ``presumed``, and what clearing did (one of the module's words)."""

    code: FaultCode
    times: int
    self_made: str
    presumed: bool
    after_clearing: str

    @property
    def is_back(self) -> bool:
        """Whether it came back after it was cleared."""
        return self.after_clearing == BACK

    @property
    def counts(self) -> bool:
        """Whether it is a code of the vehicle as it came."""
        return not self.self_made


def standings(
    scans: Sequence[Scan],
    cleared: Sequence[Cleared],
    noted: Sequence[Noted],
    unplugged: Sequence[tuple[int, str]],
    set_here: Collection[str] = (),
) -> tuple[CodeStanding, ...]:
    """Every code that was read out, those of the vehicle first. ``unplugged`` are pairs of a place in the record and what was unplugged
    there: a code that is read after that and was not there before, or that was frozen at the mileage at which the vehicle stands here
    (its name in ``set_here``), is presumed to be made by it."""
    last: dict[str, tuple[FaultCode, int, int, int]] = {}  # code, first and last place, times
    for scan in scans:
        for code in scan.codes:
            _, first, _, times = last.get(code.name, (code, scan.at, scan.at, 0))
            last[code.name] = (code, first, scan.at, times + 1)
    said = {note.code: note for note in noted}
    found = []
    for name, (code, first, seen, times) in last.items():
        note = said.get(name)
        guess = _made_by(first, scans, unplugged, name in set_here) if note is None else ""
        why = note.why or "noted as self-made" if note and note.self_made else guess
        found.append(CodeStanding(code, times, why, bool(guess), _after_clearing(name, seen, scans, cleared)))
    return tuple(sorted(found, key=lambda standing: not standing.counts))


def _made_by(first: int, scans: Sequence[Scan], unplugged: Sequence[tuple[int, str]], here: bool) -> str:
    """What was unplugged between the first reading out that shows a code and one before it that does not, or before it at all where the
    code was set ``here``; empty for nothing."""
    before = max((scan.at for scan in scans if scan.at < first), default=0 if here else None)
    between = [what for at, what in unplugged if before is not None and before < at < first]
    return f"first read after {between[-1]} was unplugged" if between else ""


def _after_clearing(name: str, seen: int, scans: Sequence[Scan], cleared: Sequence[Cleared]) -> str:
    """What became of a code when codes were cleared last."""
    clearing = max((one.at for one in cleared), default=None)
    if clearing is None or not any(scan.at < clearing and name in {c.name for c in scan.codes} for scan in scans):
        return NEVER
    if not any(scan.at > clearing for scan in scans):
        return NOT_READ
    return BACK if seen > clearing else GONE
