"""The ways to mend a part or to live with it, each from its module."""

from __future__ import annotations

from collections.abc import Mapping

from .builds import Build
from .way import Way
from .ways import joints, living_with, parts

__all__ = ["WAYS", "ways_for"]

WAYS: Mapping[str, Way] = {way.name: way for module in (joints, parts, living_with) for way in module.WAYS}


def ways_for(build: Build) -> tuple[Way, ...]:
    """Those that a thing so built has."""
    return tuple(way for way in WAYS.values() if build.name in way.builds)
