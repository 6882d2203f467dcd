"""What the Trace screen shows, put together from the job's sheet and standing readings."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field

from ...core.base.conditions import split_conditions
from ...core.base.errors import ReadingError
from ...core.check import Finding, spelled
from ...core.circuit.connector import Pin
from ...core.circuit.layout import Path
from ...core.circuit.sheet import Sheet
from ...core.evidence.asked import Measurement, Question
from ...core.evidence.items import Reading
from ...core.evidence.limits import findings_of, limits_for
from ...core.evidence.needs import needs_of
from ...core.evidence.pins import pins_of
from ...core.evidence.registry import outcomes_of, test_of, word_sort
from ...core.evidence.safety import acknowledged_first
from ...core.isolate import (
    Advice,
    Isolation,
    Matrix,
    Suspect,
    against_the_complaint,
    described,
    led_by,
    likely_outcomes,
    matrix,
    path_worth_drawing,
    plain_severity,
    separators,
    targets,
)
from ...core.job.entry import Entry, acknowledged
from ..jobs.docket import Docket, last_state
from ..shell.faces import Face, faces
from ..shell.fields import whole
from ..shell.figures import DescentFigure, Diagram, descent_figure, diagram
from ..shell.words import METER_WORDS, reading_text
from ..shell.workshop import units
from ..shell.workups import Plan, workups
from .form import Form

__all__ = ["Chosen", "Drawn", "LogLine", "Stalled", "Trace", "stalled", "trace_of"]

SHOWN_SUSPECTS, MATRIX_COLUMNS, PLAIN_SEVERITIES = 8, 4, 3
VIEWS = ("descent", "why", "plan")
_NEED_WORDS = {"place": "no way to {}", "state": "not in state {}", "instrument": "no {}"}


@dataclass(frozen=True)
class LogLine:
    """A line of evidence in the log: ``number`` counts the standing ones, None when struck out; ``judged`` is what the sheet's limits say
    of it, ``doubt`` why it does not go with the complaint, ``trend`` what it and earlier readings come to over time."""

    entry: Entry
    number: int | None
    misfit: str
    basis: bool
    judged: tuple[Finding, ...] = ()
    doubt: str = ""
    trend: str = ""

    @property
    def about(self) -> str:
        """The first place, or the subject."""
        return self.entry.text("red") or self.entry.text("subject")

    @property
    def told(self) -> str:
        """The number or the outcome, as it was typed, without what follows it."""
        return self._parted[0] or self.entry.text("outcome")

    @property
    def under(self) -> str:
        """The conditions that were typed behind a number: ``@10min``."""
        return self._parted[1]

    @property
    def _parted(self) -> tuple[str, str]:
        try:
            number, conditions = split_conditions(self.entry.text("value"))
        except ReadingError:  # an old entry with what is no condition any more
            return self.entry.text("value"), ""
        return number, conditions.shown(units())

    @property
    def how(self) -> str:
        """The instrument, or the sort of evidence; both for the good side."""
        instrument = self.entry.text("instrument")
        return instrument if self.entry.kind == "reading" else f"{self.entry.kind} {instrument}".strip()


@dataclass(frozen=True, slots=True)
class Accused:
    """A target as a suspect: its parts (``names``, none for nothing on this sheet) with their probability together, the leading mode, its
    severity in plain words, every mode worth showing; and what it was at the moment that is compared with, None where none is."""

    names: tuple[str, ...]
    title: str
    probability: float
    lead: Suspect
    severity: str
    modes: tuple[Suspect, ...]
    before: float | None


@dataclass(frozen=True, slots=True)
class Chosen:
    """A measurement that a person put together instead of a proposed one; an instrument of none means that nobody did."""

    instrument: str = ""
    state: str = ""
    red: str = ""
    black: str = ""
    unplugged: str = ""


@dataclass(frozen=True, slots=True)
class Drawn:
    """What a person chose: the state and the path to draw, the number of items to compare with, what to see below the test (``descent``,
    ``why``, ``plan``), which of the proposed tests to take or a test of their own, and the order of attack."""

    state: str = ""
    load: str = ""
    since: str = ""
    view: str = ""
    take: str = ""
    order: str = "best"
    own: Chosen = field(default_factory=Chosen)


@dataclass(frozen=True)
class Trace:
    """Everything on the Trace screen."""

    docket: Docket
    isolation: Isolation
    form: Form
    asked: Advice | None
    order: str
    proposals: tuple[Advice, ...]
    taken: int | None
    choice: Mapping[str, str]
    outcome_words: tuple[str, ...]
    number_words: str
    view: str
    state: str
    load: str
    since: int | None
    paths: tuple[Path, ...]
    diagram: Diagram
    descent: DescentFigure
    descent_suspect: str | None
    accused: tuple[Accused, ...]
    beyond: tuple[Suspect, ...]
    why: Matrix | None
    plan: Plan | None
    separators: tuple[str, ...]
    log: tuple[LogLine, ...]
    outcomes: tuple[tuple[str, tuple[str, ...], float], ...]
    pins: Mapping[str, Pin | None]
    faces: tuple[Face, ...]
    cannot: tuple[tuple[str, str], ...]
    limits: tuple[str, ...]
    unread: tuple[str, ...]


def trace_of(docket: Docket, drawn: Drawn | None = None, form: Form | None = None) -> Trace:
    """The Trace screen's contents; what is drawn is chosen for the person who chooses nothing."""
    with workups().working(docket.stored_sheet):
        return _trace_of(docket, drawn or Drawn(), form)


