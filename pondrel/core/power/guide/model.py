"""What a guided way is made of: causes, steps, and the table that joins them."""

from __future__ import annotations

from collections.abc import Callable, Mapping
from dataclasses import dataclass, field, replace

from ...base.judgement import judged
from ...bench.case import Case

__all__ = ["SLIPS", "Cause", "Deed", "DrawnPath", "Mended", "Step", "Way"]

SLIPS = judged("GUIDE_SLIPS", 0.02, "share", "answers on a guided way that are simply wrong")
Cases = Mapping[str, Case]  # by family


@dataclass(frozen=True, slots=True)
class Cause:
    """Something that may be wrong. ``weight`` is how often it is, beside the others; causes of one ``target`` are mended the same way.
    ``proofs`` are sets of step and outcome of which any one shows it directly; ``mend`` is what to do, ``then`` how that is proved.
    ``pieces`` where that is more than one piece and its circuit tells which; ``family`` names the check
    that goes on; ``cautions`` hold while it is mended."""

    name: str
    title: str
    weight: float
    mend: str
    proofs: tuple[Mapping[str, str], ...]
    then: str = "Read the same points again, the same way."
    target: str = ""
    pieces: bool = False
    family: str = ""
    cautions: tuple[str, ...] = ()

    @property
    def aim(self) -> str:
        """What is mended."""
        return self.target or self.name


@dataclass(frozen=True, slots=True)
class Step:
    """One thing to look at or to read: the ``family`` and ``check`` that judge it, where ``red`` and ``black`` go, what to ``do``.

    ``minutes`` is what it takes, ``behind`` what must be got at first, ``needs`` what must be at hand. ``outcome`` puts what was read into
    one of ``outcomes`` (empty where it tells nothing); ``hint`` says what the outcomes mean. ``usual`` is how likely each outcome is under
    any cause that ``given`` does not name. A ``repeated`` step is asked again until its outcome is final, a ``timed`` one noted with its
    minutes. ``after`` names steps that come before it, ``when`` says by what was answered whether it is asked at all. ``piece_of`` is the
    step that reads all of its side. ``unit`` is what is read where its check takes several, ``alternating`` volts are read on the AC
    range. ``absent`` is the outcome where the vehicle has no such thing: then that is the answer. ``slips`` is the share of its
    answers that are simply wrong. ``probe`` is the same on the typical circuit: the node of red, that of black, the state, and what is
    unplugged."""

    name: str
    title: str
    family: str
    check: str
    minutes: float
    outcomes: tuple[str, ...]
    outcome: Callable[[Cases], str]
    usual: Mapping[str, float]
    given: Mapping[str, Mapping[str, float]] = field(default_factory=dict)
    red: str = ""
    black: str = ""
    do: str = ""
    hint: str = ""
    behind: str = ""
    needs: frozenset[str] = frozenset()
    cautions: tuple[str, ...] = ()
    repeated: bool = False
    timed: bool = False
    after: tuple[str, ...] = ()
    when: Callable[[Mapping[str, str]], bool] = lambda words: True
    piece_of: str = ""
    probe: tuple[str, str, str, str] | None = None
    unit: str = ""
    alternating: bool = False
    absent: str = ""
    slips: float = SLIPS

    def chance(self, cause: str, outcome: str) -> float:
        """How likely an outcome is under a cause; never quite nothing, since people slip."""
        row = self.given.get(cause, self.usual)
        unnamed = len(self.outcomes) - len(row)
        rest = max(1.0 - sum(row.values()), 0.0) / unnamed if unnamed else 0.0
        total = sum(row.values()) + rest * unnamed
        return (1.0 - self.slips) * row.get(outcome, rest) / total + self.slips / len(self.outcomes)


@dataclass(frozen=True, slots=True)
class Deed:
    """Something to do to the vehicle on the way: due where ``due`` says so. It makes the answers of ``voids`` history, and the causes in
    ``lessens`` that much less likely; where nothing is wrong any more after it, ``cures`` is what it was (empty where it mends nothing)."""

    name: str
    title: str
    minutes: float
    do: str
    due: Callable[[Mapping[str, str]], bool]
    voids: frozenset[str]
    lessens: Mapping[str, float]
    cures: str
    cautions: tuple[str, ...] = ()


@dataclass(frozen=True, slots=True)
class DrawnPath:
    """How a way's path is drawn: its title, the source and the load each with the step that reads its volts, and its two sides, each with
    the step that reads all of it and what it is called. Pieces are the steps that are part of a side."""

    title: str
    source: tuple[str, str]
    load: tuple[str, str]
    sides: tuple[tuple[str, str], tuple[str, str]]


@dataclass(frozen=True, slots=True)
class Mended:
    """What is mended: what it is ``called``, how it is ``built`` (a name of `remedy.builds`, empty where nobody knows), and what was found
    to be ``wrong`` with it."""

    called: str
    built: str
    wrong: str = ""


@dataclass(frozen=True, slots=True)
class Way:
    """A guided way for a complaint: its causes, steps and deeds. ``said`` are patterns of what a driver says that calls for it, in small
    letters (common practice of speech, no source)."""

    name: str
    title: str
    complaint: str
    causes: tuple[Cause, ...]
    steps: tuple[Step, ...]
    deeds: tuple[Deed, ...] = ()
    families: tuple[str, ...] = ()
    hidden: Mapping[str, str] = field(default_factory=dict)  # what must be got at, by name, in words
    path: DrawnPath | None = None
    typical: str = ""  # the typical circuit on which its readings go on
    said: tuple[str, ...] = ()
    mends: Mapping[str, Mended] = field(default_factory=dict)  # by the aim of a cause what is mended then

    def step(self, name: str) -> Step | None:
        """The step of that name."""
        return next((step for step in self.steps if step.name == name), None)

    def deed(self, name: str) -> Deed | None:
        """The deed of that name."""
        return next((deed for deed in self.deeds if deed.name == name), None)

    def mended(self, name: str) -> Mended | None:
        """What is mended for one of its causes, with what is wrong with it; None for what is none of them."""
        cause = next((cause for cause in self.causes if cause.name == name), None)
        if cause is None:
            return None
        own = self.mends.get(cause.aim)
        return replace(own, wrong=cause.title) if own else Mended(cause.title, "")

    def cause(self, name: str) -> Cause:
        """The cause of that name."""
        return next(cause for cause in self.causes if cause.name == name)
