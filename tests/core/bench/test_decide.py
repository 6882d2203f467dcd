"""How a number is held against a limit on the bench: temperature, leads, over range, the meter, and the ways to judge side by side."""

from __future__ import annotations

import json
import math

import pytest

from pondrel.core.bench import FAMILIES
from pondrel.core.bench.listing import families_json
from pondrel.core.meter.handheld import AS_TYPED, HANDHELDS

from .cases import judged

LIMIT = ["ohms 3.15..3.45 @20C"]


def first(*reads, **kwargs):
    return judged("coil", *reads, **kwargs).findings[0]


def test_a_reading_is_brought_to_the_limit_s_temperature_and_the_reason_says_so():
    one = first("ohms=3.7 @21C", limits=LIMIT)
    assert str(one.verdict) == "outside limits"
    assert one.brought == pytest.approx(3.7 / 1.00393) and one.at_c == 20.0
    assert one.because.startswith("3.7 Ω at 21 °C is 3.69 Ω at 20 °C, above 3.45 Ω.")
    assert one.uncertainty == pytest.approx((0.005 * 3.7 + 0.2) / math.sqrt(3))


def test_the_example_of_the_trade_is_told_in_service():
    """3.69 Ω at 20 °C are 4.55 Ω at 80 °C and draw 2.6 A from 11.9 V."""
    says = judged("coil", "ohms=3.7 @21C", limits=LIMIT).service
    assert says.figures["ohms"] == pytest.approx(3.7 * 1.2358 / 1.00393) and says.figures["amps"] == pytest.approx(11.9 / 4.5546, rel=1e-4)
    assert "At 80 °C it has 4.55 Ω and draws 2.61 A from 11.90 V." in says.says


def test_a_space_before_the_temperature_is_free_and_no_temperature_is_not_comparable():
    assert first("ohms=3.30@20C", limits=LIMIT) == first("ohms=3.30 @20C", limits=LIMIT).__class__(
        **{name: getattr(first("ohms=3.30 @20C", limits=LIMIT), name) for name in first("ohms=3.30 @20C", limits=LIMIT).__slots__}
    )
    missing = first("ohms=3.30", limits=LIMIT)
    assert str(missing.verdict) == "not comparable" and "how warm the part was is not noted" in missing.because and missing.then
    # Whatever its temperature, a dead short is one.
    assert str(first("ohms=0.20", limits=LIMIT).verdict) == "outside limits"


def test_leads_that_were_not_zeroed_are_taken_off():
    one = first("ohms=3.60 @20C", limits=LIMIT, leads="0.2ohm")
    assert str(one.verdict) == "within limits" and one.brought == pytest.approx(3.4) and one.value == 3.6
    assert "less 0.20 Ω of leads" in one.because
    assert str(first("ohms=3.60 @20C @0.2ohm", limits=LIMIT).verdict) == "within limits"
    assert str(first("ohms=3.60 @20C", limits=LIMIT).verdict) == "outside limits"


@pytest.mark.parametrize(
    ("read", "limit", "verdict"),
    [
        ("OL(40)", "13..15", "outside limits"),
        ("OL(40)", "60..110", "too close to call"),
        ("OL(40)", "30..110", "too close to call"),
        ("OL(40)", ">=30", "within limits"),
        ("OL(40)", ">=1M", "too close to call"),
        ("OL", "13..15", "outside limits"),
        ("OL", ">=1M", "within limits"),
    ],
)
def test_over_range_says_no_more_than_that_it_lies_above_the_range(read, limit, verdict):
    one = first(f"ohms={read}", limits=[limit])
    assert str(one.verdict) == verdict and one.as_json()["value"] == "OL"
    if verdict != "within limits":
        assert "leads" in one.then and "range" in one.then


def test_the_next_range_of_a_meter_that_has_ranges_is_named():
    assert "4.00 kΩ range" in first("ohms=OL(400)", limits=["60..110"], meter=HANDHELDS["simple meter"]).then


