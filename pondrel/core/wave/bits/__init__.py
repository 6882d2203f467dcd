"""Data lines as waveforms: from volts to frames, errors and what is the matter with the line."""

from .read import Bits, bits_json, bits_of

__all__ = ["Bits", "bits_json", "bits_of"]
