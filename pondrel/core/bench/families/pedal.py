"""Pedals with two tracks: each swept by itself, and both held against the rule between them."""

from __future__ import annotations

import math
from collections.abc import Callable, Mapping, Sequence

from ...base.judgement import judged
from ...base.quantity import show
from ...check import Limit, Verdict
from .. import cautions
from ..case import Case
from ..decide import by_number
from ..family import YES_NO, Check, Column, Family, Setting
from ..judged import Chart, Dot, Figures, Judged, Line, Service
from ..sweep import Sweep, findings_of, swept
from .potentiometer import ends_of

PLACE = 80

SOURCE = "common practice, no source"
RULE_SHARE = judged("RULE_SHARE", 0.03, "share", "of the supply by which a pedal's two tracks may be apart from their rule")
# What the second track should give, from the first and the supply.
RULES: Mapping[str, Callable[[float, float], float]] = {
    "half": lambda one, supply: one / 2.0,
    "sum": lambda one, supply: supply - one,
    "equal": lambda one, supply: one,
}
_RULE = Check(
    "rule",
    "how far both tracks are from their rule",
    ("V",),
    beyond=("", "The tracks disagree: the module takes the pedal for failed and limits the drive."),
)


def _tracks(case: Case) -> tuple[Sweep, Sweep] | None:
    if not case.rows:
        return None
    angle = case.column("angle")
    return swept(angle, case.column("one")), swept(angle, case.column("two"))


def _worst(case: Case) -> tuple[float, Mapping[str, object], float]:
    """The farthest that both tracks are from their rule: volts, the row, and one standard deviation."""
    rule, supply = RULES[case.word("rule")], case.number("supply")
    off = [abs(row["two"].value - rule(row["one"].value, supply)) for row in case.rows]
    place = max(range(len(off)), key=off.__getitem__)
    row = case.rows[place]
    weight = 0.5 if case.word("rule") == "half" else 1.0
    return off[place], row, math.hypot(case.u(row["two"]), weight * case.u(row["one"]))


def _derive(case: Case) -> Sequence[Judged]:
    tracks = _tracks(case)
    if tracks is None:
        return ()
    found = [*findings_of(tracks[0], "V", "angle", "one", "track one"), *findings_of(tracks[1], "V", "angle", "two", "track two")]
    found += ends_of(case, tracks[0])
    off, _, u = _worst(case)
    worst_row = max(case.rows, key=lambda row: abs(row["two"].value - RULES[case.word("rule")](row["one"].value, case.number("supply"))))
    limit = case.given("rule") or Limit("V", most=RULE_SHARE * case.number("supply"), source=SOURCE)
    told = (
        f"At angle {worst_row['angle'].value:.4g} the tracks read "
        f"{show(worst_row['one'].value, 'V')} and {show(worst_row['two'].value, 'V')}, "
        f"{show(off, 'V')} from the rule '{case.word('rule')}'"
    )
    found.append(by_number(case, _RULE, off, u, limit, told))
    return found


def _serve(case: Case, findings: Sequence[Judged]) -> Service:
    tracks = _tracks(case)
    if tracks is None:
        return Service()
    off, _, _ = _worst(case)
    bad = sorted({tracks[k].x[place] for k in (0, 1) for place in tracks[k].dropouts})
    figures: Figures = {
        "worst_off_v": off,
        "first_dropout_at": bad[0] if bad else None,
        "dropouts": float(len(bad)),
    }
    says = ["Both tracks go together." if not bad else f"At {bad[0]:.4g} a track is gone for a moment: the pedal cuts out there."]
    if any(found.check == "rule" and found.verdict is Verdict.OUTSIDE for found in findings):
        says.append(
            "With the tracks apart the module limits the drive or stops it: read both grounds and both 5 V before the pedal is named."
        )
    return Service(figures, tuple(says))


def _chart(case: Case, findings: Sequence[Judged]) -> Chart | None:
    tracks = _tracks(case)
    if tracks is None:
        return None
    lines = []
    for name, sweep in zip(("track one", "track two"), tracks, strict=True):
        off = set(sweep.dropouts)
        lines.append(Line(name, tuple((sweep.x[k], sweep.y[k]) for k in range(len(sweep.x)) if k not in off)))
    rule, supply = RULES[case.word("rule")], case.number("supply")
    off_one = set(tracks[0].dropouts)
    lines.append(
        Line(
            "two by the rule",
            tuple((x, rule(y, supply)) for k, (x, y) in enumerate(zip(tracks[0].x, tracks[0].y, strict=True)) if k not in off_one),
            "good",
        )
    )
    dots = tuple(Dot(sweep.x[k], sweep.y[k], True) for sweep in tracks for k in sweep.dropouts[:100])
    return Chart("Both tracks over the pedal's travel", ("angle", ""), ("track", "V"), tuple(lines), (), dots)


FAMILY = Family(
    "pedal",
    "Pedal with two tracks",
    "pedal accelerator dual track correlation throttle by wire drive",
    "rule",
    (
        Check(
            "supply_read",
            "the volts that feed it",
            ("V",),
            limit=lambda case: Limit("V", 0.98 * case.number("supply"), 1.02 * case.number("supply"), f"{SOURCE}: reference ± 2 %"),
        ),
        Check("springs", "it springs back to its stop", words=YES_NO, bad="A pedal that hangs is renewed at once."),
    ),
    (cautions.NO_BACKFEED, cautions.TURNING),
    (
        Setting("rule", "how the second track follows the first", words=tuple(RULES), usual="half"),
        Setting("supply", "volts that feed it while it is swept", "V", usual=5.0),
    ),
    (Column("angle", "how far it was pressed"), Column("one", "track one", "V"), Column("two", "track two", "V")),
    (Check("low", "lower stop of track one", ("V",)), Check("high", "upper stop of track one", ("V",)), _RULE),
    ("springs",),
    {"correlation": "rule"},
    derive=_derive,
    serve=_serve,
    chart=_chart,
    sweep=True,
    kinds=("pedal",),
    group="Sensors",
)
