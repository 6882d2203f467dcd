"""Where a guided way stands after some answers: what each came to, what is likely, and what to do next. A pure function of the answers.

Belief: P(cause | answers) by the way's own tables. Next: the step whose answer is expected to tell most of what to mend (mutual
information, bits) for its minutes, what must be got at first counted in until somebody has been there. Stop: one thing to mend at 0.95 or
more and one direct proof of it, the same rule as everywhere.
"""

from __future__ import annotations

import math
from collections.abc import Collection, Iterable, Mapping, Sequence
from dataclasses import dataclass

from ...base.errors import ReadingError
from ...base.judgement import OWN_RULE, judged
from ...bench.case import Case
from ...bench.house import with_house
from ...bench.judged import Judged, Outcome
from ...bench.verdict import outcome as outcome_of
from ...bench.written import case_from
from ...meter.handheld import AS_TYPED, Handheld
from ..registry import JUDGES
from .model import Cause, Deed, Step, Way
from .words import shared_settings, with_unit

__all__ = ["Ahead", "Answer", "Done", "Found", "Position", "position_of"]

SURE = judged("GUIDE_SURE", 0.95, "share", "of belief in one thing to mend from which on a guided way stops, with a proof", OWN_RULE)
LIKELY = judged("GUIDE_LIKELY", 0.75, "share", "of belief from which on it names something where no step tells more", OWN_RULE)
TELLS_LEAST = judged("GUIDE_TELLS_LEAST", 0.015, "bit", "that a step must be expected to tell to be asked", OWN_RULE)
MORE_TELLS = judged("GUIDE_MORE_TELLS", 0.1, "bit", "that something must be expected to tell to be asked for", OWN_RULE)
SPARED = judged("GUIDE_SPARED_MINUTES", 20.0, "min", "from which on a step that must be got at is told as spared", OWN_RULE)
DONE_WORD = "done"
NOTHING_WRONG = "none"  # the cause of a way that says so
_A_MOMENT = 0.05  # minutes that even a glance takes


@dataclass(frozen=True, slots=True)
class Answer:
    """What was answered to a step as it was typed, or that a deed was done; ``skipped`` where it cannot be done here. ``key`` is its
    owner's name for it."""

    step: str
    text: str
    skipped: bool = False
    key: int = 0


@dataclass(frozen=True, slots=True)
class Done:
    """A step that was answered: its outcome in the way's words, what the judge found (None for what is not judged), and whether a deed
    since then has made it history."""

    step: Step | Deed
    answer: Answer
    outcome: str
    finding: Judged | None
    history: bool


@dataclass(frozen=True, slots=True)
class Ahead:
    """A step that is still open: bits that it is expected to tell, minutes that it takes now, and those of them for getting there."""

    step: Step
    bits: float
    minutes: float
    getting_there: float


@dataclass(frozen=True, slots=True)
class Found:
    """The end of the way: the cause, whether it is ``proved``, the chance, and one sentence."""

    cause: Cause
    proved: bool
    chance: float
    says: str


@dataclass(frozen=True, slots=True)
class Position:
    """Where a way stands: ``chances`` by cause, the likeliest first; ``due`` is a deed that comes before the next step; ``next`` the
    step to do; ``ahead`` those after it, ``spared`` those that cost much and are left for last; ``minutes`` about how long it still takes;
    ``outcomes`` by family what was judged; ``stuck`` says why nothing is next and nothing is found."""

    way: Way
    done: tuple[Done, ...]
    chances: tuple[tuple[Cause, float], ...]
    due: Deed | None
    next: Ahead | None
    ahead: tuple[Ahead, ...]
    spared: tuple[Ahead, ...]
    minutes: float
    found: Found | None
    outcomes: Mapping[str, Outcome]
    stuck: str = ""

    def standing(self) -> dict[str, Done]:
        """By step the last answer that still stands."""
        return {done.step.name: done for done in self.done if not done.history and not done.answer.skipped}


