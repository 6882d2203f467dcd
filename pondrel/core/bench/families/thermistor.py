"""Temperature sensors by themselves: thermistors by their curve, platinum by its standard.

NTC: 1/T = A + B·ln R + C·(ln R)³ (Steinhart and Hart, 1968) or the B-parameter form; platinum: IEC 60751, R = R0·(1 + A·T + B·T²) from
0 °C up.
"""

from __future__ import annotations

import math
from collections.abc import Sequence

import numpy as np
from scipy.optimize import brentq

from ...base.errors import ReadingError
from ...base.quantity import show
from ...check import Limit, Verdict
from .. import cautions
from ..case import Case, Read
from ..decide import by_number, by_reading
from ..family import Check, Column, Family, Setting
from ..judged import Chart, Dot, Figures, Judged, Line, Service

PLACE = 90

KELVIN = 273.15
PLATINUM_A, PLATINUM_B = 3.9083e-3, -5.775e-7  # IEC 60751
COLDEST, HOTTEST = -50.0, 200.0
_CURVE = Check("curve", "how far the points are from its curve", ("°C",))


def _coefficients(case: Case) -> tuple[float, float, float] | None:
    """Steinhart's A, B, C as they were set, or those of the B-parameter form."""
    a, b, c = (case.known(name) for name in ("a", "b", "c"))
    if a is not None and b is not None and c is not None:
        return a, b, c
    r25, beta = case.known("r25"), case.known("beta")
    if r25 and beta:
        return 1.0 / (25.0 + KELVIN) - math.log(r25) / beta, 1.0 / beta, 0.0
    return None


def celsius_of(case: Case, ohms: float) -> float | None:
    """The temperature at which such a sensor has so many ohms."""
    if ohms <= 0.0 or math.isinf(ohms):
        return None
    if case.word("sort") == "platinum":
        r0 = case.number("r0")
        root = PLATINUM_A**2 - 4.0 * PLATINUM_B * (1.0 - ohms / r0)
        return (-PLATINUM_A + math.sqrt(root)) / (2.0 * PLATINUM_B) if root >= 0.0 else None
    found = _coefficients(case)
    if found is None:
        return None
    a, b, c = found
    inverse = a + b * math.log(ohms) + c * math.log(ohms) ** 3
    return 1.0 / inverse - KELVIN if inverse > 0.0 else None


def ohms_of(case: Case, celsius: float) -> float | None:
    """What such a sensor has at a temperature."""
    if case.word("sort") == "platinum":
        return case.number("r0") * (1.0 + PLATINUM_A * celsius + PLATINUM_B * celsius**2)
    found = _coefficients(case)
    if found is None or celsius <= -KELVIN:
        return None
    a, b, c = found

    def off(log_ohms: float) -> float:
        return a + b * log_ohms + c * log_ohms**3 - 1.0 / (celsius + KELVIN)

    low, high = math.log(1e-3), math.log(1e10)
    if off(low) * off(high) > 0.0:
        raise ReadingError(
            "These coefficients give no ohms at that temperature: A, B and C of Steinhart's form, for ohms and kelvins, are wanted."
        )
    return math.exp(float(brentq(off, low, high, xtol=1e-12)))


def _at(case: Case, read: Read) -> Judged:
    check = FAMILY.check("ohms")
    assert check is not None
    given, celsius = case.given("ohms"), read.noted.celsius
    if given is not None or read.measured.over_range:
        usual = given or Limit("Ω", 10.0, 1e6, "common practice, no source: no sensor is open")
        return by_reading(case, check, read, usual)
    if celsius is None:
        return Judged(
            "ohms",
            Verdict.NOT_COMPARABLE,
            read.value,
            "Ω",
            f"{show(read.value, 'Ω')}: how warm it was is not noted.",
            case.u(read),
            then="Note its temperature beside the ohms, as in 2.45k @20C; water and a thermometer will do.",
        )
    expected = ohms_of(case, celsius)
    if expected is None:
        return by_reading(case, check, read, None)
    part = case.number("tolerance") / 100.0
    whose = "IEC 60751" if case.word("sort") == "platinum" else "its own curve"
    limit = Limit(
        "Ω", expected * (1.0 - part), expected * (1.0 + part), f"{whose}, ± {100 * part:g} %", "standard" if whose[0] == "I" else "given"
    )
    return by_reading(case, check, read, limit)


def _derive(case: Case) -> Sequence[Judged]:
    found = [_at(case, read) for read in case.reads.get("ohms", ())]
    if case.rows:
        found.append(_points(case))
    return found


