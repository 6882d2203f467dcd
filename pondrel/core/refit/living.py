"""What is done where it is not mended: a way round it, by hand, left as it is. Common practice without a source."""

from __future__ import annotations

from collections.abc import Mapping

from .step import Step

__all__ = ["LIVING"]

_TOLD = Step(
    "told", "Whoever drives it is shown", "What no longer works by itself, how it is done now, and what must not be done.", "who was shown"
)
_LABEL = Step("label", "A label at the place and in the papers", "What was done, when, and until when it holds.")
_FUSED = Step("fused", "The fuse stays in line", "As near to the supply as it goes, and no larger than the wire bears.", "amperes")

LIVING: Mapping[str, tuple[Step, ...]] = {
    "bypass": (
        _FUSED,
        Step("insulated", "Joined, sealed, tied down", "No bare end; what was taken off is insulated and tied back."),
        _LABEL,
        _TOLD,
    ),
    "power_cycle": (
        _FUSED,
        Step("within", "The switch within reach, and not by chance", "Nobody's knee or bag may turn it; it is not used while driving."),
        _LABEL,
        _TOLD,
    ),
    "by_hand": (
        Step("still", "It cannot start by itself", "Fuse or plug out, the open plug capped and tied up.", "which fuse or plug"),
        _LABEL,
        _TOLD,
    ),
    "leave": (_TOLD,),
}
