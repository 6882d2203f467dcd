"""Long work that may be stopped in between: who asks for it says when it has lasted long enough, the work says where it may stop.

The core has no clock. Whoever calls it hands in what is asked at every breath; by raising, that ends the work. What was finished before
stays finished, so that the same work asked for again goes on from there.
"""

from __future__ import annotations

from collections.abc import Callable, Iterator
from contextlib import contextmanager
from contextvars import ContextVar

__all__ = ["breathe", "interrupted_by"]

_ask: ContextVar[Callable[[], None] | None] = ContextVar("ask", default=None)


def breathe() -> None:
    """Between two pieces of work that each are short: stops here if whoever asked for it wants that."""
    ask = _ask.get()
    if ask is not None:
        ask()


@contextmanager
def interrupted_by(ask: Callable[[], None]) -> Iterator[None]:
    """Work in the block stops where ``ask`` raises; it is called at every breath."""
    token = _ask.set(ask)
    try:
        yield
    finally:
        _ask.reset(token)
