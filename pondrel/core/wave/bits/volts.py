"""What volts stand on a data line, by its two states, and what each fault of the two wires would make of them.

A line of CAN is two wires with a resistor between them at each end, 60 Ω together (ISO 11898-2). A sender that is dominant draws one up and
the other down, each through some tens of ohms; at rest every module holds both at half its 5 V through some ten kiloohms. Shorts and opens
are resistors into that network, so their volts are computed as the sound ones are.
"""

from __future__ import annotations

import math
from collections.abc import Mapping
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from ...base.judgement import OWN_RULE, judged
from ..capture import Capture, Channel
from .line import Line

__all__ = ["CAN_FAULTS", "LineVolts", "fault_logs", "volts_of"]

SUPPLY, BATTERY = 5.0, 13.0
DRIVER = judged("CAN_DRIVER", 45.0, "Ω", "of each of the two transistors of a CAN sender, with its diode", OWN_RULE)
DRIVERS = tuple((DRIVER * share, weight) for share, weight in ((0.6, 0.04), (0.8, 0.24), (1.0, 0.44), (1.25, 0.24), (1.6, 0.04)))
HOLDING = judged("CAN_HOLDS_REST", 8e3, "Ω", "by which all modules together hold a CAN line at rest at half their supply", OWN_RULE)
LINE_U = judged("CAN_LEVEL_U", 0.2, "V", "by which a CAN line's level lies off what is computed, one standard deviation", OWN_RULE)
PER_LINE = judged("CAN_FARADS", 1.5e-9, "F", "between the two wires of a CAN line with its modules", OWN_RULE)
FARADS_TIMES = judged("CAN_FARADS_TIMES", 2.0, "times", "by which that differs between vehicles, one standard deviation", OWN_RULE)
LEAST_APART = 15.0  # ohms between the wires below which they hardly part
FREE_COMMON, FREE_APART = 4.0, 12.0  # degrees of freedom of their tails (Student)
ENDS = 60.0
FAR = 1e9
OFF_BY = judged("LINE_OFF_LEVEL", 1.0, "V", "by which a wire of a data line is off the level that it usually has in that state", OWN_RULE)
SETTLED = 0.7  # of a stretch at which its level is read
MOST_RANKED = 20_000  # stretches by which usual lengths and levels are told
LONG = 80.0  # percent: rests longer than so many of them show where the line comes to rest
SLOW = 0.3  # of a usual stretch from which on the way back to rest is slow


@dataclass(frozen=True, slots=True)
class LineVolts:
    """Volts of the two wires by state, None where that wire was not captured or the state not seen; ``decay_s`` is how long the difference
    takes from dominant back to rest (90 to 10 %), ``resolved_s`` what the rate could tell of that at all; ``rings`` is how far the
    difference swings to the other side behind that, as a share of it. Where both wires move ``together`` there is next to no difference,
    and the way back is that of both."""

    high_rest: float | None = None
    high_dominant: float | None = None
    low_rest: float | None = None
    low_dominant: float | None = None
    decay_s: float | None = None
    resolved_s: float = 0.0
    rings: float = 0.0
    together: bool = False

    def as_json(self) -> dict[str, object]:
        """As the command line writes it."""
        own: dict[str, object] = {
            "high_recessive": self.high_rest, "high_dominant": self.high_dominant, "low_recessive": self.low_rest,
            "low_dominant": self.low_dominant,
        }  # fmt: skip
        both = [self.high_rest, self.high_dominant, self.low_rest, self.low_dominant]
        if None not in both:
            rest, dominant = both[0] - both[2], both[1] - both[3]  # type: ignore[operator]
            up, down = both[1] - both[0], both[2] - both[3]  # type: ignore[operator]
            own |= {"differential_recessive": rest, "differential_dominant": dominant}
            own["symmetry"] = up / down if down and abs(down) > 0.05 else None
        return own | {"decay_s": self.decay_s}


