"""Whether a circuit sheet is for a vehicle: by what it says it fits, and by the volts of the system."""

from __future__ import annotations

from ..base.judgement import OWN_RULE, judged
from ..circuit.fits import misfit
from ..circuit.limit import SheetLimit
from ..circuit.sheet import Sheet
from .facts import Facts

__all__ = ["limit_misfit", "sheet_misfit"]

OTHER_SYSTEM = judged("OTHER_SYSTEM", 1.3, "times", "how far a sheet's supply may lie from the vehicle's, either way", OWN_RULE)


def _year(facts: Facts) -> int | None:
    return int(facts.year) if facts.year.isascii() and facts.year.isdecimal() and len(facts.year) <= 4 else None


def sheet_misfit(sheet: Sheet, facts: Facts) -> str:
    """Why a sheet may not be for a vehicle, as a sentence; empty where nothing speaks against it."""
    says = misfit(sheet.fits, facts.make, facts.model, _year(facts), facts.options)
    if says:
        return f"This sheet {says}: other years and makes are other systems. Compare it with the vehicle before you trust it."
    if facts.volts and not 1.0 / OTHER_SYSTEM < sheet.supply_volts / facts.volts < OTHER_SYSTEM:
        return f"This sheet is for a system of about {sheet.supply_volts:g} V, and this vehicle has {facts.volts:g} V."
    return ""


def limit_misfit(limit: SheetLimit, facts: Facts) -> str:
    """Why a limit may not be for a vehicle, as it goes on after "it"; empty where nothing speaks against it."""
    return misfit(limit.fits, facts.make, facts.model, _year(facts), facts.options)
