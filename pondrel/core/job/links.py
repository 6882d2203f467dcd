"""The links of a function in a job's record: what was said of each by hand, who answered the last roll call, and how the chain stands."""

from __future__ import annotations

from collections.abc import Iterable, Mapping, Sequence
from contextlib import suppress

from ..base.written import EntryField, EntryKind
from ..module.chain.function import ChainError, Function
from ..module.chain.standing import Fact, Standing, fact_of, standing_of
from ..module.roll_call import RollCall
from ..module.roster import Roster
from .codes import codes_of
from .entry import Entry, standing

__all__ = ["LINK", "answers_in", "facts_of_answers", "facts_said", "said_in", "standing_in"]

LINK = EntryKind(
    "link",
    "A link of a function",
    (
        EntryField("title", "The function and its link", longest=130),
        EntryField("word", "What was found", longest=60),
        EntryField("function", "The function", longest=60),
        EntryField("condition", "The link", longest=60),
    ),
    lambda c: f"{c['title']}: {c['word']}",
)


def said_in(entries: Sequence[Entry], function: Function) -> list[tuple[str, str]]:
    """What was said of a function's conditions in a job, by their names, in the order in which it was written."""
    own = (entry for entry in standing(entries, LINK.name) if entry.text("function") == function.name)
    return [(entry.text("condition"), entry.text("word")) for entry in own]


def facts_said(function: Function, said: Iterable[tuple[str, str]]) -> dict[str, Fact]:
    """What words say of a function's conditions; a later one counts before an earlier, ``unknown`` takes it back, and what the function
    does not know (any more) is left out."""
    found: dict[str, Fact] = {}
    for name, word in said:
        fact = None
        if name in function.conditions:
            with suppress(ChainError):
                fact = fact_of(function.conditions[name], word)
        if fact is not None:
            found[name] = fact
        else:
            found.pop(name, None)
    return found


def answers_in(roster: Roster, call: RollCall | None) -> dict[str, bool]:
    """Whether each module that a roll call names by its title answered, by the roster's names."""
    titles = {module.title.lower(): name for name, module in roster.modules.items()}
    told = [(text, True) for text in call.answered] + [(text, False) for text in call.silent] if call is not None else []
    return {titles[text.lower()]: answers for text, answers in told if text.lower() in titles}


def facts_of_answers(function: Function, answers: Mapping[str, bool]) -> dict[str, Fact]:
    """What who answered tells of the conditions that hang on a module's answer."""
    return {
        name: Fact(answers[condition.answers], "answers" if answers[condition.answers] else "silent")
        for name, condition in function.conditions.items()
        if condition.answers in answers
    }


def standing_in(roster: Roster, function: Function, entries: Sequence[Entry]) -> Standing:
    """How the chain of a function stands by a job's record alone: its last roll call, and what was said by hand."""
    answers = answers_in(roster, codes_of(entries).call)
    facts = facts_of_answers(function, answers) | facts_said(function, said_in(entries, function))
    return standing_of(function, facts, [name for name, answered in answers.items() if not answered])
