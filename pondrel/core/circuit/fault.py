"""Faults: a part, a mode and a severity; how they are written, and which severities are plausible on a given sheet."""

from __future__ import annotations

import math
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from ..base.arrays import Floats
from ..base.brief import quoted
from ..base.errors import FaultError, ReadingError
from ..base.judgement import judged
from ..base.quantity import parse_reading
from .network import Cases, Change, Network
from .operate import resting_base
from .part import DRY_SHARE, SUPPLY, Effect, Mode, Span
from .sheet import Sheet
from .wear import film_spread

__all__ = ["Fault", "changes", "farads_left", "loop_ohms", "mode_of", "one_case", "parse_fault", "severity_range"]

LEAST_LOSS = judged("LEAST_LOSS", 0.008, "share", "of its loop's ohms from which on a connection is bad: 0.1 V of 12, less is worn")
LEAST_LOSS_ALONG = judged("LEAST_LOSS_ALONG", 0.016, "share", "the same of a switch or a wire: 0.2 V of 12")
LEAST_LOSS_OF_SOURCE = judged(
    "LEAST_LOSS_OF_SOURCE", 0.04, "share", "the same of a battery: half a volt of 12 at what this circuit draws; less is its age"
)
MOST_LOSS = 100.0  # times its loop's ohms: what lets less than 1 % through is as good as open
MOST_SOURCE_OHMS = judged("MOST_SOURCE_OHMS", 5.0, "Ω", "what a battery with bad cells or posts comes to, short of being open")
# A path to ground above 30 Ω takes less than half an ampere at 12 V: a matter of key-off draw, not of this circuit's function.
SHUNT_SPAN = (0.01, 30.0)
MOST_CHAFED_AMPS = judged("MOST_CHAFED_AMPS", 60.0, "A", "what flows from one wire to another for longer than a moment: more burns it off")
TURNS_SPAN = (0.01, 0.85)
FLOATING_OHMS = 1e6  # what is joined to the rest by more than this counts as floating


@dataclass(frozen=True, slots=True, order=True)
class Fault:
    """One way in which one part is bad. ``ohms`` is the severity, None for a mode that has none."""

    part: str
    mode: str
    ohms: float | None = None

    def __str__(self) -> str:
        return f"{self.part}.{self.mode}" + ("" if self.ohms is None else f"={self.ohms:g}")


def mode_of(sheet: Sheet, part_name: str, mode_name: str) -> Mode:
    """The mode of a part; raises FaultError naming what is right."""
    part = sheet.part(part_name)
    mode = next((m for m in part.modes if m.name == mode_name), None)
    if mode is None:
        modes = ", ".join(m.name for m in part.modes)
        raise FaultError(f"A {part.kind.name} such as {part_name} does not fail as {quoted(mode_name)}: {modes}.")
    return mode


def parse_fault(sheet: Sheet, text: str) -> Fault:
    """Read ``PART.MODE`` or ``PART.MODE=VALUE``; a part's name may hold dots. Raises FaultError.

    A severity left out is the mode's documented default.
    """
    body, given, value = text.partition("=")
    part_name, dot, mode_name = body.strip().rpartition(".")
    if not dot or not part_name:
        raise FaultError(f"{quoted(text)} is no fault: write PART.MODE or PART.MODE=VALUE, such as G1.high_resistance=0.8.")
    mode = mode_of(sheet, part_name, mode_name)
    if mode.severity is None:
        if given:
            raise FaultError(f"{part_name}.{mode_name} takes no value, got {quoted(value)}.")
        return Fault(part_name, mode_name)
    if not given:
        return Fault(part_name, mode_name, mode.severity.default(sheet.part(part_name).params))
    try:
        ohms = parse_reading(value, "Ω").value
    except ReadingError as error:
        raise FaultError(f"The severity of {part_name}.{mode_name} is in ohms: {error}") from None
    return Fault(part_name, mode_name, ohms)


