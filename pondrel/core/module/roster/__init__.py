"""What a workshop knows of a vehicle's modules, as open data: who there is, how each is spoken to, what its numbers mean."""

from .read import FORMAT, parse_roster, parse_roster_if_one
from .roster import Command, Datum, Module, ModuleCode, Output, PinLink, Roster, RosterError, Routine, Speaks, StayTest

__all__ = [
    "FORMAT", "Command", "Datum", "Module", "ModuleCode", "Output", "PinLink", "Roster", "RosterError", "Routine", "Speaks", "StayTest",
    "parse_roster", "parse_roster_if_one",
]  # fmt: skip
