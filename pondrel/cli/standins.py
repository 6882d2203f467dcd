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
from ..logs.reading import LogFile
from ..standins.bus import BusServer, Rhythm, silent_senders
from ..standins.hidden import hidden_world
from ..standins.meter import Meter
from ..standins.scpi import Scpi
from ..standins.server import InstrumentServer
from ..standins.world import World
from .files import sheet_in

__all__ = ["standin"]

USUAL_SHEET = "step_lights.yaml"


@click.group()
def standin() -> None:
    """Stand-in instruments."""


def _bus(log: Path, database: Path | None, port: int, world: World) -> BusServer:
    """The vehicle's bus: a log said again; modules of the circuit that do not answer are silent, where a database says who they are."""
    frames = joined(list(LogFile(log)))
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
@click.option("--bus-db", "bus_database", type=click.Path(path_type=Path), help="The signal database of that log: who sends what.")
@click.option("--bus-port", type=click.IntRange(0, 65535), default=29536, show_default=True, help="The bus's port; 0 for a free one.")
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
    seed: int,
) -> None:
    """Start the simulated vehicle with its meter, which speaks SCPI, and its bus, which speaks socketcand, until it is stopped."""
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
    try:
        server = InstrumentServer(Scpi(Meter(world, seed)), meter_port)
    except OSError as error:
        raise click.ClickException(f"Port {meter_port} cannot be used ({error.strerror}): choose another with --meter-port.") from None
    with ExitStack() as running:
        running.enter_context(server)
        click.echo(f"{circuit.title}: the meter is at {server.address}")
        if bus_log is not None:
            bus = running.enter_context(_bus(bus_log, bus_database, bus_port, world))
            threading.Thread(target=bus.serve_forever, daemon=True).start()
            click.echo(f"Its bus is at 127.0.0.1 port {bus.port}, channel can0, by socketcand.")
        click.echo(
            'Probes: ROUTe:PROBes "place","place"; states: ROUTe:STATe "state"; what is seen and heard: ROUTe:SIGHts?.\n'
            "The display settles within a second after the probes were moved. Ctrl-C stops it."
        )
        try:
            server.serve_forever()
        except KeyboardInterrupt:
            click.echo("Stopped.")
