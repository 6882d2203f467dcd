"""A load in place of a part that a module drives: which one its driver can carry and its module takes for a sound part, and what it proves.

Each load is put into the circuit where the part is, and the circuit is solved in every state: the driver has to carry it with something to
spare, a lamp also while it is cold, and the module must report nothing that it would not report of the sound part, commanded or not.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, replace

from ..base.judgement import COMMON_PRACTICE, OWN_RULE, judged
from ..circuit.sheet import Sheet
from ..circuit.solve import OperatingPoint, solve

__all__ = ["Fitting", "Load", "best_of", "fittings_of", "loads_at", "part_driven"]

SPARE = judged(
    "SUBSTITUTE_SPARE", 0.8, "share", "of what a driver lets through before it shuts down that a substitute load may draw", OWN_RULE
)
COLD = judged("SUBSTITUTE_COLD", 0.1, "share", "of its hot ohms that a filament lamp has while it is cold", COMMON_PRACTICE)
_OHMS = (5.6, 8.2, 10.0, 12.0, 15.0, 18.0, 22.0, 33.0, 47.0, 68.0, 100.0, 150.0, 220.0)
_WATTS = (2.0, 5.0, 10.0, 21.0)
_SAME = 0.02  # of a driver's current: so near is that of the part that it drives
LEAST_AMPS = 1e-3


@dataclass(frozen=True, slots=True)
class Load:
    """A resistor, or a filament lamp: its ``ohms`` while it works, and ``cold`` ohms at the first moment."""

    name: str
    ohms: float
    cold: float


@dataclass(frozen=True, slots=True)
class Fitting:
    """A load in the circuit: what it draws, and at the first moment (``rush``), in amperes; the watts that it has to bear; and why it is
    not used (empty where it may be)."""

    load: Load
    amps: float
    rush: float
    watts: float
    refused: str

    @property
    def fits(self) -> bool:
        """Whether it may stand in for the part."""
        return not self.refused

    @property
    def says(self) -> str:
        """What there is to know of it, in a sentence."""
        return self.refused or f"draws {self.amps:.2f} A, and has to bear {max(2.0 * self.watts, 1.0):.0f} W"


def loads_at(volts: float) -> tuple[Load, ...]:
    """Loads that a workshop has for a supply: resistors, and lamps of its voltage."""
    lamps = []
    for watts in _WATTS:
        ohms = volts * volts / watts
        lamps.append(Load(f"lamp of {watts:g} W", ohms, COLD * ohms))
    return (*(Load(f"{ohms:g} Ω", ohms, ohms) for ohms in _OHMS), *lamps)


def part_driven(sheet: Sheet, driver: str) -> str:
    """The part that a driver works: of those with ohms of their own that carry its current, the one with most; empty for none."""
    found = _driven(sheet, driver)
    if found is None:
        return ""
    point, _ = found
    amps = abs(point.currents.get(driver, 0.0))
    same = [
        name
        for name, part in sheet.parts.items()
        if isinstance(part.params.get("ohms"), (int, float)) and part.kind.built not in ("joint", "wire", "battery")
        and abs(abs(point.currents.get(name, 0.0)) - amps) <= _SAME * amps
    ]  # fmt: skip
    return max(same, key=lambda name: float(str(sheet.parts[name].params["ohms"])), default="")


def _driven(sheet: Sheet, driver: str) -> tuple[OperatingPoint, str] | None:
    """The state in which a driver carries most, and how the circuit is in it; None where it never carries anything."""
    points = {name: solve(sheet, name) for name in sheet.states if name not in sheet.passing}
    best = max(points, key=lambda name: abs(points[name].currents.get(driver, 0.0)))
    return (points[best], best) if abs(points[best].currents.get(driver, 0.0)) > LEAST_AMPS else None


def fittings_of(sheet: Sheet, driver: str, part: str) -> tuple[Fitting, ...]:
    """Every load in place of a part that a driver works, those that may be used first, the likest to the part before the others."""
    found = _driven(sheet, driver)
    if found is None:
        return ()
    state, own = found[1], float(str(sheet.parts[part].params["ohms"]))
    limit = float(str(sheet.parts[driver].params.get("limit") or _default_limit(sheet, driver)))
    fittings = [_fitted(sheet, driver, part, load, state, limit) for load in loads_at(sheet.supply_volts)]
    return tuple(sorted(fittings, key=lambda one: (not one.fits, one.load.cold != one.load.ohms, abs(one.load.ohms - own))))


def _default_limit(sheet: Sheet, driver: str) -> str:
    return next((str(param.default) for param in sheet.parts[driver].kind.params if param.name == "limit"), "6")


def _with(sheet: Sheet, part: str, ohms: float) -> Sheet:
    own = sheet.parts[part]
    return replace(sheet, parts={**sheet.parts, part: replace(own, params={**own.params, "ohms": ohms})})


def _fitted(sheet: Sheet, driver: str, part: str, load: Load, state: str, limit: float) -> Fitting:
    hot = _with(sheet, part, load.ohms)
    amps = abs(solve(hot, state).currents.get(part, 0.0))
    rush = abs(solve(_with(sheet, part, load.cold), state).currents.get(part, 0.0)) if load.cold != load.ohms else amps
    refused = ""
    states = [name for name in sheet.states if name not in sheet.passing]
    if _report(_with(sheet, part, load.cold), driver, state) == "short" or max(amps, rush) > SPARE * limit:
        draws = max(amps, rush, sheet.supply_volts / load.cold)
        refused = f"too much for the driver: {draws:.1f} A, and it shuts down at {limit:g} A"
    elif word := next((own for name in states if (own := _report(hot, driver, name)) not in ("", _report(sheet, driver, name))), ""):
        refused = f"its module takes it for {word}"
    return Fitting(load, amps, rush, amps * amps * load.ohms, refused)


def _report(sheet: Sheet, driver: str, state: str) -> str:
    """What the module reports of its output in a state; empty where it reports nothing."""
    words = {1: "short", 2: "open", 3: "open"}
    sights = solve(sheet, state).sights.get(driver, ())
    return next((words[round(one.value)] for one in sights if one.what == "diagnosis" and round(one.value) in words), "")


def best_of(fittings: Sequence[Fitting]) -> Fitting | None:
    """The one to take: the first that may be used."""
    return next((one for one in fittings if one.fits), None)
