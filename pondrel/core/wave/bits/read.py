"""A data line read whole: its protocol and bit rate found by itself, frames and errors, levels, how much of the time it was disturbed, and
what is likely the matter with it."""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from ...base.judgement import OWN_RULE, judged
from ..capture import Capture, Channel
from .can import can_in
from .frame import Frame, LineError, Read, Suspect
from .lin import lin_in
from .lin_levels import lin_suspects
from .line import Line, line_of, pair_in
from .volts import CAN_FAULTS, LineVolts, fault_logs, volts_of

__all__ = ["Bits", "Suspect", "bits_json", "bits_of"]

LIN_MOST = 25e3  # bits a second; LIN has at most 20 000
LIN_LEAST_V = 6.0
TOUCH = judged("LINE_TOUCHES", 0.15, "share", "of data lines that are looked at with a scope and touch something now and then", OWN_RULE)
GOOD_WITH_ERRORS = judged("LINE_ERRORS_SOUND", 0.02, "share", "of sound data lines that have errors in a capture", OWN_RULE)
RINGS = judged(
    "LINE_RINGS", 0.2, "share", "of its swing by which a line that goes back to rest swings past it where a stub is too long", OWN_RULE
)
ERRORS_WITH_WRONG_ENDS = judged("LINE_ERRORS_ENDS", 0.2, "share", "of lines with one end too few or too many that have errors", OWN_RULE)
# Of lines with each fault, the share that is silent while somebody looks; of shorted ones about all.
SILENT = {"sound": 0.1, "one end": 0.1, "third end": 0.1, "both ends": 0.5, "high open": 0.3, "low open": 0.3}
MOST_NAMED = 6
AROUND = 20.0  # bits about an error that count as disturbed with it
SOUND = CAN_FAULTS["sound"][0]
QUIET = "Nothing is sent on it in this capture."
UNREAD = "Nothing that is sent on it can be read."
DISTURBED = "Something disturbs the line now and then: a chafed wire, a loose plug, or noise."


@dataclass(frozen=True, slots=True)
class Bits:
    """A data line as it was read: ``protocol`` CAN, LIN or empty where nothing was understood; ``disturbed`` the share of the time, and
    ``stretches`` from when to when (s) it was."""

    protocol: str
    bit_rate: float | None
    frames: tuple[Frame, ...]
    errors: tuple[LineError, ...]
    volts: LineVolts
    disturbed: float
    stretches: tuple[tuple[float, float], ...]
    suspects: tuple[Suspect, ...]
    moves: bool


def bits_of(capture: Capture, high: str = "", low: str = "", bit_rate: float | None = None) -> Bits:
    """A data line out of a capture whose channels ``high`` and ``low`` are named or told apart by themselves; it is read at its own
    ``bit_rate`` unless one is given. Raises CaptureError for a channel that is none."""
    upper, lower = (capture.named(name) if name else None for name in (high, low))
    if upper is None and lower is None:
        upper, lower = pair_in(capture)
    line = line_of(capture, upper, lower)
    if line is None:
        seen = _resting(upper, lower)
        return Bits("", None, (), (), seen, 0.0, (), _suspects(seen, _Wires(capture, upper, lower), (), (), np.zeros((0, 2))), False)
    read = _best(line, upper, lower, bit_rate)
    if line.by == "single":
        # Alone, what it is shows by its levels: high rests below where it is when dominant, low above.
        flipped = line.dominant_high
        upper, lower = (line.seen, None) if flipped else (None, line.seen)
        if not _is_wire(line):
            upper = lower = None
    seen, off = volts_of(capture, line, upper, lower)
    bit = 1.0 / read.bit_rate if read is not None else float(np.median(line.runs.lengths))
    errors = list(read.errors if read is not None else ())
    errors += [LineError(begin, end, "level") for begin, end in _joined(off, bit).tolist()]
    errors.sort(key=lambda error: error.time)
    frames = read.frames if read is not None else ()
    spans = _joined(np.array([(error.time, max(error.end, error.time + bit)) for error in errors]).reshape(-1, 2), bit)
    share = float((spans[:, 1] - spans[:, 0]).sum() / capture.seconds) if frames or len(spans) else 1.0
    stretches = tuple((begin, end) for begin, end in spans.tolist())
    wires = _Wires(capture, upper, lower)
    understood = read is not None and read.good > 0
    protocol, rate = (read.protocol, read.bit_rate) if read is not None and understood else ("", None)
    suspects = lin_suspects(line, bit, errors) if protocol == "LIN" else _suspects(seen, wires, frames, errors, spans)
    return Bits(protocol, rate, tuple(frames), tuple(errors), seen, min(share, 1.0), stretches, suspects, True)