def position_of(
    way: Way, answers: Sequence[Answer], settings: Iterable[tuple[str, str]] = (), at_hand: Collection[str] = (),
    reach: Mapping[str, float] | None = None, meter: Handheld = AS_TYPED, house: Mapping[str, str] | None = None,
) -> Position:  # fmt: skip
    """Where a way stands after some answers.

    ``settings`` are those of its families, ``at_hand`` what there is besides a meter and ears, ``reach`` the minutes that it takes to get
    at what is hidden, ``house`` what the workshop has settled, by rule. Raises ReadingError with one sentence for what cannot be an answer.
    """
    known = _by_step(way, answers)
    live, voided = _standing(way, known)
    cases = _cases(way, live, settings, meter, house or {})
    outcomes = {name: outcome_of(JUDGES[name], case) for name, case in cases.items()}
    words = _outcomes(way, live, cases) | _absent(way, known, voided)
    chances = _chances(way, words, known)
    last = {answer.step: place for place, answer in enumerate(known) if not answer.skipped}
    done = tuple(_done(way, answer, words, outcomes, place in voided, last.get(answer.step) == place) for place, answer in enumerate(known))
    ranked = tuple(sorted(((way.cause(name), chance) for name, chance in chances.items()), key=lambda item: -item[1]))
    due = next((deed for deed in way.deeds if deed.due(words) and not _was_done(deed, known)), None)
    open_steps = _ahead(way, words, known, chances, at_hand, reach or {})
    found = None if due else _found(way, chances, words, open_steps, known)
    telling = [] if found else open_steps
    first = telling[0] if telling and not due else None
    spared = tuple(one for one in telling if one.getting_there >= SPARED and one is not first)
    rest = tuple(one for one in telling if one is not first and one not in spared)
    return Position(
        way, done, ranked, due, first, rest, spared, _minutes_left(chances, way, due, first, rest), found, outcomes,
        _stuck(way, ranked, chances, words, at_hand) if not (due or first or found) else "",
    )  # fmt: skip


def _by_step(way: Way, answers: Sequence[Answer]) -> list[Answer]:
    for answer in answers:
        if way.step(answer.step) is None and way.deed(answer.step) is None:
            raise ReadingError(f"{answer.step!r} is no step of this way.")
    return list(answers)


def _standing(way: Way, answers: Sequence[Answer]) -> tuple[dict[str, list[Answer]], set[int]]:
    """The answers that count, by step, and the places of those that a later deed has made history."""
    voided: set[int] = set()
    for place, answer in enumerate(answers):
        deed = way.deed(answer.step)
        if deed is not None and not answer.skipped:
            voided |= {before for before in range(place) if answers[before].step in deed.voids}
    live: dict[str, list[Answer]] = {}
    for place, answer in enumerate(answers):
        if place not in voided and not answer.skipped and way.step(answer.step) is not None:
            live.setdefault(answer.step, []).append(answer)
    return live, voided


def _cases(
    way: Way, live: Mapping[str, list[Answer]], settings: Iterable[tuple[str, str]], meter: Handheld, house: Mapping[str, str]
) -> dict[str, Case]:  # fmt: skip
    """The readings as a case of each family that judges any of them; a check of the same name in two families is read once. Of a setting
    that two families call the same, each takes what it knows a word for."""
    pairs, shared = list(settings), shared_settings(way.families)
    cases = {}
    for name in way.families:
        family = JUDGES[name]
        own_settings = [
            (key, text) for key, text in pairs if (own := family.setting(key)) is not None and (key not in shared or text in own.words)
        ]
        reads = []
        for step in way.steps:
            for answer in live.get(step.name, ()):
                if step.family == name or family.check(step.check) is not None:
                    reads.append((step.check, with_unit(step, answer.text)))
        cases[name] = case_from(family, with_house(family.settings, own_settings, house), reads, meter=meter)
    return cases


def _outcomes(way: Way, live: Mapping[str, list[Answer]], cases: Mapping[str, Case]) -> dict[str, str]:
    found = {}
    for step in way.steps:
        if step.name in live:
            word = step.outcome(cases)
            if word in step.outcomes:
                found[step.name] = word
    return found


