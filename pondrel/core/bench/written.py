"""A case from what somebody wrote: settings and readings as names with a value, limits as a line, points as a table.

Limits read ``ohms 3.15..3.45 @20C (maker: sheet 12)``, ``13±10%``, ``<=0.1``, ``>=1M``, ``about 20``; the name may be left out for what the
family is first of all about. Behind it stand the conditions that it holds under and, in brackets, whose word it is.
"""

from __future__ import annotations

import re
from collections.abc import Callable, Iterable, Mapping, Sequence

from ..base.brief import near, quoted
from ..base.conditions import COLDEST_C, split_conditions
from ..base.errors import ReadingError
from ..base.quantity import Measured, parse_reading
from ..base.units import known_unit
from ..check import KINDS, Limit
from ..check.limit import kind_of_source
from ..meter.handheld import AS_TYPED, Handheld
from .case import Case, Read
from .common import SETTINGS, twin_of
from .family import Check, Family, Setting

__all__ = ["case_from", "limit_from", "pair_of", "points_from"]

REMEMBERED_WITHIN = 20.0  # percent: how far a number that is half remembered may be off
MOST_SWEPT, MOST_ROWS, MOST_LINE, MOST_PERCENT = 5000, 500, 400, 1000.0  # a sweep may be long, a table is typed
_ABOVE_NOUGHT = frozenset({"V", "W", "A", "Ω", "F", "H", "mm", "rpm", "s"})
_SYNONYMS = {"y": "yes", "n": "no", "true": "yes", "false": "no", "ok": "yes"}
_RANGE = re.compile(r"(?P<low>.+?)\s*(?:\.\.|…|\bto\b)\s*(?P<high>.+)")
_AROUND = re.compile(r"(?P<middle>.+?)\s*(?:±|\+/?-)\s*(?P<part>[\d.,]+)\s*(?P<percent>%?)(?P<unit>.*)")
_EDGE = re.compile(r"(?P<side><=|>=|≤|≥|<|>)\s*(?P<edge>.+)")
_A_MINUTE = re.compile(r"\s*(?:/\s*min|a minute|per minute)\b")  # of what is lost in a minute the unit is that of the gauge
_ABOUT = re.compile(r"(?:about|some|around|ca\.?|~)\s*(?P<middle>.+)", re.IGNORECASE)


def pair_of(text: str, wanted: str) -> tuple[str, str]:
    """Name and value of ``name=value``. Raises ReadingError saying what is wanted."""
    name, equals, value = text.partition("=")
    if not equals or not name.strip() or not value.strip():
        raise ReadingError(f"{quoted(text)} is not understood: {wanted} is wanted.")
    return name.strip(), value.strip()


def case_from(
    family: Family, settings: Iterable[tuple[str, str]] = (), reads: Iterable[tuple[str, str]] = (), limits: Iterable[str] = (),
    points: str = "", meter: Handheld = AS_TYPED,
) -> Case:  # fmt: skip
    """A case of a family. Raises ReadingError with one sentence for whatever cannot be."""
    given: dict[str, float | str] = {}
    every = {setting.name: setting for setting in (*SETTINGS, *family.settings)}
    read_names = {check.name for check in family.checks} | {column.name for column in family.columns}
    set_first, read_first = list(settings), list(reads)
    # What is set and what is read is told apart by its name alone: nobody at a vehicle sorts them.
    to_set = [pair for pair in set_first if _own(family, pair[0]) not in read_names or _own(family, pair[0]) in every]
    to_set += [pair for pair in read_first if _own(family, pair[0]) in every and _own(family, pair[0]) not in read_names]
    to_read = [pair for pair in (*set_first, *read_first) if pair not in to_set]
    for name, text in to_set:
        setting = _named(family, name)
        given[setting.name] = _set(setting, text)
    usual = {setting.name: setting.usual for setting in every.values()}
    taken: dict[str, list[Read]] = {}
    columns: dict[str, list[Read]] = {}
    for name, text in to_read:
        own = _own(family, name)
        column = next((column for column in family.columns if column.name == own), None)
        if column is not None and own not in {check.name for check in family.checks}:
            columns.setdefault(own, []).append(_cell(column.name, column.unit, column.words, column.free, text))
        else:
            taken.setdefault(own, []).append(_read(_check(family, name), text))
    rows = [*_zipped(family, columns), *points_from(family, points)]
    held: dict[str, list[Limit]] = {}
    for line in limits:
        check, limit = limit_from(family, line)
        held.setdefault(check, []).append(limit)
    return Case(
        {**usual, **given}, frozenset(given), {name: tuple(own) for name, own in taken.items()},
        {name: tuple(sorted(own, key=lambda limit: KINDS.index(limit.kind))) for name, own in held.items()}, tuple(rows), meter,
    )  # fmt: skip


