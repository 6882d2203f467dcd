"""What the page of a vehicle's modules shows: the drawn roll call, and of one module its codes, data, outputs and routines."""

from __future__ import annotations

from collections import Counter
from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass, replace

from ...core.base.brief import lowered
from ...core.base.errors import PondrelError
from ...core.evidence.hazards import Hazard
from ...core.job.codes import codes_of
from ...core.job.links import answers_in, facts_of_answers
from ...core.module.causes import CauseList, causes_for
from ...core.module.chain.standing import Fact, Standing, fact_of, standing_of
from ...core.module.fault_code import FaultCode
from ...core.module.moving import CAUTION_READ, locks_of
from ...core.module.roll_call import roll_call
from ...core.module.roster import Command, Module, ModuleCode, Output, Roster, Routine
from ...core.module.told import answer_words, request_words
from ...core.talk.exchange import Exchange
from ...instruments.modules.tester import Answered, Codes, Value
from ..jobs.docket import Record

__all__ = [
    "ANSWERS", "NOT_ASKED", "SILENT", "Card", "CodeShown", "Group", "Line", "ModuleShown", "OutputShown", "RoutineShown", "ValueShown",
    "called_in", "codes_shown", "facts_known", "found_in", "folded", "groups_of", "lines_of", "module_shown", "says_of", "standings_of",
]  # fmt: skip

ANSWERS, SILENT, NOT_ASKED = "answers", "silent", "not asked yet"


@dataclass(frozen=True, slots=True)
class Card:
    """A module in the roll call: its name and title, how it stands, how many codes it has (None: not read), and whether it is looked at."""

    name: str
    title: str
    at: str
    state: str
    codes: int | None
    on: bool


@dataclass(frozen=True, slots=True)
class Group:
    """Modules on one stretch of bus: those at the tester's plug, or those behind a gateway (``behind``)."""

    behind: str
    cards: Sequence[Card]


def groups_of(roster: Roster, states: Mapping[str, str], codes: Mapping[str, int], chosen: str) -> tuple[Group, ...]:
    """The modules as they hang on the bus, a group for each gateway."""
    behind: dict[str, list[Card]] = {}
    for module in roster.modules.values():
        title = roster.modules[module.behind].title if module.behind else ""
        card = Card(module.name, module.title, module.at, states.get(module.name, NOT_ASKED), codes.get(module.name), module.name == chosen)
        behind.setdefault(title, []).append(card)
    return tuple(Group(name, cards) for name, cards in sorted(behind.items(), key=lambda pair: pair[0] != ""))


def found_in(roster: Roster, answered: Mapping[str, Answered]) -> Roster:
    """The roster as it is shown: of one whose modules are found by calling those that answered; before any did, its first."""
    if not roster.by_calling:
        return roster
    here = {name: roster.modules[name] for name, one in answered.items() if one.answers and name in roster.modules}
    return replace(roster, modules=here or dict([next(iter(roster.modules.items()))]))


def says_of(roster: Roster, answered: Mapping[str, Answered]) -> str:
    """What the roll call comes to, once all were called."""
    answered = {name: answered[name] for name in roster.modules if name in answered}
    if len(answered) < len(roster.modules):
        return ""
    here, gone = ([one.module.title for one in answered.values() if one.answers is answers] for answers in (True, False))
    gateway = roster.gateway
    if gateway is not None and gateway.title in gone and all(roster.modules[n].behind for n, a in answered.items() if not a.module.gateway):
        return f"{gateway.title} is silent, and all others lie behind it: look at its supply, ground and plug first."
    return roll_call(here, gone).says


@dataclass(frozen=True, slots=True)
class CodeShown:
    """A code: as it was read, all that its status says, what the roster knows of it, what it takes away in words, usual causes, and the
    circuit to trace (``sheet``, empty for none)."""

    code: FaultCode
    bits: Sequence[str]
    known: ModuleCode | None
    takes_away: str
    causes: CauseList | None
    sheet: str


