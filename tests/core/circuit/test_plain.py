"""The text of a sheet within its budget: what is too large, too deep or no plain data is refused in one sentence, before it is unfolded."""

from __future__ import annotations

import pytest

from pondrel.core.base.brief import MOST_QUOTED, first_unshowable, listed, quoted
from pondrel.core.base.errors import SheetError, SheetTextError
from pondrel.core.circuit.read.flaws import flaws_of
from pondrel.core.circuit.read.plain import (
    LONGEST_SHEET,
    MOST_ALIASES,
    MOST_ANCHORS,
    MOST_DEEP,
    MOST_ENTRIES,
    load_plain,
)
from pondrel.core.circuit.read.reader import LONGEST_NAME, MOST_FLAWS, MOST_OF_EACH
from pondrel.core.circuit.read.sheet import MOST_STATES, parse_sheet

from ...circuits import STEP_LIGHT


def refusal(text: str) -> str:
    with pytest.raises(SheetTextError) as caught:
        load_plain(text)
    ((_, says),) = caught.value.flaws
    return says


def bomb(levels: int, width: int) -> str:
    """A short text that unfolds to width ** levels entries."""
    lines = [f"a0: &a0 [{', '.join(['x'] * width)}]"]
    lines += [f"a{n}: &a{n} [{', '.join([f'*a{n - 1}'] * width)}]" for n in range(1, levels)]
    return "\n".join(lines)


@pytest.mark.parametrize(
    ("text", "sentence"),
    [
        (bomb(9, 9), f"at most {MOST_ENTRIES:,} entries"),
        ("\n".join(f"a{n}: &a{n} x" for n in range(MOST_ANCHORS + 1)), f"at most {MOST_ANCHORS} anchors"),
        ("a: &a x\nb: [" + ", ".join(["*a"] * (MOST_ALIASES + 1)) + "]", f"at most {MOST_ALIASES} aliases"),
        ("a: &a [*a]", "names nothing that is complete before it"),
        ("[" * (MOST_DEEP + 2) + "]" * (MOST_DEEP + 2), f"more than {MOST_DEEP} deep"),
        ("{" * 5000, "a key must be a plain name"),
        ("a: [" * 5000, "deep"),
        ("a: " * 3 + "x" * LONGEST_SHEET, f"at most {LONGEST_SHEET:,}"),
        ("title: !!bool abc", "a tag such as '!!bool'"),
        ("parts: !!omap [a: 1]", "a tag such as '!!omap'"),
        ("access: {? [a, b] : {minutes: 1}}", "a key must be a plain name"),
        ("access: {? {a: b} : {minutes: 1}}", "a key must be a plain name"),
        (f"a: 0x{'f' * 5000}", "a word or number of 5,002 characters"),
        (f"a: {'9' * 5000}", "a word or number of 5,000 characters"),
        ('title: "half a pair \\ud800"', "no screen can show (U+D800)"),
        ('title: "\\a"', "no screen can show (U+0007)"),
        ("title: \x1b[31m", "no screen can show (U+001B)"),
        ("a: 2026-99-99", "is not YAML: month must be in 1..12"),
        ("a: [", "is not YAML"),
    ],
)  # fmt: skip
def test_what_is_beyond_the_budget_gets_one_sentence(text, sentence):
    assert sentence in refusal(text)
    assert all(len(flaw.says) < 300 for flaw in flaws_of(text))


def test_a_few_anchors_and_line_ends_of_any_system_are_taken():
    assert load_plain("a: &a [1, 2]\r\nb: *a\r\n").value == {"a": [1, 2], "b": [1, 2]}
    for ends in ("\r\n", "\r"):
        assert parse_sheet(STEP_LIGHT.replace("\n", ends)).title == parse_sheet(STEP_LIGHT).title
    assert [flaw.says for flaw in flaws_of("\r")] == ["must be a mapping that starts with 'format: pondrel-sheet/1', got NoneType"]


