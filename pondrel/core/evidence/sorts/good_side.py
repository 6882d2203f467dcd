"""Readings from a circuit that is known to be good: the other side of the vehicle, or its twin."""

from __future__ import annotations

from collections.abc import Mapping, Sequence

from ...base.errors import ReadingError
from ...circuit.sheet import Sheet
from ...meter.instrument import INSTRUMENTS
from ..asked import Measurement
from ..items import Item, Reading
from ..sort import head_of
from .reading import Measured

PLACE = 1
_GOOD = "good"


class GoodSide(Measured):
    """The same point of the good side or of a known-good vehicle on the same supply: nothing is wrong there."""

    name, title, words = "good", "Good side", "a reading of the good side or of a known-good vehicle"
    lasts = True
    verbs = (_GOOD, *(f"{_GOOD} {meter}" for meter in INSTRUMENTS))
    elsewhere = True

    def read(self, sheet: Sheet, given: Mapping[str, str]) -> Reading:
        """As `Sort.read`; the instrument may be named with ``good`` before it."""
        return super().read(sheet, {**given, "instrument": _meter(given.get("instrument", ""))})

    def columns(self, item: Item) -> tuple[str, str, str, str]:
        """As `Sort.columns`."""
        state, meter, red, black = super().columns(item)
        return state, f"{_GOOD} {meter}", red, black

    def parse(self, sheet: Sheet, verb: str, rest: str, state: str, named: bool) -> tuple[Item, str]:
        """As `Sort.parse`."""
        meter = _meter(verb)
        if not meter:
            raise ReadingError(f"After '{_GOOD}' stands an instrument: {', '.join(INSTRUMENTS)}.")
        return super().parse(sheet, meter, rest, state, named)

    def expected(self, sheet: Sheet, rest: str) -> Sequence[str]:
        """As `Sort.expected`; after the word alone an instrument."""
        meter, left = head_of(rest, INSTRUMENTS)
        return tuple(INSTRUMENTS) if meter is None and not rest else super().expected(sheet, left if meter else rest)

    def test(self, sheet: Sheet, verb: str, red: str, black: str, state: str, off: str = "") -> Measurement:
        """As `Sort.test`: the same measurement, made elsewhere."""
        return super().test(sheet, _meter(verb), red, black, state, off)


def _meter(words: str) -> str:
    return words.removeprefix(_GOOD).strip()


SORTS = (GoodSide(),)
