"""A circuit's diagram worked out from the sheet alone: nothing is placed by hand. Units are abstract; pixels are the screen's business."""

from __future__ import annotations

from .diagram import Bar, Box, Diagram, Drawn, Strip, draw
from .wiring import Stretch

__all__ = ["Bar", "Box", "Diagram", "Drawn", "Stretch", "Strip", "draw"]
