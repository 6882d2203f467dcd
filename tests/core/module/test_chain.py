"""Chains of conditions: what holds, what does not, what a silent partner hides, and what to ask next."""

from __future__ import annotations

import itertools
import math

import pytest

from pondrel.core.module.chain.function import ChainError, Condition, Function, Step
from pondrel.core.module.chain.next_link import asked_next, shares_of
from pondrel.core.module.chain.order import order_of
from pondrel.core.module.chain.standing import Fact, LinkState, fact_of, standing_of

LINKS = (
    Condition("key", "Key", "in Run", module="gateway", datum="key", says="in Run", weight=1.0),
    Condition("volts", "Supply", "11.5 V or more", module="roof", datum="volts", least=11.5, weight=1.0),
    Condition("latch", "Roof latch", "open", module="roof", datum="latch", says="open", minutes=3.0, weight=2.0, look="Does the lever go?"),
    Condition("bow", "Bow module", "answering", answers="bow", weight=2.0),
    Condition("bow_up", "Bow", "up", module="bow", datum="bow", says="up", after=("bow",), weight=1.0),
    Condition("shade", "Shade", "rolled up", minutes=0.5, weight=1.0),
)
ROOF = Function("roof", "The roof", "moves", {link.name: link for link in LINKS})
HOLDS = {link.name: Fact(True) for link in LINKS}


def states(standing) -> dict[str, LinkState]:
    return {link.condition.name: link.state for link in standing.links}


def test_all_hold_and_the_way_leads_behind_the_chain():
    found = standing_of(ROOF, HOLDS)
    assert found.complete and found.root is None and "look behind the chain" in found.says and not asked_next(found)


def test_one_unmet_link_is_the_root_and_others_after_it_wait():
    found = standing_of(ROOF, {**HOLDS, "latch": Fact(False, "shut")})
    assert found.root.condition.name == "latch" and found.says == "Roof latch should be open and is not (shut): the roof waits for that."
    assert found.counts == "5 hold, 1 does not" and shares_of(found) == {} and asked_next(found) == ()


def test_a_silent_partner_explains_the_whole_before_an_unmet_link_that_stands_earlier():
    known = {"key": Fact(True), "latch": Fact(False, "shut")}
    found = standing_of(ROOF, known, ["bow"])
    assert states(found)["bow"] is LinkState.UNMET and states(found)["bow_up"] is LinkState.HIDDEN
    assert found.root.condition.name == "bow"
    assert found.says.startswith("Bow module is silent, and that explains the whole: bow can only be known from it.")


def test_a_silent_module_that_is_no_link_hides_what_only_it_tells():
    found = standing_of(ROOF, {"key": Fact(True)}, ["roof"])
    assert states(found)["volts"] is LinkState.HIDDEN and states(found)["latch"] is LinkState.HIDDEN and found.root is None
    seen = standing_of(ROOF, {"key": Fact(True), "latch": Fact(True)}, ["roof"])  # somebody looked at it
    assert states(seen)["latch"] is LinkState.HOLDS


def test_what_hangs_on_an_unmet_link_waits_and_is_not_asked():
    known = {name: fact for name, fact in HOLDS.items() if name != "bow_up"} | {"bow": Fact(False, "silent")}
    assert states(standing_of(ROOF, known))["bow_up"] is LinkState.HIDDEN
    after = Function("roof", "The roof", "moves", {"a": LINKS[5], "b": Condition("b", "Cover", "off", after=("a",))} | {"shade": LINKS[5]})
    found = standing_of(after, {"a": Fact(False)})
    assert states(found)["b"] is LinkState.WAITS and found.links[1].why == "waits for: shade"


def test_of_two_unmet_links_the_earlier_is_the_root_and_the_other_is_said():
    found = standing_of(ROOF, {**HOLDS, "key": Fact(False, "off"), "shade": Fact(False)})
    assert found.root.condition.name == "key" and found.says.endswith("Shade does not hold either.")


def test_shares_go_by_weight_over_what_is_not_known_to_hold():
    found = shares_of(standing_of(ROOF, {"key": Fact(True)}))
    assert found == {"volts": 1 / 7, "latch": 2 / 7, "bow": 2 / 7, "bow_up": 1 / 7, "shade": 1 / 7}


