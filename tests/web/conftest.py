"""Fixtures of the tests through the web."""

from __future__ import annotations

import pytest

from pondrel.store.db import DATABASE, connect


@pytest.fixture
def conn(data_folder):
    """The database of the client's data folder, looked at beside it."""
    own = connect(data_folder / DATABASE)
    yield own
    own.close()
