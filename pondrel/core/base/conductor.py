"""Copper: resistance by length, section and temperature, for metric sections and AWG, and the cold resistance of a fuse.

Sources: IEC 60228 class 5 (plain copper, maximum at 20 °C) for the metric table, from memory of the published table;
ASTM B258 for AWG diameters; IEC 60028 for the resistivity and temperature coefficient of annealed copper.
"""

from __future__ import annotations

import math

__all__ = [
    "AWG_SIZES",
    "COPPER_PER_KELVIN",
    "LARGEST_FUSE",
    "awg_diameter_mm",
    "awg_ohms_per_metre",
    "copper_ohms_at",
    "fuse_cold_ohms",
    "largest_fuse",
    "metric_ohms_per_metre",
    "thinnest_for_fuse",
]

COPPER_OHM_MM2_PER_M = 0.017241  # IEC 60028 (1/58)
COPPER_PER_KELVIN = 0.00393  # IEC 60028, at 20 °C

# mm² -> mΩ/m at 20 °C, IEC 60228 class 5
_CLASS_5 = {
    0.5: 39.0, 0.75: 26.0, 1.0: 19.5, 1.5: 13.3, 2.5: 7.98, 4.0: 4.95, 6.0: 3.30,
    10.0: 1.91, 16.0: 1.21, 25.0: 0.780, 35.0: 0.554, 50.0: 0.386, 70.0: 0.272,
}  # fmt: skip
_AUGHTS = {"1/0": 0, "2/0": -1, "3/0": -2, "4/0": -3}
AWG_SIZES = (*(str(n) for n in range(40, 0, -1)), *_AUGHTS)


def metric_ohms_per_metre(csa_mm2: float) -> float:
    """Ω/m at 20 °C of a stranded copper conductor of ``csa_mm2``.

    Table values where the table has the section; in between, the table's excess over solid copper (lay of the strands,
    permitted undersize) is interpolated, outside it the nearest excess is kept.
    """
    if csa_mm2 in _CLASS_5:
        return _CLASS_5[csa_mm2] / 1000.0
    sections = sorted(_CLASS_5)
    excess = [_CLASS_5[s] / 1000.0 * s / COPPER_OHM_MM2_PER_M for s in sections]
    if csa_mm2 <= sections[0]:
        factor = excess[0]
    elif csa_mm2 >= sections[-1]:
        factor = excess[-1]
    else:
        hi = next(i for i, s in enumerate(sections) if s > csa_mm2)
        share = math.log(csa_mm2 / sections[hi - 1]) / math.log(sections[hi] / sections[hi - 1])
        factor = excess[hi - 1] + share * (excess[hi] - excess[hi - 1])
    return COPPER_OHM_MM2_PER_M / csa_mm2 * factor


def awg_diameter_mm(size: str) -> float:
    """Diameter of a solid AWG conductor, ASTM B258: d = 0.127 mm · 92^((36 − n)/39)."""
    number = _AUGHTS[size] if size in _AUGHTS else int(size)
    return float(0.127 * 92.0 ** ((36 - number) / 39.0))


def awg_ohms_per_metre(size: str) -> float:
    """Ω/m at 20 °C of annealed copper of an AWG size (IEC 60028 resistivity over the ASTM B258 section)."""
    return COPPER_OHM_MM2_PER_M / (math.pi / 4.0 * awg_diameter_mm(size) ** 2)


def copper_ohms_at(ohms_20: float, celsius: float) -> float:
    """R(T) = R20 · (1 + 0.00393 · (T − 20)), IEC 60028."""
    return ohms_20 * (1.0 + COPPER_PER_KELVIN * (celsius - 20.0))


def fuse_cold_ohms(rating_amps: float) -> float:
    """Cold resistance of a blade fuse, about 75 mV divided by its rating. Common practice, no source."""
    return 0.075 / rating_amps


# Largest fuse, in amperes, for a wire of so many mm² that lies by itself. Common practice, no source: the maker's own figure goes before.
LARGEST_FUSE = {0.35: 5.0, 0.5: 7.5, 0.75: 10.0, 1.0: 15.0, 1.5: 20.0, 2.5: 30.0, 4.0: 40.0, 6.0: 60.0, 10.0: 80.0, 16.0: 125.0,
                 25.0: 150.0, 35.0: 200.0, 50.0: 250.0, 70.0: 300.0}  # fmt: skip


def largest_fuse(csa_mm2: float) -> float:
    """The largest fuse, in amperes, that a wire of ``csa_mm2`` may lie behind: that of the next thinner section in the table, infinite
    beyond its end, and in proportion below its beginning. Common practice, no source."""
    thinner = [section for section in LARGEST_FUSE if section <= csa_mm2 + 1e-9]
    if not thinner:
        least = min(LARGEST_FUSE)
        return LARGEST_FUSE[least] * csa_mm2 / least
    return math.inf if csa_mm2 > 1.05 * max(LARGEST_FUSE) else LARGEST_FUSE[max(thinner)]


def thinnest_for_fuse(amps: float) -> float:
    """The thinnest section, in mm², that may lie behind a fuse of ``amps``; the thickest of the table where none does."""
    return next((section for section, most in LARGEST_FUSE.items() if most >= amps), max(LARGEST_FUSE))
