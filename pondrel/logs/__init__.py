"""Logs of buses as files: read in pieces, kept as columns, written. What the frames in them say is `pondrel.core.bus`."""
