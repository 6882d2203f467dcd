"""What the Remedy page shows: the target that was found, its ways side by side, and what is still to be seen to."""

from __future__ import annotations

from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass, replace

from ...core.check import Verdict
from ...core.evidence.hazards import Hazard
from ...core.isolate import accesses_gained, minutes_spent
from ...core.job.entry import Entry, standing
from ...core.job.proof import proving_of
from ...core.job.refit import left_over
from ...core.job.remedy import Remedy, remedy_of
from ...core.job.resets import resets_gate, resets_of
from ...core.power.guide import WAYS as GUIDED
from ...core.remedy.failing import UNKNOWN, Failure, failure_on_the_bench
from ...core.remedy.gates import DONE, Gate, Met, open_gates
from ...core.remedy.money import HORIZONS, Rates
from ...core.remedy.options import ONE_BY_ONE, SCHOOLS, Comparison, Option, compared
from ...core.remedy.reset.allowed import acts_while_moving
from ...core.remedy.target import Found, Member, Target, member_in_words, members_on, target_in_words, target_on
from ...store.conclusions import Conclusion
from ...store.db import now
from ...store.mended import ledger_before_repair
from ...store.rates import rates_of
from ...store.rosters import roster_fitting
from ...store.vehicle_entries import mileage_now
from ..jobs.docket import Docket, Record, docket_in
from ..jobs.safe import repair_waits_for
from ..shell.attempt import attempt
from ..shell.database import get_db
from ..shell.learned import learns
from ..shell.on_the_bench import OldAndNew, old_and_new
from .bars import Axis, axis_for
from .experience import experience_here

__all__ = ["Page", "Wanted", "page_of", "target_of"]

RESTARTED = "power_cycle"
NOT_GIVEN, PROVED_ALONE = 0.9, 0.95  # the chance taken for a conclusion that nobody could work out, and for one by a check of the part


@dataclass(frozen=True, slots=True)
class Wanted:
    """What is looked at: the years counted, the school of sets, the row that is picked, and which of several parts found."""

    years: float = 3.0
    school: str = ONE_BY_ONE
    pick: str = ""
    part: int = 0

    @classmethod
    def of(cls, given: Mapping[str, str]) -> Wanted:
        """As an address has it; what is none of these is as usual."""
        years = next((h for h in HORIZONS if f"{h:g}" == given.get("years")), 3.0)
        school = given.get("school", "")
        part = given.get("part", "")
        number = int(part) if part.isascii() and part.isdecimal() and len(part) < 3 else 0
        return cls(years, school if school in SCHOOLS else ONE_BY_ONE, given.get("pick", ""), number)

    def address(self, **changed: object) -> dict[str, object]:
        """The same as arguments of an address, some of them changed."""
        own: dict[str, object] = {"years": f"{self.years:g}", "school": self.school, "pick": self.pick, "part": self.part}
        return {name: value for name, value in {**own, **changed}.items() if value not in ("", 0, "3", ONE_BY_ONE)}


@dataclass(frozen=True)
class Page:
    """The page: ``target`` None while nothing is found; ``picked`` is the row that is looked at, ``chosen`` the option that the record has,
    ``gates`` of the one that counts, ``unsafe`` what is still to be made safe."""

    record: Record
    remedy: Remedy
    wanted: Wanted
    rates: Rates
    targets: tuple[Target, ...] = ()
    target: Target | None = None
    found: Comparison | None = None
    axis: Axis | None = None
    picked: Option | None = None
    chosen: Option | None = None
    gates: tuple[Gate, ...] = ()
    benched: tuple[OldAndNew, ...] = ()
    unsafe: tuple[Hazard, ...] = ()

    @property
    def named(self) -> tuple[str, ...]:
        """What was found, as it is called."""
        return tuple(target.called for target in self.targets)

    @property
    def counts(self) -> Option | None:
        """The option that the gates are for: the chosen one, else the one that is picked."""
        return self.chosen or self.picked

    @property
    def checks(self) -> tuple[Entry, ...]:
        """The checks of parts by themselves in this job, the latest first."""
        return standing(self.record.entries, "bench")[::-1]

    @property
    def shown_by(self) -> tuple[str, str]:
        """The latest of them that was outside limits, and the part that it was of; empty where there is none."""
        bad = next((e for e in self.checks if f": {Verdict.OUTSIDE}" in e.text("text")), None)
        return (str(bad.id), bad.text("part") or bad.text("text").partition(": ")[0]) if bad else ("", "")

    @property
    def limits(self) -> str:
        """What is told of the chosen way where it is no repair; empty where it is one."""
        if self.chosen is None or self.chosen.way.cures:
            return ""
        return f"{self.chosen.way.limits} By tries here: {self.chosen.seen}." if self.chosen.seen else self.chosen.way.limits

    @property
    def on_no_circuit(self) -> bool:
        """Whether what is found was found on no circuit: then it is taken back here."""
        return any(conclusion.trace_id is None and conclusion.parts for conclusion in self.record.standing_conclusions)

    @property
    def left(self) -> tuple[Gate, ...]:
        """The gates that are still open."""
        return open_gates(self.gates)

    @property
    def done(self) -> bool:
        """Whether it was carried out, and has not failed since."""
        return any(stage.name == "Remedy" and stage.at == "done" for stage in self.record.state.stages)


