"""Pondrel: computes what every point of a vehicle circuit should read, and isolates the fault from what it does read."""

import os

# The arrays here are many and small: a second thread in the linear algebra waits more than it works, and the server has its own.
os.environ.setdefault("OPENBLAS_NUM_THREADS", "1")

__version__ = "0.22.0"