def test_a_better_meter_decides_what_a_simple_one_cannot():
    read = "ohms=3.42 @20C"
    assert str(first(read, limits=LIMIT, meter=HANDHELDS["simple meter"]).verdict) == "too close to call"
    assert str(first("ohms=3.420 @20C", limits=LIMIT, meter=HANDHELDS["fine meter"]).verdict) == "within limits"
    assert HANDHELDS["as typed"] is AS_TYPED and AS_TYPED.next_range(40.0) is None


def test_a_limit_of_the_maker_outranks_one_from_memory_and_both_are_shown():
    found = judged("coil", "ohms=17.00 @20C", limits=["about 20", "12..14 @20C (maker: sheet 3)"])
    assert str(found.verdict) == "outside limits" and found.findings[0].limit.source == "sheet 3"
    ways = {way.name: str(way.verdict) for way in found.schools}
    assert ways["From memory"] == "within limits" and ways["Limit at temperature"] == "outside limits"
    assert found.differ == "The number from memory would have passed it, the limit at its temperature would not."


def test_a_known_good_one_judges_where_no_limit_is_known_and_stands_beside_one_that_is():
    alone = judged("coil", "ohms=4.28 @38C", "twin=3.58 @20C")
    assert str(alone.verdict) == "outside limits" and alone.findings[0].limit.kind == "known-good twin"
    assert next(way for way in alone.schools if way.name == "Against a good one").shows == "12 % above it"
    both = judged("coil", "ohms=3.40 @20C", "twin=3.58 @20C", "click=yes", limits=["ohms 3.7..4.1 @20C"])
    assert str(both.verdict) == "outside limits" and "would have passed it" in both.differ
    wider = judged("coil", "ohms=4.28 @38C", "twin=3.58 @20C", twin_within="20%")
    assert str(wider.verdict) == "within limits"


def test_a_known_good_one_outranks_a_number_from_memory_and_that_one_what_is_usual():
    found = judged("coil", "ohms=17.00 @20C", "twin=13.1 @20C", limits=["about 18"])
    assert found.findings[0].limit.kind == "known-good twin" and str(found.verdict) == "outside limits"
    memory = judged("relay", "coil=45.0", limits=["about 45"])
    assert memory.findings[0].limit.kind == "half remembered" and str(memory.verdict) == "within limits"


def test_several_readings_of_one_check_all_count():
    found = judged("coil", "ohms=3.30 @20C", "ohms=3.90 @20C", limits=LIMIT)
    assert [str(one.verdict) for one in found.findings] == ["outside limits", "within limits"] and str(found.verdict) == "outside limits"


def test_the_answer_is_json_with_every_field_of_the_contract():
    told = judged("coil", "ohms=3.7 @21C", "click=yes", limits=LIMIT).as_json()
    assert json.loads(json.dumps(told)) == told
    assert set(told) >= {"family", "verdict", "findings", "in_service", "next", "untested"}
    ohms, click = told["findings"]
    assert set(ohms) == {"check", "verdict", "value", "unit", "uncertainty", "brought_to", "limit", "because"}
    assert ohms["limit"] == {"low": 3.15, "high": 3.45, "unit": "Ω", "at_c": 20.0, "kind": "given", "source": "as given"}
    assert click["limit"] is None and click["value"] == "yes" and click["brought_to"] is None


def test_the_list_tells_every_family_with_its_fields_units_and_defaults():
    told = json.loads(json.dumps(families_json()))
    assert [one["family"] for one in told] == list(FAMILIES) and len(told) == 29
    coil = told[0]
    assert {"name": "hot", "says": "how hot it gets on the vehicle", "unit": "°C", "words": [], "default": 80.0} in coil["settings"]
    assert coil["reads"][0]["name"] == "ohms" and coil["reads"][0]["units"] == ["Ω"]
