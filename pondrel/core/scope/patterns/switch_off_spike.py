"""What a coil does when it is switched off: how far it kicks, and what holds that down.

The current of a coil goes on when its switch opens; what clamps it shows as a flat shoulder: a diode within a volt of the supply, a
resistor some tens of volts, a module's own output at what its protection stands.
"""

from __future__ import annotations

import numpy as np

from ...base.judgement import OWN_RULE, judged
from ...base.quantity import show
from ...bench import cautions
from ...bench.family import Check, Family, Setting
from ...bench.judged import Judged, Service
from ...check import Limit, Verdict
from ...wave.edges import changes_at
from ...wave.measure import Measured
from ..pattern import PRACTICE, Looked, Pattern, Verdicts, unseen

PLACE = 40
DIODE_MOST = judged("SPIKE_DIODE", 2.0, "V", "by which a coil with a diode kicks past the supply at the most", PRACTICE)
RESISTOR_MOST = judged("SPIKE_RESISTOR", 90.0, "V", "by which a 12 V coil with a resistor kicks past the supply at the most", PRACTICE)
SPIKE_SHARE = judged("SPIKE_SHARE", 0.06, "share", "of a capture that spikes take at the most, and less than it is off", OWN_RULE)
DRIVER_LEAST = judged(
    "SPIKE_DRIVER_LEAST", 20.0, "V", "by which a sound coil kicks past the supply at a module's output at the least", PRACTICE
)
DRIVER_MOST = judged("SPIKE_DRIVER_MOST", 80.0, "V", "by which a module's output lets a coil kick at the most", PRACTICE)
LIMITS = {"diode": (0.0, DIODE_MOST), "resistor": (5.0, RESISTOR_MOST), "module": (DRIVER_LEAST, DRIVER_MOST)}
SAYS = {
    "diode": ("", "Its diode is open, or it has none: what switches it takes the spike."),
    "resistor": ("It kicks too little: a shorted winding, or it was not on.", "Its resistor is open."),
    "module": ("It kicks too little: turns of the winding are shorted, or a diode is fitted.", "The module's clamp does not hold."),
}


def _kick(looked: Looked) -> tuple[Measured, float, bool] | None:
    """How far the spike goes past the level behind it, how long its shoulder lasts (s), and whether it goes up; None where nothing is
    switched off."""
    own = looked.measures
    if own.levels is None:
        return None
    # A high spike may itself be taken for a level, but takes hardly any of the time; a low one lasts longer, and is none.
    short = (own.scan.share_below(1.0 - SPIKE_SHARE), own.scan.share_below(SPIKE_SHARE))
    high, low = min(short[0], own.levels.top), max(short[1], own.levels.base)
    up, down = own.scan.most - high, low - own.scan.least
    upward = up >= down
    size, level = (up, high) if upward else (down, low)
    places = changes_at(looked.channel, level + 0.5 * size if upward else level - 0.5 * size)
    lengths = np.diff(places)[::2]
    width = float(np.median(lengths)) * own.step if len(lengths) else 0.0
    return Measured(size, own.scan.level_u), width, upward


def _find(looked: Looked) -> Verdicts:
    own = looked.measures
    kick = _kick(looked)
    if kick is None or not len(own.edges.at):
        return [
            unseen(
                "spike",
                "none",
                "It is not switched off in this capture.",
                then="Trigger on its switching off, and take some milliseconds before and behind.",
            )
        ]
    size, width, _ = kick
    kind = looked.case.word("clamp")
    least, most = LIMITS[kind]
    check = Check(
        "spike",
        "how far it kicks past the level behind it",
        ("V",),
        beyond=SAYS[kind],
        then="Fit what belongs across the coil, and try again.",
    )
    told = f"It kicks {show(size.value, 'V')} past the level behind it"
    found = [looked.judge(check, size, Limit("V", least, most, PRACTICE), told)]
    if width and width < 3.0 * own.step:
        found.append(
            Judged(
                "rate",
                Verdict.TOO_CLOSE,
                1.0 / own.step,
                "Hz",
                f"The spike lasts {show(width, 's')}, hardly a sample: it may go higher than is seen.",
                then="Take more samples a second, and a probe that divides by ten.",
            )
        )
    return found


def _serve(looked: Looked, found: Verdicts) -> Service:
    kick = _kick(looked)
    if kick is None:
        return Service()
    return Service({"spike_v": kick[0].value, "lasts_s": kick[1], "upward": kick[2]})


PATTERN = Pattern(
    Family(
        "switch_off_spike",
        "Coil switched off",
        "relay coil solenoid flyback kick clamp diode suppression",
        "spike",
        (),
        ("A coil without its diode kicks some hundred volts: use a probe that divides by ten, and keep fingers off.", cautions.POLARITY),
        (Setting("clamp", "what holds its kick down", words=tuple(LIMITS), usual="diode"),),
        group="Solenoids",
    ),
    "Clip on the switched side of the coil, the black lead on battery minus; trigger on its switching off.",
    _find,
    serve=_serve,
)
