"""A Hall sensor: two levels, one pulse a tooth, none missing."""

from __future__ import annotations

from ...base.quantity import show
from ...bench import cautions
from ...bench.families.hall import HALL_HIGH_SHARE, HALL_LOW_MOST
from ...bench.family import Check, Family, Setting
from ...bench.judged import Service
from ...check import Limit
from ...wave.measure import Measured
from ..pattern import PRACTICE, Looked, Pattern, Verdicts, wrong

PLACE = 60
_LOW = Check("low", "its output when low", ("V",), beyond=("", "It does not pull down: its ground, or the sensor."))
_HIGH = Check("high", "its output when high", ("V",), beyond=("It does not let go, or its pull-up is weak.", ""))
_DUTY = Check("share of time high", "share of time that it is high, turning evenly", ("%",))


def _find(looked: Looked) -> Verdicts:
    own, case = looked.measures, looked.case
    if own.levels is None or not len(own.edges.at):
        stands = "high" if own.mean.value > 0.5 * case.number("pulled_to") else "low"
        return [
            wrong(
                "switches",
                stands,
                f"It stands {stands} all the time and does not switch.",
                then="Turn the wheel; read supply and ground at its plug, and whether its output is pulled up.",
            )
        ]
    assert own.base is not None and own.top is not None
    pulled = case.number("pulled_to")
    found = [
        looked.judge(_LOW, own.base, Limit("V", most=HALL_LOW_MOST, source=PRACTICE), f"Low it is at {show(own.base.value, 'V')}"),
        looked.judge(
            _HIGH,
            own.top,
            Limit("V", HALL_HIGH_SHARE * pulled, source=f"{PRACTICE}: of {show(pulled, 'V')}"),
            f"High it is at {show(own.top.value, 'V')}",
        ),
    ]
    duty = own.duty
    if duty is not None:
        share = Measured(100.0 * duty.value, 100.0 * duty.u)
        found.append(looked.judge(_DUTY, share, Limit("%", 20.0, 80.0, PRACTICE), f"It is high {share.value:.3g} % of the time"))
    if own.gaps.missing:
        begin, _ = own.dropouts[0]
        found.append(
            wrong(
                "missing",
                float(own.gaps.missing),
                f"{own.gaps.missing} pulses are missing, first at {begin:.4g} s.",
                then="Flex its plug and lead while it is watched; look at the wheel.",
            )
        )
    return found


def _serve(looked: Looked, found: Verdicts) -> Service:
    own = looked.measures
    figures: dict[str, float | str | bool | None] = {"frequency_hz": own.frequency.value if own.frequency else None}
    if own.gaps.every:
        return Service(figures, (f"After {own.gaps.every} pulses {own.gaps.left_out} are left out each time: a mark of the wheel.",))
    return Service(figures)


PATTERN = Pattern(
    Family(
        "hall",
        "Hall sensor",
        "cam crank speed square wave",
        "low",
        (),
        (cautions.NO_BACKFEED,),
        (Setting("pulled_to", "what pulls its output up", "V", usual=5.0),),
        derived=(_LOW, _HIGH, _DUTY),
        group="Sensors",
    ),
    "Clip on its signal wire with the plug connected, the black lead on its own ground; turn the wheel.",
    _find,
    serve=_serve,
)
