"""What led after each item of a record, and after which of a long one that is looked at."""

from __future__ import annotations

from dataclasses import dataclass
from itertools import pairwise

from pondrel.core.isolate.show.replay import EACH, FURTHER, replay


@dataclass
class Believed:
    """A belief that accuses the part of its last item, the more the more items there are."""

    items: tuple

    def parts(self) -> dict[str, float]:
        return {self.items[-1]: len(self.items) / 10_000, "other": 0.0}


def test_of_a_usual_record_every_item_is_told():
    leads = replay(tuple("abc" * (EACH // 3)), Believed)
    assert [lead.part for lead in leads] == list("abc" * (EACH // 3))
    assert [lead.probability for lead in leads[:3]] == [0.0001, 0.0002, 0.0003]
    assert replay((), Believed) == ()


def test_of_a_long_one_some_later_items_are_told_the_last_among_them():
    leads = replay(tuple(range(1000)), Believed)
    told = [n for n, lead in enumerate(leads) if lead]
    assert told[:EACH] == list(range(EACH)) and len(told) == EACH + FURTHER and told[-1] == 999
    assert all(leads[n].part == n for n in told)
    assert max(b - a for a, b in pairwise(told)) <= (1000 - EACH) // FURTHER + 1


def test_just_beyond_no_item_is_told_twice():
    leads = replay(tuple(range(EACH + 2)), Believed)
    assert all(lead and lead.part == n for n, lead in enumerate(leads))