@dataclass(frozen=True)
class Stalled:
    """A trace whose readings could not be worked out: ``says`` why in a sentence; the log is there all the same."""

    docket: Docket
    says: str
    log: tuple[LogLine, ...]


def stalled(docket: Docket, says: str) -> Stalled:
    """What is left of a trace where nothing can be worked out."""
    return Stalled(docket, says, _log(docket, {}, (), (), {}, {}))


def _trace_of(docket: Docket, drawn: Drawn, form: Form | None) -> Trace:
    sheet = docket.sheet
    isolation = workups().isolation(docket.stored_sheet, docket.items)
    proposals = led_by(isolation.belief, drawn.order, isolation.next, isolation.standing.named)
    asked, taken, error = _asked(docket, isolation, proposals, drawn, form)
    form = form or _form(docket, asked, drawn.own, error)
    pins = pins_of(sheet, asked.test) if asked else ()
    shown = next(s for s in (drawn.state, form.state, *sheet.states) if s in sheet.states)
    paths = docket.workup.paths
    path = next((p for p in paths if p.load == drawn.load), None) or path_worth_drawing(paths, isolation, form.red)
    found = workups().descent(docket.stored_sheet, docket.items, path, shown)
    number = whole(drawn.since)
    since = number if number is not None and number < len(docket.items) else None
    accused = _accused(docket, isolation, since)
    leads = tuple(a.lead for a in accused[:MATRIX_COLUMNS])
    return Trace(
        docket=docket,
        isolation=isolation,
        form=form,
        asked=asked,
        order=drawn.order,
        proposals=proposals,
        taken=taken,
        choice=_choice(asked, taken),
        outcome_words=_outcome_words(sheet, asked, form),
        number_words=word_sort(asked.test).numbers if asked and isinstance(asked.test, Question) else "",
        view=drawn.view if drawn.view in VIEWS else VIEWS[0],
        state=shown,
        load=path.load,
        since=since,
        paths=paths,
        diagram=diagram(
            sheet, workups().frame(docket.stored_sheet), workups().sound(docket.stored_sheet, shown), found.sound, isolation.parts
        ),
        descent=descent_figure(found),
        descent_suspect=found.suspect,
        accused=accused,
        beyond=tuple(s for s in isolation.suspects if s.kind != "single" and s.probability >= 0.005)[:4],
        why=matrix(isolation, leads) if docket.items and drawn.view == "why" else None,
        plan=workups().plan(docket.stored_sheet, docket.items) if drawn.view == "plan" and not docket.concluded else None,
        separators=separators(sheet, isolation.standing.target),
        log=_log(
            docket,
            {m.reading: m.says for m in isolation.misfits},
            isolation.standing.proof,
            [findings_of(sheet, item, units()) if isinstance(item, Reading) else () for item in docket.items],
            against_the_complaint(docket.workup, docket.items, docket.job.complaint),
            {trend.numbers[-1]: trend.says for trend in isolation.trends},
        ),
        pins={place: next((pin for pin in pins if pin.place == place), None) for place in sheet.places},
        faces=faces(sheet, pins, asked.test.red) if asked else (),
        unread=acknowledged_first(sheet, asked.test, acknowledged(docket.record.entries)) if asked else (),
        limits=tuple(spelled(limit.limit, units()) for limit in limits_for(sheet, asked.test)) if asked else (),
        outcomes=_outcomes(isolation, asked),
        cannot=_cannot(sheet, asked),
    )


def _asked(
    docket: Docket, isolation: Isolation, proposals: tuple[Advice, ...], drawn: Drawn, form: Form | None
) -> tuple[Advice | None, int | None, str]:
    """The test that is asked for, its number among the proposals (None for a person's own), and what is wrong with it. What was typed last
    goes before what was chosen, and that before what is proposed."""
    own = Chosen(form.instrument, form.state, form.red, form.black, form.unplugged) if form else drawn.own
    if own.instrument:
        try:
            test = test_of(docket.sheet, own.state or last_state(docket), own.instrument, own.red, own.black, own.unplugged)
        except ReadingError as error:
            return None, None, str(error)
        known = next((i for i, a in enumerate(proposals) if a.test == test), None)
        if known is not None:
            return proposals[known], known, ""
        return described(isolation.belief, test), None, ""
    number = whole(drawn.take) or 1
    taken = number - 1 if number <= len(proposals) else 0
    return (proposals[taken] if proposals else None), taken, ""


