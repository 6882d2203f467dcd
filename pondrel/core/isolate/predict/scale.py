"""The scales on which numbers are compared: volts and amperes as they are, ohms compressed so that the meter is equally sure all along."""

from __future__ import annotations

import math

import numpy as np

from ...base.arrays import Floats
from ...evidence.asked import Measurement
from ...evidence.items import Reading
from ...meter.instrument import OPEN_OHMS, instrument, uncertainty_at

__all__ = ["compress_ohms", "off_scale", "on_scale", "scale_uncertainty"]

OPEN_SCALE_SIGMA = 0.05  # of OL on the compressed scale
_LEAST_SCALE_SIGMA = 0.005  # half a percent: the compressed scale is not trusted beyond that


def compress_ohms(ohms: Floats | float, open_ohms: Floats | float = OPEN_OHMS) -> Floats:
    """Ohms on a scale where the meter's own uncertainty is even: ln(1 + R/Ω), all that shows OL at one point."""
    return np.log1p(np.minimum(np.maximum(ohms, 0.0), open_ohms))


def on_ohms_scale(ohms: Floats | float, uncertainty: Floats | float) -> Floats:
    """Standard deviation on the compressed scale of an uncertainty in ohms."""
    return np.maximum(uncertainty / (1.0 + np.asarray(ohms)), _LEAST_SCALE_SIGMA)


def on_scale(reading: Reading) -> tuple[float, float]:
    """A reading's value and standard deviation on its instrument's scale (ohms compressed)."""
    value = reading.measured.value
    if not reading.meter.dead:
        return value, reading.uncertainty
    ceiling = reading.meter.open_ohms
    sigma = OPEN_SCALE_SIGMA if value >= ceiling else float(on_ohms_scale(value, reading.uncertainty))
    return float(compress_ohms(value, ceiling)), sigma


def off_scale(value: float, meter: str) -> float:
    """A predicted value back in SI; ohms at the end of the scale are infinite (OL)."""
    if not instrument(meter).dead:
        return value
    return math.inf if value > float(compress_ohms(math.inf, instrument(meter).open_ohms)) - 0.05 else math.expm1(value)


def scale_uncertainty(values: Floats, tests: tuple[Measurement, ...]) -> Floats:
    """Meter standard deviation at predicted values (…, T), on the instruments' scales."""
    uncertainty = np.empty_like(values)
    for meter in {t.instrument for t in tests}:
        column = [i for i, t in enumerate(tests) if t.instrument == meter]
        own = values[..., column]
        if instrument(meter).dead:
            ohms = np.expm1(own)
            uncertainty[..., column] = np.where(
                ohms >= instrument(meter).open_ohms * 0.95, OPEN_SCALE_SIGMA, on_ohms_scale(ohms, uncertainty_at(instrument(meter), ohms))
            )
        else:
            uncertainty[..., column] = uncertainty_at(instrument(meter), own)
    return uncertainty
