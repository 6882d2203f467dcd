"""The ways to mend a part or to live with it, each from its module."""

from __future__ import annotations

from collections.abc import Mapping

from .builds import Build
from .failing import UNKNOWN, Failure
from .way import Way
from .ways import drive, joints, living_with, parts

__all__ = ["WAYS", "ways_for"]

WAYS: Mapping[str, Way] = {way.name: way for module in (joints, parts, drive, living_with) for way in module.WAYS}


def ways_for(build: Build, failure: Failure = UNKNOWN) -> tuple[Way, ...]:
    """Those that a thing so built has; what is meant for some other failing of it only is none."""
    own = [way for way in WAYS.values() if build.name in way.builds]
    return tuple(way for way in own if way.helps(build, failure) or way.helps(build, UNKNOWN))
