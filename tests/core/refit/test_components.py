"""Components of a board: what is printed is read, what a new one must be, and whether it will do."""

from __future__ import annotations

import pytest
from hypothesis import given
from hypothesis import strategies as st

from pondrel.core.base.errors import PondrelError
from pondrel.core.base.written import EntryError, checked_entry
from pondrel.core.check import Verdict
from pondrel.core.refit.components import COMPONENT, SORTS, Component

WITHIN, OUTSIDE, UNSAID = Verdict.WITHIN, Verdict.OUTSIDE, Verdict.NOT_COMPARABLE


def verdict(sort: str, printed: str, new: str, use: str = "") -> Verdict:
    return Component("X", sort, printed, use, new=new).fit.verdict


@pytest.mark.parametrize(
    ("sort", "printed", "new", "use", "comes_to"),
    [
        ("electrolytic", "470 µF 25 V 105 °C", "1000uF 35V 105C", "filter", WITHIN),
        ("electrolytic", "470 µF 25 V 105 °C", "1000uF 35V 105C", "timing", OUTSIDE),
        ("electrolytic", "470 µF 25 V 105 °C", "470uF 35V 105C", "timing", WITHIN),
        ("electrolytic", "470 µF 25 V 105 °C", "470 µF 25 V 85 °C", "timing", OUTSIDE),
        ("electrolytic", "470 µF 25 V 105 °C", "470 µF 16 V 105 °C", "filter", OUTSIDE),
        ("electrolytic", "470 µF 25 V 105 °C", "680 µF 35 V 105 °C", "", UNSAID),
        ("electrolytic", "470 µF 25 V 105 °C", "470 µF 35 V", "timing", UNSAID),
        ("electrolytic", "470 µF 25 V 2000 h", "470 µF 25 V 1000 h", "timing", OUTSIDE),
        ("resistor", "4k7 0.25 W", "4.7 kΩ 0.5W", "", WITHIN),
        ("resistor", "4k7 0.25 W", "4.7 kΩ 0.125W", "", OUTSIDE),
        ("resistor", "0R22 2 W", "0.33 Ω 2 W", "", OUTSIDE),
        ("diode", "1 A 400 V", "1 A 1000 V", "", WITHIN),
        ("diode", "1 A 400 V", "1 A 200 V", "", OUTSIDE),
        ("suppressor", "24 V 5 W", "30 V 5 W", "", OUTSIDE),
        ("transistor", "60 V 10 A", "100 V 20 A", "", WITHIN),
        ("fuse", "2 A", "3 A", "", OUTSIDE),
        ("relay", "12 V 10 A", "24 V 10 A", "", OUTSIDE),
        ("capacitor", "100 nF 63 V", "0,1 µF 100 V", "", WITHIN),
        ("coil", "100 µH 2 A", "100 µH 1 A", "", OUTSIDE),
    ],
)  # fmt: skip
def test_whether_a_new_one_will_do(sort, printed, new, use, comes_to):
    assert verdict(sort, printed, new, use) is comes_to


@pytest.mark.parametrize("sort", sorted(SORTS))
def test_the_same_again_always_does_and_its_own_example_is_read(sort):
    example = SORTS[sort].example
    assert verdict(sort, example, example, "timing" if sort == "electrolytic" else "") is WITHIN
    assert Component("X", sort, example).at_least.endswith(".")


def test_what_is_unsaid_of_the_new_one_is_named():
    fit = Component("R1", "resistor", "4k7 0.25 W", new="4k7").fit
    assert fit.verdict is UNSAID and fit.says == ("Its watts are not written down.",)


def test_at_least_tells_every_figure_with_its_rule():
    assert Component("D1", "diode", "1 A 400 V").at_least.startswith("1 A or more, 400 V or more; a fast one")
    assert "470 µF (the same), 25 V or more, 105 °C or more" in Component("C", "electrolytic", "470 µF 25 V 105 °C", "timing").at_least


@pytest.mark.parametrize("printed", ["blue thing", "470", "25 V", "0 µF", "-"])
def test_what_holds_no_value_is_refused_with_an_example(printed):
    with pytest.raises(EntryError, match="470 µF 25 V 105 °C"):
        checked_entry(COMPONENT, {"name": "C1", "sort": "electrolytic", "printed": printed})


def test_what_it_is_for_is_kept_of_an_electrolytic_only():
    entry = {"name": "R1", "sort": "resistor", "printed": "4k7", "use": "timing"}
    assert checked_entry(COMPONENT, entry)["use"] == ""
    assert checked_entry(COMPONENT, {**entry, "sort": "electrolytic", "printed": "1 µF"})["use"] == "timing"


@given(st.sampled_from(sorted(SORTS)), st.text(max_size=60), st.text(max_size=60))
def test_any_text_is_read_or_refused_in_one_sentence(sort, printed, new):
    given_ = {"name": "X", "sort": sort, "printed": printed, "new": new}
    refused = _refused(given_)
    if refused:
        assert refused.endswith(".") and "\n" not in refused
        return
    kept = checked_entry(COMPONENT, given_)
    one = Component("X", sort, kept["printed"], "", "", kept["new"])
    assert one.at_least and COMPONENT.reads(kept)
    assert one.fit is None or one.fit.verdict in (WITHIN, OUTSIDE, UNSAID, Verdict.TOO_CLOSE)


def _refused(entry: dict[str, str]) -> str:
    try:
        checked_entry(COMPONENT, entry)
    except PondrelError as error:
        return str(error)
    return ""
