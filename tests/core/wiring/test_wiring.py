"""What section a load wants, and what one drop comes to."""

from __future__ import annotations

import pytest

from pondrel.core.base.conductor import copper_ohms_at, largest_fuse, metric_ohms_per_metre
from pondrel.core.base.errors import MakingError
from pondrel.core.wiring.drop import STRETCHES, lost
from pondrel.core.wiring.sizing import FUSE_SHARE, MOST_CELSIUS, Asked, sized


def test_the_chosen_section_is_the_thinnest_that_carries_loses_little_and_can_be_fused():
    found = sized(Asked(4.0, 10.0))
    chosen = found.chosen
    assert chosen.section == 2.5 and chosen.volts <= 0.03 * 12.6 and chosen.fuse == 15.0
    assert all(c.against for c in found.choices if c.section < chosen.section)
    assert not any(c.against for c in found.choices if c.section >= chosen.section)
    assert chosen.volts == pytest.approx(10.0 * 4.0 * copper_ohms_at(metric_ohms_per_metre(2.5), chosen.celsius))


@pytest.mark.parametrize("amps", [1.0, 4.0, 7.0, 12.0, 25.0, 60.0])
@pytest.mark.parametrize("bundle", ["by itself", "more than 10"])
def test_its_fuse_carries_the_load_and_never_is_more_than_the_wire_bears(amps, bundle):
    for choice in sized(Asked(1.0, amps, drop=1.0, bundle=bundle)).choices:
        if choice.fuse is not None and not choice.against:
            assert choice.fuse * FUSE_SHARE >= amps and choice.fuse <= choice.largest <= largest_fuse(choice.section)
            assert choice.carries >= amps and choice.celsius <= MOST_CELSIUS


def test_longer_hotter_bundled_and_there_and_back_all_ask_for_more_copper():
    base = Asked(3.0, 12.0)
    harder = (Asked(8.0, 12.0), Asked(3.0, 12.0, both_ways=True), Asked(3.0, 12.0, bundle="more than 10"), Asked(3.0, 12.0, drop=0.1))
    sections = [sized(asked).chosen.section for asked in (base, *harder)]
    assert all(section >= sections[0] for section in sections) and max(sections[1:]) > sections[0]
    cool, hot = (sized(Asked(0.5, 28.0, drop=2.0, celsius=t)).chosen for t in (20.0, 95.0))
    assert hot.section > cool.section


def test_twice_as_long_loses_twice_as_much():
    one, two = (next(c for c in sized(Asked(metres, 5.0)).choices if c.section == 1.0) for metres in (2.0, 4.0))
    assert two.volts == pytest.approx(2 * one.volts)


@pytest.mark.parametrize(
    ("given", "says"),
    [
        ({"metres": 0.0, "amps": 5.0}, "The length is"), ({"metres": 3.0, "amps": -1.0}, "The current is"),
        ({"metres": 3.0, "amps": 1e9}, "The current"), ({"metres": 3.0, "amps": 5.0, "drop": 20.0}, "fewer than the supply"),
        ({"metres": 3.0, "amps": 5.0, "bundle": "loose"}, "How it lies"),
        ({"metres": 3.0, "amps": 5.0, "celsius": 150.0}, "hotter than that"), ({"metres": float("nan"), "amps": 5.0}, "The length is"),
    ],
)  # fmt: skip
def test_what_cannot_be_gets_a_sentence(given, says):
    with pytest.raises(MakingError, match=says):
        Asked(**given)


def test_what_no_section_can_do_is_said_with_the_reason():
    found = sized(Asked(90.0, 200.0))
    assert found.chosen is None and "No section up to 70 mm² will do: it loses" in found.says


def test_a_drop_comes_to_ohms_heat_and_what_the_lamp_loses():
    found = lost(0.42, 8.0, load="lamp")
    assert found.ohms == pytest.approx(0.0525) and found.watts == pytest.approx(3.36)
    assert found.share == pytest.approx(1 - (12.18 / 12.6) ** 3.4)
    assert found.finding.verdict == "outside limits" and "Clean and tighten" in found.says[-1]
    assert lost(0.42, watts=8 * 12.6).ohms == pytest.approx(found.ohms)  # the watts of what is fed say the same


@pytest.mark.parametrize(("stretch", "most"), STRETCHES.items())
def test_every_stretch_has_its_own_limit_and_the_meter_may_be_too_coarse(stretch, most):
    assert lost(most - 0.05, 5.0, stretch=stretch).finding.verdict == "within limits"
    assert lost(most + 0.05, 5.0, stretch=stretch).finding.verdict == "outside limits"
    assert lost(most, 5.0, stretch=stretch, resolution=0.1).finding.verdict == "too close to call"


def test_heat_that_scorches_plastic_is_a_warning():
    assert any("scorches" in says for says in lost(1.2, 8.0).says) and not any("scorches" in says for says in lost(0.1, 8.0).says)


@pytest.mark.parametrize(
    ("given", "says"),
    [
        ({"volts": 13.0, "amps": 5.0}, "cannot be lost"), ({"volts": -1.0, "amps": 5.0}, "cannot be lost"),
        ({"volts": 0.2}, "The current is missing"),
        ({"volts": 0.2, "amps": 0.0}, "above zero"), ({"volts": 0.2, "amps": 5.0, "stretch": "road"}, "What lies between"),
        ({"volts": 0.2, "amps": 5.0, "load": "dragon"}, "What is fed"),
    ],
)  # fmt: skip
def test_a_drop_that_cannot_be_gets_a_sentence(given, says):
    with pytest.raises(MakingError, match=says):
        lost(**given)
