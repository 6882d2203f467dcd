"""A job out of a data folder into one file, and from such a file into another folder. What is there already is not added again."""

from __future__ import annotations

import base64
import binascii
import hashlib
import json
import sqlite3
from collections.abc import Mapping
from dataclasses import asdict, dataclass
from pathlib import Path
from typing import Any

from ..core.base.errors import PondrelError
from ..core.job.conclusion import modes_in
from ..core.job.entry import Entry
from ..core.job.exchange import ExchangeError, read_exchange, written_exchange
from ..core.job.kinds import answer_of, words_of
from ..core.job.stages import state_of
from ..core.vehicle.facts import FACT_NAMES, Facts, checked_facts
from .bay import known_of, refresh_job
from .conclusions import Conclusion, add_conclusion, conclusions_of
from .db import atomic, now
from .entries import add_entry, entries_of, strike_entry
from .files import file_path, get_file, keep_file, ready_file
from .jobs import add_job, get_job
from .own_drawings import note_own_drawing
from .sheets import add_sheet, get_sheet
from .traces import add_trace, traces_of
from .vehicle_entries import add_vehicle_entry, strike_vehicle_entry, vehicle_entries_of
from .vehicles import add_vehicle, all_vehicles, get_vehicle

__all__ = ["Imported", "NoJobError", "export_job", "import_job", "job_record"]


class NoJobError(PondrelError):
    """There is no job of that number."""


@dataclass(frozen=True, slots=True)
class Imported:
    """What came of an import: the job's number here, whether it is ``new``, and how many ``entries`` were added."""

    job_id: int
    new: bool
    entries: int


def _struck(entry: Entry) -> dict[str, str] | None:
    return {"reason": entry.struck.reason, "person": entry.struck.person, "at": entry.struck.at} if entry.struck else None


def _entry(entry: Entry, numbers: Mapping[int, int], traces: Mapping[int, int], conclusion: Conclusion | None) -> dict[str, Any]:
    return {
        "number": numbers[entry.id],
        "trace": traces[entry.trace_id] if entry.trace_id is not None else None,
        "kind": entry.kind,
        "content": dict(entry.content),
        "person": entry.person,
        "made_at": entry.made_at,
        "struck": _struck(entry),
        "files": [{"digest": digest, "name": name} for digest, name in entry.files],
        "parts": list(conclusion.parts) if conclusion else [],
        "basis": [numbers[basis] for basis in conclusion.basis] if conclusion else [],
    }


def export_job(conn: sqlite3.Connection, folder: Path, job_id: int) -> str:
    """A job with its vehicle, sheets, record and files as the text of one file. Raises NoJobError where there is none."""
    job = get_job(conn, job_id)
    if job is None:
        raise NoJobError(f"There is no job {job_id} in this data folder.")
    vehicle = get_vehicle(conn, job.vehicle_id)
    assert vehicle is not None
    entries, traces = entries_of(conn, job_id), traces_of(conn, job_id)
    numbers = {entry.id: number for number, entry in enumerate(entries, 1)}
    by_id = {c.id: c for c in conclusions_of(conn, job_id)}
    stored = [sheet for trace in traces if (sheet := get_sheet(conn, trace.sheet_id))]
    digests = dict.fromkeys(digest for entry in entries for digest, _ in entry.files)
    return written_exchange(
        {
            "exported_at": now(),
            "vehicle": {name: getattr(vehicle, name) for name in FACT_NAMES},
            "vehicle_entries": [
                {
                    "kind": line.kind, "content": dict(line.content), "person": line.person, "made_at": line.made_at,
                    "own_job": line.job_id == job_id,
                    "struck": {"reason": line.struck, "person": "", "at": line.made_at} if line.struck is not None else None,
                }
                for line in vehicle_entries_of(conn, vehicle.id)
            ],
            "job": {"complaint": job.complaint, "conditions": job.conditions, "person": job.person, "opened_at": job.opened_at},
            "sheets": [{"digest": sheet.digest, "text": sheet.text} for sheet in {s.digest: s for s in stored}.values()],
            "traces": [
                {"number": trace.number, "sheet": sheet.digest, "person": trace.person, "opened_at": trace.opened_at}
                for trace, sheet in zip(traces, stored, strict=True)
            ],
            "entries": [_entry(e, numbers, {t.id: t.number for t in traces}, by_id.get(e.id)) for e in entries],
            "files": [_file(conn, folder, digest) for digest in digests],
        }
    )  # fmt: skip


def _file(conn: sqlite3.Connection, folder: Path, digest: str) -> dict[str, str]:
    stored, path = get_file(conn, digest), file_path(folder, digest)
    if stored is None or not path.exists():
        raise ExchangeError(f"The file {digest[:12]}… of this job is missing in the data folder: put it back from a copy first.")
    return {"digest": digest, "media": stored.media, "base64": base64.b64encode(path.read_bytes()).decode("ascii")}


