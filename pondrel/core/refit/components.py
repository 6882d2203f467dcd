"""Components on a board: what is printed on each, what a new one must be at least, and whether one that is at hand will do.

Capacitors are judged by the bench; the other sorts by one rule a figure. Common practice without a source; a data sheet goes before it.
"""

from __future__ import annotations

import re
from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from typing import Literal

from ..base.brief import capitalized, quoted
from ..base.errors import ReadingError
from ..base.quantity import parse_reading, show
from ..base.written import Content, EntryError, EntryField, EntryKind, Value
from ..bench import case_from, family_of, outcome
from ..check import Verdict

__all__ = ["COMPONENT", "SORTS", "USES", "Component", "Fit", "component_from"]

USES = ("timing", "filter")
HOURS = "h"  # of life; no meter shows it, so that it is no unit of a reading
_CHUNK = re.compile(
    r"(?P<number>\d+[pnuµμmkMR]\d+|\d+(?:[.,]\d+)?)\s*(?P<unit>°\s*C|C\b|h\b|hours?\b|[pnuµμmkM]?(?:F|V|A|W|H|Ω|ω|ohms?\b|R\b))?",
    re.UNICODE,
)
_OF_UNIT = {"F": "F", "V": "V", "A": "A", "W": "W", "H": "H", "C": "°C", "h": HOURS}


@dataclass(frozen=True, slots=True)
class Figure:
    """A figure that is printed on a component: its unit, what it is called, and what a new one's may be: the ``same`` within a share, as
    much or more (``least``), or as much or less (``most``)."""

    unit: str
    words: str
    rule: Literal["same", "least", "most"]
    within: float = 0.0

    def keeps(self, old: float, new: float) -> bool:
        """Whether a new one's figure will do."""
        slack = abs(old) * max(self.within, 1e-9)
        return (self.rule == "most" or new >= old - slack) and (self.rule == "least" or new <= old + slack)

    def asked(self, old: float) -> str:
        """What it must be, in words."""
        told = _told(old, self.unit)
        within = f" within {self.within:.0%}".replace("%", " %") if self.within else ""
        return f"{told}{within}" if self.rule == "same" else f"{told} or {'more' if self.rule == 'least' else 'less'}"


@dataclass(frozen=True, slots=True)
class Sort:
    """A sort of component: the figures that count, the first of which must be known, and what else must be the same. ``bench`` names the
    family of checks that judges it instead."""

    words: str
    example: str
    figures: tuple[Figure, ...]
    besides: str
    bench: str = ""


_VOLTS, _AMPS, _WATTS = (
    Figure("V", "volts", "least"),
    Figure("A", "amperes", "least"),
    Figure("W", "watts", "least"),
)
SORTS: Mapping[str, Sort] = {
    "electrolytic": Sort(
        "electrolytic capacitor",
        "470 µF 25 V 105 °C",
        (
            Figure("F", "capacitance", "same"),
            _VOLTS,
            Figure("°C", "temperature", "least"),
            Figure("Ω", "series resistance", "most"),
            Figure(HOURS, "hours of life", "least"),
        ),
        "low series resistance, the same pitch, no taller than it has room",
        bench="capacitor",
    ),
    "capacitor": Sort(
        "film or ceramic capacitor",
        "100 nF 63 V",
        (Figure("F", "capacitance", "same", 0.1), _VOLTS, Figure("°C", "temperature", "least")),
        "the same sort of film or ceramic, the same pitch",
    ),
    "resistor": Sort(
        "resistor", "4k7 0.25 W", (Figure("Ω", "ohms", "same", 0.05), _WATTS), "as narrow a tolerance; one that fuses stays one that fuses"
    ),
    "diode": Sort("diode", "1 A 400 V", (_AMPS, _VOLTS), "a fast one where it switches; the same way round"),
    "suppressor": Sort(
        "Zener diode or suppressor", "24 V 5 W", (Figure("V", "volts", "same", 0.05), _WATTS), "one way or both ways as it was"
    ),
    "transistor": Sort(
        "transistor",
        "60 V 10 A",
        (_VOLTS, _AMPS),
        "the same sort and the same order of its legs; no more resistance when it is on",
    ),
    "relay": Sort("relay on the board", "12 V 10 A", (Figure("V", "coil volts", "same", 0.1), _AMPS), "the same contacts and feet"),
    "fuse": Sort("fuse on the board", "2 A", (Figure("A", "amperes", "same"),), "as quick or as slow as it was"),
    "coil": Sort("coil or choke", "100 µH 2 A", (Figure("H", "inductance", "same", 0.2), _AMPS), "the same core and feet"),
}


@dataclass(frozen=True, slots=True)
class Fit:
    """Whether a new one will do: the verdict, and why in sentences."""

    verdict: Verdict
    says: tuple[str, ...]


