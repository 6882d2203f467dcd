"""The list of suspects: what may be repaired, how likely it is at fault, and how."""

from __future__ import annotations

from dataclasses import dataclass

from ...core.isolate import Isolation, Suspect, plain_severity, targets
from ..jobs.docket import Docket
from ..shell.workups import workups

__all__ = ["Accused", "accused_of"]

MOST, LEAST, WORTH_A_LINE = 8, 3, 0.01  # suspects that are shown; those shown however faint; chance from which on the others are
PLAIN_SEVERITIES = 3  # that are put in volts and watts


@dataclass(frozen=True, slots=True)
class Accused:
    """A target as a suspect: its parts (``names``, none for nothing on this sheet), what they are called, with their
    names on the sheet as ``code`` where they are called otherwise, their probability together, the leading mode, its
    severity in plain words, whole and in ``brief``, every mode worth showing; and what it was at the moment that is compared with, None
    where none is."""

    names: tuple[str, ...]
    title: str
    code: str
    probability: float
    lead: Suspect
    severity: str
    brief: str
    modes: tuple[Suspect, ...]
    before: float | None


def accused_of(docket: Docket, isolation: Isolation, since: int | None) -> tuple[Accused, ...]:
    """The suspects that are shown, the likeliest first, beside how they stood after the first ``since`` readings."""
    before: dict[tuple[str, ...], float] = {}
    if since is not None:
        then = workups().isolation(docket.stored_sheet, docket.items[:since])
        # How it stood for the same parts together, whatever the groups were.
        names, own = tuple(docket.sheet.parts), tuple(t.members for t in isolation.targets)
        before = {t.members: t.probability for t in targets(then.suspects, names, tuple(m for m in own if len(m) > 1))}
    accused: list[Accused] = []
    for target in isolation.targets:
        faint = len(accused) >= LEAST and target.probability < WORTH_A_LINE
        if target.members and (len(accused) >= MOST or faint):
            continue
        modes = tuple(s for s in isolation.suspects if s.kind == "single" and s.part in (target.members or (None,)))
        called = " or ".join(docket.sheet.parts[name].called for name in target.members) or "nothing on this sheet"
        title = called[:1].upper() + called[1:]
        shown = tuple(s for s in modes if s.probability > 0.01 * target.probability)
        telling = docket.items and len(accused) < PLAIN_SEVERITIES and target.probability > 0.01
        severity, brief = plain_severity(isolation.belief, modes[0]) if telling else ("", "")
        code = ", ".join(name for name in target.members if docket.sheet.parts[name].label)
        accused.append(
            Accused(target.members, title, code, target.probability, modes[0], severity, brief, shown, before.get(target.members))
        )
    return tuple(accused)