def _own(family: Family, name: str) -> str:
    return family.aliases.get(name, name)


def _named(family: Family, name: str) -> Setting:
    every = {setting.name: setting for setting in (*SETTINGS, *family.settings)}
    own = family.aliases.get(name, name)
    if own not in every:
        raise ReadingError(f"{quoted(name)} is nothing that is set for {family.name}{near(name, every)}.")
    return every[own]


def _set(setting: Setting, text: str) -> float | str:
    if setting.words:
        return _word(setting.words, text, setting.says)
    if not setting.unit and isinstance(setting.usual, str):
        return text
    read = parse_reading(text, setting.unit)
    if read.over_range:
        raise ReadingError(f"{quoted(text)} is no value for {setting.says}: a number is wanted.")
    if setting.unit in _ABOVE_NOUGHT and (read.value < 0.0 or (read.value == 0.0 and not setting.zero)):
        raise ReadingError(f"{quoted(text)} cannot be for {setting.says}: a number above nought is wanted.")
    if setting.unit == "%" and not 0.0 <= read.value <= MOST_PERCENT:
        raise ReadingError(f"{quoted(text)} cannot be for {setting.says}: a share from 0 to {MOST_PERCENT:g} % is wanted.")
    if setting.unit == "°C" and read.value < COLDEST_C:
        raise ReadingError(f"{quoted(text)} is no temperature that anything on a vehicle has.")
    return read.value


def _check(family: Family, name: str) -> Check:
    own = family.aliases.get(name, name)
    check = family.check(own) if own not in {derived.name for derived in family.derived} else None
    if check is None and own == "twin":
        check = twin_of(family)
    if check is None:
        known = [check.name for check in family.checks] + [column.name for column in family.columns]
        raise ReadingError(f"{quoted(name)} is nothing that is read for {family.name}{near(name, known)}.")
    return check


def _word(words: Sequence[str], text: str, says: str) -> str:
    said = " ".join(text.lower().split())
    known = {word.lower(): word for word in words}
    said = _SYNONYMS.get(said, said) if _SYNONYMS.get(said) in known else said
    if said not in known:
        raise ReadingError(f"{quoted(text)} is no answer to '{says}': {' or '.join(words)} is.")
    return known[said]


def _read(check: Check, text: str) -> Read:
    value, noted = split_conditions(text)
    if check.words:
        return Read(check.name, text, _word(check.words, value, check.says), noted=noted)
    unit, measured = _in_a_unit(value, check.units)
    return Read(check.name, text, "", measured, unit, noted)


def _in_a_unit(text: str, units: Sequence[str]) -> tuple[str, Measured]:
    first: ReadingError | None = None
    for unit in units:
        try:
            return unit, parse_reading(text, unit)
        except ReadingError as error:
            first = first or error
    assert first is not None
    raise first


