"""The room for wires by themselves."""

from __future__ import annotations

import pytest

from .test_library import text_of


def test_one_drop_is_answered_with_ohms_heat_and_a_verdict(client):
    page = text_of(client.get("/wires", query_string={"lost": "0,42", "through": "8 A", "load": "lamp", "stretch": "wire or switch"}))
    assert "52.5 mΩ and 3.36 W of heat" in page and "outside limits" in page and "loses 11 % of its light" in page


def test_a_section_is_answered_with_its_table_and_where_that_comes_from(client):
    page = text_of(client.get("/wires", query_string={"length": "4 m", "current": "120 W", "supply": "24 V"}))
    assert "behind a fuse of" in page and "common practice, no source" in page and "IEC 60228" in page


@pytest.mark.parametrize(
    ("given", "says"),
    [
        ({"length": "far", "current": "10 A"}, "a length such as 2.5 m is wanted"),
        ({"length": "4 m"}, "Length and current are wanted"),
        ({"lost": "lots", "through": "8 A"}, "is no reading"),
        ({"lost": "0.4"}, "The current is not known"),
        ({"lost": "40", "through": "8 A"}, "cannot be lost"),
        ({"length": "4", "current": "10 A", "bundle": "<b>"}, "How it lies is one of"),
    ],
)  # fmt: skip
def test_a_wrong_answer_gets_a_sentence_and_stays_in_its_field(client, given, says):
    answer = client.get("/wires", query_string=given)
    assert answer.status_code == 200 and says in text_of(answer).replace("&#39;", "'")
    for name in ("length", "lost"):
        assert name not in given or f'value="{given[name]}"' in answer.get_data(as_text=True)
