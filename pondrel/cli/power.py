"""`pondrel power`: starting and charging judged from readings, and captures of them."""

from __future__ import annotations

import click

from ..core.power import POWER
from .judging import judging

__all__ = ["power"]


@click.group()
def power() -> None:
    """Starting and charging: battery, crank, charge, draw, belt."""


for _family in POWER.values():
    power.add_command(judging(_family))
