"""Pressure transducers by themselves: volts against pressure on a straight line between two points."""

from __future__ import annotations

from collections.abc import Sequence

from ...base.errors import ReadingError
from ...base.judgement import judged
from ...base.quantity import show
from ...check import Limit, Verdict
from .. import cautions
from ..case import Case, Read
from ..decide import by_number, by_reading
from ..family import Check, Column, Family, Setting
from ..judged import Chart, Dot, Judged, Line, Service

PLACE = 120

PRESSURE_WITHIN = judged("PRESSURE_WITHIN", 3.0, "%", "of its span by which a pressure sensor may be off")
_LINE = Check("line", "how far it is from its line", ("kPa",))


def _check(case: Case) -> None:
    """Raises ReadingError where the two points of its line are one."""
    if case.number("low_v") == case.number("high_v") or case.number("low_kpa") == case.number("high_kpa"):
        raise ReadingError("Its two points are one: volts and pressure of the lower and of the upper point must differ.")


def _scale(case: Case) -> float:
    """By how much the supply differs from the one that the line is given for: such sensors follow it."""
    return case.number("supply") / 5.0 if case.word("follows") == "yes" else 1.0


def volts_at(case: Case, kpa: float) -> float:
    """What it should give at a pressure."""
    low, high = case.number("low_v"), case.number("high_v")
    share = (kpa - case.number("low_kpa")) / (case.number("high_kpa") - case.number("low_kpa"))
    return _scale(case) * (low + share * (high - low))


def kpa_of(case: Case, volts: float) -> float:
    """The pressure that some volts stand for."""
    low, high = case.number("low_v"), case.number("high_v")
    share = (volts / _scale(case) - low) / ((high - low) or 1.0)
    return case.number("low_kpa") + share * (case.number("high_kpa") - case.number("low_kpa"))


def _one(case: Case, kpa: float, read: Read) -> Judged:
    found = kpa_of(case, read.value)
    span = abs(case.number("high_kpa") - case.number("low_kpa"))
    per_volt = span / abs(case.number("high_v") - case.number("low_v")) / _scale(case)
    part = PRESSURE_WITHIN / 100.0 * span
    limit = case.given("line") or Limit("kPa", -part, part, f"common practice, no source: ± {PRESSURE_WITHIN:g} % of its span")
    told = f"{show(read.value, 'V')} at {show(kpa, 'kPa')} stands for {show(found, 'kPa')}, {found - kpa:+.3g} kPa off"
    return by_number(case, _LINE, found - kpa, case.u(read) * per_volt, limit, told)


def _derive(case: Case) -> Sequence[Judged]:
    _check(case)
    found = [_one(case, row["kpa"].value, row["volts"]) for row in case.rows]
    for read in case.reads.get("volts", ()):
        if read.noted.kilopascals is not None and not case.limits.get("volts"):
            found.append(_one(case, read.noted.kilopascals, read))
        else:
            found.append(_plain(case, read))
    return found


def _plain(case: Case, read: Read) -> Judged:
    check = FAMILY.check("volts")
    assert check is not None
    if case.given("volts"):
        return by_reading(case, check, read, case.given("volts"))
    return Judged(
        "volts",
        Verdict.NOT_COMPARABLE,
        read.value,
        "V",
        f"{show(read.value, 'V')} stands for {show(kpa_of(case, read.value), 'kPa')}; the true pressure is not noted.",
        case.u(read),
        then="Read a gauge beside it and note it, as in 2.1V @120kPa; engine off, it is the air's, about 100 kPa.",
    )


def _serve(case: Case, findings: Sequence[Judged]) -> Service:
    volts = case.value("volts")
    if volts is None:
        return Service()
    found = kpa_of(case, volts)
    return Service({"believed_kpa": found}, (f"The module takes {show(volts, 'V')} for {show(found, 'kPa')}.",))


def _chart(case: Case, findings: Sequence[Judged]) -> Chart | None:
    low, high = case.number("low_kpa"), case.number("high_kpa")
    line = Line("as it should be", ((low, volts_at(case, low)), (high, volts_at(case, high))), "good")
    dots = [Dot(row["kpa"].value, row["volts"].value) for row in case.rows[:200]]
    dots += [Dot(read.noted.kilopascals, read.value) for read in case.reads.get("volts", ()) if read.noted.kilopascals is not None]
    return Chart("Volts against pressure", ("pressure", "kPa"), ("signal", "V"), (line,), (), tuple(dots))


FAMILY = Family(
    "pressure-sensor",
    "Pressure sensor",
    "pressure transducer map oil rail fuel boost refrigerant sensor",
    "volts",
    (
        Check("volts", "its signal, with the pressure", ("V",), aside=True),
        Check(
            "supply_read",
            "the volts that feed it",
            ("V",),
            limit=lambda case: Limit("V", 4.9, 5.1, "common practice, no source: reference ± 2 %"),
            beyond=("Something pulls the reference down: unplug the other sensors on it one by one.", "The reference runs too high."),
        ),
    ),
    (cautions.NO_BACKFEED, cautions.PRESSURE),
    (
        Setting("low_v", "volts at the lower point", "V", usual=0.5, zero=True),
        Setting("low_kpa", "pressure at the lower point", "kPa", usual=0.0),
        Setting("high_v", "volts at the upper point", "V", usual=4.5),
        Setting("high_kpa", "pressure at the upper point", "kPa", usual=1000.0),
        Setting("supply", "the reference meanwhile", "V", usual=5.0),
        Setting("follows", "it follows its supply", words=("yes", "no"), usual="yes"),
    ),
    (Column("kpa", "true pressure", "kPa"), Column("volts", "its signal", "V")),
    (_LINE,),
    derive=_derive,
    serve=_serve,
    chart=_chart,
    kinds=("pressure_sensor",),
    group="Sensors",
)