def changes(network: Network, cases: NDArray[np.intp], faults: tuple[Fault, ...], severities: Floats | None = None) -> list[Change]:
    """What faults change in some cases (n,); ``severities`` (n,) are the ohms of each, where they are not the faults' own."""
    found: list[Change] = []
    for fault in faults:
        mode = mode_of(network.sheet, fault.part, fault.mode)
        for name, effect in mode.effects:
            i = network.element(fault.part, name)
            if i is None or effect is Effect.DRY:  # a relay without a resting contact; nothing that lasts
                continue
            if effect is Effect.VALUE:
                own = math.inf if fault.ohms is None else fault.ohms
                found.append((cases, i, own if severities is None else severities, 0))
            elif effect is Effect.APPEARS:
                found.append((cases, i, network.elements[i].spare, 0))
            else:
                found.append((cases, i, None, {Effect.CLOSED: 1, Effect.PLAIN: 2, Effect.OPEN: -1}[effect]))
    return found


def one_case(network: Network, faults: tuple[Fault, ...]) -> Cases:
    """A single case with some faults."""
    return Cases.of(1, changes(network, np.zeros(1, dtype=np.intp), faults))


def farads_left(network: Network, faults: tuple[Fault, ...]) -> np.ndarray:
    """(E,) farads of each element, those that have dried out with what is left of them."""
    farads = np.array([e.farads for e in network.elements])
    for fault in faults:
        for name, effect in mode_of(network.sheet, fault.part, fault.mode).effects:
            i = network.element(fault.part, name)
            if effect is Effect.DRY and i is not None:
                farads[i] *= DRY_SHARE
    return farads


def loop_ohms(network: Network) -> np.ndarray:
    """(E,) ohms of the loop that each conducting element stands in, itself included: the least over the sheet's states; for a path that
    is not there, the ohms between its ends: the most over the states in which something defines them.

    A loop's ohms are one over the current per volt of a source put in series with the element. Between the ends of a path a motor counts
    with its armature: what it takes before it turns is no measure of what matters beside it.
    """
    least, most = np.full(len(network.keys), math.inf), np.zeros(len(network.keys))
    for state in network.sheet.states:
        set_up = network.at(state)
        still = set_up.with_motors_still
        for _, closed in set_up.positions(state):
            base = resting_base(set_up, closed)
            admittance = np.where(base.own_amps, np.diagonal(base.to_amps), 0.0)
            least = np.minimum(least, 1.0 / np.maximum(-admittance, 1e-6))
            base = base if still is set_up else resting_base(still, closed)
            between = np.where(base.own_amps, 0.0, -np.diagonal(base.to_across))
            most = np.maximum(most, np.where(between < FLOATING_OHMS, between, 0.0))
    return np.where(np.isfinite(network.ohms), least, most)


def severity_range(network: Network, loops: np.ndarray, part: str, mode: Mode) -> tuple[float, float]:
    """Plausible severities of a mode, least and most ohms; ``loops`` (E,) from `loop_ohms`."""
    assert mode.severity is not None
    name = next(name for name, effect in mode.effects if effect is Effect.VALUE)
    i = network.keys.index((part, name))
    healthy = float(network.ohms[i])
    if mode.severity.span is Span.SHUNT:
        # In a circuit of kilohms a leak of kilohms matters.
        element = network.elements[i]
        least = network.sheet.supply_volts / MOST_CHAFED_AMPS if SUPPLY in (element.a, element.b) else SHUNT_SPAN[0]
        return least, max(SHUNT_SPAN[1], 10.0 * float(loops[i]) if not math.isfinite(healthy) else 10.0 * healthy)
    if mode.severity.span is Span.TURNS:
        return TURNS_SPAN[0] * healthy, TURNS_SPAN[1] * healthy
    loop = float(loops[i])
    kind = network.sheet.parts[part].kind
    loss = LEAST_LOSS_OF_SOURCE if kind.posts else LEAST_LOSS_ALONG if kind.symbol in ("wire", "switch") else LEAST_LOSS
    # A joint is bad where it leaves what sound ones scatter over.
    element = network.elements[i]
    share = element.ohms_tolerance if element.gives else element.tolerance
    scatter = 3.0 * math.hypot(healthy * share, float(film_spread(network)[i]))
    least = max(2.0 * healthy, healthy + scatter, loss * loop)
    # A load's own resistance is most of its loop: it reads high from a sixth above its value.
    if healthy > 0.1 * loop:
        least = 1.15 * healthy
    if kind.posts:  # a sheet of milliamperes would have it hide behind hundreds of ohms
        return min(least, MOST_SOURCE_OHMS / 3.0), max(MOST_SOURCE_OHMS, 3.0 * healthy)
    return least, max(MOST_LOSS * loop, 100.0 * least)
