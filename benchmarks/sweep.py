"""How fast the fault sweep is, as a ratio to ngspice doing the same operating points in the same run, one process each.

ngspice solves a sample of the rows and its time is scaled to all of them; what is compared is stated beside each figure.
"""

from __future__ import annotations

import math
import random
import shutil
import subprocess
import sys
import time

from pondrel.core.circuit.sheet import parse_sheet
from pondrel.core.circuit.spice import netlist
from pondrel.core.isolate.offer import Setup
from pondrel.core.isolate.responses import Workup
from pondrel.demo.load import SHEETS

SAMPLE = 40


def main() -> None:
    """Print a line per demo sheet."""
    if shutil.which("ngspice") is None:
        sys.exit("ngspice is the reference program here: install it and run again.")
    print(f"{'sheet':14} {'parts':>5} {'rows':>6} {'points':>7} {'sweep s':>8} {'ngspice s':>10} {'ratio':>7}")
    for file in sorted(SHEETS.glob("*.yaml")):
        sheet = parse_sheet(file.read_text(encoding="utf-8"))
        start = time.perf_counter()
        workup = Workup(sheet)
        for state in sheet.states:
            workup.table(Setup(state, "volts"))
        mine = time.perf_counter() - start
        curves = workup.curves
        rows = [(h, float(x)) for h, grid in zip(curves.hypothesis.tolist(), curves.grid, strict=True) for x in grid]
        texts = [
            netlist(sheet, state, workup.hypotheses.fault(h, x))
            for h, x in random.Random(1).sample(rows, SAMPLE)
            for state in [next(reversed(sheet.states))]
        ]
        start = time.perf_counter()
        for text in texts:
            subprocess.run(["ngspice", "-b"], input=text, capture_output=True, text=True, check=False)
        points = curves.rows * len(sheet.states)
        reference = (time.perf_counter() - start) / len(texts) * points
        ratio = math.inf if mine == 0 else reference / mine
        print(f"{file.stem:14} {len(sheet.parts):5} {curves.rows:6} {points:7} {mine:8.2f} {reference:10.1f} {ratio:6.0f}x")


if __name__ == "__main__":
    main()
