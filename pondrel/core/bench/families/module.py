"""Modules on the bench: every output by itself and knocked, every port, before and after on one sheet; what mimics it is asked first."""

from __future__ import annotations

from collections.abc import Mapping, Sequence

from ...check import Limit, Verdict
from .. import cautions
from ..case import Case, Read
from ..family import YES_NO, Check, Column, Family, Setting
from ..judged import Judged, Service

PLACE = 290

SOURCE = "common practice, no source"
SHOWS = ("full", "dim", "dark", "flickers", "holds", "leaks")
GOOD = ("full", "holds")
_MEANS = {
    "dim": "the output or its solder has resistance",
    "dark": "the output is dead, or never commanded",
    "flickers": "a joint on the board is cracked",
    "leaks": "the port, its diaphragm or its valve leaks",
}
MIMICS = ("supply", "ground", "plug", "driven")


def _asked(case: Case) -> list[str]:
    return [name for name in MIMICS if not case.reads.get(name)]


def _derive(case: Case) -> Sequence[Judged]:
    """Each output by what it shows last; nothing is laid at the module while what mimics it was not looked at."""
    found = []
    unasked, faulty = _asked(case), _faulty_outside(case)
    for row in case.rows:
        name, shown = row["output"].typed, _last(row)
        knocked = "knocked" in row and "after" not in row
        if shown in GOOD:
            found.append(
                Judged(f"output {name}", Verdict.WITHIN, shown, "", f"{name} {_verb(shown)}" + (", knocked too." if knocked else "."))
            )
        elif unasked or faulty:
            why = f"not read yet: {', '.join(unasked)}" if unasked else f"{', '.join(faulty)} comes first"
            found.append(
                Judged(
                    f"output {name}",
                    Verdict.NOT_COMPARABLE,
                    shown,
                    "",
                    f"{name} {_verb(shown)}; {why}.",
                    then="Before the module is named: its supply under load, its ground, its plug, and that what it drives moves freely.",
                )
            )
        else:
            found.append(
                Judged(
                    f"output {name}",
                    Verdict.OUTSIDE,
                    shown,
                    "",
                    f"{name} {_verb(shown)}: {_MEANS[shown]}. Supply, ground, plug and what it drives are good.",
                    then=f"Look at the solder and the part behind output {name}.",
                )
            )
    return found


def _before(row: Mapping[str, Read]) -> str:
    """What an output showed before a repair; one that is good until it is knocked is not good."""
    shows, knocked = row["shows"].word, row["knocked"].word if "knocked" in row else "same"
    return knocked if shows in GOOD and knocked not in ("same", *GOOD) else shows


def _last(row: Mapping[str, Read]) -> str:
    """What it shows now."""
    return row["after"].word if "after" in row else _before(row)


def _verb(shown: str) -> str:
    return {"full": "lights fully", "dim": "is dim", "dark": "is dark", "flickers": "flickers"}.get(shown, shown)


def _faulty_outside(case: Case) -> list[str]:
    bad = [name for name in ("plug", "driven") if case.answer(name) == "no"]
    for name in ("supply", "ground"):
        limit, value = case.given(name) or _LIMITS[name](case), case.value(name)
        if value is not None and not limit.keeps(value):
            bad.append(name)
    return bad


_LIMITS = {
    "supply": lambda case: Limit("V", 0.92 * case.number("volts"), source=f"{SOURCE}: under load"),
    "ground": lambda case: Limit("V", most=0.1, source=f"{SOURCE}: module ground"),
}


def _serve(case: Case, findings: Sequence[Judged]) -> Service:
    if not case.rows:
        return Service()
    before = sum(_before(row) not in GOOD for row in case.rows)
    after = sum(_last(row) not in GOOD for row in case.rows)
    repaired = any("after" in row for row in case.rows)
    says = (
        f"{before} of {len(case.rows)} outputs failed before, {after} after." if repaired else f"{before} of {len(case.rows)} outputs fail."
    )
    return Service({"outputs": float(len(case.rows)), "failed_before": float(before), "failed": float(after)}, (says,))


FAMILY = Family(
    "module",
    "Module on the bench",
    "module control unit climate board output port knock solder repair before after",
    "supply",
    (
        Check("supply", "its supply under load", ("V",), limit=_LIMITS["supply"], beyond=("Its supply fails it, not the module.", "")),
        Check(
            "ground",
            "drop from its ground to the battery",
            ("V",),
            limit=_LIMITS["ground"],
            beyond=("", "Its ground fails it, not the module."),
        ),
        Check("plug", "its plug is whole: not melted, green or loose", words=YES_NO, bad="Mend the plug first."),
        Check(
            "driven",
            "what it drives moves freely and is whole",
            words=YES_NO,
            bad="A jammed flap or a dead actuator looks like a dead output.",
        ),
        Check("bridges", "no bridges or eaten tracks on its board", words=YES_NO, bad="Clean and mend the board before it is powered."),
    ),
    (cautions.STATIC, cautions.UNPLUGGED, cautions.FUSED, "No solvent on a coated board unless it is known to be safe.", cautions.AIRBAG),
    (Setting("volts", "volts that it is fed with", "V", usual=12.6),),
    (
        Column("output", "which output or port", free=True),
        Column("shows", "what its lamp or gauge shows", words=SHOWS),
        Column("knocked", "what it shows when knocked", words=("same", *SHOWS), optional=True),
        Column("after", "what it shows after the repair", words=SHOWS, optional=True),
    ),
    derive=_derive,
    serve=_serve,
    kinds=("module",),
    table="Output by output, port by port",
    compared=False,
    group="Boards and modules",
)
