"""A solid-state regulator: steady, quiet, and there all the time."""

from __future__ import annotations

from ...base.judgement import judged
from ...base.quantity import show
from ...bench import cautions
from ...bench.families.regulator import FEEDS_WITHIN
from ...bench.family import Check, Family, Setting
from ...check import Limit
from ..pattern import PRACTICE, Looked, Pattern, Verdicts, wrong

PLACE = 20
RIPPLE_SHARE = judged("SOLID_RIPPLE", 0.05, "share", "of its volts that a solid-state regulator may ripple, peak to peak", PRACTICE)
_MEAN = Check(
    "average",
    "its average",
    ("V",),
    beyond=("It gives too little: load, feed or part.", "It gives too much: ground or part."),
    then="Read its feed and the drop from its ground pin to the battery before it is renewed.",
)
_RIPPLE = Check(
    "ripple", "its ripple, peak to peak", ("V",), beyond=("", "It passes what it should hold back: its capacitors, or its ground.")
)


def _find(looked: Looked) -> Verdicts:
    own, nominal = looked.measures, looked.case.number("volts")
    part = nominal * FEEDS_WITHIN / 100.0
    limit = Limit("V", nominal - part, nominal + part, f"{PRACTICE}: {nominal:g} V ± {FEEDS_WITHIN:.0f} %")
    found = [looked.judge(_MEAN, own.mean, limit, f"Its average is {show(own.mean.value, 'V')}")]
    ripple = own.ripple
    if ripple is None:
        found.append(
            wrong(
                "pulses",
                "pulses",
                "It goes on and off: a solid one does not.",
                then="Judge it as one that pulses, or look for a loose feed.",
            )
        )
    else:
        most = Limit("V", most=RIPPLE_SHARE * nominal, source=PRACTICE)
        found.append(looked.judge(_RIPPLE, ripple, most, f"It ripples by {show(ripple.value, 'V')}"))
    if own.dropouts:
        begin, end = own.dropouts[0]
        many = f"{len(own.dropouts)} times, first" if len(own.dropouts) > 1 else "once,"
        because = f"It is gone {many} at {begin:.4g} s for {show(end - begin, 's')}."
        found.append(
            wrong(
                "drop-outs",
                float(len(own.dropouts)),
                because,
                then="Flex its plug and its feed while it is watched: a loose contact does that.",
            )
        )
    return found


PATTERN = Pattern(
    Family(
        "solid_regulator",
        "Solid-state regulator",
        "5 v reference supply stabiliser electronic",
        "average",
        (),
        (cautions.POLARITY,),
        (Setting("volts", "what it should give", "V", usual=5.0),),
        derived=(_MEAN, _RIPPLE),
        group="Gauges",
    ),
    "Clip on its output, the black lead on its own ground pin.",
    _find,
)
