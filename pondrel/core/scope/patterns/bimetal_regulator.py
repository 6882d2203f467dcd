"""An instrument regulator of bimetal: on and off some times a second or slower, judged as its gauges feel it.

A magnetic gauge follows the mean, a heated one the effective value; both are taken over whole pulses, since half a pulse more would move
them.
"""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from ...base.judgement import judged
from ...base.quantity import show
from ...bench import cautions
from ...bench.families.regulator import FEEDS_WITHIN, STEADY_WITHIN
from ...bench.family import Check, Family, Setting
from ...bench.judged import Judged, Service
from ...check import Limit
from ...wave.edges import without_short
from ...wave.measure import Measured
from ..pattern import PRACTICE, Looked, Pattern, Verdicts, wrong

PLACE = 10
ON_SHARE = judged("REGULATOR_ON_LEVEL", 1.5, "V", "by which an instrument regulator's on level may lie below the supply", PRACTICE)
OFF_MOST = judged("REGULATOR_OFF_LEVEL", 0.5, "V", "that an instrument regulator leaves when it is off, at the most", PRACTICE)
SHORT_PULSE = judged(
    "REGULATOR_BURNT", 0.1, "share", "of its usual pulse under which one of a bimetal regulator is a burnt contact's", PRACTICE
)
NEAR_SUPPLY = 0.75  # of a 12 V supply: steadily there it is stuck on
TWELVE = 12.6

_HIGH_GAUGES = "The gauges read high."
_FEELS = Check(
    "average",
    "what its gauges feel",
    ("V",),
    beyond=("The gauges read low.", _HIGH_GAUGES),
    then="Read the drop from its case to the battery while it is on before it is renewed.",
)
_STEADY = Check("steadiness", "how far its pulses' averages are apart", ("%",), beyond=("", "It does not hold: contacts or ground."))
_OFF = Check("off level", "what is left when it is off", ("V",), beyond=("", "Its contacts do not open clean, or another feed leaks in."))
_ON = Check("on level", "what it passes when it is on", ("V",), beyond=("It loses volts before or in its contacts.", ""))


@dataclass(frozen=True, slots=True)
class Pulses:
    """Its pulses without what its contacts chatter: average and effective value over whole ones, seconds from one to the next, the share of
    time on, averages of all (V), and how often it chattered."""

    mean: Measured
    rms: Measured
    period: float
    duty: float
    means: NDArray[np.float64]
    chatters: int


def pulses_of(looked: Looked) -> Pulses | None:
    """The pulses of a regulator; None where it makes fewer than two."""
    own = looked.measures
    if own.levels is None or len(own.edges.at) < 3:
        return None
    usual = float(np.percentile(np.diff(own.edges.at), 75))
    edges, chatters = without_short(own.edges, SHORT_PULSE * usual)
    rises = np.round(edges.rises).astype(int)
    if len(rises) < 2:
        return None
    values = looked.channel.values(int(rises[0]), int(rises[-1]))
    u = own.mean.u
    cuts = rises[:-1] - rises[0]
    means = np.add.reduceat(values, cuts) / np.diff(rises)
    mean, rms = Measured(float(values.mean()), u), Measured(float(np.sqrt((values * values).mean())), u)
    duty = float((values > own.levels.middle).mean())
    return Pulses(mean, rms, float(np.diff(edges.rises).mean()) * own.step, duty, means, chatters)


def _heated(looked: Looked) -> bool:
    return looked.case.word("gauge") == "heated"


def _felt(looked: Looked) -> Measured:
    pulses = pulses_of(looked)
    if pulses is None:
        return looked.measures.rms if _heated(looked) else looked.measures.mean
    return pulses.rms if _heated(looked) else pulses.mean


def _limit(looked: Looked) -> Limit:
    nominal = looked.case.number("volts")
    part = nominal * FEEDS_WITHIN / 100.0
    return Limit("V", nominal - part, nominal + part, f"{PRACTICE}: {nominal:g} V ± {FEEDS_WITHIN:.0f} %")


