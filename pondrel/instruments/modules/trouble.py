"""What can come between a tester and a module."""

from __future__ import annotations

from ...core.base.errors import PondrelError
from ...core.talk.services import Refusal

__all__ = ["Broken", "Refused", "Silent"]


class Silent(PondrelError):
    """A module that does not answer."""


class Broken(PondrelError):
    """A talk that broke off: the bus, the adapter, or an answer that cannot be used."""


class Refused(PondrelError):
    """A module that says no."""

    def __init__(self, refusal: Refusal, title: str):
        super().__init__(f"{title}: {refusal.sentence}")
        self.refusal = refusal
