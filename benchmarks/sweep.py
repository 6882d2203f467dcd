"""How fast the fault sweep is, as ratios to ngspice doing the same operating points in the same run.

(a) one ngspice process for each fault, (b) one process that alters a value and solves again in a loop. ngspice does a sample and its
time is scaled to all points; in (b) the sample is of resistances, which is what it can alter. The sweep's own time covers everything
from a parsed sheet on: every hypothesis at every severity in every state, melted fuses. The volts between two places are
the difference of two columns of what is kept.
"""

from __future__ import annotations

import random
import re
import shutil
import subprocess
import sys
import time

import numpy as np

from pondrel.core.circuit.read.sheet import parse_sheet
from pondrel.core.circuit.sheet import Sheet
from pondrel.core.circuit.spice import netlist
from pondrel.core.evidence.asked import Setup
from pondrel.core.isolate.predict.workup import Workup
from pondrel.demo.load import SHEETS

from .circuits import sheet_of_size

SAMPLE, LOOPED = 40, 300
GROWTH = (15, 30, 60, 120, 240)


def swept(sheet: Sheet) -> tuple[Workup, float]:
    """A sheet's full sweep and its seconds."""
    start = time.perf_counter()
    workup = Workup(sheet)
    for state in sheet.states:
        workup.table(Setup(state, "volts")).points.volts  # noqa: B018 - worked out when asked for
    return workup, time.perf_counter() - start


def process_each(workup: Workup) -> float:
    """Seconds of one operating point with a process of its own."""
    curves, sheet = workup.curves, workup.sheet
    rows = [(h, float(x)) for h, grid in zip(curves.hypothesis.tolist(), curves.grid, strict=True) for x in grid]
    state = next(reversed(sheet.states))
    texts = [netlist(sheet, state, workup.hypotheses.fault(h, x)) for h, x in random.Random(1).sample(rows, SAMPLE)]
    start = time.perf_counter()
    for text in texts:
        subprocess.run(["ngspice", "-b"], input=text, capture_output=True, text=True, check=False)
    return (time.perf_counter() - start) / len(texts)


def in_a_loop(sheet: Sheet) -> float:
    """Seconds of one operating point where one process alters a resistance and solves again."""
    head, _, _ = netlist(sheet, next(reversed(sheet.states))).partition(".control")
    rng = random.Random(1)
    resistances = re.findall(r"^(R\d+) \S+ \S+ (\S+)$", head, re.M)
    loop = [".control", "op"]
    for _ in range(LOOPED):
        name, ohms = rng.choice(resistances)
        loop += [f"alter {name} = {float(ohms) * rng.uniform(1.5, 50):.9g}", "op", f"alter {name} = {ohms}"]
    text = head + "\n".join([*loop, "quit", ".endc", ".end", ""])
    start = time.perf_counter()
    subprocess.run(["ngspice", "-b"], input=text, capture_output=True, text=True, check=False)
    return (time.perf_counter() - start) / LOOPED


def main() -> None:
    """Print the tables."""
    if shutil.which("ngspice") is None:
        sys.exit("ngspice is the reference program here: install it and run again.")
    sheets = {file.stem: parse_sheet(file.read_text(encoding="utf-8")) for file in sorted(SHEETS.glob("*.yaml"))}
    sheets |= {"60 parts, lamps": sheet_of_size(60), "60 parts, linear": sheet_of_size(60, curved=False)}
    print(f"{'sheet':20} {'parts':>5} {'points':>7} {'sweep s':>8} {'us/point':>9} {'(a) each':>9} {'(b) loop':>9}")
    for name, sheet in sheets.items():
        workup, mine = swept(sheet)
        points = workup.curves.rows * len(sheet.states)
        each, loop = process_each(workup) * points / mine, in_a_loop(sheet) * points / mine
        print(f"{name:20} {len(sheet.parts):5} {points:7} {mine:8.2f} {1e6 * mine / points:9.0f} {each:8.0f}x {loop:8.0f}x")
    print(f"\n{'growth: parts':>14} {'points':>7} {'sweep s':>8} {'over the last':>14} {'exponent':>9}")
    last: tuple[int, float] | None = None
    for size in GROWTH:
        sheet = sheet_of_size(size)
        workup, seconds = swept(sheet)
        count, points = len(sheet.parts), workup.curves.rows * len(sheet.states)
        ratio = f"{seconds / last[1]:13.1f}x {np.log(seconds / last[1]) / np.log(count / last[0]):9.2f}" if last else ""
        print(f"{count:14} {points:7} {seconds:8.2f} {ratio}")
        last = (count, seconds)
    code = "import tracemalloc; from benchmarks.sweep import swept; from benchmarks.circuits import sheet_of_size\n"
    code += "sheet = sheet_of_size(60); tracemalloc.start(); swept(sheet); print(tracemalloc.get_traced_memory()[1] / 2**20)"
    done = subprocess.run([sys.executable, "-c", code], capture_output=True, text=True, check=True)
    print(f"\nmemory of the 60-part sweep: {float(done.stdout):.0f} MB at its peak, above the program itself")


if __name__ == "__main__":
    main()
