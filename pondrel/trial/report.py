"""The trial: many hidden faults on many processes, put together into one report. Thin: the bench and the tally are the core's."""

from __future__ import annotations

import os
from collections.abc import Iterator, Mapping, Sequence
from concurrent.futures import ProcessPoolExecutor
from functools import lru_cache
from multiprocessing import get_context
from typing import Any

from ..core.circuit.read.sheet import parse_sheet
from ..core.isolate import Workup
from .bench import Outcome, hidden_cases, run
from .foreign import Tried, by_sort, foreign_cases, mixed, try_foreign
from .tally import Gap, calibration, case_weights, optimal_gap, tally

__all__ = ["foreign_trial", "told", "told_foreign", "trial"]

_PIECE = 12  # cases that one process takes at a time
_ENOUGH = 40.0  # cases in a tenth, weighted, for its calibration to say anything


@lru_cache(maxsize=2)
def _workup(text: str) -> Workup:
    return Workup(parse_sheet(text))


def _count(job: tuple[str, int]) -> int:
    text, seed = job
    return len(hidden_cases(_workup(text), seed))


def _run(job: tuple[str, str, tuple[int, ...], int, int]) -> list[tuple[Outcome, float]]:
    text, order, numbers, seed, every = job
    workup = _workup(text)
    cases = hidden_cases(workup, seed)
    chosen = range(0, len(cases), every)
    weights = dict(zip(chosen, case_weights(workup, cases, chosen), strict=True))
    return [(run(workup, cases[i], seed, order), weights[i]) for i in numbers]


def _gaps(job: tuple[str, int]) -> list[Gap]:
    text, count = job
    return [optimal_gap(_workup(text), seed) for seed in range(count)]


def trial(
    texts: Mapping[str, str], seeds: Sequence[int], orders: Sequence[str], every: int = 1, small_worlds: int = 0, workers: int | None = None
) -> dict[str, Any]:
    """The report, ready for JSON. ``texts`` maps names to sheets; pure but for the processes that share the work."""
    with _processes(workers) as pool:
        asked = [(name, seed) for name in texts for seed in seeds]
        counts = dict(zip(asked, pool.map(_count, [(texts[name], seed) for name, seed in asked]), strict=True))
        jobs = list(_jobs(texts, counts, seeds, orders, every))
        done = list(pool.map(_run, [job for _, job in jobs]))
        gaps = dict(zip(texts, pool.map(_gaps, [(text, small_worlds) for text in texts.values()]), strict=True))
    found: dict[tuple[str, str], list[tuple[Outcome, float]]] = {}
    for (name, job), outcomes in zip(jobs, done, strict=True):
        found.setdefault((name, job[1]), []).extend(outcomes)
    return _report(texts, orders, found, gaps)


def _processes(workers: int | None) -> ProcessPoolExecutor:
    """One process per core and one thread in each: the matrices are small."""
    for name in ("OPENBLAS_NUM_THREADS", "OMP_NUM_THREADS", "MKL_NUM_THREADS"):
        os.environ.setdefault(name, "1")
    return ProcessPoolExecutor(workers or os.cpu_count(), mp_context=get_context("spawn"))


def foreign_trial(texts: Mapping[str, str], seeds: Sequence[int], vehicles: int, workers: int | None = None) -> dict[str, Any]:
    """So many vehicles of the foreign world for each sheet and seed; the report, ready for JSON."""
    jobs = [(name, (text, seed, vehicles, start)) for name, text in texts.items() for seed in seeds for start in range(0, vehicles, _PIECE)]
    with _processes(workers) as pool:
        done = list(pool.map(_run_foreign, [job for _, job in jobs]))
    tried: dict[str, list[Tried]] = {}
    for (name, _), own in zip(jobs, done, strict=True):
        tried.setdefault(name, []).extend(own)
    return {
        "world": "foreign",
        "sorts": by_sort([t for own in tried.values() for t in own]),
        **_stated_foreign([t for own in tried.values() for t in own]),
        "sheets": {name: by_sort(own) for name, own in tried.items()},
        "missed": [{"sheet": name, "sort": t.case.sort, **_missed(t.outcome)} for name, own in tried.items() for t in own if not t.right],
    }


def _stated_foreign(tried: Sequence[Tried]) -> dict[str, Any]:
    """How far what was said of each part after every reading of sound vehicles and those with one fault came true, by tenths; every
    vehicle counts alike."""
    stated = [(p, so, 1.0) for t in tried if t.case.sort in ("sound", "single") for p, so in t.outcome.stated]
    return _calibrated(stated) if stated else {}


def _calibrated(stated: Sequence[tuple[float, bool, float]]) -> dict[str, Any]:
    deciles, brier = calibration(stated)
    by_tenths = [
        {"from": d.low, "cases": round(d.count, 1), "stated": d.stated, "true": d.true, "enough": d.count >= _ENOUGH} for d in deciles
    ]
    return {"calibration": by_tenths, "brier": brier}


def _run_foreign(job: tuple[str, int, int, int]) -> list[Tried]:
    text, seed, vehicles, start = job
    workup = _workup(text)
    return [try_foreign(workup, text, case) for case in foreign_cases(workup, seed, mixed(vehicles))[start : start + _PIECE]]


