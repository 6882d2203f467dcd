"""The answers of the engine on every shipped sheet and on generated ones of each size, as they are kept in ``figures/``.

The kept ones were made by the engine of 0.17.0, which kept its rows in another way and worked out everything beforehand, with four things
put right in it first: slopes of curved parts exact and not within 2 %, tears halved thirty times and not ten, what is equal in the sheet's
order, and of an ohmmeter's ways through diodes the plain one where they are equal. Those of ``two_wire_bus`` and the
sheets behind it are of 0.20.0, whose bus parts fail in more ways; ``wired_cart_bus`` came with it. Made anew by
``python -m tests.core.isolate.answers`` where what is believed was changed on purpose.
"""

from __future__ import annotations

import gzip
import json
from collections.abc import Iterator
from pathlib import Path

from benchmarks.circuits import sheet_of_size
from pondrel.core.circuit.fault import Fault
from pondrel.core.circuit.measure import measure
from pondrel.core.circuit.read.sheet import parse_sheet
from pondrel.core.circuit.sheet import Sheet
from pondrel.core.evidence.items import Reading
from pondrel.core.isolate import Isolation, Workup, isolate
from pondrel.demo.load import SHEETS
from tests.circuits import reading_of

FIGURES = Path(__file__).parent / "figures" / "answers.json.gz"
_GENERATED = (20, 60, 150)
_LEAST = 1e-7  # what is less likely is not kept
_READINGS, _HIDDEN = 7, 3


def sheets() -> Iterator[tuple[str, Sheet]]:
    """Every shipped sheet, and generated ones."""
    for file in sorted(SHEETS.glob("*.yaml")):
        yield file.stem, parse_sheet(file.read_text(encoding="utf-8"))
    for size in _GENERATED:
        yield f"generated {size}", sheet_of_size(size)


def readings(sheet: Sheet, workup: Workup, hidden: int) -> tuple[Reading, ...]:
    """What a vehicle with the ``hidden``-th of a few faults spread over the sheet shows at tests spread over those on offer."""
    faults = [item for item in workup.hypotheses.items if item.part and item.mode]
    item = faults[(2 * hidden + 1) * len(faults) // (2 * _HIDDEN)]
    number = workup.hypotheses.items.index(item)
    grid = workup.hypotheses.severities[number]
    fault = Fault(item.part, item.mode, float(round(2.718281828 ** grid[len(grid) // 2], 4)) if item.swept else None)
    offered = [t for t in workup.offered if t.instrument in ("volts", "ohms", "clamp", "amps")]
    found = []
    for k in range(_READINGS):
        test = offered[((2 * k + 1) * len(offered) // (2 * _READINGS) + 3 * hidden) % len(offered)]
        shown = measure(sheet, test.state, test.instrument, test.red, test.black, (fault,)).text
        if shown != "live":
            text = "OL" if shown == "OL" else shown.partition(" ")[0] + shown.partition(" ")[2].rstrip("VΩA")
            found.append(reading_of(sheet, test.state, test.instrument, test.red, test.black, text))
    return tuple(found)


def answered(found: Isolation) -> dict[str, object]:
    """What is kept of an answer: what is likely, the log of the evidence, severities, what is proposed."""
    items, belief = found.belief.workup.hypotheses.items, found.belief
    return {
        "probability": {
            f"{item.part}.{item.mode}": round(float(p), 12) for item, p in zip(items, belief.probability, strict=True) if p >= _LEAST
        },
        "log_evidence": round(belief.log_evidence, 9),
        "groups": [list(group) for group in found.groups],
        "says": found.standing.says,
        "next": [[a.test.state, a.test.instrument, a.test.red, a.test.black, round(a.gain_bits, 7)] for a in found.next],
    }


def answers(name: str, sheet: Sheet) -> Iterator[tuple[str, Isolation]]:
    """Of one sheet: before any reading, and after each few of several vehicles."""
    workup = Workup(sheet)
    yield f"{name}: nothing read", isolate(workup, ())
    for hidden in range(_HIDDEN):
        items = readings(sheet, workup, hidden)
        for count in (2, len(items)):
            yield f"{name}: vehicle {hidden + 1}, {count} read", isolate(workup, items[:count])


def kept() -> dict[str, dict[str, object]]:
    """The kept figures."""
    with gzip.open(FIGURES, "rt", encoding="utf-8") as file:
        figures: dict[str, dict[str, object]] = json.load(file)
    return figures


def main() -> None:
    """Make the figures anew."""
    figures = {}
    for name, sheet in sheets():
        for title, found in answers(name, sheet):
            figures[title] = answered(found)
            print(title, found.standing.target, f"{found.standing.probability:.6f}")
    FIGURES.parent.mkdir(exist_ok=True)
    with FIGURES.open("wb") as raw, gzip.GzipFile("", "wb", mtime=0, fileobj=raw) as packed:
        packed.write(json.dumps(figures, indent=0, sort_keys=True).encode())


if __name__ == "__main__":
    main()
