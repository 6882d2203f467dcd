"""What findings say: for every row of a workup, how likely each outcome of something seen, done or known is.

What the circuit predicts (light, speed, a code's volts) comes from the circuit. What no law predicts (a plug that cures itself when it is
wiggled, a green pin) comes from the likelihood ratios below: common practice, no source; they are small enough that no finding alone
condemns a part.
"""

from __future__ import annotations

import numpy as np
from scipy.special import ndtr

from ...base.arrays import Floats
from ...circuit.part import Effect, Mode, Span
from ...circuit.sights import sight_of, sight_values, word_chances
from ...evidence.items import ACTIONS, Finding, outcomes_of, parts_at
from ...evidence.test import Check, Setup
from .responses import Workup

__all__ = ["chances", "log_factor"]

OLD_CODE, MISSED_CODE = 0.08, 0.06  # a code left over from earlier work; one that is not yet stored
_CODE_BLUR_VOLTS = 0.1
# A module below so many volts sets no code; that one is read out all the same is a mix-up. Common practice, no source.
ALIVE_VOLTS, _ALIVE_BLUR_VOLTS, FROM_THE_DEAD = 6.5, 0.4, 0.01
CURES_ITSELF = 0.03  # share of faults that go for a while when something near them is moved
# Chance that an action changes what is seen, if the fault is at a joint there; inside a part there.
_STIRS = {"wiggle": (0.45, 0.12), "knock": (0.3, 0.3), "heat": (0.25, 0.4), "cool": (0.25, 0.4)}
SWAP_CURES, SWAP_FAILS = 0.96, 0.03
# By finding: how much likelier it is where the fault sits in a joint there, in a chafed path there, in anything else there.
_LOOKS = {
    "fine": (0.45, 0.5, 0.9), "corroded": (7.0, 1.0, 1.5), "wet": (4.0, 3.0, 1.5), "loose": (8.0, 1.0, 1.0), "chafed": (3.0, 14.0, 1.0),
    "burnt": (9.0, 6.0, 5.0), "broken": (10.0, 4.0, 5.0),
}  # fmt: skip
_PASTS = {"replaced": (0.6, 0.6, 0.35), "repaired": (4.0, 2.5, 1.2), "water": (4.0, 2.0, 2.0), "collision": (3.0, 4.0, 1.5)}


def _families(workup: Workup) -> list[int]:
    """Of each hypothesis: 0 a joint or break, 1 a path that should not be, 2 anything else."""
    made = []
    for item in workup.hypotheses.items:
        part = workup.sheet.parts.get(item.part or "")
        mode = next((m for m in part.modes if m.name == item.mode), None) if part else None
        made.append(2 if mode is None or part is None else _family(mode, part.kind.joint))
    return made


def _family(mode: Mode, joint: bool) -> int:
    if (mode.severity and mode.severity.span is Span.SHUNT) or any(effect is Effect.APPEARS for _, effect in mode.effects):
        return 1
    series = mode.severity is not None and mode.severity.span is Span.SERIES
    return 0 if series or (joint and mode.effects[0][1] is Effect.OPEN) else 2


def _rows(workup: Workup, by_hypothesis: Floats) -> Floats:
    """(M, …) rows from numbers by hypothesis (H, …)."""
    curves = workup.curves
    return np.repeat(by_hypothesis[curves.hypothesis], curves.length, axis=0)


def _here(workup: Workup, subject: str) -> list[bool]:
    parts = set(parts_at(workup.sheet, subject))
    return [item.part in parts for item in workup.hypotheses.items]


def chances(workup: Workup, check: Check) -> Floats:
    """As `_chances`; kept with the workup, since the same checks are weighed after every reading."""
    if check not in workup.chances:
        workup.chances[check] = _chances(workup, check)
    return workup.chances[check]


def _chances(workup: Workup, finding: Check) -> Floats:
    """(M, outcomes) how likely each outcome of a check's kind, subject and state is, in the order of `evidence.outcomes_of`; for what is
    seen of a part or known of its past, not chances but how much likelier it is."""
    sheet, kind = workup.sheet, finding.kind
    items = workup.hypotheses.items
    if kind == "see":
        found = sight_of(sheet, finding.subject)
        assert found is not None
        points = workup.table(Setup(finding.state, "volts")).points
        part, what, seen_as = found
        values = sight_values(points, finding.state, part, what)
        return word_chances(seen_as, values, float(values[0]))
    if kind == "code":
        code = sheet.codes[finding.subject]
        table = workup.table(Setup(code.state, "volts"))
        every = np.pad(table.points.volts, ((0, 0), (0, 1)))
        volts = every[:, table.points.network.node(code.at)]
        meets = np.maximum(ndtr((code.below - volts) / _CODE_BLUR_VOLTS), ndtr((volts - code.above) / _CODE_BLUR_VOLTS))
        alive = ndtr((every[:, table.points.network.node(code.fed)] - ALIVE_VOLTS) / _ALIVE_BLUR_VOLTS) if code.fed else 1.0
        is_set = alive * (OLD_CODE + (1.0 - OLD_CODE - MISSED_CODE) * meets) + (1.0 - alive) * FROM_THE_DEAD
        return np.stack([is_set, 1.0 - is_set], axis=1)
    if kind == "test":
        table_of = sheet.tables[finding.subject]
        return _rows(workup, np.array([table_of.under(item.part, item.mode) for item in items]))
    here = _here(workup, finding.subject) if kind in (*ACTIONS, "swap", "look", "history") else []
    if kind in ACTIONS:
        joint, inside = _STIRS[kind]
        share = [(joint if f == 0 else inside) if h else CURES_ITSELF for h, f in zip(here, _families(workup), strict=True)]
        return _rows(workup, np.array([[p, 1.0 - p] for p in share]))
    if kind == "swap":
        return _rows(workup, np.array([[p, 1.0 - p] for p in (SWAP_CURES if h else SWAP_FAILS for h in here)]))
    if kind in ("look", "history"):
        ratios = _LOOKS if kind == "look" else _PASTS
        families = _families(workup)
        return _rows(workup, np.array([[r[f] if h else 1.0 for r in ratios.values()] for h, f in zip(here, families, strict=True)]))
    return np.ones((workup.curves.rows, len(outcomes_of(sheet, kind, finding.subject))))


def log_factor(workup: Workup, finding: Finding) -> Floats:
    """(M,) what a finding adds to each row's log likelihood."""
    column = list(outcomes_of(workup.sheet, finding.kind, finding.subject)).index(finding.outcome)
    return np.log(chances(workup, finding.test)[:, column])
