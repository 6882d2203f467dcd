"""Evidence: readings with their instrument, places and state; and the CSV in which they travel."""

from __future__ import annotations

import csv
import io
from dataclasses import dataclass

from ..circuit.sheet import Sheet
from ..errors import ReadingError
from ..meter import Instrument, instrument, standard_uncertainty
from ..quantity import Measured, parse_reading
from .offer import Test

__all__ = ["COLUMNS", "Reading", "read_csv", "reading_of"]

COLUMNS = ("state", "instrument", "red", "black", "value")


@dataclass(frozen=True, slots=True)
class Reading:
    """One number from one instrument: red and black lead on two nodes, the sheet in a state.

    ``ohms`` readings are taken with the battery disconnected; ``amps`` with the meter in line between red and black, in place of
    whatever joins those two directly (the fuse pulled, the plug parted).
    """

    state: str
    instrument: str
    red: str
    black: str
    measured: Measured
    note: str = ""

    @property
    def test(self) -> Test:
        """The measurement without its outcome."""
        return Test(self.state, self.instrument, self.red, self.black)

    @property
    def meter(self) -> Instrument:
        """The instrument's data."""
        return instrument(self.instrument)

    @property
    def uncertainty(self) -> float:
        """Standard uncertainty of the number, in its SI unit."""
        return standard_uncertainty(self.meter, self.measured)


def reading_of(sheet: Sheet, state: str, meter: str, red: str, black: str, value: str, note: str = "") -> Reading:
    """A reading from text, checked against the sheet. Raises ReadingError with one sentence."""
    sheet.state(state)
    tool = instrument(meter)
    red_node, black_node = sheet.probe(red), sheet.probe(black)
    if red_node == black_node:
        raise ReadingError(f"Red and black are both on {red_node}: put them on two different places.")
    return Reading(state, meter, red_node, black_node, parse_reading(value, tool.unit), note)


def read_csv(sheet: Sheet, text: str) -> tuple[Reading, ...]:
    """Readings from CSV with the columns of COLUMNS and an optional ``note``. Raises ReadingError naming the line."""
    rows = csv.DictReader(io.StringIO(text.lstrip("\ufeff")), skipinitialspace=True)
    header = [name.strip() for name in rows.fieldnames or []]
    missing = [name for name in COLUMNS if name not in header]
    if missing:
        raise ReadingError(f"The first line must name the columns {','.join(COLUMNS)}[,note]; missing: {', '.join(missing)}.")
    rows.fieldnames = header
    made = []
    for row in rows:
        if None in row:
            raise ReadingError(f'Line {rows.line_num}: more fields than columns; put a decimal comma in quotes, as "12,4".')
        field = {name: (row.get(name) or "").strip() for name in (*COLUMNS, "note")}
        if not any(field.values()):
            continue
        try:
            made.append(reading_of(sheet, field["state"], field["instrument"], field["red"], field["black"], field["value"], field["note"]))
        except ReadingError as error:
            raise ReadingError(f"Line {rows.line_num}: {error}") from None
    return tuple(made)
