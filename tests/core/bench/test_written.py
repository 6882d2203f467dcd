"""What somebody writes for a case: limits, readings, settings, pasted columns; and one sentence for whatever cannot be."""

from __future__ import annotations

import json
import math

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from pondrel.core.base.errors import ReadingError
from pondrel.core.bench import FAMILIES, case_from, family_of
from pondrel.core.bench.written import limit_from, pair_of, points_from
from pondrel.web.shell.chart import drawn

from .cases import judged

COIL, STATOR, PEDAL, SCALE = (family_of(name) for name in ("coil", "stator", "pedal", "scale"))


@pytest.mark.parametrize(
    ("line", "least", "most", "at_c", "kind"),
    [
        ("ohms 3.15..3.45 @20C", 3.15, 3.45, 20.0, "given"),
        ("ohms 3.15 to 3.45@68F", 3.15, 3.45, 20.0, "given"),
        ("3.15..3.45", 3.15, 3.45, None, "given"),
        ("ohms 13±10%", 11.7, 14.3, None, "given"),
        ("ohms 13 Ω +/- 10 % @20C (maker: sheet 12)", 11.7, 14.3, 20.0, "maker"),
        ("ohms 13±0.5", 12.5, 13.5, None, "given"),
        ("ohms <=0.5", -math.inf, 0.5, None, "given"),
        ("ohms ≥ 1M", 1e6, math.inf, None, "given"),
        ("resistance >=100k", 1e5, math.inf, None, "given"),
        ("ohms 4k7..5k1 (IEC 60751)", 4700.0, 5100.0, None, "standard"),
        ("ohms 1.2..1.5 kΩ", 1200.0, 1500.0, None, "given"),
        ("about 20", 16.0, 24.0, None, "half remembered"),
        ("ohms ~20", 16.0, 24.0, None, "half remembered"),
        ("pull_in 6..9V", 6.0, 9.0, None, "given"),
        ("ohms 11..15 (common practice)", 11.0, 15.0, None, "common practice"),
    ],
)
def test_limits_are_read(line, least, most, at_c, kind):
    _, limit = limit_from(COIL, line)
    assert (limit.least, limit.most, limit.conditions.celsius, limit.kind) == (
        pytest.approx(least),
        pytest.approx(most),
        at_c and pytest.approx(at_c),
        kind,
    )


def test_a_limit_keeps_its_source_and_its_unit():
    assert limit_from(COIL, "ohms 3.15..3.45 @20C (maker: sheet 12)")[1].source == "sheet 12"
    assert limit_from(STATOR, "ab 20..35V")[1].unit == "V" and limit_from(STATOR, "ab 0.2..0.9")[1].unit == "Ω"


@pytest.mark.parametrize(
    ("line", "says"),
    [
        ("ohms", "is no limit"),
        ("ohms 3.45..3.15", "write the smaller number first"),
        ("ohms 3..4V", "in volts"),
        ("ohmz 3..4", "near it: ohms"),
        ("click 3..4", "nothing that has a limit"),
        ("ohms 3..4 @warm", "is no condition"),
        ("ohms OL..3", "is no limit"),
        ("ohms <=", "is no limit"),
        ("x" * 500, "too long"),
    ],
)
def test_what_is_no_limit_gets_one_sentence(line, says):
    with pytest.raises(ReadingError, match=says) as caught:
        limit_from(COIL, line)
    assert "\n" not in str(caught.value)


@pytest.mark.parametrize(
    ("reads", "given_settings", "says"),
    [
        ([("ohms", "3.7 @-300C")], [], "no temperature"),
        ([("ohms", "3.7 @-1K")], [], "no temperature"),
        ([("ohms", "12V")], [], "in volts, but a number of ohms"),
        ([("pull_in", "4k7")], [], "more than any vehicle circuit gives"),
        ([("click", "perhaps")], [], "yes or no is"),
        ([("ohm", "3.7")], [], "near it: ohms"),
        ([], [("sort", "magnet")], "is no answer"),
        ([], [("hot", "-300C")], "coldest there is"),
        ([], [("joint", "OL")], "a number is wanted"),
        ([], [("supply", "0")], "above nought"),
        ([], [("hot", "-150")], "no temperature"),
        ([], [("twin_within", "-5")], "a share from 0"),
        ([], [("colour", "red")], "nothing that is set"),
        ([("margin", "3")], [], "nothing that is read"),
    ],
)
def test_wrong_readings_and_settings_get_one_sentence(reads, given_settings, says):
    with pytest.raises(ReadingError, match=says) as caught:
        case_from(COIL, given_settings, reads)
    assert "\n" not in str(caught.value)


