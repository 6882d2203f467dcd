"""What a module's code, its silence or a value of its data says of a circuit: lines of evidence that the circuit's sheet has for it."""

from __future__ import annotations

from collections.abc import Collection, Iterable

from ..circuit.sheet import Sheet
from ..circuit.sights import SEEN, sight_of
from ..circuit.solve import solve
from ..module.movement import DEAD, LOST, SLOW, UNSEEN, WEAK, WORKS
from ..module.roster import Command, Datum, Module, ModuleCode, Output, PinLink
from .bus_links import lines_for_silence
from .substitute import part_driven

__all__ = ["line_for_movement", "line_for_value", "lines_for_call", "lines_for_codes"]

_MOVES = ("moves", "clicks")
_REPORTS = ("diagnosis", "code")  # what a module tells of its own pins: no code of a part is a word as well


def _line_for_code(sheet: Sheet, code: ModuleCode) -> str:
    """The line that says that a code is set, in a state in which its circuit is asked for something; empty where the sheet has none."""
    link = code.link
    if link is None:
        return ""
    return _seen(sheet, link) if link.part else _set(sheet, link.place)


def lines_for_codes(sheet: Sheet, module: Module, code: ModuleCode, read: Collection[str]) -> str:
    """The line of a code, and for each other part of the same sheet that the module watches that it reports nothing of it, in the same
    state. ``read`` are the names of all codes that it told, made by the work or not. That nothing is reported of a part is said only where
    no code of it was told, where the roster has a code for everything that could be told of it, and knows all codes that were."""
    first = _line_for_code(sheet, code)
    state, _, said = first.partition(" see ")
    known = {name: own for name, own in module.codes.items() if own.link is not None and own.link.sheet == sheet.title and own.link.part}
    if not said or any(module.code(name) is None for name in read):
        return first
    told = {own.link.part for name in read if (own := module.code(name)) is not None and own.link is not None}
    shown: dict[str, set[str]] = {}
    for own in known.values():
        if own.link is not None and own.link.part not in told:
            shown.setdefault(own.link.part, set()).add(own.link.shows)
    subjects = (subject for part, words in shown.items() if (subject := _subject(sheet, part)) and _tells_all(sheet, subject, words))
    return "\n".join([first, *(f"{state} see {subject} nothing" for subject in subjects)])


def _subject(sheet: Sheet, part: str) -> str:
    """What a part is called where it is looked at; empty where it is not."""
    return next((name for name in (*sheet.observe, part) if (own := sight_of(sheet, name)) and own[0] == part), "")


def _tells_all(sheet: Sheet, subject: str, words: Collection[str]) -> bool:
    """Whether codes with these words are all that a module could tell of it."""
    seen = sight_of(sheet, subject)
    return seen is not None and seen[2] in _REPORTS and set(SEEN[seen[2]]) - {"nothing"} <= set(words)


def _seen(sheet: Sheet, link: PinLink) -> str:
    """What a module reports of a part, as something that is looked at."""
    subject = _subject(sheet, link.part)
    if not subject:
        return ""
    rest = sheet.parts[link.part].rest
    worked = [state for state in sheet.states if sheet.position(state, link.part) != rest and state not in sheet.passing]
    state = next(iter(worked), next(iter(sheet.states)))
    return f"{state} see {subject} {link.shows}"


def _set(sheet: Sheet, place: str) -> str:
    """A code of the sheet at a place."""
    return next((f"{code.state} code {name} set" for name, code in sheet.codes.items() if code.at == place), "")


def lines_for_call(sheet: Sheet, silent: Module, answering: Iterable[Module]) -> str:
    """The lines that say that one module is silent while others answer, all in one state; empty where the sheet does not have the silent
    one as one that answers."""
    first = _line_for_call(sheet, silent, False)
    if not first:
        return ""
    state = first.partition(" see ")[0]
    others = (_line_for_call(sheet, module, True, state) for module in answering)
    return "\n".join([first, *filter(None, others)])


def _line_for_call(sheet: Sheet, module: Module, answers: bool, state: str = "") -> str:
    if module.link is None or not module.link.part:
        return ""
    for line in lines_for_silence(sheet, module.title):
        begin, _, end = line.partition(" see ")
        subject = end.rpartition(" ")[0]
        seen = sight_of(sheet, subject)
        if seen is not None and seen[0] == module.link.part:
            return f"{state or begin} see {subject} {'answers' if answers else 'silent'}"
    return ""


def line_for_movement(sheet: Sheet, module: Module, output: Output, command: Command, word: str, heard: bool | None = None) -> str:
    """The line that says whether what an output drives worked while it was commanded: by what it did (a ``word`` of `movement`), and
    whether it was heard (None: nobody said). Empty where that tells nothing of the circuit: what moves nothing may be stuck or blocked,
    unless its current was watched, or nothing was heard either."""
    driver = output.link.part if output.link is not None else ""
    if driver not in sheet.parts or command.position in ("", sheet.parts[driver].rest):
        return ""
    worked = _worked(word, heard, _watches_current(module, output))
    part = part_driven(sheet, driver)
    subject = _subject(sheet, part) if part else ""
    seen = sight_of(sheet, subject) if subject else None
    state = next((name for name in sheet.states if sheet.position(name, driver) == command.position and name not in sheet.passing), None)
    if worked is None or seen is None or seen[2] not in _MOVES or state is None:
        return ""
    return f"{state} see {subject} {list(SEEN[seen[2]])[1 if worked else 0]}"


def _watches_current(module: Module, output: Output) -> bool:
    datum = module.data.get(output.watch)
    return datum is not None and datum.link is not None and datum.link.shows == "amps"


def _worked(word: str, heard: bool | None, current: bool) -> bool | None:
    if heard or word in (WORKS, SLOW, WEAK, LOST):
        return True
    return False if word in (DEAD, UNSEEN) and (heard is False or (current and word == DEAD)) else None


def line_for_value(sheet: Sheet, datum: Datum, value: float) -> str:
    """The volts that a module reads at its own pin, as a reading there, in the state in which the sound circuit has most of them; empty for
    anything else."""
    if datum.link is None or not datum.link.place or datum.unit != "V" or datum.link.place not in sheet.places:
        return ""
    place = datum.link.place
    volts = {name: round(solve(sheet, name).places[place], 2) for name in reversed(list(sheet.states)) if name not in sheet.passing}
    state = max(volts, key=lambda name: volts[name])  # of several the last: a sheet begins with what is at rest
    return f"{state} volts {place} {value:.3g}"