def _choice(asked: Advice | None, taken: int | None) -> dict[str, str]:
    """The address's own names and values for the test that is asked for, empty for the first of those proposed."""
    if taken is None and asked is not None:
        test = asked.test
        own = {"instrument": test.instrument, "in": test.state, "red": test.red, "black": test.black}
        return own | ({"unplugged": _off(test)} if _off(test) else {})
    return {"take": str(taken + 1)} if taken else {}


def _outcome_words(sheet: Sheet, asked: Advice | None, form: Form) -> tuple[str, ...]:
    """The words that answer the check that is asked for with one touch; none for a number."""
    test = asked.test if asked else None
    if not isinstance(test, Question) or (form.instrument, form.red) != (test.kind, test.subject):
        return ()
    return tuple(outcomes_of(sheet, test))


def _cannot(sheet: Sheet, asked: Advice | None) -> tuple[tuple[str, str], ...]:
    """What of a test a person may be unable to do here: what to leave out, and the words for it."""
    needs = needs_of(sheet, asked.test) if asked else ()
    return tuple((what, _NEED_WORDS[sort].format(METER_WORDS[what].lower() if sort == "instrument" else what)) for what, sort in needs)


def _form(docket: Docket, asked: Advice | None, own: Chosen, error: str) -> Form:
    sheet = docket.sheet
    if asked:
        test = asked.test
        return Form(test.state or last_state(docket), test.instrument, test.red, test.black, unplugged=_off(test))
    if own.instrument:
        return Form(own.state, own.instrument, own.red, own.black, unplugged=own.unplugged, error=error)
    return Form(last_state(docket), "volts", sheet.plus, sheet.minus)


def _off(test: Measurement | Question) -> str:
    """What is unplugged for a test, as the form has it."""
    return ", ".join(test.without) if isinstance(test, Measurement) else ""


def _accused(docket: Docket, isolation: Isolation, since: int | None) -> tuple[Accused, ...]:
    before: dict[tuple[str, ...], float] = {}
    if since is not None:
        then = workups().isolation(docket.stored_sheet, docket.items[:since])
        # How it stood for the same parts together, whatever the groups were.
        names, own = tuple(docket.sheet.parts), tuple(t.members for t in isolation.targets)
        before = {t.members: t.probability for t in targets(then.suspects, names, tuple(m for m in own if len(m) > 1))}
    accused: list[Accused] = []
    for target in isolation.targets:
        if target.members and len(accused) >= SHOWN_SUSPECTS:
            continue
        modes = tuple(s for s in isolation.suspects if s.kind == "single" and s.part in (target.members or (None,)))
        title = " or ".join(target.members) or "Nothing on this sheet"
        shown = tuple(s for s in modes if s.probability > 0.01 * target.probability)
        telling = docket.items and len(accused) < PLAIN_SEVERITIES and target.probability > 0.01
        severity = plain_severity(isolation.belief, modes[0]) if telling else ""
        accused.append(Accused(target.members, title, target.probability, modes[0], severity, shown, before.get(target.members)))
    return tuple(accused)


def _log(
    docket: Docket, misfits: Mapping[int, str], proof: tuple[int, ...], judged: Sequence[tuple[Finding, ...]], doubts: Mapping[int, str],
    over_time: Mapping[int, str],
) -> tuple[LogLine, ...]:  # fmt: skip
    """The log, the latest on top; what is said of its lines by the number of the reading among those that stand, counted from 0."""
    lines, number = [], 0
    for entry in docket.log:
        if not entry.stands:
            lines.append(LogLine(entry, None, "", False))
            continue
        said = judged[number] if number < len(judged) else ()
        odd, doubt, trend = (told.get(number, "") for told in (misfits, doubts, over_time))
        lines.append(LogLine(entry, number + 1, odd, number in proof, said, doubt, trend))
        number += 1
    return tuple(reversed(lines))


def _outcomes(isolation: Isolation, asked: Advice | None) -> tuple[tuple[str, tuple[str, ...], float], ...]:
    """What the answer to the test that is asked for would speak for: value or range shown, suspects, their probability together."""
    if asked is None:
        return ()
    by_word = isinstance(asked.test, Question)
    rows: list[tuple[str, tuple[str, ...], float]] = []
    for outcome in likely_outcomes(isolation, asked.test):
        if not outcome.parts:
            rows.append(("any of these" if by_word else "another number", ("other suspects",), outcome.probability))
            continue
        text = outcome.word or _span(outcome.low, outcome.high, asked.test.instrument)
        rows.append((text, tuple(part or "nothing wrong" for part in outcome.parts), outcome.probability))
    return tuple(rows)


def _span(low: float, high: float, meter: str) -> str:
    first, last = reading_text(low, meter), reading_text(high, meter)
    number, _, unit = first.partition(" ")
    return first if first == last else f"{number if last.endswith(unit) else first} – {last}"