def limit_from(family: Family, line: str) -> tuple[str, Limit]:
    """The check that a limit is about, and the limit. Raises ReadingError with one sentence."""
    if len(line) > MOST_LINE:
        raise ReadingError(f"{quoted(line)} is too long for a limit: one such as 'ohms 3.15..3.45 @20C' is wanted.")
    text, _, bracket = line.strip().partition("(")
    whose = bracket.rstrip().removesuffix(")").strip()
    span, conditions = split_conditions(text.strip())
    name, _, rest = span.strip().partition(" ")
    own = family.aliases.get(name, name)
    check = family.check(own)
    if check is None and (not name[:1].isalpha() or name.lower() in ("about", "some", "around", "ca", "ca.")):
        check, rest = family.check(family.main), span
    if check is None or not check.units:
        known = [check.name for check in (*family.checks, *family.derived) if check.units]
        raise ReadingError(f"{quoted(name)} is nothing that has a limit for {family.name}{near(name, known)}.")
    low, high, unit, remembered = _span(_A_MINUTE.sub("", rest.strip()), check, line)
    kind = "half remembered" if remembered else kind_of_source(whose) if whose else "given"
    source = whose or ("half remembered" if remembered else "as given")
    if whose.lower().startswith("maker:"):
        source = whose.partition(":")[2].strip() or "maker"
    if low > high:
        raise ReadingError(f"The limit {quoted(line)} ends below where it begins: write the smaller number first.")
    return check.name, Limit(unit, low, high, source, kind, conditions)


def _span(text: str, check: Check, line: str) -> tuple[float, float, str, bool]:
    """Edges, unit, and whether they are from memory."""
    inf = float("inf")
    wanted = f"a limit such as '{check.name} 3.15..3.45', '{check.name} 13±10%', '{check.name} <=0.5' or '{check.name} about 20' is wanted"
    if match := _ABOUT.fullmatch(text):
        unit, middle = _edge_of(match["middle"], check, line, wanted)
        part = abs(middle) * REMEMBERED_WITHIN / 100.0
        return middle - part, middle + part, unit, True
    if match := _EDGE.fullmatch(text):
        unit, edge = _edge_of(match["edge"], check, line, wanted)
        return (-inf, edge, unit, False) if match["side"] in ("<=", "≤", "<") else (edge, inf, unit, False)
    if match := _AROUND.fullmatch(text):
        unit, middle = _edge_of(match["middle"] + (match["unit"] if match["percent"] else ""), check, line, wanted)
        if match["percent"]:
            part = abs(middle) * parse_reading(match["part"], "%").value / 100.0
        else:
            _, part = _edge_of(match["part"] + match["unit"], check, line, wanted)
        return middle - part, middle + part, unit, False
    if match := _RANGE.fullmatch(text):
        unit, high = _edge_of(match["high"], check, line, wanted)
        letters = re.sub(r"^[\d.,+\-−\s]+", "", match["high"].strip())
        low_text = match["low"] if re.search(r"[A-Za-zΩω%°µ]", match["low"]) else match["low"] + letters
        _, low = _edge_of(low_text, check, line, wanted, unit)
        return low, high, unit, False
    raise ReadingError(f"{quoted(line)} is no limit: {wanted}.")


def _edge_of(text: str, check: Check, line: str, wanted: str, unit: str = "") -> tuple[str, float]:
    try:
        found, measured = _in_a_unit(text.strip(), [unit] if unit else check.units)
    except ReadingError as error:
        raise ReadingError(f"{quoted(line)} is no limit: {str(error).rstrip('.')}.") from None
    if measured.over_range:
        raise ReadingError(f"{quoted(line)} is no limit: {wanted}.")
    return found, measured.value


def _cell(name: str, unit: str, words: Sequence[str], free: bool, text: str) -> Read:
    said = text.strip()
    if words:
        return Read(name, said, _word(words, said, name))
    if free:
        return Read(name, said, said[:60])
    value, noted = split_conditions(said)
    return Read(name, said, "", parse_reading(value, unit), unit, noted)


def _zipped(family: Family, columns: Mapping[str, Sequence[Read]]) -> list[Mapping[str, Read]]:
    if not columns:
        return []
    counts = {name: len(reads) for name, reads in columns.items()}
    short = [column.name for column in family.columns if column.name not in counts and not column.optional]
    if short or len(set(counts.values())) > 1:
        told = ", ".join(f"{name} {counts.get(name, 0)} times" for name in (column.name for column in family.columns))
        raise ReadingError(f"Points want every column as often as the others, but there is {told}.")
    return [dict(zip(columns, row, strict=True)) for row in zip(*columns.values(), strict=True)]


