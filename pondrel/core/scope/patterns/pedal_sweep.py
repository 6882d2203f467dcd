"""A pedal, a throttle, any potentiometer moved slowly through its travel and back: no place where it is gone, and two tracks that agree."""

from __future__ import annotations

import numpy as np

from ...base.quantity import show
from ...bench import cautions
from ...bench.families.pedal import RULE_SHARE, RULES
from ...bench.family import Check, Family, Setting
from ...bench.judged import Judged, Service
from ...check import Limit
from ...wave import Channel
from ...wave.measure import Measured, Measures
from ..pattern import PRACTICE, Looked, Pattern, Verdicts, fine, times, wrong

PLACE = 80
_REST = Check(
    "at rest",
    "its volts at rest",
    ("V",),
    beyond=("Short to ground, or its 5 V is missing.", "It does not come back, or its ground is open."),
)
_END = Check("pressed", "its volts fully pressed", ("V",), beyond=("It does not reach its end.", "Short to its supply."))
_RULE = Check(
    "tracks",
    "how far the tracks are from their rule",
    ("V",),
    beyond=("", "The tracks do not go together: module limits or stops the drive."),
    then="Read both grounds and both supplies before the pedal is named.",
)
BLOCKS = 4000


def _find(looked: Looked) -> Verdicts:
    own = looked.measures
    supply = looked.case.number("supply")
    found = [*_ends(looked, own, supply), *_gone(looked.channel, own)]
    if looked.second is not None and looked.second_measures is not None:
        found += _gone(looked.second, looked.second_measures, "drop-outs, second track")
        found.append(_rule(looked, looked.second, supply))
    return found


def _ends(looked: Looked, own: Measures, supply: float) -> list[Judged]:
    low, high = (Measured(own.scan.share_below(share), own.scan.level_u) for share in (0.02, 0.98))
    if high.value - low.value < 0.2 * supply:
        return [
            wrong(
                "moves",
                "hardly",
                f"It moves by {show(high.value - low.value, 'V')} only.",
                then="Move it through its whole travel; read its 5 V and its ground at the plug.",
            )
        ]
    return [
        looked.judge(
            _REST,
            low,
            Limit("V", 0.04 * supply, 0.3 * supply, f"{PRACTICE}: of {show(supply, 'V')}"),
            f"At rest it has {show(low.value, 'V')}",
        ),
        looked.judge(
            _END,
            high,
            Limit("V", 0.6 * supply, 0.96 * supply, f"{PRACTICE}: of {show(supply, 'V')}"),
            f"Pressed it has {show(high.value, 'V')}",
        ),
    ]


def _gone(channel: Channel, own: Measures, check: str = "drop-outs") -> list[Judged]:
    name = channel.name or "its signal"
    if not own.dropouts:
        return [fine(check, 0.0, f"{name} is there all the way.")]
    begin, end = own.dropouts[0]
    where = float(np.interp((begin - own.start) / own.step, [0, own.scan.count], [0.0, 100.0]))
    because = (
        f"{name} is gone {times(len(own.dropouts))}, first at {begin:.4g} s ({where:.0f} % of the capture) for {show(end - begin, 's')}."
    )
    return [
        wrong(
            check,
            float(len(own.dropouts)),
            because,
            then="Sweep it again: at the same place it is its track, at any place its plug or lead.",
        )
    ]


def _rule(looked: Looked, second: Channel, supply: float) -> Judged:
    first, other_blocks = (looked.capture.blocks(channel, BLOCKS) for channel in (looked.channel, second))
    one, two = first.mean, other_blocks.mean
    rule = RULES[looked.case.word("rule")]
    wanted = np.array([rule(float(value), supply) for value in one])
    other = np.array([rule(float(value), supply) for value in two])
    # Which of both is the first nobody knows from a capture: the way that fits is taken.
    off, place = min((float(np.percentile(np.abs(gap), 99)), int(np.argmax(np.abs(gap)))) for gap in (two - wanted, one - other))
    at = looked.capture.at(place * first.every)
    told = f"The tracks are {show(off, 'V')} from their rule '{looked.case.word('rule')}', most at {at:.3g} s"
    return looked.judge(_RULE, Measured(off, looked.measures.scan.level_u), Limit("V", most=RULE_SHARE * supply, source=PRACTICE), told)


def _serve(looked: Looked, found: Verdicts) -> Service:
    own = looked.measures
    return Service({"dropouts": float(len(own.dropouts)), "low_v": own.scan.share_below(0.02), "high_v": own.scan.share_below(0.98)})


PATTERN = Pattern(
    Family(
        "pedal_sweep",
        "Pedal or throttle swept",
        "potentiometer accelerator tps track drop-out sweep",
        "drop-outs",
        (),
        (cautions.NO_BACKFEED,),
        (
            Setting("supply", "the reference that feeds it", "V", usual=5.0),
            Setting("rule", "how the second track follows the first", words=tuple(RULES), usual="half"),
        ),
        derived=(_REST, _END, _RULE),
        group="Sensors",
    ),
    "Clip on its signal, a second channel on its second track, the plug connected; press it slowly down and let it up again.",
    _find,
    two="the second track",
    serve=_serve,
)
