"""What is locked until it is made safe: commanding an output, running a routine, clearing codes. Held here, so that no screen and no
command goes around it."""

from __future__ import annotations

from collections.abc import Collection, Iterable

from ..base.brief import listed
from ..base.errors import PondrelError
from ..evidence.hazards import DEFERS, HAZARDS, Hazard
from .fault_code import FaultCode

__all__ = ["CAUTION_READ", "CRASH_STAYS", "LockedError", "check_all_read", "check_clear", "check_made_safe", "check_said_safe", "locks_of",
    "open_locks"]  # fmt: skip

CAUTION_READ = "caution"
CRASH_STAYS = "A crash flag is not cleared from here: it is for people who are trained for that system."


class LockedError(PondrelError):
    """Something that waits until it is made safe."""


def locks_of(hazards: Iterable[str], caution: str, made_safe: Collection[str]) -> tuple[Hazard, ...]:
    """What still has to be made safe: hazards that nobody said to have made safe, and an own caution that nobody said to have read."""
    found = [HAZARDS[name] for name in hazards if name not in made_safe]
    if caution and CAUTION_READ not in made_safe:
        found.append(Hazard(CAUTION_READ, "Before it moves", caution))
    return tuple(found)


def check_made_safe(title: str, hazards: Iterable[str], caution: str, made_safe: Collection[str]) -> None:
    """Raises LockedError naming what has to be made safe first."""
    open_ones = locks_of(hazards, caution, made_safe)
    if open_ones:
        names = listed([own.name for own in open_ones])
        raise LockedError(f"{title} is locked until this is made safe ({names}): {open_ones[0].caution} {DEFERS}")


def open_locks(hazards: Iterable[str], cautions: Iterable[str], read: Collection[str]) -> tuple[Hazard, ...]:
    """What still has to be made safe or read, where ``read`` are the texts of cautions that somebody has said to have seen to."""
    found = [HAZARDS[name] for name in dict.fromkeys(hazards) if HAZARDS[name].caution not in read]
    return (*found, *(Hazard(CAUTION_READ, "Before it is done", text) for text in dict.fromkeys(cautions) if text and text not in read))


def check_all_read(title: str, hazards: Iterable[str], cautions: Iterable[str], read: Collection[str]) -> None:
    """Raises LockedError naming what has to be made safe or read first."""
    found = open_locks(hazards, cautions, read)
    if found:
        raise LockedError(f"{title} is locked until this is made safe: {found[0].caution} {DEFERS}")


def check_said_safe(hazards: Iterable[str], caution: str, text: str, by: str) -> None:
    """Raises LockedError where a text that somebody says to have seen to is none of these cautions, or is for qualified people and nobody
    is named (``by``)."""
    known = {HAZARDS[name].caution: HAZARDS[name] for name in hazards}
    if text not in known and (text != caution or not text):
        raise LockedError("This caution is not of this output: load the page again and read what stands there.")
    if text in known and known[text].refers and not by:
        raise LockedError("This is for qualified people: write down who isolated the system and recorded it, or leave this side alone.")


def check_clear(codes: Iterable[FaultCode], loss_is_known: bool) -> None:
    """Raises PondrelError where codes are not cleared from here: a crash among them, or nobody said to know what is lost."""
    crash = next((code for code in codes if code.tells_of_crash), None)
    if crash is not None:
        raise LockedError(f"{crash.name} tells of a crash. {CRASH_STAYS}")
    if not loss_is_known:
        raise LockedError("Say first that you know what clearing loses: codes, freeze frames and the readiness monitors.")