def _absent(way: Way, answers: Sequence[Answer], voided: Collection[int]) -> dict[str, str]:
    """The outcomes of the steps that cannot be done since the vehicle has no such thing."""
    last = {answer.step: (place, answer.skipped) for place, answer in enumerate(answers)}
    return {
        step.name: step.absent
        for step in way.steps
        if step.absent and step.name in last and last[step.name][1] and last[step.name][0] not in voided
    }


def _chances(way: Way, words: Mapping[str, str], answers: Sequence[Answer]) -> dict[str, float]:
    logs = {cause.name: math.log(cause.weight) for cause in way.causes}
    for answer in answers:
        deed = way.deed(answer.step)
        if deed is not None and not answer.skipped:
            for name, factor in deed.lessens.items():
                logs[name] += math.log(factor)
    for name, word in words.items():
        step = way.step(name)
        assert step is not None
        for cause in logs:
            logs[cause] += math.log(step.chance(cause, word))
    top = max(logs.values())
    shares = {name: math.exp(value - top) for name, value in logs.items()}
    total = sum(shares.values())
    return {name: share / total for name, share in shares.items()}


def _done(way: Way, answer: Answer, words: Mapping[str, str], outcomes: Mapping[str, Outcome], history: bool, last: bool) -> Done:
    deed = way.deed(answer.step)
    if deed is not None:
        return Done(deed, answer, DONE_WORD, None, False)
    step = way.step(answer.step)
    assert step is not None
    if history or answer.skipped or not last:  # of a step that was asked again the last answer is judged
        return Done(step, answer, step.absent if answer.skipped else "", None, history)
    named = {one.check: one for one in outcomes[step.family].findings}
    finding = named.get(step.name) or named.get(step.check)
    return Done(step, answer, words.get(step.name, ""), finding, False)


def _was_done(deed: Deed, answers: Sequence[Answer]) -> bool:
    return any(answer.step == deed.name for answer in answers)


def _ahead(
    way: Way, words: Mapping[str, str], answers: Sequence[Answer], chances: Mapping[str, float], at_hand: Collection[str],
    reach: Mapping[str, float],
) -> list[Ahead]:  # fmt: skip
    """The steps that can be done now and that tell something, or that open the way to one that does; the best for its minutes first."""
    voided = _voided(way, answers)
    answered = {answer.step for answer in answers} - voided
    past = answered | {step.name for step in way.steps if not step.needs <= set(at_hand)}
    been = {step.behind for answer in answers if not answer.skipped and (step := way.step(answer.step)) is not None and step.behind}

    def is_open(step: Step) -> bool:
        skipped = any(answer.step == step.name and answer.skipped for answer in answers)
        again = step.repeated and not skipped and step.name not in words
        return step.name not in past or again

    own: dict[str, Ahead] = {}
    for step in way.steps:
        if is_open(step) and step.when(words):
            getting = 0.0 if step.behind in been else reach.get(step.behind, 0.0)
            own[step.name] = Ahead(step, _information(way, step, chances), step.minutes + getting, getting)
    worth = {name: one.bits / (one.minutes + _A_MOMENT) for name, one in own.items() if one.bits >= TELLS_LEAST}
    for name in [name for name in worth if set(own[name].step.after) & set(own)]:
        chain, minutes = _before(own, own[name].step), own[name].minutes
        for before in chain:
            minutes += own[before].minutes
            worth[before] = max(worth.get(before, 0.0), own[name].bits / (minutes + _A_MOMENT))
    ready = [one for name, one in own.items() if name in worth and not set(one.step.after) & (set(own) - {name})]
    return sorted(ready, key=lambda one: -worth[one.step.name])


def _before(own: Mapping[str, Ahead], step: Step) -> list[str]:
    """The open steps that come before a step, the nearest first."""
    found: list[str] = []
    todo = [name for name in step.after if name in own]
    while todo:
        name = todo.pop(0)
        if name not in found:
            found.append(name)
            todo += [each for each in own[name].step.after if each in own]
    return found


