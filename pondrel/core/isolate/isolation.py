"""Everything that follows from a sheet and its readings, in one value: what the screens show and the command line prints."""

from __future__ import annotations

import math
from collections.abc import Mapping
from dataclasses import dataclass, replace
from functools import cached_property

import numpy as np
from numpy.typing import NDArray

from ..base.arrays import Floats
from ..base.judgement import OWN_RULE, judged
from ..base.special import logsumexp
from ..base.ties import ranks
from ..circuit.fault import mode_of
from ..circuit.part import Effect, Span
from ..evidence.asked import Measurement
from ..evidence.items import Item, observations
from ..evidence.pins import pins_of
from ..evidence.registry import word_sort
from ..evidence.trend import Trend, trends
from .advise.advice import Advice, Weighed, describe, ranked, repeats
from .advise.other_meters import other_meters
from .advise.plan import World, soonest
from .advise.unplugging import by_itself, unplugging
from .believe.belief import Belief, update
from .believe.beyond import beyond, undrawn, wanted
from .believe.likelihood import BLUNDER
from .believe.loads import undrawn_loads
from .believe.other_diagrams import touching_wires
from .believe.supposed import Beyond
from .conclude.proof import CERTAIN, Standing, inseparable, percent, proof_tests, standing
from .conclude.slips import likeliest_slip
from .conclude.suspects import Suspect, Target, chances, likeliest_modes, parted, targets
from .conclude.worn import Coverage, Worn, coverage, worn_joints
from .predict.chances import log_factor
from .predict.workup import Workup

__all__ = ["Isolation", "Misfit", "Suspect", "isolate"]

MISFIT_SIGMA = 4.0
LEAKY_OPEN_OHMS = judged("LEAKY_OPEN_OHMS", 1000.0, "Ω", "a joint that has surely more is called open, with leakage")
_BLOWN = "A fuse blows for a reason: look behind it for what took too much before a new one goes in."
_CONTRADICTS = 0.3  # share of what is not drawn from which on nothing is believed
_WORTH_TELLING, _MOST_OTHERS = 1e-8, 12  # of each kind
_EQUAL = 1e-9  # share by which a probability may be less than another and count as equal to it
_LARGEST_GROUP = 5
_MISTAKEN = 0.1  # how much less likely than by the best explanation of it, what is seen counts as mistaken
_WORTH_GOING_ON = 0.05  # bits: once something is certain, or named and cannot be proved, a test must tell as much to be asked for
_WORTH_BEFORE_PROOF = 0.05  # bits of a test that goes before one that proves, where it takes so much less time:
QUICKER = judged(
    "QUICKER_THAN_PROOF", 0.34, "share", "of the minutes of a proving test, below which a quicker one that tells goes first", OWN_RULE
)
_WORTH_A_REPEAT = 0.004  # bits: less than another test must tell, since a slip is what lets a vehicle go with its fault
PAYS = 0.95  # a look ahead is followed where it promises to save a twentieth of the minutes
_BEFORE_UNPLUGGING = 0.1  # bits that a test tells which goes before one that unplugs something
_STANDS_TOGETHER = 0.5  # from here on it is worth while to part a group by unplugging
_MAY_BE_A_LOAD = 0.03  # chance of a load beside a winding from which on that is measured by itself
_LEADS_TOGETHER = 0.1  # parts that are worth being unplugged from each other
_TAKES_FOR_SLIPS = 0.5  # from here on what the leading suspect takes for a slip is said
_LEADING = 0.02  # a reading is the odd one out when it fits no suspect above this


@dataclass(frozen=True, slots=True)
class Misfit:
    """A reading that fits none of the leading suspects, or not the one that leads; ``sigma`` is its least distance from one. ``alone``
    says that it fits no leading suspect at all."""

    reading: int
    sigma: float
    says: str
    alone: bool = True


