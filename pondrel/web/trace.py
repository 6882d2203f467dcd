"""What the Trace screen shows, put together from the job's sheet and standing readings."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field

from ..core.base.errors import ReadingError
from ..core.circuit.layout import Path
from ..core.circuit.sheet import Sheet
from ..core.evidence.asked import Question
from ..core.evidence.items import Reading
from ..core.evidence.registry import outcomes_of, test_of
from ..core.isolate.advise.advice import Advice, Expectation, described, expectations
from ..core.isolate.advise.orders import led_by
from ..core.isolate.conclude.suspects import Suspect, targets
from ..core.isolate.isolation import Isolation
from ..core.isolate.show.complaint import against_the_complaint
from ..core.isolate.show.explain import Matrix, matrix, plain_severity
from ..core.isolate.show.judged import Judgement, judgements, limits_for, spelled
from ..store.readings import StoredReading
from .docket import Docket, last_state
from .entry import Entry
from .fields import whole
from .figures import DescentFigure, Diagram, descent_figure, diagram
from .words import METER_WORDS, meter_sigmas, reading_text
from .workups import Plan, workups

__all__ = ["Chosen", "Drawn", "LogLine", "Stalled", "Trace", "stalled", "trace_of"]

SHOWN_SUSPECTS, MATRIX_COLUMNS, PLAIN_SEVERITIES = 8, 4, 3
VIEWS = ("descent", "why", "plan")
SHOWN_OUTCOMES = 6
_WEIGHED = 12  # suspects whose outcomes are told


@dataclass(frozen=True)
class LogLine:
    """A reading in the log: ``number`` counts the standing ones, None when struck out; ``judged`` is what the sheet's limits say of it,
    ``doubt`` why it does not go with the complaint."""

    stored: StoredReading
    number: int | None
    misfit: str
    basis: bool
    judged: tuple[Judgement, ...] = ()
    doubt: str = ""


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
    entry: Entry
    asked: Advice | None
    order: str
    proposals: tuple[Advice, ...]
    taken: int | None
    choice: Mapping[str, str]
    outcome_words: tuple[str, ...]
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
    cannot: tuple[tuple[str, str], ...]
    limits: tuple[str, ...]


def trace_of(docket: Docket, drawn: Drawn | None = None, entry: Entry | None = None) -> Trace:
    """The Trace screen's contents; what is drawn is chosen for the person who chooses nothing."""
    with workups().working(docket.stored_sheet):
        return _trace_of(docket, drawn or Drawn(), entry)


@dataclass(frozen=True)
class Stalled:
    """A trace whose readings could not be worked out: ``says`` why in a sentence; the log is there all the same."""

    docket: Docket
    says: str
    log: tuple[LogLine, ...]


def stalled(docket: Docket, says: str) -> Stalled:
    """What is left of a trace where nothing can be worked out."""
    return Stalled(docket, says, _log(docket, {}, (), (), {}))


def _trace_of(docket: Docket, drawn: Drawn, entry: Entry | None) -> Trace:
    sheet = docket.sheet
    isolation = workups().isolation(docket.stored_sheet, docket.items)
    proposals = led_by(isolation.belief, drawn.order, isolation.next, isolation.standing.named)
    asked, taken, error = _asked(docket, isolation, proposals, drawn, entry)
    entry = entry or _entry(docket, asked, drawn.own, error)
    shown = next(s for s in (drawn.state, entry.state, *sheet.states) if s in sheet.states)
    paths = docket.workup.paths
    path = next((p for p in paths if p.load == drawn.load), None) or _path_for(paths, isolation, entry)
    found = workups().descent(docket.stored_sheet, docket.items, path, shown)
    number = whole(drawn.since)
    since = number if number is not None and number < len(docket.items) else None
    accused = _accused(docket, isolation, since)
    leads = tuple(a.lead for a in accused[:MATRIX_COLUMNS])
    return Trace(
        docket=docket,
        isolation=isolation,
        entry=entry,
        asked=asked,
        order=drawn.order,
        proposals=proposals,
        taken=taken,
        choice=_choice(asked, taken),
        outcome_words=_outcome_words(sheet, asked, entry),
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
        separators=_separators(sheet, isolation.standing.target),
        log=_log(
            docket,
            {m.reading: m.says for m in isolation.misfits},
            isolation.standing.proof,
            [judgements(sheet, item) if isinstance(item, Reading) else () for item in docket.items],
            against_the_complaint(docket.workup, docket.items, docket.job.complaint),
        ),
        limits=tuple(spelled(limit) for limit in limits_for(sheet, asked.test)) if asked else (),
        outcomes=_outcomes(isolation, asked),
        cannot=_cannot(sheet, asked),
    )


