"""The Trace page's server work beside that of another version of Pondrel, in turn on the same demo jobs.

`python -m benchmarks.versions CHECKOUT` runs the checkout of the other version and this one alternately, each time in a process of its own
with a demo depot of its own, and prints processor time: of the page when everything about its readings is known already (drawing), and
of entering a reading that is new, with the page that follows (ranking, advising, drawing). A ratio above 1 means that this version works
longer.
"""

from __future__ import annotations

import json
import os
import statistics
import subprocess
import sys
from pathlib import Path

__all__ = ["main"]

ROUNDS = 3
HERE = Path(__file__).parents[1]
# What runs in the checkout: only what both versions have.
WORK = """
import json, sys, tempfile, time
from pathlib import Path
from pondrel.demo.load import load_demo
from pondrel.web import create_app

READINGS = {2: [("raise", "k2.30", "12.4"), ("raise", "k2.87", "12.3"), ("raise", "m1.minus", "0.1")],
            3: [("on", "f14.out", "12.38"), ("on", "k5.30", "12.33"), ("on", "k5.87", "12.2")],
            4: [("open", "batt+", "12.4"), ("open", "f9.out", "12.3"), ("open", "la2.feed", "12.1")]}
folder = Path(tempfile.mkdtemp())
load_demo(folder)
app = create_app(folder)
app.config["WTF_CSRF_ENABLED"] = False
client = app.test_client()


def seconds(act):
    start = time.process_time()
    answer = act()
    assert answer.status_code in (200, 302), answer.get_data(as_text=True)[:300]
    return time.process_time() - start


page, enter = [], []
for job, readings in READINGS.items():
    url = f"/jobs/{job}/trace"
    client.get(url)
    page += [seconds(lambda: client.get(url)) for _ in range(15)]
    for state, red, value in readings:
        data = {"state": state, "instrument": "volts", "red": red, "black": "batt-", "value": value}
        enter.append(seconds(lambda: client.post(f"/jobs/{job}/readings", data=data, headers={"X-Fragment": "1"})))
sizes = [len(client.get(f"/jobs/{job}/trace").data) for job in READINGS]
print(json.dumps({"page": page, "enter": enter, "bytes": sizes}))
"""


def main(other: Path) -> None:
    """Print both versions' medians and their ratio."""
    told: dict[str, dict[str, list[float]]] = {"other": {}, "this": {}}
    for _ in range(ROUNDS):
        for name, checkout in (("other", other), ("this", HERE)):
            for what, numbers in _measured(checkout).items():
                told[name].setdefault(what, []).extend(numbers)
    for what, unit, scale in (("page", "ms", 1e3), ("enter", "ms", 1e3), ("bytes", "kB", 1e-3)):
        old, new = (scale * statistics.median(told[name][what]) for name in ("other", "this"))
        print(f"{what:>6}: {old:8.1f} {unit} in the other version, {new:8.1f} {unit} in this one, {new / old:.2f} times")


def _measured(checkout: Path) -> dict[str, list[float]]:
    env = {**os.environ, "PYTHONPATH": str(checkout), "OPENBLAS_NUM_THREADS": "1"}
    done = subprocess.run([sys.executable, "-c", WORK], cwd=checkout, env=env, capture_output=True, text=True, check=True)
    numbers: dict[str, list[float]] = json.loads(done.stdout)
    return numbers


if __name__ == "__main__":
    if len(sys.argv) != 2:
        sys.exit("Name the checkout of the version to compare with: python -m benchmarks.versions CHECKOUT")
    main(Path(sys.argv[1]).resolve())
