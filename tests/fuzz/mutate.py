"""Hostile and unlucky input from a seed: sheets changed as text and as data, lines, CSV files, readings."""

from __future__ import annotations

import copy
import io
import random
import re
from typing import Any

from ruamel.yaml import YAML

from pondrel.core.base.errors import PondrelError
from pondrel.core.circuit.sheet import Sheet
from pondrel.core.evidence.items import Item
from pondrel.core.evidence.registry import WORD_SORTS, item_of
from pondrel.core.meter.instrument import INSTRUMENTS

__all__ = ["some_csv", "some_data_changed", "some_item", "some_line", "some_text_changed"]

TOKENS = (
    "!!bool abc", "!!omap", "*x", "&x", "? ", "[", "]", "{", "}", "null", "~", "true", ".nan", ".inf", "1e308", "1e-308", "0", "-1",
    "99999999999999999999", "0x" + "f" * 50, "''", '"\\ud800"', '"\\x07"', "\u202e", "ä", "battery", "wire", "a" * 61, "<<: ", "- ", "| ",
    "#", "%", "@", "`", "\t", "2026-01-01", "12:30:00", "1_000", "0o17", "yes", "off", "on", "\r", "\x00",
)  # fmt: skip
VALUES: tuple[Any, ...] = (
    None, True, 0, -1, 1e-15, 1e12, 1e13, float("nan"), float("inf"), 1e-3, 1e6, "", [], {}, [1, 2], {"a": 1}, "x", "a" * 61, "open",
    "closed", "batt+", 10**30, "2", "1",
)  # fmt: skip
WORDS = (
    "is", "measure", "good", "volts", "ohms", "wiggle", "see", "code", "swap", "look", "skip", "when", "suspect", "test", "history", "to",
    "→", "=", "=>", "12.4", "OL", "-3", "4k7", "0e99", "1e400", "dim", "changed", "corroded", "", "\u202e", "ſ", "İ", "'", '"', "%s", "{}",
)  # fmt: skip


def some_text_changed(rng: random.Random, text: str) -> str:
    """A text with a few characters, lines or words of it changed."""
    for _ in range(rng.choice((1, 1, 1, 2, 3, 6))):
        at, way = rng.randrange(len(text) + 1), rng.random()
        lines = text.split("\n")
        if way < 0.2:
            text = text[:at] + text[at + rng.randint(1, 4) :]
        elif way < 0.4:
            text = text[:at] + rng.choice(TOKENS) + text[at:]
        elif way < 0.5:
            lines.insert(rng.randrange(len(lines) + 1), rng.choice(lines))
            text = "\n".join(lines)
        elif way < 0.6:
            del lines[rng.randrange(len(lines))]
            text = "\n".join(lines)
        elif way < 0.8 and (found := list(re.finditer(r"[-\d.]+|\b\w+\b", text))):
            word = rng.choice(found)
            text = text[: word.start()] + rng.choice((*TOKENS, *(rng.choice(found).group() for _ in range(8)))) + text[word.end() :]
        else:
            text = text[:at] + rng.choice("{}[]:,'\"#&*!|>%@`-? \n") + text[at:]
    return text


def _paths(data: Any, path: tuple = ()) -> list[tuple]:
    below = data.items() if isinstance(data, dict) else enumerate(data) if isinstance(data, list) else ()
    return [path, *(found for key, value in below for found in _paths(value, (*path, key)))]


def _at(data: Any, path: tuple) -> Any:
    for key in path:
        data = data[key]
    return data


def some_data_changed(rng: random.Random, text: str) -> str:
    """A sheet with a few entries left out, replaced or copied elsewhere."""
    data = YAML(typ="safe", pure=True).load(text)
    for _ in range(rng.choice((1, 1, 2, 3))):
        paths = [path for path in _paths(data) if path]
        path, way = rng.choice(paths), rng.random()
        holder, key = _at(data, path[:-1]), path[-1]
        if way < 0.25:
            del holder[key]
        elif way < 0.6:
            holder[key] = copy.deepcopy(rng.choice(VALUES))
        elif way < 0.8:
            holder[key] = copy.deepcopy(_at(data, rng.choice(paths)))
        elif isinstance(holder, dict):
            holder[rng.choice(("new", "kind", "pins", "ohms", "tolerance", "minutes", "state", "at", "of"))] = holder[key]
    out = io.StringIO()
    YAML(typ="safe", pure=True).dump(data, out)
    return out.getvalue()


def _names(sheet: Sheet) -> tuple[str, ...]:
    return (*sheet.places, *sheet.parts, *sheet.states, *sheet.observe, *sheet.codes, *sheet.tables)


def some_line(rng: random.Random, sheet: Sheet) -> str:
    """A line of a few words, most of them from the grammar or the sheet; now and then a very long one."""
    words = [rng.choice((*WORDS, *_names(sheet))) for _ in range(rng.randint(0, 7))]
    if rng.random() < 0.02:
        words = words * rng.choice((50, 3000)) or [" " * 50_000]
    return rng.choice((" ", "  ", "\t")).join(words)


def some_csv(rng: random.Random, sheet: Sheet) -> str:
    """A CSV file, its header or a row now and then broken."""
    rows = ["state,instrument,red,black,value" + rng.choice(("", ",note", ",note,more", ",,", "\x00"))]
    for _ in range(rng.randint(0, 6)):
        fields = [rng.choice(tuple(sheet.states)), rng.choice((*INSTRUMENTS, *WORD_SORTS)), *rng.choices((*_names(sheet), ""), k=2)]
        rows.append(",".join([*fields, rng.choice(WORDS), *rng.choices(("", "a note", '"', '"half', "x" * rng.choice((1, 140_000))), k=1)]))
    text = rng.choice(("\n", "\r\n", "\r", "\n\n")).join(rows)
    return some_text_changed(rng, text) if rng.random() < 0.5 else text


def some_item(rng: random.Random, sheet: Sheet) -> Item:
    """A reading or finding that can be entered, whatever the others say."""
    while True:
        verb = rng.choice((*["volts"] * 6, *INSTRUMENTS, *WORD_SORTS))
        state = rng.choice(tuple(sheet.states))
        try:
            if verb in WORD_SORTS:
                subject = rng.choice((WORD_SORTS[verb].subjects(sheet) if WORD_SORTS[verb].wants_subject else ()) or ("",))
                return item_of(sheet, state, verb, subject, "", rng.choice(tuple(WORD_SORTS[verb].outcomes(sheet, subject)) or ("?",)))
            supply, places = sheet.supply_volts, tuple(sheet.places)
            value = rng.choice(
                (f"{rng.uniform(-2, 2) * supply:.2f}", f"{rng.uniform(0, 1.1 * supply):.2f}", "0", f"{10 ** rng.uniform(-3, 6):.3g}", "OL")
            )
            good = "good " if rng.random() < 0.05 else ""
            return item_of(sheet, state, good + verb, rng.choice(places), rng.choice((*places, "", "")), value)
        except PondrelError:
            continue
