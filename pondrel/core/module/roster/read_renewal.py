"""How a module is reset and renewed, read from its roster with every flaw named by its place."""

from __future__ import annotations

from typing import Any

from ...circuit.read.reader import Reader
from .renewal import Renewal, RightPart, Sensitivity, TeachStep, YardDrive
from .resets import Resets
from .values import each, hazards_in, names_in, number_of, optional, whole

__all__ = ["DRIVE_KEYS", "PART_KEYS", "RENEWAL_KEYS", "RESETS_KEYS", "SENSITIVITY_KEYS", "TEACH_KEYS", "renewal_in", "resets_in"]

RESETS_KEYS = ("off_s", "wakes_s", "by", "forgets", "acts_on", "source")
RENEWAL_KEYS = ("part", "steps", "functions", "used", "note", "hazards")
PART_KEYS = ("datum", "fits", "note")
TEACH_KEYS = (
    *("name", "does", "wants", "routine", "datum", "least", "most", "is", "drive", "sensitivity", "authority"),
    *("hazards", "caution"),
)
DRIVE_KEYS = ("speed", "steering", "fastest", "metres", "turn", "left", "right", "stops")
SENSITIVITY_KEYS = ("least", "most", "triggers")
_MOST_STEPS, _MOST_COUNT, _MOST_LEVEL = 24, 20, 100


def resets_in(reader: Reader, value: Any, path: str) -> Resets | None:
    """What stands under ``resets``; None for nothing."""
    if value is None:
        return None
    given = reader.mapping(value, path, "a mapping such as {off_s: 20, wakes_s: 5, by: fuse F3}")
    reader.keys(given, RESETS_KEYS, path)
    by, forgets, acts_on, source = (reader.text(given.get(key), f"{path}.{key}", 200) for key in ("by", "forgets", "acts_on", "source"))
    return Resets(
        number_of(reader, given, "off_s", path, 0.0, "zero", 3600.0), number_of(reader, given, "wakes_s", path, 0.0, "zero", 600.0),
        by, forgets, acts_on, source,
    )  # fmt: skip


def renewal_in(reader: Reader, value: Any, path: str) -> Renewal | None:
    """What stands under ``renewal``; None for nothing."""
    if value is None:
        return None
    given = reader.mapping(value, path, "a mapping with part, steps and functions")
    reader.keys(given, RENEWAL_KEYS, path)
    part = reader.mapping(given.get("part"), f"{path}.part", "a mapping such as {datum: number, fits: [A 12]}")
    reader.keys(part, PART_KEYS, f"{path}.part")
    right = RightPart(
        reader.text(part.get("datum"), f"{path}.part.datum", 60), names_in(reader, part.get("fits"), f"{path}.part.fits"),
        reader.text(part.get("note"), f"{path}.part.note", 200),
    )  # fmt: skip
    return Renewal(
        right, each(reader, given.get("steps"), f"{path}.steps", "a mapping of names to steps", _step, _MOST_STEPS),
        names_in(reader, given.get("functions"), f"{path}.functions"), reader.text(given.get("used"), f"{path}.used", 300),
        reader.text(given.get("note"), f"{path}.note", 300), hazards_in(reader, given.get("hazards"), f"{path}.hazards"),
    )  # fmt: skip


def _step(reader: Reader, name: str, item: Any, path: str) -> TeachStep:
    given = reader.mapping(item, path, "a mapping with name and what it is accepted by")
    reader.keys(given, TEACH_KEYS, path)
    routine, datum = (reader.text(given.get(key), f"{path}.{key}", 60) for key in ("routine", "datum"))
    drive, sensitivity = _drive(reader, given.get("drive"), f"{path}.drive"), _sensitivity(reader, given.get("sensitivity"), path)
    authority = reader.flag(given, "authority", path)
    if sum(map(bool, (routine, datum, drive, sensitivity, authority))) > 1:
        reader.flaw(path, "is accepted by one thing: a routine, a datum, a drive, a sensitivity or somebody's authority")
    least, most, word = (
        optional(reader, given, "least", path),
        optional(reader, given, "most", path),
        reader.text(given.get("is"), path, 60),
    )
    if datum and least is None and most is None and not word:
        reader.flaw(path, "must say how the datum has to be: least and most, or is")
    return TeachStep(
        name, reader.text(given.get("name"), f"{path}.name", 80) or name, reader.text(given.get("does"), f"{path}.does", 300),
        reader.text(given.get("wants"), f"{path}.wants", 80), routine, datum, least, most, word, drive, sensitivity, authority,
        hazards_in(reader, given.get("hazards"), f"{path}.hazards"), reader.text(given.get("caution"), f"{path}.caution", 300),
    )  # fmt: skip


def _drive(reader: Reader, value: Any, path: str) -> YardDrive | None:
    if value is None:
        return None
    given = reader.mapping(value, path, "a mapping such as {speed: speed, metres: 40, fastest: 15}")
    reader.keys(given, DRIVE_KEYS, path)
    speed, steering = (reader.text(given.get(key), f"{path}.{key}", 60) for key in ("speed", "steering"))
    left, right, stops = (whole(reader, given.get(key, 0), f"{path}.{key}", _MOST_COUNT) for key in ("left", "right", "stops"))
    turn, metres = (number_of(reader, given, key, path, 0.0, "zero", 2000.0) for key in ("turn", "metres"))
    if not speed:
        reader.flaw(f"{path}.speed", "must name the datum that tells its pace")
    if (left or right) and not (steering and turn):
        reader.flaw(path, "turns need steering, the datum that tells its angle, and turn, the degrees that count as one")
    if not (left or right or stops or metres):
        reader.flaw(path, "must say what is driven: metres, turns to the left and right, or stops")
    return YardDrive(speed, steering, number_of(reader, given, "fastest", path, 15.0, "positive", 60.0), metres, turn, left, right, stops)


def _sensitivity(reader: Reader, value: Any, path: str) -> Sensitivity | None:
    if value is None:
        return None
    path = f"{path}.sensitivity"
    given = reader.mapping(value, path, "a mapping such as {least: 1, most: 9, triggers: the lamp lights}")
    reader.keys(given, SENSITIVITY_KEYS, path)
    least, most = (whole(reader, given.get(key), f"{path}.{key}", _MOST_LEVEL) for key in ("least", "most"))
    if least >= most:
        reader.flaw(path, f"goes from least, the dullest, to most, the keenest: {least} is not below {most}")
        most = least + 1
    return Sensitivity(least, most, reader.text(given.get("triggers"), f"{path}.triggers", 120) or "it triggers")
