"""What a state lets be done: with the battery off there are ohms only, and no ohms where the engine runs."""

from __future__ import annotations

from ..base.errors import ReadingError
from ..circuit.sheet import Sheet
from .asked import Measurement, Question
from .registry import SORTS
from .sort import WordSort

__all__ = ["cannot_be", "check_stands"]


def cannot_be(sheet: Sheet, test: Measurement | Question) -> str:
    """The sentence that says why a test cannot be made in its state; empty where it can."""
    state = sheet.states.get(test.state)
    if state is None:
        return ""
    if state.engine == "running" and test.dead:
        return f"The engine runs in state {state.name}, and an ohmmeter wants the battery off: name a state in which the engine stands."
    if state.battery == "on":
        return ""
    if isinstance(test, Measurement):
        return "" if test.dead else f"The battery is off in state {state.name}: there are ohms to be read, and nothing else."
    sort = SORTS[test.kind]
    told = isinstance(sort, WordSort) and sort.from_circuit
    return f"The battery is off in state {state.name}: nothing works there that could be seen." if told else ""


def check_stands(sheet: Sheet, test: Measurement | Question) -> None:
    """Raises ReadingError where a test cannot be made in its state."""
    says = cannot_be(sheet, test)
    if says:
        raise ReadingError(says)