def import_job(conn: sqlite3.Connection, folder: Path, text: str) -> Imported:
    """Take an exported job up, all of it or nothing; of one that is here already what is missing is added.

    Raises PondrelError with one sentence for a damaged file, or one whose content does not fit.
    """
    found = read_exchange(text)
    files = {file["digest"]: ready_file(_content(file), tidied=True) for file in found["files"]}
    with atomic(conn):
        vehicle_id = _vehicle(conn, found["vehicle"])
        job = found["job"]
        job_id = _same_job(conn, vehicle_id, job)
        new = job_id is None
        if job_id is None:
            job_id = add_job(conn, vehicle_id, job["complaint"], job["conditions"], job["person"], job["opened_at"])
        _add_vehicle_entries(conn, vehicle_id, job_id, found["vehicle_entries"])
        traces = _traces(conn, job_id, vehicle_id, found)
        kept = {digest: keep_file(conn, folder, ready).digest for digest, ready in files.items()}
        added = _add_entries(conn, job_id, traces, found["entries"], kept)
        refresh_job(conn, job_id)
    return Imported(job_id, new, added)


def _content(file: Mapping[str, str]) -> bytes:
    try:
        content = base64.b64decode(file["base64"], validate=True)
    except (binascii.Error, ValueError) as error:
        raise ExchangeError("A picture or paper in the file is damaged: export the job once more.") from error
    if hashlib.sha256(content).hexdigest() != file["digest"]:
        raise ExchangeError("A picture or paper in the file is not the one that it says it is: export the job once more.")
    return content


def _vehicle(conn: sqlite3.Connection, given: Mapping[str, Any]) -> int:
    """The vehicle that is meant: the one of the same identification number, else of the same name; made where there is none."""
    volts = given.get("volts")
    texts = {name: "" if given.get(name) is None else str(given[name]) for name in FACT_NAMES}
    facts = checked_facts({**texts, "volts": f"{volts:g}" if isinstance(volts, (int, float)) else ""})
    known = all_vehicles(conn)
    same = next((v for v in known if facts.vin and v.vin == facts.vin), None)
    same = same or next((v for v in known if v.name == facts.name and (not v.vin or not facts.vin or v.vin == facts.vin)), None)
    if same:
        return same.id
    names = {v.name for v in known}
    free = next(n for n in (facts.name, *(f"{facts.name[:70]} ({i})" for i in range(2, len(known) + 3))) if n not in names)
    return add_vehicle(conn, Facts(**{**asdict(facts), "name": free}))


def _same_job(conn: sqlite3.Connection, vehicle_id: int, job: Mapping[str, str]) -> int | None:
    sql = "SELECT id FROM job WHERE vehicle_id = ? AND complaint = ? AND opened_at = ? ORDER BY id"
    row = conn.execute(sql, (vehicle_id, job["complaint"], job["opened_at"])).fetchone()
    return int(row["id"]) if row else None


def _add_vehicle_entries(conn: sqlite3.Connection, vehicle_id: int, job_id: int, lines: list[dict[str, Any]]) -> None:
    known = {_line_key(line.kind, line.content, line.made_at) for line in vehicle_entries_of(conn, vehicle_id)}
    for line in lines:
        if _line_key(line["kind"], line["content"], line["made_at"]) in known:
            continue
        # What was written down elsewhere may be older than what is known here: it is taken as it stands.
        content = {**line["content"], **({"renewed": True} if line["kind"] == "mileage" else {})}
        own = job_id if line["own_job"] else None
        entry = add_vehicle_entry(conn, vehicle_id, line["kind"], content, job_id=own, person=line["person"], made_at=line["made_at"])
        if line["struck"]:
            strike_vehicle_entry(conn, vehicle_id, entry, line["struck"]["reason"], line["struck"]["person"])


def _line_key(kind: str, content: Mapping[str, Any], made_at: str) -> str:
    return json.dumps([kind, {n: v for n, v in content.items() if n != "renewed"}, made_at], sort_keys=True, ensure_ascii=False)


def _traces(conn: sqlite3.Connection, job_id: int, vehicle_id: int, found: Mapping[str, Any]) -> dict[int, int]:
    """By the file's number of a trace its id here."""
    texts = {sheet["digest"]: sheet["text"] for sheet in found["sheets"]}
    here = {trace.sheet_id: trace.id for trace in traces_of(conn, job_id)}
    traces = {}
    for trace in found["traces"]:
        text = texts.get(trace["sheet"])
        if text is None or hashlib.sha256(text.encode()).hexdigest() != trace["sheet"]:
            raise ExchangeError("A circuit in the file is not the one that it says it is: export the job once more.")
        sheet_id = add_sheet(conn, text)
        note_own_drawing(conn, sheet_id, text, vehicle_id)
        traces[trace["number"]] = here.get(sheet_id) or add_trace(conn, job_id, sheet_id, trace["person"], trace["opened_at"])
    return traces


