"""What is asked for a circuit in the making: things with their questions, each with an answer that holds where nobody gives one."""

from __future__ import annotations

from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass

from ..base.brief import first_unshowable, near, quoted
from ..base.errors import MakingError
from .loads import LOADS
from .reach import OPEN, REACHES, reached
from .sizes import NOT_KNOWN, length_of, load_of, rating_of, section_of, whole_of

__all__ = [
    "Answers",
    "Asked",
    "Thing",
    "choice",
    "fuse",
    "ground",
    "in_short",
    "load",
    "module",
    "relay",
    "sensor",
    "switch",
    "text",
    "times",
    "wire",
]

LONGEST = 120  # characters of an answer
_LENGTHS = ("0.5 m", "1 m", "2 m", "3 m", "5 m", "8 m", NOT_KNOWN)
_SECTIONS = ("0.5", "0.75", "1", "1.5", "2.5", "4", "6", "10", "16", "25", "35", NOT_KNOWN)
_RATINGS = ("5 A", "7.5 A", "10 A", "15 A", "20 A", "25 A", "30 A", "40 A", NOT_KNOWN)


@dataclass(frozen=True, slots=True)
class Asked:
    """One question of a thing: its ``name``, the ``words`` that ask it, the ``default`` answer, and answers to ``offer`` for a touch;
    ``only`` those where no other is taken. ``check`` raises MakingError for an answer that is none."""

    name: str
    words: str
    default: str
    offer: tuple[str, ...] = ()
    only: bool = False
    check: Callable[[str], object] = str


@dataclass(frozen=True, slots=True)
class Thing:
    """Something in the circuit that is asked about, ``title`` in words."""

    key: str
    title: str
    asked: tuple[Asked, ...]


def in_short(thing: Thing, said: Callable[[str, str], str]) -> tuple[str, ...]:
    """What holds of a thing, in few words: its answers, and what is not known by name. ``said`` gives an answer."""
    unknown = [asked.name for asked in thing.asked if said(thing.key, asked.name) == NOT_KNOWN]
    known = [
        said(thing.key, asked.name)
        for asked in thing.asked
        if asked.name not in ("name", "pins", "plug_reach", *unknown) and said(thing.key, asked.name)
    ]
    return (*known, f"{' and '.join(unknown)} {NOT_KNOWN}") if unknown else tuple(known)


def _name(title: str) -> Asked:
    return Asked("name", "Name, with its code on the diagram if you know it", title)


def _reach(way: str) -> Asked:
    return Asked("reach", "How it is reached", way, tuple(REACHES), check=reached)


def _pins(pins: str) -> Asked:
    return Asked("pins", "Pins of its plug", pins)


def fuse(key: str, title: str, rating: str = "10 A", reach: str = "cover") -> Thing:
    """A fuse: name, rating, how it is reached."""
    return Thing(key, title, (_name(title), Asked("rating", "Rating", rating, _RATINGS, check=rating_of), _reach(reach)))


def wire(key: str, title: str, length: str = NOT_KNOWN, section: str = NOT_KNOWN) -> Thing:
    """A wire: length, section, colour, and the pin of a plug that it passes."""
    return Thing(
        key,
        title,
        (
            Asked("length", "Length", length, _LENGTHS, check=length_of),
            Asked("section", "Section in mm², or AWG", section, _SECTIONS, check=section_of),
            Asked("colour", "Colour", ""),
            Asked("plug", "Plug on the way and its pin, such as C3 pin 7", ""),
            Asked("plug_reach", "How that plug is reached", OPEN, tuple(REACHES), check=reached),
        ),
    )


def load(
    key: str,
    title: str,
    sort: str = "lamp",
    size: str = NOT_KNOWN,
    pins: str = "1, 2",
    reach: str = OPEN,
    sorts: Sequence[str] = tuple(LOADS),
) -> Thing:
    """What is fed: name, sort where there is a choice, size, pins of its plug, how it is reached."""
    which = (Asked("sort", "What it is", sort, tuple(sorts), only=True),) if len(sorts) > 1 else ()
    size_asked = Asked("size", "Watts, amps or ohms, whichever you know", size, (NOT_KNOWN,), check=load_of)
    return Thing(key, title, (_name(title), *which, size_asked, _pins(pins), _reach(reach)))


