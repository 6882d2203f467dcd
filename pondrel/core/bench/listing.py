"""What every family is given: its settings, readings and columns with units, words and what is usual, as data."""

from __future__ import annotations

from collections.abc import Mapping

from .common import SETTINGS
from .family import Check, Family, Setting
from .registry import FAMILIES

__all__ = ["families_json", "family_json"]


def _setting(setting: Setting) -> Mapping[str, object]:
    return {"name": setting.name, "says": setting.says, "unit": setting.unit, "words": list(setting.words), "default": setting.usual}


def _check(check: Check, family: Family) -> Mapping[str, object]:
    return {
        "name": check.name, "says": check.says, "units": list(check.units), "words": list(check.words), "judged": not check.aside,
        "works": check.name in family.function,
    }  # fmt: skip


def family_json(family: Family) -> Mapping[str, object]:
    """A family as data."""
    columns = [
        {"name": column.name, "says": column.says, "unit": column.unit, "words": list(column.words), "optional": column.optional}
        for column in family.columns
    ]
    return {
        "family": family.name, "title": family.title, "covers": family.covers, "main": family.main,
        "settings": [_setting(setting) for setting in (*family.settings, *SETTINGS)],
        "reads": [_check(check, family) for check in family.checks], "derived": [_check(check, family) for check in family.derived],
        "points": columns, "cautions": list(family.cautions),
    }  # fmt: skip


def families_json() -> list[Mapping[str, object]]:
    """All families as data, in their order."""
    return [family_json(family) for family in FAMILIES.values()]
