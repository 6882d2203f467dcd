"""Loads the made-up depot: a travelling library and community bus yard with its vehicles and a job at every stage."""

from __future__ import annotations

import hashlib
import io
import sqlite3
from collections.abc import Mapping
from datetime import datetime, timedelta
from functools import partial
from pathlib import Path
from typing import Any, NamedTuple

from ruamel.yaml import YAML

from ..core.base.written import Value
from ..core.bench import case_from, family_of, outcome
from ..core.bench.given import Given
from ..core.bus.database import database_from
from ..core.circuit.read.sheet import parse_sheet
from ..core.circuit.sheet import Sheet
from ..core.evidence.line import parse_line
from ..core.evidence.registry import content_of, item_from, sort_of
from ..core.isolate import Workup, closing, isolate
from ..core.job.codes import scan_content
from ..core.job.kinds import is_evidence, words_of
from ..core.job.proof import RETAKEN
from ..core.meter.handheld import AS_TYPED
from ..core.meter.written import meter_from
from ..core.module.read_out import codes_from_text
from ..core.power import POWER
from ..core.scope import pattern_of, pattern_outcome
from ..core.vehicle.facts import checked_facts
from ..core.wave import capture_from
from ..logs.kept import keep, kept_path
from ..store.bay import refresh_job
from ..store.bench import add_check
from ..store.buses import add_bus_log, add_bus_mark, add_database, add_link, choose_databases
from ..store.captures import add_capture, add_judged, add_mark
from ..store.carry import carry
from ..store.conclusions import add_conclusion
from ..store.corrections import add_correction
from ..store.db import DATABASE, StoreError, backed_up, build, connect, made_as, mark
from ..store.entries import add_entry, entries_of, strike_entry
from ..store.files import file_path, keep_file, keep_large, media_of, ready_file
from ..store.folder import prepared, used_alone
from ..store.jobs import add_job
from ..store.meters import OwnMeter, all_meters, keep_meter
from ..store.own_limits import add_limit
from ..store.rates import keep_rates
from ..store.reports import Letterhead, keep_letterhead
from ..store.rosters import add_roster
from ..store.sheets import add_sheet
from ..store.traces import add_trace
from ..store.vehicle_entries import add_vehicle_entry
from ..store.vehicles import add_vehicle
from .buses import LOGS, SIGNALS
from .pictures import PICTURES
from .waves import WAVES

__all__ = ["ROSTERS", "SHEETS", "load_demo"]

SHEETS = Path(__file__).parent / "sheets"
ROSTERS = Path(__file__).parent / "rosters"
DEPOT = Path(__file__).parent / "depot.yaml"
READING = "reading"


def load_demo(data_folder: Path, reset: bool = False) -> str:
    """Make the demo database unless there is one; with ``reset`` make it anew, with a copy of the old one kept. Returns one sentence saying
    what was done.

    Raises StoreError where a server is using the folder, and where what is there is no demo.
    """
    path = prepared(data_folder) / DATABASE
    kept = ""
    if reset and path.exists():
        with used_alone(data_folder):
            conn = connect(path)
            try:
                demo = made_as(conn) == "demo"
            finally:
                conn.close()
            if not demo:
                raise StoreError(f"{path} was not made as a demo and may hold real work: a reset leaves it alone. Move it away by hand.")
            kept = f" The one before is kept as {backed_up(path, 'before-reset')}."
            for suffix in ("", "-wal", "-shm"):
                Path(f"{path}{suffix}").unlink(missing_ok=True)
            build(path, partial(_fill, folder=path.parent))
    elif not build(path, partial(_fill, folder=path.parent)):
        return f"{path} exists and is left as it is; --reset makes it anew."
    return f"The demo depot is in {path}.{kept}"


class _Circuit(NamedTuple):
    id: int
    sheet: Sheet


