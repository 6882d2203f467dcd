"""Protection: what opens by itself when too much current flows."""

from __future__ import annotations

from ...base.conductor import fuse_cold_ohms
from ..part import Contact, Element, Kind, Param
from .common import CSA, JOINT, LENGTH, Params, joint_tolerance, number, opens, resists, sticks, tolerance, word
from .conductors import wire_ohms

FUSE_TOLERANCE = 0.2
# A thermal breaker of a vehicle trips in time from about 1.35 times its rating on and closes again at its rating's heat; common
# practice, no source.
TRIP_FACTOR, RESET_FACTOR = 1.35, 0.9
_BREAKER_OHMS = 0.008


def _fuse(params: Params, pins: tuple[str, ...]) -> tuple[Element, ...]:
    rating = number(params, "rating", 10.0)
    ohms = number(params, "ohms", fuse_cold_ohms(rating))
    return (Element("", "a", "b", ohms, number(params, "tolerance", FUSE_TOLERANCE), rating=rating),)


def _fusible_link(params: Params, pins: tuple[str, ...]) -> tuple[Element, ...]:
    return (Element("", "a", "b", wire_ohms(params), number(params, "tolerance", 0.12), rating=number(params, "rating", 60.0)),)


def _breaker(params: Params, pins: tuple[str, ...]) -> tuple[Element, ...]:
    rating = number(params, "rating", 20.0)
    latches = word(params, "reset", "auto") == "manual"
    trips = Contact(
        coil="",
        pull_in=(TRIP_FACTOR * rating) ** 2,
        drop_out=-1.0 if latches else (RESET_FACTOR * rating) ** 2,
        rest_closed=True,
        measure="amps²",
        seconds=0.0 if latches else number(params, "seconds", 8.0),
    )
    return (Element("", "a", "b", number(params, "ohms", _BREAKER_OHMS), joint_tolerance(params), contact=trips),)


_RATING = Param("rating", "A", "amperes", "rated current", required=True)

KINDS = (
    Kind(
        "fuse",
        "A blade fuse. A dead short behind it gives its current and says that it would blow.",
        ("a", "b"),
        _fuse,
        (opens(2.0, words="blown or missing"), resists(1.0, words="burnt clip or bad seat")),
        (
            _RATING,
            Param("ohms", "Ω", "ohms", "cold resistance", default="0.075 V divided by the rating", least="zero"),
            tolerance(FUSE_TOLERANCE),
        ),
        joint=True,
        symbol="fuse",
        built="fuse",
        holder=True,
        also=("blade fuse", "glass fuse", "strip fuse", "cutout"),
        called="{} fuse",
        nouns=("fuse",),
    ),
    Kind(
        "fusible_link",
        "A fusible link: a short thin stretch of wire that melts before the harness does.",
        ("a", "b"),
        _fusible_link,
        (opens(1.0, words="melted"), resists(1.0, words="burnt end or bad crimp")),
        (_RATING, LENGTH, CSA, Param("ohms", "Ω", "ohms", "resistance, overrides length and section", least="zero"), tolerance(0.12)),
        needs=(("ohms",), ("length_m", "csa_mm2")),
        joint=True,
        symbol="fuse",
        built="fuse",
        also=("link", "main fuse", "link wire", "maxi fuse"),
    ),
    Kind(
        "breaker",
        "A thermal circuit breaker: trips by the heat of its own current; cycles, or stays open until it is reset by hand.",
        ("a", "b"),
        _breaker,
        (*sticks(1.0, 0.2, "does not close", "welded: does not trip"), resists(1.0, words="burnt contacts")),
        (
            _RATING,
            Param("reset", "", "", "how it closes again", choices=("auto", "manual"), default="auto"),
            Param("ohms", "Ω", "ohms", "resistance when closed", default=f"{_BREAKER_OHMS:g}", least="zero"),
            Param("seconds", "s", "seconds", "time constant of its strip", default="8"),
            JOINT,
        ),
        joint=True,
        symbol="breaker",
        built="switch",
        also=("circuit breaker", "thermal switch", "cutout breaker", "bimetal breaker", "polyswitch"),
    ),
)
