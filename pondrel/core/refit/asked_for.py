"""What fitting asks for besides, by what circuit, complaint and part speak of: fluids and bleeding, gaps, belts, airbags, air lines.

Common practice without a source; the maker's instructions go before it.
"""

from __future__ import annotations

import re

from .step import Step

__all__ = ["asked_for"]

_BELT = Step("belt", "Belt on and tensioned", "Push it in the middle of its longest stretch.", "deflection in mm")
_RULES: tuple[tuple[str, tuple[Step, ...]], ...] = (
    (
        r"brak\w*\b(?! light)|abs\b",
        (
            Step(
                "brake_fluid",
                "Brake fluid filled up",
                "Fresh from a closed can, of the grade on the cap.",
                "fluid and amount, or that no line was opened",
            ),
            Step(
                "bled",
                "Bled, wheel by wheel",
                "In the maker's order; where nothing is said the longest line first: far rear, near rear, far front, near front.",
                "the order, such as right rear, left rear, right front, left front, or that no line was opened",
                "Firm pedal, level and no leak before it moves.",
            ),
        ),
    ),
    (
        r"hydraulic\w*|tail.?lift|cylinder\w*|folding roof",
        (
            Step("oil", "Oil filled up", "All cylinders drawn in, vehicle level.", "fluid and amount"),
            Step("bled_oil", "Bled", "Run it without a load through its whole way, twice, then fill again.", "how often it was run"),
        ),
    ),
    (
        r"coolant|thermostat|radiator",
        (
            Step("coolant", "Coolant filled up", "Heater on full, in the mixture that was in it.", "fluid and amount"),
            Step("bled_coolant", "Bled", "Highest screw open until it runs clear, then warm, then the level again.", "level when cold"),
        ),
    ),
    (
        r"gear ?box|transmission|lock.?up|(?<!steering )gears?\b",
        (
            Step(
                "gear_oil",
                "Gearbox oil to its level",
                "Of the grade in its papers; at the warmth and with the selector as the maker says.",
                "fluid and amount, or that none ran out",
            ),
        ),
    ),
    (
        r"purge|vapour|fuel (?:pump|rail|line|tank|injector)|injector",
        (
            Step(
                "fuel_lines",
                "Fuel and vapour lines home in their clips",
                "New seals where the maker says; run it and look before the covers go on.",
                caution="No spark and no test lamp until nothing drips and nothing smells.",
            ),
        ),
    ),
    (r"stator|flywheel|magneto", (Step("cover_oil", "Oil that ran out filled up", "To its mark, engine level.", "fluid and amount"),)),
    (
        r"clutch\b(?! (?:switch|pedal|sensor))",
        (Step("gap", "Air gap set all round", "Measured at three places; shims out where it is wide, in where it drags.", "gap in mm"),),
    ),
    (
        r"air spring\w*|kneel\w*|air suspension",
        (
            Step(
                "air_line",
                "Air line cut square and pushed home",
                "Hand-tight and a quarter turn; soap on it.",
                caution="On stands, pump fuse out, until the line holds.",
            ),
        ),
    ),
    (r"(?<!seat )(?<!seat-)belt\b|tensioner", (_BELT,)),
    (
        r"seat\b|airbag\w*|pretensioner\w*",
        (
            Step(
                "yellow",
                "Yellow plugs home, battery still off",
                "Then key on with nobody inside.",
                caution="No meter on a squib; battery off and the maker's wait before any yellow plug.",
            ),
        ),
    ),
)


def asked_for(words: str) -> tuple[Step, ...]:
    """The steps that words ask for, each once."""
    found = [step for pattern, steps in _RULES if re.search(rf"\b(?:{pattern})", words, re.IGNORECASE) for step in steps]
    return tuple(dict.fromkeys(found))
