"""Change a part in place: its name, what it is called, its colour, and every number that its kind takes."""

from __future__ import annotations

from ...base.brief import capitalized, quoted
from ...base.errors import MakingError
from ...circuit.part import Param
from ..asked import Asked, choice, text
from ..document import NAME, Document
from ..sizes import NOT_KNOWN, length_of, number_of, section_of
from .step import Given, Outcome, Step

__all__ = ["STEPS"]

WIDE = 0.6  # one standard deviation, as a share, of what is not known any more
_HIDDEN = ("tolerance", "at", "temperature")
_UNITS = {"A": ("a", "amp", "amps"), "V": ("v", "volt", "volts"), "W": ("w", "watt", "watts"), "Ω": ("ω", "ohm", "ohms"), "m": ("m",)}
LONGEST_LABEL = 80


def _change(document: Document, name: str, given: Given) -> Outcome:
    entry, done = document.part(name), []
    for key, value in given.items():
        said = " ".join(value.split())
        if key in ("name", "kind") or said == _shown(entry, key):
            continue
        if key in ("label", "colour", "note"):
            if len(said) > LONGEST_LABEL:
                raise MakingError(f"{len(said)} characters are too many for it, {LONGEST_LABEL} at most.")
            document.put(entry, key, said)
        else:
            _set(document, name, key, said)
        done.append(f"{_WORDS.get(key, key.replace('_', ' '))} {said or 'as usual'}")
    new = given.get("name", "").strip()
    if new and new != name:
        if not NAME.fullmatch(new):
            raise MakingError(f"{quoted(new)} is no name for a part: letters and digits such as F14, at most 24.")
        document.new_name(new, "")
        document.rename_part(name, new)
        done.insert(0, f"called {new}")
    return Outcome(f"{name}: {', '.join(done)}" if done else "", part=new or name)


_WORDS = {"length_m": "length", "csa_mm2": "section", "label": "called", "rating": "rating"}


def _set(document: Document, name: str, key: str, said: str) -> None:
    """One number of a part by what was said; what is not known keeps what is usual, with a wide tolerance."""
    entry, kind = document.part(name), document.kind(name)
    if key == "length_m":
        value: object = length_of(said)
    elif key == "csa_mm2":
        value = section_of(said)
        if isinstance(value, str):  # a gauge
            document.put(entry, "csa_mm2", None)
            document.put(entry, "awg", value)
            return
        if value is not None:
            document.put(entry, "awg", None)
    else:
        param = kind.param(key)
        if param is None:
            raise MakingError(f"A {kind.name.replace('_', ' ')} has no {key.replace('_', ' ')} to set.")
        value = said if param.choices else _number(param, said)
    if value is None and said:  # not known
        document.put(entry, "tolerance", WIDE)
        document.put(entry, "note", f"{_WORDS.get(key, key)} {NOT_KNOWN}, what stood there taken")
        return
    if value is not None and str(entry.get("note", "")).find(NOT_KNOWN) >= 0:
        _known(document, entry, key)
    document.put(entry, key, value)


def _known(document: Document, entry: object, key: str) -> None:
    """What was not known is: its wide tolerance goes, unless something else of the part is still unknown."""
    assert hasattr(entry, "get")
    note = str(entry.get("note", ""))
    word, both = _WORDS.get(key, key), "length and section"
    if both in note and word in ("length", "section"):
        other = "section" if word == "length" else "length"
        document.put(entry, "note", note.replace(both, other, 1))
        document.put(entry, "tolerance", WIDE)
        return
    document.put(entry, "note", None)
    document.put(entry, "tolerance", None)


def _number(param: Param, said: str) -> float | None:
    if not said:
        return None
    units = dict.fromkeys(("", param.unit.lower(), *_UNITS.get(param.unit, ())), 1.0)
    if said.strip() in ("0", "0.0") and param.least != "positive":
        return 0.0
    return number_of(said, units, f"{param.wanted} is wanted", 1e9)


def _shown(entry: object, key: str) -> str:
    """A value as it stands in its field."""
    assert hasattr(entry, "get")
    if key == "csa_mm2" and entry.get("awg"):
        return f"AWG {entry.get('awg')}"
    value = entry.get(key)
    return "" if value is None else f"{value:g}" if isinstance(value, float) else str(value)


def _asks(document: Document, name: str) -> tuple[Asked, ...]:
    entry, kind = document.part(name), document.kind(name)
    asked = [
        text("name", "Code", name),
        text("label", "Called", _shown(entry, "label")),
        text("colour", "Colour", _shown(entry, "colour")),
    ]
    for param in kind.params:
        if param.name in _HIDDEN or (param.name in ("awg",)) or (param.name == "ohms" and kind.name in ("relay", "wire")):
            continue
        words = capitalized(param.text) + (f", {param.unit}" if param.unit not in ("", "-") else "")
        shown = _shown(entry, param.name)
        if param.choices:
            ways = dict.fromkeys((shown or param.default, *param.choices))
            asked.append(choice(param.name, words, *(way for way in ways if way)))
        else:
            offer = (NOT_KNOWN,) if param.name in ("length_m", "csa_mm2") else ()
            asked.append(text(param.name, words, shown, offer=offer))
    return tuple(asked)


STEPS = (Step("change", "Change", "part", _change, asks=_asks),)
