"""Codes and roll calls in a job's record: read out, noted, cleared, read out again; and what all of it comes to."""

from __future__ import annotations

from collections.abc import Iterable, Sequence
from contextlib import suppress
from dataclasses import dataclass

from ..base.errors import PondrelError
from ..base.written import Content, EntryField, EntryKind, Value
from ..module.fault_code import FaultCode
from ..module.moving import check_clear
from ..module.read_out import LONGEST_READ_OUT, codes_kept, kept_codes
from ..module.readings_out import Cleared, CodeStanding, Noted, Scan, standings
from ..module.roll_call import RollCall, modules_named, roll_call
from ..vehicle.mileage import Mileage, MileageError, apart, parse_mileage
from .changes import ACTION, UNPLUGGED
from .entry import Entry, standing

__all__ = ["BY_PONDREL", "CLEARING_LOSES", "CODE_KINDS", "JobCodes", "check_clearing", "codes_of", "scan_content"]

CLEARING_LOSES = (
    "Clearing deletes the codes and freeze frames in the vehicle, and its readiness monitors are lost: it has to be driven again before an "
    "inspection. What was read out here stays in the record."
)


BY_PONDREL = "by Pondrel from "  # how a reading out is said to be made that names the modules it is of


def _scan_reads(content: Content) -> str:
    codes = kept_codes(str(content.get("codes") or "[]"))
    if not codes:
        return "no codes"
    names = ", ".join(code.name for code in codes[:8]) + (" …" if len(codes) > 8 else "")
    return f"{len(codes)} {'code' if len(codes) == 1 else 'codes'}: {names}" + (f" ({content['text']})" if content.get("text") else "")


def _scan_checked(content: dict[str, Value]) -> dict[str, Value]:
    return content | {"codes": codes_kept(kept_codes(str(content["codes"] or "[]")))}


def _call_reads(content: Content) -> str:
    return _call(content).says


def _call(content: Content) -> RollCall:
    return roll_call(modules_named(str(content.get("answered") or "")), modules_named(str(content.get("silent") or "")))


def _call_checked(content: dict[str, Value]) -> dict[str, Value]:
    call = _call(content)
    return {"answered": ", ".join(call.answered), "silent": ", ".join(call.silent)}


CODE_KINDS: tuple[EntryKind, ...] = (
    EntryKind(
        "scan",
        "Codes read",
        (
            EntryField("codes", "The codes", required=False, longest=2 * LONGEST_READ_OUT),
            EntryField("text", "How they were read out", required=False, longest=300),
        ),
        _scan_reads,
        _scan_checked,
    ),
    EntryKind(
        "code_note",
        "About a code",
        (
            EntryField("code", "The code", longest=12),
            EntryField("self_made", "Whether the work made it", type=bool),
            EntryField("text", "Why", required=False, longest=300),
        ),
        lambda c: f"{c['code']}: {'made by the work itself' if c['self_made'] else 'real'}" + (f", {c['text']}" if c.get("text") else ""),
    ),
    EntryKind("cleared", "Codes cleared", (EntryField("text", "Why", required=False, longest=300),)),
    EntryKind(
        "roll_call",
        "Roll call",
        (
            EntryField("answered", "Who answers", required=False, longest=4000),
            EntryField("silent", "Who is silent", required=False, longest=4000),
        ),
        _call_reads,
        _call_checked,
    ),
)


def scan_content(codes: Iterable[FaultCode], text: str = "") -> dict[str, Value]:
    """The content of a reading out."""
    return {"codes": codes_kept(codes), "text": text}


@dataclass(frozen=True, slots=True)
class JobCodes:
    """What the codes of a job come to: how often they were read out, each code with what became of it, the last roll call, and whether
    they were cleared since they were read last."""

    scans: int
    codes: tuple[CodeStanding, ...]
    call: RollCall | None
    cleared_since: bool

    @property
    def counting(self) -> tuple[CodeStanding, ...]:
        """The codes of the vehicle as it came."""
        return tuple(one for one in self.codes if one.counts)

    @property
    def self_made(self) -> tuple[CodeStanding, ...]:
        """The codes that the work itself made."""
        return tuple(one for one in self.codes if not one.counts)


def codes_of(entries: Sequence[Entry], came_in: Mileage | None = None) -> JobCodes:
    """What the codes of a job come to, by its entries in the order in which they were written; ``came_in`` is the mileage at which the
    vehicle stands in the workshop, where it is known."""
    scans = [Scan(entry.id, kept_codes(entry.text("codes"))) for entry in standing(entries, "scan")]
    cleared = [Cleared(entry.id) for entry in standing(entries, "cleared")]
    noted = [
        Noted(entry.id, entry.text("code"), entry.content.get("self_made") is True, entry.text("text"))
        for entry in standing(entries, "code_note")
    ]
    unplugged = [(entry.id, what) for entry in standing(entries) if (what := _unplugged(entry))]
    call = next(reversed(standing(entries, "roll_call")), None)
    last_scan, last_clearing = max((s.at for s in scans), default=0), max((c.at for c in cleared), default=0)
    return JobCodes(
        len(scans),
        standings(scans, cleared, noted, unplugged, _set_here(scans, came_in)),
        _call(call.content) if call else None,
        last_clearing > last_scan,
    )


def _unplugged(entry: Entry) -> str:
    """What was unplugged for an entry of the record; empty for nothing."""
    if entry.kind == ACTION.name and entry.text("deed") == UNPLUGGED:
        return entry.text("part") or "something"
    return entry.text("unplugged")


_ODOMETER = ("odo", "odometer", "mileage", "distance", "km", "kilometres", "miles")


def _set_here(scans: Iterable[Scan], came_in: Mileage | None) -> frozenset[str]:
    """The codes that were frozen at the mileage at which the vehicle stands in the workshop, or beyond it."""
    found = set()
    for code in (code for scan in scans for code in scan.codes) if came_in else ():
        shown = next((value for name, value in code.frame if name in _ODOMETER), "")
        with suppress(MileageError):
            at = parse_mileage("The mileage of the code", shown, came_in.unit if came_in else "km")
            gone = apart(at, came_in) if at and came_in else None
            if gone is not None and gone >= 0:
                found.add(code.name)
    return frozenset(found)


def check_clearing(entries: Sequence[Entry], loss_is_known: bool) -> None:
    """Raises PondrelError where codes may not be cleared now: none read out since they were cleared last, a crash among them, or nobody
    said to know what is lost."""
    found = codes_of(entries)
    if not found.scans or found.cleared_since:
        raise PondrelError("Read the codes out first and keep them with their freeze frames: what is cleared is gone.")
    check_clear([one.code for one in found.codes], loss_is_known)