def _find(looked: Looked) -> Verdicts:
    own, felt = looked.measures, _felt(looked)
    supply = looked.case.known("supply")
    nominal = looked.case.number("volts")
    kind = "effective value" if _heated(looked) else "average"
    found = [looked.judge(_FEELS, felt, _limit(looked), f"The gauges get {show(felt.value, 'V')} as {kind}")]
    pulses = pulses_of(looked)
    if pulses is None:
        stuck = _stuck(looked, supply or TWELVE, nominal)
        return [stuck, *found] if stuck is not None else found
    if len(pulses.means) > 2:
        middle = float(pulses.means.mean())
        apart = Measured(
            100.0 * float(np.ptp(pulses.means)) / middle, 100.0 * (own.mean.u + own.step / pulses.period * own.scan.span) / middle
        )
        told = f"Averages of its pulses lie {apart.value:.2g} % apart"
        found.append(looked.judge(_STEADY, apart, Limit("%", most=STEADY_WITHIN, source=PRACTICE), told))
    base, top = own.base, own.top
    assert base is not None and top is not None
    found.append(looked.judge(_OFF, base, Limit("V", most=OFF_MOST, source=PRACTICE), f"Off it leaves {show(base.value, 'V')}"))
    if supply is not None:
        told = f"On it passes {show(top.value, 'V')} of {show(supply, 'V')}"
        found.append(looked.judge(_ON, top, Limit("V", supply - ON_SHARE, source=PRACTICE), told))
    if pulses.chatters:
        because = f"Its contacts chatter: {pulses.chatters} times they let go for an instant within {len(pulses.means)} pulses."
        found.append(wrong("contacts", "burnt", because, then="Burnt contacts come and go: renew it."))
    return found


def _stuck(looked: Looked, supply: float, nominal: float) -> Judged | None:
    mean = looked.measures.mean.value
    if mean > max(NEAR_SUPPLY * supply, 1.3 * nominal):
        return wrong(
            "stuck",
            "on",
            "It never goes off: the gauges get the whole supply, read high and burn.",
            then="Pull its feed before the gauges burn. Read its case to battery minus, then renew it.",
        )
    if mean < 0.1 * nominal:
        return wrong("stuck", "off", "It never goes on: no gauge on it moves.", then="Read its feed and its ground before it is renewed.")
    return None


def _serve(looked: Looked, found: Verdicts) -> Service:
    own, pulses, felt, nominal = looked.measures, pulses_of(looked), _felt(looked).value, looked.case.number("volts")
    share = (felt / nominal) ** 2 if _heated(looked) else felt / nominal
    figures: dict[str, float | str | bool | None] = {
        "mean_v": pulses.mean.value if pulses else own.mean.value,
        "rms_v": pulses.rms.value if pulses else own.rms.value,
        "gauge_share": share,
        "duty": pulses.duty if pulses else None,
        "period_s": pulses.period if pulses else None,
    }
    sort = "Heated" if _heated(looked) else "Magnetic"
    return Service(figures, (f"{sort} gauges get {100.0 * share:.0f} % of what they should have.",))


def _advise(looked: Looked, found: Verdicts) -> list[str]:
    if pulses_of(looked) is None and all(one.check != "stuck" for one in found):
        return ["It does not pulse here: a bimetal one pulses only while a gauge loads it; a solid one never does."]
    return []


PATTERN = Pattern(
    Family(
        "bimetal_regulator",
        "Instrument regulator that pulses",
        "gauge supply bimetal voltage stabiliser 5 v 10 v",
        "average",
        (),
        (cautions.FUSED,),
        (
            Setting("gauge", "what its gauges are", words=("magnetic", "heated"), usual="magnetic"),
            Setting("volts", "what it should give", "V", usual=5.0),
            Setting("supply", "the volts that feed it", "V"),
        ),
        derived=(_FEELS, _STEADY, _OFF, _ON),
        group="Gauges",
    ),
    "Clip on its output to the gauges, the black lead on battery minus, a gauge connected; ten seconds or more.",
    _find,
    serve=_serve,
    advise=_advise,
)
