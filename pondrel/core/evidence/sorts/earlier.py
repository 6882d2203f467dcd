"""What was read earlier at a place that was read again later on, both times noted: it says nothing about faults any more."""

from __future__ import annotations

from ..sort import WordSort
from ..trend import EARLIER

PLACE = 80


class Earlier(WordSort):
    """An earlier reading of a series; made of readings, never typed."""

    name, title, words = EARLIER, "Earlier", "what was read earlier in a series"
    answers = {EARLIER: ()}
    weighs = False


SORTS = (Earlier(),)
