"""ngspice (Debian's package), the reference program, and its answers as numbers."""

from __future__ import annotations

import re

import numpy as np
import pytest

from pondrel.core.circuit.fault import Fault
from pondrel.core.circuit.network import Network
from pondrel.core.circuit.sheet import Sheet
from pondrel.core.circuit.spice import transient_netlist
from pondrel.trial.ngspice import installed, simulated, volts_of

needs_ngspice = pytest.mark.skipif(not installed(), reason="ngspice is not installed; make test installs it")


def ngspice_volts(sheet: Sheet, state: str, faults: tuple[Fault, ...] = ()) -> dict[str, float] | None:
    """Node volts by ngspice; None where it finds no operating point."""
    return volts_of(sheet, [(state, faults)])[0]


def ngspice_trace(
    sheet: Sheet, steps: tuple[tuple[float, str], ...], until: float, faults: tuple[Fault, ...] = (), grid: int = 400
) -> dict[str, np.ndarray]:
    """(grid + 1,) volts of every node at even times; nothing where the simulator gave up on the way."""
    nodes = Network.of(sheet).nodes
    columns: list[str] = []
    found: dict[str, dict[int, float]] = {}
    said = simulated(transient_netlist(sheet, steps, until, faults, grid))
    for line in [] if "aborted" in said else said.splitlines():
        words = line.split()
        if words[:1] == ["Index"]:
            columns = [nodes[int(re.sub(r"\D", "", word)) - 1] for word in words[1:]]
        elif columns and len(words) == len(columns) + 1 and words[0].isdigit():
            for column, value in zip(columns, words[1:], strict=True):
                found.setdefault(column, {})[int(words[0])] = float(value)
    return {node: np.array([values[i] for i in sorted(values)]) for node, values in found.items()}
