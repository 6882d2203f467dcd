"""The bench's page: what was typed, and what it comes to."""

from __future__ import annotations

import sqlite3
from collections.abc import Collection, Mapping, Sequence
from dataclasses import dataclass

from ...core.base.errors import ReadingError
from ...core.bench import Outcome, outcome
from ...core.bench.case import Case
from ...core.bench.common import SETTINGS
from ...core.bench.family import Check, Family, Setting
from ...core.bench.given import Given, given_from
from ...core.bench.history import Among, among
from ...core.bench.judged import Judged
from ...core.check import Finding
from ...core.meter.handheld import AS_TYPED
from ...store.bench import BenchRow, alike, earlier_of_vehicle
from ...store.meters import meter_named
from ..shell.range_bar import RangeBar, range_bar
from ..shell.words import when

__all__ = ["Board", "board", "given_of", "main_of"]

MOST_TYPED = 200  # characters of one field
OHM_RANGES = ("40", "400", "4k", "40k", "400k", "4M")
BLANK_ROWS, MOST_TABLE = 3, 60
_CELSIUS = "c."


def given_of(family: Family, form: Mapping[str, str]) -> Given:
    """What was typed into the form's fields: ``s.`` a setting, ``r.`` a reading, ``c.`` the temperature beside it."""
    reads = []
    for check in _fields(family):
        text = form.get(f"r.{check.name}", "").strip()[:MOST_TYPED]
        if text:
            warm = form.get(f"{_CELSIUS}{check.name}", "").strip()[:20]
            reads.append((check.name, text if not warm or "@" in text else f"{text} @{_warm(warm)}"))
    settings = [
        (setting.name, text)
        for setting in (*family.settings, *SETTINGS)
        if (text := form.get(f"s.{setting.name}", "").strip()[:MOST_TYPED]) and (text != _usual(setting) or setting.house)
    ]
    limits = [line.strip() for line in form.get("limit", "").splitlines()[:12] if line.strip()]
    return Given(tuple(settings), tuple(reads), tuple(limits), form.get("points", ""), form.get("meter", ""))


def _usual(setting: Setting) -> str:
    """What is usual of a setting, as it stands in its field."""
    return setting.usual if isinstance(setting.usual, str) else f"{setting.usual:g}" if setting.usual is not None else ""


def _warm(text: str) -> str:
    return f"{text}C" if text.replace(",", ".").lstrip("+-−").replace(".", "", 1).isdigit() else text


def _fields(family: Family) -> Sequence[Check]:
    twin = main_of(family)
    return (*family.checks, *([Check("twin", "a known-good one", twin.units)] if twin is not None and twin.units else []))


def main_of(family: Family) -> Check | None:
    """The check that has the big field; None where a family is about a table first of all."""
    return next((check for check in family.checks if check.name == family.main and check.units), None)


