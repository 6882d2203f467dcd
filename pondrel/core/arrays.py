"""The array types that the core passes about."""

from __future__ import annotations

from typing import Any

import numpy as np
from numpy.typing import NDArray

__all__ = ["Floats"]

Floats = NDArray[np.floating[Any]]
