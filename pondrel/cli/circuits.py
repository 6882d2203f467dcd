"""`pondrel solve`, `measure`, `transient` and `spice`: what a circuit does."""

from __future__ import annotations

import json

import click

from ..core.base.quantity import show
from ..core.circuit.fault import parse_fault
from ..core.circuit.measure import measure
from ..core.circuit.solve import solve
from ..core.circuit.spice import netlist, transient_netlist
from ..core.circuit.transient import parse_step, transient
from ..core.circuit.unplug import unplugged
from ..core.meter.instrument import INSTRUMENTS
from .files import sheet_in

__all__ = ["measure_command", "solve_command", "spice_command", "transient_command"]


@click.command("solve")
@click.argument("file")
@click.option("--state", required=True, help="A state of the sheet.")
@click.option("--fault", "faults", multiple=True, help="PART.MODE or PART.MODE=VALUE; may be given more than once.")
@click.option("--json", "as_json", is_flag=True, help="Print JSON.")
def solve_command(file: str, state: str, faults: tuple[str, ...], as_json: bool) -> None:
    """Volts at every place and amperes in every part, in a state, with faults if any."""
    circuit = sheet_in(file)
    point = solve(circuit, state, tuple(parse_fault(circuit, text) for text in faults))
    if as_json:
        click.echo(json.dumps(point.as_json(), indent=2))
        return
    width = max(len(name) for name in (*point.places, *point.currents))
    for place, volts in point.places.items():
        click.echo(f"{place:{width}}  {show(volts, 'V'):>10}")
    for part, amps in point.currents.items():
        click.echo(f"{part:{width}}  {show(amps, 'A'):>10}")
    for part, sights in point.sights.items():
        click.echo("\n".join(f"{part}: {sight.says}" for sight in sights))
    for note in point.notes:
        click.echo(note)


@click.command("measure")
@click.argument("file")
@click.option("--state", required=True, help="A state of the sheet.")
@click.option("--instrument", required=True, help=f"{', '.join(INSTRUMENTS)}.")
@click.option("--red", required=True)
@click.option("--black", default="", help="Battery minus if left out.")
@click.option("--fault", "faults", multiple=True, help="PART.MODE or PART.MODE=VALUE; may be given more than once.")
@click.option("--live", is_flag=True, help="Leave the battery on for an ohmmeter.")
@click.option("--without", default="", help="Plugs and parts unplugged meanwhile, such as 'C2, K1', or 'Y1 alone'.")
@click.option("--json", "as_json", is_flag=True, help="Print JSON.")
def measure_command(
    file: str, state: str, instrument: str, red: str, black: str, faults: tuple[str, ...], live: bool, without: str, as_json: bool
) -> None:
    """What an instrument shows on a sheet, with its uncertainty and what it does to the circuit."""
    circuit = sheet_in(file)
    wrong = tuple(parse_fault(circuit, text) for text in faults)
    off = unplugged(circuit, without) if without else ()
    shown = measure(circuit, state, instrument, red, black, wrong, battery_off=not live, without=off)
    if as_json:
        click.echo(json.dumps(shown.as_json()))
        return
    click.echo("\n".join([shown.text, *shown.notes]))


@click.command("transient")
@click.argument("file")
@click.option("--step", "steps", multiple=True, required=True, help="SECONDS:STATE; the first is where it starts, at rest.")
@click.option("--until", required=True, type=float, help="End in seconds.")
@click.option("--fault", "faults", multiple=True, help="PART.MODE or PART.MODE=VALUE; may be given more than once.")
@click.option("--json", "as_json", is_flag=True, help="Print JSON: times, volts by node, amperes by part, events.")
@click.option("--spice", is_flag=True, help="Print a SPICE netlist of the same run instead.")
def transient_command(file: str, steps: tuple[str, ...], until: float, faults: tuple[str, ...], as_json: bool, spice: bool) -> None:
    """Follow a sheet in time: delays, coil currents, spikes, pulsing."""
    circuit = sheet_in(file)
    wrong = tuple(parse_fault(circuit, text) for text in faults)
    way = tuple(parse_step(text) for text in steps)
    trace = transient(circuit, way, until, wrong)
    if spice:
        click.echo(transient_netlist(circuit, way, until, wrong), nl=False)
    elif as_json:
        click.echo(json.dumps(trace.as_json()))
    else:
        for time, says in trace.events:
            click.echo(f"{show(time, 's'):>10}  {says}")
        for place in circuit.places:
            series = trace.volts[place]
            least, most, last = (show(float(v), "V") for v in (series.min(), series.max(), series[-1]))
            click.echo(f"{place}: {least} to {most}, at the end {last}")


@click.command("spice")
@click.argument("file")
@click.option("--state", required=True, help="A state of the sheet.")
@click.option("--fault", "faults", multiple=True, help="PART.MODE or PART.MODE=VALUE; may be given more than once.")
def spice_command(file: str, state: str, faults: tuple[str, ...]) -> None:
    """Print a SPICE netlist that `ngspice -b` runs unchanged."""
    circuit = sheet_in(file)
    click.echo(netlist(circuit, state, tuple(parse_fault(circuit, text) for text in faults)), nl=False)
