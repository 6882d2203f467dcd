"""Pondrel: computes what every point of a vehicle circuit should read, and isolates the fault from what it does read."""

__version__ = "0.1.0"
