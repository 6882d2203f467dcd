"""From Enter on a reading to the new ranking and advice in the page, beside serving the Bay page: both by the same application in one run.

Twenty readings are entered on a sheet of 60 parts; each time the server writes the reading, ranks, advises and renders. The sheet is
prepared once before (cold), as it is when a job is opened. *Typed* readings come as they do from the Trace screen, which asks for a preview
of what is typed and thereby has the server work the answer out before Enter; both requests are listed. Those entered *at once* come without
a preview, as from a script: the whole work falls after Enter. In some jobs the readings are those that the page proposes; in the others
they are taken at one place after another, which tells little and leaves nearly every suspect standing: the hardest case.
"""

from __future__ import annotations

import os
import statistics
import tempfile
import time
from collections.abc import Callable
from pathlib import Path

os.environ.setdefault("OPENBLAS_NUM_THREADS", "1")

from flask import Flask

from pondrel.core.circuit.fault import Fault
from pondrel.core.circuit.measure import measure
from pondrel.core.circuit.read.sheet import parse_sheet
from pondrel.core.evidence.asked import Measurement
from pondrel.core.isolate.isolation import Isolation
from pondrel.demo.load import load_demo
from pondrel.store.db import DATABASE, atomic, connect
from pondrel.store.jobs import add_job
from pondrel.store.sheets import add_sheet
from pondrel.store.traces import add_trace
from pondrel.web import create_app
from pondrel.web.jobs.docket import docket_of
from pondrel.web.shell.database import get_db
from pondrel.web.shell.workups import workups

from .circuits import text_of_size

__all__ = ["main"]

READINGS, BAYS = 20, 9


def main() -> None:
    """Print the table."""
    with tempfile.TemporaryDirectory() as folder:
        _run(Path(folder))


def _run(folder: Path) -> None:
    load_demo(folder)
    text = text_of_size(60)
    sheet = parse_sheet(text)
    in_turn = [Measurement(list(sheet.states)[-1], "volts", place, sheet.minus) for place in sheet.places if place != sheet.minus]
    for typed in (True, False):
        for words, chosen in (("as proposed", _proposed), ("place by place", lambda found: in_turn[len(found.belief.readings)])):
            # Every job has a server of its own, so that none finds what another has worked out.
            conn = connect(folder / DATABASE)
            with atomic(conn):
                job = add_job(conn, 1, "Dim lamps")
                add_trace(conn, job, add_sheet(conn, text))
            conn.close()
            app = create_app(folder)
            app.config["WTF_CSRF_ENABLED"] = False
            print(f"\nReadings {words}, {'typed' if typed else 'at once'}")
            _one_job(app, job, chosen, typed)


def _one_job(app: Flask, job: int, choose: Callable[[Isolation], Measurement], typed: bool) -> None:
    client = app.test_client()
    cold = _seconds(lambda: client.get(f"/jobs/{job}/trace"))
    rows = []
    for _ in range(READINGS):
        with app.app_context():
            docket = docket_of(get_db(), job, 1)
            test = choose(workups().isolation(docket.stored_sheet, docket.items))
            sheet = docket.sheet
        wire = next(name for name, part in reversed(sheet.parts.items()) if part.kind.name == "wire")
        shown = measure(sheet, test.state, test.instrument, test.red, test.black, (Fault(wire, "high_resistance", 2.0),)).text
        value = "OL" if shown == "OL" else shown.partition(" ")[0] + shown.partition(" ")[2].rstrip("VΩA")
        data = {"state": test.state, "instrument": test.instrument, "red": test.red, "black": test.black, "value": value}
        bay = statistics.median(_seconds(lambda: client.get("/")) for _ in range(BAYS))
        asked = _seconds(lambda data=data: client.get(f"/jobs/{job}/preview", query_string=data)) if typed else 0.0
        entered = _seconds(lambda data=data: client.post(f"/jobs/{job}/readings", data=data, headers={"X-Fragment": "1"}))
        rows.append((bay, asked, entered))
    print(f"{len(sheet.parts)} parts, {len(sheet.places)} places; the page opened first, with the sheet prepared, in {cold:.1f} s")
    print(f"{'reading':>8} {'Bay ms':>7} {'preview ms':>11} {'':>7} {'Enter ms':>9}")
    rows.append(tuple(statistics.median(column) for column in zip(*rows, strict=True)))
    for number, (bay, asked, entered) in zip([*map(str, range(1, READINGS + 1)), "median"], rows, strict=True):
        print(f"{number:>8} {1e3 * bay:7.1f} {1e3 * asked:11.1f} {asked / bay:6.1f}x {1e3 * entered:9.1f} {entered / bay:6.1f}x")


def _proposed(found: Isolation) -> Measurement:
    """The first proposed test that is a measurement; any that is left where nothing tells anything more."""
    left = (t for t in found.belief.workup.offered if t not in {r.test for r in found.belief.readings})
    return next((a.test for a in found.next if isinstance(a.test, Measurement)), None) or next(left)


def _seconds(what) -> float:
    start = time.perf_counter()
    answer = what()
    assert answer.status_code == 200, answer.get_data(as_text=True)[:300]
    return time.perf_counter() - start


if __name__ == "__main__":
    main()
