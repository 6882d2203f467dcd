"""Captures: what an oscilloscope or a recorder wrote, read into samples at even times, and looked at a block at a time."""

from .capture import Capture, Channel
from .read import capture_from

__all__ = ["Capture", "Channel", "capture_from"]
