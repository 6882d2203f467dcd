"""Reads ``fits``: the vehicles that a sheet or limit is for."""

from __future__ import annotations

import re
from typing import Any

from ...base.brief import quoted
from ..fits import Fit
from .reader import Reader

__all__ = ["FIT_KEYS", "fits_of"]

FIT_KEYS = ("make", "model", "years", "options")
_MOST, _LONGEST = 20, 60
_YEARS = re.compile(r"(\d{4})?\s*(-|to)?\s*(\d{4})?")
_HINT = "a list of vehicles such as {make: Quessel, model: Hop 16, years: 2015-2021}"


def fits_of(reader: Reader, value: Any, path: str) -> tuple[Fit, ...]:
    """Read a ``fits``: one vehicle or a list of them; flaws go to the reader."""
    if value is None:
        return ()
    items = value if isinstance(value, list) else [value]
    if len(items) > _MOST:
        reader.flaw(path, f"names {len(items)} vehicles; at most {_MOST} fit")
        return ()
    found = []
    for number, item in enumerate(items, 1):
        own = f"{path}.{number}" if isinstance(value, list) else path
        given = reader.mapping(item, own, _HINT)
        reader.keys(given, FIT_KEYS, own)
        make, model = (reader.text(given.get(key), f"{own}.{key}", _LONGEST) for key in ("make", "model"))
        since, until = _years(reader, given.get("years"), f"{own}.years")
        options = _options(reader, given.get("options"), f"{own}.options")
        found.append(Fit(make, model, since, until, options))
    return tuple(found)


def _years(reader: Reader, value: Any, path: str) -> tuple[int | None, int | None]:
    """First and last year from ``2015-2021``, ``2015-``, ``-2021`` or ``2018``."""
    if value is None:
        return None, None
    match = _YEARS.fullmatch(str(value).strip())
    if match is None or not (match[1] or match[3]) or (match[1] and match[3] and not match[2]):
        reader.flaw(path, f"must be years such as 2015-2021, 2015- or 2018, got {quoted(value)}")
        return None, None
    since = int(match[1]) if match[1] else None
    until = int(match[3]) if match[3] else None if match[2] else since
    if since is not None and until is not None and since > until:
        reader.flaw(path, f"ends before it begins, got {quoted(value)}")
    return since, until


def _options(reader: Reader, value: Any, path: str) -> tuple[str, ...]:
    if value is None:
        return ()
    if isinstance(value, str):
        return tuple(text for part in value.split(",") if (text := part.strip()))
    if isinstance(value, list) and all(isinstance(option, str) for option in value):
        return tuple(value)
    reader.flaw(path, f"must be a text, or a list of texts, such as [second battery], got {quoted(value)}")
    return ()
