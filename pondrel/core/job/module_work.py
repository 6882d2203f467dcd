"""What is under way with the modules of a job, and what comes next there: a renewal, resets, the chain of a function, a silent module, a
code that leads to a circuit. The last that was written of counts first where several are under way."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from enum import Enum

from ..base.brief import listed, lowered
from ..module.chain.next_link import asked_next
from ..module.chain.standing import Standing
from ..module.readings_out import GONE, NOT_READ
from ..module.roster import Module, Roster
from ..remedy.reset.off_time import OffTime
from ..renewal.plan import FITTED
from .codes import CODE_KINDS, codes_of
from .entry import Entry, standing
from .links import LINK, answers_in, standing_in
from .renewing import FAILED, RENEWAL_STEP, renewing_of
from .resets import HOPELESS, HUNG, RESET, resets_of

__all__ = ["FROM_MODULES", "ModuleWork", "Room", "module_work_of"]

# Without one of these in a record nothing is under way with modules.
FROM_MODULES = frozenset({LINK.name, RENEWAL_STEP.name, RESET.name, HUNG.name, *(kind.name for kind in CODE_KINDS)})


class Room(Enum):
    """Where it goes on."""

    CHAIN = "chain"
    RENEWAL = "renewal"
    RESETS = "resets"
    MODULES = "modules"


@dataclass(frozen=True, slots=True)
class ModuleWork:
    """What is under way: in which ``room`` it goes on, of which function or module by its name there (empty in the room of all modules) and
    by its ``title``, and what comes ``next``, as a job says what it waits for; of a renewal whether the new one is ``fitted``."""

    room: Room
    named: str
    title: str
    next: str
    fitted: bool = False

    @property
    def renews(self) -> bool:
        """Whether a module is renewed, which goes on after the cause is found and the new one is in."""
        return self.room is Room.RENEWAL


def module_work_of(roster: Roster, entries: Sequence[Entry]) -> ModuleWork | None:
    """What is under way with the modules of a roster by a job's record; None for nothing."""
    titles = {module.title: module for module in roster.modules.values()}
    for entry in reversed(standing(entries, RENEWAL_STEP.name, RESET.name, HUNG.name)):
        module = titles.get(entry.text("module"))
        work = None if module is None else _renewal(module, entries) if entry.kind == RENEWAL_STEP.name else _resets(module, entries)
        if work is not None:
            return work
    return _chain(roster, entries) or _silent(roster, entries) or _code(roster, entries)


def _renewal(module: Module, entries: Sequence[Entry]) -> ModuleWork | None:
    renewing = renewing_of(module, entries)
    one = renewing.next
    if one is None:
        return None
    comes = "was not accepted, so once more" if one.result == FAILED else "comes next"
    told = f"{lowered(module.title)} is renewed: {lowered(one.step.title)} {comes}"
    return ModuleWork(Room.RENEWAL, module.name, module.title, told, renewing.step(FITTED).done)


def _resets(module: Module, entries: Sequence[Entry]) -> ModuleWork | None:
    said = module.resets.off_s if module.resets is not None else 0.0
    found = resets_of(entries, module.title, standing(entries)[-1].made_at, said)
    return ModuleWork(Room.RESETS, module.name, module.title, f"{lowered(module.title)} hangs: {_after_tries(found.off, found.known)}")


def _after_tries(off: OffTime, known: bool) -> str:
    if off.never >= HOPELESS:
        return "its supply off does not wake it, so look at its supply, ground and plug"
    if known:
        return f"{off.enough:g} s off wakes it, so find out why, or choose how to live with it"
    return f"next time {off.next:g} s off, and write down whether it woke"


def _chain(roster: Roster, entries: Sequence[Entry]) -> ModuleWork | None:
    """The function that was spoken of last; or else the first that a silent module stops."""
    spoken = next((e.text("function") for e in reversed(standing(entries, LINK.name)) if e.text("function") in roster.functions), "")
    for name in [spoken] if spoken else roster.functions:
        chain = standing_in(roster, roster.functions[name], entries)
        if spoken or (chain.root is not None and chain.root.condition.answers):
            return ModuleWork(Room.CHAIN, name, chain.function.title, _of_chain(chain))
    return None


def _of_chain(chain: Standing) -> str:
    what = lowered(chain.function.title)
    if chain.complete:
        return f"all links of {what} hold: look behind the chain, at the output itself"
    if chain.root is None:
        asked = next(iter(asked_next(chain)), None)
        return f"{what}: {asked.says}" if asked is not None else f"{what}: ask its next link"
    root, where = chain.root.condition, "go to its circuit" if chain.root.condition.hangs.sheet else "look at what it hangs on"
    if root.answers:
        where = where if root.hangs.sheet else "look at its supply, ground and plug"
        return f"{lowered(root.title)} is silent, and {what} waits for it: {where}"
    return f"{lowered(root.title)} is not {root.wants}, and {what} waits for that: {where}"


def _silent(roster: Roster, entries: Sequence[Entry]) -> ModuleWork | None:
    gone = [lowered(roster.modules[name].title) for name, answers in answers_in(roster, codes_of(entries).call).items() if not answers]
    if not gone:
        return None
    cause = "is silent: look at its supply, ground and plug" if len(gone) == 1 else "are silent: look for one cause"
    return ModuleWork(Room.MODULES, "", "", f"{listed(gone, 3)} {cause}")


def _code(roster: Roster, entries: Sequence[Entry]) -> ModuleWork | None:
    titles = {module.title: module for module in roster.modules.values()}
    for one in codes_of(entries).counting:
        if one.after_clearing == GONE:
            continue
        module = titles.get(one.code.module)
        own = module.code(one.code.name) if module is not None else None
        if own is not None and own.link is not None and own.link.sheet:
            if one.after_clearing == NOT_READ:
                return ModuleWork(Room.MODULES, "", "", f"{own.name} was cleared: read the codes out once more")
            return ModuleWork(Room.MODULES, "", "", f"{own.name}, {lowered(own.says)}: go from the code to its circuit")
    return None
