"""What a person enters on the Trace screen, checked against the job's sheet."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass

from ...core.base.errors import PondrelError
from ...core.evidence.entered import Entered, item_entered
from ...core.evidence.items import Item
from ...core.evidence.line import LONGEST_LINE
from ...core.evidence.safety import acknowledged_first
from ...core.isolate import asked_back
from ...core.job.safety import acknowledged
from ..jobs.docket import Docket, last_state
from ..shell.fields import checked, typed
from ..shell.workshop import units
from ..shell.workups import workups

__all__ = ["Form", "checked_item", "form_of", "noted_units", "questioned", "unread_before"]

_FIELDS = ("state", "instrument", "red", "black", "value", "note", "unplugged")
_WORDS = {
    "state": "The state", "instrument": "The instrument", "red": "Red's place", "black": "Black's place", "note": "The note",
    "unplugged": "What is unplugged",
}  # fmt: skip


@dataclass(frozen=True, slots=True)
class Form(Entered):
    """What the evidence form holds: filled from the proposed test, kept as typed after an error."""

    error: str = ""
    unread: tuple[str, ...] = ()  # the cautions that it waits for
    sure: str = ""  # the value that was asked back: entered once more it is written as it is


def form_of(given: Mapping[str, str]) -> Form:
    """The form as it was sent; a touch on an answer's button stands for its word, one on what cannot be done for that."""
    texts = typed(*_FIELDS, "answer", "skip", "sure", given=given)
    value = f"skip {texts['skip']} not here" if texts["skip"] else texts["answer"] or _with_conditions(texts["value"], given)
    state, meter, red, black, note, off = (texts[name] for name in _FIELDS if name != "value")
    return Form(state, meter, red, black, value, note, off, sure=texts["sure"])


def _with_conditions(value: str, given: Mapping[str, str]) -> str:
    """A number with the conditions that were noted in fields of their own behind it; a line of words stays as it was typed."""
    if (not value[:1].isdigit() and value[:1] not in ("-", ".", "O", "o")) or "@" in value:
        return value
    noted = [(text, unit) for name, unit in noted_units().items() if (text := given.get(f"at {name}", "").strip())]
    return " ".join((value, *(f"@{text}{unit if text[-1:].isdigit() else ''}" for text, unit in noted)))


def noted_units() -> Mapping[str, str]:
    """By condition the unit in which this workshop notes it."""
    own = units()
    return {
        "celsius": own.temperature, "volts": "V", "rpm": "rpm", "kilopascals": own.pressure, "millimetres": own.width, "lead_ohms": "ohm",
        "minutes": "min",
    }  # fmt: skip


def checked_item(docket: Docket, form: Form) -> tuple[Item, str]:
    """What was entered as a reading or observation, and what is written down as its value. A number, or an outcome's word, goes to the test
    that is chosen; anything else is a line of its own.

    Raises PondrelError with one sentence.
    """
    if docket.concluded:
        raise PondrelError("This job is concluded: reopen it with a reason before you add readings.")
    checked("The reading", " ".join(form.value.split()), LONGEST_LINE)
    for name, what in _WORDS.items():
        checked(what, getattr(form, name))
    return item_entered(docket.sheet, form, last_state(docket))


def unread_before(docket: Docket, item: Item) -> tuple[str, ...]:
    """The cautions that lock an item's step and that nobody has said to have read."""
    return acknowledged_first(docket.sheet, item.test, acknowledged(docket.record.entries))


def questioned(docket: Docket, form: Form, item: Item) -> str:
    """What is asked back before an item is written; empty where there is nothing to ask, or where it was asked and entered again."""
    if form.sure == form.value:
        return ""
    with workups().working(docket.stored_sheet) as prepared:
        return asked_back(prepared.workup, item)
