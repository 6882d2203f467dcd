"""Evidence as CSV: one item a row, with the columns in which readings and observations travel."""

from __future__ import annotations

import csv
import io

from ..base.errors import ReadingError
from ..circuit.safety import ForbiddenError
from ..circuit.sheet import Sheet
from .items import Item
from .registry import item_of
from .safety import check_allowed

__all__ = ["COLUMNS", "read_csv"]

COLUMNS = ("state", "instrument", "red", "black", "value")
MAY_FOLLOW = ("note", "unplugged")
MOST_ROWS = 1000  # of one file


def read_csv(sheet: Sheet, text: str) -> tuple[Item, ...]:
    """Readings and findings from CSV with the columns of COLUMNS and those that may follow. Raises ReadingError naming the line."""
    # Any of the three ways to end a line is taken, also one by itself in the middle of a file.
    rows = csv.DictReader(io.StringIO(text.lstrip("\ufeff"), newline=None), skipinitialspace=True)
    try:
        return _items(sheet, rows)
    except csv.Error:
        longest = f"a field that is longer than {csv.field_size_limit():,} characters or a quote that never ends"
        raise ReadingError(f"Line {rows.line_num + 1}: this is no CSV; look for {longest}.") from None


def _items(sheet: Sheet, rows: csv.DictReader[str]) -> tuple[Item, ...]:
    header = [name.strip() for name in rows.fieldnames or []]
    missing = [name for name in COLUMNS if name not in header]
    if missing:
        raise ReadingError(
            f"The first line must name the columns {','.join(COLUMNS)}[,{','.join(MAY_FOLLOW)}]; missing: {', '.join(missing)}."
        )
    rows.fieldnames = header
    items: list[Item] = []
    for row in rows:
        if None in row:
            raise ReadingError(f'Line {rows.line_num}: more fields than columns; put a decimal comma in quotes, as "12,4".')
        field = {name: (row.get(name) or "").strip() for name in (*COLUMNS, *MAY_FOLLOW)}
        if not any(field.values()):
            continue
        if len(items) == MOST_ROWS:
            raise ReadingError(f"Line {rows.line_num}: a file holds at most {MOST_ROWS:,} readings; split it by job.")
        try:
            item = item_of(sheet, *(field[name] for name in (*COLUMNS, *MAY_FOLLOW)))
            check_allowed(sheet, item)
            items.append(item)
        except (ReadingError, ForbiddenError) as error:
            raise ReadingError(f"Line {rows.line_num}: {error}") from None
    return tuple(items)