def _fill(conn: sqlite3.Connection, folder: Path) -> None:
    mark(conn, "demo")
    depot = YAML(typ="safe").load(DEPOT)
    vehicles = {name: _add_vehicle(conn, name, about) for name, about in depot["vehicles"].items()}
    texts = {file.stem: file.read_text(encoding="utf-8") for file in sorted(SHEETS.glob("*.yaml"))}
    sheets = {name: add_sheet(conn, text) for name, text in texts.items()}
    traced = {name for job in depot["jobs"] for line in job["record"] if (name := line.get("sheet"))}
    circuits = {name: _Circuit(sheets[name], parse_sheet(texts[name])) for name in sorted(traced)}
    for told in depot["corrections"]:
        add_correction(conn, sheets[told["sheet"]], vehicles[told["vehicle"]], told["part"], told["says"], told["person"], told["made_at"])
    jobs = [_add_job(conn, folder, job, vehicles[job["vehicle"]], circuits) for job in depot["jobs"]]
    for told in depot.get("captures", ()):
        _add_capture(conn, folder, told, vehicles[told["vehicle"]], jobs[told["job"] - 1] if "job" in told else None)
    _add_buses(conn, folder, depot.get("buses", {}), vehicles, jobs, sheets)
    _add_bench(conn, depot.get("bench", {}), vehicles)
    if rosters := depot.get("rosters"):
        for file in sorted(ROSTERS.glob("*.yaml")):
            add_roster(conn, file.read_text(encoding="utf-8"), **rosters)
    if workshop := depot.get("workshop"):
        keep_letterhead(conn, Letterhead(**workshop["letterhead"]))
        keep_rates(conn, workshop["rates"])


def _add_capture(conn: sqlite3.Connection, folder: Path, told: Mapping[str, Any], vehicle: int, job: int | None) -> None:
    """A capture of the depot with its marks, judged as its pattern has it: nothing here knows the answer."""
    name, made = WAVES[told["wave"]]
    file = made()
    stored = keep_large(conn, folder, io.BytesIO(file), media_of(file) or "application/octet-stream")
    capture = capture_from(io.BytesIO(file))
    channels = [(channel.name, channel.unit) for channel in capture.channels]
    when, person = told["made_at"], told["person"]
    own = add_capture(
        conn, stored.digest, name, told["says"], capture.count, capture.step, channels, vehicle_id=vehicle, job_id=job, person=person,
        made_at=when,
    )  # fmt: skip
    for at, says in told.get("marks", ()):
        add_mark(conn, own, float(at), says, person, when)
    pattern = pattern_of(told["pattern"])
    sets = {key: str(value) for key, value in told.get("settings", {}).items()}
    found = pattern_outcome(pattern, case_from(pattern.family, list(sets.items())), capture)
    given = {"sets": sets, "limits": [], "channel": channels[0][0], "second": "", "outcome": found.as_json()}
    says = found.findings[0].because
    add_judged(conn, own, pattern.name, given, str(found.verdict), says, person, when)
    if job is not None:
        text = f"{told['says']}: {found.verdict}. {says}"
        content = {"text": text, "capture": str(own)}
        add_entry(conn, job, "capture", content, person=person, made_at=when, files=[(stored.digest, name)])
        refresh_job(conn, job)


