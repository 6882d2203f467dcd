"""The few special functions that the engine needs, for arrays: a package that has hundreds of them takes longer to load than a small
circuit takes to rank.
"""

from __future__ import annotations

import math
from typing import Any

import numpy as np

from .arrays import Floats

__all__ = ["logsumexp", "ndtr", "ndtr_nearly", "wrightomega", "xlogy"]

_CELLS, _END = 1024, 8.5  # of the table: cells a unit, and where it ends


def logsumexp(logs: Any, axis: int | None = None, keepdims: bool = False) -> Any:
    """Logarithm of the sum of exponentials, along an axis or of all; −∞ of nothing but −∞."""
    logs = np.asarray(logs, dtype=float)
    most = logs.max(axis=axis, keepdims=True)
    most = np.where(np.isfinite(most), most, 0.0)
    with np.errstate(divide="ignore"):
        total = np.log(np.exp(logs - most).sum(axis=axis, keepdims=True)) + most
    if keepdims:
        return total
    return float(total.reshape(())) if axis is None else total.squeeze(axis)


def xlogy(x: Any, y: Any) -> Any:
    """x·ln y, 0 where x is 0."""
    return x * np.log(np.where(x > 0.0, y, 1.0))


def wrightomega(z: Floats) -> Floats:
    """ω with ω + ln ω = z, for real z (Corless and Jeffrey 2002; the iteration of Fritsch, Shafer and Crowley 1973, of fourth order)."""
    z = np.asarray(z, dtype=float)
    small, large = np.clip(z, -690.0, 1.0), np.maximum(z, 1.0)
    logs = np.log(large)
    omega = np.where(z < -2.0, np.exp(small), np.where(z < 1.0, np.exp(2.0 * (small - 1.0) / 3.0), large - logs + logs / large))
    for _ in range(2):
        off = np.where(z > -690.0, z - omega - np.log(omega), 0.0)
        more = omega + 1.0
        wide = 2.0 * more * (more + 2.0 * off / 3.0)
        omega = omega * (1.0 + off / more * (wide - off) / (wide - 2.0 * off))
    return np.where(z < -690.0, 0.0, omega)


# Of the error function, its complement, and that far out (W. J. Cody 1969, Mathematics of Computation 23): numerators and denominators.
_NEAR = (
    (1.85777706184603153e-1, 3.16112374387056560e0, 1.13864154151050156e2, 3.77485237685302021e2, 3.20937758913846947e3),
    (1.0, 2.36012909523441209e1, 2.44024637934444173e2, 1.28261652607737228e3, 2.84423683343917062e3),
)
_MIDDLE = (
    (
        2.15311535474403846e-8, 5.64188496988670089e-1, 8.88314979438837594e0, 6.61191906371416295e1, 2.98635138197400131e2,
        8.81952221241769090e2, 1.71204761263407058e3, 2.05107837782607147e3, 1.23033935479799725e3,
    ),
    (
        1.0, 1.57449261107098347e1, 1.17693950891312499e2, 5.37181101862009858e2, 1.62138957456669019e3, 3.29079923573345963e3,
        4.36261909014324716e3, 3.43936767414372164e3, 1.23033935480374942e3,
    ),
)  # fmt: skip
_FAR = (
    (
        1.63153871373020978e-2, 3.05326634961232344e-1, 3.60344899949804439e-1, 1.25781726111229246e-1, 1.60837851487422766e-2,
        6.58749161529837803e-4,
    ),
    (1.0, 2.56852019228982242e0, 1.87295284992346725e0, 5.27905102951428412e-1, 6.05183413124413191e-2, 2.33520497626869185e-3),
)  # fmt: skip


def _ratio(of: tuple[tuple[float, ...], tuple[float, ...]], x: Floats) -> Floats:
    above, below = (np.polyval(np.array(side), x) for side in of)
    ratio: Floats = above / below
    return ratio


def ndtr(x: Any) -> Any:
    """The share of a normal distribution that lies below x standard deviations."""
    y = -np.asarray(x, dtype=float) / math.sqrt(2.0)
    size = np.abs(y)
    near, middle, far = np.minimum(size, 0.5), np.clip(size, 0.46875, 4.0), np.clip(size, 4.0, 26.6)
    squared = 1.0 / far**2
    complement = np.where(
        size < 0.46875,
        1.0 - near * _ratio(_NEAR, near**2),
        np.where(
            size < 4.0,
            np.exp(-(middle**2)) * _ratio(_MIDDLE, middle),
            np.exp(-(far**2)) / far * (1.0 / math.sqrt(math.pi) - squared * _ratio(_FAR, squared)),
        ),
    )
    complement = np.where(size < 26.6, complement, 0.0)  # less than any number
    below = 0.5 * np.where(y < 0.0, 2.0 - complement, complement)
    return float(below) if below.ndim == 0 else below


_TABLE: list[Floats] = []


def ndtr_nearly(x: Floats) -> Floats:
    """The same within a ten-millionth, from a table: for arrays of millions."""
    if not _TABLE:
        values = ndtr(np.arange(-_END, _END + 2.0 / _CELLS, 1.0 / _CELLS))
        _TABLE.extend((values[:-1], np.diff(values)))
    at = np.clip(x, -_END, _END)
    at += _END
    at *= _CELLS
    cell = at.astype(np.int32)
    at -= cell
    at *= _TABLE[1][cell]
    at += _TABLE[0][cell]
    return at
