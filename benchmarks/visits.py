"""How well the plan of a visit foresees the minutes: what was reckoned before the first reading, beside what the adviser then took.

Vehicles are those of the foreign world (worn, of other laws, solved by ngspice), each with one hidden fault. `python -m benchmarks.visits`
prints for every sheet the share of vehicles whose minutes stayed under the plan's nine-in-ten mark and under its median, and the means.
"""

from __future__ import annotations

import sys
from collections.abc import Sequence

from pondrel.core.circuit.read.sheet import parse_sheet
from pondrel.core.isolate import Workup, World, isolate, visit_from
from pondrel.demo.load import SHEETS
from pondrel.trial.foreign import foreign_cases, try_foreign

VEHICLES, SEED = 12, 1


def measured(name: str, vehicles: int, seed: int) -> list[tuple[float, float, float, float]]:
    """For every vehicle the plan's mean, median and nine-in-ten mark, and the minutes that were taken."""
    text = (SHEETS / f"{name}.yaml").read_text(encoding="utf-8")
    workup = Workup(parse_sheet(text))
    found = isolate(workup, ())
    visit = visit_from(World.of(found.belief, found.groups))
    plan = (visit.expected, visit.quantile(0.5), visit.high)
    cases = foreign_cases(workup, seed, {"single": vehicles})
    return [(*plan, try_foreign(workup, text, case).outcome.minutes) for case in cases]


def main(names: Sequence[str]) -> None:
    """Print a line for each sheet, and one for all."""
    every: list[tuple[float, float, float, float]] = []
    for name in names or sorted(file.stem for file in SHEETS.glob("*.yaml")):
        own = measured(name, VEHICLES, SEED)
        every += own
        print(_line(name, own), flush=True)
    print(_line("all", every))


def _line(name: str, own: Sequence[tuple[float, float, float, float]]) -> str:
    count = max(len(own), 1)
    mean, took = sum(v[0] for v in own) / count, sum(v[3] for v in own) / count
    under, half = sum(v[3] <= v[2] for v in own) / count, sum(v[3] <= v[1] for v in own) / count
    shares = f"under 9 in 10 {under:4.0%}, under the median {half:4.0%}"
    return f"{name:18} {len(own):4} vehicles: reckoned {mean:5.1f} min, took {took:5.1f}; {shares}"


if __name__ == "__main__":
    main(sys.argv[1:])
