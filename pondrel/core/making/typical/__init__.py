"""The typical circuits, one module each: what is asked of them, and the sheet that the answers make."""

from __future__ import annotations

from collections.abc import Mapping

from ...base.brief import near, quoted
from ...base.errors import MakingError
from ...circuit.read.sheet import parse_sheet
from ..asked import Answers
from ..maker import Maker
from . import (
    alternator,
    bus,
    gauges,
    interlock,
    lin,
    module_valve,
    pedal,
    relay,
    reversed_motor,
    sensor,
    shared_ground,
    slow_bus,
    starter,
    stator,
    switched_load,
    trailer,
    two_speed,
    valves,
)
from .typical import CIRCUIT, Typical

__all__ = ["CIRCUIT", "TYPICALS", "Typical", "made", "typical_called"]

TYPICALS: Mapping[str, Typical] = {
    each.TYPICAL.name: each.TYPICAL
    for each in (
        switched_load, relay, shared_ground, module_valve, valves, two_speed, reversed_motor, sensor, pedal, gauges, interlock, bus,
        slow_bus, lin, starter, alternator, stator, trailer,
    )
}  # fmt: skip


def typical_called(name: str) -> Typical:
    """The typical circuit of a name. Raises MakingError naming near ones."""
    if name not in TYPICALS:
        raise MakingError(f"{quoted(name)} is no typical circuit{near(name, TYPICALS)}.")
    return TYPICALS[name]


def made(typical: Typical, given: Mapping[str, str]) -> str:
    """The text of the sheet that the answers to a typical circuit's questions make; what is not answered is taken as usual.

    Raises MakingError with a sentence for an answer that is none.
    """
    answers = Answers(typical.asks(given), given)
    flaws = answers.flaws()
    if flaws:
        raise MakingError(next(iter(flaws.values())))
    system = 24.0 if answers.said(CIRCUIT, "volts").startswith("24") else 12.0
    maker = Maker(answers, answers.said(CIRCUIT, "title"), typical.family, system)
    typical.build(maker)
    text = maker.text()
    parse_sheet(text)  # whatever was answered, what comes out is a sheet
    return text