@dataclass(frozen=True, slots=True)
class _Wires:
    capture: Capture
    high: Channel | None
    low: Channel | None


def _is_wire(line: Line) -> bool:
    """Whether a single channel is one of the two wires of CAN, by where it rests: at half of 5 V."""
    rest = line.levels.base if line.dominant_high else line.levels.top
    return line.seen.scaled and 1.8 < rest < 3.2 and 0.4 < line.levels.amplitude < 2.6


def _best(line: Line, high: Channel | None, low: Channel | None, bit_rate: float | None) -> Read | None:
    runs = line.runs
    reads = []
    two = high is not None and low is not None
    slow = float(np.median(runs.lengths)) > 0.5 / LIN_MOST if len(runs.lengths) else False
    if not two and slow and not line.dominant_high:
        reads.append(lin_in(runs))
    best = max((one for one in reads if one is not None), key=lambda one: one.good, default=None)
    if best is None or not best.good:
        found = can_in(runs, bit_rate)
        best = found if best is None or (found is not None and found.good > best.good) else best
    return best


def _resting(high: Channel | None, low: Channel | None) -> LineVolts:
    levels = [None if one is None else float(np.median(one.values(0, min(len(one.samples), 100_000)))) for one in (high, low)]
    return LineVolts(high_rest=levels[0], low_rest=levels[1])


def _joined(spans: NDArray[np.float64], bit: float) -> NDArray[np.float64]:
    """(D, 2) stretches of time, those that lie close taken together."""
    if not len(spans):
        return np.zeros((0, 2))
    spans = spans[np.argsort(spans[:, 0])]
    reach = np.maximum.accumulate(spans[:, 1])
    starts = np.flatnonzero(np.concatenate([[True], spans[1:, 0] > reach[:-1] + AROUND * bit]))
    ends = np.concatenate([starts[1:] - 1, [len(spans) - 1]])
    return np.stack([spans[starts, 0], reach[ends]], axis=1)


def _suspects(
    seen: LineVolts, wires: _Wires, frames: Sequence[Frame], errors: Sequence[LineError], spans: NDArray[np.float64]
) -> tuple[Suspect, ...]:
    """What may be the matter with a line of CAN, the likeliest first."""
    if wires.high is None and wires.low is None:
        # A logic signal, or a probe that takes the difference: volts of the wires are not known.
        return (Suspect(DISTURBED if errors else SOUND if frames else UNREAD, 1.0),)
    logs = fault_logs(seen)
    # How often each of them leaves a line silent, and how often it makes errors.
    if not frames and not errors:
        logs = {name: log + math.log(SILENT.get(name, 1.0)) for name, log in logs.items()}
    if errors:
        logs = {name: log + (math.log(ERRORS_WITH_WRONG_ENDS) if name in ("one end", "third end") else 0.0) for name, log in logs.items()}
    told = {name: (CAN_FAULTS[name][0], log) for name, log in logs.items()}
    if errors:
        # A sound line hardly has any; any of the faults may have some.
        told["sound"] = (SOUND, logs["sound"] + math.log(GOOD_WITH_ERRORS))
        says = _touches(wires, spans) or DISTURBED
        told["touches"] = (says, logs["sound"] + math.log(TOUCH / CAN_FAULTS["sound"][1]))
    elif not frames:
        # The volts at rest alone do not tell a quiet line from one whose wires touch each other.
        told["sound"] = (QUIET, logs["sound"])
    if seen.rings > RINGS:
        told["stub"] = ("The line rings behind each change: a stub is too long, or an end is missing.", logs["sound"] + math.log(3.0))
    top = max(log for _, log in told.values())
    weights = {name: math.exp(log - top) for name, (_, log) in told.items()}
    total = sum(weights.values())
    order = sorted(told, key=lambda name: -weights[name])
    return tuple(Suspect(told[name][0], weights[name] / total) for name in order[:MOST_NAMED] if weights[name] / total > 0.002)


