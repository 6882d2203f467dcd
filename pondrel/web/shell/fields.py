"""What comes in by address and form: numbers that can be ids, texts with a stated length, kept as typed where they are refused."""

from __future__ import annotations

import math
from collections.abc import Mapping

from flask import Flask, request, url_for
from werkzeug.routing import IntegerConverter

from ...core.base.brief import first_unshowable
from ...core.base.errors import PondrelError

__all__ = ["LONGEST", "checked", "init_app", "is_fragment", "number_asked", "typed", "way_back", "whole"]

LONGEST = 2000  # characters of a text where nothing else is said
MOST_ID = 2**63 - 1  # what the database takes as an id


class IdConverter(IntegerConverter):
    """An id in an address; a number that can be none is nothing at this address."""

    regex = r"[0-9]{1,18}"


def whole(text: str) -> int | None:
    """A whole number from zero on that can be an id or a count; None for any other text, however long."""
    return int(text) if 0 < len(text) <= 18 and text.isascii() and text.isdecimal() else None


def typed(*names: str, given: Mapping[str, str] | None = None) -> dict[str, str]:
    """The named texts of the form (or of ``given``) as typed, nothing cut; what is missing is empty."""
    source = request.form if given is None else given
    return {name: source.get(name, "").replace("\r\n", "\n").replace("\r", "\n").strip() for name in names}


def checked(what: str, text: str, most: int = LONGEST) -> str:
    """The text, if it is no longer than may be and can be shown. Raises PondrelError naming ``what``."""
    if len(text) > most:
        raise PondrelError(f"{what} is {len(text):,} characters long; at most {most:,} fit. Shorten it: nothing was written.")
    bad = first_unshowable(text)
    if bad:
        raise PondrelError(f"{what} holds a character that no screen can show ({bad}). Delete it: nothing was written.")
    return text


def number_asked(name: str, otherwise: float) -> float:
    """A finite number of the address; ``otherwise`` where there is none of that name, or another text."""
    try:
        value = float(request.args.get(name, ""))
    except ValueError:
        return otherwise
    return value if math.isfinite(value) else otherwise


def is_fragment() -> bool:
    """Whether a script asks for a page's middle alone."""
    return request.headers.get("X-Fragment") == "1"


def way_back() -> str:
    """Where a form that is on every page came from: a path here, none that a browser takes for a host; else the Bay."""
    back = request.form.get("back", "")
    return back if back.startswith("/") and not back.startswith(("//", "/\\")) else url_for("bay.show")


def init_app(app: Flask) -> None:
    """Register the converter ``id``."""
    app.url_map.converters["id"] = IdConverter
