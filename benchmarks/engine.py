"""What `pondrel isolate` takes from its start to its answer, in processor time and memory: the first ranking of circuits of several sizes,
and of one small circuit after many readings. With ``--beside FOLDER`` an older checkout does the same in the same run.

Every run is a process of its own, so that start-up counts and nothing is left from the one before. What a version refuses is said.
"""

from __future__ import annotations

import argparse
import os
import subprocess
import sys
import tempfile
from dataclasses import dataclass
from pathlib import Path

from pondrel.core.circuit.fault import Fault
from pondrel.core.circuit.measure import measure
from pondrel.core.circuit.read.sheet import parse_sheet
from pondrel.core.evidence.asked import Measurement

from .circuits import text_of_size

__all__ = ["main"]

SIZES, READINGS, READ_ON = (20, 60, 150, 300), (0, 30, 100, 300), 20


@dataclass(frozen=True)
class Taken:
    """Processor seconds and megabytes at the peak of one process, and what it said if it refused."""

    seconds: float
    megabytes: float
    refused: str = ""

    def __str__(self) -> str:
        return self.refused[:24] if self.refused else f"{self.seconds:8.2f} s {self.megabytes:8.0f} MB"


def taken(folder: Path, sheet: Path, readings: Path | None = None) -> Taken:
    """What ranking a sheet takes with the code of a folder."""
    command = [sys.executable, "-m", "pondrel", "isolate", str(sheet), "--json"]
    command += ["--readings", str(readings)] if readings else []
    # What is compiled once and for all on any machine is no part of it.
    environment = {**os.environ, "PYTHONPATH": str(folder), "OPENBLAS_NUM_THREADS": "1", "PYTHONDONTWRITEBYTECODE": ""}
    environment["PYTHONPYCACHEPREFIX"] = str(sheet.parent / "compiled")
    with tempfile.TemporaryFile() as said:
        process = subprocess.Popen(command, cwd=folder, env=environment, stdout=subprocess.DEVNULL, stderr=said)
        _, status, used = os.wait4(process.pid, 0)
        process.returncode = os.waitstatus_to_exitcode(status)
        said.seek(0)
        words = said.read().decode(errors="replace").strip().splitlines()
    refused = (words or ["it stopped"])[-1] if process.returncode else ""
    return Taken(used.ru_utime + used.ru_stime, used.ru_maxrss / 1024, refused)


def readings_of(text: str, count: int) -> str:
    """CSV of so many volts and ohms on a sheet's text, place by place and again from the start, with one wire bad."""
    sheet = parse_sheet(text)
    wire = next(name for name, part in reversed(sheet.parts.items()) if part.kind.name == "wire")
    tests = [
        Measurement(state, instrument, place, sheet.minus)
        for instrument in ("volts", "ohms")
        for state in sheet.states
        for place in sheet.places
        if place != sheet.minus and (instrument, place) != ("ohms", sheet.plus)
    ]
    lines = ["state,instrument,red,black,value"]
    for k in range(count):
        test = tests[k % len(tests)]
        shown = measure(sheet, test.state, test.instrument, test.red, test.black, (Fault(wire, "high_resistance", 0.5),)).text
        value = "OL" if shown == "OL" else shown.partition(" ")[0] + shown.partition(" ")[2].rstrip("VΩA")
        lines.append(f"{test.state},{test.instrument},{test.red},{test.black},{value}")
    return "\n".join(lines)


def main() -> None:
    """Print the tables."""
    parser = argparse.ArgumentParser(description=__doc__)
    parser.add_argument("--beside", type=Path, help="a checkout of an older version")
    folders = [Path(__file__).parent.parent, *filter(None, [parser.parse_args().beside])]
    names = [_version(folder) for folder in folders]
    with tempfile.TemporaryDirectory() as place:
        sheet, readings = Path(place) / "sheet.yaml", Path(place) / "readings.csv"
        sheet.write_text(text_of_size(SIZES[0]), encoding="utf-8")
        for folder in folders:
            taken(folder.resolve(), sheet)
        print("first ranking, from start to answer")
        print(f"{'parts':>9} " + " ".join(f"{name:>22}" for name in names))
        for size in SIZES:
            sheet.write_text(text_of_size(size), encoding="utf-8")
            print(f"{size:9} " + " ".join(f"{taken(folder.resolve(), sheet)!s:>22}" for folder in folders), flush=True)
        print(f"\n{READ_ON} parts after readings, from start to answer")
        print(f"{'readings':>9} " + " ".join(f"{name:>22}" for name in names))
        text = text_of_size(READ_ON)
        sheet.write_text(text, encoding="utf-8")
        for count in READINGS:
            readings.write_text(readings_of(text, count), encoding="utf-8")
            print(f"{count:9} " + " ".join(f"{taken(folder.resolve(), sheet, readings)!s:>22}" for folder in folders), flush=True)


def _version(folder: Path) -> str:
    text = (folder / "pondrel" / "__init__.py").read_text(encoding="utf-8")
    return text.partition('__version__ = "')[2].partition('"')[0] or folder.name


if __name__ == "__main__":
    main()
