"""Wires and joints by themselves, with or without a sheet: what section a load wants, and what a measured drop means."""