def _points(case: Case) -> Judged:
    """The farthest that the points are from the curve, in degrees; with no curve set, from the one that fits them best."""
    celsius, ohms = np.array(case.column("celsius")), np.array(case.column("ohms"))
    if (ohms <= 0.0).any():
        raise ReadingError("A sensor has more than nought ohms: leave such a line out.")
    believed = [celsius_of(case, value) for value in ohms]
    if any(value is None for value in believed):
        if len(ohms) < 4:
            raise ReadingError("Four points at least, with their temperatures, are wanted to find a curve; or set r25 and beta.")
        logs = np.log(ohms)
        fit, *_ = np.linalg.lstsq(np.stack([np.ones_like(logs), logs, logs**3], axis=1), 1.0 / (celsius + KELVIN), rcond=None)
        found = 1.0 / (fit[0] + fit[1] * logs + fit[2] * logs**3) - KELVIN
    else:
        found = np.array([float(value) for value in believed if value is not None])
    off = np.abs(found - celsius)
    place = int(off.argmax())
    limit = case.given("curve") or Limit("°C", most=3.0, source="common practice, no source: a sensor's curve")
    told = (
        f"at {celsius[place]:.4g} °C it has {show(float(ohms[place]), 'Ω')}, which is "
        f"read as {found[place]:.4g} °C, {off[place]:.2g} °C off"
    )
    return by_number(case, _CURVE, float(off[place]), 0.0, limit, told)


def _serve(case: Case, findings: Sequence[Judged]) -> Service:
    ohms, read = case.value("ohms"), case.read("ohms")
    if ohms is None or read is None:
        return Service()
    pullup, supply = case.number("pullup"), case.number("supply")
    volts = supply if math.isinf(ohms) else supply * ohms / (ohms + pullup)
    believed = celsius_of(case, ohms)
    figures: Figures = {"module_v": volts, "believed_c": believed, "off_c": None}
    says = [f"Through {show(pullup, 'Ω')} from {show(supply, 'V')} the module sees {show(volts, 'V')}."]
    if believed is not None:
        says.append(f"It takes that for {believed:.3g} °C.")
        if read.noted.celsius is not None:
            figures["off_c"] = believed - read.noted.celsius
    if volts > 0.97 * supply:
        says.append("That is as good as open: the module sets 'high' and takes an emergency value.")
    if volts < 0.03 * supply:
        says.append("That is as good as shorted: the module sets 'low' and takes an emergency value.")
    return Service(figures, tuple(says))


def _chart(case: Case, findings: Sequence[Judged]) -> Chart | None:
    read = case.read("ohms")
    known = [(t, ohms_of(case, t)) for t in np.linspace(-20.0, 120.0, 36)]
    line = tuple((float(t), math.log10(ohms)) for t, ohms in known if ohms)
    if not line:
        return None
    dots = [Dot(row["celsius"].value, math.log10(row["ohms"].value)) for row in case.rows[:200] if row["ohms"].value > 0.0]
    if read and read.noted.celsius is not None and not read.measured.over_range and case.net(read) > 0.0:
        dots.append(Dot(read.noted.celsius, math.log10(case.net(read))))
    return Chart(
        "Its curve", ("sensor", "°C"), ("resistance", "Ω"), (Line("as it should be", line, "good"),), (), tuple(dots), decades=True
    )


FAMILY = Family(
    "thermistor",
    "Temperature sensor",
    "thermistor ntc coolant intake air temperature sensor platinum pt1000 steinhart",
    "ohms",
    (
        Check(
            "ohms",
            "its resistance, with its temperature",
            ("Ω",),
            aside=True,
            warm=True,
            beyond=("Too few ohms: it reads too warm.", "Too many ohms: it reads too cold."),
        ),
    ),
    (cautions.DEAD, cautions.HOT),
    (
        Setting("sort", "what it is", words=("thermistor", "platinum"), usual="thermistor"),
        Setting("r25", "its ohms at 25 °C", "Ω"),
        Setting("beta", "its B, in kelvin", "", usual=None),
        Setting("a", "Steinhart's A"),
        Setting("b", "Steinhart's B"),
        Setting("c", "Steinhart's C"),
        Setting("r0", "a platinum sensor's ohms at 0 °C", "Ω", usual=1000.0),
        Setting("tolerance", "how far its ohms may be off", "%", usual=5.0),
        Setting("pullup", "the module's resistor", "Ω", usual=2200.0, service=True),
        Setting("supply", "the module's reference", "V", usual=5.0, service=True),
    ),
    (Column("celsius", "how warm", "°C"), Column("ohms", "its resistance", "Ω")),
    (_CURVE,),
    derive=_derive,
    serve=_serve,
    chart=_chart,
    kinds=("thermistor",),
    group="Sensors",
)
