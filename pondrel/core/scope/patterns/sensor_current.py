"""A two-wire active sensor: it draws one of two currents, and the module reads them as volts across its resistor."""

from __future__ import annotations

from ...base.quantity import show
from ...bench import cautions
from ...bench.families.hall import HIGH_AMPS, LOW_AMPS
from ...bench.family import Check, Family, Setting
from ...check import Limit
from ...wave.measure import Measured
from ..pattern import PRACTICE, Looked, Pattern, Verdicts, wrong

PLACE = 70
_LOW = Check(
    "low current", "its lower current", ("A",), beyond=("It is dead, or its lead is open.", "It leaks: water in the plug, or the sensor.")
)
_HIGH = Check("high current", "its higher current", ("A",), beyond=("It does not switch up: gap, wheel or sensor.", "Its lead is shorted."))
_RATIO = Check("ratio", "times the lower current that the higher one is", ("",), beyond=("Its levels lie too near: a leak beside it.", ""))


def _find(looked: Looked) -> Verdicts:
    own = looked.measures
    per = 1.0 if looked.channel.unit == "A" else 1.0 / looked.case.number("burden")
    if own.levels is None or own.base is None or own.top is None:
        amps = Measured(own.mean.value * per, own.mean.u * per)
        steady = looked.judge(
            _LOW, amps, Limit("A", *LOW_AMPS, source=f"{PRACTICE}: 7 mA"), f"It draws {show(amps.value, 'A')} all the time"
        )
        return [steady, wrong("switches", "no", "It does not switch in this capture.", then="Turn the wheel; look at gap and ring.")]
    low, high = (Measured(level.value * per, level.u * per) for level in (own.base, own.top))
    found = [
        looked.judge(_LOW, low, Limit("A", *LOW_AMPS, source=f"{PRACTICE}: 7 mA"), f"Its lower current is {show(low.value, 'A')}"),
        looked.judge(_HIGH, high, Limit("A", *HIGH_AMPS, source=f"{PRACTICE}: 14 mA"), f"Its higher current is {show(high.value, 'A')}"),
    ]
    if low.value > 0.0:
        ratio = Measured(high.value / low.value, high.value / low.value * (low.u / low.value + high.u / high.value))
        found.append(looked.judge(_RATIO, ratio, Limit("", 1.6, source=PRACTICE), f"The higher one is {ratio.value:.2f} times the lower"))
    if own.gaps.missing:
        found.append(
            wrong(
                "missing",
                float(own.gaps.missing),
                f"{own.gaps.missing} pulses are missing.",
                then="Look at the ring for rust, cracks and dirt; flex the lead while it is watched.",
            )
        )
    return found


PATTERN = Pattern(
    Family(
        "sensor_current",
        "Two-wire active sensor",
        "wheel speed 7 14 ma current levels",
        "low current",
        (),
        (cautions.NO_BACKFEED, "An active sensor is never read with an ohmmeter: its current can kill it."),
        (Setting("burden", "the module's resistor, where volts across it were taken", "Ω", usual=115.0),),
        derived=(_LOW, _HIGH, _RATIO),
        group="Sensors",
    ),
    "In amperes with a small clamp on one wire, or in volts across the module's resistor; turn the wheel.",
    _find,
    unit="",
)
