"""`pondrel standin`: simulated instruments on a loopback port."""

from __future__ import annotations

import threading
from contextlib import ExitStack
from importlib import resources
from pathlib import Path

import click

from ..core.bench.written import pair_of
from ..core.bus.database import database_from
from ..core.bus.frames import joined
from ..core.circuit.fault import parse_fault
from ..core.circuit.read.sheet import parse_sheet
from ..core.making.typical import made, typical_called
from ..core.module.roster import Speaks
from ..logs.reading import LogFile
from ..standins.bus import BusServer, Rhythm, silent_senders
from ..standins.hidden import hidden_world
from ..standins.meter import Meter
from ..standins.modules.life import Life
from ..standins.modules.messages import Messages
from ..standins.modules.on_bus import ModulesOnBus
from ..standins.modules.on_line import KLineServer
from ..standins.scpi import Scpi
from ..standins.server import InstrumentServer
from ..standins.world import World
from .files import roster_in, sheet_in

__all__ = ["standin"]

USUAL_SHEET = "step_lights.yaml"


@click.group()
def standin() -> None:
    """Stand-in instruments."""


def _life(roster_file: str | None, world: World, silent: tuple[str, ...], facts: tuple[str, ...]) -> Life | None:
    """What the modules of a roster know of the vehicle; None where it has none."""
    if roster_file is None:
        return None
    life = Life(roster_in(roster_file), world, silent=silent)
    for text in facts:
        name, value = pair_of(text, "a fact such as speed=0")
        life.set(name, value)
    return life


def _modules(
    life: Life, bus: BusServer, kline_port: int, renewed: tuple[str, ...], running: ExitStack, messages: str | None
) -> None:  # fmt: skip
    on_bus = ModulesOnBus(life, bus.send)
    for name in renewed:
        on_bus.renew(name)
    bus.hearers.append(on_bus.heard)
    on_bus.start()
    running.callback(on_bus.stop)
    if messages is not None:
        said = Messages(life, messages, on_bus.units, bus.send)
        said.start()
        running.callback(said.stop)
    click.echo(f"{len(life.roster.modules)} modules: {', '.join(module.title for module in life.roster.modules.values())}.")
    if any(module.speaks is Speaks.KLINE for module in life.roster.modules.values()):
        try:
            line = running.enter_context(KLineServer(life, kline_port))
        except OSError as error:
            raise click.ClickException(f"Port {kline_port} cannot be used ({error.strerror}): choose another with --kline-port.") from None
        threading.Thread(target=line.serve_forever, daemon=True).start()
        click.echo(f"Its K-line is at kline:rfc2217://127.0.0.1:{line.port}.")


def _bus(log: Path | None, database: Path | None, port: int, world: World) -> BusServer:
    """The vehicle's bus: a log said again, where there is one; modules of the circuit that do not answer are silent, where a database says
    who they are."""
    frames = joined(list(LogFile(log))) if log is not None else None
    senders: dict[int, list[str]] = {}
    if database is not None:
        try:
            known = database_from(database.read_bytes(), database.name)
        except OSError as error:
            raise click.ClickException(f"{database} cannot be read: {error.strerror}.") from None
        senders = {message.frame_id: list(message.senders) for message in known.messages}
    names = sorted({name for own in senders.values() for name in own})
    try:
        return BusServer(Rhythm(frames, senders), port, lambda: silent_senders(world, names))
    except OSError as error:
        raise click.ClickException(f"Port {port} cannot be used ({error.strerror}): choose another with --bus-port.") from None


