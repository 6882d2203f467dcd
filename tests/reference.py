"""ngspice (Debian's package), the reference program, and its answers as numbers."""

from __future__ import annotations

import re
import shutil
import subprocess

import numpy as np
import pytest

from pondrel.core.circuit.fault import Fault
from pondrel.core.circuit.network import Network
from pondrel.core.circuit.sheet import Sheet
from pondrel.core.circuit.spice import netlist, transient_netlist

needs_ngspice = pytest.mark.skipif(shutil.which("ngspice") is None, reason="ngspice is not installed; make test installs it")


def run(text: str) -> str:
    done = subprocess.run(["ngspice", "-b"], input=text, capture_output=True, text=True, timeout=120, check=False)
    return done.stdout + done.stderr


def ngspice_volts(sheet: Sheet, state: str, faults: tuple[Fault, ...] = ()) -> dict[str, float] | None:
    """Node volts by ngspice, the mean over what a pulsed output does; None where it finds no operating point."""
    phases = Network.of(sheet).positions(state)
    found = [_phase_volts(sheet, state, faults, phase) for phase in range(len(phases))]
    if None in found:
        return None
    return {node: sum(share * volts[node] for (share, _), volts in zip(phases, found, strict=True)) for node in found[0]}


HINT = re.compile(r"^(\.nodeset v\(\w+\)=)(\S+)$", re.M)


def _phase_volts(sheet: Sheet, state: str, faults: tuple[Fault, ...], phase: int) -> dict[str, float] | None:
    text, nodes = netlist(sheet, state, faults, phase), Network.of(sheet).nodes
    # A .nodeset is where the simulator looks first and no more: where it finds nothing there, it looks near the highest source's volts.
    highest = max((float(value) for _, value in HINT.findall(text)), default=0.0)
    for start in (text, HINT.sub(rf"\g<1>{highest - 0.5}", text)):
        found = {int(n) - 1: float(v) for n, v in re.findall(r"^v\(n(\d+)\) = (\S+)", run(start), re.M)}
        if len(found) == len(nodes):
            return {nodes[i]: v for i, v in found.items()}
    return None


def ngspice_trace(
    sheet: Sheet, steps: tuple[tuple[float, str], ...], until: float, faults: tuple[Fault, ...] = (), grid: int = 400
) -> dict[str, np.ndarray]:
    """(grid + 1,) volts of every node at even times; nothing where the simulator gave up on the way."""
    nodes = Network.of(sheet).nodes
    columns: list[str] = []
    found: dict[str, dict[int, float]] = {}
    said = run(transient_netlist(sheet, steps, until, faults, grid))
    for line in [] if "aborted" in said else said.splitlines():
        words = line.split()
        if words[:1] == ["Index"]:
            columns = [nodes[int(re.sub(r"\D", "", word)) - 1] for word in words[1:]]
        elif columns and len(words) == len(columns) + 1 and words[0].isdigit():
            for column, value in zip(columns, words[1:], strict=True):
                found.setdefault(column, {})[int(words[0])] = float(value)
    return {node: np.array([values[i] for i in sorted(values)]) for node, values in found.items()}
