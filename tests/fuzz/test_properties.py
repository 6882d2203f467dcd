"""Properties of what people type: any text at all is taken or refused in a sentence, and any numbers have an answer."""

from __future__ import annotations

import math

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from pondrel.core.base.brief import MOST_QUOTED, first_unshowable, quoted
from pondrel.core.base.errors import PondrelError
from pondrel.core.base.quantity import parse_reading
from pondrel.core.circuit.fault import parse_fault
from pondrel.core.circuit.kinds import KINDS, kinds_meant
from pondrel.core.circuit.read.flaws import flaws_of
from pondrel.core.circuit.transient import parse_step
from pondrel.core.evidence.csv_file import read_csv
from pondrel.core.evidence.line import parse_line, starts_a_line
from pondrel.core.isolate.believe.belief import update

from ..circuits import reading_of
from .test_inputs import LONGEST_SENTENCE, sentence

ANY = st.text(max_size=400) | st.text(alphabet="0123456789.,-+eEmkMRΩVAOL is→=\t'\"#&*!{}[]:\n\r", max_size=400)


@settings(max_examples=150, deadline=None)
@given(text=ANY)
def test_any_text_is_refused_in_a_sentence_or_taken(step_light, text):
    for work in (
        lambda: parse_reading(text, "V"),
        lambda: parse_reading(text, "Ω"),
        lambda: parse_fault(step_light, text),
        lambda: parse_step(text),
        lambda: parse_line(step_light, text, "lit"),
        lambda: starts_a_line(step_light, text),
        lambda: read_csv(step_light, text),
        lambda: read_csv(step_light, f"state,instrument,red,black,value\n{text}"),
    ):
        assert len(sentence(work)) < LONGEST_SENTENCE


@settings(max_examples=150, deadline=None)
@given(text=ANY, key=st.sampled_from(["title", "parts", "places", "states", "limits", "access", "observe", "codes", "tests", "supply"]))
def test_any_text_in_a_sheet_has_flaws_with_lines(text, key):
    for whole in (text, f"{key}: {text}", f"format: pondrel-sheet/1\n{key}:\n  {text}"):
        assert all(flaw.line >= 1 and flaw.says for flaw in flaws_of(whole))


SCALARS = st.text() | st.integers() | st.floats() | st.none() | st.binary()


@settings(max_examples=150, deadline=None)
@given(value=st.recursive(SCALARS, lambda inner: st.lists(inner) | st.dictionaries(st.text(), inner)))
def test_anything_is_quoted_briefly_and_can_be_shown(value):
    said = quoted(value)
    assert 0 < len(said) <= MOST_QUOTED and first_unshowable(said) == ""


@settings(max_examples=200, deadline=None)
@given(word=st.text(max_size=80))
def test_whatever_is_meant_is_a_kind(word):
    assert set(kinds_meant(word)) <= set(KINDS)


@pytest.mark.parametrize("count", [1, 3, 6])
def test_any_volts_at_all_leave_probabilities(step_light_workup, count):
    """However little readings go together: no stretch of severity may be lost, and with it the whole (seven at one lamp once did that)."""
    workup = step_light_workup
    volts = st.floats(-900, 900) | st.sampled_from([0.0, 12.6, -12.6, 6.3, 999.0, 1e-3])
    places = st.sampled_from(["f4.out", "lamp.feed", "g1", "batt+"])

    @settings(max_examples=12, deadline=None)
    @given(readings=st.lists(st.tuples(places, volts), min_size=count, max_size=count))
    def property_of(readings):
        items = tuple(reading_of(workup.sheet, "lit", "volts", place, "", f"{value:.3f}") for place, value in readings)
        belief = update(workup, items)
        assert belief.probability.sum() == pytest.approx(1.0, abs=1e-9)
        assert all(math.isfinite(number) for number in (belief.log_evidence, *belief.probability.tolist(), *belief.atoms.mass.tolist()))

    property_of()


def test_a_sentence_is_what_an_error_says():
    def refuses():
        raise PondrelError("It is so.")

    assert sentence(refuses) == "It is so." and sentence(lambda: None) == ""
