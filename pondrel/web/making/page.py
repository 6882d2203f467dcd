"""A draft as its page shows it: the circuit in a state, what is touched with what can be done there, what was probably not meant."""

from __future__ import annotations

import hashlib
from collections.abc import Mapping
from dataclasses import dataclass
from typing import Any

from flask import url_for

from ...core.circuit.sheet import Sheet
from ...core.making.bring import not_read
from ...core.making.checks import Finding, check_made
from ...core.making.differences import drawn_otherwise
from ...core.making.document import Document
from ...core.making.dry_run import Line, dry_run
from ...core.making.loads import LOADS
from ...core.making.steps import Step, steps_on
from ...store.drafts import Draft
from ...store.sheets import StoredSheet
from ..shell.attempt import attempt
from ..shell.figures import Diagram, diagram
from ..shell.workups import workups

__all__ = ["Chosen", "Page", "page_of"]


@dataclass(frozen=True, slots=True)
class Chosen:
    """What is touched: one of a part, a node and a state; none of them for the sheet as a whole."""

    part: str = ""
    node: str = ""
    state: str = ""

    @property
    def on(self) -> str:
        """What a step on it is on."""
        return "part" if self.part else "node" if self.node else "state" if self.state else "sheet"

    @property
    def subject(self) -> str:
        """Its name."""
        return self.part or self.node or self.state


@dataclass(frozen=True)
class Page:
    """A draft's page. ``steps`` are those that can be taken on what is chosen, by their names; ``says`` why the circuit cannot be worked
    out, empty where it can."""

    draft: Draft
    sheet: Sheet
    document: Document
    chosen: Chosen
    shown: str
    drawn: Diagram | None
    steps: Mapping[str, Step]
    findings: tuple[Finding, ...]
    lines: tuple[Line, ...]
    says: str

    @property
    def unread(self) -> tuple[str, ...]:
        """What of the file that it was made from could not be read."""
        return not_read(self.draft.text)

    @property
    def loads(self) -> tuple[str, ...]:
        """Sorts of load to branch off, the likeliest first."""
        return tuple(LOADS)

    def at(self, part: str = "", node: str = "", state: str = "", shown: str = "") -> str:
        """The address of the page with something touched."""
        given: dict[str, Any] = {"part": part, "node": node, "state": state, "in": shown or self.shown}
        return url_for("drafts.show", draft_id=self.draft.id, **{key: value for key, value in given.items() if value})


def page_of(draft: Draft, chosen: Chosen, shown: str, against: Sheet | None = None) -> Page:
    """The page of a draft where it stands; what differs from the drawing that it is held ``against`` is marked. What was touched and
    is gone is not touched any more."""
    stored = stored_of(draft)
    sheet, document = workups().sheet(stored), Document(draft.text)
    chosen = Chosen(
        chosen.part if chosen.part in sheet.parts else "",
        chosen.node if chosen.node in sheet.nodes() else "",
        chosen.state if chosen.state in sheet.states else "",
    )
    shown = shown if shown in sheet.states else chosen.state or list(sheet.states)[-1]
    differs = drawn_otherwise(sheet, against) if against is not None else frozenset()
    drawn, says = attempt(lambda: _drawn(stored, sheet, shown, differs))
    tried, _ = attempt(lambda: (check_made(sheet), dry_run(sheet)))
    findings, lines = tried or ((), ())
    steps = {step.name: step for step in steps_on(document, chosen.on, chosen.subject)}
    return Page(draft, sheet, document, chosen, shown, drawn, steps, findings, lines, says)


def stored_of(draft: Draft) -> StoredSheet:
    """A draft's text as if it were stored, for what is worked out of stored sheets."""
    digest = hashlib.sha256(draft.text.encode()).hexdigest()
    return StoredSheet(0, "", "", digest, draft.text, draft.made_at, None, "")


def _drawn(stored: StoredSheet, sheet: Sheet, state: str, differs: frozenset[str]) -> Diagram:
    with workups().working(stored):
        point = workups().sound(stored, state)
        return diagram(sheet, workups().frame(stored, roomy=True), point, point.nodes, {}, differs=differs)
