"""One step of fitting it."""

from __future__ import annotations

from dataclasses import dataclass

__all__ = ["TORQUE", "Step"]

TORQUE = "torque, such as 9 Nm"


@dataclass(frozen=True, slots=True)
class Step:
    """One step: what is done (``title``), what to mind, what is ``wanted`` in words beside the tick (empty for nothing), and a caution. A
    torque may be left out, and what is ``optional`` too: not every maker gives one."""

    name: str
    title: str
    detail: str = ""
    wanted: str = ""
    caution: str = ""
    optional: bool = False

    @property
    def must(self) -> bool:
        """Whether the tick needs what is wanted."""
        return bool(self.wanted) and not self.optional and self.wanted != TORQUE
