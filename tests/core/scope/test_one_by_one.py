"""Unplugging one after the other: the cheapest telling one first, what nothing changed at is cleared, and the fault is found."""

from __future__ import annotations

import random

import pytest

from pondrel.core.base.errors import ReadingError
from pondrel.core.scope.one_by_one import Opened, plan_from, standing

BUS = """
Junction at the sill 4 min: seat module, left door, right door
Junction behind the dash 6 min: radio, climate, display
Seat module 2 min
gearbox module 15 min
""".replace("Seat module", "seat module")


def walked(plan, holds, slips=()):
    """Open what is proposed until nothing is; ``holds`` is where the fault is, ``slips`` the openings at which one saw wrongly."""
    opened, minutes = [], 0.0
    for turn in range(40):
        now = standing(plan, opened)
        if now.next is None:
            return now, opened, minutes
        gone = holds in now.next.off
        opened.append(Opened(now.next.name, gone if turn not in slips else not gone))
        minutes += now.next.minutes
    raise AssertionError("it never ends")


def test_a_list_is_read_with_minutes_and_what_goes_off():
    plan = plan_from(BUS)
    sill = plan.things["Junction at the sill"]
    assert sill.minutes == 4.0 and sill.off == {"Junction at the sill", "seat module", "left door", "right door"}
    assert plan.things["left door"].minutes == 3.0 and plan.things["left door"].off == {"left door"}
    assert plan.named("seat module unplugged").name == "seat module" and plan.named("loom flexed") is None


@pytest.mark.parametrize(
    ("text", "says"),
    [
        ("", "Nothing is listed"),
        ("a: b\nb: a", "stands behind itself"),
        ("a\na", "Line 2 names 'a' a second time"),
        (": x", "Line 1 names nothing"),
        ("x" * 70, "Line 1 names nothing"),
        ("\n".join(f"m{k}" for k in range(99)), "99 things"),
        ("x\n" * 4000, "characters"),
    ],
)
def test_a_list_that_cannot_be_is_refused_in_one_sentence(text, says):
    with pytest.raises(ReadingError, match=says):
        plan_from(text)


def test_junctions_that_halve_it_come_before_single_plugs():
    now = standing(plan_from(BUS), ())
    assert now.next.name == "Junction at the sill" and now.says == "Open first: Junction at the sill, 4 min."
    assert not now.cleared and sum(now.shares.values()) + now.elsewhere == pytest.approx(1.0)


def test_what_nothing_changed_at_is_cleared_with_all_behind_it():
    now = standing(plan_from(BUS), [Opened("Junction at the sill", False)])
    assert set(now.cleared) == {"Junction at the sill", "seat module", "left door", "right door"}


def test_the_fault_is_found_wherever_it_is_and_for_fewer_minutes_than_one_after_the_other():
    plan = plan_from("\n".join(f"Junction {k} 3 min: " + ", ".join(f"module {k}{n}" for n in "abcd") for k in range(6)))
    spent = []
    for name in plan.things:
        now, _, minutes = walked(plan, name)
        assert max(now.shares, key=lambda key: now.shares[key]) == name and f"it is {name}," in now.says.lower().replace(name.lower(), name)
        spent.append(minutes)
    one_after_the_other = sum(3.0 * (k + 1) for k in range(len(plan.things))) / len(plan.things)
    assert sum(spent) / len(spent) < 0.6 * one_after_the_other


def test_a_fault_in_none_of_them_is_said_to_be_elsewhere():
    now, opened, _ = walked(plan_from(BUS), "the wire under the carpet")
    assert now.says.startswith("It is in none of these") and now.elsewhere > 0.9 and len(opened) < len(plan_from(BUS).things) + 1


def test_one_wrong_look_does_not_always_lead_astray():
    plan, r, right = plan_from(BUS), random.Random(3), 0
    for _ in range(60):
        name = r.choice(list(plan.things))
        now, _, _ = walked(plan, name, slips=(0,))
        right += max(now.shares, key=lambda key: now.shares[key]) == name
    assert right > 10  # it is opened once only: a slip at the first junction is mostly lost
