"""A winding on the vehicle: its ohms when hot, what it draws through its joints, the volts at which it pulls in, and what is to spare.

Copper by IEC 60028. Pull-in wants ampere-turns: the same winding pulls in at the same current, and at one that grows with its air gap.
"""

from __future__ import annotations

import math
from dataclasses import dataclass

from ..base.conductor import copper_ohms_at
from ..base.judgement import judged
from ..base.quantity import show
from ..check import Limit
from .case import Case, Read
from .family import Setting
from .judged import Band, Chart, Dot, Figures, Line, Service

__all__ = ["SETTINGS", "Winding", "chart_of", "good_ohms_of", "ohms_at", "serve_of", "winding_of"]

ROOM_C = judged("ROOM_C", 20.0, "°C", "how warm a part on the bench is taken to be where nobody noted it")
HOT_C = judged("HOT_C", 80.0, "°C", "how hot a winding runs in service where nobody said")
LEAST_SUPPLY = judged("LEAST_SUPPLY", 11.9, "V", "what a 12 V vehicle still gives with everything on")
MOST_SUPPLY = judged("MOST_SUPPLY", 14.4, "V", "what a 12 V vehicle gives while it charges")

SETTINGS = (
    Setting("hot", "how hot it gets on the vehicle", "°C", usual=HOT_C, service=True),
    Setting("supply", "the least volts that it is fed with on the vehicle", "V", usual=LEAST_SUPPLY, service=True),
    Setting("joint", "what feed and ground have together, by their drop under load", "Ω", usual=0.0, service=True, zero=True),
    Setting("gap", "its air gap on the vehicle", "mm", service=True),
    Setting("gap_read", "the air gap with which its pull-in was read", "mm", service=True),
    Setting("shim", "the shims that can come out of the gap", "mm", service=True),
    Setting("nominal", "the ohms that it should have at 20 °C", "Ω"),
)


def ohms_at(ohms: float, from_c: float, to_c: float) -> float:
    """Ohms of a winding at another temperature."""
    return float(ohms * copper_ohms_at(1.0, to_c) / copper_ohms_at(1.0, from_c))


@dataclass(frozen=True, slots=True)
class Winding:
    """A winding as it was read: its ohms at 20 °C, the amperes at which it pulls in (None where that was not read) and by how much its gap
    on the vehicle raises them."""

    ohms_20: float
    read_c: float
    pull_amps: float | None
    gap_ratio: float
    joint: float

    def volts_needed(self, celsius: float, gap_ratio: float | None = None) -> float | None:
        """Volts at the supply at which it pulls in when it is so hot."""
        if self.pull_amps is None:
            return None
        ratio = self.gap_ratio if gap_ratio is None else gap_ratio
        return self.pull_amps * ratio * (ohms_at(self.ohms_20, 20.0, celsius) + self.joint)

    def amps(self, volts: float, celsius: float) -> float:
        """What it draws."""
        return volts / (ohms_at(self.ohms_20, 20.0, celsius) + self.joint)


def _warm(read: Read) -> float:
    return ROOM_C if read.noted.celsius is None else read.noted.celsius


def winding_of(case: Case, ohms: str = "ohms", pull_in: str = "pull_in") -> Winding | None:
    """The winding by the last readings of a case; None where it has no ohms that are a number."""
    read, pulled = case.read(ohms), case.read(pull_in)
    if read is None or read.measured.over_range or case.net(read) <= 0.0:
        return None
    read_c = _warm(read)
    ohms_20 = ohms_at(case.net(read), read_c, 20.0)
    pull_amps = None
    if pulled is not None and not pulled.word:
        pulled_c = read_c if pulled.noted.celsius is None else pulled.noted.celsius
        pull_amps = pulled.value / ohms_at(ohms_20, 20.0, pulled_c)
    gap, gap_read = case.known("gap"), case.known("gap_read")
    ratio = gap / gap_read if gap and gap_read else 1.0
    return Winding(ohms_20, read_c, pull_amps, ratio, case.number("joint"))


def serve_of(case: Case, good_ohms: float | None, winding: Winding | None = None) -> Service:
    """What the winding does hot, at the least supply, through its joints."""
    own = winding or winding_of(case)
    hot, supply = case.number("hot"), case.number("supply")
    if own is None:
        return _open(case, supply)
    ohms = ohms_at(own.ohms_20, 20.0, hot)
    amps = own.amps(supply, hot)
    figures: Figures = {
        "at_c": hot, "supply_v": supply, "joint_ohms": own.joint, "ohms": ohms, "amps": amps, "watts": amps**2 * ohms,
        "pull_in_v": own.volts_needed(hot), "margin_v": None, "good_ohms": good_ohms, "turns_lost": None,
    }  # fmt: skip
    through = f" through joints of {show(own.joint, 'Ω')}" if own.joint else ""
    says = [f"At {hot:.4g} °C it has {show(ohms, 'Ω')} and draws {show(amps, 'A')} from {show(supply, 'V')}{through}."]
    if good_ohms and own.ohms_20 < good_ohms:
        figures["turns_lost"] = 1.0 - own.ohms_20 / good_ohms
    needed = own.volts_needed(hot)
    if needed is not None:
        margin = supply - needed
        figures["margin_v"] = margin
        spare = f"{margin:.2f} V to spare" if margin >= 0.0 else f"{-margin:.2f} V too few: it stays out"
        says.append(f"Hot it needs {show(needed, 'V')} to pull in, and {show(supply, 'V')} are there: {spare}.")
        says += _gap_words(case, own, hot, supply)
    return Service(figures, tuple(says))


