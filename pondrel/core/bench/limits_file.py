"""The workshop's limits as a file: CSV with a heading, or JSON; the same columns both ways."""

from __future__ import annotations

import csv
import io
import json
from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass

from ..base.brief import first_unshowable, quoted
from ..base.errors import PondrelError, ReadingError
from .registry import family_of
from .written import limit_from

__all__ = ["COLUMNS", "Row", "checked_row", "rows_from", "to_csv", "to_json"]

COLUMNS = ("family", "what", "limit", "note")
MOST_ROWS, LONGEST = 5000, 400


@dataclass(frozen=True, slots=True)
class Row:
    """A limit: its family, what it is for (empty for all of the family), its line with conditions and source, and a note."""

    family: str
    what: str
    limit: str
    note: str


def checked_row(given: Mapping[str, object], where: str = "") -> Row:
    """A row whose family and line are known. Raises ReadingError with one sentence, ``where`` before it."""
    texts = [" ".join(str(given.get(name) or "").split()) for name in COLUMNS]
    row = Row(*texts)
    try:
        if any(len(text) > LONGEST or first_unshowable(text) for text in texts):
            raise ReadingError(f"A limit's texts have up to {LONGEST} characters that a screen can show.")
        if not row.limit:
            raise ReadingError("The limit is missing: write one such as 'ohms 3.15..3.45 @20C (maker: sheet 12)'.")
        limit_from(family_of(row.family), row.limit)
    except ReadingError as error:
        raise ReadingError(f"{where}{error}") from None
    return row


def to_csv(rows: Iterable[Row]) -> str:
    """All rows with a heading."""
    out = io.StringIO()
    writer = csv.writer(out, lineterminator="\n")
    writer.writerow(COLUMNS)
    writer.writerows((row.family, row.what, row.limit, row.note) for row in rows)
    return out.getvalue()


def to_json(rows: Iterable[Row]) -> str:
    """All rows as a list of objects."""
    return (
        json.dumps(
            [dict(zip(COLUMNS, (row.family, row.what, row.limit, row.note), strict=True)) for row in rows], indent=2, ensure_ascii=False
        )
        + "\n"
    )


def rows_from(text: str) -> list[Row]:
    """The rows of a CSV or JSON text. Raises PondrelError naming the line or entry that is wrong."""
    plain = text.lstrip("\ufeff").strip()
    if not plain:
        raise PondrelError("The file is empty: a heading family,what,limit,note and a line a limit are wanted.")
    given = _from_json(plain) if plain[0] in "[{" else _from_csv(plain)
    if len(given) > MOST_ROWS:
        raise PondrelError(f"The file holds {len(given)} limits; {MOST_ROWS} are taken at once.")
    return [checked_row(row, f"{where}: ") for where, row in given]


def _from_json(text: str) -> Sequence[tuple[str, Mapping[str, object]]]:
    try:
        found = json.loads(text)
    except (ValueError, RecursionError) as error:
        raise PondrelError(f"The file is no JSON: {quoted(str(error)[:60])}.") from None
    if not isinstance(found, list) or not all(isinstance(row, dict) for row in found):
        raise PondrelError("The JSON is a list of objects with family, what, limit and note.")
    return [(f"Entry {number}", row) for number, row in enumerate(found, 1)]


def _from_csv(text: str) -> Sequence[tuple[str, Mapping[str, object]]]:
    first = text.splitlines()[0]
    try:
        rows = list(csv.DictReader(io.StringIO(text), delimiter=";" if first.count(";") > first.count(",") else ","))
    except csv.Error as error:
        raise PondrelError(f"The file is no CSV: {error}.") from None
    if not rows or not {"family", "limit"} <= {str(name).strip().lower() for name in rows[0] if name}:
        raise PondrelError("The first line heads the columns family, what, limit and note; a line a limit follows.")
    return [
        (f"Line {number}", {str(name).strip().lower(): value for name, value in row.items() if name}) for number, row in enumerate(rows, 2)
    ]
