"""ngspice (Debian's package), the reference program, and its answers as numbers."""

from __future__ import annotations

import re
import shutil
import subprocess
import tempfile
from pathlib import Path

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


Case = tuple[str, tuple[Fault, ...]]  # a state and what is wrong
BATCH = 60  # circuits that one process solves in turn


def ngspice_volts(sheet: Sheet, state: str, faults: tuple[Fault, ...] = ()) -> dict[str, float] | None:
    """Node volts by ngspice, the mean over what a pulsed output does; None where it finds no operating point."""
    return ngspice_volts_of(sheet, [(state, faults)])[0]


def ngspice_volts_of(sheet: Sheet, cases: list[Case]) -> list[dict[str, float] | None]:
    """As `ngspice_volts`, of many cases: one process solves a batch of them, one circuit after another."""
    network = Network.of(sheet)
    phases = [(number, phase) for number, (state, _) in enumerate(cases) for phase in range(len(network.positions(state)))]
    texts = [netlist(sheet, *cases[number], phase) for number, phase in phases]
    found = _solved(texts, network.nodes)
    # A .nodeset is where the simulator looks first and no more: where it finds nothing there, it looks near the highest source's volts.
    left = [i for i, volts in enumerate(found) if volts is None]
    for i, volts in zip(left, _solved([_from_above(texts[i]) for i in left], network.nodes), strict=True):
        found[i] = volts
    answers: list[dict[str, float] | None] = []
    for number, (state, _) in enumerate(cases):
        own = [volts for (n, _), volts in zip(phases, found, strict=True) if n == number]
        shares = [share for share, _ in network.positions(state)]
        known = [volts for volts in own if volts is not None]
        mean = (
            {node: sum(s * volts[node] for s, volts in zip(shares, known, strict=True)) for node in known[0]}
            if len(known) == len(own)
            else None
        )
        answers.append(mean)
    return answers


HINT = re.compile(r"^(\.nodeset v\(\w+\)=)(\S+)$", re.M)


def _from_above(text: str) -> str:
    highest = max((float(value) for _, value in HINT.findall(text)), default=0.0)
    return HINT.sub(rf"\g<1>{highest - 0.5}", text)


def _solved(texts: list[str], nodes: tuple[str, ...]) -> list[dict[str, float] | None]:
    batches = [texts[i : i + BATCH] for i in range(0, len(texts), BATCH)]
    return [volts for batch in batches for volts in _solved_in_turn(batch, nodes)]


def _solved_in_turn(texts: list[str], nodes: tuple[str, ...]) -> list[dict[str, float] | None]:
    """Each circuit is a file that one process sources, solves and forgets before the next: none can see what another came to."""
    with tempfile.TemporaryDirectory() as folder:
        script = ["* one after another", ".control", "set numdgt=10"]
        for i, text in enumerate(texts):
            head, _, control = text.partition(".control")
            (Path(folder) / f"{i}.cir").write_text(f"{head}.end\n")
            prints = [line for line in control.splitlines() if line.startswith("print ")]
            script += [f"source {folder}/{i}.cir", f"echo case {i}", "op", *prints, "destroy all", "remcirc"]
        said = run("\n".join([*script, "quit", ".endc", ".end", ""]))
    found: list[dict[str, float] | None] = [None] * len(texts)
    for part in said.split("case ")[1:]:
        number, _, rest = part.partition("\n")
        volts = {int(n) - 1: float(v) for n, v in re.findall(r"^v\(n(\d+)\) = (\S+)", rest, re.M)}
        if len(volts) == len(nodes):
            found[int(number)] = {nodes[i]: v for i, v in volts.items()}
    return found


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
