"""How far the refit of a job is: what is fitted, its steps, and what they follow from."""

from __future__ import annotations

from dataclasses import dataclass

from ...core.circuit.sheet import Access
from ...core.evidence.hazards import HAZARDS
from ...core.isolate import accesses_gained
from ...core.job.entry import standing
from ...core.job.refit import Refit, came_off_of, refit_of, unplugged_in
from ...core.job.safety import CAUTION
from ...core.refit.board import FALLBACK
from ...core.refit.steps import refit_steps
from ..jobs.docket import Record, docket_in
from ..remedy.page import Page as Chosen
from ..remedy.page import Wanted
from ..remedy.page import page_of as chosen_of
from ..shell.attempt import attempt
from ..shell.database import get_db

__all__ = ["Page", "page_of"]


@dataclass(frozen=True)
class Page:
    """The page: what is fitted, how far it is, and the functions before and after."""

    record: Record
    chosen: Chosen
    refit: Refit

    @property
    def on_a_board(self) -> bool:
        """Whether a board is mended: then every function is tried before and after."""
        option = self.chosen.counts
        return option is not None and any(step == FALLBACK for step, _ in self.refit.steps)


def page_of(record: Record) -> Page:
    """The page of a job."""
    chosen = chosen_of(record, Wanted())
    if chosen.target is None or chosen.counts is None:
        return Page(record, chosen, refit_of(record.entries, ()))
    opened: dict[str, Access] = {}
    names, words = dict[str, str](), [record.job.complaint, chosen.target.called]
    for trace in record.traces:
        docket = docket_in(get_db(), record, trace)
        sheet, _ = attempt(lambda docket=docket: docket.sheet)  # type: ignore[misc]
        items, _ = attempt(lambda docket=docket: docket.items)  # type: ignore[misc]
        if sheet is None:
            continue
        words.append(sheet.title)
        names |= {name: part.called for name, part in sheet.parts.items()}
        opened |= {name: sheet.access[name] for name in sheet.access if name in accesses_gained(sheet, items or ())}
    opened |= {access.name: access for access in chosen.target.behind}
    unplugged = [names.get(name.partition(".")[0], name) for name in unplugged_in(record.entries)]
    safe = {entry.text("text") for entry in standing(record.entries, CAUTION.name)}
    hazards = [hazard.title for hazard in HAZARDS.values() if hazard.caution in safe]
    steps = refit_steps(
        chosen.target, chosen.counts, " . ".join(words), tuple(opened.values()), unplugged, came_off_of(record.entries), hazards
    )
    return Page(record, chosen, refit_of(record.entries, steps))
