"""The trade itself: pure functions and frozen dataclasses.

Nothing below this package imports the web framework, the database, the clock or a file; `tests/core` runs it on its own
and the import contract in `pyproject.toml` holds the boundary.
"""
