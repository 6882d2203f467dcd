"""A ground that moves: volts between a part's ground pin and battery minus while loads switch."""

from __future__ import annotations

from ...base.judgement import judged
from ...base.quantity import show
from ...bench.family import Check, Family, Setting
from ...bench.judged import Service
from ...check import Limit
from ...wave.measure import Measured
from ..pattern import PRACTICE, Looked, Pattern, Verdicts

PLACE = 110
MODULE_MOST = judged("GROUND_MODULE", 0.1, "V", "that a module's ground may lie above battery minus", PRACTICE)
HEAVY_MOST = judged("GROUND_HEAVY", 0.3, "V", "that a heavy load's ground may lie above battery minus", PRACTICE)
BOUNCE_TIMES = judged("GROUND_BOUNCE", 3.0, "times", "its limit that a ground may reach for an instant", PRACTICE)
SHORT_SHARE = 0.002  # of the time at either end that is an instant
_MEAN = Check(
    "ground",
    "how far the ground lies off, in the middle",
    ("V",),
    beyond=("", "Its ground is poor."),
    then="Clean and tighten its ground; read the drop of each joint on the way to the battery.",
)
_PEAK = Check(
    "bounce",
    "how far it goes for an instant",
    ("V",),
    beyond=("", "It bounces when something switches: a shared or poor ground."),
    then="See what switches then, and where both grounds meet.",
)


def _find(looked: Looked) -> Verdicts:
    own = looked.measures
    most = HEAVY_MOST if looked.case.word("load") == "heavy" else MODULE_MOST
    middle = Measured(abs(own.scan.share_below(0.5)), own.mean.u)
    peak = max(abs(own.scan.share_below(1.0 - SHORT_SHARE)), abs(own.scan.share_below(SHORT_SHARE)))
    return [
        looked.judge(_MEAN, middle, Limit("V", most=most, source=PRACTICE), f"Its ground lies {show(middle.value, 'V')} off"),
        looked.judge(
            _PEAK,
            Measured(peak, own.scan.level_u),
            Limit("V", most=BOUNCE_TIMES * most, source=PRACTICE),
            f"For an instant it goes to {show(peak, 'V')}",
        ),
    ]


def _serve(looked: Looked, found: Verdicts) -> Service:
    own = looked.measures
    rate = own.frequency
    says = (f"It moves {rate.value:.3g} times a second: look for what switches so often.",) if rate is not None else ()
    return Service({"mean_v": own.scan.mean, "peak_v": max(abs(own.scan.least), abs(own.scan.most))}, says)


PATTERN = Pattern(
    Family(
        "ground_bounce",
        "Ground that moves",
        "earth offset noise module ground drop",
        "ground",
        (),
        (),
        (Setting("load", "what hangs on that ground", words=("module", "heavy"), usual="module"),),
        derived=(_MEAN, _PEAK),
        group="Wiring",
    ),
    "Clip on the part's ground pin, the black lead on battery minus; switch loads on and off.",
    _find,
    serve=_serve,
)
