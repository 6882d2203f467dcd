"""The answers of the engine beside those that are kept of one that worked them out another way."""

from __future__ import annotations

import pytest

from .answers import answered, answers, kept, sheets

_WITHIN = 1e-6  # of a probability; logarithms of evidence are as far off as a likely suspect may be
_SHEETS = dict(sheets())


@pytest.mark.parametrize("name", [pytest.param(name, marks=[pytest.mark.slow] if "150" in name else []) for name in _SHEETS])
def test_answers_are_as_they_were(name):
    figures = kept()
    for title, found in answers(name, _SHEETS[name]):
        new, old = answered(found), figures[title]
        now, then = new["probability"], old["probability"]
        off = {fault: abs(now.get(fault, 0.0) - then.get(fault, 0.0)) for fault in now.keys() | then.keys()}
        assert max(off.values()) < _WITHIN, (title, max(off, key=lambda fault: off[fault]))
        assert new["log_evidence"] == pytest.approx(old["log_evidence"], abs=5e-6), title
        assert new["groups"] == old["groups"], title
        # Which of several equal tests comes first is no longer left to the last bit.
        assert [test[4] for test in new["next"]] == pytest.approx([test[4] for test in old["next"]], abs=1e-5), title
