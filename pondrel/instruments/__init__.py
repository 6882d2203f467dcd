"""Instruments on the wire: read through PyVISA with its pure-Python backend. Nothing here knows a screen or the record."""
