"""Length codes of frames: above 8 those of flexible ones go by steps (ISO 11898-1:2015, table of DLC)."""

from __future__ import annotations

__all__ = ["FD_LENGTHS", "fd_code", "fd_length"]

FD_LENGTHS: tuple[int, ...] = (*range(9), 12, 16, 20, 24, 32, 48, 64)


def fd_length(code: int) -> int:
    """Data bytes of a length code; 15 stands for any above it."""
    return FD_LENGTHS[min(code, 15)]


def fd_code(length: int) -> int:
    """The smallest length code that holds so many data bytes."""
    return next(code for code in range(16) if FD_LENGTHS[code] >= length)
