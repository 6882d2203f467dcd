"""`pondrel wire`: a section for a load, and what one drop means."""

from __future__ import annotations

import json

import click

from ..core.base.quantity import parse_reading, show
from ..core.wiring.drop import STRETCHES, lost
from ..core.wiring.sizing import BUNDLES, Asked, sized

__all__ = ["wire"]


@click.group()
def wire() -> None:
    """Wires and joints by themselves."""


@wire.command("size")
@click.option("--length", required=True, type=float, help="Metres one way.")
@click.option("--amps", required=True, type=float, help="Lasting current.")
@click.option("--supply", default=12.6, help="Volts.")
@click.option("--drop", default=0.0, help="Volts that may be lost; 3 % of the supply where it is left out.")
@click.option("--both-ways", is_flag=True, help="The return is a wire as long, and not the body.")
@click.option("--bundle", default="by itself", help=f"How it lies: {', '.join(BUNDLES)}.")
@click.option("--celsius", default=30.0, help="How warm it is where it lies.")
@click.option("--json", "as_json", is_flag=True, help="Print JSON.")
def wire_size(length: float, amps: float, supply: float, drop: float, both_ways: bool, bundle: str, celsius: float, as_json: bool) -> None:
    """The section, its drop and the largest fuse for a length and a current."""
    found = sized(Asked(length, amps, supply, drop, both_ways, bundle, celsius))
    if as_json:
        rows = [
            {
                "section_mm2": c.section, "volts_lost": c.volts, "celsius": c.celsius, "carries_amps": c.carries, "fuse_amps": c.fuse,
                "largest_fuse_amps": c.largest, "against": c.against,
            }
            for c in found.choices
        ]  # fmt: skip
        chosen = found.chosen.section if found.chosen else None
        click.echo(json.dumps({"section_mm2": chosen, "says": found.says, "source": found.source, "choices": rows}, indent=2))
        return
    click.echo(found.says)
    for c in found.choices:
        told = c.against or f"fuse {c.fuse:g} A, {c.largest:g} A at most"
        click.echo(f"{c.section:>6g} mm²  {show(c.volts, 'V'):>9}  {c.carries:>6.1f} A  {told}")
    click.echo(f"Fuses: {found.source}.")


@wire.command("drop")
@click.option("--volts", required=True, help="Volts between the leads, as the meter shows them.")
@click.option("--amps", type=float, help="Current meanwhile.")
@click.option("--watts", type=float, help="Watts of the load instead.")
@click.option("--supply", default=12.6, help="Volts.")
@click.option("--stretch", default="wire or switch", help=f"What lies between the leads: {', '.join(STRETCHES)}.")
@click.option("--load", default="", help="What is fed: lamp, motor, solenoid or heater.")
@click.option("--json", "as_json", is_flag=True, help="Print JSON.")
def wire_drop(volts: str, amps: float | None, watts: float | None, supply: float, stretch: str, load: str, as_json: bool) -> None:
    """Ohms, heat, what is lost of the load, and a verdict for one drop."""
    read = parse_reading(volts, "V")
    found = lost(read.value, amps, watts, supply, stretch, load, read.resolution)
    if as_json:
        told = {
            "ohms": found.ohms,
            "watts": found.watts,
            "share_lost": found.share,
            "verdict": str(found.finding.verdict),
            "says": found.says,
        }
        click.echo(json.dumps(told, indent=2))
        return
    click.echo("\n".join(found.says))