def _add_buses(
    conn: sqlite3.Connection, folder: Path, told: Mapping[str, Any], vehicles: Mapping[str, int], jobs: list[int], sheets: Mapping[str, int]
) -> None:
    """Signal databases, logs that are read by them, and what flags and silent senders say of circuits."""
    databases = {}
    for file in sorted(SIGNALS.glob("*.dbc")) if told else ():
        text = file.read_bytes()
        stored = keep_large(conn, folder, io.BytesIO(text), media_of(text) or "application/octet-stream")
        known = len(database_from(text, file.name).messages)
        databases[file.name] = add_database(conn, stored.digest, file.name, known, "Oda", told["made_at"])
    for link in told.get("links", ()):
        add_link(conn, link.get("frame", ""), link["signal"], sheets[link["sheet"]], link["line"], link["person"], told["made_at"])
    for own in told.get("logs", ()):
        name, database, made = LOGS[own["log"]]
        packed = made()
        stored = keep_large(conn, folder, io.BytesIO(packed), media_of(packed) or "application/octet-stream")
        log = keep(file_path(folder, stored.digest), kept_path(folder, stored.digest), name)
        job = jobs[own["job"] - 1] if "job" in own else None
        when, person = own["made_at"], own["person"]
        log_id = add_bus_log(
            conn, stored.digest, name, own["says"], len(log.frames), log.seconds, log.channels, vehicle_id=vehicles[own["vehicle"]],
            job_id=job, person=person, made_at=when,
        )  # fmt: skip
        choose_databases(conn, log_id, [(databases[database], "")], person, when)
        for at, says in own.get("marks", ()):
            add_bus_mark(conn, log_id, float(at), says, person, when)
        if job is not None:
            content = {"text": f"{own['says']}: {len(log.frames)} messages in {log.seconds:.4g} s", "log": str(log_id)}
            add_entry(conn, job, "bus", content, person=person, made_at=when, files=[(stored.digest, name)])
            refresh_job(conn, job)


def _add_bench(conn: sqlite3.Connection, told: Mapping[str, Any], vehicles: Mapping[str, int]) -> None:
    """The workshop's meters and limits, and checks of parts by themselves as they were made."""
    for meter in told.get("meters", ()):
        keep_meter(conn, OwnMeter(meter_from({name: str(value) for name, value in meter.items()})))
    for limit in told.get("limits", ()):
        add_limit(conn, limit["family"], limit.get("what", ""), limit["limit"], limit.get("note", ""), limit.get("person", ""))
    known = all_meters(conn)
    kept: list[int] = []
    for check in told.get("checks", ()):
        family = POWER.get(check["family"]) or family_of(check["family"])
        pairs = {name: tuple((key, str(value)) for key, value in check.get(name, {}).items()) for name in ("settings", "reads")}
        points = str(check.get("points", ""))
        given = Given(pairs["settings"], pairs["reads"], tuple(check.get("limits", ())), points, check.get("meter", ""))
        found = outcome(family, given.case(family, known[given.meter].meter if given.meter else AS_TYPED))
        number, unit = found.number(family.main)
        kept.append(
            add_check(
                conn,
                family.name,
                check["title"],
                given.as_json(),
                str(found.verdict),
                found.findings[0].because,
                number,
                unit,
                vehicle_id=vehicles[check["vehicle"]],
                before_id=kept[-1] if check.get("after_last") else None,
                person=check.get("person", ""),
                made_at=check["made_at"],
            )
        )


def _add_vehicle(conn: sqlite3.Connection, name: str, about: dict[str, Any]) -> int:
    """A vehicle of the depot with its own record: lines of one kind each, with who wrote them and when."""
    record = about.pop("record", [])
    facts = checked_facts({"name": name, **{key: str(value) for key, value in about.items()}})
    vehicle = add_vehicle(conn, facts)
    for line in record:
        kind, person, at = line.pop("kind"), line.pop("person", ""), line.pop("made_at")
        add_vehicle_entry(conn, vehicle, kind, _texts(line), unit=facts.unit, person=person, made_at=at)
    return vehicle


def _texts(line: Mapping[str, Any]) -> dict[str, Value]:
    """What a line of the depot holds, its numbers as a person types them."""
    return {name: value if isinstance(value, bool) else str(value) for name, value in line.items()}