_TOUCHES = {
    ("high", "ground"): "CAN high touches ground now and then.", ("low", "ground"): "CAN low touches ground now and then.",
    ("high", "supply"): "CAN high touches the supply now and then.", ("low", "supply"): "CAN low touches the supply now and then.",
    ("both", "other"): "CAN high and CAN low touch each other now and then.",
}  # fmt: skip
GROUND_BELOW, SUPPLY_ABOVE, SAME_WITHIN, OFF_REST = 0.5, 5.6, 0.25, 0.4  # volts
ALONE = 0.85  # of the time that low is on ground for which high is there too where it is the one that touches
TOUCHED, OFTEN = 0.1, 0.25  # of a disturbed stretch's samples; of all such stretches
MOST_LOOKED, MOST_SAMPLES = 50, 20_000


def _touches(wires: _Wires, spans: NDArray[np.float64]) -> str:
    """What a wire touches while the line is disturbed, by its volts then: nothing where they do not tell."""
    counts: dict[tuple[str, str], int] = {}
    looked = spans[:MOST_LOOKED].tolist()
    for begin, end in looked:
        first, last = (round((time - wires.capture.start) / wires.capture.step) for time in (begin, end))
        stop = min(max(last, first + 2), first + MOST_SAMPLES, wires.capture.count)
        own = [None if one is None else one.values(max(first, 0), stop) for one in (wires.high, wires.low)]
        found = _touch(*own)
        if found is not None:
            counts[found] = counts.get(found, 0) + 1
    best = max(counts, key=lambda key: counts[key], default=None)
    return _TOUCHES[best] if best is not None and counts[best] >= OFTEN * len(looked) else ""


def _touch(high: NDArray[np.float64] | None, low: NDArray[np.float64] | None) -> tuple[str, str] | None:
    """Which wire touches what in a stretch of samples."""
    wires = [(name, own) for name, own in (("high", high), ("low", low)) if own is not None and len(own)]
    grounded = {name: float((own < GROUND_BELOW).mean()) for name, own in wires}
    supplied = {name: float((own > SUPPLY_ABOVE).mean()) for name, own in wires}
    for to, shares in (("ground", grounded), ("supply", supplied)):
        if max(shares.values(), default=0.0) <= TOUCHED:
            continue
        if high is None or low is None:
            return next(iter(shares)), to
        if to == "ground":
            # With high on ground both stay there; with low on ground high still comes up whenever somebody sends.
            return ("high" if grounded["high"] > ALONE * grounded["low"] else "low"), to
        # The wire that does not touch comes down a little whenever somebody sends.
        up = (high > SUPPLY_ABOVE) | (low > SUPPLY_ABOVE)
        return ("high" if float((high[up] - low[up]).mean()) > 0.0 else "low"), to
    if high is not None and low is not None and len(high):
        together = (np.abs(high - low) < SAME_WITHIN) & (np.abs(high - 2.5) > OFF_REST)
        if float(together.mean()) > TOUCHED:
            return "both", "other"
    return None


def bits_json(own: Bits) -> dict[str, object]:
    """As the command line writes it."""
    return {
        "bit_rate": own.bit_rate, "frames": [frame.as_json() for frame in own.frames],
        "errors": [{"time": error.time, "kind": error.kind} for error in own.errors], "levels": own.volts.as_json(),
        "disturbed": own.disturbed, "suspects": [{"says": one.says, "probability": one.probability} for one in own.suspects],
    }  # fmt: skip
