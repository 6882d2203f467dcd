"""What an alternator's rectifier leaves on the battery: its ripple's size, and whether a pulse of its six is missing."""

from __future__ import annotations

from ...base.quantity import show
from ...bench import cautions
from ...bench.common import RIPPLE_MOST
from ...bench.family import Check, Family, Setting
from ...bench.judged import Service
from ...check import Limit
from ...power.capture import ripple_of
from ...wave.measure import Measured
from ..pattern import PRACTICE, Looked, Pattern, Verdicts, fine, unseen, wrong

PLACE = 90
_SIZE = Check(
    "ripple",
    "its ripple, peak to peak",
    ("V",),
    beyond=("", "A diode is open or shorted, or the battery does not take it up."),
    then="Test the diodes, or renew the rectifier.",
)


def _find(looked: Looked) -> Verdicts:
    own = ripple_of(looked.capture, looked.channel)
    if own is None:
        return [
            unseen(
                "ripple",
                "not seen",
                "No ripple of an alternator is to be seen in this capture.",
                then="Let the engine run with lamps on, and take 2000 samples a second at the least.",
            )
        ]
    found = []
    if looked.channel.scaled:
        told = f"Ripple {show(own.peak_to_peak, 'V')} at {own.hertz:.0f} Hz"
        size = Measured(own.peak_to_peak, 0.02 * own.peak_to_peak)
        found.append(looked.judge(_SIZE, size, Limit("V", most=RIPPLE_MOST, source=PRACTICE), told))
    if own.missing:
        because = f"In each turn there are {own.humps} pulses and a gap, where six even ones belong: pulses of a diode are missing."
        found.append(wrong("pulses", "missing", because, then=_SIZE.then))
    else:
        found.append(fine("pulses", "even", "Its pulses are even: no diode is missing."))
    return found


def _serve(looked: Looked, found: Verdicts) -> Service:
    own = ripple_of(looked.capture, looked.channel)
    if own is None:
        return Service()
    rpm = 60.0 * own.turns_hz / looked.case.number("pole_pairs")
    return Service({"ripple_hz": own.hertz, "alternator_rpm": rpm}, (f"By its ripple the alternator turns about {rpm:.0f} r/min.",))


PATTERN = Pattern(
    Family(
        "alternator_ripple",
        "Alternator ripple",
        "diode rectifier charging noise",
        "ripple",
        (),
        (cautions.LEFT_ON,),
        (Setting("pole_pairs", "pole pairs of the alternator", usual=6.0),),
        derived=(_SIZE,),
        group="Starting and charging",
    ),
    "Clip on the alternator's output stud and its case, AC coupled or not; engine running, lamps on.",
    _find,
    serve=_serve,
)