def _add_job(conn: sqlite3.Connection, folder: Path, told: dict[str, Any], vehicle: int, circuits: Mapping[str, _Circuit]) -> int:
    """A job of the depot with its record, each entry by way of what a person would have typed."""
    person, opened = told.get("person", ""), told["opened_at"]
    job = add_job(conn, vehicle, told["complaint"], told.get("conditions", ""), person, opened)
    traces: dict[str, int] = {}
    for line in told["record"]:
        when, name = _later(opened, line.pop("after")), line.pop("sheet", "")
        if name and name not in traces:
            traces[name] = add_trace(conn, job, circuits[name].id, person, opened)
            carry(conn, job, person, when)
        trace = traces.get(name)
        if "again" in line:
            _read_again(conn, job, traces[name], line, person, when)
        elif "line" in line:
            _add_evidence(conn, job, trace, circuits[name].sheet, line, person, when)
        elif "conclude" in line:
            _conclude(conn, job, traces[name], circuits[name].sheet, line["conclude"], person, when)
        elif "named" in line:
            add_conclusion(conn, job, None, [line["named"]], line["named"], None, False, line["because"], [], person, when)
        elif "codes" in line and "kind" not in line:
            read = scan_content(codes_from_text(line["codes"]).codes, line.get("text", ""))
            add_entry(conn, job, "scan", read, person=person, made_at=when)
        elif "fitted" in line or "mileage" in line:
            kind = "fitted" if "fitted" in line else "mileage"
            content = line["fitted"] if kind == "fitted" else {"reads": line["mileage"], "renewed": False}
            add_vehicle_entry(conn, vehicle, kind, _texts(content), job_id=job, person=person, made_at=when)
            carry(conn, job, person, when)
        elif line:
            picture = line.pop("picture", "")
            if line["kind"] == "marks":
                line["file"] = hashlib.sha256(ready_file(PICTURES[line.pop("on")]()).content).hexdigest()
            files = [(keep_file(conn, folder, ready_file(PICTURES[picture]())).digest, f"{picture}.jpg")] if picture else []
            add_entry(conn, job, line.pop("kind"), _texts(line), trace_id=trace, person=person, made_at=when, files=files)
            carry(conn, job, person, when)
    refresh_job(conn, job)
    return job


def _later(opened: str, minutes: int) -> str:
    return (datetime.fromisoformat(opened) + timedelta(minutes=minutes)).strftime("%Y-%m-%dT%H:%M:%SZ")


def _add_evidence(
    conn: sqlite3.Connection, job: int, trace: int | None, sheet: Sheet, line: dict[str, str], person: str, when: str
) -> None:
    item, typed = parse_line(sheet, line["line"], next(iter(sheet.states)))
    content = {**content_of(item, typed), "note": line.get("note", "")}
    entry = add_entry(conn, job, sort_of(item).name, content, trace_id=trace, person=person, made_at=when)
    if "struck" in line:
        strike_entry(conn, job, entry, line["struck"], person, when)


def _read_again(conn: sqlite3.Connection, job: int, trace: int, line: Mapping[str, Any], person: str, when: str) -> None:
    """A reading of a circuit taken again after the repair: the n-th that was written there."""
    read = [e for e in entries_of(conn, job) if e.trace_id == trace and e.kind == READING]
    entry = read[line["again"] - 1]
    content = {"of": str(entry.id), "value": line["value"], "title": words_of(entry)}
    add_entry(conn, job, RETAKEN.name, content, trace_id=trace, person=person, made_at=when)


def _conclude(conn: sqlite3.Connection, job: int, trace: int, sheet: Sheet, reason: str, person: str, when: str) -> None:
    """Conclude a demo job as its readings have it, with the reason if one is needed: nothing here knows the answer."""
    stands = [entry for entry in entries_of(conn, job) if entry.trace_id == trace and entry.stands and is_evidence(entry.kind)]
    items = tuple(item_from(sheet, entry.kind, {name: entry.text(name) for name in entry.content}) for entry in stands)
    found = isolate(Workup(sheet), items)
    end = closing(
        sheet, found.standing.target, len(items), found.standing, tuple(found.parts.items()), modes=found.modes_of(found.standing.target)
    )
    basis = [stands[i].id for i in end.basis]
    add_conclusion(
        conn,
        job,
        trace,
        end.parts,
        end.says,
        end.probability,
        end.proved,
        reason if end.wants_reason else "",
        basis,
        person,
        when,
        end.modes,
    )
