"""What the Trace screen shows, put together from the job's sheet and standing readings."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field
from itertools import pairwise
from urllib.parse import quote_plus, urlencode

from ...core.base.errors import ReadingError
from ...core.check import spelled
from ...core.circuit.paths import Path
from ...core.circuit.sheet import Sheet
from ...core.evidence.asked import Measurement, Question
from ...core.evidence.contradictions import contradictions
from ...core.evidence.items import Reading
from ...core.evidence.limits import conditions_asked, findings_of, limits_for
from ...core.evidence.needs import needs_of
from ...core.evidence.pins import pins_of
from ...core.evidence.registry import outcomes_of, test_of, word_sort
from ...core.evidence.safety import acknowledged_first
from ...core.isolate import (
    Advice,
    Isolation,
    Matrix,
    Suspect,
    described,
    ladder,
    led_by,
    likely_outcomes,
    matrix,
    path_worth_drawing,
    separators,
)
from ...core.job.changes import DEEDS
from ...core.job.safety import acknowledged
from ...core.meter.instrument import INSTRUMENTS
from ...core.vehicle.fitting import limit_misfit, sheet_misfit
from ..jobs.docket import Docket, last_state
from ..jobs.fitted import fitted_notes
from ..shell.faces import Face, faces
from ..shell.fields import whole
from ..shell.figures import Diagram, diagram
from ..shell.ladder import LadderFigure, ladder_figure
from ..shell.learned import commonest_mode
from ..shell.titles import Lead, Proposal, leads_of, measured, part_or_place, proposal_of
from ..shell.words import METER_WORDS, reading_text
from ..shell.workshop import units
from ..shell.workups import workups
from .form import Form, noted_units
from .log import LogLine, log_of
from .plan import Plan, plan_of
from .suspects import Accused, accused_of

__all__ = ["Chosen", "Drawn", "Stalled", "Trace", "stalled", "trace_of"]

MATRIX_COLUMNS, NAMED_PARTS = 4, 2
WORTH_A_LINE = 0.01  # chance of an outcome
VIEWS = ("ladder", "circuit", "why", "plan")
TABS, TAB_LETTERS = 3, 46  # branches that have a tab of their own, and the letters for all their titles; the others are in a list
_NEED_WORDS = {"place": "no way to {}", "state": "not in state {}", "instrument": "no {} here"}


@dataclass(frozen=True, slots=True)
class Branch:
    """A way through the circuit that can be drawn: its ``load`` as the address has it, what that is called, and whether it has a tab of
    its own."""

    load: str
    title: str
    tab: bool


@dataclass(frozen=True, slots=True)
class Telling:
    """An outcome of the test that is asked for: the ``text`` that shows, what it would point to, and how likely that is."""

    text: str
    points_to: str
    probability: float


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
    """What a person chose: the state and the path to draw, the number of items to compare with, what to see of the circuit (``ladder``,
    ``circuit``, ``why``, ``plan``), which of the proposed tests to take or a test of their own, and the order of attack."""

    state: str = ""
    load: str = ""
    since: str = ""
    view: str = ""
    take: str = ""
    order: str = "best"
    own: Chosen = field(default_factory=Chosen)


@dataclass(frozen=True, slots=True)
class Torn:
    """What was told and what was seen of the same thing, which cannot both be so: the question, and the ids of both entries."""

    says: str
    told: int
    seen: int


@dataclass(frozen=True)
class Trace:
    """Everything on the Trace screen. ``branches`` begin with those that have a tab; ``circuit`` and ``ladder`` are each None where
    something else is looked at; ``leads`` and ``heading`` say what is asked for, ``around`` the address of a test at each place."""

    docket: Docket
    isolation: Isolation
    form: Form
    asked: Advice | None
    heading: str
    leads: tuple[Lead, ...]
    unit: str
    order: str
    proposals: tuple[Proposal, ...]
    taken: int | None
    choice: Mapping[str, str]
    around: Mapping[str, str]
    outcome_words: tuple[str, ...]
    number_words: str
    view: str
    state: str
    load: str
    since: int | None
    branches: tuple[Branch, ...]
    ladder: LadderFigure | None
    circuit: Diagram | None
    accused: tuple[Accused, ...]
    beyond: tuple[Suspect, ...]
    why: Matrix | None
    plan: Plan | None
    separators: tuple[str, ...]
    log: tuple[LogLine, ...]
    outcomes: tuple[Telling, ...]
    faces: tuple[Face, ...]
    cannot: tuple[tuple[str, str], ...]
    limits: tuple[str, ...]
    unread: tuple[str, ...]
    torn: tuple[Torn, ...]
    notes: tuple[tuple[str, str, str], ...]
    fitted: Mapping[str, str]
    learned: Mapping[str, str]
    misfit: str
    deeds: tuple[str, ...]

    def address(self, **changes: object) -> str:
        """The address of this screen with something else drawn, None for what is left to be chosen anew; ``choice`` is a test's own."""
        shown: dict[str, object] = {"state": self.state, "view": self.view, "load": self.load, "since": self.since, "choice": self.choice}
        shown |= changes
        choice = shown.pop("choice")
        assert isinstance(choice, Mapping)
        return _address(**shown, **choice)

    def beside(self) -> tuple[tuple[Suspect, ...], ...]:
        """The explanations that are no one part, as they stand among the accused: before each of those, and after the last."""
        others = [s for s in self.beyond if s.heading]
        bounds = [2.0, *(a.probability for a in self.accused), -1.0]
        return tuple(tuple(s for s in others if low <= s.probability < high) for high, low in pairwise(bounds))