def _asked(
    docket: Docket, isolation: Isolation, proposals: tuple[Advice, ...], drawn: Drawn, entry: Entry | None
) -> tuple[Advice | None, int | None, str]:
    """The test that is asked for, its number among the proposals (None for a person's own), and what is wrong with it. What was typed last
    goes before what was chosen, and that before what is proposed."""
    own = Chosen(entry.instrument, entry.state, entry.red, entry.black) if entry else drawn.own
    if own.instrument:
        try:
            test = test_of(docket.sheet, own.state or last_state(docket), own.instrument, own.red, own.black)
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
        return {"instrument": test.instrument, "in": test.state, "red": test.red, "black": test.black}
    return {"take": str(taken + 1)} if taken else {}


def _outcome_words(sheet: Sheet, asked: Advice | None, entry: Entry) -> tuple[str, ...]:
    """The words that answer the check that is asked for with one touch; none for a number."""
    test = asked.test if asked else None
    if not isinstance(test, Question) or (entry.instrument, entry.red) != (test.kind, test.subject):
        return ()
    return tuple(outcomes_of(sheet, test))


def _cannot(sheet: Sheet, asked: Advice | None) -> tuple[tuple[str, str], ...]:
    """What of a test a person may be unable to do here: what to leave out, and the words for it."""
    if asked is None:
        return ()
    test = asked.test
    if isinstance(test, Question):
        return ((test.state, f"not in state {test.state}"),) if test.state else ()
    made = [(place, f"no way to {place}") for place in (test.red, test.black) if place in sheet.places and place != sheet.minus]
    return (*made, (test.instrument, f"no {METER_WORDS[test.instrument].lower()}"), (test.state, f"not in state {test.state}"))


def _separators(sheet: Sheet, group: tuple[str, ...]) -> tuple[str, ...]:
    """What would tell the parts of a group apart: unplugging, swapping, opening a place between them."""
    if len(group) < 2:
        return ()
    made: list[str] = []
    plugged = [name for name in group if sheet.parts[name].kind.load is not None or sheet.parts[name].kind.holder]
    if plugged:
        made.append(f"Unplug or swap {plugged[0]} and say what happened: swap {plugged[0]} gone, or swap {plugged[0]} no change.")
    nodes = [set(sheet.parts[name].pins.values()) for name in group]
    between = sorted({n for i, one in enumerate(nodes) for other in nodes[i + 1 :] for n in one & other} - set(sheet.places))
    if between:
        made.append(f"Open a place at {between[0]}: it lies between them.")
    joints = [name for name in group if sheet.parts[name].kind.joint]
    if joints:
        made.append(f"Wiggle {joints[0]} while the circuit works and watch: wiggle {joints[0]} changed, or no change.")
    return tuple(made) or ("Open a place between them.",)


def _entry(docket: Docket, asked: Advice | None, own: Chosen, error: str) -> Entry:
    sheet = docket.sheet
    if asked:
        test = asked.test
        return Entry(test.state or last_state(docket), test.instrument, test.red, test.black)
    if own.instrument:
        return Entry(own.state, own.instrument, own.red, own.black, error=error)
    return Entry(last_state(docket), "volts", sheet.plus, sheet.minus)


def _path_for(paths: tuple[Path, ...], isolation: Isolation, entry: Entry) -> Path:
    """The path worth looking at: the leading suspect's once it stands out, else the one that the proposed test probes."""
    lead = next((s for s in isolation.suspects if s.part), isolation.suspects[0])
    stands_out = lead.probability > 0.3
    return max(paths, key=lambda p: (stands_out and lead.part in p.parts, entry.red in p.nodes, -paths.index(p)))


def _accused(docket: Docket, isolation: Isolation, since: int | None) -> tuple[Accused, ...]:
    before: dict[tuple[str, ...], float] = {}
    if since is not None:
        then = workups().isolation(docket.stored_sheet, docket.items[:since])
        # How it stood for the same parts together, whatever the groups were.
        names, own = tuple(docket.sheet.parts), tuple(t.members for t in isolation.targets)
        before = {t.members: t.probability for t in targets(then.suspects, names, tuple(m for m in own if len(m) > 1))}
    made: list[Accused] = []
    for target in isolation.targets:
        if target.members and len(made) >= SHOWN_SUSPECTS:
            continue
        modes = tuple(s for s in isolation.suspects if s.kind == "single" and s.part in (target.members or (None,)))
        title = " or ".join(target.members) or "Nothing on this sheet"
        shown = tuple(s for s in modes if s.probability > 0.01 * target.probability)
        telling = docket.items and len(made) < PLAIN_SEVERITIES and target.probability > 0.01
        severity = plain_severity(isolation.belief, modes[0]) if telling else ""
        made.append(Accused(target.members, title, target.probability, modes[0], severity, shown, before.get(target.members)))
    return tuple(made)


