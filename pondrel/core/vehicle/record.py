"""What is written down about a vehicle as such: notes, mileages, parts fitted. Its record is added to and never changed."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass

from ..base.dates import checked_date, days_between, said_date
from ..base.written import Content, EntryError, EntryField, EntryKind, Value, checked_fields
from .ledger import HOW, Fitted
from .mileage import Mileage, checked_mileage, parse_mileage

__all__ = ["KINDS", "VehicleEntry", "checked_vehicle_content", "fitted_of", "mileage_of", "read_at"]

MOST_MONTHS = 240

KINDS: Mapping[str, EntryKind] = {
    kind.name: kind
    for kind in (
        EntryKind("note", "Note", (EntryField("text", "The note"),)),
        EntryKind(
            "mileage",
            "Mileage",
            (EntryField("reads", "The mileage", longest=40), EntryField("renewed", "Whether the instrument was changed", type=bool)),
            lambda content: str(content.get("reads")),
        ),
        EntryKind(
            "fitted",
            "Fitted",
            (
                EntryField("part", "What was fitted", longest=120),
                EntryField("name", "The part's name on the sheet", required=False, longest=60),
                EntryField("on", "When it was fitted", longest=10),
                EntryField("at", "The mileage then", required=False, longest=40),
                EntryField("how", "Whether it was new, rebuilt, used or repaired", choices=HOW),
                EntryField("source", "From whom it came", required=False, longest=120),
                EntryField("months", "The months of warranty", required=False, longest=4),
                EntryField("distance", "The distance of warranty", required=False, longest=40),
                EntryField("helped", "Whether it helped", required=False, choices=("yes", "no")),
                EntryField("note", "The note", required=False, longest=500),
            ),
            lambda content: f"{content.get('part')}, {content.get('how')}",
        ),
    )
}


@dataclass(frozen=True, slots=True)
class VehicleEntry:
    """One line of a vehicle's record; ``job_id`` is the job it was written in, ``struck`` why it no longer counts, None while it does."""

    id: int
    vehicle_id: int
    job_id: int | None
    kind: str
    content: Content
    person: str
    made_at: str
    struck: str | None = None

    def text(self, name: str) -> str:
        """A field as text, empty where it is missing."""
        value = self.content.get(name)
        return "" if value is None else str(value)


def mileage_of(entry: VehicleEntry) -> Mileage:
    """What a line of mileage says."""
    found = parse_mileage("The mileage", entry.text("reads"))
    assert found is not None  # it was checked when it was written
    return found


def fitted_of(entry: VehicleEntry) -> Fitted:
    """What a line of the ledger says."""
    return Fitted(
        entry.id,
        entry.text("part"),
        entry.text("name"),
        entry.text("on"),
        parse_mileage("The mileage then", entry.text("at")),
        entry.text("how"),
        entry.text("source"),
        int(entry.text("months")) if entry.text("months") else None,
        parse_mileage("The distance of warranty", entry.text("distance")),
        entry.job_id,
        entry.text("helped"),
        entry.text("note"),
    )


def read_at(entry: VehicleEntry) -> str:
    """When a mileage was read, as it is said behind it."""
    return f"on {said_date(entry.made_at)}"


def checked_vehicle_content(
    kind: str, given: Mapping[str, Value], unit: str, today: str, before: VehicleEntry | None = None
) -> dict[str, Value]:
    """The content of a line as it is written down, numbers in the vehicle's own ``unit`` where none is named; ``before`` is the last line
    of mileage. Raises PondrelError with one sentence."""
    if kind not in KINDS:
        raise EntryError(f"Nothing is chosen to be written down about the vehicle: {', '.join(KINDS)} can be.")
    content = checked_fields(KINDS[kind].title, KINDS[kind].fields, given)
    if kind == "mileage":
        now = parse_mileage("The mileage", str(content["reads"]), unit)
        assert now is not None
        checked_mileage(now, mileage_of(before) if before else None, read_at(before) if before else "", bool(content["renewed"]))
        return content | {"reads": now.kept}
    if kind == "fitted":
        return _checked_fitted(content, unit, today)
    return content


def _checked_fitted(content: dict[str, Value], unit: str, today: str) -> dict[str, Value]:
    on = checked_date("The day it was fitted", str(content["on"]))
    if days_between(today, on) > 0:
        raise EntryError(f"The day it was fitted lies ahead ({said_date(on)}): write the day on which it was done.")
    at = parse_mileage("The mileage when it was fitted", str(content["at"]), unit)
    distance = parse_mileage("The distance of warranty", str(content["distance"]), unit)
    months = str(content["months"])
    if months and not (months.isascii() and months.isdecimal() and 0 < int(months) <= MOST_MONTHS):
        raise EntryError(f"The months of warranty must be a whole number from 1 to {MOST_MONTHS}, got '{months}'.")
    return content | {"on": on, "at": at.kept if at else "", "distance": distance.kept if distance else ""}
