"""A simulated vehicle with modules, served for a test: its bus by socketcand, its K-line by RFC 2217."""

from __future__ import annotations

import threading
from collections.abc import Iterator, Sequence
from contextlib import contextmanager
from dataclasses import dataclass

from pondrel.core.circuit.fault import parse_fault
from pondrel.core.circuit.read.sheet import parse_sheet
from pondrel.core.module.roster import Roster, parse_roster
from pondrel.demo.load import ROSTERS, SHEETS
from pondrel.standins.bus import BusServer, Rhythm
from pondrel.standins.modules.life import Life
from pondrel.standins.modules.on_bus import ModulesOnBus
from pondrel.standins.modules.on_line import KLineServer
from pondrel.standins.world import World

__all__ = ["Served", "roster_named", "served"]


@dataclass
class Served:
    """A vehicle that is served: its world, what its modules know, the modules on its bus, and the addresses."""

    world: World
    life: Life
    modules: ModulesOnBus
    bus: str
    kline: str
    server: BusServer


def roster_named(name: str) -> Roster:
    """A roster of the demo by its file's name."""
    return parse_roster((ROSTERS / f"{name}.yaml").read_text())


@contextmanager
def served(
    roster: Roster, sheet: str = "step_lights", faults: Sequence[str] = (), state: str = "", silent: Sequence[str] = (),
    rhythm: Rhythm | None = None, speaks_9141: bool = False,
) -> Iterator[Served]:  # fmt: skip
    """Serve one until the block ends."""
    drawn = parse_sheet((SHEETS / f"{sheet}.yaml").read_text())
    world = World(drawn, tuple(parse_fault(drawn, text) for text in faults))
    if state:
        world.turn(state)
    life = Life(roster, world, silent=silent)
    with BusServer(rhythm or Rhythm()) as bus, KLineServer(life, speaks_9141=speaks_9141) as line:
        modules = ModulesOnBus(life, bus.send)
        bus.hearers.append(modules.heard)
        modules.start()
        for server in (bus, line):
            threading.Thread(target=server.serve_forever, daemon=True).start()
        address, wire = f"socketcand://127.0.0.1:{bus.port}/can0", f"kline:rfc2217://127.0.0.1:{line.port}"
        yield Served(world, life, modules, address, wire, bus)
        modules.stop()
        bus.shutdown()
        line.shutdown()
