"""The command line: everything the screens compute, as text or JSON. One file per group of commands, loaded when one of it is asked for.

Thin: reads files, calls the core, prints.
"""

from __future__ import annotations

from collections.abc import Mapping
from importlib import import_module

import click

from .. import __version__
from ..core.base.errors import PondrelError

__all__ = ["main"]

# By command: its module, its name there, and what `--help` says of it without loading the engine.
COMMANDS: Mapping[str, tuple[str, str, str]] = {
    "sheet": ("sheets", "sheet", "Circuit sheets."),
    "bench": ("bench", "bench", "A component judged by itself."),
    "power": ("power", "power", "Starting and charging judged from readings and captures."),
    "wave": ("waves", "wave", "Captures measured, judged, and read as data lines."),
    "bus": ("buses", "bus", "Logs of network buses read, decoded, looked through and converted."),
    "module": ("modules", "module", "Control modules asked, moved and cleared; chains of conditions."),
    "wire": ("wires", "wire", "A section for a load, and what one drop means."),
    "solve": ("circuits", "solve_command", "Volts at every place and amperes in every part."),
    "measure": ("circuits", "measure_command", "What an instrument shows on a sheet."),
    "transient": ("circuits", "transient_command", "Follow a sheet in time: delays, currents, pulsing."),
    "spice": ("circuits", "spice_command", "Print a SPICE netlist that `ngspice -b` runs."),
    "isolate": ("isolation", "isolate_command", "Rank the faults that explain the readings."),
    "trial": ("isolation", "trial_command", "Let the adviser run at hidden faults."),
    "codes": ("jobs", "codes", "Fault codes."),
    "job": ("jobs", "job", "Show, export and import jobs, make and check their reports."),
    "standin": ("standins", "standin", "Simulated instruments on a loopback port."),
    "demo": ("server", "demo_command", "Load the made-up depot."),
    "serve": ("server", "serve_command", "Serve the application (waitress)."),
}


class _Group(click.Group):
    """Loads a command's module when it is asked for; shows a user-mendable error as its one sentence, exit 1."""

    def list_commands(self, ctx: click.Context) -> list[str]:
        return list(COMMANDS)

    def get_command(self, ctx: click.Context, name: str) -> click.Command | None:
        if name not in COMMANDS:
            return None
        module, own, _ = COMMANDS[name]
        command = getattr(import_module(f"{__name__}.{module}"), own)
        assert isinstance(command, click.Command)
        return command

    def format_commands(self, ctx: click.Context, formatter: click.HelpFormatter) -> None:
        with formatter.section("Commands"):
            formatter.write_dl([(name, says) for name, (_, _, says) in COMMANDS.items()])

    def invoke(self, ctx: click.Context) -> object:
        try:
            return super().invoke(ctx)
        except PondrelError as error:
            raise click.ClickException(str(error)) from None


@click.group(cls=_Group)
@click.version_option(__version__, prog_name="pondrel")
def main() -> None:
    """Pondrel isolates the one faulty part or joint of a vehicle circuit from meter readings."""