@dataclass(frozen=True, slots=True)
class Component:
    """A component of a board as it is written down: its ``name`` on the board, its sort, what is ``printed`` on it, what it is for, what
    was wrong with it, and what is printed on the ``new`` one."""

    name: str
    sort: str
    printed: str
    use: str = ""
    wrong: str = ""
    new: str = ""

    @property
    def about(self) -> Sort:
        """Its sort."""
        return SORTS[self.sort]

    @property
    def at_least(self) -> str:
        """What a new one must be at least, in one sentence."""
        known = _figures(self.printed, self.about)
        if self.about.bench:
            case = case_from(family_of(self.about.bench), _settings(known, "", self.use))
            told = [says for says in outcome(family_of(self.about.bench), case).service.says if says.startswith("What may go in")]
            return told[0].partition(": ")[2] if told else ""
        asked = [figure.asked(known[figure.unit]) for figure in self.about.figures if figure.unit in known]
        return f"{', '.join(asked)}; {self.about.besides}."

    @property
    def fit(self) -> Fit | None:
        """Whether the new one will do; None while none is written down."""
        if not self.new:
            return None
        old, new = _figures(self.printed, self.about), _figures(self.new, self.about)
        unsaid = tuple(
            f"Its {f.words} are not written down." if f.words.endswith("s") else f"Its {f.words} is not written down."
            for f in self.about.figures
            if f.unit in old and f.unit not in new
        )
        worst, says = _on_the_bench(self, old, new) if self.about.bench else _by_rule(self.about, old, new)
        if worst is Verdict.WITHIN and unsaid:
            worst = Verdict.NOT_COMPARABLE
        return Fit(worst, (*says, *unsaid))


def _by_rule(sort: Sort, old: Mapping[str, float], new: Mapping[str, float]) -> tuple[Verdict, tuple[str, ...]]:
    low = [
        figure
        for figure in sort.figures
        if figure.unit in old and figure.unit in new and not figure.keeps(old[figure.unit], new[figure.unit])
    ]
    says = tuple(
        f"{figure.words.capitalize()}: {_told(new[figure.unit], figure.unit)}, and it must be {figure.asked(old[figure.unit])}."
        for figure in low
    )
    return (Verdict.OUTSIDE if low else Verdict.WITHIN), says


_ON_THE_BENCH = {"F": "farads", "V": "volts", "°C": "temp", "Ω": "esr", HOURS: "life"}


def _settings(figures: Mapping[str, float], prefix: str, use: str = "") -> list[tuple[str, str]]:
    known = [(f"{prefix}{_ON_THE_BENCH[unit]}", f"{value!r}") for unit, value in figures.items()]
    return [*known, ("use", use)] if use else known


def _on_the_bench(component: Component, old: Mapping[str, float], new: Mapping[str, float]) -> tuple[Verdict, tuple[str, ...]]:
    family = family_of(component.about.bench)
    found = outcome(family, case_from(family, [*_settings(old, "", component.use), *_settings(new, "sub_")])).findings
    against = [judged for judged in found if judged.verdict is not Verdict.WITHIN]
    says = tuple(
        " ".join(filter(None, (capitalized(judged.because), judged.then if judged.verdict is Verdict.NOT_COMPARABLE else "")))
        for judged in against
    )
    if not against:
        return Verdict.WITHIN, ()
    return (Verdict.OUTSIDE if any(j.verdict is Verdict.OUTSIDE for j in against) else Verdict.NOT_COMPARABLE), says


def _told(value: float, unit: str) -> str:
    """As it is printed, without noughts behind the point."""
    number, _, shown = (f"{value:g} {unit}" if unit in (HOURS, "°C") else show(value, unit)).partition(" ")
    return f"{number.rstrip('0').rstrip('.') if '.' in number else number} {shown}"


def _figures(text: str, sort: Sort) -> dict[str, float]:
    """By unit what is printed: ``470 µF 25 V 105 °C``. Raises EntryError where the first figure of the sort is missing."""
    found: dict[str, float] = {}
    for match in _CHUNK.finditer(text):
        letters = (match["unit"] or "").replace(" ", "")
        unit = _OF_UNIT.get(letters.lstrip("°")[-1:], "Ω") if letters else "Ω" if re.search(r"[kMR]\d", match["number"]) else ""
        unit = HOURS if letters.startswith("hour") else unit
        if unit not in {figure.unit for figure in sort.figures} or unit in found:
            continue
        try:
            found[unit] = float(match["number"].replace(",", ".")) if unit == HOURS else parse_reading(match[0], unit).value
        except (ReadingError, ValueError) as error:
            raise EntryError(f"{quoted(match[0])} cannot be read: write it as {sort.example}.") from error
    first = sort.figures[0]
    if first.unit not in found or found[first.unit] <= 0.0:
        raise EntryError(f"{quoted(text)} holds no {first.words}: write what is printed on the {sort.words}, such as {sort.example}.")
    return found


def component_from(content: Content) -> Component:
    """A component as it was written down."""
    return Component(*(str(content.get(name) or "") for name in ("name", "sort", "printed", "use", "wrong", "new")))


def _checked(content: dict[str, Value]) -> dict[str, Value]:
    component = component_from(content)
    _figures(component.printed, component.about)
    if component.new:
        _figures(component.new, component.about)
    if component.use and not component.about.bench:
        content["use"] = ""
    return content


def _reads(content: Content) -> str:
    one = component_from(content)
    wrong, new = f": {one.wrong}" if one.wrong else "", f"; new: {one.new}" if one.new else ""
    return f"{one.name}, {one.about.words} {one.printed}{wrong}{new}"


def _fields() -> Sequence[EntryField]:
    return (
        EntryField("name", "What it is called on the board", longest=30),
        EntryField("sort", "What it is", choices=tuple(SORTS)),
        EntryField("printed", "What is printed on it", longest=80),
        EntryField("use", "What it is for", required=False, choices=USES),
        EntryField("wrong", "What was wrong with it", required=False, longest=200),
        EntryField("new", "What is printed on the new one", required=False, longest=80),
    )


COMPONENT = EntryKind("component", "On the board", tuple(_fields()), _reads, _checked)
