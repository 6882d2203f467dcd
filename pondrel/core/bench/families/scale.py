"""Speedometers and rev counters: what they indicate against what is true, at several points."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np

from ...base.errors import ReadingError
from ...base.judgement import judged
from ...check import Limit, Verdict
from .. import cautions
from ..case import Case
from ..decide import by_number
from ..family import Check, Column, Family, Setting
from ..judged import Chart, Dot, Figures, Judged, Line, Service

PLACE = 170

SOURCE = "common practice, no source"
SCALE_WITHIN = judged("SCALE_WITHIN", 5.0, "%", "of the true value by which a rev counter or speedometer may be off")
ONE_FACTOR_WITHIN = judged("ONE_FACTOR_WITHIN", 10.0, "%", "by which the factors at several points may be apart and still be one")
_ERROR = Check("error", "the farthest that it is off the true value", ("%",), beyond=("", "It shows what is not so."))


def _pairs(case: Case) -> tuple[np.ndarray, np.ndarray]:
    indicated, true = np.array(case.column("indicated")), np.array(case.column("true"))
    if (true <= 0.0).any():
        raise ReadingError("The true value must be above nought at every point: leave out the one at rest.")
    return indicated, true


def _derive(case: Case) -> Sequence[Judged]:
    if not case.rows:
        return ()
    indicated, true = _pairs(case)
    off = 100.0 * np.abs(indicated / true - 1.0)
    place = int(off.argmax())
    u = 100.0 * case.u(case.rows[place]["indicated"]) / float(true[place])
    limit = case.given("error") or Limit("%", most=SCALE_WITHIN, source=SOURCE)
    side = "too high" if indicated[place] >= true[place] else "too low"
    told = f"{indicated[place]:.5g} at a true {true[place]:.5g} is {off[place]:.3g} % {side}"
    return (by_number(case, _ERROR, float(off[place]), u, limit, told),)


def _line(case: Case) -> tuple[float, float, float, float, bool]:
    """Gain and offset of the best line, the least and the most factor, and whether they are one."""
    indicated, true = _pairs(case)
    factors = indicated / true
    gain, offset = (factors[0], 0.0) if len(true) < 2 or np.ptp(true) == 0.0 else np.polyfit(true, indicated, 1)
    middle = float(factors.mean())
    one = middle != 0.0 and 100.0 * float(np.ptp(factors)) / abs(middle) <= ONE_FACTOR_WITHIN
    return float(gain), float(offset), float(factors.min()), float(factors.max()), one


def _serve(case: Case, findings: Sequence[Judged]) -> Service:
    if not case.rows:
        return Service()
    gain, offset, least, most, one = _line(case)
    middle = (least + most) / 2.0
    figures: Figures = {
        "gain": gain,
        "offset": offset,
        "factor_low": least,
        "factor_high": most,
        "one_factor": one,
        "points": float(len(case.rows)),
    }
    if len(case.rows) < 2:
        return Service(figures, ("One point tells no more than one factor: note two or three more.",))
    if one:
        says = [f"It shows {middle:.3g} times the truth everywhere: one factor."]
        if not 0.95 < middle < 1.05:
            says.append(
                f"One factor points to its timing: a capacitor or resistor of {middle:.2g} times "
                "what belongs there, or a setting for another number of pulses."
            )
    else:
        says = [
            f"It shows from {least:.3g} to {most:.3g} times the truth: that is not one factor.",
            f"The best line has a gain of {gain:.3g} and begins at {offset:+.4g}.",
        ]
        if abs(offset) < 0.1 * float(np.mean(case.column("indicated"))):
            says.append(
                "A timing capacitor alone would be one factor: look for pulses that are "
                "missed, a worn movement, or a part that drifts with the supply."
            )
        else:
            says.append(
                "An offset is none of the timing capacitor's: look at the zero of the "
                "needle, a leaking capacitor, or a gauge of another version."
            )
    return Service(figures, tuple(says))


def _advise(case: Case, findings: Sequence[Judged]) -> Sequence[str]:
    if not case.rows:
        return ("Note what it indicates and what is true at three points at least, one of them near the end of its scale.",)
    if not any(found.verdict is Verdict.OUTSIDE for found in findings):
        return ()
    one = _line(case)[4]
    first = (
        "Measure its timing capacitor out of the circuit, and see that its version and its setting fit the engine."
        if one
        else "Count the pulses that reach it before its board is touched."
    )
    return (first, "After the repair read the same points again.")


def _chart(case: Case, findings: Sequence[Judged]) -> Chart | None:
    if not case.rows:
        return None
    indicated, true = _pairs(case)
    end = float(true.max())
    gain, offset, *_ = _line(case)
    lines = [Line("true", ((0.0, 0.0), (end, end)), "good")]
    if len(case.rows) > 1:
        lines.append(Line("its line", ((0.0, offset), (end, offset + gain * end)), "read"))
    return Chart(
        "Indicated against true",
        ("true", case.word("unit")),
        ("indicated", case.word("unit")),
        tuple(lines),
        (),
        tuple(Dot(float(x), float(y)) for x, y in zip(true, indicated, strict=True))[:200],
    )


FAMILY = Family(
    "scale",
    "Speedometer or rev counter",
    "speedometer rev counter tachometer indicated true scale gain offset",
    "error",
    (),
    ("On a roller or a lift, wheels that turn are guarded; on the road a second person reads.", cautions.LEFT_ON),
    (Setting("unit", "what it counts", usual="rpm"),),
    (Column("indicated", "what it shows"), Column("true", "what is so")),
    (_ERROR,),
    derive=_derive,
    serve=_serve,
    advise=_advise,
    chart=_chart,
    group="Gauges",
)
