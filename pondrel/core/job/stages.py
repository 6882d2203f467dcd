"""Where a job stands: Complaint, Look, Trace, Remedy, Proof, Report, each with what is there and what it still lacks; and whose move it is.

All of it is a function of the job's complaint, its traces and its entries. A stage that was passed over is not called done.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, field

from ..evidence.registry import SORTS
from ..evidence.sort import WordSort
from ..evidence.told import Told
from .complaint import FROM_COMPLAINT, told_of
from .entry import Entry, standing
from .in_words import ways_in_words
from .kinds import WAITS_FOR
from .look import LOOKED
from .module_work import ModuleWork
from .power import STEP, ways_walked
from .renewed import FROM_LEDGER
from .reproduce import shown_itself

__all__ = ["DONE", "GO_ON", "GROUPS", "OFF", "STAGES", "WAITS", "Known", "Stage", "State", "move_of", "state_of", "ways_called_for"]

STAGES = ("Complaint", "Look", "Trace", "Remedy", "Proof", "Report")
WHEN = "when it is there: hot, wet, always, sometimes"
# Whose move it is, in the order of the Bay.
GO_ON, WAITS, ASIDE, DONE, OFF = range(5)
GROUPS = ("Go on now", "Waits", "Put aside", "Handed over", "Called off")
_NOTES = {
    "Go on now": "your hands are what is missing",
    "Waits for a part": "ordered only after proof",
    "Waits for an answer": "somebody has to decide",
    "Waits for the road": "the proof needs driving or standing",
    "Put aside": "until somebody takes it up again",
}
HOLDS = {WAITS: ("waits",), ASIDE: ("aside",), OFF: ("off",)}


@dataclass(frozen=True, slots=True)
class Known:
    """What a job knows besides its entries: its complaint and when that is there, the traces it has by id with the titles of their sheets,
    those of them that are ready to be concluded, with the sentence that says so, what a guided way has found, and what is under way with
    its modules."""

    complaint: str
    conditions: str = ""
    traces: dict[int, str] = field(default_factory=dict)
    ready: dict[int, str] = field(default_factory=dict)
    guided: str = ""
    modules: ModuleWork | None = None

    @property
    def asked(self) -> ModuleWork | None:
        """What asking modules leads to next, while no circuit is traced and no module is renewed."""
        return self.modules if self.modules is not None and not self.modules.renews and not self.traces else None


def move_of(group: int, waits_for: str) -> tuple[int, str, str]:
    """Whose move it is, as the Bay sorts it: a number to sort by, the title of the group, and a note on it. What waits is parted by what it
    waits for."""
    if group != WAITS:
        return group * 10, GROUPS[group], _NOTES.get(GROUPS[group], "")
    what = next((i for i, name in enumerate(WAITS_FOR) if waits_for.startswith(f"waits for {name}")), len(WAITS_FOR) - 1)
    title = f"Waits for {WAITS_FOR[what]}"
    return group * 10 + what, title, _NOTES.get(title, "")


@dataclass(frozen=True, slots=True)
class Stage:
    """One stage: ``at`` is ``done``, ``here``, ``ahead`` or ``passed`` (gone by without being done); what is ``there``, and what it
    ``lacks``, each empty for nothing; ``brief`` says either in two or three words."""

    name: str
    at: str
    there: str
    lacks: str
    brief: str


@dataclass(frozen=True, slots=True)
class State:
    """Where a job stands: its stages, the one it is at, the group of `GROUPS` that it is in, what it waits for, what has been found, the
    entry that holds it up (that it waits, is put aside or called off), None for none, the guided way that it is on, or else the one
    that its complaint calls for while no circuit is traced, and what is next with its modules, where that is what comes next."""

    stages: tuple[Stage, ...]
    here: str
    group: int
    waits_for: str
    found: str
    held_by: int | None = None
    way: str = ""
    modules: ModuleWork | None = None

    @property
    def over(self) -> bool:
        """Whether nothing more is asked of it: handed over, or called off."""
        return self.group in (DONE, OFF)

    @property
    def letters(self) -> str:
        """How each stage stands, by the first letter of that."""
        return "".join(stage.at[0] for stage in self.stages)


def state_of(known: Known, entries: Sequence[Entry]) -> State:
    """Where a job stands by its entries, in the order in which they were written."""
    now = _Facts.of(known, entries)
    told = _stages(known, now)
    first = next((name for name, done, *_ in told if not done and name not in ("Complaint", "Look")), "")
    here = first or "Report"
    if here == "Trace" and not now.traced and not now.steps and not now.looked and known.asked is None:
        here = "Look" if now.told or known.conditions else "Complaint"
    order = STAGES.index(here)
    stages = tuple(
        Stage(
            name,
            "here" if name == here and not now.over else "done" if done else "passed" if i < order or now.over else "ahead",
            there,
            lacks,
            brief if done or name == here or i > order else "passed over",
        )
        for i, (name, done, there, lacks, brief) in enumerate(told)
    )
    group, waits_for = _move(known, now)
    held_by = next((e.id for kind in HOLDS.get(group, ()) for e in reversed(standing(entries, kind))), None)
    modules = known.modules if known.modules is not None and waits_for == known.modules.next else None
    return State(stages, here, group, waits_for, now.found, held_by, now.way, modules)


@dataclass(frozen=True, slots=True)
class _Facts:
    """What the entries come to."""

    told: Told | None
    shown: bool  # whether what comes and goes has shown itself
    measured: bool  # whether a number was read
    looks: int
    traced: int  # evidence on circuits
    steps: int  # answers on guided ways of starting and charging
    way: str  # the guided way it is on, or that its complaint calls for
    sound: tuple[str, ...]  # sheets concluded to be sound
    conclusions: tuple[Entry, ...]
    found: str
    remedies: tuple[Entry, ...]
    proofs: tuple[Entry, ...]
    failed: bool  # the last thing tried did not work
    handed: bool
    off: str
    aside: str
    waits: str

    @property
    def looked(self) -> bool:
        return self.looks > 0

    @property
    def hides(self) -> bool:
        """Whether it comes and goes, has not been seen while somebody moved things, and nothing was measured yet."""
        return self.told is not None and self.told.comes_and_goes and not self.shown and not self.measured

    @property
    def over(self) -> bool:
        return bool(self.off) or self.handed

    @classmethod
    def of(cls, known: Known, entries: Sequence[Entry]) -> _Facts:
        conclusions = standing(entries, "conclusion")
        naming = tuple(e for e in conclusions if e.content.get("faulty"))
        since = max((e.id for e in naming), default=0)
        remedies = tuple(e for e in standing(entries, "remedy") if e.id > since)
        mended = max((e.id for e in remedies), default=0)
        tried = tuple(e for e in standing(entries, "proof") if e.id > mended)
        works = tuple(e for e in tried if e.content.get("works") == "yes")
        failed = bool(tried) and tried[-1].content.get("works") == "no"
        evidence = [e for e in standing(entries) if e.kind in SORTS]
        last = {kind: next((e.text("text") or " " for e in reversed(standing(entries, kind))), "") for kind in ("aside", "off")}
        waits = next(reversed(standing(entries, "waits")), None)
        words = f"{waits.text('for')}: {waits.text('text')}" if waits and waits.text("text") else waits.text("for") if waits else ""
        return cls(
            told_of(entries),
            shown_itself(entries),
            any(not isinstance(SORTS[e.kind], WordSort) for e in evidence),
            sum(SORTS[e.kind].looks for e in evidence) + len(standing(entries, LOOKED.name)),
            len([e for e in evidence if e.trace_id is not None and e.text("note") not in (FROM_COMPLAINT, FROM_LEDGER)]),
            len(standing(entries, STEP.name)),
            _way(known, entries),
            tuple(known.traces.get(e.trace_id or 0, "") for e in conclusions if not e.content.get("faulty")),
            conclusions,
            " and ".join(e.text("says") for e in naming),
            remedies,
            () if failed else works,
            failed,
            bool(standing(entries, "report")),
            last["off"],
            last["aside"],
            words,
        )


def _way(known: Known, entries: Sequence[Entry]) -> str:
    walked = ways_walked(entries)
    if walked or known.traces:
        return walked[-1] if walked else ""
    return next(iter(ways_called_for(known.complaint, entries)), "")


def ways_called_for(complaint: str, entries: Sequence[Entry]) -> tuple[str, ...]:
    """The guided ways that a complaint and what else was told call for, the likeliest first. What was done before does not count: a new
    starter is no complaint about one."""
    told = told_of(entries)
    return ways_in_words(f"{complaint}. {told.text if told else ''}")


def _stages(known: Known, now: _Facts) -> list[tuple[str, bool, str, str, str]]:
    """Of every stage its name, whether it is done, what is there, what it lacks, and the same in brief."""
    count = len(known.traces)
    circuits = _counted(count, "circuit", "circuits") if count else ""
    readings = f"{_counted(now.traced, 'entry', 'entries')} on {circuits}" if now.traced else circuits
    sound = f"{' and '.join(dict.fromkeys(now.sound))}: nothing wrong there" if now.sound else ""
    if now.steps:
        guided = f"{_counted(now.steps, 'step', 'steps')} of start and charge"
        readings = f"{readings}, {guided}" if readings else guided
    looks = _counted(now.looks, "look", "looks") if now.looked else ""
    repaired, proved = bool(now.remedies) and not now.failed, bool(now.proofs) and bool(now.remedies)
    traced = _counted(now.steps, "step", "steps") if now.steps and not now.traced else ""
    traced = (
        traced or _counted(now.traced, "entry", "entries")
        if now.traced or now.steps
        else "modules asked"
        if known.asked is not None
        else "needs a reading"
        if count
        else "step by step"
        if now.way
        else "needs a circuit"
    )
    return [
        (
            "Complaint",
            bool(now.told or known.conditions),
            (now.told.says or now.told.text or now.told.before) if now.told else known.conditions or known.complaint,
            "" if now.told or known.conditions else WHEN,
            "taken" if now.told or known.conditions else "when is it there?",
        ),
        ("Look", now.looked, looks, "" if now.looked else "a look before the meter", looks or "needs a look"),
        (
            "Trace",
            bool(now.found),
            now.found or sound or readings,
            "" if now.found else _cause_lacking(known, now),
            "found" if now.found else "nothing found" if now.sound else traced,
        ),
        (
            "Remedy",
            repaired,
            "; ".join(e.text("text") for e in now.remedies),
            "" if repaired else "another repair: it does not work yet" if now.failed else "the repair",
            "done" if repaired else "needs a repair" if now.found else "needs a cause",
        ),
        (
            "Proof",
            proved,
            "; ".join(e.text("text") or "works" for e in now.proofs),
            "" if proved else "the same reading again, or the function tried",
            "works" if proved else "needs a try" if repaired else "needs a repair",
        ),
        (
            "Report",
            now.handed,
            "handed over" if now.handed else "",
            "" if now.handed else "handing over",
            "handed over" if now.handed else "hand it over" if proved else "needs proof",
        ),
    ]


def _counted(count: int, one: str, many: str) -> str:
    return f"{count} {one if count == 1 else many}"


def _cause_lacking(known: Known, now: _Facts) -> str:
    if now.sound:
        return "a cause: look at another circuit"
    if known.asked is not None:
        return "a cause"
    if not known.traces and not now.steps:
        return "the first step" if now.way else "a circuit to trace"
    return "a cause" if now.traced or now.steps else "the first reading"


def _move(known: Known, now: _Facts) -> tuple[int, str]:
    """The group of the Bay, and what the job waits for, as something that somebody can do."""
    if now.off:
        return OFF, f"called off: {now.off.strip()}" if now.off.strip() else "called off"
    if now.handed:
        return DONE, "handed over"
    if now.aside:
        return ASIDE, f"put aside: {now.aside.strip()}" if now.aside.strip() else "put aside"
    if now.waits:
        return WAITS, f"waits for {now.waits}"
    return GO_ON, _next(known, now)


def _next(known: Known, now: _Facts) -> str:
    if now.failed:
        return "repaired, does not work yet: go on looking"
    # A new module that is in has to be taught, whatever else is known; before that it is a repair like others.
    renewal = known.modules if known.modules is not None and known.modules.renews and not now.proofs else None
    if renewal is not None and (renewal.fitted or (now.found and not now.remedies)):
        return renewal.next
    if now.found and not now.remedies:
        return "found: waits for the repair"
    if now.found and not now.proofs:
        return "repaired: waits for the proof"
    if now.found:
        return "proved: waits to be handed over"
    if now.sound:
        return "nothing wrong on this circuit: waits for another one"
    if known.ready or known.guided:
        return "found: waits to be concluded"
    if now.steps and not now.traced:
        return "waits for the next step of start and charge"
    if known.asked is not None:
        return known.asked.next
    if not now.told and not known.conditions and not now.traced and not now.looked:
        return "ask when it is there, and what was done before"
    if now.hides:
        return "make it show itself: move one thing at a time, and watch"
    if not known.traces:
        what = "the first step of start and charge" if now.way else "a circuit to trace"
        return f"looked: waits for {what}" if now.looked else f"waits for a look, or {what}"
    if now.traced:
        return "waits for the next reading"
    return "waits for the first reading" if now.looked else "waits for a look, or the first reading"
