"""House rules: what a workshop has settled once for a question on which the trade has several schools. A setting that follows one has it as
its usual; whoever sets it otherwise for one check goes before."""

from __future__ import annotations

from collections.abc import Iterable, Mapping
from dataclasses import dataclass

from ..base.brief import quoted
from ..base.errors import ReadingError
from .family import Family, Setting

__all__ = ["HouseRule", "checked_choice", "house_rules", "with_house"]


@dataclass(frozen=True, slots=True)
class HouseRule:
    """A question with the ways to answer it, and what holds where nobody settled it."""

    name: str
    says: str
    words: tuple[str, ...]
    usual: str


def house_rules(families: Iterable[Family]) -> dict[str, HouseRule]:
    """The house rules that the settings of some families follow, by name."""
    found: dict[str, HouseRule] = {}
    for family in families:
        for setting in family.settings:
            if setting.house:
                found.setdefault(setting.house, HouseRule(setting.house, setting.says, setting.words, str(setting.usual)))
    return found


def checked_choice(rules: Mapping[str, HouseRule], name: str, choice: str) -> str:
    """A choice for a house rule. Raises ReadingError with one sentence."""
    rule = rules.get(name)
    if rule is None or choice not in rule.words:
        raise ReadingError(f"{quoted(choice)} is no way to settle this: {', '.join(rule.words) if rule else 'nothing'} are.")
    return choice


def with_house(settings: Iterable[Setting], given: Iterable[tuple[str, str]], choices: Mapping[str, str]) -> tuple[tuple[str, str], ...]:
    """What was set, and what the house has settled for the settings that nobody set."""
    said = tuple(given)
    names = {name for name, _ in said}
    more = [
        (setting.name, choices[setting.house])
        for setting in settings
        if setting.house and setting.name not in names and choices.get(setting.house) in setting.words
    ]
    return (*said, *more)