def _entry_key(kind: str, trace_id: int | None, content: Mapping[str, Any], made_at: str) -> str:
    return json.dumps([kind, trace_id, dict(content), made_at], sort_keys=True, ensure_ascii=False)


def _add_entries(
    conn: sqlite3.Connection, job_id: int, traces: Mapping[int, int], entries: list[dict[str, Any]], kept: Mapping[str, str]
) -> int:
    """Add those entries that are not here yet, and what was struck out since; returns how many are new."""
    here: dict[str, list[Entry]] = {}
    for entry in entries_of(conn, job_id):
        here.setdefault(_entry_key(entry.kind, entry.trace_id, entry.content, entry.made_at), []).append(entry)
    ids: dict[int, int] = {}
    added = 0
    for line in entries:
        if line["trace"] is not None and line["trace"] not in traces:
            raise ExchangeError("An entry in the file belongs to a circuit that is not in it: export the job once more.")
        trace_id = traces[line["trace"]] if line["trace"] is not None else None
        known = here.get(_entry_key(line["kind"], trace_id, line["content"], line["made_at"]))
        if known:
            entry = known.pop(0)
            ids[line["number"]], struck = entry.id, entry.struck is not None
        else:
            ids[line["number"]], struck = _add_entry(conn, job_id, trace_id, line, ids, kept), False
            added += 1
        if line["struck"] and not struck:
            strike_entry(conn, job_id, ids[line["number"]], line["struck"]["reason"], line["struck"]["person"], line["struck"]["at"])
    return added


def _add_entry(
    conn: sqlite3.Connection,
    job_id: int,
    trace_id: int | None,
    line: Mapping[str, Any],
    ids: Mapping[int, int],
    kept: Mapping[str, str],
) -> int:
    content, person, at = line["content"], line["person"], line["made_at"]
    if line["kind"] == "conclusion":
        basis = [ids[number] for number in line["basis"] if number in ids]
        says, reason, probability = content.get("says"), content.get("reason"), content.get("probability")
        return add_conclusion(
            conn,
            job_id,
            trace_id,
            line["parts"],
            str(says),
            probability,
            bool(content.get("proved")),
            str(reason or ""),
            basis,
            person,
            at,
            modes_in(content),
        )
    files = [(kept.get(file["digest"], ""), file["name"]) for file in line["files"]]
    if not all(digest for digest, _ in files):
        raise ExchangeError("A picture or paper that an entry names is not in the file: export the job once more.")
    return add_entry(conn, job_id, line["kind"], content, trace_id=trace_id, person=person, made_at=at, files=files)


def job_record(conn: sqlite3.Connection, job_id: int) -> dict[str, Any]:
    """The whole record of a job as plain values, with where it stands and how each entry reads. Raises NoJobError where there is none."""
    job = get_job(conn, job_id)
    if job is None:
        raise NoJobError(f"There is no job {job_id} in this data folder.")
    vehicle = get_vehicle(conn, job.vehicle_id)
    assert vehicle is not None
    entries, traces = entries_of(conn, job_id), traces_of(conn, job_id)
    known, _ = known_of(conn, job_id)
    state = state_of(known, entries)
    numbers = {trace.id: trace.number for trace in traces}
    by_id = {c.id: c for c in conclusions_of(conn, job_id)}
    return {
        "job": {
            "number": job.id, "complaint": job.complaint, "conditions": job.conditions, "person": job.person, "opened_at": job.opened_at,
        },
        "vehicle": {name: getattr(vehicle, name) for name in FACT_NAMES},
        "stands": {"stage": state.here, "waits_for": state.waits_for, "found": state.found, "over": state.over},
        "stages": [{"name": s.name, "at": s.at, "there": s.there, "lacks": s.lacks} for s in state.stages],
        "traces": [{"number": t.number, "title": t.title, "opened_at": t.opened_at} for t in traces],
        "entries": [_told(entry, numbers, by_id.get(entry.id)) for entry in entries],
    }  # fmt: skip


def _told(entry: Entry, numbers: Mapping[int, int], conclusion: Conclusion | None) -> dict[str, Any]:
    return {
        "id": entry.id,
        "trace": numbers[entry.trace_id] if entry.trace_id is not None else None,
        "kind": entry.kind,
        "says": words_of(entry),
        "answer": answer_of(entry),
        "content": dict(entry.content),
        "person": entry.person,
        "made_at": entry.made_at,
        "struck": _struck(entry),
        "files": [{"digest": digest, "name": name} for digest, name in entry.files],
        **({"parts": list(conclusion.parts), "basis": list(conclusion.basis)} if conclusion else {}),
    }
