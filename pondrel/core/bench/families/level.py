"""Level senders by themselves: moved from empty to full, with the ends that its gauge expects."""

from __future__ import annotations

from collections.abc import Sequence

from ...base.quantity import show
from ...check import Limit
from .. import cautions
from ..case import Case
from ..decide import by_number
from ..family import YES_NO, Check, Column, Family, Setting
from ..judged import Chart, Dot, Judged, Line, Service
from ..sweep import findings_of, swept

PLACE = 140

SOURCE = "common practice, no source: ± 10 % of its span"
_MONOTONE = Check("monotone", "it goes one way without turning back or standing still", words=YES_NO)
_DROPOUTS = Check("dropouts", "drop-outs on the way", ("",))


def _end(case: Case, name: str) -> Limit | None:
    empty, full = case.known("empty_ohms"), case.known("full_ohms")
    if empty is None or full is None:
        return None
    part = 0.1 * abs(full - empty)
    middle = empty if name == "empty" else full
    return Limit("Ω", max(middle - part, 0.0), middle + part, SOURCE)


def _derive(case: Case) -> Sequence[Judged]:
    if not case.rows:
        return ()
    sweep = swept(case.column("level"), case.column("ohms"))
    found = findings_of(sweep, "Ω", "level")
    for name, value in (("empty", sweep.y[0]), ("full", sweep.y[-1])):
        limit = case.given(name) or _end(case, name)
        check = FAMILY.check(name)
        assert check is not None
        if limit is not None and not case.reads.get(name):
            found.append(by_number(case, check, value, case.u(case.rows[0]["ohms"]), limit, f"{check.says}: {show(value, 'Ω')}"))
    return found


def _serve(case: Case, findings: Sequence[Judged]) -> Service:
    empty, full, ohms = case.known("empty_ohms"), case.known("full_ohms"), case.value("ohms")
    if empty is None or full is None or ohms is None or full == empty:
        return Service()
    share = (ohms - empty) / (full - empty)
    return Service({"shows_share": share}, (f"{show(ohms, 'Ω')} is {100 * share:.0f} % full by its ends; a gauge is not quite linear.",))


def _chart(case: Case, findings: Sequence[Judged]) -> Chart | None:
    if not case.rows:
        return None
    sweep = swept(case.column("level"), case.column("ohms"))
    off = set(sweep.dropouts)
    line = Line("read", tuple((sweep.x[k], sweep.y[k]) for k in range(len(sweep.x)) if k not in off))
    return Chart(
        "From empty to full",
        ("level", "%"),
        ("sender", "Ω"),
        (line,),
        (),
        tuple(Dot(sweep.x[k], sweep.y[k], True) for k in sweep.dropouts[:200]),
    )


FAMILY = Family(
    "level",
    "Level sender",
    "level fuel tank sender float gauge oil",
    "empty",
    (
        Check("empty", "its ohms when empty", ("Ω",), limit=lambda case: _end(case, "empty")),
        Check("full", "its ohms when full", ("Ω",), limit=lambda case: _end(case, "full")),
        Check("ohms", "its ohms as it stands", ("Ω",), aside=True),
        Check(
            "ground",
            "drop from its ground to the battery, gauge on",
            ("V",),
            limit=lambda case: Limit("V", most=0.1, source="common practice, no source"),
            beyond=("", "Its ground is bad: every gauge on it reads wrong."),
        ),
        Check("float", "its float is whole and moves freely", words=YES_NO, bad="A float that took in fuel always shows empty."),
    ),
    (cautions.VAPOUR, "A sender in the tank is read with a meter only, never with a lamp.", cautions.DEAD),
    (Setting("empty_ohms", "what it should have when empty", "Ω"), Setting("full_ohms", "what it should have when full", "Ω")),
    (Column("level", "how full", "%"), Column("ohms", "its ohms", "Ω")),
    (_DROPOUTS, _MONOTONE),
    ("float", "dropouts"),
    derive=_derive,
    serve=_serve,
    chart=_chart,
    sweep=True,
    kinds=("level_sender",),
    group="Gauges",
)