def points_from(family: Family, text: str) -> list[Mapping[str, Read]]:
    """Rows of a pasted column or a CSV text. Its heading names the columns; without one they stand in the family's order; with one number
    less a line, the first column is counted. Raises ReadingError with the line that is wrong."""
    lines = [(number, line.strip()) for number, line in enumerate(text.splitlines(), 1) if line.strip()]
    if not lines:
        return []
    if not family.columns:
        raise ReadingError(f"{family.name} takes no points: give its readings one by one.")
    most = MOST_SWEPT if family.sweep else MOST_ROWS
    if len(lines) > most + 1:
        raise ReadingError(f"There are {len(lines)} lines, and {most} points are the most: leave out every second one, or more.")
    cut = _delimiter(family, lines)
    rows = [(number, [cell.strip() for cell in cut(line)]) for number, line in lines]
    own = [column.name for column in family.columns]
    heading = [_plain(cell) for cell in rows[0][1]]
    names = [family.aliases.get(name, name) for name in heading]
    if set(names) & set(own):
        unknown = [name for name in names if name not in own]
        missing = [column.name for column in family.columns if column.name not in names and not column.optional]
        if unknown or missing:
            raise ReadingError(f"Line {rows[0][0]} heads the columns {', '.join(names)}, but {', '.join(own)} are wanted.")
        rows = rows[1:]
    else:
        names = own
    by_name = {column.name: column for column in family.columns}
    found: list[Mapping[str, Read]] = []
    for place, (number, cells) in enumerate(rows):
        if len(cells) == len(names) - 1 and not by_name[names[0]].free and by_name[names[0]].unit in ("", "%"):
            cells = [str(place), *cells]
        while len(cells) < len(names) and by_name[names[len(cells)]].optional:
            cells.append("")
        if len(cells) != len(names):
            raise ReadingError(f"Line {number} has {len(cells)} values, but {len(names)} are wanted: {', '.join(names)}.")
        try:
            found.append({name: _cell(name, by_name[name].unit, by_name[name].words, by_name[name].free, cell)
                          for name, cell in zip(names, cells, strict=True) if cell or not by_name[name].optional})  # fmt: skip
        except ReadingError as error:
            raise ReadingError(f"Line {number}: {error}") from None
    if any(read.measured.over_range for row in found for read in row.values()):
        number = next(n for (n, _), row in zip(rows, found, strict=True) if any(read.measured.over_range for read in row.values()))
        raise ReadingError(f"Line {number} is over range: points are numbers; leave that line out, or read it on a higher range.")
    return found


def _plain(cell: str) -> str:
    return re.sub(r"\s*[\[(].*", "", cell.strip().strip('"').lower())


def _by_spaces(text: str) -> list[str]:
    """Words of a line; a unit goes with the number before it."""
    cells: list[str] = []
    for word in text.split():
        if cells and cells[-1][:1] in "0123456789.+-−" and known_unit(word):
            cells[-1] += f" {word}"
        else:
            cells.append(word)
    return cells


def _delimiter(family: Family, lines: Sequence[tuple[int, str]]) -> Callable[[str], list[str]]:
    """How the cells of a line are parted. Raises ReadingError where a comma may be a decimal one."""
    first = lines[0][1]
    for sign in (";", "\t"):
        if sign in first:
            return lambda text: text.split(sign)
    if "," not in first or (" " in first and all(re.fullmatch(r"[\d,\-+ ]+", line) for _, line in lines)):
        return _by_spaces
    if not re.search(r"[A-Za-z]{2}", first) and first.count(",") == 1 and not any("." in line for _, line in lines):
        raise ReadingError(
            f"Line {lines[0][0]} may be two numbers or one with a decimal comma: write a "
            f"heading ({','.join(c.name for c in family.columns)}), "
            "or part the columns by semicolons."
        )
    return lambda text: text.split(",")
