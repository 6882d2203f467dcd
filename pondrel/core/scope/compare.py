"""Two captures side by side: what differs, in words and numbers, and by how much one is shifted against the other."""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass

from ..base.judgement import OWN_RULE, judged
from ..wave.measure import QUANTITIES, Measures

__all__ = ["Difference", "differences", "misfit", "trigger_of"]

TELLING = judged("SCOPE_DIFFERS", 0.05, "share", "by which a measured number has to differ between two captures to be told", OWN_RULE)
SURE = 4.0  # standard deviations
MODEL_WITHIN = judged("COURSE_WITHIN", 0.04, "share", "of its span by which a sound circuit may draw otherwise than computed", OWN_RULE)
# In this order: what says most first; of quantities that say the same one.
_ASKED = ("cycle_mean", "mean", "duty", "period", "top", "base", "ripple", "rise", "fall", "overshoot", "noise", "pulse_width")
_INSTEAD_OF = {"mean": "cycle_mean", "pulse_width": "duty"}
MOST = 6


@dataclass(frozen=True, slots=True)
class Difference:
    """A quantity that differs: its name in `QUANTITIES`, what it is called, its values (None where it does not apply), and a sentence."""

    name: str
    says: str
    before: float | None
    after: float | None
    sentence: str


def differences(before: Measures, after: Measures) -> Sequence[Difference]:
    """What differs from one capture to another, the most telling first; nothing where they are alike."""
    found: list[tuple[float, Difference]] = []
    seen: set[str] = set()
    span = max(before.scan.span, after.scan.span)
    for name in _ASKED:
        quantity = QUANTITIES[name]
        one, two = quantity.of(before), quantity.of(after)
        if _INSTEAD_OF.get(name) in seen:
            continue
        if one is None or two is None:
            if (one is None) != (two is None) and name in ("period",):
                says = "It pulses only before." if two is None else "It pulses only afterwards."
                found.append((1e6, Difference(name, quantity.says, _value(one), _value(two), says)))
            continue
        seen.add(name)
        change = two.value - one.value
        scale = span if quantity.unit == "level" else 1.0 if quantity.unit == "share" else max(abs(one.value), abs(two.value))
        u = (one.u**2 + two.u**2) ** 0.5
        size = abs(change) / scale if scale > 0.0 else 0.0
        if size > TELLING and abs(change) > SURE * u:
            unit = after.channel.unit
            words = f"{quantity.says} {quantity.shown(one.value, unit)} → {quantity.shown(two.value, unit)}"
            found.append((size, Difference(name, quantity.says, one.value, two.value, f"{words[:1].upper()}{words[1:]}.")))
    gone_before, gone_after = len(before.dropouts), len(after.dropouts)
    if gone_before != gone_after:
        sentence = f"Drop-outs: {gone_before or 'none'} before, {gone_after or 'none'} afterwards."
        found.append((1e5, Difference("dropouts", "drop-outs", float(gone_before), float(gone_after), sentence)))
    found.sort(key=lambda pair: -pair[0])
    return [one for _, one in found[:MOST]]


def _value(found: object) -> float | None:
    value = getattr(found, "value", None)
    return float(value) if value is not None else None


def trigger_of(own: Measures) -> float | None:
    """The time (s) of a capture's first upward edge, by which two are laid over each other; None where there is none."""
    rises = own.edges.rises
    return own.start + float(rises[0]) * own.step if len(rises) else None


def misfit(captured: Measures, computed: Measures, scale_within: float) -> float:
    """How far a computed course is from a captured one, in units of what is left open: the root of the mean square over average, share of
    time on and both levels. What is left open is what rate and rounding leave, a scope's scale, and what a circuit's tolerances do
    (`MODEL_WITHIN`)."""
    parts = []
    span = max(captured.scan.span, computed.scan.span, 1e-9)
    for name in ("cycle_mean", "top", "base"):
        one, two = (QUANTITIES[name].of(own) or QUANTITIES["mean"].of(own) for own in (captured, computed))
        assert one is not None and two is not None
        open_u = math.hypot(one.u, scale_within * abs(one.value), MODEL_WITHIN * span)
        parts.append((one.value - two.value) / open_u)
    duties = [own.duty.value if own.duty is not None else None for own in (captured, computed)]
    if duties[0] is not None and duties[1] is not None:
        parts.append((duties[0] - duties[1]) / MODEL_WITHIN)
    elif (duties[0] is None) != (duties[1] is None):
        parts.append(1.0 / MODEL_WITHIN)  # one pulses, the other does not
    return math.sqrt(sum(part * part for part in parts) / len(parts))
