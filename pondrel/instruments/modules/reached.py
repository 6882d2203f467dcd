"""How modules are reached: by an address in one line, of a bus or of a K-line's adapter."""

from __future__ import annotations

from ..bus import interface_from
from .serial_line import KLine
from .tester import Lines
from .wire import Wire

__all__ = ["KLINE", "lines_at"]

KLINE = "kline:"


def lines_at(address: str) -> Lines:
    """Lines to the modules at an address: ``kline:/dev/ttyUSB0`` and ``kline:rfc2217://host:port`` are K-lines, anything else is a bus as
    `interface_from` reads it. Raises PondrelError with one sentence where nothing is there."""
    if address.startswith(KLINE):
        return KLine(address.removeprefix(KLINE))
    return Wire(interface_from(address))