@dataclass(frozen=True, slots=True)
class ValueShown:
    """A value: its title, how it is said, what it should be in words (empty where nothing says that), and whether it is so."""

    name: str
    title: str
    says: str
    should: str
    within: bool | None
    source: str


@dataclass(frozen=True, slots=True)
class OutputShown:
    """An output: what it can be told, what still locks it, the code for which its module keeps it off, and what is watched."""

    output: Output
    commands: Sequence[Command]
    locks: Sequence[Hazard]
    taken_by: str
    watch: str


@dataclass(frozen=True, slots=True)
class RoutineShown:
    """A routine: what still locks it, and what came of it last."""

    routine: Routine
    locks: Sequence[Hazard]
    result: str
    good: bool


@dataclass(frozen=True, slots=True)
class ModuleShown:
    """All of one module. ``shared_locks`` are what locks several of its outputs, or is no caution of one alone, each with one that it
    locks; ``codes`` is None where they were not read, and ``trouble`` says why they could not be."""

    module: Module
    state: str
    shared_locks: Sequence[tuple[str, Hazard]]
    codes: Sequence[CodeShown] | None
    trouble: str
    values: Sequence[ValueShown]
    outputs: Sequence[OutputShown]
    routines: Sequence[RoutineShown]
    silent_says: str

    def own_locks(self, locks: Sequence[Hazard]) -> tuple[Hazard, ...]:
        """Of what locks an output or a routine, what locks it alone."""
        shared = {hazard.caution for _, hazard in self.shared_locks}
        return tuple(lock for lock in locks if lock.caution not in shared)


def module_shown(
    module: Module, state: str, read: Codes | None, values: Sequence[Value], results: Mapping[str, tuple[str, bool]],
    own_causes: Sequence[CauseList], made_safe: Callable[[Output | Routine], frozenset[str]], only_told: bool = False,
) -> ModuleShown:  # fmt: skip
    """One module with what is known of it; of its data all, or ``only_told`` what it told."""
    codes = None if read is None or read.says else codes_shown(read, own_causes)
    told = {value.datum.name: value for value in values}
    shown = [_value(told[name]) if name in told else ValueShown(name, d.title, "", _should(d.least, d.most, d.unit), None, d.source)
             for name, d in module.data.items() if not only_told or (name in told and told[name].value is not None)]  # fmt: skip
    taken = {name: code.name for code in (read.codes if read else ()) if (k := module.code(code.name)) for name in k.takes_away}
    outputs = [
        OutputShown(
            one, tuple(one.commands.values()), locks_of(one.hazards, one.caution, made_safe(one)), taken.get(one.name, ""),
            module.data[one.watch].title if one.watch else "",
        )
        for one in module.outputs.values()
    ]  # fmt: skip
    routines = []
    for one in module.routines.values():
        says, good = results.get(f"{module.name}.{one.name}", ("", False))
        routines.append(RoutineShown(one, locks_of(one.hazards, one.caution, made_safe(one)), says, good))
    trouble = read.says if read is not None else ""
    silent = roll_call(["x"], [module.title]).says if state == SILENT else ""
    shared: dict[str, tuple[str, Hazard]] = {}
    locked = [*((o.output.name, o.locks) for o in outputs), *((r.routine.name, r.locks) for r in routines)]
    cautions = Counter(hazard.caution for _, locks in locked for hazard in locks)
    for name, locks in locked:
        for hazard in locks:
            if hazard.name != CAUTION_READ or cautions[hazard.caution] > 1:
                shared.setdefault(hazard.caution, (name, hazard))
    return ModuleShown(module, state, tuple(shared.values()), codes, trouble, shown, outputs, routines, silent)


def codes_shown(read: Codes, own_causes: Sequence[CauseList] = ()) -> tuple[CodeShown, ...]:
    """The codes of a module with what is known of them."""
    return tuple(_code(read.module, read, place, own_causes) for place in range(len(read.codes)))