@dataclass(frozen=True)
class Isolation:
    """The state of a trace. ``suspects`` by descending probability; ``groups`` of parts that no test separates; ``next`` best first;
    ``assumed`` says what the ranking rests on, ``contradiction`` is a sentence where the evidence does not go together, else empty."""

    belief: Belief
    suspects: tuple[Suspect, ...]
    groups: tuple[tuple[str, ...], ...]
    next: tuple[Advice, ...]
    misfits: tuple[Misfit, ...]
    standing: Standing
    assumed: str
    contradiction: str
    trends: tuple[Trend, ...] = ()

    @cached_property
    def worn(self) -> tuple[Worn, ...]:
        """Connections that are worse than usual and within their limits: no fault, and worth knowing."""
        return worn_joints(self.belief)

    @cached_property
    def coverage(self) -> Coverage:
        """What the readings have tested: what a verdict of nothing wrong rests on."""
        return coverage(self.belief)

    @property
    def mind(self) -> str:
        """What to mind about the part that leads: a blown fuse has a cause of its own."""
        sheet = self.belief.workup.sheet
        blown = any(math.isfinite(e.rating) for name in self.standing.target for e in sheet.parts[name].elements())
        leads = next((s for s in self.suspects if s.part in self.standing.target), None)
        opened = leads is not None and (leads.mode == "open" or "leakage" in leads.words)
        return _BLOWN if blown and opened and self.standing.probability >= _TAKES_FOR_SLIPS else ""

    @property
    def exhausted(self) -> str:
        """What is said where no test is proposed."""
        if self.standing.ready:
            return "Nothing is left to test"
        if self.standing.named:
            return "Testing ends here"
        return "No other place would tell more" if self.comes_and_goes else "No further test here would change the ranking"

    @property
    def comes_and_goes(self) -> bool:
        """Whether what leads is a fault that is there at some readings only."""
        return bool(self.suspects) and self.suspects[0].kind == "sometimes"

    @property
    def onward(self) -> str:
        """What would still help where no test is proposed and nothing is proved."""
        if self.comes_and_goes:
            return "It comes and goes. Make it show, and read the same places again while it is there: each such reading counts."
        return "A part taken out and checked by itself, or another state of the circuit, may still tell."

    @cached_property
    def parts(self) -> dict[str | None, float]:
        """P(part is at fault), None for nothing on this sheet; a fault of two counts for both. In descending order."""
        return chances(self.suspects, tuple(self.belief.workup.sheet.parts))

    @cached_property
    def targets(self) -> tuple[Target, ...]:
        """The parts, or groups of them, as targets of a repair, the likeliest first: what the headline goes by."""
        return targets(self.suspects, tuple(self.belief.workup.sheet.parts), self.groups)

    def modes_of(self, parts: tuple[str, ...]) -> Mapping[str, str]:
        """How a part that is named alone most likely failed; nothing is said of one of several that nothing told apart."""
        return likeliest_modes(self.belief, parts) if len(parts) == 1 else {}

    def as_json(self) -> dict[str, object]:
        """The command line's answer; a suspect whose part is None stands for "nothing on this sheet is wrong"."""
        shown = [s for s in self.suspects if s.kind == "single" or s.probability >= _WORTH_TELLING]
        return {
            "suspects": [
                {
                    "part": s.part, "mode": s.mode, "kind": s.kind, "parts": list(s.parts), "words": s.words,
                    "probability": s.probability, "severity": _severity(s.severity),
                }
                for s in shown
            ],
            "groups": [list(group) for group in self.groups],
            "next": [
                {
                    "instrument": a.test.instrument, "red": a.test.red, "black": a.test.black, "state": a.test.state,
                    "unplugged": ", ".join(a.test.without) if isinstance(a.test, Measurement) else "",
                    "pins": [pin.as_json() for pin in pins_of(self.belief.workup.sheet, a.test)],
                    "minutes": round(a.minutes, 2), "gain_bits": a.gain_bits, "proves": a.proves, "cautions": list(a.cautions),
                    "expect": [{"part": e.part, "mode": e.mode, "value": e.word or _number(e.value)} for e in a.expect],
                }
                for a in self.next
            ],
            "misfits": [{"reading": m.reading + 1, "sigma": m.sigma, "says": m.says} for m in self.misfits],
            "standing": {
                "target": list(self.standing.target), "probability": self.standing.probability, "ready": self.standing.ready,
                "proof": [n + 1 for n in self.standing.proof], "says": self.standing.says,
            },
            "mind": self.mind, "assumed": self.assumed,
            "contradiction": self.contradiction,
            "worn": [{"part": w.part, "ohms": w.ohms, "volts": w.volts, "limit": w.limit} for w in self.worn],
            "trends": [trend.as_json() for trend in self.trends],
            "tested": list(self.coverage.tested), "untested": list(self.coverage.untested),
        }  # fmt: skip


def _proving_first(proving: tuple[Advice, ...], others: tuple[Advice, ...]) -> tuple[Advice, ...]:
    """What would prove the target, before whatever else still tells; but after what takes much less time than the first of it and still
    tells something: the rest of a pair of readings often proves it, too."""
    least = proving[0].minutes if proving else 0.0
    quick = tuple(a for a in others if a.minutes < QUICKER * least and a.gain_bits >= _WORTH_BEFORE_PROOF)
    first = (*quick, *proving)
    named = {advice.test for advice in first}
    return (*first, *(a for a in others if a.test not in named))