def told_foreign(report: Mapping[str, Any]) -> str:
    """The foreign world's report in words."""
    head = f"{'':12}{'vehicles':>9}{'right':>8}{'one led':>9}{'sound':>8}{'named wrongly':>15}{'condemned':>11}{'minutes':>9}"
    rows = [
        f"{sort.replace('_', ' '):12}{row['vehicles']:9d}{row['right']:8.0%}{row['one_led']:9.0%}{row['called_sound']:8.0%}"
        f"{row['named_wrongly']:15.0%}{row['condemned_wrongly']:11.0%}{row['minutes']:9.1f}"
        for sort, row in report["sorts"].items()
    ]
    turns = [
        f"of two faults, both found one after the other: {row['found_in_turn']:.0%}"
        for row in report["sorts"].values()
        if "found_in_turn" in row
    ]
    for row in report["sorts"].values():
        if "severity_in_band" in row:
            turns.append(f"true severity within the stated band: {row['severity_in_band']:.0%}")
        if "leads_after_a_slip" in row:
            turns.append(f"the part at fault still leads with one more slip among its readings: {row['leads_after_a_slip']:.0%}")
    missed = [f"{m['sheet']}: {m['sort']} {', '.join(m['fault'])} → {', '.join(m['named']) or 'nothing'}" for m in report["missed"]]
    return "\n".join([head, *rows, *turns, *missed])


def _jobs(
    texts: Mapping[str, str], counts: Mapping[tuple[str, int], int], seeds: Sequence[int], orders: Sequence[str], every: int
) -> Iterator[tuple[str, tuple[str, str, tuple[int, ...], int, int]]]:
    for name, text in texts.items():
        for order in orders:
            for seed in seeds:
                numbers = list(range(0, counts[name, seed], every))
                for start in range(0, len(numbers), _PIECE):
                    yield name, (text, order, tuple(numbers[start : start + _PIECE]), seed, every)


def _report(
    texts: Mapping[str, str],
    orders: Sequence[str],
    found: Mapping[tuple[str, str], list[tuple[Outcome, float]]],
    gaps: Mapping[str, list[Gap]],
) -> dict[str, Any]:
    report: dict[str, Any] = {"sheets": {}, "orders": {}}
    for name in texts:
        own = {order: tally([o for o, _ in found[name, order]]).as_json() for order in orders}
        worlds = gaps[name]
        report["sheets"][name] = {
            "orders": own,
            "missed": [_missed(o) for o, _ in found[name, orders[0]] if not o.right or o.wrong_condemned],
            "optimal": _ratio(worlds),
        }
    for order in orders:
        everything = [pair for name in texts for pair in found[name, order]]
        report["orders"][order] = tally([o for o, _ in everything]).as_json()
    stated = [(p, y, weight) for name in texts for o, weight in found[name, orders[0]] for p, y in o.stated]
    report.update(_calibrated(stated))
    report["optimal"] = _ratio([gap for worlds in gaps.values() for gap in worlds])
    if "fuse" in orders and "best" in orders:
        report["best_to_fuse"] = report["orders"]["best"]["minutes"] / max(report["orders"]["fuse"]["minutes"], 1e-9)
    return report


def _ratio(worlds: Sequence[Gap]) -> dict[str, float]:
    """Minutes summed over small worlds, and as ratios to the optimum."""
    best = sum(g.optimal for g in worlds)
    if not best:
        return {"worlds": len(worlds)}
    return {
        "worlds": len(worlds), "optimal_minutes": best, "adviser": sum(g.adviser for g in worlds) / best,
        "one_step": sum(g.greedy for g in worlds) / best,
    }  # fmt: skip


def _missed(o: Outcome) -> dict[str, Any]:
    return {
        "fault": [str(fault) for fault in o.case.faults], "named": list(o.target), "probability": o.probability, "condemned": o.proved,
        "tests": o.tests, "blunders": o.blunders,
    }  # fmt: skip


def told(report: Mapping[str, Any]) -> str:
    """The report as lines of text."""
    lines = []
    for name, sheet in report["sheets"].items():
        for order, t in sheet["orders"].items():
            lines.append(f"{name}  {order:7} {_line(t)}")
        lines += [
            f"    missed {m['fault']}: named {m['named']} at {m['probability']:.2f}, {m['blunders']} blunders" for m in sheet["missed"]
        ]
    lines += [f"all  {order:7} {_line(t)}" for order, t in report["orders"].items()]
    if "best_to_fuse" in report:
        lines.append(f"minutes of best value to from-the-fuse: {report['best_to_fuse']:.2f}")
    if "adviser" in report["optimal"]:
        o = report["optimal"]
        lines.append(f"{o['worlds']} small worlds: adviser {o['adviser']:.3f} of the optimum, one step ahead only {o['one_step']:.3f}")
    lines += [f"said {d['stated']:.3f}, was so {d['true']:.3f} ({d['cases']:.0f} cases)" for d in report["calibration"] if d["enough"]]
    lines.append(f"Brier score {report['brier']:.4f}")
    return "\n".join(lines)


def _line(t: Mapping[str, float]) -> str:
    return (
        f"{t['cases']:.0f} cases, right {t['right']:.1%}, proved {t['proved']:.1%}, wrongly condemned {t['wrong_condemned']:.2%}, "
        f"overlooked {t['overlooked']:.2%}, "
        f"{t['tests']:.1f} tests, {t['minutes']:.1f} min"
    )
