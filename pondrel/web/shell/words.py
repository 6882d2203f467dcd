"""How numbers and names are shown: template filters, so that every screen says them alike."""

from __future__ import annotations

import math
from collections.abc import Iterable, Mapping

from flask import Flask
from markupsafe import Markup, escape

from ...core.base.brief import capitalized, lowered
from ...core.base.quantity import show
from ...core.circuit.connector import pin_at
from ...core.circuit.unplug import in_words
from ...core.evidence.registry import WORD_SORTS
from ...core.isolate import ORDERS, percent
from ...core.job.kinds import ended_of, title_of
from ...core.meter.instrument import INSTRUMENTS

__all__ = ["METER_WORDS", "init_app", "minutes_text", "options", "reading_text"]

METER_WORDS = {
    "volts": "Volts", "ohms": "Ohms, dead", "amps": "Amps in line", "lowz": "Volts, low Z", "ac": "Volts, AC", "continuity": "Beeper",
    "clamp": "Clamp", "scope": "Scope", "top": "Scope, upper level", "base": "Scope, lower level", "lamp": "Test lamp",
    "load": "Volts under load",
    **{name: sort.title for name, sort in WORD_SORTS.items()},
}  # fmt: skip

ORDER_NAMES = {name: words.partition(":")[0] for name, words in ORDERS.items()}


def reading_text(value: float, instrument: str) -> str:
    """A value of an instrument as its display would show it."""
    if instrument not in INSTRUMENTS:
        return str(value)
    return "OL" if math.isinf(value) else show(value, INSTRUMENTS[instrument].unit)


def severity_text(severity: tuple[float, float, float]) -> str:
    """``about 1.41 Ω (1.30 to 1.53)``."""
    value, low, high = severity
    return f"about {show(value, 'Ω')} ({show(low, 'Ω')} to {show(high, 'Ω')})"


def minutes_text(minutes: float) -> str:
    """Minutes as a person says them: ``6 min``, ``under 1 min``."""
    return f"{minutes:.0f} min" if minutes >= 0.95 else "under 1 min"


def when(text: str) -> str:
    """``2026-11-20T08:12:00Z`` as ``20 Nov 08:12``."""
    months = ["Jan", "Feb", "Mar", "Apr", "May", "Jun", "Jul", "Aug", "Sep", "Oct", "Nov", "Dec"]
    return f"{int(text[8:10])} {months[int(text[5:7]) - 1]} {text[11:16]}"


def options(names: Iterable[str], chosen: str, words: Mapping[str, str] | None = None) -> Markup:
    """The options of a select, with ``words`` for names where those are given; the chosen one marked, and among them even where it is none
    of them, as the far end of a wire that a clamp goes around. Long lists of places are quicker made here than in a template."""
    known = list(names)
    every = known if not chosen or chosen in known else [*known, chosen]
    made = []
    for name in every:
        said = (words or {}).get(name, name)
        value = f' value="{escape(name)}"' if said != name else ""
        made.append(f"<option{value}{' selected' if name == chosen else ''}>{escape(said)}</option>")
    return Markup("".join(made))


def init_app(app: Flask) -> None:
    """Register the filters."""
    app.jinja_env.filters.update(
        capitalized=capitalized,
        lowered=lowered,
        ended=ended_of,
        entry_title=title_of,
        minutes=minutes_text,
        off_in_words=in_words,
        percent=percent,
        reading=reading_text,
        severity=severity_text,
        when=when,
    )
    app.jinja_env.globals.update(
        meter_words=METER_WORDS, instruments=tuple(INSTRUMENTS), order_names=ORDER_NAMES, options=options, pin_at=pin_at
    )
