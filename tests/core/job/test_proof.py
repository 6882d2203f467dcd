"""The proof of a repair: what it lacks, what speaks against it, and what counts since when."""

from __future__ import annotations

from dataclasses import replace

import pytest

from pondrel.core.base.conditions import Conditions, Units
from pondrel.core.base.written import EntryError
from pondrel.core.check import Verdict
from pondrel.core.evidence.registry import item_of
from pondrel.core.job.entry import Entry, Struck
from pondrel.core.job.proof import TRIED, Pair, differing, proving_of
from pondrel.core.remedy.again import Cured, Retaken
from pondrel.core.remedy.checks import CHECKS

MENDED = ("remedy", {"text": "stud cleaned"})
SOMETIMES = ("complaint", {"often": "sometimes", "tries": "4 of 5"})
BRAKES = [check for check in CHECKS if check.group == "Brakes"]


def record(*written) -> list[Entry]:
    return [Entry(n, 7, None, kind, content, "Oda", f"2026-01-01T08:{n:02d}:00Z") for n, (kind, content) in enumerate(written, 1)]


def tries(good: int = 0, bad: int = 0, text: str = "") -> tuple[str, dict]:
    return "tries", {"good": str(good), "bad": str(bad), "text": text}


@pytest.fixture
def pair(step_light):
    """A pair of one reading, from its two verdicts."""
    item = item_of(step_light, "lit", "volts", "g1", "", "3.76")

    def made(after: Verdict | None, differs: str = "") -> Pair:
        was = Retaken(item, 0.02, 0.0, 0.1, (), Verdict.OUTSIDE)
        now = replace(was, verdict=after) if after else None
        entry = record(("reading", {}))[0]
        return Pair(entry, entry if after else None, "Volts at G1", was, now, differs)

    return made


def test_a_proof_lacks_the_readings_the_tries_and_the_checks(pair):
    found = proving_of(record(SOMETIMES, MENDED), [pair(None)], BRAKES)
    assert not found.holds and not found.failed
    assert found.missing[0] == "1 of 1 readings again" and found.missing[1].startswith("3 good tries in a row (it showed in 4 of 5")
    assert "firm pedal" in found.missing and found.held == ("Firm pedal", "Fluid at its mark", "Bled, and no leak")


def test_it_holds_when_all_is_there(pair):
    checks = [("checked", {"check": check.name, "result": "done", "text": ""}) for check in BRAKES]
    found = proving_of(record(SOMETIMES, MENDED, tries(2), tries(1), *checks), [pair(Verdict.WITHIN)], BRAKES, Cured((1,), 0.97))
    assert found.holds and found.cured == 0.97 and not found.held
    assert found.says == "1 of 1 readings as they should be, tried 3 times, good every time, 4 of 4 checks"


def test_what_was_tried_before_the_repair_does_not_count(pair):
    found = proving_of(record(SOMETIMES, tries(9), MENDED, tries(1)), [], [])
    assert found.tries.good == 1 and found.tries.left == 2 and not found.holds
    again = proving_of(record(SOMETIMES, MENDED, tries(3), MENDED), [], [])
    assert again.tries.good == 0


def test_a_bad_try_starts_the_count_anew_and_speaks_against_it():
    found = proving_of(record(SOMETIMES, MENDED, tries(5), tries(0, 1, "went out"), tries(4)), [], [])
    assert found.tries.good == 4 and found.tries.bad == 1 and not found.tries.enough
    assert found.failed == ("it failed again in 1 of 5 tries",) and not found.holds


def test_a_struck_try_counts_no_more():
    entries = record(SOMETIMES, MENDED, tries(0, 1, "went out"), tries(3))
    entries[2] = replace(entries[2], struck=Struck("another lamp", "Oda", ""))
    assert proving_of(entries, [], []).holds


@pytest.mark.parametrize(
    ("after", "differs", "says"),
    [
        (Verdict.TOO_CLOSE, "", "a clear number at Volts at G1"),
        (Verdict.NOT_COMPARABLE, "", "a clear number at Volts at G1"),
        (Verdict.WITHIN, "temperature not noted (it was 70°C)", "the same conditions at Volts at G1: temperature not noted (it was 70°C)"),
    ],
)
def test_a_number_that_cannot_be_compared_proves_nothing(pair, after, differs, says):
    found = proving_of(record(MENDED, tries(1)), [pair(after, differs)], [])
    assert found.missing == (says,) and not found.failed


def test_readings_outside_or_that_fit_the_old_fault_speak_against_it(pair):
    found = proving_of(record(MENDED, tries(1)), [pair(Verdict.OUTSIDE)], [], Cured((1,), 0.02))
    assert found.failed == ("Volts at G1 is outside limits", "the readings fit the old fault better than a sound circuit")
    check = ("checked", {"check": "pedal", "result": "failed", "text": "soft"})
    assert proving_of(record(MENDED, check), [], BRAKES).failed == ("firm pedal: no",)


@pytest.mark.parametrize(
    ("before", "after", "says"),
    [
        (Conditions(celsius=70.0), Conditions(celsius=72.0), ""),
        (Conditions(celsius=70.0), Conditions(celsius=20.0), "temperature 20°C, before 70°C"),
        (Conditions(celsius=70.0), Conditions(), "temperature not noted (it was 70°C)"),
        (Conditions(rpm=2000.0), Conditions(rpm=2150.0), ""),
        (Conditions(rpm=2000.0), Conditions(rpm=900.0), "engine speed 900rpm, before 2000rpm"),
        (Conditions(minutes=10.0), Conditions(minutes=1.0), "minutes 1min, before 10min"),
        (Conditions(), Conditions(celsius=20.0), ""),
    ],
)
def test_what_was_not_the_same_on_both_days_is_said(before, after, says):
    assert differing(before, after) == says