def page_of(record: Record, wanted: Wanted) -> Page:
    """The page of a job."""
    remedy, rates = remedy_of(record.entries), rates_of(get_db())
    named = [(conclusion, part) for conclusion in record.standing_conclusions for part in conclusion.parts]
    if not named:
        return Page(record, remedy, wanted, rates)
    targets = tuple(target_of(record, conclusion, part, remedy) for conclusion, part in named)
    target = targets[min(wanted.part, len(targets) - 1)]
    seen = experience_here(record.job.id) if learns() else {}
    found = _with_resets(compared(target, remedy.offers, rates, wanted.years, wanted.school, seen), record)
    chosen = remedy.chosen(found.options)
    picked = found.find(wanted.pick) or chosen or next(iter(found.options), None)
    counts = chosen or picked
    unsafe = repair_waits_for(record)
    gates = remedy.gates(target, counts, [hazard.title for hazard in unsafe]) if counts else ()
    benched = old_and_new(record.standing_conclusions, record.entries)
    gates = tuple(_measured(gate, benched) for gate in gates)
    if counts and counts.way.name == RESTARTED:
        gates = (*gates, resets_gate(record.entries, now(), remedy.met.get("reset_tried")))
    if left := left_over(record.entries):
        gates = (*gates, Gate("left_over", "Nothing is left over", f"not back on: {', '.join(left)}", own=True))
    return Page(
        record, remedy, wanted, rates, targets, target, found, axis_for(found.options), picked, chosen, gates,
        benched, unsafe,
    )  # fmt: skip


def _with_resets(found: Comparison, record: Record) -> Comparison:
    """The ways, where a switch to restart a module says what tries of it came to."""
    resets = resets_of(record.entries, "", now())
    if not resets.entries:
        return found
    return replace(found, options=tuple(replace(o, seen=resets.brief) if o.way.name == RESTARTED else o for o in found.options))


def _measured(gate: Gate, benched: Sequence[OldAndNew]) -> Gate:
    """The gate of measuring the new one, met where the bench has it."""
    new = next((one.new for one in benched if one.new is not None), None)
    if gate.name != "measured" or (gate.met is not None and not gate.stops) or new is None or new.verdict == Verdict.OUTSIDE:
        return gate
    return replace(gate, met=Met(DONE, f"{new.verdict}. {new.says}", new.person, new.made_at))


def target_of(record: Record, conclusion: Conclusion, part: str, remedy: Remedy) -> Target:
    """What one conclusion names, with all that is known of it."""
    trace = next((trace for trace in record.traces if trace.id == conclusion.trace_id), None)
    docket = docket_in(get_db(), record, trace) if trace else None
    sure = proving_of(record.entries, (), ()).sure
    taken = PROVED_ALONE if conclusion.proved else NOT_GIVEN
    given = conclusion.probability if conclusion.probability is not None else taken
    chance = max(given / max(len(conclusion.parts), 1), sure)
    said = Found(chance, conclusion.proved, reckoned=conclusion.probability is not None or sure > 0.0)
    mode = conclusion.modes.get(part, "")
    found, _ = attempt(lambda: _on_circuit(docket, part, said, remedy, mode)) if docket else (None, "")
    found = found or _on_no_circuit(record, part, said, remedy)
    if not found.safety:
        found = replace(found, safety=_safety_by_roster(record, found.called))
    if found.failure is not UNKNOWN:
        return found
    wrong = [one for both in old_and_new((conclusion,), record.entries) for one in both.found]
    return replace(found, failure=failure_on_the_bench(found.build.name, wrong))


def _safety_by_roster(record: Record, called: str) -> str:
    """The safety function of a module that is called so, by what the roster of the vehicle says that it acts on; empty for none."""
    row = roster_fitting(get_db(), record.vehicle)
    named = [module for module in row.roster.modules.values() if module.title.lower() in called.lower()] if row else []
    return acts_while_moving(named[0]) if named else ""


def _on_no_circuit(record: Record, part: str, found: Found, remedy: Remedy) -> Target:
    way = GUIDED.get(record.state.way)
    guided, vehicle = way.mended(part) if way else None, record.vehicle
    called = guided.called if guided else part
    own = ledger_before_repair(get_db(), vehicle.id, record.job.id)
    failed = member_in_words(called, "failed", own, vehicle.year, now()[:10], mileage_now(get_db(), vehicle.id))
    members = (failed, *_others(remedy, ()))
    target = target_in_words(called, found, members, record.job.complaint, guided.built if guided else "")
    return replace(target, failure=Failure(words=guided.wrong)) if guided and guided.wrong else target


def _on_circuit(docket: Docket, name: str, found: Found, remedy: Remedy, mode: str) -> Target | None:
    sheet, vehicle = docket.sheet, docket.vehicle
    part = sheet.parts.get(name)
    if part is None:
        return None
    ledger = ledger_before_repair(get_db(), vehicle.id, docket.job.id)
    states = {one.name: remedy.states.get(one.called, "") for one in sheet.parts.values()}
    members = members_on(sheet, part, ledger, vehicle.year, now()[:10], mileage_now(get_db(), vehicle.id), states)
    found = replace(found, search_minutes=minutes_spent(sheet, docket.items))
    every = (*members, *_others(remedy, {member.called for member in members}))
    return target_on(sheet, part, found, every, accesses_gained(sheet, docket.items), docket.job.complaint, mode)


def _others(remedy: Remedy, known: Iterable[str]) -> list[Member]:
    return [member_in_words(name, remedy.states[name]) for name in remedy.others if name not in known]