def isolate(workup: Workup, items: tuple[Item, ...]) -> Isolation:
    """Rank the faults, group what cannot be told apart, propose the next tests. The same inputs give the same answer.

    While a target leads with certainty but without proof, the tests that would prove it come first, but for what is much quicker and
    still tells something.
    """
    belief = update(workup, items)
    misfits, strain = _misfits(belief)
    others, assumed = _others(belief, strain)
    total = float(logsumexp([belief.log_evidence, *(b.log_joint for b in others)]))
    share = math.exp(belief.log_evidence - total)
    suspects, names = _suspects(belief, share, others, total), tuple(workup.sheet.parts)
    alike = inseparable(belief)
    groups = parted(belief, alike, CERTAIN)
    contradiction = _contradiction(suspects, tuple(m for m in misfits if m.alone))

    def stands() -> Standing:
        silent = sum(s.probability for s in suspects if s.silent)
        away = sum(s.probability for s in suspects if s.silent and s.kind == "sometimes")
        return standing(belief, targets(suspects, names, groups), alike, _elsewhere(suspects), contradiction, silent, away)

    now = stands()
    proposals = _advice(belief, groups, now)
    if not proposals and now.target and not now.ready and not contradiction:
        left = _left_over(belief, share)
        if left:
            groups = (left, *groups)
            now = stands()
    if now.named and not now.proof:
        proving = proof_tests(belief, now.target)
        proposals = _proving_first(proving, proposals)[:5]
        if not proving and not any(a.gain_bits >= _WORTH_GOING_ON for a in proposals):
            now, proposals = now.unprovable(), ()
    apart: tuple[str, ...] = ()
    together = len(now.target) > 1 and now.probability >= _STANDS_TOGETHER
    if together or not any(a.gain_bits >= _BEFORE_UNPLUGGING for a in proposals):
        apart = now.target if len(now.target) > 1 else _alike_leaders(belief)
        apart = apart if len(apart) > 1 or not proposals else ()
    if apart and not contradiction:
        more = unplugging(belief, apart)
        if not any(a.gain_bits >= _BEFORE_UNPLUGGING for a in (*proposals, *more)):
            more = (*more, *other_meters(belief, apart))
        proposals = _merged(proposals, more)
    if not contradiction and not now.ready:
        proposals = _merged(proposals, _winding_or_load(belief, suspects))
    stuck = now.unsure or now.named or not any(a.gain_bits >= _WORTH_GOING_ON for a in proposals)
    if stuck and not now.ready and not contradiction and not any(a.proves for a in proposals):
        proposals = _against_a_slip(belief, now, proposals)
    if now.unsure and not proposals and not contradiction:
        now = now.settled()
    if now.ready:
        proposals = tuple(a for a in proposals if a.gain_bits >= _WORTH_GOING_ON)
    return Isolation(belief, suspects, groups, proposals, misfits, now, assumed, contradiction, trends(items))


def _merged(proposals: tuple[Advice, ...], more: tuple[Advice, ...]) -> tuple[Advice, ...]:
    """Proposals in their order, those with something unplugged where nothing that tells much follows: what is plugged in stays so as
    long as it can."""
    last = max((i for i, advice in enumerate(proposals) if advice.proves or advice.gain_bits >= _BEFORE_UNPLUGGING), default=-1)
    return (*proposals[: last + 1], *more, *proposals[last + 1 :])[:5]


def _alike_leaders(belief: Belief) -> tuple[str, ...]:
    """The few parts that lead together."""
    return tuple(part for part, p in belief.parts().items() if part is not None and p >= _LEADS_TOGETHER)[:_LARGEST_GROUP]


def _winding_or_load(belief: Belief, suspects: tuple[Suspect, ...]) -> tuple[Advice, ...]:
    """Where a winding that has lost turns leads, and a load beside it that nobody drew would show the same: the winding by itself."""
    lead = suspects[0]
    load = sum(s.probability for s in suspects if s.beside == lead.part)
    if lead.kind != "single" or lead.part is None or lead.mode is None or load < _MAY_BE_A_LOAD:
        return ()
    return by_itself(belief, lead.part, lead.mode, lead.probability, load)


def _elsewhere(suspects: tuple[Suspect, ...]) -> tuple[str, float]:
    """The likeliest explanation that is no fault of one part, in words, and its probability."""
    found = next((s for s in suspects if s.heading), None)
    if found is None:
        return "", 0.0
    lead = "lead" if found.heading.startswith("Two") else "leads"
    return f"{found.heading} {lead} with {percent(found.probability)}: {found.words}.", found.probability


