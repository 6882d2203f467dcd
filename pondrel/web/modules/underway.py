"""What a talk has under way: an output that is held, a module that is waited for, a drive that is watched."""

from __future__ import annotations

import time
from dataclasses import dataclass, field

from ...core.module.movement import Movement
from ...core.module.roster import Command, Module, Output
from ...core.module.roster.renewal import YardDrive
from ...core.renewal.plan import PlanStep
from ...core.renewal.yard_drive import Moment, Seen

__all__ = ["Driving", "Hold", "Waking"]


@dataclass
class Hold:
    """An output under command: since when, when a finger was last known to be on it, and what its value did."""

    module: Module
    output: Output
    command: Command
    began: float = field(default_factory=time.monotonic)
    kept_at: float = field(default_factory=time.monotonic)
    let_go: bool = False
    values: list[tuple[float, float | None]] = field(default_factory=list)
    says_now: str = ""
    commanded: bool = False
    ended: bool = False
    movement: Movement | None = None
    why: str = ""
    stays: str = ""
    heard: str = ""
    was_heard: bool | None = None

    @property
    def asks(self) -> str:
        """What is to be heard, once it is over and nobody has said; empty for nothing."""
        return self.output.hear if self.ended and self.movement is not None and not self.heard else ""


@dataclass
class Waking:
    """What was heard of a module since ``began``: seconds until it fell silent and until it answered again, None while it has not."""

    module: Module
    began: float = field(default_factory=time.monotonic)
    silent_at: float | None = None
    awake_at: float | None = None
    over: bool = False

    @property
    def says(self) -> str:
        """How it stands, in a few words."""
        if self.awake_at is not None:
            return "It answers again."
        return "It is silent." if self.silent_at is not None else "It still answers."


@dataclass
class Driving:
    """A drive under way: what was read, what is seen of it so far, and whether it is to end."""

    module: Module
    step: PlanStep
    drive: YardDrive
    moments: list[Moment] = field(default_factory=list)
    seen: Seen | None = None
    stop: bool = False
    over: bool = False