def _address(**shown: object) -> str:
    return "?" + urlencode({name: value for name, value in shown.items() if value is not None})


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
    return Stalled(docket, says, log_of(docket, {}, (), (), {}, {}))


def _trace_of(docket: Docket, drawn: Drawn, form: Form | None) -> Trace:
    sheet = docket.sheet
    isolation = workups().isolation(docket.stored_sheet, docket.items)
    proposals = led_by(isolation.belief, drawn.order, isolation.next, isolation.standing.named)
    asked, taken, error = _asked(docket, isolation, proposals, drawn, form)
    form = form or _form(docket, asked, drawn.own, error)
    pins = pins_of(sheet, asked.test) if asked else ()
    by_place = {place: next((pin for pin in pins if pin.place == place), None) for place in sheet.places}
    shown = next(s for s in (drawn.state, form.state, *sheet.states) if s in sheet.states)
    paths = docket.workup.paths
    path = next((p for p in paths if p.load == drawn.load), None) or path_worth_drawing(paths, isolation, form.red)
    past = whole(drawn.since)
    since = past if past is not None and past < len(docket.items) else None
    accused = accused_of(docket, isolation, since)
    leads = tuple(a.lead for a in accused[:MATRIX_COLUMNS])
    view = drawn.view if drawn.view in VIEWS and not (docket.concluded and drawn.view == "plan") else VIEWS[0]
    touched = view in ("ladder", "circuit") and not docket.concluded
    return Trace(
        docket=docket,
        isolation=isolation,
        form=form,
        asked=asked,
        heading=_heading(isolation, asked, taken, form),
        leads=leads_of(sheet, asked.test, by_place, asked.stands) if asked else (),
        unit=INSTRUMENTS[form.instrument].unit if form.instrument in INSTRUMENTS else "",
        order=drawn.order,
        proposals=tuple(proposal_of(sheet, number, advice) for number, advice in enumerate(proposals, 1)),
        taken=taken,
        choice=_choice(asked, taken),
        around=_around(sheet, form, shown, _address(state=shown, view=view, load=path.load, since=since)) if touched else {},
        outcome_words=_outcome_words(sheet, asked, form),
        number_words=word_sort(asked.test).numbers if asked and isinstance(asked.test, Question) else "",
        view=view,
        state=shown,
        load=path.load,
        since=since,
        branches=_branches(sheet, paths, path, isolation),
        ladder=_ladder(docket, isolation, path, shown, form) if view == "ladder" else None,
        circuit=_circuit(docket, isolation, path, shown) if view == "circuit" else None,
        accused=accused,
        beyond=tuple(s for s in isolation.suspects if s.kind != "single" and s.probability >= 0.005)[:4],
        why=matrix(isolation, leads) if docket.items and view == "why" else None,
        plan=plan_of(sheet, *workups().plan(docket.stored_sheet, docket.items)) if view == "plan" else None,
        separators=separators(sheet, isolation.standing.target),
        log=log_of(
            docket,
            {m.reading: m.says for m in isolation.misfits},
            isolation.standing.proof,
            [findings_of(sheet, item, units()) if isinstance(item, Reading) else () for item in docket.items],
            workups().doubts(docket.stored_sheet, docket.items, docket.job.complaint),
            {trend.numbers[-1]: trend.says for trend in isolation.trends},
        ),
        faces=faces(sheet, pins, asked.test.red) if asked else (),
        notes=_notes(sheet, asked),
        fitted=fitted_notes(docket),
        learned=_learned_notes(docket),
        misfit=sheet_misfit(sheet, docket.vehicle),
        deeds=DEEDS,
        torn=_torn(docket),
        unread=acknowledged_first(sheet, asked.test, acknowledged(docket.record.entries)) if asked else (),
        limits=_limits(docket, asked),
        outcomes=_outcomes(sheet, isolation, asked),
        cannot=_cannot(sheet, asked),
    )