def test_the_next_question_tells_most_for_its_minutes_by_hand():
    """Reckoned by counting: the answer of a question parts the six cases into those that it can tell from each other."""
    standing = standing_of(ROOF, {})
    shares = shares_of(standing)
    for asked in asked_next(standing):
        names = {one.name for one in asked.conditions}
        parts = [shares[name] for name in names] + [sum(share for name, share in shares.items() if name not in names)]
        assert asked.bits == pytest.approx(-sum(p * math.log2(p) for p in parts if p))
    worths = [asked.worth for asked in asked_next(standing)]
    assert worths == sorted(worths, reverse=True)
    assert {one.name for one in asked_next(standing)[0].conditions} == {"volts", "latch"}  # two answers for one question


def test_asking_as_it_says_finds_the_unmet_link_in_fewer_minutes_than_asking_in_order():
    def minutes(order, unmet) -> float:
        known: dict[str, Fact] = {}
        spent = 0.0
        while standing_of(ROOF, known).root is None:
            asked = order(standing_of(ROOF, known))
            spent += asked.minutes
            known |= {one.name: Fact(one.name != unmet) for one in asked.conditions}
        return spent

    def by_worth(standing):
        return asked_next(standing)[0]

    def in_order(standing):
        left = [link.condition.name for link in standing.links if link.state is LinkState.UNKNOWN]
        return next(a for name in left for a in asked_next(standing) if name in {c.name for c in a.conditions})

    weights = {link.name: link.weight for link in LINKS}
    mean = [sum(weights[u] * minutes(order, u) for u in weights) / sum(weights.values()) for order in (by_worth, in_order)]
    assert mean[0] <= mean[1]
    for unmet, order in itertools.product(weights, (by_worth, in_order)):
        assert minutes(order, unmet) > 0.0


@pytest.mark.parametrize(
    ("name", "word", "holds"),
    [
        ("key", "in run", True), ("key", "off", False), ("volts", "12.4 V", True), ("volts", "11,2", False), ("volts", "no", False),
        ("bow", "silent", False), ("bow", "answers", True), ("shade", "yes", True), ("shade", "rolled up", True), ("shade", "No", False),
        ("latch", "shut", False), ("key", "?", None), ("shade", "", None),
    ],
)  # fmt: skip
def test_words_become_facts(name, word, holds):
    fact = fact_of(ROOF.condition(name), word)
    assert (fact.holds if fact else None) is holds


def test_a_word_that_means_nothing_is_refused_with_what_would_be_right():
    with pytest.raises(ChainError, match="say yes where it is rolled up, no where it is not; 'perhaps' is neither"):
        fact_of(ROOF.condition("shade"), "perhaps")
    with pytest.raises(ChainError, match="answers or is silent"):
        fact_of(ROOF.condition("bow"), "12.4")
    with pytest.raises(ChainError, match="no condition 'latsh'; near it: latch"):
        ROOF.condition("latsh")
    assert ROOF.condition("roof latch").name == "latch"


STEPS = (
    Step("unlock", "Lock cylinder opens", "roof.pump", "latch"),
    Step("raise", "Bow rises", "roof.pump", "bow_up"),
    Step("roll", "Shade rolls", "", "shade"),
)
ORDERED = Function("roof", "The roof", "moves", ROOF.conditions, STEPS)


@pytest.mark.parametrize(
    ("facts", "states"),
    [
        ({}, ["not known", "not known", "not known"]),
        ({"latch": Fact(False)}, ["stopped here", "not yet", "not yet"]),
        ({"latch": Fact(True), "bow_up": Fact(False)}, ["ended", "stopped here", "not yet"]),
        ({"latch": Fact(True), "bow_up": Fact(True), "shade": Fact(True)}, ["ended", "ended", "ended"]),
        ({"latch": Fact(True), "shade": Fact(False)}, ["ended", "not known", "stopped here"]),
    ],
)
def test_an_order_of_movements_says_where_it_stopped(facts, states):
    found = order_of(standing_of(ORDERED, facts))
    assert [one.state for one in found] == states
    assert [bool(one.look) for one in found] == [state == "stopped here" for state in states]
    stopped = next((one for one in found if one.look), None)
    if stopped is not None and stopped.step.output:
        assert stopped.look[1].startswith("whether pump is driven")
    elif stopped is not None:
        assert len(stopped.look) == 3  # nothing drives it that could be commanded