def _voided(way: Way, answers: Sequence[Answer]) -> set[str]:
    _, places = _standing(way, answers)
    last = {answer.step: place for place, answer in enumerate(answers)}
    return {name for name, place in last.items() if place in places}


def _information(way: Way, step: Step, chances: Mapping[str, float]) -> float:
    """Bits that a step's answer is expected to tell of what to mend."""
    aims = {cause.name: cause.aim for cause in way.causes}
    before = _entropy(_by_aim(aims, chances))
    after = 0.0
    for outcome in step.outcomes:
        joint = {name: chance * step.chance(name, outcome) for name, chance in chances.items()}
        total = sum(joint.values())
        if total > 0.0:
            after += total * _entropy(_by_aim(aims, {name: share / total for name, share in joint.items()}))
    return max(before - after, 0.0)


def _by_aim(aims: Mapping[str, str], chances: Mapping[str, float]) -> dict[str, float]:
    found: dict[str, float] = {}
    for name, chance in chances.items():
        found[aims[name]] = found.get(aims[name], 0.0) + chance
    return found


def _entropy(shares: Mapping[str, float]) -> float:
    return -sum(share * math.log2(share) for share in shares.values() if share > 0.0)


def _found(
    way: Way, chances: Mapping[str, float], words: Mapping[str, str], open_steps: Sequence[Ahead], answers: Sequence[Answer]
) -> Found | None:
    aims = _by_aim({cause.name: cause.aim for cause in way.causes}, chances)
    aim, share = max(aims.items(), key=lambda item: item[1])
    cause = max((cause for cause in way.causes if cause.aim == aim), key=lambda cause: chances[cause.name])
    proved = any(_shows(proof, words) for one in way.causes if one.aim == aim for proof in one.proofs)
    cured = next((deed.cures for answer in reversed(answers) if not answer.skipped and (deed := way.deed(answer.step)) is not None), "")
    says = f"{cause.title[:1].upper()}{cause.title[1:]}."
    if aim == NOTHING_WRONG and cured:
        cause = way.cause(cured)
        says = f"{cause.title[:1].upper()}{cause.title[1:]}: since that was put right all is well."
    if share >= SURE and proved:
        return Found(cause, True, share, says)
    if share >= SURE and not open_steps:
        return Found(cause, False, share, f"Most likely {cause.title}; nothing at hand shows it directly.")
    if share >= LIKELY and not open_steps:
        return Found(cause, False, share, f"Probably {cause.title}; nothing at hand tells more.")
    return None


def _shows(proof: Mapping[str, str], words: Mapping[str, str]) -> bool:
    return all(words.get(step) in outcome.split("|") for step, outcome in proof.items())


def _minutes_left(chances: Mapping[str, float], way: Way, due: Deed | None, first: Ahead | None, rest: Sequence[Ahead]) -> float:
    """About how long it still takes: the entropy that is left, at the bits a minute of the steps that come."""
    left = _entropy(_by_aim({cause.name: cause.aim for cause in way.causes}, chances)) - 0.3
    minutes = due.minutes if due else 0.0
    for one in ([first] if first else []) + list(rest):
        if left <= 0.0:
            break
        minutes += one.minutes
        left -= one.bits
    return minutes


def _stuck(
    way: Way, ranked: Sequence[tuple[Cause, float]], chances: Mapping[str, float], words: Mapping[str, str], at_hand: Collection[str]
) -> str:
    """What is left where nothing tells more, and what would have to be at hand to go on."""
    names = [cause.title for cause, chance in ranked[:3] if chance > 0.1]
    lacking = [step for step in way.steps if not step.needs <= set(at_hand) and step.name not in words and step.when(words)]
    best = max(lacking, key=lambda step: _information(way, step, chances), default=None)
    more = ""
    if best is not None and _information(way, best, chances) > MORE_TELLS:
        more = f" A {' and a '.join(sorted(best.needs - set(at_hand)))} would tell more: {best.title.lower()}."
    return f"With what is at hand nothing tells more. Left: {', or '.join(names)}.{more}"
