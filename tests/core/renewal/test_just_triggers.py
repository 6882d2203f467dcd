"""Setting something until it just triggers: found wherever it lies, each neighbour tried twice, nonsense said to be so."""

from __future__ import annotations

import pytest

from pondrel.core.module.roster.renewal import Sensitivity
from pondrel.core.renewal.just_triggers import Tried, setting_of

NINE = Sensitivity(1, 9, "it takes hold")


def search(true_at: int, sensitivity: Sensitivity = NINE):
    tries: list[Tried] = []
    while (setting := setting_of(sensitivity, tries)).next is not None:
        assert sensitivity.least <= setting.next <= sensitivity.most and len(tries) < 40
        tries.append(Tried(setting.next, setting.next >= true_at))
    return setting, tries


@pytest.mark.parametrize("true_at", range(1, 10))
def test_the_dullest_that_triggers_is_found_and_tried_twice_with_its_neighbour(true_at):
    setting, tries = search(true_at)
    assert setting.found == true_at and len(tries) <= 6
    assert sum(one.at == true_at for one in tries) == 2
    if true_at > 1:
        assert sum(one.at == true_at - 1 for one in tries) == 2


def test_many_settings_are_halved():
    _, tries = search(63, Sensitivity(1, 100, ""))
    assert len(tries) <= 10


def test_one_that_never_triggers_is_another_fault():
    setting, tries = search(10)
    assert setting.found is None and "does not trigger at 9" in setting.says and len(tries) <= 4


def test_two_settings_are_the_fewest():
    assert search(2, Sensitivity(1, 2, ""))[0].found == 2


@pytest.mark.parametrize(
    ("tries", "says"),
    [
        ([Tried(3, True), Tried(5, False)], "triggers at 3 and not at 5, which is keener"),
        ([Tried(4, True), Tried(4, False)], "At 4 it triggers once and not another time"),
    ],
)
def test_what_no_setting_explains_is_said(tries, says):
    setting = setting_of(NINE, tries)
    assert setting.next is None and setting.found is None and says in setting.says


def test_what_it_says_on_the_way_reads_well():
    assert setting_of(NINE, [Tried(5, True)]).says == "It triggers at 5."
    assert setting_of(NINE, [Tried(5, False)]).says == "It does not trigger yet."
