"""Draw at rest: amperes by a clamp or by millivolts across fuses, asleep or awake and since when, what wakes it, days to no start."""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass, replace

import numpy as np

from ...base.fuse_ohms import BY_MILLIVOLTS, FUSE_TYPES, cold_ohms, fuse_called
from ...base.judgement import OWN_RULE, judged
from ...base.quantity import show
from ...bench.case import Case, Read
from ...bench.decide import by_number, by_reading
from ...bench.family import Check, Column, Family, Setting
from ...bench.judged import Band, Chart, Dot, Figures, FuseBox, FuseSeen, Judged, Line, Service
from ...check import Limit, Verdict
from .. import cautions
from ..common import PRACTICE, SYSTEM, check_in, current, not_comparable

PLACE = 40

DRAW_MOST = judged("DRAW_MOST", 0.05, "A", "what a vehicle that sleeps draws at the most")
ASLEEP_MINUTES = judged("ASLEEP_MINUTES", 60.0, "min", "after locking within which modules may still be going to sleep")
AWAKE_TIMES = judged("AWAKE_TIMES", 2.5, "times", "the draw asleep from which on a vehicle counts as awake", OWN_RULE)
AWAKE_ABOVE = judged("AWAKE_ABOVE_A", 0.1, "A", "above the draw asleep from which on a vehicle counts as awake", OWN_RULE)
AWAKE_FROM = judged("AWAKE_FROM_A", 0.5, "A", "a draw from which on a vehicle is awake, however steady it is")
NO_START_PERCENT = judged("NO_START_PERCENT", 50.0, "%", "of its charge at which a battery no longer starts an engine for sure")

CHECKS = (
    Check(
        "amps",
        "draw by clamp or meter in line",
        ("A",),
        aside=True,
        beyond=("", "Something does not sleep."),
        then="Read the millivolts across each fuse: the one that carries it leads to the circuit. Pull none: a pulled fuse wakes modules.",
    ),
    Check("mv", "millivolts across the fuse that is set", ("mV",), aside=True),
    Check("minutes", "minutes since it was locked", ("min",), aside=True),
    Check(
        "open",
        "doors, bonnet, glove box and key",
        words=("all shut, key away", "something open"),
        good=lambda case: "all shut, key away",
        bad="Latch every lock by hand, take the key away, and wait again.",
    ),
)
_CIRCUIT = Check(
    "circuit", "", ("A",), beyond=("", "This one does not sleep."), then="Find what hangs on it: unplug one consumer after the other."
)
_REST = Check(
    "unaccounted",
    "what no fuse that was read carries",
    ("A",),
    beyond=("", "Something draws past these fuses."),
    then="Look at what is not fused there: alternator and starter cable, a second box, a trailer or radio wired to the post.",
)


@dataclass(frozen=True, slots=True)
class Carried:
    """What one circuit carries by its fuse's millivolts: its name, the fuse's type and rating, amperes, and a standard deviation of
    them."""

    name: str
    fuse: tuple[str, float]
    amps: float
    u: float


@dataclass(frozen=True, slots=True)
class Night:
    """A vehicle's draw over time: amperes asleep (None where it never slept), since when (minutes), how often it woke after that, every how
    many minutes (None where once or never), and the mean of the whole."""

    asleep: float | None
    since: float | None
    wakes: int
    every: float | None
    mean: float


def carried(case: Case) -> list[Carried]:
    """What the circuits carry whose fuses were read, the largest first."""
    return sorted(_in_order(case), key=lambda one: -one.amps)


def _in_order(case: Case) -> list[Carried]:
    """What the circuits carry, in the order in which their fuses were read."""
    return [_carried(row["fuse"].typed, row.get("circuit"), row["mv"], case) for row in case.rows if "fuse" in row and "mv" in row]


def _carried(fuse: str, circuit: Read | None, millivolts: Read, case: Case) -> Carried:
    own = fuse_called(fuse)
    ohms = cold_ohms(*own)
    amps = abs(millivolts.value) / 1e3 / ohms
    return Carried(circuit.typed if circuit and circuit.typed else fuse, own, amps, _doubt(amps, case.u(millivolts) / 1e3 / ohms))


def _doubt(amps: float, by_meter: float) -> float:
    """One standard deviation: the fuse's ohms within a fifth (rectangular), and the meter's millivolts."""
    return math.hypot(BY_MILLIVOLTS * amps / math.sqrt(3.0), by_meter)