def _torn(docket: Docket) -> tuple[Torn, ...]:
    """What was told and seen of the same thing and cannot both be so; what is only being typed is not in the record yet."""
    ids = docket.standing_ids
    found = contradictions(docket.sheet, docket.items)
    return tuple(Torn(c.says, ids[c.told], ids[c.seen]) for c in found if max(c.told, c.seen) < len(ids))


_NOTED = {
    "celsius": "temperature of the part", "volts": "supply", "rpm": "engine speed", "kilopascals": "pressure", "millimetres": "gap",
    "lead_ohms": "leads held together",
}  # fmt: skip


def _notes(sheet: Sheet, asked: Advice | None) -> tuple[tuple[str, str, str], ...]:
    """What is to be noted beside the number because a limit hangs on it: its name, words for it, and its unit here."""
    known = noted_units()
    return tuple((name, _NOTED[name], known[name]) for name in conditions_asked(sheet, asked.test)) if asked else ()


def _limits(docket: Docket, asked: Advice | None) -> tuple[str, ...]:
    """The limits at the test that is asked for, with why one may not be for this vehicle."""
    found = []
    for limit in limits_for(docket.sheet, asked.test) if asked else ():
        against = limit_misfit(limit, docket.vehicle)
        found.append(f"Limit here: {spelled(limit.limit, units())}" + (f" – it {against}" if against else ""))
    return tuple(found)


def _heading(isolation: Isolation, asked: Advice | None, taken: int | None, form: Form) -> str:
    """What the panel of the test is headed by."""
    if asked is None and not form.error and isolation.standing.ready:
        return f"Found: {isolation.standing.spoken}" if isolation.standing.target else "Nothing on this sheet is wrong"
    if asked is None:
        return "Your own test" if form.error else isolation.exhausted
    what = measured(asked.test.instrument)
    if taken is None:
        return f"Your own: {what}"
    if asked.proves:
        return f"To prove it: {what}"
    return f"One more, if you like: {what}" if isolation.standing.ready else f"Next: {what}"


def _around(sheet: Sheet, form: Form, state: str, shown: str) -> dict[str, str]:
    """The address of the test that follows when a place is touched, after what is ``shown``: red goes there; where a lead is already the
    two change over."""
    two_leads = form.instrument in INSTRUMENTS and form.instrument not in ("amps", "clamp")
    red, black = (form.red, form.black) if two_leads else ("", sheet.minus)
    fixed = {"instrument": form.instrument if two_leads else "volts", "in": state}
    if form.unplugged and two_leads:
        fixed["unplugged"] = form.unplugged
    begun = f"{shown}&{urlencode(fixed)}"
    coded = {place: quote_plus(place) for place in {*sheet.places, red, black, sheet.plus}}
    found = {}
    for place in sheet.places:
        if place == sheet.minus and not red:
            ends = (sheet.plus, place)
        elif place in (red, black):
            ends = (black, red)
        else:
            ends = (place, black)
        found[place] = f"{begun}&red={coded[ends[0]]}&black={coded[ends[1]]}"
    return found


