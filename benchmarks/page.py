"""From Enter on a reading to the new ranking and advice in the page, beside serving the Bay page: both by the same application in one run.

Twenty readings are entered on a sheet of 60 parts; each time the server writes the reading, ranks, advises and renders. The sheet is
prepared once before (cold), as it is when a job is opened.
"""

from __future__ import annotations

import os
import statistics
import tempfile
import time
from pathlib import Path

os.environ.setdefault("OPENBLAS_NUM_THREADS", "1")

from pondrel.core.circuit.fault import Fault
from pondrel.core.circuit.sheet import parse_sheet
from pondrel.core.measure import measure
from pondrel.demo.load import load_demo
from pondrel.store.db import DATABASE, atomic, connect
from pondrel.store.jobs import add_job
from pondrel.store.sheets import add_sheet
from pondrel.web import create_app

from .circuits import text_of_size

__all__ = ["main"]

READINGS, BAYS = 20, 30


def main() -> None:
    """Print the table."""
    with tempfile.TemporaryDirectory() as folder:
        _run(Path(folder))


def _run(folder: Path) -> None:
    load_demo(folder)
    text = text_of_size(60)
    sheet = parse_sheet(text)
    conn = connect(folder / DATABASE)
    with atomic(conn):
        job = add_job(conn, 1, add_sheet(conn, text), "Dim lamps", "", "")
    conn.close()
    app = create_app(folder)
    app.config["WTF_CSRF_ENABLED"] = False
    client = app.test_client()
    state = next(reversed(sheet.states))
    wire = next(name for name, part in reversed(sheet.parts.items()) if part.kind.name == "wire")
    faults = (Fault(wire, "high_resistance", 2.0),)
    start = time.perf_counter()
    client.get(f"/jobs/{job}/trace")
    print(f"{len(sheet.parts)} parts, {len(sheet.places)} places; prepared once in {time.perf_counter() - start:.1f} s")
    bays = [_seconds(lambda: client.get("/")) for _ in range(BAYS)]
    bay = statistics.median(bays)
    print(f"Bay page: {1e3 * bay:.1f} ms\n{'reading':>8} {'ms':>7} {'of the Bay page':>16}")
    places = [place for place in sheet.places if place != sheet.minus][:READINGS]
    for number, place in enumerate(places, 1):
        value = measure(sheet, state, "volts", place, sheet.minus, faults).text.removesuffix(" V").replace(" mV", "m")
        data = {"state": state, "instrument": "volts", "red": place, "black": sheet.minus, "value": value}
        taken = _seconds(lambda data=data: client.post(f"/jobs/{job}/readings", data=data, headers={"X-Fragment": "1"}))
        print(f"{number:8} {1e3 * taken:7.0f} {taken / bay:15.1f}x")


def _seconds(what) -> float:
    start = time.perf_counter()
    answer = what()
    assert answer.status_code == 200, answer.get_data(as_text=True)[:300]
    return time.perf_counter() - start


if __name__ == "__main__":
    main()