def _open(case: Case, supply: float) -> Service:
    """What one that reads over range draws at the most."""
    read = case.read("ohms")
    if read is None or not read.measured.over_range:
        return Service()
    most = supply / read.measured.beyond if math.isfinite(read.measured.beyond) else 0.0
    says = f"With more than {show(read.measured.beyond, 'Ω')} it draws less than {show(most, 'A')}." if most else "Open, it draws nothing."
    return Service({"amps_at_most": most}, (says,))


def _gap_words(case: Case, own: Winding, hot: float, supply: float) -> list[str]:
    gap, shim = case.known("gap"), case.known("shim")
    if not gap or own.pull_amps is None:
        return []
    most = gap * supply / (own.volts_needed(hot) or 1.0)
    says = [f"At that supply it still pulls in hot over a gap of up to {show(most, 'mm')}; it has {show(gap, 'mm')}."]
    if shim and shim < gap:
        closer = own.volts_needed(hot, own.gap_ratio * (gap - shim) / gap) or 0.0
        says.append(f"With {show(shim, 'mm')} of shims out it needs {show(closer, 'V')}; keep what the maker asks for, or it drags.")
    return says


_STEPS = tuple(range(-20, 125, 5))


def chart_of(case: Case, good_ohms: float | None, winding: Winding | None = None) -> Chart | None:
    """The volts that it needs to pull in over its temperature, beside the supply; the amperes that it draws where pull-in was not read."""
    own = winding or winding_of(case)
    if own is None:
        return None
    hot, supply = case.number("hot"), case.number("supply")
    if own.pull_amps is None:
        lines = [Line("this one", tuple((float(t), own.amps(supply, t)) for t in _STEPS))]
        if good_ohms:
            good = Winding(good_ohms, 20.0, None, 1.0, own.joint)
            lines.append(Line("a good one", tuple((float(t), good.amps(supply, t)) for t in _STEPS), "good"))
        dots = (Dot(own.read_c, own.amps(supply, own.read_c)),)
        return Chart(f"On the vehicle: what it draws from {show(supply, 'V')}", ("winding", "°C"), ("current", "A"), tuple(lines), (), dots)
    lines = [Line("this one", _needed(own, own.gap_ratio))]
    if good_ohms:
        good = Winding(good_ohms, 20.0, own.pull_amps, own.gap_ratio, own.joint)
        lines.append(Line("a good one", _needed(good, own.gap_ratio), "good"))
    if own.gap_ratio > 1.0:
        lines = [Line("over its gap", _needed(own, own.gap_ratio), "suspect"), Line("over the gap read", _needed(own, 1.0)), *lines[1:]]
    needed = own.volts_needed(hot) or 0.0
    spare = f"{supply - needed:.1f} V to spare" if needed <= supply else f"{needed - supply:.1f} V too few"
    most = max(MOST_SUPPLY * supply / LEAST_SUPPLY, supply)
    dots = (Dot(own.read_c, own.volts_needed(own.read_c, 1.0) or 0.0),)
    return Chart(
        "On the vehicle: does it still pull in?", ("winding", "°C"), ("pull-in", "V"), tuple(lines), (Band("supply", supply, most),), dots,
        (hot, supply, needed, spare),
    )  # fmt: skip


def _needed(own: Winding, ratio: float) -> tuple[tuple[float, float], ...]:
    return tuple((float(t), own.volts_needed(float(t), ratio) or 0.0) for t in _STEPS)


def good_ohms_of(case: Case, check: str, usual: Limit | None) -> float | None:
    """What a good one has at 20 °C: as it was set, else the middle of the limit of ``check`` that weighs most, else of the usual one."""
    nominal = case.known("nominal")
    if nominal:
        return nominal
    for limit in (*case.limits.get(check, ()), *([usual] if usual else [])):
        if limit.unit == "Ω" and 0.0 < limit.least < limit.most < math.inf:
            at_c = limit.conditions.celsius
            return ohms_at((limit.least + limit.most) / 2.0, 20.0 if at_c is None else at_c, 20.0)
    return None