def test_conditions_are_told_in_the_units_of_the_workshop():
    assert "158°F" in differing(Conditions(celsius=70.0), Conditions(), Units(temperature="°F"))


@pytest.mark.parametrize(
    ("good", "bad", "text", "says"),
    [("", "", "", "Nothing was tried"), ("0", "0", "", "Nothing was tried"), ("-1", "", "", "whole number"),
     ("1e3", "", "", "whole number"),
     ("9999", "", "", "whole number"), ("", "1", "", "write what it did"), ("٣", "", "", "whole number")],
)  # fmt: skip
def test_tries_that_are_none_are_refused_in_a_sentence(good, bad, text, says):
    with pytest.raises(EntryError, match=says):
        TRIED.check({"good": good, "bad": bad, "text": text})


def test_the_codes_of_the_record_meet_the_checks_that_ask_for_them():
    codes = [check for check in CHECKS if check.group == "Codes"]
    scan, none = ("scan", {"codes": '[{"code":"P0562","failure":"16"}]', "text": ""}), ("scan", {"codes": "[]", "text": ""})
    cleared = ("cleared", {"text": "to see"})

    def results(*written) -> dict[str, str]:
        return {check.name: seen.result for check, seen in proving_of(record(*written), [], codes).checks if seen}

    assert results(MENDED) == {} and results(scan, MENDED) == {"saved": "done"}
    assert results(scan, cleared, none, MENDED) == {"saved": "done"}  # cleared to see whether it comes back, before anything was mended
    assert "saved" not in results(MENDED, cleared, scan)  # what was there before is lost
    assert results(scan, MENDED, cleared) == {"saved": "done", "cleared": "done"}
    assert results(scan, MENDED, cleared, none) == {"saved": "done", "cleared": "done", "away": "done"}
    back = proving_of(record(scan, MENDED, cleared, scan), [], codes)
    assert back.failed == ("no code came back: no",) and not back.holds
    ticked = ("check", {"check": "away", "result": "done", "text": ""})
    assert results(scan, MENDED, cleared, scan, ticked)["away"] == "failed"  # a tick is no match for what was read out


def test_the_functions_of_a_board_are_proved_by_their_own_list():
    checks = [check for check in CHECKS if check.name == "functions"]

    def tried(name: str, when: str, works: str) -> tuple[str, dict]:
        return "function", {"name": name, "when": when, "works": works, "text": ""}

    before = [tried("starts", "before", "yes"), tried("idles", "before", "no"), MENDED]
    assert proving_of(record(*before), [], checks).checks[0][1] is None
    half = proving_of(record(*before, tried("starts", "after", "yes")), [], checks)
    assert half.checks[0][1] is None and "every function of the list again" in half.missing
    whole = proving_of(record(*before, tried("starts", "after", "yes"), tried("idles", "after", "yes")), [], checks)
    assert whole.checks[0][1].text == "2 of 2 work" and not whole.failed
    worse = proving_of(record(*before, tried("starts", "after", "no"), tried("idles", "after", "yes")), [], checks)
    assert worse.failed == ("every function of the list again: no",)


def test_a_proof_that_is_written_down_makes_it_likely_that_the_right_part_was_mended():
    proof = ("proof", {"works": "yes", "text": "", "reason": ""})
    assert proving_of(record(MENDED), [], []).sure == 0.0
    assert proving_of(record(MENDED, proof), [], []).sure == 0.95
    assert proving_of(record(SOMETIMES, MENDED, tries(40), proof), [], []).sure > 0.99
    assert proving_of(record(proof, MENDED), [], []).sure == 0.0  # before the repair it is none


def choice(way: str) -> tuple[str, dict]:
    return "choice", {"way": way, "which": "failed", "says": f"unit: {way}", "reason": "until spring"}


def test_what_is_lived_with_is_no_cure_and_asks_for_none_of_a_repairs_readings_and_checks(pair):
    proof = ("proof", {"works": "yes", "text": "", "reason": ""})
    around = proving_of(record(SOMETIMES, choice("power_cycle"), MENDED), [pair(None)], BRAKES, Cured((1,), 0.02))
    assert not around.cures and around.pairs == () and around.checks == () and not around.failed
    assert around.missing == ("1 good try in a row (it is no repair)",)
    once = proving_of(record(SOMETIMES, choice("power_cycle"), MENDED, tries(1)), [pair(None)], BRAKES)
    assert once.holds and once.says == "no repair: it is lived with, tried once, good"
    assert proving_of(record(choice("power_cycle"), MENDED, tries(1), proof), [], []).sure == 0.0  # it says nothing of the part
    bad = proving_of(record(choice("power_cycle"), MENDED, tries(1), tries(0, 1, "stayed dark")), [], [])
    assert bad.failed == ("the way round did not work in 1 of 1 tries",)
    assert proving_of(record(choice("leave"), MENDED), [pair(None)], BRAKES).holds  # there is nothing to try
    assert proving_of(record(choice("new"), MENDED), [pair(None)], []).cures