def _code(module: Module, read: Codes, place: int, own: Sequence[CauseList]) -> CodeShown:
    code = read.codes[place]
    known = module.code(code.name)
    away = ", ".join(lowered(module.outputs[name].title) for name in known.takes_away) if known else ""
    causes = next(iter(causes_for(code, own)), None)
    sheet = known.link.sheet if known is not None and known.link is not None else ""
    return CodeShown(code, read.status[place] if place < len(read.status) else (), known, away, causes, sheet)


def _value(value: Value) -> ValueShown:
    own = value.datum
    within = None
    if value.value is not None and (own.least is not None or own.most is not None):
        within = (own.least is None or value.value >= own.least) and (own.most is None or value.value <= own.most)
    return ValueShown(own.name, own.title, value.says, _should(own.least, own.most, own.unit), within, own.source)


def _should(least: float | None, most: float | None, unit: str) -> str:
    if least is not None and most is not None:
        return f"{least:g} to {most:g} {unit}".rstrip()
    if least is not None:
        return f"{least:g} {unit} or more".replace("  ", " ")
    return f"{most:g} {unit} at most".replace("  ", " ") if most is not None else ""


@dataclass(frozen=True, slots=True)
class Line:
    """A line of the conversation: when (seconds), with whom, what was asked and said in words, both as bytes."""

    at: float
    title: str
    asks: str
    says: str
    raw: str
    refused: bool
    times: int = 1


def folded(lines: Sequence[Line]) -> tuple[Line, ...]:
    """Lines one after the other that ask the same as one, with how often, and what was said last."""
    found: list[Line] = []
    for line in lines:
        before = found[-1] if found else None
        if before is not None and line.title and (before.title, before.asks, before.refused) == (line.title, line.asks, line.refused):
            found[-1] = replace(line, times=before.times + 1)
        else:
            found.append(line)
    return tuple(found)


def lines_of(roster: Roster, said: Sequence[Exchange]) -> tuple[Line, ...]:
    """A conversation in words."""
    found = []
    for one in said:
        module = roster.modules.get(one.module)
        if module is None or not one.request:
            found.append(Line(one.at, "", one.fault, "", "", False))
            continue
        raw = f"{one.request.hex(' ').upper()} → {one.answer.hex(' ').upper() or 'nothing'}"
        says, bad = one.fault or answer_words(module, one.request, one.answer), bool(one.fault) or one.answer[:1] == b"\x7f"
        found.append(Line(one.at, module.title, request_words(module, one.request), says, raw, bad))
    return tuple(found)


def facts_known(roster: Roster, function: str, answered: Mapping[str, Answered], values: Mapping[str, Sequence[Value]]) -> dict[str, Fact]:
    """What a talk has told of the conditions of a function: who answers, and values that conditions hang on."""
    own = roster.functions[function]
    found = facts_of_answers(own, {name: one.answers for name, one in answered.items()})
    for name, condition in own.conditions.items():
        for value in values.get(condition.module, ()) if condition.module else ():
            if value.datum.name == condition.datum and value.says != "–":
                try:
                    fact = fact_of(condition, value.says)
                except PondrelError:
                    fact = None
                if fact is not None:
                    found[name] = fact
    return found


def called_in(roster: Roster, record: Record | None) -> Mapping[str, Answered]:
    """Who answered and who was silent in the last roll call of a job's record, by the modules' names."""
    answers = answers_in(roster, codes_of(record.entries).call) if record is not None else {}
    return {name: Answered(roster.modules[name], here) for name, here in answers.items()}


def standings_of(roster: Roster, answered: Mapping[str, Answered], values: Mapping[str, Sequence[Value]]) -> tuple[Standing, ...]:
    """How every function stands by what a talk has told."""
    gone = [name for name, one in answered.items() if not one.answers]
    return tuple(standing_of(own, facts_known(roster, name, answered, values), gone) for name, own in roster.functions.items())