def night(points: Sequence[tuple[float, float]]) -> Night:
    """What draw over time tells, points of (minutes, amperes)."""
    minutes, amps = (np.array(column, dtype=float) for column in zip(*sorted(points), strict=True))
    asleep = float(np.percentile(amps, 20))
    awake = amps > max(AWAKE_TIMES * asleep, asleep + AWAKE_ABOVE)
    mean = float(np.trapezoid(amps, minutes) / np.ptp(minutes)) if np.ptp(minutes) > 0.0 else float(amps.mean())
    if asleep > AWAKE_FROM or (awake[-1] and awake.sum() > len(awake) / 2):
        return Night(None, None, 0, None, mean)
    first = int(np.argmin(awake))  # the first that sleeps
    rising = [place for place in range(first + 1, len(awake)) if awake[place] and not awake[place - 1]]
    at = minutes[rising]
    every = float(np.median(np.diff(at))) if len(at) > 1 else None
    return Night(asleep, float(minutes[first]), len(rising), every, mean)


def _points(case: Case) -> list[tuple[float, float]]:
    return [(row["minutes"].value, abs(row["amps"].value)) for row in case.rows if "minutes" in row and "amps" in row]


def _minutes(case: Case, read: Read) -> float | None:
    return read.noted.minutes if read.noted.minutes is not None else case.value("minutes")


def _limit(case: Case) -> Limit:
    return case.given("amps") or Limit("A", most=DRAW_MOST, source=f"{PRACTICE}: asleep, up to an hour after locking")


def _asleep(found: Judged, minutes: float | None) -> Judged:
    if minutes is None:
        return not_comparable(
            found, "How long ago it was locked is not noted.", "Note the minutes since locking beside it, as in 0.035@60min."
        )
    if found.verdict is Verdict.OUTSIDE and minutes < ASLEEP_MINUTES:
        return not_comparable(
            found, f"It was locked {minutes:.0f} min ago, and modules may take {ASLEEP_MINUTES:.0f} min to fall asleep.",
            f"Read it again {ASLEEP_MINUTES - minutes:.0f} min from then, and wake nothing meanwhile.",
        )  # fmt: skip
    return replace(found, because=f"{found.because} {minutes:.0f} min after locking.")


def _by_fuse(case: Case, read: Read) -> Judged:
    own = case.word("fuse")
    told = f"{read.value:g} mV across it"
    if not own:
        return Judged("mv", Verdict.NOT_COMPARABLE, read.value, "mV", f"{told}: which fuse it is was not said.", case.u(read),
                      then="Set its type and rating, as in fuse=mini:10.")  # fmt: skip
    one = _carried(own, None, read, case)
    found = by_number(case, check_in(CHECKS, "amps"), one.amps, one.u, _limit(case), f"{told} ({own}) are {show(one.amps, 'A')}, ± 20 %")
    return _asleep(replace(found, check="mv"), _minutes(case, read))


def _derive(case: Case) -> Sequence[Judged]:
    own, clamp, check = carried(case), current(case, "amps"), check_in(CHECKS, "amps")
    if own:
        check = replace(check, then="")  # it says to read the fuses
    found = [_asleep(by_reading(case, check, clamp, _limit(case)), _minutes(case, clamp))] if clamp else []
    found += [_by_fuse(case, read) for read in case.reads.get("mv", ())[-1:]]
    found += [_by_circuit(case, one) for one in own]
    if own and clamp is not None:
        total, u = sum(one.amps for one in own), math.hypot(*(one.u for one in own))
        rest = clamp.value - total
        told = f"The fuses carry {show(total, 'A')} together, the clamp has {show(clamp.value, 'A')}: {show(rest, 'A')} unaccounted for"
        found.append(by_number(case, _REST, rest, math.hypot(u, case.u(clamp)), Limit("A", most=DRAW_MOST, source=PRACTICE), told))
    points = _points(case)
    if len(points) > 1:
        found.append(_over_time(case, points))
    return found


def _by_circuit(case: Case, one: Carried) -> Judged:
    told = f"{one.name}: {show(one.amps, 'A')}, ± 20 %"
    return replace(by_number(case, _CIRCUIT, one.amps, one.u, _limit(case), told), check=f"circuit {one.name}")


def _fuse_box(case: Case, findings: Sequence[Judged]) -> FuseBox | None:
    fuses = tuple(FuseSeen(one.name, *one.fuse, one.amps, one.u, _by_circuit(case, one).verdict) for one in _in_order(case))
    rest = next((found.verdict for found in findings if found.check == _REST.name), None)
    clamp = current(case, "amps")
    return FuseBox(fuses, clamp.value if clamp else None, rest) if fuses else None


