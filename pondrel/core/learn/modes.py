"""How a part fails here, from jobs that were proved.

Of a part that fails, the shipped weights of its modes are a Dirichlet prior worth a number of pseudo-counts; proved jobs that name the mode
are its counts. Two levels: parts of the kind on any circuit, and on that what the very part did on its own circuit, whose jobs the first
leaves out, so that none counts twice.
A. Gelman et al., *Bayesian Data Analysis* (3rd ed.), 3.4, for the conjugate pair.
"""

from __future__ import annotations

from collections import Counter
from collections.abc import Iterable, Mapping

from ..base.judgement import OWN_RULE, judged
from ..circuit.sheet import Sheet
from .past import Here, Past

__all__ = ["mode_factors", "mode_shares"]

PSEUDO_COUNTS = judged(
    "LEARNED_MODES_AGAINST", 20.0, "jobs", "what a part's shipped modes count for beside proved jobs that name one", OWN_RULE
)


def mode_shares(sheet: Sheet) -> dict[str, dict[str, float]]:
    """By part its modes with their shares of its faults, sum 1; without parts that cannot fail."""
    found = {}
    for name, part in sheet.parts.items():
        total = sum(mode.weight for mode in part.modes)
        if total > 0.0:
            found[name] = {mode.name: mode.weight / total for mode in part.modes}
    return found


def mode_factors(past: Iterable[Past], here: Here) -> tuple[tuple[str, str, float], ...]:
    """Part, mode and the factor on that mode's shipped weight, for parts of a kind of which some proved job names the mode; the weights of
    a part's modes keep their sum."""
    own: Counter[tuple[str, str, str]] = Counter()  # by circuit, part and mode
    alike: Counter[tuple[str, str, str, str]] = Counter()  # the same by kind
    for job in past:
        for part, mode in job.modes.items():
            if part in job.here.kinds:
                own[job.here.circuit, part, mode] += 1
                alike[job.here.kinds[part], mode, job.here.circuit, part] += 1
    found = []
    for part, shares in here.modes.items():
        elsewhere: Counter[str] = Counter()
        for (kind, mode, circuit, other), count in alike.items():
            if kind == here.kinds[part] and (circuit, other) != (here.circuit, part) and mode in shares:
                elsewhere[mode] += count
        counts = Counter({mode: own[here.circuit, part, mode] for mode in shares})
        if elsewhere.total() or counts.total():
            learned = _updated(_updated(shares, elsewhere), counts)
            found += [(part, mode, round(learned[mode] / share, 4)) for mode, share in shares.items() if share > 0.0]
    return tuple(found)


def _updated(shares: Mapping[str, float], counts: Counter[str]) -> dict[str, float]:
    total = PSEUDO_COUNTS + counts.total()
    return {mode: (PSEUDO_COUNTS * share + counts[mode]) / total for mode, share in shares.items()}