def switch(key: str, title: str, pins: str = "1, 2", reach: str = OPEN) -> Thing:
    """A switch: name, pins, how it is reached."""
    return Thing(key, title, (_name(title), _pins(pins), _reach(reach)))


def ground(key: str, title: str, reach: str = OPEN) -> Thing:
    """A ground point: name and how it is reached."""
    return part(key, title, reach=reach)


def relay(key: str, title: str, reach: str = "cover") -> Thing:
    """A relay: name, ohms of its coil, how it is reached."""
    ohms = Asked("size", "Ohms of its coil", NOT_KNOWN, ("85 ohm", NOT_KNOWN), check=load_of)
    return Thing(key, title, (_name(title), ohms, _reach(reach)))


def module(key: str, title: str, pins: Mapping[str, str], reach: str = "cover") -> Thing:
    """A control module: name, and the numbers of the pins that matter here by what they are."""
    return Thing(key, title, (_name(title), *(Asked(f"pin_{name}", f"Pin: {words}", "") for name, words in pins.items()), _reach(reach)))


def sensor(key: str, title: str, *more: Asked, pins: str = "1, 2", reach: str = "cover") -> Thing:
    """A sensor: name, what else is asked of it, pins, how it is reached."""
    return Thing(key, title, (_name(title), *more, _pins(pins), _reach(reach)))


def part(key: str, title: str, *more: Asked, reach: str = "cover") -> Thing:
    """A part whose pins are known by its sort: name, what else is asked of it, how it is reached."""
    return Thing(key, title, (_name(title), *more, _reach(reach)))


def choice(name: str, words: str, *ways: str) -> Asked:
    """A question with a few answers, the first of which holds where none is given."""
    return Asked(name, words, ways[0], ways, only=True)


def times(name: str, words: str, default: int, most: int, what: str, least: int = 1) -> Asked:
    """A question for how many."""
    offer = tuple(str(n) for n in range(least, min(most, least + 7) + 1))
    return Asked(name, words, str(default), offer, check=lambda said: whole_of(said, least, most, what))


def text(name: str, words: str, default: str = "", check: Callable[[str], object] = str, offer: Sequence[str] = ()) -> Asked:
    """A question of one's own."""
    return Asked(name, words, default, tuple(offer), check=check)


class Answers:
    """The answers to a list of things: what was given, and the defaults of what was not.

    ``said("feed", "length")`` is the text of one. Raises MakingError for a name that nothing asks for and for an answer that is none.
    """

    def __init__(self, things: Sequence[Thing], given: Mapping[str, str]):
        self._asked = {f"{thing.key}.{asked.name}": (thing, asked) for thing in things for asked in thing.asked}
        self.given = {key: " ".join(value.split()) for key, value in given.items()}

    def flaws(self) -> dict[str, str]:
        """What is wrong with the answers, a sentence by the name of each; empty for good ones."""
        found = {}
        for key, value in self.given.items():
            if key not in self._asked:
                found[key] = f"{quoted(key)} is not asked for this circuit{near(key, self._asked)}."
                continue
            thing, asked = self._asked[key]
            try:
                _check(asked, value)
            except MakingError as error:
                found[key] = f"{thing.title}, {asked.words[:1].lower()}{asked.words[1:]}: {error}"
        return found

    def said(self, thing: str, name: str) -> str:
        """One answer."""
        key = f"{thing}.{name}"
        return self.given.get(key) or self._asked[key][1].default

    def asks(self, thing: str, name: str) -> bool:
        """Whether a thing has that question."""
        return f"{thing}.{name}" in self._asked


def _check(asked: Asked, value: str) -> None:
    if len(value) > LONGEST:
        raise MakingError(f"{len(value):,} characters are too many, {LONGEST} at most.")
    if first_unshowable(value):
        raise MakingError(f"it holds a character that no screen can show ({first_unshowable(value)}): delete it.")
    if value and asked.only and value not in asked.offer:
        raise MakingError(f"{quoted(value)} is none of them: {', '.join(asked.offer)}.")
    if value:
        asked.check(value)