def _over_time(case: Case, points: Sequence[tuple[float, float]]) -> Judged:
    own, last = night(points), max(minutes for minutes, _ in points)
    if own.asleep is None:
        verdict = Verdict.OUTSIDE if last >= ASLEEP_MINUTES else Verdict.NOT_COMPARABLE
        return Judged(
            "sleep",
            verdict,
            "awake",
            "",
            f"After {last:.0f} min it is still awake, {show(own.mean, 'A')} on average.",
            then="Read across the fuses now, while it is awake." if verdict is Verdict.OUTSIDE else "Go on watching.",
        )
    says = f"Asleep since {own.since:.0f} min at {show(own.asleep, 'A')}"
    if own.wakes:
        often = f", about every {own.every:.0f} min" if own.every else ""
        return Judged(
            "sleep",
            Verdict.OUTSIDE,
            "wakes",
            "",
            f"{says}, but it woke {own.wakes} times{often}: {show(own.mean, 'A')} on average.",
            then="See which fuse carries it in the moment in which it wakes, and ask the bus who speaks first.",
        )
    return by_number(case, Check("sleep", "", ("A",)), own.asleep, 0.0, _limit(case), says)


def _serve(case: Case, findings: Sequence[Judged]) -> Service:
    amps = _drawn(case)
    own = carried(case)
    figures: Figures = {"draw_a": amps, "days_to_no_start": None, "largest_circuit": own[0].name if own else None}
    says = []
    capacity = case.known("capacity")
    if amps and capacity:
        usable = capacity * max(case.number("charge") - NO_START_PERCENT, 0.0) / 100.0
        days = usable / amps / 24.0
        figures["days_to_no_start"] = days
        says.append(f"{show(amps, 'A')} take {usable:.0f} Ah in {days:.1f} days: then it may no longer start.")
    elif amps:
        figures["ah_a_day"] = round(amps * 24.0, 3)
        says.append(f"That is {amps * 24.0:.1f} Ah a day.")
    if own:
        shares = [f"{one.name} {show(one.amps, 'A')}" for one in own[:3]]
        says.append(f"Most goes through {', then '.join(shares)}.")
    return Service(figures, tuple(says))


def _drawn(case: Case) -> float | None:
    """Amperes that it draws by whatever was read."""
    points, clamp, fuse = _points(case), current(case, "amps"), case.value("mv")
    if len(points) > 1:
        return night(points).mean
    if clamp is not None:
        return clamp.value
    if fuse is not None and case.word("fuse"):
        return abs(fuse) / 1e3 / cold_ohms(*fuse_called(case.word("fuse")))
    return sum(one.amps for one in carried(case)) or None


def _needed(case: Case) -> Sequence[str]:
    return () if case.rows or "amps" in case.reads or "mv" in case.reads else ("amps",)


def _chart(case: Case, findings: Sequence[Judged]) -> Chart | None:
    points = sorted(_points(case))
    if len(points) < 2:
        return None
    return Chart("Draw after locking", ("minutes since locking", "min"), ("draw", "A"), (Line("read", tuple(points)),),
                 (Band("asleep", 0.0, _limit(case).most),), tuple(Dot(*point) for point in points[:200]))  # fmt: skip


FAMILY = Family(
    "draw",
    "Draw at rest",
    "parasitic key-off draw drain flat overnight sleep fuse millivolt clamp",
    "amps",
    CHECKS,
    (cautions.DO_NOT_WAKE, "Put a meter in line by a jumper that is opened last, or a wake-up blows its fuse.", cautions.UNFUSED),
    (
        SYSTEM,
        Setting("fuse", f"type and rating of the fuse: {', '.join(FUSE_TYPES)}, as in mini:10", usual=""),
        Setting("capacity", "capacity of the battery in ampere-hours", ""),
        Setting("charge", "its charge to begin with", "%", usual=90.0, zero=True),
    ),
    (
        Column("circuit", "what the fuse is for", free=True, optional=True),
        Column("fuse", "type and rating, as mini:10", free=True, optional=True),
        Column("mv", "millivolts across it", "mV", optional=True),
        Column("minutes", "since locking", "min", optional=True),
        Column("amps", "draw then", "A", optional=True),
    ),
    (_CIRCUIT, _REST),
    needed=_needed,
    derive=_derive,
    serve=_serve,
    chart=_chart,
    fuse_box=_fuse_box,
    table="Fuse by fuse",
    compared=False,
    group="Starting and charging",
)