@dataclass(frozen=True, slots=True)
class Board:
    """All that the page shows: the family with the fields' texts, what it comes to or the sentence why not, the bar of the finding that
    leads, and others of the same sort."""

    family: Family
    given: Given
    outcome: Outcome | None
    error: str
    lead: Judged | None
    bar: RangeBar | None
    others: Among | None
    rows: Sequence[BenchRow]
    since: tuple[str, ...] = ()

    @property
    def main(self) -> Check | None:
        """The check with the big field."""
        return main_of(self.family)

    @property
    def over_ranges(self) -> list[tuple[str, str]]:
        """What may be typed for an over-range reading whose range nobody named, and what each is called; empty for any other reading."""
        main = self.main
        typed = self.typed(main.name).upper().replace(".", "") if main else ""
        if typed != "OL":
            return []
        return [
            (f"OL({text})", f"{text.replace('k', ' k').replace('M', ' M')}Ω" if text[-1] in "kM" else f"{text} Ω") for text in OHM_RANGES
        ]

    @property
    def table(self) -> list[tuple[str, list[str]]]:
        """The rows of the table of points: what each is, and its cells; those that a family begins with first, blank ones at the end."""
        columns = self.family.columns
        typed = self._typed_rows()
        known = list(self.family.rows(self._case()))
        rows = [(says, typed.pop(name, [name, *[""] * (len(columns) - 1)])) for name, says in known]
        rows += [("", cells) for cells in typed.values()]
        blank = max(BLANK_ROWS - len(rows), 0 if known else 1)
        return rows + [("", [""] * len(columns))] * blank

    def _case(self) -> Case:
        said = dict(self.given.settings)
        return Case({setting.name: said.get(setting.name, setting.usual) for setting in self.family.settings})

    def _typed_rows(self) -> dict[str, list[str]]:
        """The cells of what stands in the table, by the first one; as they were typed, whether they can be read or not."""
        columns = [column.name for column in self.family.columns]
        lines = [line for line in self.given.points.splitlines()[:MOST_TABLE] if line.strip()]
        sign = ";" if lines and ";" in lines[0] else ","
        cells = [[cell.strip() for cell in line.split(sign)] for line in lines]
        if cells and set(cells[0]) & set(columns):
            order = [cells[0].index(name) if name in cells[0] else -1 for name in columns]
            cells = [[row[at] if 0 <= at < len(row) else "" for at in order] for row in cells[1:]]
        rows: dict[str, list[str]] = {}
        for number, row in enumerate(cells):
            named = self.family.columns[0].free and row[0] not in rows
            rows[row[0] if named else f"{number} "] = [*row, *[""] * len(columns)][: len(columns)]
        return rows

    def named(self, judged: Judged) -> str:
        """What was read, where a finding says no more than its number."""
        check = self.family.check(judged.check)
        return f"{check.says[:1].upper()}{check.says[1:]}" if check and check.units and check in self.family.checks else ""

    @property
    def settings_first(self) -> list[Setting]:
        """The settings that come before the number: those without which nothing can be judged."""
        needed = set(self.family.needed(Case()))
        return [setting for setting in self.family.settings if setting.early or setting.name in needed]

    @property
    def settings_later(self) -> list[Setting]:
        """The other ones, but for those that are asked for beside the chart."""
        first = self.settings_first
        return [setting for setting in self.family.settings if not setting.service and setting not in first]

    @property
    def beside(self) -> list[Check]:
        """The other checks."""
        return [check for check in self.family.checks if check is not self.main]

    def typed(self, name: str) -> str:
        """What stands in a reading's field, without its temperature."""
        return self._read(name).partition("@")[0].strip() if self.warm(name) else self._read(name)

    def warm(self, name: str) -> str:
        """What stands in the field of its temperature."""
        _, at, noted = self._read(name).partition("@")
        token = noted.strip()
        return token.removesuffix("C").removesuffix("°").strip() if at and "@" not in token and token[-1:] in "CF" else ""

    def _read(self, name: str) -> str:
        return dict(self.given.reads).get(name, "")

    def is_set(self, setting: Setting) -> str:
        """What stands in a setting's field, or what is usual."""
        said = dict(self.given.settings).get(setting.name)
        if said is not None:
            return said
        return _usual(setting)


def board(
    conn: sqlite3.Connection, family: Family, given: Given, title: str, apart: Collection[int] = (), vehicle_id: int | None = None,
) -> Board:  # fmt: skip
    """The page's model; the checks that are ``apart`` are none of the others, and of those of a vehicle the ones before them tell what
    changed since."""
    if not given.reads and not given.points.strip() and not given.settings:
        return Board(family, given, None, "", None, None, None, ())
    own = meter_named(conn, given.meter) if given.meter else None
    try:
        found = outcome(family, given.case(family, own.meter if own else AS_TYPED))
    except ReadingError as error:
        return Board(family, given, None, str(error), None, None, None, ())
    value, unit = found.number(family.main)
    rows = [row for row in alike(conn, family.name, title, unit) if row.id not in apart] if unit and title else []
    others = among([row.number for row in rows if row.number is not None], value, unit)
    lead = _lead(family, found)
    bar = _bar(lead, [row.number for row in rows if row.number is not None])
    since = _since(conn, family, given.case(family, own.meter if own else AS_TYPED), vehicle_id, min(apart, default=None))
    return Board(family, given, found, "", lead, bar, others, rows, since)


def _since(conn: sqlite3.Connection, family: Family, case: Case, vehicle_id: int | None, before: int | None) -> tuple[str, ...]:
    """What changed since the vehicle's check before; nothing where there is none."""
    row = earlier_of_vehicle(conn, family.name, vehicle_id, before) if family.since and vehicle_id is not None else None
    if row is None or family.since is None:
        return ()
    old = given_from(row.given)
    meter = meter_named(conn, old.meter) if old.meter else None
    then = old.case(family, meter.meter if meter else AS_TYPED)
    return (f"Since {when(row.made_at)}:", *family.since(case, then))


def _lead(family: Family, found: Outcome) -> Judged | None:
    """The finding that leads: the worst of the main check, else the worst with a number, else the worst."""
    main = [judged for judged in found.findings if judged.check == family.main]
    numbers = [judged for judged in found.findings if judged.limit is not None]
    return next(iter([*main, *numbers, *found.findings]), None)


def _bar(lead: Judged | None, others: Sequence[float]) -> RangeBar | None:
    if lead is None or lead.limit is None or isinstance(lead.value, str) or not lead.unit:
        return None
    brought = lead.value if lead.brought is None else lead.brought
    finding = Finding(lead.limit, lead.verdict, lead.value, brought, lead.guard, None, lead.because, "", "")
    return range_bar(finding, others)