def test_a_merge_counts_what_it_unfolds_to():
    """Merged mappings multiply as aliases do: a: {<<: [*b, *b]} over ten levels is a thousand copies."""
    lines = ["m0: &m0 {k: v}"] + [f"m{n}: &m{n} {{<<: [{', '.join([f'*m{n - 1}'] * 19)}]}}" for n in range(1, 8)]
    assert "entries" in refusal("\n".join(lines))


def flaws(text: str) -> list[str]:
    with pytest.raises(SheetError) as caught:
        parse_sheet(text)
    return [f"{path}: {says}" for path, says in caught.value.flaws]


def sheet_with(**more: str) -> str:
    return STEP_LIGHT + "".join(f"{name}: {value}\n" for name, value in more.items())


LONG = "x" * (LONGEST_NAME + 1)


@pytest.mark.parametrize(
    ("text", "sentence"),
    [
        (STEP_LIGHT.replace("  F4:", f"  {LONG}:"), f"a name has 1 to {LONGEST_NAME} characters"),
        (STEP_LIGHT.replace("b: f4.out}, rating", f"b: {LONG}}}, rating"), f"of at most {LONGEST_NAME} characters"),
        (STEP_LIGHT.replace("  idle:", f"  {LONG}:"), f"a name has 1 to {LONGEST_NAME} characters"),
        (STEP_LIGHT.replace("title: Step light, rear door", f"title: {'very ' * 100}"), "characters long; at most 200 fit"),
        (sheet_with(codes=f"{{{', '.join(f'c{n}: 1' for n in range(MOST_OF_EACH + 1))}}}"), f"at most {MOST_OF_EACH} fit on one sheet"),
        (STEP_LIGHT.replace("  idle: {S1: open}", "".join(f"  s{n}: {{}}\n" for n in range(MOST_STATES))), f"at most {MOST_STATES} fit"),
        (sheet_with(limits="[{what: {a: 1}, source: x}]"), "must be one of volts, drop, ohms, amps, got {'a': 1}"),
        (sheet_with(tests="{t: {outcomes: [Yes, yes], given: {otherwise: [0.5, 0.5]}}}"), "must list two or more different outcomes"),
        (STEP_LIGHT.replace("  idle: {S1: open}", "  1: {}\n  '1': {}"), "holds one name twice"),
    ],
)
def test_what_is_beyond_the_limits_of_a_sheet_is_named(text, sentence):
    assert any(sentence in line for line in flaws(text)), flaws(text)


def test_of_very_many_flaws_the_first_are_told_and_the_others_counted():
    parts = "".join(f"  X{n}: {{kind: nothing{n}, pins: {{}}}}\n" for n in range(300))
    told = flaws(STEP_LIGHT.replace("parts:\n", "parts:\n" + parts))
    assert len(told) == MOST_FLAWS + 1
    assert "more flaws: mend these first" in told[-1]


@pytest.mark.parametrize(
    "value",
    [["x" * 10_000], [10**6000], ["y" * 500] * 500, {"k" * 300: {"a": [1] * 100}}, {n: n for n in range(1000)}, [b"z" * 999], [object()]],
    ids=["text", "number", "list", "nested", "mapping", "bytes", "object"],
)
def test_whatever_is_quoted_is_quoted_in_eighty_characters(value):
    assert 0 < len(quoted(value)) <= MOST_QUOTED
    assert all(0 < len(quoted(each)) <= MOST_QUOTED for each in value)


def test_short_things_are_quoted_as_they_are_and_lists_end():
    assert (quoted("x"), quoted(-1), quoted(True), quoted(None)) == ("'x'", "-1", "True", "None")
    assert listed(str(n) for n in range(100)) == "0, 1, 2, 3, 4, 5, 6, 7, 8, 9, 10, 11 …"
    assert [first_unshowable(text) for text in ("ok\n\tÄ Ω 🔋", "\x00", "a\x7f", "\ud834")] == ["", "U+0000", "U+007F", "U+D834"]
