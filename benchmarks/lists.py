"""The Bay with ten thousand jobs beside the Bay with a page of them, and the Library with 71 sheets beside the Bay: ratios in one run.

python -m benchmarks.lists
"""

from __future__ import annotations

import statistics
import tempfile
import time
from pathlib import Path

from flask.testing import FlaskClient

from pondrel.demo.load import SHEETS, load_demo
from pondrel.store.bay import refresh_all
from pondrel.store.conclusions import add_conclusion
from pondrel.store.db import DATABASE, atomic, connect
from pondrel.store.entries import add_entry
from pondrel.store.jobs import add_job
from pondrel.store.sheets import add_sheet
from pondrel.store.traces import add_trace
from pondrel.web import create_app
from pondrel.web.jobs.bay import ON_A_PAGE

MANY, LIBRARY, LOOKS = 10_000, 71, 61
CHOSEN = ("/?party=0", "/?person=Oda", "/?vehicle=2", "/?q=complaint+77", "/?q=no+such+job")


def main() -> None:
    """Print the ratios."""
    with tempfile.TemporaryDirectory() as folder:
        _run(Path(folder) / "depot")


def _run(folder: Path) -> None:
    load_demo(folder)
    client = create_app(folder).test_client()
    conn = connect(folder / DATABASE)
    _add_jobs(conn, ON_A_PAGE)
    few, small = _page(client, "/")
    _add_jobs(conn, MANY)
    many, large = _page(client, "/")
    searched = {
        path: _page(client, path)[0] for path in ("/?party=0", "/?person=Oda", "/?vehicle=2", "/?q=complaint+77", "/?q=no+such+job")
    }
    text = (SHEETS / "tail_lift.yaml").read_text(encoding="utf-8")
    with atomic(conn):
        for n in range(LIBRARY - len(list(SHEETS.glob("*.yaml")))):
            add_sheet(conn, text.replace("title: Tail-lift", f"title: Tail-lift {n}"))
    library, _ = _page(client, "/sheets")
    conn.close()
    print(f"Bay with {MANY} jobs: {many / few:.2f}x the time and {large / small:.2f}x the bytes of the Bay with {ON_A_PAGE}")
    print("Chosen among them: " + ", ".join(f"{path} {seconds / many:.2f}x" for path, seconds in searched.items()))
    print(f"Library with {LIBRARY} sheets: {library / many:.2f}x the time of the Bay")


def _add_jobs(conn, count: int) -> None:
    with atomic(conn):
        for n in range(count):
            opened = f"2025-{1 + n % 12:02d}-{1 + n % 28:02d}T08:00:00Z"
            job = add_job(conn, 1 + n % 3, f"complaint {n}", "", "Oda", opened)
            trace = add_trace(conn, job, 1 + n % 11)
            for _ in range(4):
                content = {"state": "open", "instrument": "volts", "red": "g3", "black": "batt-", "value": "3.7", "note": ""}
                add_entry(conn, job, "reading", content, trace_id=trace)
            if n % 3:
                add_conclusion(conn, job, trace, ("G3",), "G3", 0.99, True, "", ())
            if n % 9 == 4:
                add_entry(conn, job, "report", {"text": ""})
        refresh_all(conn)


def _page(client: FlaskClient, path: str) -> tuple[float, int]:
    """Median seconds of a page, and its bytes."""
    times, size = [], 0
    for _ in range(LOOKS):
        start = time.perf_counter()
        size = len(client.get(path).data)
        times.append(time.perf_counter() - start)
    return statistics.median(times), size


if __name__ == "__main__":
    main()
