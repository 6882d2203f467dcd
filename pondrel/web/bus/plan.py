"""The drawing of a bus: its trunk with the modules on it, who of them talks, and where the fault lies as far as that is known."""

from __future__ import annotations

import textwrap
from collections import Counter
from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from itertools import pairwise

from ...core.base.brief import capitalized
from ...core.circuit.sheet import Sheet
from ...core.library.bus_links import about, sender_of
from ...core.library.bus_plan import BusPlan, bus_plan
from ...store.sheets import StoredSheet, get_sheet, sheet_cards
from ..jobs.docket import Record
from ..shell.attempt import attempt
from ..shell.database import get_db
from ..shell.workups import workups

__all__ = ["BusDrawing", "BusSheet", "bus_sheet", "drawn"]

MOST_WORDS, MOST_SHEETS = 16, 12
LEFT, RIGHT = 34, 706
BOX_HEIGHT = 66
_WIDE, _TIGHT_BELOW = 132, 96  # of a box
_SHOWN = 0.05  # of the whole suspicion, from which on a stretch or a module is marked with its share
_FEWEST = 2


@dataclass(frozen=True, slots=True)
class BusSheet:
    """A bus of the library: its stored sheet, how it runs, and the log's sender of each of its modules, by part."""

    stored: StoredSheet
    sheet: Sheet
    plan: BusPlan
    senders: Mapping[str, str]


@dataclass(frozen=True, slots=True)
class BoxDrawn:
    """A module: the middle of its box, where its line meets the trunk, its name in lines, its state, what lies in its stub, its share."""

    x: float
    at: float
    name: Sequence[str]
    state: str
    by: str
    share: str


@dataclass(frozen=True, slots=True)
class StretchDrawn:
    """A stretch of the trunk: from and to, what lies there besides wires, its share."""

    first: float
    last: float
    says: str
    share: str


@dataclass(frozen=True, slots=True)
class BusDrawing:
    """The drawing: sizes, boxes, stretches, end resistors (place and ohms in words), places where the logger hears."""

    title: str
    sheet_id: int
    box: float
    height: float
    boxes: Sequence[BoxDrawn]
    stretches: Sequence[StretchDrawn]
    ends: Sequence[tuple[float, str]]
    heard: Sequence[float]

    @property
    def tight(self) -> bool:
        """Whether its boxes are so narrow that they are lettered smaller."""
        return self.box < _TIGHT_BELOW

    @property
    def inset(self) -> int:
        """From a box's edge to what is in it."""
        return 5 if self.tight else 8

    @property
    def suspected(self) -> bool:
        """Whether anything of it is suspected."""
        return any(one.share for one in self.stretches) or any(one.share for one in self.boxes)

    @property
    def says(self) -> str:
        """The same in words."""
        modules = ", ".join(f"{' '.join(one.name)} {one.state or 'not told'}" for one in self.boxes)
        suspected = [f"{one.says or 'wires'} {one.share}" for one in self.stretches if one.share]
        return f"{self.title}: {modules}" + (f"; suspected: {', '.join(suspected)}" if suspected else "")


def bus_sheet(names: Sequence[str], record: Record | None) -> BusSheet | None:
    """The bus of the library that has most of some senders as its modules, one that the job traces before all others; None where none has
    two of them."""
    traced = [trace.sheet_id for trace in record.traces] if record is not None else []
    words = {word for name in names for word in about(name)}
    hits = Counter(card.id for word in sorted(words)[:MOST_WORDS] for card in sheet_cards(get_db(), word))
    likely = [number for number, count in hits.most_common(MOST_SHEETS) if count >= _FEWEST]
    best: BusSheet | None = None
    for number in dict.fromkeys([*traced, *likely]):
        stored = get_sheet(get_db(), number)
        sheet, _ = attempt(lambda stored=stored: workups().sheet(stored) if stored else None)  # type: ignore[misc]
        plan = bus_plan(sheet) if sheet is not None else None
        if stored is None or sheet is None or plan is None:
            continue
        found = BusSheet(stored, sheet, plan, sender_of(sheet, plan.modules, names))
        if len(found.senders) >= _FEWEST and (best is None or len(found.senders) > len(best.senders)):
            best = found
    return best


def drawn(own: BusSheet, states: Mapping[str, str], shares: Mapping[str, float]) -> BusDrawing:
    """The drawing of a bus; ``states``: of the senders, by name; ``shares``: of the suspicion, by part."""
    stops = own.plan.stops
    columns = [max(len(stop.modules) + sum(len(far) for _, far in stop.stubs), 1) for stop in stops]
    step = (RIGHT - LEFT) / sum(columns)
    box = min(step - 8, _WIDE)
    letters = max(int((box - 8) / 6.6) if box < _TIGHT_BELOW else int((box - 14) / 7.8), 6)
    boxes: list[BoxDrawn] = []
    middles: list[float] = []
    column = 0
    ends: list[tuple[float, str]] = []
    for stop, width in zip(stops, columns, strict=True):
        middles.append(LEFT + step * (column + width / 2))
        inside = [(name, "", 0.0) for name in stop.modules]
        inside += [(name, stretch.says, _sum(shares, stretch.parts)) for stretch, far in stop.stubs for name in far]
        for place, (name, by, share) in enumerate(inside):
            part = own.sheet.parts[name]
            lines = textwrap.wrap(capitalized(part.label or part.called), letters)
            x = LEFT + step * (column + place + 0.5)
            state = states.get(own.senders.get(name, ""), "") if name in own.plan.modules else ""
            boxes.append(BoxDrawn(x, middles[-1], lines, state, by, _share(share + shares.get(name, 0.0))))
        ends += [(middles[-1], f"{own.sheet.parts[name].elements()[0].ohms:g} Ω") for name in stop.ends]
        column += width
    stretches = [
        StretchDrawn(first, last, stretch.says, _share(_sum(shares, stretch.parts)))
        for (first, last), stretch in zip(pairwise(middles), own.plan.stretches, strict=True)
    ]
    heard = [middle for middle, stop in zip(middles, stops, strict=True) if stop.listeners]
    tall = BOX_HEIGHT + 17 * max(len(one.name) - 2 for one in boxes)
    return BusDrawing(own.stored.title, own.stored.id, box, tall, boxes, stretches, ends, heard)


def _sum(shares: Mapping[str, float], parts: Sequence[str]) -> float:
    return sum(shares.get(name, 0.0) for name in parts)


def _share(share: float) -> str:
    return f"{100 * share:.0f} %" if share >= _SHOWN else ""