def volts_of(capture: Capture, line: Line, high: Channel | None, low: Channel | None) -> tuple[LineVolts, NDArray[np.float64]]:
    """Levels of the wires by the line's states, in the middle of all stretches, and how it goes back to rest; and the stretches of time
    (D, 2) in which a wire is far off its level."""
    runs = line.runs
    lengths = runs.lengths
    decay, rings = _back_to_rest(line)
    if high is None and low is None:
        return LineVolts(decay_s=decay, resolved_s=capture.step, rings=rings), np.zeros((0, 2))
    usual = float(np.median(lengths[:MOST_RANKED]))
    slow = decay is None or decay > SLOW * usual
    places = ((runs.at[1:] - (1.0 - SETTLED) * lengths - capture.start) / capture.step).astype(np.int64)
    np.minimum(places, capture.count - 1, out=places)
    found: dict[str, float | None] = {}
    off = np.zeros(len(places), dtype=bool)
    for state, word in ((False, "rest"), (True, "dominant")):
        own = np.flatnonzero(runs.dominant == state)
        # Where it comes back slowly only a long rest shows where to.
        settled = own[lengths[own] >= np.percentile(lengths[own[:MOST_RANKED]], LONG)] if not state and len(own) else own
        for name, channel in (("high", high), ("low", low)):
            if channel is None or not len(own):
                found[f"{name}_{word}"] = None
                continue
            level = float(np.median(_at(channel, places[settled[:: max(len(settled) // MOST_RANKED, 1)]])))
            found[f"{name}_{word}"] = level
            looked = settled if slow else own
            off[looked[np.abs(_at(channel, places[looked]) - level) > OFF_BY]] = True
    off &= lengths > 0.5 * usual
    spans = np.stack([runs.at[:-1][off], runs.at[1:][off]], axis=1)
    together = line.by in ("high", "low")
    return LineVolts(**found, decay_s=decay, resolved_s=capture.step, rings=rings, together=together), spans


def _at(channel: Channel, places: NDArray[np.int64]) -> NDArray[np.float64]:
    return np.asarray(channel.samples[places] * np.float64(channel.gain) + channel.offset)


def _back_to_rest(line: Line) -> tuple[float | None, float]:
    """How long the line takes from 90 to 10 % of its swing, in seconds, and how far it swings past rest, as a share."""
    runs = line.runs
    lengths = runs.lengths
    changes = np.flatnonzero(~runs.dominant[1:]) + 1
    if len(changes) > 64:
        changes = changes[np.linspace(0, len(changes) - 1, 64).astype(int)]
    amplitude = line.levels.amplitude if line.dominant_high else -line.levels.amplitude
    rest = line.levels.base if line.dominant_high else line.levels.top
    times, past = [], []
    for k in changes:
        begin = int((runs.at[k] - line.capture.start) / line.capture.step) - int(0.5 * lengths[k - 1] / line.capture.step)
        end = int((runs.at[k] - line.capture.start) / line.capture.step) + max(int(0.9 * lengths[k] / line.capture.step), 2)
        own = (line.seen.values(max(begin, 0), min(end, begin + 4000)) - rest) / amplitude
        high, low = np.flatnonzero(own >= 0.9), np.flatnonzero(own <= 0.1)
        low = low[low > high[-1]] if len(high) else low
        if not len(high) or not len(low):
            continue
        first, last = int(high[-1]), int(low[0])
        start = first + (own[first] - 0.9) / max(own[first] - own[first + 1], 1e-9)
        finish = last - (0.1 - own[last]) / max(own[last - 1] - own[last], 1e-9)
        times.append(max(finish - start, 0.0) * line.capture.step)
        past.append(max(-float(own[last:].min()), 0.0))
    return (float(np.median(times)), float(np.median(past))) if times else (None, 0.0)


def _wires(driver: float, ends: float, shorts: Mapping[tuple[str, str], float], dominant: bool, opened: str = "") -> tuple[float, float]:
    """Volts of high and low: two nodes with resistors between each other and to ground, half the supply, the supply, and the battery. What
    is ``opened`` lies between here and the sender."""
    matrix = np.zeros((2, 2))
    feed = np.zeros(2)

    def hold(node: int, ohms: float, volts: float) -> None:
        matrix[node, node] += 1.0 / ohms
        feed[node] += volts / ohms

    def between(ohms: float) -> None:
        matrix[0, 0] += 1.0 / ohms
        matrix[1, 1] += 1.0 / ohms
        matrix[0, 1] -= 1.0 / ohms
        matrix[1, 0] -= 1.0 / ohms

    for node in (0, 1):
        hold(node, 2.0 * HOLDING, SUPPLY / 2.0)
    between(ends)
    if dominant:
        if opened != "high":
            hold(0, driver, SUPPLY)
        if opened != "low":
            hold(1, driver, 0.0)
    for (wire, to), ohms in shorts.items():
        if to == "other":
            between(ohms)
        else:
            hold(0 if wire == "high" else 1, ohms, {"ground": 0.0, "supply": BATTERY}[to])
    high, low = np.linalg.solve(matrix, feed)
    return float(high), float(low)


_SHORT, _LEAK = (0.1, 2.0, 8.0), (12.0, 22.0, 45.0)
# By fault: what it says, its share before anything is known, ohms between the wires, shorts with the ohms they may have, what is open.
CAN_FAULTS: Mapping[str, tuple[str, float, float, tuple[str, str] | None, str]] = {
    "sound": ("The line is as it should be.", 0.6, ENDS, None, ""),
    "one end": ("One end's resistor is missing, or the line is open before it.", 0.08, 2.0 * ENDS, None, ""),
    "both ends": ("Both ends' resistors are missing, or both lines are open before them.", 0.03, 8e3, None, ""),
    "third end": ("There is one resistor too many on the line.", 0.02, 2.0 * ENDS / 3.0, None, ""),
    "high to low": ("CAN high and CAN low are shorted together.", 0.04, ENDS, ("high", "other"), ""),
    "leak": ("Something lets current from one wire to the other: water in a plug, or a damaged module.", 0.02, ENDS, ("high", "other"), ""),
    "high to ground": ("CAN high is shorted to ground.", 0.04, ENDS, ("high", "ground"), ""),
    "high to supply": ("CAN high is shorted to the supply.", 0.03, ENDS, ("high", "supply"), ""),
    "low to ground": ("CAN low is shorted to ground.", 0.04, ENDS, ("low", "ground"), ""),
    "low to supply": ("CAN low is shorted to the supply.", 0.03, ENDS, ("low", "supply"), ""),
    "high open": ("CAN high is open between here and the sender.", 0.045, ENDS, None, "high"),
    "low open": ("CAN low is open between here and the sender.", 0.045, ENDS, None, "low"),
}


def _cases(name: str) -> list[tuple[NDArray[np.float64], float, float]]:
    """Volts (high at rest, high dominant, low at rest, low dominant), ohms by which it comes back to rest, and share, for each sender and
    severity."""
    _, _, ends, short, opened = CAN_FAULTS[name]
    found = []
    ohms_of = _LEAK if name == "leak" else _SHORT if short else (FAR,)
    for driver, weight in DRIVERS:
        for ohms in ohms_of:
            shorts = {short: ohms} if short else {}
            rest, dominant = (_wires(driver, ends, shorts, state, opened) for state in (False, True))
            # An open wire comes back to rest by what holds the line, not by the resistors at its ends.
            across = 1.0 / (1.0 / ends + 1.0 / ohms) if short and short[1] == "other" else ends
            found.append((np.array([rest[0], dominant[0], rest[1], dominant[1]]), HOLDING if opened else across, weight / len(ohms_of)))
    return found


_ALL_CASES = {name: _cases(name) for name in CAN_FAULTS}


def fault_logs(seen: LineVolts) -> dict[str, float]:
    """By fault: the log of how well it explains the volts and the way back to rest, its share beforehand included."""
    values = [seen.high_rest, seen.high_dominant, seen.low_rest, seen.low_dominant]
    known = np.array([value is not None for value in values])
    own = np.array([0.0 if value is None else value for value in values])
    found = {}
    for name, cases in _ALL_CASES.items():
        logs = []
        for volts, ends, weight in cases:
            # Wires that are joined go back together, by what holds them at rest.
            back = HOLDING if seen.together and ends < LEAST_APART else ends
            logs.append(math.log(weight) - _misfit(own - volts, known) + _decay_log(seen, back))
        top = max(logs)
        found[name] = math.log(CAN_FAULTS[name][1]) + top + math.log(sum(math.exp(one - top) for one in logs))
    return found


def _misfit(off: NDArray[np.float64], known: NDArray[np.bool_]) -> float:
    """Minus the log of how likely volts (of high at rest and dominant, of low at rest and dominant) are to be ``off`` by so much where they
    are ``known``. Heavy tails: a ground offset between scope and vehicle must not decide by itself; but the difference between the wires
    does not have it."""
    if not known.all():
        return float(np.log1p((off / LINE_U) ** 2 / FREE_COMMON)[known].sum() * 0.5 * (FREE_COMMON + 1.0))
    common, apart = (off[:2] + off[2:]) / 2.0, off[:2] - off[2:]
    tails = np.log1p((common / LINE_U) ** 2 / FREE_COMMON).sum() * 0.5 * (FREE_COMMON + 1.0)
    return float(tails + np.log1p((apart / LINE_U) ** 2 / FREE_APART).sum() * 0.5 * (FREE_APART + 1.0))


def _decay_log(seen: LineVolts, ends: float) -> float:
    if seen.decay_s is None:
        return 0.0
    expected = math.hypot(2.2 * ends * PER_LINE, 0.8 * seen.resolved_s)
    return -0.5 * (math.log(max(seen.decay_s, 0.3 * seen.resolved_s) / expected) / math.log(FARADS_TIMES)) ** 2
