"""From Enter on a reading to the new ranking and advice in the page, beside serving the Bay page: both by the same application in one run.

Twenty readings are entered on a sheet of 60 parts; each time the server writes the reading, ranks, advises and renders. The sheet is
prepared once before (cold), as it is when a job is opened. In one job the readings are those that the page proposes; in the other they are
taken at one place after another, which tells little and leaves nearly every suspect standing: the hardest case.
"""

from __future__ import annotations

import os
import statistics
import tempfile
import time
from collections.abc import Callable
from pathlib import Path

os.environ.setdefault("OPENBLAS_NUM_THREADS", "1")

from pondrel.core.circuit.fault import Fault
from pondrel.core.circuit.sheet import parse_sheet
from pondrel.core.isolate.offer import Test
from pondrel.core.isolate.report import Isolation
from pondrel.core.measure import measure
from pondrel.demo.load import load_demo
from pondrel.store.db import DATABASE, atomic, connect
from pondrel.store.jobs import add_job
from pondrel.store.sheets import add_sheet
from pondrel.web import create_app
from pondrel.web.database import get_db
from pondrel.web.trace import docket_of
from pondrel.web.workups import workups

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
        number = add_sheet(conn, text)
        jobs = [add_job(conn, 1, number, "Dim lamps", "", "") for _ in range(2)]
    conn.close()
    app = create_app(folder)
    app.config["WTF_CSRF_ENABLED"] = False
    client = app.test_client()
    state = next(reversed(sheet.states))
    wire = next(name for name, part in reversed(sheet.parts.items()) if part.kind.name == "wire")
    start = time.perf_counter()
    client.get(f"/jobs/{jobs[0]}/trace")
    print(f"{len(sheet.parts)} parts, {len(sheet.places)} places; prepared once in {time.perf_counter() - start:.1f} s")
    bays = [_seconds(lambda: client.get("/")) for _ in range(BAYS)]
    bay = statistics.median(bays)
    print(f"Bay page: {1e3 * bay:.1f} ms")
    in_turn = iter([Test(state, "volts", place, sheet.minus) for place in sheet.places if place != sheet.minus])
    ways: tuple[tuple[str, Callable[[Isolation], Test]], ...] = (("as proposed", _proposed), ("place by place", lambda _: next(in_turn)))
    for job, (words, choose) in zip(jobs, ways, strict=True):
        print(f"{words:>15} {'ms':>7} {'of the Bay page':>16}")
        for number in range(1, READINGS + 1):
            with app.app_context():
                docket = docket_of(get_db(), job)
                test = choose(workups().isolation(docket.stored_sheet, docket.items))
            shown = measure(sheet, test.state, test.instrument, test.red, test.black, (Fault(wire, "high_resistance", 2.0),)).text
            value = "OL" if shown == "OL" else shown.partition(" ")[0] + shown.partition(" ")[2].rstrip("VΩA")
            data = {"state": test.state, "instrument": test.instrument, "red": test.red, "black": test.black, "value": value}
            taken = _seconds(lambda job=job, data=data: client.post(f"/jobs/{job}/readings", data=data, headers={"X-Fragment": "1"}))
            print(f"{number:15} {1e3 * taken:7.0f} {taken / bay:15.1f}x")


def _proposed(found: Isolation) -> Test:
    """The first proposed test that is a measurement; any that is left where nothing tells anything more."""
    left = (t for t in found.belief.workup.offered if t not in {r.test for r in found.belief.readings})
    return next((a.test for a in found.next if isinstance(a.test, Test)), None) or next(left)


def _seconds(what) -> float:
    start = time.perf_counter()
    answer = what()
    assert answer.status_code == 200, answer.get_data(as_text=True)[:300]
    return time.perf_counter() - start


if __name__ == "__main__":
    main()