@pytest.mark.parametrize("text", ["ohms", "=3", "ohms=", ""])
def test_a_pair_wants_a_name_and_a_value(text):
    with pytest.raises(ReadingError, match="is wanted"):
        pair_of(text, "a reading")


def test_what_is_set_and_what_is_read_are_told_apart_by_their_names():
    one = case_from(family_of("capacitor"), [("look", "bulged")], [("ripple", "0.5"), ("esr", "0.2"), ("at", "70")])
    assert one.answer("look") == "bulged" and one.value("ripple") == 0.5 and one.known("at") == 70.0


@pytest.mark.parametrize(
    ("text", "first", "last"),
    [
        ("indicated,true\n250,1000\n3000,7000", (250, 1000), (3000, 7000)),
        ("true;indicated\n1000;250\n7000;3000,5", (250, 1000), (3000.5, 7000)),
        ("250\t1000\n3000\t7000", (250, 1000), (3000, 7000)),
        ("250 1000\n\n3000 7000\n", (250, 1000), (3000, 7000)),
        ("Indicated (rpm),True (rpm)\n250,1000.5\n3000,7000", (250, 1000.5), (3000, 7000)),
    ],
)
def test_points_are_read_as_they_are_pasted(text, first, last):
    rows = points_from(SCALE, text)
    assert [(row["indicated"].value, row["true"].value) for row in (rows[0], rows[-1])] == [first, last]


def test_one_column_less_is_counted():
    rows = points_from(family_of("potentiometer"), "0.5\n0.6 V\n700m")
    assert [(row["angle"].value, row["volts"].value) for row in rows] == [(0, 0.5), (1, 0.6), (2, 0.7)]


@pytest.mark.parametrize(
    ("family", "text", "says"),
    [
        (SCALE, "indicated,true\n250,1000\nmany,7000", "Line 3: 'many' is no reading"),
        (SCALE, "250,1000\n3000,7000", "decimal comma"),
        (SCALE, "indicated,speed\n1,2", "indicated, true are wanted"),
        (SCALE, "indicated,true\n1,2,3", "Line 2 has 3 values"),
        (PEDAL, "angle,one,two\n0,0.5,4k7", "Line 2"),
        (family_of("level"), "level,ohms\n0,OL", "Line 2 is over range"),
        (COIL, "1,2", "takes no points"),
        (SCALE, "indicated,true\n" + "1,1\n" * 501, "500 points are the most"),
    ],
)
def test_a_table_that_is_wrong_names_its_line(family, text, says):
    with pytest.raises(ReadingError, match=says) as caught:
        points_from(family, text)
    assert "\n" not in str(caught.value)


def test_points_one_by_one_want_every_column_as_often():
    with pytest.raises(ReadingError, match="indicated 2 times, true 1 times"):
        judged("scale", "indicated=1", "true=1", "indicated=2")


@pytest.mark.parametrize("family", FAMILIES.values(), ids=list(FAMILIES))
@settings(deadline=None)  # another process may hold this one up
@given(data=st.data())
def test_no_text_makes_a_case_fail_otherwise(family, data):
    names = [thing.name for thing in (*family.checks, *family.settings, *family.columns)] + ["twin", "leads"]
    value = st.one_of(
        st.text(max_size=10),
        st.sampled_from(
            ["0", "1", "12V", "OL", "OL(40)", "yes", "no", "-3", "1e9", "0.001", "3.7 @21C", "full", "idle", "-0.0", "1e-9", "100", "5 %"]
        ),
    )
    pairs = data.draw(st.lists(st.tuples(st.sampled_from(names), value), max_size=6))
    limits = data.draw(st.lists(st.one_of(st.text(max_size=12), st.sampled_from([f"{family.main} 1..2", "about 20", "<=5%"])), max_size=2))
    points = data.draw(
        st.one_of(
            st.just(""),
            st.text(max_size=30),
            st.lists(st.tuples(st.integers(-3, 9), st.integers(-3, 9)), min_size=1, max_size=8).map(
                lambda rows: "\n".join(f"{a} {b}" for a, b in rows)
            ),
        )
    )
    try:
        found = judged(family.name, *(f"{name}={text}" for name, text in pairs if text.strip()), limits=limits, points=points)
    except ReadingError:
        return
    assert found.next and json.dumps(found.as_json(), allow_nan=False)
    if found.chart is not None:
        drawn(found.chart)