@standin.command()
@click.option("--sheet", "file", type=click.Path(), help="The circuit under test; one of the demo where it is left out.")
@click.option("--typical", default="", help="Or a typical circuit by its name, such as starter or alternator.")
@click.option(
    "--set", "given", multiple=True, metavar="THING.WHAT=ANSWER", help="An answer for the typical circuit, as circuit.volts='24 V'."
)
@click.option("--fault", "faults", multiple=True, help="PART.MODE or PART.MODE=VALUE; may be given more than once.")
@click.option("--hidden", type=int, metavar="SEED", help="Hide one of the sheet's faults.")
@click.option("--state", default="", help="The state that it stands in; the first of the sheet where it is left out.")
@click.option("--meter-port", type=click.IntRange(0, 65535), default=5025, show_default=True, help="The meter's port; 0 for a free one.")
@click.option("--bus", "bus_log", type=click.Path(path_type=Path), help="A log that its bus says again, round and round.")
@click.option(
    "--bus-db",
    "bus_database",
    type=click.Path(path_type=Path),
    help="The signal database: who sends what. Without a log, messages follow the circuit.",
)
@click.option("--bus-port", type=click.IntRange(0, 65535), default=29536, show_default=True, help="The bus's port; 0 for a free one.")
@click.option("--modules", "roster_file", type=click.Path(), help="A roster: its modules answer a tester on the bus and on the K-line.")
@click.option("--silent", multiple=True, metavar="MODULE", help="A module that does not answer, whatever its supply.")
@click.option("--renewed", multiple=True, metavar="MODULE", help="A module that was renewed and is not yet taught.")
@click.option("--fact", "facts", multiple=True, metavar="NAME=NUMBER", help="What no circuit tells, as in speed=0.")
@click.option("--kline-port", type=click.IntRange(0, 65535), default=29540, show_default=True, help="The K-line's port; 0 for a free one.")
@click.option("--seed", type=int, default=0, help="Where within its accuracy the meter stands, and its noise.")
def vehicle(
    file: str | None,
    typical: str,
    given: tuple[str, ...],
    faults: tuple[str, ...],
    hidden: int | None,
    state: str,
    meter_port: int,
    bus_log: Path | None,
    bus_database: Path | None,
    bus_port: int,
    roster_file: str | None,
    silent: tuple[str, ...],
    renewed: tuple[str, ...],
    facts: tuple[str, ...],
    kline_port: int,
    seed: int,
) -> None:
    """Start the simulated vehicle until it is stopped: its meter speaks SCPI, its bus socketcand, its modules UDS and OBD on that bus, and
    ISO 14230 on a K-line (a serial port on the network, RFC 2217)."""
    if file and typical:
        raise click.ClickException("Give --sheet or --typical, not both.")
    if typical:
        answers = dict(pair_of(text, "an answer such as circuit.volts='24 V'") for text in given)
        circuit = parse_sheet(made(typical_called(typical), answers))
    elif file:
        circuit = sheet_in(file)
    else:
        circuit = parse_sheet((resources.files("pondrel.demo") / "sheets" / USUAL_SHEET).read_text(encoding="utf-8"))
    if hidden is not None and faults:
        raise click.ClickException("Give --fault or --hidden, not both.")
    world = hidden_world(circuit, hidden) if hidden is not None else World(circuit, tuple(parse_fault(circuit, text) for text in faults))
    if state:
        world.turn(state)
    life = _life(roster_file, world, silent, facts)
    try:
        server = InstrumentServer(Scpi(Meter(world, seed), life=life), meter_port)
    except OSError as error:
        raise click.ClickException(f"Port {meter_port} cannot be used ({error.strerror}): choose another with --meter-port.") from None
    with ExitStack() as running:
        running.enter_context(server)
        click.echo(f"{circuit.title}: the meter is at {server.address}")
        if bus_log is not None or life is not None:
            bus = running.enter_context(_bus(bus_log, bus_database, bus_port, world))
            threading.Thread(target=bus.serve_forever, daemon=True).start()
            click.echo(f"Its bus is at 127.0.0.1 port {bus.port}, channel can0, by socketcand.")
            if life is not None:
                own = bus_database.read_text(encoding="utf-8", errors="replace") if bus_database is not None and bus_log is None else None
                _modules(life, bus, kline_port, renewed, running, own)
        click.echo(
            'Probes: ROUTe:PROBes "place","place"; states: ROUTe:STATe "state"; what is seen and heard: ROUTe:SIGHts?.\n'
            "The display settles within a second after the probes were moved. Ctrl-C stops it."
        )
        try:
            server.serve_forever()
        except KeyboardInterrupt:
            click.echo("Stopped.")