def _against_a_slip(belief: Belief, now: Standing, proposals: tuple[Advice, ...]) -> tuple[Advice, ...]:
    """The proposals with readings to be taken once more, where that tells more a minute: those that carry the proof, or any where there is
    none."""
    carrying = tuple(i for i, number in enumerate(belief.numbers) if number in now.proof or not now.proof)
    again = repeats(belief, now.target, carrying, "carries the proof" if now.proof else "may have been a slip that hides another fault")
    first = proposals[0].gain_bits / proposals[0].minutes if proposals else 0.0
    before = tuple(advice for rate, advice in again if rate > first and advice.gain_bits >= _WORTH_A_REPEAT)[:2]
    return (*before, *proposals)[:5]


def _left_over(belief: Belief, share: float) -> tuple[str, ...]:
    """The fewest parts that hold nearly all of it when no test tells anything more: here they cannot be told apart. Empty where there are
    too many, or where nothing may be wrong."""
    total = 0.0
    found: list[str] = []
    for part, p in belief.parts().items():
        if part is None or len(found) == _LARGEST_GROUP:
            return ()
        found.append(part)
        total += p * share
        if total >= CERTAIN:
            return tuple(found) if len(found) > 1 else ()
    return ()


def _advice(belief: Belief, groups: tuple[tuple[str, ...], ...], now: Standing) -> tuple[Advice, ...]:
    """The best next tests; where several targets are still open, in the order of a look two steps ahead."""
    weighed = Weighed.of(belief)
    found = ranked(belief, weighed)
    if len(found) < 2 or now.probability >= CERTAIN:
        return found
    world = World.of(belief, groups, by=weighed)
    minutes, greedy = world.foresight(world.start), world.number.get(found[0].test)
    first = soonest(minutes)
    if first is None or greedy is None or first == greedy:
        return found
    if minutes[first] > PAYS * (minutes[greedy] if greedy in minutes else world.ahead(world.start, greedy)):
        return found
    wise = next((a for a in found if a.test == world.tests[first]), None) or describe(
        belief, world.tests[first], float(world.bits(world.start.mass[None])[0, first])
    )
    return (wise, *(a for a in found if a.test != wise.test))[:5]


def _others(belief: Belief, strain: float) -> tuple[tuple[Beyond, ...], str]:
    """Explanations beyond one lasting fault, and what the ranking assumes."""
    unknown = undrawn(belief)
    share = 1.0 / (1.0 + math.exp(min(belief.log_evidence - unknown.log_joint, 700.0)))
    if not belief.items or not wanted(belief, strain, share):
        loads = undrawn_loads(belief)[:_MOST_OTHERS] if belief.items else []
        touching = touching_wires(belief)[:_MOST_OTHERS]
        more = f"{', or with one more load' if loads else ''}{', or with two wires that touch' if touching else ''}"
        return (unknown, *loads, *touching), f"One lasting fault at most, the circuit as it is drawn{more}."
    kept: dict[str, list[Beyond]] = {}
    for other in beyond(belief):
        kept.setdefault(other.kind, []).append(other)
    return tuple(
        b for found in kept.values() for b in found[:_MOST_OTHERS]
    ), "Weighed as well: faults that come and go, two at once, a circuit that is not as drawn."


def _suspects(belief: Belief, share: float, others: tuple[Beyond, ...], total: float) -> tuple[Suspect, ...]:
    hypotheses = belief.workup.hypotheses
    suspects = [
        Suspect(
            h, item.part, item.mode, _words_of(belief, h), float(belief.probability[h]) * share, float(hypotheses.prior[h]),
            belief.severity[h], parts=(item.part,) if item.part else (),
        )
        for h, item in enumerate(hypotheses.items)
    ]  # fmt: skip
    for other in others:
        part = other.parts[0] if other.parts else None
        chance = math.exp(other.log_joint - total)
        beyond_one = Suspect(-1, part, other.kind, other.words, chance, 0.0, None, other.kind, other.parts, other.silent, other.beside)
        suspects.append(beyond_one)
    # Equal ones stand in the sheet's order, and are equal to the last bit.
    place = ranks([s.probability for s in suspects], _EQUAL)
    least = np.minimum.accumulate([suspects[i].probability for i in np.argsort(place, kind="stable")])
    return tuple(replace(suspects[i], probability=float(p)) for i, p in zip(np.argsort(place, kind="stable"), least, strict=True))


