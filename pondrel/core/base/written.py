"""What a person writes down, as fields of a kind: each has its type and length, and what does not fit is refused in one sentence."""

from __future__ import annotations

from collections.abc import Callable, Iterable, Mapping
from dataclasses import dataclass

from .brief import first_unshowable, quoted
from .errors import PondrelError

__all__ = ["STRUCK_OUT", "Content", "EntryError", "EntryField", "EntryKind", "Value", "checked_entry", "checked_fields"]

LONGEST_TEXT = 2000  # characters of a field where nothing else is said
MOST_FIELDS = 20
STRUCK_OUT = "struck out"  # what is said of an entry that no longer stands, where its kind says nothing else

Value = str | float | bool | None
Content = Mapping[str, Value]


class EntryError(PondrelError):
    """What was to be written down is not whole, or not of its kind."""


@dataclass(frozen=True, slots=True)
class EntryField:
    """A field of a kind of entry: its type, whether it must be filled, and the values that it may have (any text where there are none)."""

    name: str
    words: str
    required: bool = True
    choices: tuple[str, ...] = ()
    type: type[str] | type[float] | type[bool] = str
    longest: int = LONGEST_TEXT


@dataclass(frozen=True, slots=True)
class EntryKind:
    """A kind of entry: its ``title`` in the record, its fields, how its content ``reads``, and a ``check`` of the fields together, which
    gives the content as it is kept or raises PondrelError with one sentence. ``ended`` is what is said of one that no longer stands."""

    name: str
    title: str
    fields: tuple[EntryField, ...]
    reads: Callable[[Content], str] = lambda content: str(content.get("text") or "")
    check: Callable[[dict[str, Value]], dict[str, Value]] = lambda content: content
    ended: str = STRUCK_OUT


def checked_entry(kind: EntryKind, given: Mapping[str, Value]) -> dict[str, Value]:
    """The content of an entry of a kind as it is written down. Raises PondrelError with one sentence."""
    return kind.check(checked_fields(kind.title, kind.fields, given))


def checked_fields(title: str, fields: Iterable[EntryField], given: Mapping[str, Value]) -> dict[str, Value]:
    """The content of an entry as it is written down: its kind's fields, texts trimmed. Raises EntryError with one sentence."""
    known = tuple(fields)
    extra = [name for name in given if name not in {f.name for f in known}]
    if extra or len(given) > MOST_FIELDS:
        raise EntryError(f"{quoted(extra[0] if extra else title)} has no place in '{title}': it holds {', '.join(f.name for f in known)}.")
    return {field.name: _checked(field, given.get(field.name)) for field in known}


def _checked(field: EntryField, value: Value) -> Value:
    if field.type is str:
        return _checked_text(field, "" if value is None else str(value).strip())
    if value is None and not field.required:
        return None
    if not isinstance(value, (bool, int, float) if field.type is float else bool):
        raise EntryError(f"{field.words} must be {'a number' if field.type is float else 'yes or no'}, got {quoted(value)}.")
    return value


def _checked_text(field: EntryField, text: str) -> str:
    if not text and field.required:
        raise EntryError(f"{field.words} is missing: write it down in a few words{_choices(field)}.")
    if len(text) > field.longest:
        raise EntryError(f"{field.words} is {len(text):,} characters long; at most {field.longest:,} fit. Shorten it: nothing was written.")
    bad = first_unshowable(text)
    if bad:
        raise EntryError(f"{field.words} holds a character that no screen can show ({bad}). Delete it: nothing was written.")
    if text and field.choices and text not in field.choices:
        raise EntryError(f"{quoted(text)} is not one of {', '.join(field.choices)}.")
    return text


def _choices(field: EntryField) -> str:
    return f", one of {', '.join(field.choices)}" if field.choices else ""
