"""Listening to a module whose supply is taken away: since when it is silent, and when it answers again."""

from __future__ import annotations

import time

from ...instruments.modules.tester import Tester
from .live import Live
from .underway import Waking

__all__ = ["listen"]

LONGEST_S, EVERY_S, WATCHED_S = 420.0, 0.15, 10.0


def listen(live: Live, tester: Tester, waking: Waking) -> None:
    """Call a module until it was silent and answers again, the talk ends, or nobody waits for it any more."""
    try:
        while live.watched(WATCHED_S) and not live.ended and not waking.over and waking.awake_at is None:
            passed = time.monotonic() - waking.began
            if passed > LONGEST_S:
                break
            here = tester.roll_call([waking.module])[0]
            live.tell(here)
            if not here.answers:
                waking.silent_at = passed if waking.silent_at is None else waking.silent_at
            elif waking.silent_at is not None:
                waking.awake_at = time.monotonic() - waking.began
            time.sleep(EVERY_S)
    finally:
        waking.over = True
