"""Does learning from the record help? Fleets in which parts fail at other rates than the shipped weights say, and fleets in which they do
not.

For each sheet a fleet draws by how much likelier each of its parts is there; proved jobs are drawn from that, and what they teach is put
beside the shipped weights: the same hidden faults are looked for twice, and counted as often as the fleet has them. Run it with
``python -m pondrel.trial.fleet``.
"""

from __future__ import annotations

import sys
from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from pathlib import Path

import numpy as np

from ..core.circuit.read.sheet import parse_sheet
from ..core.circuit.sheet import Sheet
from ..core.isolate import Workup
from ..core.learn import Here, Learned, Past, learned_from, mode_shares, part_shares
from .bench import hidden_cases, run
from .sets import sheets_of
from .tally import case_weights

__all__ = ["Fleet", "Told", "drawn", "fleet_trial", "here_of"]

DIFFERS = 1.2  # standard deviation of the natural log of a part's factor in a fleet that differs


@dataclass(frozen=True)
class Fleet:
    """A fleet: by part the true share of its circuit's faults, and the jobs that were proved in it."""

    share: Mapping[str, float]
    past: tuple[Past, ...]

    def learned(self, here: Here) -> Learned:
        """What its jobs teach of the circuit."""
        return learned_from(self.past, here)


@dataclass(frozen=True, slots=True)
class Told:
    """What came of a fleet, by the shipped weights and with what was learned: minutes and tests on the average, shares named rightly and
    condemned wrongly."""

    minutes: tuple[float, float]
    tests: tuple[float, float]
    right: tuple[float, float]
    wrong: tuple[float, float]


def here_of(sheet: Sheet, model: str = "a model", years: float = 8.0) -> Here:
    """A circuit on a vehicle of a model."""
    return Here(sheet.title, sheet.family, model, years, {name: part.kind.name for name, part in sheet.parts.items()}, part_shares(sheet),
                mode_shares(sheet))  # fmt: skip


def drawn(sheet: Sheet, jobs: int, differs: float, seed: int) -> Fleet:
    """A fleet with so many proved jobs on one circuit; ``differs`` nought for one that fails as the shipped weights say."""
    rng = np.random.default_rng(seed)
    here = here_of(sheet)
    parts = [part for part, share in here.shares.items() if share > 0.0]
    weight = np.array([here.shares[part] for part in parts]) * np.exp(differs * rng.standard_normal(len(parts)))
    share = weight / weight.sum()
    at = rng.choice(len(parts), size=jobs, p=share)
    return Fleet(dict(zip(parts, share.tolist(), strict=True)), tuple(Past(n, here, (parts[i],)) for n, i in enumerate(at, 1)))


def fleet_trial(text: str, jobs: int, differs: float, seed: int, every: int = 1) -> Told:
    """The hidden faults of a sheet looked for twice, each counted as often as the fleet has it."""
    sheet = parse_sheet(text)
    fleet = drawn(sheet, jobs, differs, seed)
    plain = Workup(sheet)
    taught = plain.weighed_by(fleet.learned(here_of(sheet)).weights)
    cases = hidden_cases(plain, seed)
    chosen = [i for i in range(0, len(cases), every) if cases[i].part is not None]
    weights = case_weights(plain, cases, chosen)
    shipped = part_shares(sheet)
    counts = [w * fleet.share[p] / shipped[p] for w, i in zip(weights, chosen, strict=True) if (p := cases[i].part) is not None]
    both = [[run(workup, cases[i], seed) for i in chosen] for workup in (plain, taught)]

    def mean(values: Sequence[float]) -> float:
        return float(np.average(values, weights=counts))

    told = [
        (
            mean([o.minutes for o in own]),
            mean([o.tests for o in own]),
            mean([float(o.right) for o in own]),
            mean([float(o.wrong_condemned) for o in own]),
        )
        for own in both
    ]
    return Told(*zip(*told, strict=True))


def main(jobs: int = 40, every: int = 2, sheets: int = 3) -> None:
    """Print what came of some of the demo's sheets, in a fleet that differs and in one that does not."""
    for differs in (DIFFERS, 0.0):
        found = [
            (name, fleet_trial(Path(name).read_text(encoding="utf-8"), jobs, differs, 7, every)) for name in sheets_of("demo")[-sheets:]
        ]
        for name, told in found:
            print(f"{differs:g} {Path(name).stem}: {told}", flush=True)
        for what in ("minutes", "tests", "right", "wrong"):
            pairs = np.array([getattr(told, what) for _, told in found]).mean(axis=0)
            print(f"{differs:g} {what}: {pairs[0]:.3f} by the shipped weights, {pairs[1]:.3f} learned", flush=True)


if __name__ == "__main__":
    main(*(int(word) for word in sys.argv[1:]))