def _words_of(belief: Belief, hypothesis: int) -> str:
    """What a hypothesis is called; a joint of kilohms is open, with damp and dirt across it, and a few stray volts come of that."""
    item, severity = belief.workup.hypotheses.items[hypothesis], belief.severity[hypothesis]
    if item.part is None or item.mode is None or severity is None or severity[1] < LEAKY_OPEN_OHMS:
        return item.words
    part = belief.workup.sheet.parts[item.part]
    mode = mode_of(belief.workup.sheet, item.part, item.mode)
    if mode.severity is None or mode.severity.span is not Span.SERIES or part.kind.load == mode.effects[0][0]:
        return item.words
    opened = next((other.words for other in part.modes if other.effects == ((mode.effects[0][0], Effect.OPEN),)), "")
    return f"{opened}, with some leakage across it" if opened else item.words


def _contradiction(suspects: tuple[Suspect, ...], misfits: tuple[Misfit, ...]) -> str:
    """A plain sentence where no explanation holds the evidence together."""
    unknown = sum(s.probability for s in suspects if s.kind == "undrawn")
    numbers = [str(m.reading + 1) for m in misfits]
    listed = f"reading{'s' if len(numbers) > 1 else ''} {' and '.join(numbers)}"
    if unknown >= _CONTRADICTS:
        which = f" Repeat {listed} first." if numbers else " Repeat the readings that surprise you most."
        return f"These readings do not go together: nothing that is drawn explains them all.{which}"
    if len(misfits) >= 2 and suspects[0].kind == "single":
        return f"These readings do not go together: {listed} fit none of the leading suspects. Repeat them before you believe any."
    return ""


def _misfits(belief: Belief) -> tuple[tuple[Misfit, ...], float]:
    """Readings that fit none of the leading suspects; and how many readings those suspects take for blunders, on the average."""
    # Contradictory readings may leave no suspect above it: then those that are likeliest.
    leading = np.flatnonzero(belief.probability >= min(_LEADING, float(belief.probability.max())))
    misfits = []
    _, scores, odd = belief.explain(leading)
    for i, number in enumerate(belief.numbers):
        sigma = float(np.abs(scores[:, i]).min())
        if odd[:, i].min() > 0.5 and sigma >= MISFIT_SIGMA:
            text = f"Reading {number + 1} fits none of the leading suspects: repeat it."
            misfits.append(Misfit(number, sigma, text))
    first = int(belief.probability.argmax())
    own = int(np.flatnonzero(leading == first)[0])
    taken = {misfit.reading for misfit in misfits}
    for i, number in enumerate(belief.numbers):
        sigma = float(np.abs(scores[own, i]))
        slip = likeliest_slip(belief, first, i) if odd[own, i] > 0.5 and sigma >= MISFIT_SIGMA else None
        asks = f" {slip.asks[0].upper()}{slip.asks[1:]}?" if slip else ""
        if number in taken:
            misfits = [replace(m, says=m.says + asks) if m.reading == number else m for m in misfits]
        elif asks and belief.probability[first] >= _TAKES_FOR_SLIPS:
            text = f"Reading {number + 1} would be a slip if {_named(belief, first)}.{asks}"
            misfits.append(Misfit(number, sigma, text, alone=False))
    weight = belief.probability[leading]
    # What any reading may be, a slip, does not add up to a misfit where there are many.
    beyond_any = np.maximum(odd - BLUNDER, 0.0).sum(axis=1)
    return tuple(misfits), float(weight @ (beyond_any + _odd_looks(belief, leading))) / float(weight.sum())


def _odd_looks(belief: Belief, hypotheses: NDArray[np.intp]) -> Floats:
    """(n,) how many of the things seen some hypotheses take for mistaken, at their likeliest severity."""
    rows = belief.atoms.spot.near[belief.best[hypotheses]]
    count = np.zeros(len(hypotheses))
    for item in observations(belief.items):
        if word_sort(item).from_circuit:
            factor = log_factor(belief.workup, item)
            count += factor[rows] < factor.max() + math.log(_MISTAKEN)
    return count


def _named(belief: Belief, hypothesis: int) -> str:
    """A hypothesis in a sentence after "if": ``G3 is at fault``."""
    item = belief.workup.hypotheses.items[hypothesis]
    return f"{item.part} is at fault" if item.part else "nothing on this sheet is wrong"


def _severity(severity: tuple[float, float, float] | None) -> dict[str, object] | None:
    if severity is None:
        return None
    value, low, high = severity
    return {"value": value, "low": low, "high": high, "unit": "ohm"}


def _number(value: float) -> float | str:
    return "OL" if math.isinf(value) else value
