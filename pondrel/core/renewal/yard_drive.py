"""A slow drive that teaches a module, judged while it is driven: its pace, its way, its turns and its stops."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

from ..base.judgement import OWN_RULE, judged
from ..module.roster.renewal import YardDrive

__all__ = ["Moment", "Part", "Seen", "seen_in"]

STANDS_KMH = judged("YARD_STANDS", 0.5, "km/h", "below it a vehicle counts as standing", OWN_RULE)
STOP_S = judged("YARD_STOP", 1.0, "s", "a stand of so long counts as a stop", OWN_RULE)
TOO_FAST_S = judged("YARD_TOO_FAST", 1.0, "s", "a pace beyond the limit for so long is too fast", OWN_RULE)
GAP_S = 3.0  # between two moments: for longer nobody knows what it did
_BACK = 0.5  # of a turn: so far the wheel has to come back before another one counts


@dataclass(frozen=True, slots=True)
class Moment:
    """What was read at ``at`` seconds: pace (km/h) and steering angle (degrees, right positive), None where it was not told."""

    at: float
    kmh: float | None
    degrees: float | None = None


@dataclass(frozen=True, slots=True)
class Part:
    """One thing that a drive needs: what, how much there is and how much is wanted."""

    what: str
    there: float
    wanted: float
    unit: str = ""

    @property
    def done(self) -> bool:
        """Whether there is enough of it."""
        return self.there >= self.wanted

    @property
    def named(self) -> str:
        """What there is of it, as many as there are: ``1 stop``, without the number."""
        return self.what.replace("turns", "turn").replace("stops", "stop") if round(self.there) == 1 else self.what

    @property
    def says(self) -> str:
        """As it is read: ``23 of 40 m``."""
        return f"{self.there:.0f} of {self.wanted:g}{f' {self.unit}' if self.unit else ''}"


@dataclass(frozen=True, slots=True)
class Seen:
    """What was seen of a drive: its parts, the pace now and at the most, and whether it was ``too_fast``, or ``blind``: its pace could not
    be read for so long that the drive does not count."""

    parts: tuple[Part, ...]
    kmh: float | None
    fastest: float
    too_fast: bool
    blind: bool = False

    @property
    def done(self) -> bool:
        """Whether everything was driven, and never too fast."""
        return not self.too_fast and not self.blind and all(part.done for part in self.parts)

    def says(self, drive: YardDrive) -> str:
        """What came of it in a sentence."""
        if self.too_fast:
            return f"Driven at {self.fastest:.0f} km/h, and {drive.fastest:g} km/h is the most: begin again."
        if self.blind:
            return "Its pace was not told for some seconds: begin again."
        missing = [f"{part.what} {part.says}" for part in self.parts if not part.done]
        return f"Not all was driven: {'; '.join(missing)}." if missing else "Driven as it should be: " + self.driven

    @property
    def driven(self) -> str:
        """What was driven, in words."""
        told = [f"{part.there:.0f} {part.unit or part.named}" for part in self.parts]
        return f"{', '.join(told)}, {self.fastest:.0f} km/h at the most."


def seen_in(drive: YardDrive, moments: Sequence[Moment]) -> Seen:
    """What is seen in moments, in their order. A stop counts once it stands after it has moved, a turn once the angle goes beyond the
    wanted one and was back before it."""
    metres, fast_s, stops = 0.0, 0.0, 0
    moved, stood_s = False, 0.0
    turns = {1: 0, -1: 0}
    beyond = 0
    blind = False
    before: Moment | None = None
    for now in moments:
        passed = 0.0 if before is None else now.at - before.at
        blind = blind or passed > GAP_S
        if now.kmh is None:
            continue
        pace = abs(now.kmh)
        was = pace if before is None or before.kmh is None else abs(before.kmh)
        metres += (pace + was) / 2.0 / 3.6 * passed
        fast_s = fast_s + passed if pace > drive.fastest else 0.0
        if pace > STANDS_KMH:
            moved, stood_s = True, 0.0
        elif moved:
            stood_s += passed
            if stood_s >= STOP_S:
                stops, moved = stops + 1, False
        if now.degrees is not None and drive.turn:
            if beyond == 0 and abs(now.degrees) >= drive.turn and pace > STANDS_KMH:
                beyond = 1 if now.degrees > 0.0 else -1
                turns[beyond] += 1
            elif beyond and now.degrees * beyond < _BACK * drive.turn:
                beyond = 0
        before = now
        if fast_s >= TOO_FAST_S:
            break
    parts = [Part("driven", metres, drive.metres, "m")] if drive.metres else []
    parts += [Part("turns to the left", turns[-1], drive.left)] if drive.left else []
    parts += [Part("turns to the right", turns[1], drive.right)] if drive.right else []
    parts += [Part("stops", stops, drive.stops)] if drive.stops else []
    paces = [abs(own.kmh) for own in moments if own.kmh is not None]
    return Seen(tuple(parts), paces[-1] if paces else None, max(paces, default=0.0), fast_s >= TOO_FAST_S, blind)
