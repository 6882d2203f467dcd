"""What a flag on a bus or a silent module says of a circuit: lines of evidence that a sheet has for it, those that are about it first."""

from __future__ import annotations

from collections.abc import Mapping, Sequence

from ..bus.words import words_in
from ..circuit.sheet import Sheet
from ..circuit.sights import SEEN, listener_of, sight_of, talker_in
from ..circuit.solve import solve

__all__ = ["about", "lines_for_bus", "lines_for_flag", "lines_for_silence", "sender_of"]

_SAYS_NOTHING = frozenset({"module", "state", "info", "the", "of", "not", "a", "is", "fault", "missing", "control", "unit"})


def about(text: str) -> frozenset[str]:
    """The words of a text or a name that tell what it is about."""
    return frozenset(words_in(text)) - _SAYS_NOTHING


def _closest(lines: list[tuple[str, str]], says: str) -> tuple[str, ...]:
    """Lines, each with what it is about, those first that share most with what is said."""
    wanted = about(says)
    return tuple(line for line, _ in sorted(lines, key=lambda own: -len(about(own[1]) & wanted)))


def lines_for_flag(sheet: Sheet, says: str) -> tuple[str, ...]:
    """Lines that say what a flag that is set says: that a code of the sheet is set, each code in its own state."""
    return _closest([(f"{code.state} code {name} set", f"{name} {code.meaning}") for name, code in sheet.codes.items()], says)


def lines_for_silence(sheet: Sheet, says: str) -> tuple[str, ...]:
    """Lines that say what a silent sender says: that a module of the sheet does not answer, in a state in which it should."""
    found: dict[tuple[str, str], tuple[str, str]] = {}
    for subject in dict.fromkeys([*sheet.observe, *sheet.parts]):
        seen = sight_of(sheet, subject)
        if seen is None or seen[1] != "answers":
            continue
        for state in sheet.states:
            shown = solve(sheet, state).sights.get(seen[0], ())
            if any(one.what == "answers" and one.value > 0.5 for one in shown):
                line = f"{state} see {subject} {next(iter(SEEN['answers']))}", f"{subject} {sheet.parts[seen[0]].called}"
                found.setdefault((state, seen[0]), line)  # a part that the sheet has looked at under a name is that, and not said twice
    return _closest(list(found.values()), says)


def sender_of(sheet: Sheet, parts: Sequence[str], senders: Sequence[str]) -> Mapping[str, str]:
    """The sender that each of some modules of a sheet is, by the words of their names; a sender is one module only."""
    found: dict[str, str] = {}
    for part in parts:
        words = about(sheet.parts[part].called)
        free = (name for name in senders if name not in found.values() and about(name) and about(name) <= words)
        sender = next(free, None)
        if sender is not None:
            found[part] = sender
    return found


def lines_for_bus(sheet: Sheet, heard: Mapping[str, bool]) -> tuple[str, ...]:
    """Lines that say who is heard and who is not: for each state in which one module of the sheet talks, what a listener of the sheet
    hears then. ``heard``: by the name of a sender, whether it is heard; a sender and a module belong together by the words of their
    names. Empty where the sheet has no listener that is looked at, or fewer than two senders are on it."""
    listener = listener_of(sheet)
    if listener is None:
        return ()
    nothing, something = SEEN["hears"]
    found: dict[str, str] = {}
    for state in sheet.states:
        talker = talker_in(sheet, state)
        if talker is None:
            continue
        sender = sender_of(sheet, (talker,), [name for name in heard if name not in found]).get(talker)
        if sender is not None:
            found[sender] = f"{state} see {listener[0]} {something if heard[sender] else nothing}"
    return tuple(found.values()) if len(found) > 1 else ()
