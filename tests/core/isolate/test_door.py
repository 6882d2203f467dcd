"""The one door of the isolation: everything that it names is behind it, and nothing else."""

from __future__ import annotations

import subprocess
import sys

import pytest

from pondrel.core import isolate


def test_everything_that_is_named_is_there():
    assert {name for name in isolate.__all__ if getattr(isolate, name, None) is None} == set()


def test_what_is_not_there_is_named():
    with pytest.raises(AttributeError, match="has no attribute 'moon'"):
        isolate.moon  # noqa: B018 - asked for to be refused


def test_what_only_ranks_enters_no_room_that_draws():
    code = "import sys; from pondrel.core.isolate import isolate; print([m for m in sys.modules if '.isolate.show' in m or 'scipy' in m])"
    done = subprocess.run([sys.executable, "-c", code], capture_output=True, text=True, check=True)
    assert done.stdout.strip() == "[]"