def _branches(sheet: Sheet, paths: Sequence[Path], path: Path, isolation: Isolation) -> tuple[Branch, ...]:
    """The ways through the circuit: those with a tab first, which are the one drawn and those with the most suspicion on them, in the
    order of the sheet; then the others."""
    share = isolation.parts
    weight = {p.load: max((share.get(part, 0.0) for part in p.parts), default=0.0) for p in paths}
    first: list[Path] = []
    for other in sorted(paths, key=lambda p: (p is not path, -round(weight[p.load], 6)))[:TABS]:
        if not first or sum(len(_branch(sheet, p).title) for p in (*first, other)) <= TAB_LETTERS:
            first.append(other)
    return tuple(_branch(sheet, p, p in first) for p in sorted(paths, key=lambda p: p not in first))


def _branch(sheet: Sheet, path: Path, tab: bool = False) -> Branch:
    part = sheet.parts.get(path.subject)
    title = part.called if part else path.load
    element = path.load.removeprefix(path.subject).lstrip(".")
    driven = element in ("coil", "trigger")
    return Branch(path.load, (title[:1].upper() + title[1:]) + (f", {element}" if driven else ""), tab)


def _ladder(docket: Docket, isolation: Isolation, path: Path, state: str, form: Form) -> LadderFigure:
    found = ladder(docket.sheet, isolation, workups().descent(docket.stored_sheet, docket.items, path, state))
    return ladder_figure(docket.sheet, found, workups().sound(docket.stored_sheet, state), form.red, form.black)


def _circuit(docket: Docket, isolation: Isolation, path: Path, state: str) -> Diagram:
    stored = docket.stored_sheet
    volts = workups().descent(stored, docket.items, path, state).sound
    sound = workups().sound(stored, state)
    return diagram(docket.sheet, workups().frame(stored), sound, volts, isolation.parts, differs=docket.drawn_otherwise)


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

    def said(what: str, sort: str) -> str:
        return METER_WORDS[what].lower() if sort == "instrument" else part_or_place(sheet, what) if sort == "place" else what

    return tuple((what, _NEED_WORDS[sort].format(said(what, sort))) for what, sort in needs)


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


def _outcomes(sheet: Sheet, isolation: Isolation, asked: Advice | None) -> tuple[Telling, ...]:
    """What the answers to the test that is asked for would point to."""
    if asked is None:
        return ()
    by_word = isinstance(asked.test, Question)
    rows = []
    for outcome in likely_outcomes(isolation, asked.test):
        if outcome.probability < WORTH_A_LINE:
            continue
        if not outcome.parts:
            rows.append(Telling("any of these" if by_word else "anything else", "another suspect", outcome.probability))
            continue
        text = outcome.word or _span(outcome.low, outcome.high, asked.test.instrument)
        names = [sheet.parts[part].called if part else "nothing wrong" for part in outcome.parts]
        more = f" and {len(names) - NAMED_PARTS} more" if len(names) > NAMED_PARTS else ""
        rows.append(Telling(text, ", ".join(names[:NAMED_PARTS]) + more, outcome.probability))
    return tuple(rows)


def _span(low: float, high: float, meter: str) -> str:
    first, last = reading_text(low, meter), reading_text(high, meter)
    number, _, unit = first.partition(" ")
    return first if first == last else f"{number if last.endswith(unit) else first} – {last}"


def _learned_notes(docket: Docket) -> dict[str, str]:
    """By part what proved jobs on this circuit say of it."""
    told = docket.learned.told if docket.learned else ()
    found = {}
    for one in told:
        mostly = commonest_mode(one, docket.sheet)
        was = f"of {one.jobs} such jobs here, {one.count} {'was' if one.count == 1 else 'were'} it"
        found[one.part] = f"{was}, {mostly}" if mostly else was
    return found
