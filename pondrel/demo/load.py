"""Loads the made-up depot: a travelling library and community bus yard with three vehicles and four jobs at different stages."""

from __future__ import annotations

import sqlite3
from pathlib import Path

from ..core.circuit.read.sheet import parse_sheet
from ..core.circuit.sheet import Sheet
from ..core.evidence.registry import content_of, item_from, item_of, sort_of
from ..core.isolate import Workup, closing, isolate
from ..store.bay import refresh_job
from ..store.conclusions import add_conclusion
from ..store.corrections import add_correction
from ..store.db import DATABASE, StoreError, backed_up, build, connect, made_as, mark
from ..store.entries import add_entry, entries_of, strike_entry
from ..store.folder import prepared, used_alone
from ..store.jobs import add_job
from ..store.sheets import add_sheet
from ..store.traces import add_trace
from ..store.vehicles import add_vehicle

__all__ = ["SHEETS", "load_demo"]

SHEETS = Path(__file__).parent / "sheets"

VEHICLES = {
    "Library 2": ("Tarnbolt", "Reader 75", "2016", "MW 4410", "book lorry with tail-lift"),
    "Bus 4": ("Quessel", "Hop 16", "2019", "MW 2217", "community bus, 16 seats"),
    "Yard van": ("Maurevik", "Carrall", "2014", "MW 0903", ""),
}

# vehicle, sheet, complaint, conditions, person, opened, readings: state, instrument, red, black, typed, note
JOBS = (
    (
        "Bus 4", "step_lights", "All three door lamps dim",
        "Always, also with the engine running. Step well was washed out last month.", "Oda", "2026-11-20T07:40:00Z",
        (
            ("open", "volts", "batt+", "batt-", "12.47", ""),
            ("open", "volts", "la2.feed", "batt-", "12.15", ""),
            ("open", "volts", "la2.gnd", "batt-", "3.81", ""),
            ("open", "volts", "g3", "batt-", "3.76", "ring terminal looks clean from above"),
        ), True,
    ),
    (
        "Library 2", "tail_lift", "Tail-lift does not rise, lowers normally",
        "Since Tuesday, first only with a full load of crates. No click from the contactor.", "Wim", "2026-11-23T08:05:00Z",
        (
            ("raise", "volts", "f21.out", "batt-", "12.49", ""),
            ("lower", "volts", "y3.feed", "batt-", "12.35", ""),
        ), False,
    ),
    (
        "Yard van", "heated_glass", "Rear glass clears slowly and unevenly",
        "Cold mornings. Tailgate plug was opened for the camera last winter.", "Oda", "2026-11-23T13:20:00Z",
        (
            ("on", "volts", "batt+", "batt-", "12.42", ""),
            ("on", "volts", "tab.feed", "batt-", "5.57", "read off upside down"),
            ("on", "volts", "tab.feed", "batt-", "9.57", ""),
            ("on", "volts", "tab.gnd", "batt-", "0.11", ""),
        ), False,
    ),
    (
        "Bus 4", "step_lights", "No light at the door at all",
        "Reported by the driver this morning, nothing tried yet.", "", "2026-11-24T06:50:00Z", (), False,
    ),
)  # fmt: skip


# vehicle, sheet, part, what was found different, who, when
CORRECTIONS = (
    (
        "Yard van", "heated_glass", "C20.1", "Plug C20 has a third pin since the camera was fitted; pins 1 and 2 are as drawn.",
        "Oda", "2026-11-02T15:10:00Z",
    ),
    (
        "Library 2", "tail_lift", "W10", "W10 runs over the chassis rail here, about a metre longer than drawn.",
        "Wim", "2026-10-14T09:30:00Z",
    ),
)  # fmt: skip


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
            build(path, _fill)
    elif not build(path, _fill):
        return f"{path} exists and is left as it is; --reset makes it anew."
    return f"The demo depot is in {path}.{kept}"


def _fill(conn: sqlite3.Connection) -> None:
    mark(conn, "demo")
    vehicles = {name: add_vehicle(conn, name, *rest) for name, rest in VEHICLES.items()}
    texts = {file.stem: file.read_text(encoding="utf-8") for file in sorted(SHEETS.glob("*.yaml"))}
    sheets = {name: add_sheet(conn, text) for name, text in texts.items()}
    for vehicle, sheet, part, says, person, made in CORRECTIONS:
        add_correction(conn, sheets[sheet], vehicles[vehicle], part, says, person, made)
    for vehicle, sheet, complaint, conditions, person, opened, readings, concluded in JOBS:
        job = add_job(conn, vehicles[vehicle], complaint, conditions, person, opened)
        trace = add_trace(conn, job, sheets[sheet], person, opened)
        circuit = parse_sheet(texts[sheet])
        for minute, (state, instrument, red, black, typed, note) in enumerate(readings, 5):
            item = item_of(circuit, state, instrument, red, black, typed, note)
            taken = f"{opened[:14]}{(int(opened[14:16]) + minute) % 60:02d}:00Z"
            content = content_of(item, typed)
            entry = add_entry(conn, job, sort_of(item).name, content, trace_id=trace, person=person, made_at=taken)
            if note == "read off upside down":
                strike_entry(conn, job, entry, "misread", person, taken)
        if concluded:
            _conclude(conn, job, trace, circuit, person, f"{opened[:11]}09:05:00Z")
        refresh_job(conn, job)


def _conclude(conn: sqlite3.Connection, job: int, trace: int, sheet: Sheet, person: str, when: str) -> None:
    """Conclude a demo job as its readings have it: nothing here knows the answer."""
    stands = [entry for entry in entries_of(conn, job) if entry.trace_id == trace and entry.stands]
    items = tuple(item_from(sheet, entry.kind, {name: entry.text(name) for name in entry.content}) for entry in stands)
    found = isolate(Workup(sheet), items)
    end = closing(sheet, found.standing.target, len(items), found.standing, tuple(found.parts.items()))
    reason = "repaired and working" if end.wants_reason else ""
    basis = [stands[i].id for i in end.basis]
    add_conclusion(conn, job, trace, end.parts, end.says, end.probability, end.proved, reason, basis, person, when)
