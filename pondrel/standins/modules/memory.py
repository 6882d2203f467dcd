"""The memory of a simulated module: which codes are set, since when, with what was frozen; what it takes away because of them."""

from __future__ import annotations

from dataclasses import dataclass, field

from ...core.module.roster import Module, ModuleCode
from ...core.talk.code_status import (
    CONFIRMED,
    FAILED_SINCE_CLEAR,
    FAILED_THIS_CYCLE,
    FAILS_NOW,
    NOT_TESTED_SINCE_CLEAR,
    PENDING,
    TESTED_NOT_YET,
)
from .life import Life

__all__ = ["Memory"]

_FRESH = NOT_TESTED_SINCE_CLEAR | TESTED_NOT_YET
_SET = FAILS_NOW | FAILED_THIS_CYCLE | PENDING | CONFIRMED | FAILED_SINCE_CLEAR


@dataclass
class Memory:
    """What a module remembers. ``done`` are routines that passed since it was renewed."""

    module: Module
    life: Life
    status: dict[str, int] = field(default_factory=dict)
    frozen: dict[str, dict[int, bytes]] = field(default_factory=dict)
    done: set[str] = field(default_factory=set)

    def __post_init__(self) -> None:
        self.status = dict.fromkeys(self.module.codes, _FRESH)
        self.done = set(self.module.routines)  # as it came from the factory

    @property
    def taken_away(self) -> frozenset[str]:
        """Names of the outputs that are off because a code is set."""
        return frozenset(name for code in self.module.codes.values() if self.status[code.name] & CONFIRMED for name in code.takes_away)

    def look(self) -> None:
        """Test everything once: set the codes whose reason is there, take "fails now" from those whose is not."""
        for code in self.module.codes.values():
            fails = self._fails(code)
            if fails is None:
                continue
            before = self.status[code.name]
            if fails:
                self.status[code.name] = (before & ~_FRESH) | _SET
                if not before & CONFIRMED:
                    numbers = dict.fromkeys(datum.number for datum in self.module.data.values())
                    told = {number: self.life.bytes_of(self.module, number) for number in numbers}
                    self.frozen[code.name] = {number: data for number, data in told.items() if data is not None}
            else:
                self.status[code.name] = before & ~(_FRESH | FAILS_NOW)

    def _fails(self, code: ModuleCode) -> bool | None:
        """Whether a code's reason is there; None where that cannot be tested now: an output that was taken away tells nothing."""
        if f"{self.module.name}.{code.name}" in self.life.facts:
            return bool(self.life.facts[f"{self.module.name}.{code.name}"])
        if code.until:
            return code.until not in self.done
        if code.silent:
            return not self.life.alive(self.life.roster.modules[code.silent])
        if code.link is None or not self.life.here(code.link):
            return None
        if self.status[code.name] & CONFIRMED and set(code.takes_away) & self.taken_away:
            return None
        return self.life.sets(code.link)

    def clear(self) -> None:
        """Forget all codes."""
        self.status = dict.fromkeys(self.module.codes, _FRESH)
        self.frozen.clear()

    def renewed(self) -> None:
        """Another module of the same sort was fitted: nothing that was taught is in it."""
        self.clear()
        self.done.clear()
