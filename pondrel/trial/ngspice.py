"""ngspice, a general circuit simulator, asked for operating points: the other opinion on what a circuit does."""

from __future__ import annotations

import re
import shutil
import subprocess
import tempfile
from collections.abc import Sequence
from pathlib import Path

from ..core.base.errors import PondrelError
from ..core.circuit.fault import Fault
from ..core.circuit.network import Network
from ..core.circuit.sheet import Sheet
from ..core.circuit.spice import netlist

__all__ = ["NOT_INSTALLED", "installed", "simulated", "volts_of"]

Case = tuple[str, tuple[Fault, ...]]  # a state and what is wrong
NOT_INSTALLED = "ngspice is not installed: install it with 'apt-get install ngspice' and try again."
_BATCH = 60  # circuits that one process solves in turn
_PATIENCE_SECONDS = 120
_BELOW_HIGHEST = (0.5, 0.1, 1.0)  # volts
_HINT = re.compile(r"^(\.nodeset v\(\w+\)=)(\S+)$", re.M)


def installed() -> bool:
    """Whether the simulator is on this machine."""
    return shutil.which("ngspice") is not None


def simulated(text: str) -> str:
    """What the simulator says of a netlist. Raises PondrelError where it is not installed."""
    if not installed():
        raise PondrelError(NOT_INSTALLED)
    done = subprocess.run(["ngspice", "-b"], input=text, capture_output=True, text=True, timeout=_PATIENCE_SECONDS, check=False)
    return done.stdout + done.stderr


def volts_of(sheet: Sheet, cases: Sequence[Case]) -> list[dict[str, float] | None]:
    """Node volts of many cases, the mean over what a pulsed output does, None where there is no operating point; one process solves a batch
    of them, one circuit after another."""
    network = Network.of(sheet)
    positions = [network.at(state).positions(state) for state, _ in cases]
    phases = [(number, phase) for number, every in enumerate(positions) for phase in range(len(every))]
    texts = [netlist(sheet, *cases[number], phase) for number, phase in phases]
    found = _solved(texts, network.nodes)
    # A .nodeset is where the simulator looks first and no more: where it finds nothing there, it looks near the highest source's volts.
    for below in _BELOW_HIGHEST:
        left = [i for i, volts in enumerate(found) if volts is None]
        for i, volts in zip(left, _solved([_from_above(texts[i], below) for i in left], network.nodes), strict=True):
            found[i] = volts
    answers: list[dict[str, float] | None] = []
    for number, every in enumerate(positions):
        own = [volts for (n, _), volts in zip(phases, found, strict=True) if n == number]
        shares = [share for share, _ in every]
        known = [volts for volts in own if volts is not None]
        mean = (
            {node: sum(s * volts[node] for s, volts in zip(shares, known, strict=True)) for node in known[0]}
            if len(known) == len(own)
            else None
        )
        answers.append(mean)
    return answers


def _from_above(text: str, below: float) -> str:
    highest = max((float(value) for _, value in _HINT.findall(text)), default=0.0)
    return _HINT.sub(rf"\g<1>{highest - below}", text)


def _solved(texts: list[str], nodes: tuple[str, ...]) -> list[dict[str, float] | None]:
    batches = [texts[i : i + _BATCH] for i in range(0, len(texts), _BATCH)]
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
        said = simulated("\n".join([*script, "quit", ".endc", ".end", ""]))
    found: list[dict[str, float] | None] = [None] * len(texts)
    for part in said.split("case ")[1:]:
        number, _, rest = part.partition("\n")
        volts = {int(n) - 1: float(v) for n, v in re.findall(r"^v\(n(\d+)\) = (\S+)", rest, re.M)}
        if len(volts) == len(nodes):
            found[int(number)] = {nodes[i]: v for i, v in volts.items()}
    return found