def _log(
    docket: Docket, misfits: Mapping[int, str], proof: tuple[int, ...], judged: Sequence[tuple[Judgement, ...]], doubts: Mapping[int, str]
) -> tuple[LogLine, ...]:
    """The log, the latest on top; what is said of its lines by the number of the reading among those that stand, counted from 0."""
    lines, number = [], 0
    for stored in docket.log:
        if stored.struck is not None:
            lines.append(LogLine(stored, None, "", False))
            continue
        said = judged[number] if number < len(judged) else ()
        lines.append(LogLine(stored, number + 1, misfits.get(number, ""), number in proof, said, doubts.get(number, "")))
        number += 1
    return tuple(reversed(lines))


def _outcomes(isolation: Isolation, asked: Advice | None) -> tuple[tuple[str, tuple[str, ...], float], ...]:
    """What the answer to the test that is asked for would speak for: value or range shown, suspects, their probability together.

    Values that the meter would hardly tell apart stand together.
    """
    if asked is None:
        return ()
    if isinstance(asked.test, Question):
        return _word_outcomes(isolation, asked)
    meter = asked.test.instrument
    told, weight = _weighed_expectations(isolation, asked)
    clusters: list[list[Expectation]] = []
    told.sort(key=lambda e: e.value)
    reach = [0.0, *(2.0 * meter_sigmas(meter, [e.value for e in told]))]  # of the one before
    for e, far in zip(told, reach, strict=False):
        if clusters and (e.value == clusters[-1][-1].value or e.value - clusters[-1][-1].value < far):
            clusters[-1].append(e)
        else:
            clusters.append([e])
    made = []
    for cluster in clusters:
        low, high = (reading_text(e.value, meter) for e in (cluster[0], cluster[-1]))
        number, _, unit = low.partition(" ")
        span = low if low == high else f"{number if high.endswith(unit) else low} – {high}"
        names = dict.fromkeys(e.part or "nothing wrong" for e in sorted(cluster, key=lambda e: -weight[(e.part, e.mode)]))
        made.append((span, tuple(names), sum(weight[(e.part, e.mode)] for e in cluster)))
    return _with_the_rest(sorted(made, key=lambda o: -o[2])[:SHOWN_OUTCOMES], "another number")


def _weighed_expectations(isolation: Isolation, asked: Advice) -> tuple[list[Expectation], dict[tuple[str | None, str | None], float]]:
    """What the suspects would make of a test, with the chance of each: a fault that comes and goes is there or not, one time in two."""
    weight = {(s.part, s.mode): s.probability for s in isolation.suspects if s.kind == "single"}
    some: dict[str, float] = {}
    for s in isolation.suspects:
        if s.kind == "sometimes" and s.part and s.probability >= 0.01:
            some[s.part] = some.get(s.part, 0.0) + s.probability
    told = list(expectations(isolation.belief, asked.test, _WEIGHED, tuple(some)))
    for part, p in some.items():
        mode = next(e.mode for e in told if e.part == part)
        weight[part, mode] += p / 2.0
        weight[None, None] += p / 2.0
    return told, weight


def _with_the_rest(rows: Sequence[tuple[str, tuple[str, ...], float]], words: str) -> tuple[tuple[str, tuple[str, ...], float], ...]:
    """Rows of outcomes with one for all that they leave out, so that the shares add up."""
    rest = 1.0 - sum(p for _, _, p in rows)
    return (*rows, (words, ("other suspects",), rest)) if rest >= 0.01 else tuple(rows)


def _word_outcomes(isolation: Isolation, asked: Advice) -> tuple[tuple[str, tuple[str, ...], float], ...]:
    told, weight = _weighed_expectations(isolation, asked)
    made: dict[str, list[Expectation]] = {}
    for e in told:
        made.setdefault(e.word, []).append(e)
    rows = [
        (word, tuple(dict.fromkeys(e.part or "nothing wrong" for e in found)), sum(weight[e.part, e.mode] for e in found))
        for word, found in made.items()
    ]
    return _with_the_rest(sorted(rows, key=lambda row: -row[2]), "any of these")
